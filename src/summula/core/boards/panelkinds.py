"""The kinds of panels, one row each: what a kind asks of a table, what it answers, how that is drawn."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import msgspec
from msgspec.structs import replace

from summula.core.boards.board import (
    Board,
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
from summula.core.boards.contradiction import at_odds, left_out_by
from summula.core.boards.keyfigures import key_figure, key_figure_dimensions
from summula.core.boards.linkedtables import LinkedTables
from summula.core.boards.livefigures import LiveRows, is_live, live_dimensions, said, with_live_words
from summula.core.boards.notetext import check_note, note_scene, plain_words
from summula.core.boards.plainscenes import lever_scene, picture_scene, rule_scene
from summula.core.charts import draw
from summula.core.charts.chart import PLAIN, Canvas, Chart, SummaryLook, chart_of
from summula.core.charts.foliopicture import FolioPicture
from summula.core.charts.keyfigure import KeyFigure, draw_key_figure
from summula.core.charts.scene import Scene, message
from summula.core.engine.aggregates import ADDITIVE
from summula.core.engine.aligning import aligned
from summula.core.engine.answer import answer, dimensions_of, with_defaults
from summula.core.engine.cells import Cells, Dimension
from summula.core.engine.grid import Grid
from summula.core.fields.figures import plural
from summula.core.memory import Remembered
from summula.core.phrases.fitting import adds_up
from summula.core.phrases.forms import FORMS
from summula.core.phrases.lever import LeverSetting, with_levers
from summula.core.phrases.phrase import Measure, Phrase, aggregates_of, figures_shown, is_each_row, linked_in
from summula.core.phrases.wellformed import check_measure
from summula.core.refusal import Refusal
from summula.core.slicing.linking import Link
from summula.core.slicing.masks import joined_mask, slicer_mask
from summula.core.slicing.slicer import Echo, Narrowing, Slicer
from summula.core.slicing.slicerkinds import slicer_name, slicer_words
from summula.core.tables.table import Table

OVERRULED = ("words", "labels", "legend", "emphasis")  # what a panel may say of its summary's style


class Asked(msgspec.Struct, frozen=True, eq=False):
    """What panels are answered from, beside the rows: phrases by summary (with its table's id), their looks, levers,
    when the rows of each table were read; the `tables` by id, the panel's `board`, and all `slicers` of it that move
    the panel."""

    phrases: Mapping[str, tuple[str, Phrase]]
    looks: Mapping[str, SummaryLook] = {}
    levers: tuple[LeverSetting, ...] = ()
    read_at: Mapping[str, str] = {}
    links: tuple[Link, ...] = ()
    pictures: tuple[FolioPicture, ...] = ()
    tables: Mapping[str, Table] = {}
    slicers: tuple[Narrowing, ...] = ()
    board: Board | None = None

    def others(self, home: str, *, echo: bool = False) -> LinkedTables:
        """The tables linked to one, under the slicers of the board; under what echoes as well with `echo`."""
        moving = tuple(each for each in self.slicers if echo or not isinstance(each, Echo))
        return LinkedTables(home, self.tables, self.links, moving)


class PanelAnswer(msgspec.Struct, frozen=True, eq=False):
    """What a panel shows: a chart, a key figure (with the grid of its course), words, or why it can show nothing."""

    chart: Chart | None = None
    sparkline: Grid | None = None
    key_figure: KeyFigure | None = None
    words: str = ""
    refusal: str = ""
    caption: tuple[str, str] | None = None  # the title and the line below it, where they hold live figures
    lever: LeverSetting | None = None
    picture: tuple[FolioPicture, float] | None = None  # and how strong it is
    rule: str = ""

    @property
    def grid(self) -> Grid | None:
        """The grid that its marks stand for figures of."""
        return self.chart.grid if self.chart is not None else self.sparkline


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
    `uses`: what of the folio it names. `line`: what stands below its title. `slices`: whether a click on a mark slices
    the board, and does not only echo."""

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


def asks_only_sums(panel: Panel, asked: Asked, table: Table) -> bool:
    """Whether its figures are put together from parts of cells, without going to the rows."""
    phrase = kind_of(panel).phrase(panel, asked)
    if phrase is None:
        return True
    full = with_defaults(phrase, table)
    return all(a.function in ADDITIVE for m in figures_shown(full) for a in aggregates_of(m.calculation))


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


# -- summaries ------------------------------------------------------------------------------------------------


def _summary_phrase(panel: SummaryPanel, asked: Asked) -> Phrase:
    return asked.phrases[panel.summary][1]


def _summary_look(panel: SummaryPanel, asked: Asked) -> SummaryLook:
    """The summary's look, with what the panel overrules."""
    look = asked.looks.get(panel.summary, PLAIN)
    own = {name: getattr(panel, name) for name in OVERRULED if getattr(panel, name) is not None}
    return replace(look, style=replace(look.style, **own)) if own else look


def _summary_answer(panel: SummaryPanel, asked: Asked, cells: Cells, slicers: list[Narrowing]) -> PanelAnswer:
    phrase, table = _summary_phrase(panel, asked), cells.table
    kept, echo = parted(slicers)
    mask = joined_mask(kept, cells)
    ghost = None
    if echo is None and mask is not None and FORMS[phrase.form].ghost and not _is_linked(phrase):
        ghost = _ghost(phrase, table, cells)
    home = asked.phrases[panel.summary][0]

    def sliced() -> Grid:
        return answer(phrase, table, cells, mask, ghost, others=asked.others(home))

    # From echo to echo the whole stays as it is.
    known = echo is not None and not _is_linked(phrase)
    grid = _SLICED.of(cells.memo, (phrase, tuple(kept)), sliced) if known else sliced()
    if grid.empty:
        odds = at_odds(phrase, kept)
        if odds:
            return PanelAnswer(refusal=odds)
    look = _summary_look(panel, asked)
    told = left_out_by(phrase, kept, table)
    if told:  # at the foot, before what its author says there
        note = " · ".join(filter(None, [told, look.style.words.note]))
        look = replace(look, style=replace(look.style, words=replace(look.style.words, note=note)))
    if echo is None:
        chart = chart_of(grid, table, look, ghost)
    else:  # the part that echoes, before the whole as it is sliced
        part = answer(phrase, table, cells, mask, grid, slicer_mask(echo, cells), asked.others(home, echo=True))
        chart = chart_of(aligned(part, grid), table, look, grid, "of all in play")
    if not any(map(is_live, _texts(panel, asked))):
        return PanelAnswer(chart)
    read_at = asked.read_at.get(asked.phrases[panel.summary][0], "")
    rows = LiveRows(table, cells, tuple(kept), phrase.where, asked.levers, read_at)
    return PanelAnswer(with_live_words(chart, rows), caption=(said(panel.title, rows), said(panel.line, rows)))


def _is_linked(phrase: Phrase) -> bool:
    """Whether a figure of another table stands in it."""
    return any(linked_in(measure.calculation) for measure in figures_shown(phrase))


def parted(slicers: Sequence[Narrowing]) -> tuple[list[Slicer], Echo | None]:
    """The slicers, and what echoes among them."""
    echo = next((each for each in slicers if isinstance(each, Echo)), None)
    return [each for each in slicers if not isinstance(each, Echo)], echo


def _summary_content(panel: SummaryPanel, asked: Asked) -> tuple[object, ...]:
    own: tuple[object, ...] = (_summary_phrase(panel, asked), _summary_look(panel, asked))
    if _is_linked(_summary_phrase(panel, asked)):
        own = (*own, tuple(asked.tables.values()), asked.slicers, asked.links)
    if not any(map(is_live, _texts(panel, asked))):
        return own
    return (*own, panel.title, panel.line, asked.levers, asked.read_at)


def _texts(panel: SummaryPanel, asked: Asked) -> list[str]:
    """Every text of a panel that may hold live figures."""
    words = panel.words or asked.looks.get(panel.summary, PLAIN).style.words
    return [panel.title, panel.line, *(getattr(words, name) for name in words.__struct_fields__)]


def _summary_dimensions(panel: SummaryPanel, asked: Asked, table: Table) -> list[Dimension]:
    own = dimensions_of(_summary_phrase(panel, asked), table)
    return [*own, *live_dimensions(_texts(panel, asked), table, asked.levers)]


_SLICED: Remembered[tuple[Phrase, tuple[Narrowing, ...]], Grid] = Remembered("sliced wholes", most=16)
_GHOSTS: Remembered[Phrase, Grid] = Remembered("ghosts", most=24)


def can_stand_behind(measure: Measure) -> bool:
    """Whether a measure's figures before slicing tell something behind those after it: they hold them, as wholes, or
    are the values themselves."""
    return adds_up(measure) or is_each_row(measure.calculation)


def _ghost(phrase: Phrase, table: Table, cells: Cells) -> Grid | None:
    found = _GHOSTS.get(cells.memo, phrase)
    if found is None:
        if not all(can_stand_behind(each) for each in figures_shown(with_defaults(phrase, table))):
            return None  # a mean before slicing is no longer bar behind a shorter one
        found = answer(phrase, table, cells)
        _GHOSTS.put(cells.memo, phrase, found)
    return found


def _chart_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return draw(answer.chart, canvas) if answer.chart is not None else message("", canvas.size)


def _check_summary(panel: SummaryPanel, tables: set[str]) -> None:
    own = {name: getattr(panel, name) for name in OVERRULED if getattr(panel, name) is not None}
    if own:
        from summula.core.charts.settings import checked_chart
        from summula.core.charts.style import ChartStyle

        checked_chart(ChartStyle(**own))


# -- key figures ----------------------------------------------------------------------------------------------


def _with_levers(panel: KeyFigurePanel, asked: Asked) -> KeyFigurePanel:
    return replace(panel, measure=with_levers(Phrase((panel.measure,)), asked.levers).measures[0])


def _key_dimensions(panel: KeyFigurePanel, asked: Asked, table: Table) -> list[Dimension]:
    phrase = with_defaults(Phrase((_with_levers(panel, asked).measure,)), table)
    return [*key_figure_dimensions(table, panel.dated), *dimensions_of(phrase, table)]


def _key_answer(panel: KeyFigurePanel, asked: Asked, cells: Cells, slicers: list[Narrowing]) -> PanelAnswer:
    figure, sparkline = key_figure(_with_levers(panel, asked), cells, slicers)
    return PanelAnswer(sparkline=sparkline, key_figure=figure)


def _key_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return draw_key_figure(answer.key_figure, canvas) if answer.key_figure is not None else message("", canvas.size)


def _check_key(panel: KeyFigurePanel, tables: set[str]) -> None:
    if panel.table not in tables:
        raise Refusal("its table is missing", "choose another")
    check_measure(panel.measure)


# -- what asks for no rows ------------------------------------------------------------------------------------


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
        uses=uses,
    )  # fmt: skip


