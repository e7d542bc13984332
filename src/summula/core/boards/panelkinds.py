"""The kinds of panels, one row each: what a kind asks of a table, what it answers, how that is drawn."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import msgspec

from summula.core.boards.board import (
    FramePanel,
    KeyFigurePanel,
    LeverPanel,
    NotePanel,
    Panel,
    PicturePanel,
    RulePanel,
    SlicerPanel,
    SourcesPanel,
    SummaryPanel,
)
from summula.core.boards.panelanswer import Asked, PanelAnswer
from summula.core.charts.scene import Scene, message
from summula.core.phrases.phrase import figures_shown, linked_in

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas
    from summula.core.engine.cells import Cells, Dimension
    from summula.core.phrases.phrase import Phrase
    from summula.core.slicing.slicer import Narrowing
    from summula.core.tables.table import Table


class Uses(msgspec.Struct, frozen=True):
    """What of its folio and board a panel names, by id (levers by name); empty where it names none of a kind."""

    summary: str = ""
    lever: str = ""
    picture: str = ""
    slicer: str = ""


class PanelKind(msgspec.Struct, frozen=True):
    """`table_of`: the id of the table a panel asks, empty where it asks none; KeyError where that is not known.
    `phrase`: what it asks, levers put in. `dimensions`: what its rows are folded by, beside the slicers. `content`:
    what an answer depends on, beside the rows and slicers. `answer` and `scene` show it; `check` refuses what a folio
    may not say. `titled`: whether its card shows the title. `size`: columns and rows when it is put on a board;
    `smallest` what it can be made. `framed`: whether it stands on a card; `behind` others, which may lie on it.
    `by_hand`: whether there is something to move on it. `uses`: what of the folio it names. `line`: what stands below
    its title. `slices`: whether a click on a mark slices the board, and does not only echo."""

    word: str
    titled: bool
    size: tuple[int, int]
    smallest: tuple[int, int]
    table_of: Callable[[Any, Asked], str]
    phrase: Callable[[Any, Asked], Phrase | None]
    dimensions: Callable[[Any, Asked, Table], list[Dimension]]
    content: Callable[[Any, Asked], Any]
    answer: Callable[[Any, Asked, Cells, list[Narrowing]], PanelAnswer]
    scene: Callable[[PanelAnswer, Canvas], Scene]
    check: Callable[[Any, set[str]], None]
    framed: bool = True
    behind: bool = False
    by_hand: bool = False
    uses: Callable[[Any], Uses] = lambda panel: Uses()
    line: Callable[[Any], str] = lambda panel: ""
    slices: Callable[[Any], bool] = lambda panel: False


def kind_of(panel: Panel) -> PanelKind:
    return PANEL_KINDS[type(panel)]


def is_known(panel: Panel, asked: Asked) -> bool:
    """Whether what a panel shows is in the folio."""
    try:
        kind_of(panel).table_of(panel, asked)
    except KeyError:
        return False
    return True


def panel_title(panel: Panel, answer: PanelAnswer) -> str:
    """What a panel is called, with its live figures; empty where it has no title."""
    if answer.caption is not None and answer.caption[0]:
        return answer.caption[0]
    if answer.key_figure is not None:
        return answer.key_figure.title
    return str(getattr(panel, "title", ""))


def panel_scene(panel: Panel, answer: PanelAnswer, canvas: Canvas) -> Scene:
    """What a panel draws in the room below its title."""
    if answer.refusal:
        return message(answer.refusal, canvas.size, canvas.text_width)
    return kind_of(panel).scene(answer, canvas)


def _late(name: str) -> Callable[..., Any]:
    """A function of `panelanswers`, which knows the whole engine and is read in when a panel is answered first."""

    def called(*given: Any) -> Any:
        from summula.core.boards import panelanswers

        return getattr(panelanswers, name)(*given)

    called.__name__ = name
    return called


def _plain(
    word: str,
    size: tuple[int, int],
    *,
    smallest: tuple[int, int] = (3, 2),
    titled: bool,
    content: Callable[[Any, Asked], Any] = lambda panel, asked: panel,
    answer: Callable[[Any, Asked], PanelAnswer] = lambda panel, asked: PanelAnswer(),
    scene: Callable[[PanelAnswer, Canvas], Scene] = lambda answer, canvas: message("", canvas.size),
    framed: bool = True,
    behind: bool = False,
    by_hand: bool = False,
    uses: Callable[[Any], Uses] = lambda panel: Uses(),
) -> PanelKind:
    """A kind that asks no table."""
    return PanelKind(
        word, titled=titled, size=size, smallest=smallest,
        table_of=lambda panel, asked: "",
        phrase=lambda panel, asked: None,
        dimensions=lambda panel, asked, table: [],
        content=content,
        answer=lambda panel, asked, cells, slicers: answer(panel, asked),
        scene=scene, check=lambda panel, tables: None, framed=framed, behind=behind,
        by_hand=by_hand, uses=uses,
    )  # fmt: skip


def _sources(asked: Asked) -> tuple[tuple[str, int | None, str], ...]:
    """Of each table that the board asks: its name, how many rows it has (None where slicers narrow and what there was
    before is not shown), and when they were read."""
    about, names = set(asked.tables), set[str]()
    if asked.board is not None:
        known = [panel for panel in asked.board.panels if is_known(panel, asked)]
        about = {slicer.table for slicer in asked.board.slicers}
        about |= {kind_of(panel).table_of(panel, asked) for panel in known}
        phrases = [kind_of(panel).phrase(panel, asked) for panel in known]
        measures = [measure for phrase in phrases if phrase is not None for measure in figures_shown(phrase)]
        names = {linked.table for measure in measures for linked in linked_in(measure.calculation)}
    shown = [(key, table) for key, table in asked.tables.items() if key in about or table.name in names]
    hidden = not asked.unsliced and any(slicer.narrows for slicer in asked.slicers)
    return tuple((table.name, None if hidden else table.rows, asked.read_at.get(key, "")) for key, table in shown)


PANEL_KINDS: dict[type, PanelKind] = {
    SummaryPanel: PanelKind(
        "summary", titled=True, size=(12, 9), smallest=(3, 3),
        table_of=lambda panel, asked: asked.phrases[panel.summary][0],
        phrase=lambda panel, asked: asked.phrases[panel.summary][1],
        dimensions=_late("summary_dimensions"),
        content=_late("summary_content"),
        answer=_late("summary_answer"), scene=_late("chart_scene"), check=_late("check_summary"),
        uses=lambda panel: Uses(summary=panel.summary),
        line=lambda panel: panel.line, slices=lambda panel: panel.slices,
    ),
    KeyFigurePanel: PanelKind(
        "key figure", titled=False, size=(6, 4), smallest=(3, 3),
        table_of=lambda panel, asked: panel.table,
        phrase=_late("key_phrase"),
        dimensions=_late("key_dimensions"),
        content=_late("key_content"),
        answer=_late("key_answer"), scene=_late("key_scene"), check=_late("check_key"),
    ),
    NotePanel: PanelKind(
        "note", titled=True, size=(6, 5), smallest=(3, 2),
        table_of=lambda panel, asked: panel.table,
        phrase=lambda panel, asked: None,
        dimensions=_late("note_dimensions"),
        content=lambda panel, asked: (panel.text, panel.title, asked.levers, asked.read_at),
        answer=_late("note_answer"), scene=_late("words_scene"), check=_late("check_note"),
    ),
    LeverPanel: _plain(
        "lever", (6, 3), content=lambda panel, asked: (panel, asked.levers), titled=False, by_hand=True,
        answer=lambda panel, asked: PanelAnswer(lever=next((e for e in asked.levers if e.name == panel.lever), None)),
        scene=_late("lever_scene"), uses=lambda panel: Uses(lever=panel.lever),
    ),
    SlicerPanel: PanelKind(
        "slicer", titled=False, size=(5, 8), smallest=(3, 3),
        table_of=lambda panel, asked: panel.table,
        phrase=lambda panel, asked: None,
        dimensions=lambda panel, asked, table: [],
        content=lambda panel, asked: panel.slicer,
        answer=_late("slicer_answer"), scene=_late("words_scene"),
        check=lambda panel, tables: None, by_hand=True, uses=lambda panel: Uses(slicer=panel.slicer),
    ),
    PicturePanel: _plain(
        "picture", (6, 6), content=lambda panel, asked: (panel, asked.pictures), titled=False, framed=False,
        answer=_late("picture_answer"),
        scene=_late("picture_scene"),
        uses=lambda panel: Uses(picture=panel.picture),
    ),
    RulePanel: _plain(
        "line", (12, 1), smallest=(1, 1), titled=False, framed=False, behind=True,
        answer=lambda panel, asked: PanelAnswer(rule="upright" if panel.upright else "level"),
        scene=_late("rule_scene"),
    ),
    SourcesPanel: _plain(
        "sources", (6, 4), titled=True, content=lambda panel, asked: (panel, _sources(asked)),
        answer=lambda panel, asked: _late("sources_answer")(_sources(asked)),
        scene=_late("words_scene"),
    ),
    FramePanel: _plain("framed area", (12, 10), titled=True, behind=True),
}  # fmt: skip
