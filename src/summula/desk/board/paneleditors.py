"""The desk's side of the kinds of panels, one row each: what the margin offers, and how one is put on a board."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import Any

import msgspec
from msgspec.structs import replace
from PyQt6.QtWidgets import QLineEdit, QPlainTextEdit, QWidget

from summula.core.boards.arrangement import free_place, with_panel, with_panel_changed
from summula.core.boards.board import (
    Board,
    FramePanel,
    KeyFigurePanel,
    LeverPanel,
    NotePanel,
    Panel,
    PicturePanel,
    Place,
    RulePanel,
    SlicerPanel,
    SourcesPanel,
    SummaryPanel,
)
from summula.core.boards.panelkinds import PANEL_KINDS, kind_of
from summula.core.charts.inforce import in_force
from summula.core.charts.settings import BY_KEY, Setting, default_of, heeded, in_words, value_of
from summula.core.charts.style import ChartStyle, Emphasis
from summula.core.folio.model import Folio, Summary, taken_id, with_board
from summula.core.phrases.editing import default_aggregate
from summula.core.phrases.phrase import Aggregate, Measure
from summula.core.refusal import shortened
from summula.core.slicing.slicerkinds import slicer_kind, slicer_name
from summula.core.tables.field import MEASURED
from summula.desk.board.pictureasking import ask_picture
from summula.desk.frame.marginblocks import Block, Pair
from summula.desk.phrase.phrasewords import measure_words
from summula.desk.phrase.popoverparts import field_choices
from summula.desk.session import Session
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button
from summula.desk.widgets.popover import Popover
from summula.desk.widgets.stylepopover import StylePopover

_SHORT = 22  # letters of a value in the margin

Put = Callable[[Panel], None]


class PanelEditor(msgspec.Struct, frozen=True):
    """`offer`: the words of the offer in the margin. `choices`: what one can be made of, None where of nothing; `make`
    makes it of a choice, with its id and place; `blocks`: what the margin offers for one; `live`: what is moved by hand
    on the board itself, which has `follow(session)`; `fetch`: from a choice to what it is made of, where that comes
    from elsewhere."""

    offer: str
    choices: Callable[[Session, Board], list[Pick] | None]
    make: Callable[[Session, Folio, Any, str, Place], Panel]
    blocks: Callable[[Session, Board, Any], list[Block]]
    live: Callable[[Session, Any], QWidget | None] = lambda session, panel: None
    fetch: Callable[[QWidget, Session, Any], Any] = lambda anchor, session, choice: choice


def change_text(anchor: QWidget, session: Session, board: Board, panel: Panel, what: str, title: str) -> None:
    """A popover with one line of text."""
    popover = Popover(anchor, title, 300)
    line = QLineEdit(getattr(panel, what))
    line.setAccessibleName(what)

    def take() -> None:
        popover.close()
        changed = with_panel_changed(board, panel.id, **{what: " ".join(line.text().split())})
        session.set_board(changed, f"Change the {what}")

    line.returnPressed.connect(take)
    popover.column.addWidget(line)
    popover.open_below(anchor)
    line.setFocus()
    line.selectAll()


# -- summaries ------------------------------------------------------------------------------------------------


def _summary_choices(session: Session, board: Board) -> list[Pick]:
    return [Pick(each.name, each.id, each.phrase.form) for each in session.folio.summaries]


def _summary(session: Session, folio: Folio, choice: str, panel_id: str, place: Place) -> Panel:
    return SummaryPanel(panel_id, place, choice, folio.summary(choice).name)


def _summary_blocks(session: Session, board: Board, panel: SummaryPanel) -> list[Block]:
    shown = next((each for each in session.folio.summaries if each.id == panel.summary), None)

    def toggle(_: QWidget) -> None:
        words = "A click highlights" if panel.slices else "A click slices"
        session.set_board(with_panel_changed(board, panel.id, slices=not panel.slices), words)

    blocks: list[Block] = [
        Pair("A click on a mark", f"{'slices the board' if panel.slices else 'highlights'} ▾", toggle),
        Pair(
            "Subtitle",
            f"{shortened(panel.line, _SHORT) if panel.line else 'none'} ▾",
            lambda at: change_text(at, session, board, panel, "line", "Subtitle"),
            by_default=not panel.line,
        ),
        Pair("Shows", shown.name if shown is not None else "missing"),
    ]
    if shown is not None and BY_KEY["emphasis.end"].heeded_by(shown.phrase.form):
        own = panel.emphasis
        words = _emphasis_words(shown.style.emphasis if own is None else own)
        change = partial(_change_emphasis, session=session, board=board, panel=panel)
        blocks.append(Pair("Highlight", f"{words} ▾", change, by_default=own is None))
    for name in ("words", "labels", "legend"):
        if shown is None:
            break
        settings = _overrulable(shown, name)
        if settings:
            own_group = getattr(panel, name)
            style = shown.style if own_group is None else replace(shown.style, **{name: own_group})
            change_group = _overruler(session, board, panel, name, settings)
            words = _group_words(settings, style)
            blocks.append(Pair(settings[0].group, f"{words} ▾", change_group, by_default=own_group is None))
    return blocks


def _emphasis_words(emphasis: Emphasis) -> str:
    ends = dict(BY_KEY["emphasis.end"].choices)
    return f"{ends[emphasis.end]} {emphasis.number}" if emphasis.end in ("top", "bottom") else ends[emphasis.end]


def _group_words(settings: list[Setting], style: ChartStyle) -> str:
    """What a group of settings comes to: what was set in it, else its defaults."""
    values = [(each, value_of(style, each.key)) for each in settings]
    changed = [in_words(each, value) for each, value in values if value != default_of(each.key)]
    return shortened(" · ".join(changed), _SHORT) if changed else in_force(settings[0].group, settings, None)


def _overrulable(summary: Summary, group: str) -> list[Setting]:
    """The settings of a group that a panel may say otherwise: those that the summary's form heeds."""
    return [each for each in heeded(summary.phrase.form) if each.key.split(".")[0] == group]


