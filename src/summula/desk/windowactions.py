"""Every action of the window, declared once: its name, hint, key and condition."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING

from summula.desk.actions import Action, Actions
from summula.desk.pictures import ALL_FORMATS

if TYPE_CHECKING:
    from summula.desk.window import Window


def declare(window: Window, actions: Actions) -> None:
    """Declares them; what they ask of a page is asked when they run, for pages are made late."""
    session = window.session

    def kind() -> str:
        page = session.page()
        return page[0] if page is not None else ""

    def add(
        key: str,
        name: str,
        hint: str,
        run: Callable[[], object],
        *keys: str,
        when: Callable[[], bool] = lambda: True,
    ) -> None:
        actions.declare(Action(key, name, hint, run, keys, when))

    def has_table() -> bool:
        return bool(session.folio.tables)

    def on_table() -> bool:
        return kind() == "table"

    def on_summary() -> bool:
        return kind() == "summary"

    def on_board() -> bool:
        return kind() == "board" and not window.header.aside

    add("open", "Open a file", "a table (CSV, XLSX, Parquet, SQLite …) or a folio", window.ask_open, "Ctrl+O")
    add("paste", "Paste cells as a table", "or a copied file", window.importing.paste, "Ctrl+Shift+V")
    add("again", "Read this table again", "from its source", window.importing.read_again, "F5", when=has_table)
    add("refresh", "Refresh all tables", "from their sources", window.importing.refresh_all, "Shift+F5", when=has_table)
    add(
        "starting points",
        "Summaries worth asking for",
        "of the table in view",
        lambda: window.table_page.show_starting_points(),
        "Ctrl+Shift+A",
        when=on_table,
    )
    add("add rows", "Add rows of other files …", "", lambda: window.table_page.ask_rows(), when=on_table)
    add(
        "add step",
        "Add a step to the preparation …",
        "",
        lambda: window.table_page.step_maker.choose(window.table_page.strip),
        "Ctrl+Shift+P",
        when=on_table,
    )
    add("search rows", "Search the rows", "", lambda: window.table_page.search.setFocus(), "Ctrl+F", when=on_table)
    add(
        "describe",
        "Load descriptions of fields …",
        "a data dictionary",
        window.importing.load_descriptions,
        when=on_table,
    )
    add("save", "Save the folio", "", window.saving.save, "Ctrl+S")
    add("save as", "Save the folio as …", "under another name", window.saving.save_as, "Ctrl+Shift+S")
    add(
        "undo",
        "Undo",
        "take back the last change",
        lambda: window.go_to(session.history.undo()),
        "Ctrl+Z",
        when=lambda: bool(session.history.undo_name),
    )
    add(
        "redo",
        "Redo",
        "do again what was taken back",
        lambda: window.go_to(session.history.redo()),
        "Ctrl+Shift+Z",
        "Ctrl+Y",
        when=lambda: bool(session.history.redo_name),
    )
    add("find", "Find anything", "fields, pages, actions", window.find_anything, "Ctrl+K")
    add(
        "new summary",
        "New summary",
        "of the table in view",
        lambda: session.new_summary(session.default_table()),
        "Ctrl+N",
        when=has_table,
    )
    add("new board", "New board", "an empty one", session.new_board, "Ctrl+Shift+N", when=has_table)
    add(
        "remove page",
        "Remove this page",
        "a summary or board",
        lambda: session.remove_page(session.page_id),
        when=lambda: kind() in ("summary", "board"),
    )
    add("next page", "Next page", "", lambda: window.step_page(1), "Ctrl+PgDown", when=lambda: kind() != "")
    add(
        "previous page",
        "Previous page",
        "",
        lambda: window.step_page(-1),
        "Ctrl+PgUp",
        when=lambda: kind() != "",
    )
    add(
        "type phrase",
        "Type the phrase",
        "as text",
        lambda: window.summary_page.phrase.show_text(),
        "F2",
        when=on_summary,
    )
    add(
        "look out",
        "Back out of the member looked into",
        "",
        lambda: window.summary_page.grid_actions.back(),
        "Alt+Left",
        when=lambda: on_summary() and bool(window.summary_page.grid_actions.drilled()),
    )
    add("fold all", "Fold all", "", lambda: window.summary_page.grid_actions.fold_all(), when=on_summary)
    add("unfold all", "Unfold all", "", lambda: window.summary_page.grid_actions.unfold_all(), when=on_summary)
    add(
        "largest first",
        "Largest first",
        "order by the first figure",
        lambda: window.summary_page.grid_actions.largest_first(),
        when=on_summary,
    )
    add("swap", "Swap by and across", "", lambda: window.summary_page.swap(), when=on_summary)
    add(
        "put on board",
        "Put this summary on a board",
        "",
        lambda: window.summary_page.put_on_board(),
        "Ctrl+B",
        when=on_summary,
    )
    add(
        "arrange",
        "Arrange the board",
        "or be done with it",
        lambda: window.board_page.set_arranging(not session.arranging),
        "Ctrl+E",
        when=on_board,
    )
    add(
        "read",
        "Read the board",
        "",
        lambda: window.board_page.set_arranging(False),
        "Escape",
        when=lambda: on_board() and session.arranging,
    )
    add(
        "clear slicing",
        "Clear slicing",
        "let all rows through",
        lambda: window.board_page.clear_slicing(),
        "Ctrl+Shift+X",
        when=lambda: on_board() and window.board_page.is_sliced,
    )
    add(
        "rows behind",
        "Rows behind this figure",
        "",
        lambda: window.summary_page.grid_actions.show_rows_behind(),
        "Ctrl+R",
        when=lambda: on_summary() and window.summary_page.grid is not None,
    )
    for each in ALL_FORMATS:
        add(
            f"hand out {each.key}",
            f"{each.words} …",
            "",
            partial(window.exporting.export, each),
            when=partial(window.exporting.can, each),
        )
    add(
        "copy figures",
        "Copy the figures",
        "as cells",
        lambda: window.summary_page.pivot.copy(),
        when=lambda: on_summary() and window.summary_page.pivot.layout_ is not None,
    )
    add("copy phrase", "Copy the phrase", "as text", lambda: window.summary_page.copy_phrase(), when=on_summary)
    add(
        "copy picture",
        "Copy the grid as a picture",
        "",
        lambda: window.summary_page.pivot.copy_picture(),
        when=lambda: on_summary() and window.summary_page.pivot.layout_ is not None,
    )
    add(
        "lever",
        "Make a lever",
        "a number to move, for what if",
        lambda: window.summary_page.summary_margin.change_lever(None, window.header.finder),
        when=on_summary,
    )
    add(
        "totals",
        "Totals and measures",
        "above, below, renamed; as lines",
        lambda: window.summary_page.summary_margin.arrange(window.summary_page.toolbar),
        when=on_summary,
    )
    add(
        "path",
        "What members are looked into by",
        "the path of a double click",
        lambda: window.summary_page.summary_margin.lay_path(window.summary_page.toolbar),
        when=on_summary,
    )