def _note_answer(panel: NotePanel, asked: Asked, cells: Cells | None, slicers: list[Narrowing]) -> PanelAnswer:
    """The words, their live figures answered where they have a table."""
    if cells is None or not (is_live(panel.text) or is_live(panel.title)):
        return PanelAnswer(words=panel.text)
    kept, _ = parted(slicers)
    rows = LiveRows(cells.table, cells, tuple(kept), (), asked.levers, asked.read_at.get(panel.table, ""))
    return PanelAnswer(words=said(panel.text, rows), caption=(said(panel.title, rows), ""))


def _slicer_answer(panel: SlicerPanel, asked: Asked, cells: Cells | None, slicers: list[Narrowing]) -> PanelAnswer:
    found = next((each for each in slicers if each.id == panel.slicer), None)
    if found is None:
        return PanelAnswer(words="This slicer is on the board no more")
    return PanelAnswer(words=f"**{slicer_name(found)}**\n\n{slicer_words(found) or 'all'}")


def _picture_of(panel: PicturePanel, asked: Asked) -> tuple[FolioPicture, float] | None:
    found = next((each for each in asked.pictures if each.id == panel.picture), None)
    return None if found is None else (found, panel.strength)


def _sources(asked: Asked) -> tuple[tuple[str, int, str], ...]:
    """Of each table that the board asks: its name, how many rows it has, and when they were read."""
    about, names = set(asked.tables), set[str]()
    if asked.board is not None:
        known = [panel for panel in asked.board.panels if is_known(panel, asked)]
        about = {slicer.table for slicer in asked.board.slicers}
        about |= {kind_of(panel).table_of(panel, asked) for panel in known}
        phrases = [kind_of(panel).phrase(panel, asked) for panel in known]
        measures = [measure for phrase in phrases if phrase is not None for measure in figures_shown(phrase)]
        names = {linked.table for measure in measures for linked in linked_in(measure.calculation)}
    shown = [(key, table) for key, table in asked.tables.items() if key in about or table.name in names]
    return tuple((table.name, table.rows, asked.read_at.get(key, "")) for key, table in shown)