def _overruler(
    session: Session, board: Board, panel: SummaryPanel, group: str, settings: list[Setting]
) -> Callable[[QWidget], None]:
    """Opens the settings of a group for this panel alone."""

    def change(anchor: QWidget) -> None:
        style = session.folio.summary(panel.summary).style
        own = getattr(panel, group)

        def put(new: ChartStyle, key: str, typing: bool) -> None:
            said = getattr(new, group)
            kept = None if said == getattr(style, group) else said
            now = session.folio.board(board.id)
            session.set_board(with_panel_changed(now, panel.id, **{group: kept}), settings[0].group, going_on=typing)

        shown = style if own is None else replace(style, **{group: own})
        StylePopover(anchor, settings[0].group, settings, shown, put).open_below(anchor)

    return change


def _change_emphasis(anchor: QWidget, session: Session, board: Board, panel: SummaryPanel) -> None:
    popover = Popover(anchor, "Highlighted", 200)
    tops = (Pick(f"the top {n}", Emphasis("top", n)) for n in (1, 3, 5, 10))
    choices = [Pick("as in the summary", None), Pick("none", Emphasis()), *tops]
    picks = PickList(choices, name="how many", search=False)

    def take(emphasis: Emphasis | None) -> None:
        popover.close()
        session.set_board(with_panel_changed(board, panel.id, emphasis=emphasis), "What to highlight")

    picks.picked.connect(take)
    popover.column.addWidget(picks)
    popover.open_below(anchor)
    picks.focus_in()


# -- key figures ----------------------------------------------------------------------------------------------


def _figure_choices(session: Session, board: Board) -> list[Pick]:
    table_id = session.default_table()
    if not table_id:
        return []
    return [Pick("rows", "", "how many rows"), *field_choices(session.table(table_id), (*MEASURED, "code"))]


def _figure(session: Session, folio: Folio, choice: str, panel_id: str, place: Place) -> Panel:
    table_id = session.default_table()
    table = session.table(table_id)
    measure = Measure(default_aggregate(table, choice) if choice else Aggregate("rows"))
    dates = [field.name for field in table.fields if field.kind == "date"]
    return KeyFigurePanel(panel_id, place, table_id, measure, dates[0] if dates else None, choice or "Rows")


def _figure_blocks(session: Session, board: Board, panel: KeyFigurePanel) -> list[Block]:
    return [Pair("Shows", measure_words(panel.measure, ()))]


# -- notes ----------------------------------------------------------------------------------------------------


def _note(session: Session, folio: Folio, choice: Any, panel_id: str, place: Place) -> Panel:
    return NotePanel(panel_id, place, "Write a note for your readers.", "Note", session.default_table())


def _note_blocks(session: Session, board: Board, panel: NotePanel) -> list[Block]:
    return [Pair("Text", "write ▾", lambda anchor: _write(anchor, session, board, panel))]


def _write(anchor: QWidget, session: Session, board: Board, panel: NotePanel) -> None:
    popover = Popover(anchor, "Text", 340)
    text = QPlainTextEdit(panel.text)
    text.setAccessibleName("text of the note")
    text.setTabChangesFocus(True)
    text.setMinimumHeight(160)
    done = Button("Add to board")
    done.setProperty("strong", "true")

    def take() -> None:
        popover.close()
        session.set_board(with_panel_changed(board, panel.id, text=text.toPlainText().strip()), "Write a note")

    done.clicked.connect(take)
    popover.column.addWidget(text)
    popover.column.addWidget(done)
    popover.open_below(anchor)
    text.setFocus()


# -- levers and slicers ---------------------------------------------------------------------------------------


