"""The margin while a board is arranged: the selected panel's settings, its reach, what can be put on."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PyQt6.QtWidgets import QLineEdit, QWidget

from summula.core.boards.arrangement import free_place, with_panel, with_panel_changed, with_slicer
from summula.core.boards.board import Board, KeyFigurePanel, Panel, SummaryPanel
from summula.core.charts.settings import BY_KEY
from summula.core.charts.style import Emphasis
from summula.core.folio.model import taken_id, with_board
from summula.core.slicing import ListSlicer, Slicer
from summula.core.summaries.editing import default_aggregate
from summula.core.summaries.forms import Form
from summula.core.summaries.phrase import Aggregate, Measure
from summula.core.tables.field import MEASURED
from summula.desk.board.putonboard import add_slicer
from summula.desk.frame.margin import Block, Deed, Note, Pair
from summula.desk.phrase.phrasewords import measure_words
from summula.desk.phrase.popoverparts import field_choices
from summula.desk.session import Session
from summula.desk.widgets.picklist import Choice, PickList
from summula.desk.widgets.popover import Popover


def arranging_blocks(session: Session, board: Board, panel_id: str, remove: Callable[[str], None]) -> list[Block]:
    blocks: list[Block] = []
    panel = next((each for each in board.panels if each.id == panel_id), None)
    if panel is None:
        blocks += ["Arranging", Note("Click a panel to move, resize or change it.")]
    else:
        blocks += _panel_blocks(session, board, panel)
        blocks += _reach_blocks(session, board, panel)
        blocks.append(Deed("Take this panel away", lambda: remove(panel.id)))
    blocks.append("Put on the board")
    for text, what in (
        ("Summary or chart", "summary"),
        ("Key figure", "key figure"),
        ("Slicer or period ruler", "slicer"),
    ):
        blocks.append(Pair(text, "+", _adder(session, board, what)))
    return blocks


def _panel_blocks(session: Session, board: Board, panel: Panel) -> list[Block]:
    place = panel.place
    blocks: list[Block] = [
        f"Selected · {panel.title}",
        Pair("Place", f"column {place.column + 1}, row {place.row + 1}"),
        Pair("Size", f"{place.width} × {place.height}"),
        Pair("Title", "change ▾", lambda beside: _change_text(beside, session, board, panel, "title")),
    ]
    if isinstance(panel, SummaryPanel):
        names = {each.id: each.name for each in session.folio.summaries}
        blocks.append(
            Pair("Line below", "change ▾", lambda beside: _change_text(beside, session, board, panel, "line"))
        )
        blocks.append(Pair("Shows", names.get(panel.summary, "missing")))
        form: Form = next((s.phrase.form for s in session.folio.summaries if s.id == panel.summary), "grid")
        if BY_KEY["emphasis.end"].heeded_by(form):
            own = panel.emphasis
            blocks.append(
                Pair(
                    "Strong",
                    "as the summary ▾" if own is None else f"top {own.number} ▾" if own.end else "all ▾",
                    lambda beside: _change_strong(beside, session, board, panel),
                )
            )
    else:
        blocks.append(Pair("Shows", measure_words(panel.measure, ())))
    return blocks


def _reach_blocks(session: Session, board: Board, panel: Panel) -> list[Block]:
    """Which slicers move this panel; each can be let go or taken back."""
    table = session.reckoning(board).table_of(panel) if _known(session, panel) else ""
    own = [slicer for slicer in board.slicers if slicer.table == table]
    if not own:
        return []
    blocks: list[Block] = ["Reach · what moves it"]
    for slicer in own:
        moves = panel.id not in slicer.spares
        blocks.append(
            Pair(
                slicer.dimension.field,
                "● moves it" if moves else "○ does not",
                _toggler(session, board, slicer, panel),
            )
        )
    return blocks


def _known(session: Session, panel: Panel) -> bool:
    return not isinstance(panel, SummaryPanel) or any(each.id == panel.summary for each in session.folio.summaries)


def _adder(session: Session, board: Board, what: str) -> Callable[[QWidget], None]:
    def add(beside: QWidget) -> None:
        open_add(beside, session, board, what)

    return add


def _toggler(session: Session, board: Board, slicer: Slicer, panel: Panel) -> Callable[[QWidget], None]:
    return lambda _: _toggle(session, board, slicer, panel)


def _toggle(session: Session, board: Board, slicer: Slicer, panel: Panel) -> None:
    if panel.id in slicer.spares:
        spares, deed = tuple(each for each in slicer.spares if each != panel.id), "reaches"
    else:
        spares, deed = (*slicer.spares, panel.id), "spares"
    new = replace(slicer, spares=spares)
    session.set_board(with_slicer(board, new), f"{slicer.dimension.field} {deed} {panel.title}")


def _change_text(beside: QWidget, session: Session, board: Board, panel: Panel, what: str) -> None:
    popover = Popover(beside, "Title" if what == "title" else "Line below the title", 300)
    line = QLineEdit(getattr(panel, what))
    line.setAccessibleName(what)

    def take() -> None:
        popover.close()
        session.set_board(
            with_panel_changed(board, panel.id, **{what: " ".join(line.text().split())}), f"Change the {what}"
        )

    line.returnPressed.connect(take)
    popover.column.addWidget(line)
    popover.open_below(beside)
    line.setFocus()
    line.selectAll()


def _change_strong(beside: QWidget, session: Session, board: Board, panel: Panel) -> None:
    popover = Popover(beside, "Drawn strong", 200)
    picks = PickList(
        [
            Choice("as the summary says", None),
            Choice("all", Emphasis()),
            *(Choice(f"the top {n}", Emphasis("top", n)) for n in (1, 3, 5, 10)),
        ],
        name="how many",
        search=False,
    )

    def take(emphasis: Emphasis | None) -> None:
        popover.close()
        session.set_board(
            with_panel_changed(board, panel.id, emphasis=emphasis),
            "What is strong",
        )

    picks.picked.connect(take)
    popover.column.addWidget(picks)
    popover.open_below(beside)
    picks.focus_in()


def open_add(beside: QWidget, session: Session, board: Board, what: str) -> Popover:
    """The popover that puts a summary, a key figure or a slicer on the board."""
    popover = Popover(beside, {"summary": "A summary", "key figure": "A key figure", "slicer": "Slice by"}[what], 290)
    table_id = session.default_table()
    table = session.table(table_id) if table_id else None
    if what == "summary":
        choices = [Choice(each.name, each.id, each.phrase.form) for each in session.folio.summaries]
    elif table is None:
        choices = []
    elif what == "key figure":
        choices = [Choice("rows", "", "how many rows"), *field_choices(table, (*MEASURED, "code"))]
    else:
        taken = {s.heading.field for s in board.slicers if isinstance(s, ListSlicer)}
        choices = [c for c in field_choices(table, ("category", "flag", "date", *MEASURED)) if c.value not in taken]
    picks = PickList(choices, name=what, search=True)

    def put(value: str) -> None:
        popover.close()
        if what == "slicer":
            add_slicer(session, board, table_id, value)
            return
        folio, panel_id = taken_id(session.folio, "p")
        if what == "summary":
            summary = folio.summary(value)
            panel: Panel = SummaryPanel(panel_id, free_place(board, 12, 9), value, summary.name)
        else:
            assert table is not None
            measure = Measure(default_aggregate(table, value) if value else Aggregate("rows"))
            dates = [field.name for field in table.fields if field.kind == "date"]
            title = value or "Rows"
            panel = KeyFigurePanel(
                panel_id, free_place(board, 6, 4), table_id, measure, dates[0] if dates else None, title
            )
        session.edit(with_board(folio, with_panel(board, panel)), f"Put {panel.title} on {board.name}")

    picks.picked.connect(put)
    popover.column.addWidget(picks)
    popover.open_below(beside)
    picks.focus_in()
    return popover