def _sources_answer(panel: SourcesPanel, asked: Asked) -> PanelAnswer:
    lines = [
        f"**{plain_words(name)}**: {plural(rows, 'row')}{f', read {read_at}' if read_at else ''}"
        for name, rows, read_at in _sources(asked)
    ]
    return PanelAnswer(words="\n\n".join(lines) or "Nothing on this board asks a table yet")


PANEL_KINDS: dict[type, PanelKind] = {
    SummaryPanel: PanelKind(
        "summary", titled=True, size=(12, 9), smallest=(3, 3),
        table_of=lambda panel, asked: asked.phrases[panel.summary][0],
        phrase=_summary_phrase,
        dimensions=_summary_dimensions,
        content=_summary_content,
        answer=_summary_answer, scene=_chart_scene, check=_check_summary,
        uses=lambda panel: Uses(summary=panel.summary),
        line=lambda panel: panel.line, slices=lambda panel: panel.slices,
    ),
    KeyFigurePanel: PanelKind(
        "key figure", titled=False, size=(6, 4), smallest=(3, 3),
        table_of=lambda panel, asked: panel.table,
        phrase=lambda panel, asked: Phrase((_with_levers(panel, asked).measure,)),
        dimensions=_key_dimensions,
        content=lambda panel, asked: (_with_levers(panel, asked).measure, panel.dated, panel.title, panel.rising),
        answer=_key_answer, scene=_key_scene, check=_check_key,
    ),
    NotePanel: PanelKind(
        "note", titled=True, size=(6, 5), smallest=(3, 2),
        table_of=lambda panel, asked: panel.table,
        phrase=lambda panel, asked: None,
        dimensions=lambda panel, asked, table: live_dimensions([panel.text, panel.title], table, asked.levers),
        content=lambda panel, asked: (panel.text, panel.title, asked.levers, asked.read_at),
        answer=_note_answer, scene=lambda answer, canvas: note_scene(answer.words, canvas), check=check_note,
    ),
    LeverPanel: _plain(
        "lever", (6, 3), content=lambda panel, asked: (panel, asked.levers), titled=False,
        answer=lambda panel, asked: PanelAnswer(lever=next((e for e in asked.levers if e.name == panel.lever), None)),
        scene=lambda answer, canvas: lever_scene(answer.lever, canvas), uses=lambda panel: Uses(lever=panel.lever),
    ),
    SlicerPanel: PanelKind(
        "slicer", titled=False, size=(5, 8), smallest=(3, 3),
        table_of=lambda panel, asked: panel.table,
        phrase=lambda panel, asked: None,
        dimensions=lambda panel, asked, table: [],
        content=lambda panel, asked: panel.slicer,
        answer=_slicer_answer, scene=lambda answer, canvas: note_scene(answer.words, canvas),
        check=lambda panel, tables: None, uses=lambda panel: Uses(slicer=panel.slicer),
    ),
    PicturePanel: _plain(
        "picture", (6, 6), content=lambda panel, asked: (panel, asked.pictures), titled=False, framed=False,
        answer=lambda panel, asked: PanelAnswer(picture=_picture_of(panel, asked)),
        scene=lambda answer, canvas: picture_scene(answer.picture, canvas),
        uses=lambda panel: Uses(picture=panel.picture),
    ),
    RulePanel: _plain(
        "line", (12, 1), smallest=(1, 1), titled=False, framed=False, behind=True,
        answer=lambda panel, asked: PanelAnswer(rule="upright" if panel.upright else "level"),
        scene=lambda answer, canvas: rule_scene(answer.rule, canvas),
    ),
    SourcesPanel: _plain(
        "sources", (6, 4), titled=True, content=lambda panel, asked: (panel, _sources(asked)), answer=_sources_answer,
        scene=lambda answer, canvas: note_scene(answer.words, canvas),
    ),
    FramePanel: _plain("framed area", (12, 10), titled=True, behind=True),
}  # fmt: skip