def _lever_choices(session: Session, board: Board) -> list[Pick]:
    return [Pick(each.name, each.name, each.text()) for each in session.folio.levers]


def _lever(session: Session, folio: Folio, choice: str, panel_id: str, place: Place) -> Panel:
    return LeverPanel(panel_id, place, choice, choice)


def _lever_live(session: Session, panel: LeverPanel) -> QWidget | None:
    from summula.desk.board.leverview import LeverView

    lever = next((each for each in session.folio.levers if each.name == panel.lever), None)
    return LeverView(session, lever) if lever is not None else None


def _slicer_choices(session: Session, board: Board) -> list[Pick]:
    taken = {kind_of(panel).uses(panel).slicer for panel in board.panels}
    return [Pick(slicer_name(each), each.id, slicer_kind(each).word) for each in board.slicers if each.id not in taken]


def _slicer(session: Session, folio: Folio, choice: str, panel_id: str, place: Place) -> Panel:
    slicer = next(each for board in folio.boards for each in board.slicers if each.id == choice)
    return SlicerPanel(panel_id, place, choice, slicer.table, slicer_name(slicer))


# -- pictures, lines, framed areas ----------------------------------------------------------------------------


def _picture_choices(session: Session, board: Board) -> list[Pick]:
    return [*(Pick(each.name, each.id, "") for each in session.folio.pictures), Pick("From a file …", "", "")]


def _picture(session: Session, folio: Folio, choice: str, panel_id: str, place: Place) -> Panel:
    name = next((each.name for each in folio.pictures if each.id == choice), "Picture")
    return PicturePanel(panel_id, place, choice, name)


def _picture_blocks(session: Session, board: Board, panel: PicturePanel) -> list[Block]:
    def fainter(_: QWidget) -> None:
        steps = (1.0, 0.7, 0.4, 0.2)
        after = steps[(steps.index(panel.strength) + 1) % len(steps)] if panel.strength in steps else 1.0
        session.set_board(with_panel_changed(board, panel.id, strength=after), "Picture opacity")

    return [Pair("Opacity", f"{panel.strength * 100:.0f}% ▾", fainter)]


def _rule_blocks(session: Session, board: Board, panel: RulePanel) -> list[Block]:
    def turn(_: QWidget) -> None:
        session.set_board(with_panel_changed(board, panel.id, upright=not panel.upright), "Turn line")

    return [Pair("Direction", f"{'upright' if panel.upright else 'across'} ▾", turn)]


def _nothing(session: Session, board: Board, panel: Any) -> list[Block]:
    return []


EDITORS: dict[type, PanelEditor] = {
    SummaryPanel: PanelEditor("Summary or chart", _summary_choices, _summary, _summary_blocks),
    KeyFigurePanel: PanelEditor("Key figure", _figure_choices, _figure, _figure_blocks),
    NotePanel: PanelEditor("Note", lambda session, board: None, _note, _note_blocks),
    LeverPanel: PanelEditor("Lever", _lever_choices, _lever, _nothing, _lever_live),
    SlicerPanel: PanelEditor("A slicer of the strip", _slicer_choices, _slicer, _nothing),
    PicturePanel: PanelEditor(
        "Picture", _picture_choices, _picture, _picture_blocks,
        fetch=lambda anchor, session, choice: choice or ask_picture(anchor, session),
    ),
    RulePanel: PanelEditor(
        "Line", lambda session, board: None, lambda session, folio, choice, key, place: RulePanel(key, place, "Line"),
        _rule_blocks,
    ),
    FramePanel: PanelEditor(
        "Framed area", lambda session, board: None,
        lambda session, folio, choice, key, place: FramePanel(key, place, "Area"), _nothing,
    ),
    SourcesPanel: PanelEditor(
        "Sources", lambda session, board: None,
        lambda session, folio, choice, key, place: SourcesPanel(key, place, "Sources"), _nothing,
    ),
}  # fmt: skip


def add_panel(anchor: QWidget, session: Session, board: Board, kind: type) -> Popover | None:
    """Put a panel of a kind on the board: at once, or by a popover that asks what it is made of."""
    editor, row = EDITORS[kind], PANEL_KINDS[kind]

    def put(choice: Any = None) -> None:
        folio, panel_id = taken_id(session.folio, "p")
        panel = editor.make(session, folio, choice, panel_id, free_place(board, *row.size))
        session.edit(with_board(folio, with_panel(board, panel)), f"Put {panel.title} on {board.name}")

    choices = editor.choices(session, board)
    if choices is None:
        put()
        return None
    popover = Popover(anchor, editor.offer, 290)
    picks = PickList(choices, name=row.word, search=True)

    def take(choice: Any) -> None:
        popover.close()
        choice = editor.fetch(anchor, session, choice)
        if choice:
            put(choice)

    picks.picked.connect(take)
    popover.column.addWidget(picks)
    popover.open_below(anchor)
    picks.focus_in()
    return popover
