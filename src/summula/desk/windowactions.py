"""Every action of the window, a row each in a table a page: its name, hint, what it does, its keys and condition."""

from __future__ import annotations

from collections.abc import Callable, Iterator
from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from summula.core.boards.boardstate import BoardState
from summula.desk.actions import Action
from summula.desk.board.arranger import EDGES
from summula.desk.board.boardlook import open_links
from summula.desk.finding.catalogue import ActionWords
from summula.desk.pictures import ALL_FORMATS

if TYPE_CHECKING:
    from summula.desk.window import Window

Asks = Callable[["Window"], bool]


def _always(window: Window) -> bool:
    return True


def _kind(window: Window) -> str:
    page = window.session.page()
    return page[0] if page is not None else ""


def _has_table(window: Window) -> bool:
    return bool(window.session.folio.tables)


def _on_page(window: Window) -> bool:
    return _kind(window) != ""


def _on_table(window: Window) -> bool:
    return _kind(window) == "table"


def _on_summary(window: Window) -> bool:
    return _kind(window) == "summary"


def _on_board(window: Window) -> bool:
    return _kind(window) == "board" and not window.header.aside


def _answered(window: Window) -> bool:
    return _on_summary(window) and window.pages.summary.grid is not None


def _shows_grid(window: Window) -> bool:
    return _on_summary(window) and window.pages.summary.pivot.layout_ is not None


def _arranging(window: Window) -> bool:
    return _on_board(window) and window.session.board_state.arranging and bool(window.pages.board.arranger.selection)


def _presenting(window: Window) -> bool:
    return _on_board(window) and window.session.board_state.presenting


def _has_panel(window: Window) -> bool:
    reading = _on_board(window) and not window.session.board_state.arranging
    return reading and bool(window.pages.board.acting.in_hand())


def _several(window: Window) -> bool:
    return _arranging(window) and len(window.pages.board.arranger.selection) > 1


class _Row(NamedTuple):
    """`run` and `when` ask the window when they are asked themselves: its pages are made late."""

    key: str
    name: str
    hint: str
    run: Callable[[Window], object]
    keys: tuple[str, ...] = ()
    when: Asks = _always
    late: bool = False


FOLIO = (
    _Row("open", "Open a file", "a table (CSV, XLSX, Parquet, SQLite …) or a folio", lambda w: w.opening.ask(), ("Ctrl+O",)),
    _Row("paste", "Paste cells as a table", "or a copied file", lambda w: w.importing.paste(), ("Ctrl+Shift+V",)),
    _Row("refresh", "Refresh all tables", "from their sources", lambda w: w.importing.refresh_all(), ("Shift+F5",), _has_table),
    _Row("save", "Save the folio", "", lambda w: w.saving.save(), ("Ctrl+S",)),
    _Row("save as", "Save the folio as …", "under another name", lambda w: w.saving.save_as(), ("Ctrl+Shift+S",)),
    _Row("recent", "Recent folios …", "those that were open last",
         lambda w: w.keeping.choose_recent(w.header.finder, lambda path: w.opening.open_path(path))),
    _Row("versions", "Earlier versions of this folio …", "how it was before it was saved",
         lambda w: w.saving.choose_version(w.header.finder, w.keeping.open_copy), when=lambda w: w.session.path is not None),
    _Row("unsaved", "Unsaved work …", "left when the program ended unexpectedly",
         lambda w: w.keeping.choose_unsaved(w.header.finder)),
    _Row("remove unsaved", "Remove unsaved work …", "delete it permanently",
         lambda w: w.keeping.choose_removed(w.header.finder)),
    _Row("undo", "Undo", "undo the last change", lambda w: w.go_to(w.session.history.undo()), ("Ctrl+Z",),
         lambda w: bool(w.session.history.undo_name)),
    _Row("redo", "Redo", "redo the last undone change", lambda w: w.go_to(w.session.history.redo()), ("Ctrl+Shift+Z", "Ctrl+Y"),
         lambda w: bool(w.session.history.redo_name)),
    _Row("find", "Find anything", "fields, pages, actions", lambda w: w.find_anything(), ("Ctrl+K",)),
    _Row("manual", "Manual", "help on what is shown", lambda w: w.asides.open_manual(aside=w.header.aside), ("F1",)),
    _Row("tour", "Tour of the demo", "six steps", lambda w: w.begin_tour()),
    _Row("link tables", "Link tables", "match fields of two tables", lambda w: open_links(w.header.finder, w.session),
         when=lambda w: len(w.session.folio.tables) > 1),
    _Row("new summary", "New summary", "of the table in view", lambda w: w.session.new_summary(w.session.default_table()),
         ("Ctrl+N",), _has_table),
    _Row("new board", "New board", "an empty one", lambda w: w.session.new_board(), ("Ctrl+Shift+N",), _has_table),
    _Row("hand out", "Export …", "PDF, HTML, book, print; with a preview", lambda w: w.asides.hand_out(), ("Ctrl+P",),
         _on_page),
    _Row("remove page", "Remove this page", "a summary or board", lambda w: w.session.remove_page(w.session.page_id),
         when=lambda w: _kind(w) in ("summary", "board")),
    _Row("next page", "Next page", "", lambda w: w.step_page(1), ("Ctrl+PgDown",), _on_page),
    _Row("previous page", "Previous page", "", lambda w: w.step_page(-1), ("Ctrl+PgUp",), _on_page),
)  # fmt: skip
TABLE = (
    _Row("again", "Read this table again", "from its source", lambda w: w.importing.read_again(), ("F5",), _has_table),
    _Row("starting points", "Suggested summaries", "of the table in view", lambda w: w.pages.table.show_starting_points(),
         ("Ctrl+Shift+A",), _on_table),
    _Row("add rows", "Append rows of other files …", "", lambda w: w.pages.table.ask_rows(), when=_on_table),
    _Row("add step", "Add a step to the preparation …", "", lambda w: w.pages.table.step_maker.choose(w.pages.table.strip),
         ("Ctrl+Shift+P",), _on_table),
    _Row("search rows", "Search the rows", "", lambda w: w.pages.table.finding.search.setFocus(), ("Ctrl+F",), _on_table),
    _Row("describe", "Load descriptions of fields …", "a data dictionary", lambda w: w.importing.load_descriptions(), when=_on_table),
)  # fmt: skip
SUMMARY = (
    _Row("type phrase", "Edit phrase as text", "with completion", lambda w: w.pages.summary.phrase.show_text(), ("F2",), _on_summary),
    _Row("look out", "Drill up", "", lambda w: w.pages.summary.grid_actions.back(), ("Alt+Left",),
         lambda w: _on_summary(w) and bool(w.pages.summary.grid_actions.drilled())),
    _Row("fold all", "Collapse all", "", lambda w: w.pages.summary.grid_actions.fold_all(), when=_on_summary),
    _Row("unfold all", "Expand all", "", lambda w: w.pages.summary.grid_actions.unfold_all(), when=_on_summary),
    _Row("largest first", "Largest first", "sort by the first measure", lambda w: w.pages.summary.grid_actions.largest_first(),
         when=_on_summary),
    _Row("figures", "Show this chart as a grid, and back", "without changing the phrase",
         lambda w: w.pages.summary.swap_figures(), ("Ctrl+G",), lambda w: _answered(w) and w.pages.summary.can_swap_figures),
    _Row("choose form", "Change chart type", "from small previews", lambda w: w.pages.summary.choose_form(w.pages.summary.phrase),
         ("Ctrl+D",), _on_summary),
    _Row("copy style", "Copy style", "of this chart", lambda w: w.pages.summary.chart_actions.copy_style(),
         ("Ctrl+Alt+C",), _on_summary),
    _Row("paste style", "Paste style", "the copied style, on this chart", lambda w: w.pages.summary.chart_actions.paste_style(),
         ("Ctrl+Alt+V",), lambda w: _on_summary(w) and w.pages.summary.chart_actions.copied_style is not None),
    _Row("default style", "Use this style for new charts", "in this folio", lambda w: w.pages.summary.chart_actions.make_default_style(),
         when=_on_summary),
    _Row("plain style", "Reset style", "remove all style settings", lambda w: w.pages.summary.chart_actions.plain_style(),
         when=_on_summary),
    _Row("palette", "Palette of this folio …", "the colours of all charts",
         lambda w: w.pages.summary.summary_margin.choose_palette(w.pages.summary.toolbar), when=_on_summary),
    _Row("swap", "Swap rows and columns", "", lambda w: w.pages.summary.swap(), when=_on_summary),
    _Row("put on board", "Add this summary to a board", "", lambda w: w.pages.summary.put_on_board(), ("Ctrl+B",), _on_summary),
    _Row("rows behind", "Rows behind this figure", "", lambda w: w.pages.summary.grid_actions.show_rows_behind(), ("Ctrl+R",),
         _answered),
    _Row("copy values", "Copy values", "as cells", lambda w: w.pages.summary.pivot.copy(), when=_shows_grid),
    _Row("copy phrase", "Copy the phrase", "with completion", lambda w: w.pages.summary.copy_phrase(), when=_on_summary),
    _Row("copy picture", "Copy grid as picture", "", lambda w: w.pages.summary.pivot.copy_picture(), when=_shows_grid),
    _Row("lever", "Make a lever", "a number you can change, for what-if",
         lambda w: w.pages.summary.summary_margin.change_lever(None, w.header.finder), when=_on_summary),
    _Row("totals", "Totals and measures", "positions and labels",
         lambda w: w.pages.summary.summary_margin.arrange(w.pages.summary.toolbar), when=_on_summary),
    _Row("path", "Drill order", "what double-clicking drills into",
         lambda w: w.pages.summary.summary_margin.lay_path(w.pages.summary.toolbar), when=_on_summary),
)  # fmt: skip
BOARD = (
    _Row("arrange", "Arrange board", "edit the layout, or finish", lambda w: w.pages.board.set_arranging(not w.session.board_state.arranging),
         ("Ctrl+E",), _on_board),
    _Row("read", "Finish arranging", "also ends highlights and play", lambda w: w.read_board(), ("Escape",),
         lambda w: _on_board(w) and w.session.board_state != BoardState(), late=True),
    _Row("reach", "Which slicers affect which panels", "the reach of all slicers", lambda w: w.pages.board.slicing.open_reach(w.header.finder),
         ("Ctrl+Shift+R",), lambda w: _on_board(w) and w.pages.board.has_reach),
    _Row("slicings", "Saved selections", "save, apply, remove", lambda w: w.pages.board.slicing.open_kept(w.header.finder),
         ("Ctrl+Shift+K",), _on_board),
    _Row("play", "Play or pause", "step through time", lambda w: w.pages.board.playing.begin(), ("Space",),
         lambda w: _on_board(w) and not w.session.board_state.arranging and w.pages.board.can_play, late=True),
    _Row("present", "Present board", "full screen; Escape ends it", lambda w: w.present(not w.session.board_state.presenting), ("F11",),
         _on_board),
    _Row("next board", "Next board", "while presenting", lambda w: w.step_board(1), ("Right", "PgDown"), _presenting, late=True),
    _Row("previous board", "Previous board", "while presenting", lambda w: w.step_board(-1), ("Left", "PgUp"), _presenting, late=True),
    _Row("copy panels", "Copy the selected panels", "for this board, another, or another folio", lambda w: w.pages.board.arranger.copy(),
         ("Ctrl+C",), _arranging, late=True),
    _Row("cut panels", "Cut the selected panels", "", lambda w: w.pages.board.arranger.cut(), ("Ctrl+X",), _arranging, late=True),
    _Row("paste panels", "Paste panels", "from the clipboard", lambda w: w.pages.board.arranger.paste(), ("Ctrl+V",),
         lambda w: _on_board(w) and w.session.board_state.arranging and w.pages.board.arranger.can_paste, late=True),
    _Row("duplicate panels", "Duplicate the selected panels", "", lambda w: w.pages.board.arranger.duplicate(), ("Ctrl+Alt+D",), _arranging, late=True),
    _Row("lock panels", "Lock or unlock the selected panels", "", lambda w: w.pages.board.arranger.lock(), ("Ctrl+L",), _arranging, late=True),
    _Row("all panels", "Select all panels", "", lambda w: w.pages.board.arranger.select_all(), ("Ctrl+A",),
         lambda w: _on_board(w) and w.session.board_state.arranging, late=True),
    *(_Row(f"align {edge}", f"Align {words}", "of the selected panels, at the first",
           partial(lambda edge, w: w.pages.board.arranger.align(edge), edge), (keys,), _several, late=True) for (edge, words), keys in zip(
        EDGES, ("Alt+Shift+L", "Alt+Shift+C", "Alt+Shift+R", "Alt+Shift+T", "Alt+Shift+M", "Alt+Shift+B"), strict=True)),
    _Row("same size", "Make the selected panels the same size", "as the first", lambda w: w.pages.board.arranger.equalise(width=True, height=True),
         ("Alt+Shift+S",), _several, late=True),
    _Row("gaps across", "Equal gaps across", "between the selected panels", lambda w: w.pages.board.arranger.distribute(down=False),
         ("Alt+Shift+H",), _several, late=True),
    _Row("gaps down", "Equal gaps down", "between the selected panels", lambda w: w.pages.board.arranger.distribute(down=True),
         ("Alt+Shift+V",), _several, late=True),
    _Row("copy panel", "Copy panel", "as a picture", lambda w: w.pages.board.acting.copy(), when=_has_panel),
    _Row("export panel", "Export panel …", "alone", lambda w: w.asides.hand_out(w.pages.board.acting.in_hand()), when=_has_panel),
    _Row("slice by echo", "Slice by the highlighted member", "keep only its rows", lambda w: w.pages.board.echoing.slice(), ("S",),
         lambda w: _on_board(w) and w.session.board_state.echo is not None, late=True),
    _Row("clear slicing", "Clear slicing", "remove all selections", lambda w: w.pages.board.slicing.clear(), ("Ctrl+Shift+X",),
         lambda w: _on_board(w) and w.pages.board.is_sliced),
)  # fmt: skip


def declared(window: Window) -> Iterator[Action]:
    """All actions of a window, those that hand out among them."""
    for row in (*FOLIO, *TABLE, *SUMMARY, *BOARD):
        run, when = partial(row.run, window), partial(row.when, window)
        yield Action(row.key, row.name, row.hint, run, row.keys, when, row.late)
    for way in ALL_FORMATS:
        export, can = partial(window.exporting.export, way), partial(window.exporting.can, way)
        yield Action(f"hand out {way.key}", f"{way.words} …", way.hint, export, (), can)
        if way.takes == "page":
            steps = partial(window.exporting.export_steps, way)
            words = f"Pictures of each step of play ({way.name}) …"
            yield Action(f"hand out steps {way.key}", words, "one file per step", steps, (), window.exporting.can_step)


def action_words() -> Iterator[ActionWords]:
    """What every action is found by, without a window."""
    for row in (*FOLIO, *TABLE, *SUMMARY, *BOARD):
        yield ActionWords(row.key, row.name, row.hint, row.keys)
    for way in ALL_FORMATS:
        yield ActionWords(f"hand out {way.key}", f"{way.words} …", way.hint)
