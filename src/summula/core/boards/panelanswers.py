"""What each kind of panel asks of a table, and answers: the functions that its row in `panelkinds` names. They know
the whole engine, and are read in when the first panel is answered."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.boards import notetext, plainscenes
from summula.core.boards.contradiction import at_odds, left_out_by
from summula.core.boards.keyfigures import key_figure, key_figure_dimensions
from summula.core.boards.livefigures import LiveRows, is_live, live_dimensions, said, with_live_words
from summula.core.boards.notetext import note_scene, plain_words
from summula.core.boards.panelanswer import Asked, PanelAnswer, without_unsliced
from summula.core.charts import draw
from summula.core.charts.chart import PLAIN, Canvas, SummaryLook, chart_of
from summula.core.charts.keyfigure import draw_key_figure
from summula.core.charts.scene import Scene, message
from summula.core.engine.aligning import aligned
from summula.core.engine.answer import answer, dimensions_of, with_defaults
from summula.core.fields.figures import plural
from summula.core.memory import Remembered
from summula.core.phrases.additivity import adds_up
from summula.core.phrases.forms import FORMS
from summula.core.phrases.lever import with_levers
from summula.core.phrases.phrase import Measure, Phrase, figures_shown, headings_of, is_each_row, linked_in
from summula.core.phrases.wellformed import check_measure
from summula.core.refusal import Refusal
from summula.core.slicing.masks import joined_mask, slicer_mask
from summula.core.slicing.slicer import Echo, Narrowing, Slicer
from summula.core.slicing.slicerkinds import slicer_name, slicer_words

if TYPE_CHECKING:
    from summula.core.boards.board import (
        KeyFigurePanel,
        NotePanel,
        PicturePanel,
        SlicerPanel,
        SummaryPanel,
    )
    from summula.core.engine.cells import Cells, Dimension
    from summula.core.engine.grid import Grid
    from summula.core.tables.table import Table

OVERRULED = ("words", "labels", "legend", "emphasis")  # what a panel may say of its summary's style


def _summary_phrase(panel: SummaryPanel, asked: Asked) -> Phrase:
    return asked.phrases[panel.summary][1]


def _summary_look(panel: SummaryPanel, asked: Asked) -> SummaryLook:
    """The summary's look, with what the panel overrules."""
    look = asked.looks.get(panel.summary, PLAIN)
    own = {name: getattr(panel, name) for name in OVERRULED if getattr(panel, name) is not None}
    return replace(look, style=replace(look.style, **own)) if own else look


def summary_answer(panel: SummaryPanel, asked: Asked, cells: Cells, slicers: list[Narrowing]) -> PanelAnswer:
    phrase, table = _summary_phrase(panel, asked), cells.table
    kept, echo = parted(slicers)
    mask = joined_mask(kept, cells)
    ghost = None
    if mask is not None and not asked.unsliced:
        phrase = _of_members_in_play(phrase)
    elif echo is None and mask is not None and FORMS[phrase.form].ghost and not _is_linked(phrase):
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


def _of_members_in_play(phrase: Phrase) -> Phrase:
    """The phrase without members that have no rows in play, but for the gaps between dates."""
    dated = all(heading.part is not None for heading in headings_of(phrase))
    return phrase if dated else replace(phrase, every_member=False)


def _is_linked(phrase: Phrase) -> bool:
    """Whether a figure of another table stands in it."""
    return any(linked_in(measure.calculation) for measure in figures_shown(phrase))


def parted(slicers: Sequence[Narrowing]) -> tuple[list[Slicer], Echo | None]:
    """The slicers, and what echoes among them."""
    echo = next((each for each in slicers if isinstance(each, Echo)), None)
    return [each for each in slicers if not isinstance(each, Echo)], echo


def summary_content(panel: SummaryPanel, asked: Asked) -> tuple[object, ...]:
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


def summary_dimensions(panel: SummaryPanel, asked: Asked, table: Table) -> list[Dimension]:
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


def chart_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return draw(answer.chart, canvas) if answer.chart is not None else message("", canvas.size)


def check_summary(panel: SummaryPanel, tables: set[str]) -> None:
    own = {name: getattr(panel, name) for name in OVERRULED if getattr(panel, name) is not None}
    if own:
        from summula.core.charts.settings import checked_chart
        from summula.core.charts.style import ChartStyle

        checked_chart(ChartStyle(**own))


# -- key figures ----------------------------------------------------------------------------------------------


def _with_levers(panel: KeyFigurePanel, asked: Asked) -> KeyFigurePanel:
    return replace(panel, measure=with_levers(Phrase((panel.measure,)), asked.levers).measures[0])


def key_phrase(panel: KeyFigurePanel, asked: Asked) -> Phrase:
    return Phrase((_with_levers(panel, asked).measure,))


def key_content(panel: KeyFigurePanel, asked: Asked) -> tuple[object, ...]:
    return _with_levers(panel, asked).measure, panel.dated, panel.title, panel.rising


def key_dimensions(panel: KeyFigurePanel, asked: Asked, table: Table) -> list[Dimension]:
    phrase = with_defaults(key_phrase(panel, asked), table)
    return [*key_figure_dimensions(table, panel.dated), *dimensions_of(phrase, table)]


def key_answer(panel: KeyFigurePanel, asked: Asked, cells: Cells, slicers: list[Narrowing]) -> PanelAnswer:
    figure, sparkline = key_figure(_with_levers(panel, asked), cells, slicers)
    answer = PanelAnswer(sparkline=sparkline, key_figure=figure)
    return answer if asked.unsliced else without_unsliced(answer)


def key_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return draw_key_figure(answer.key_figure, canvas) if answer.key_figure is not None else message("", canvas.size)


def check_key(panel: KeyFigurePanel, tables: set[str]) -> None:
    if panel.table not in tables:
        raise Refusal("its table is missing", "choose another")
    check_measure(panel.measure)


# -- what asks for no rows ------------------------------------------------------------------------------------


def words_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return note_scene(answer.words, canvas)


def check_note(panel: NotePanel, tables: set[str]) -> None:
    notetext.check_note(panel, tables)


def note_dimensions(panel: NotePanel, asked: Asked, table: Table) -> list[Dimension]:
    return live_dimensions([panel.text, panel.title], table, asked.levers)


def note_answer(panel: NotePanel, asked: Asked, cells: Cells | None, slicers: list[Narrowing]) -> PanelAnswer:
    """The words, their live figures answered where they have a table."""
    if cells is None or not (is_live(panel.text) or is_live(panel.title)):
        return PanelAnswer(words=panel.text)
    kept, _ = parted(slicers)
    rows = LiveRows(cells.table, cells, tuple(kept), (), asked.levers, asked.read_at.get(panel.table, ""))
    return PanelAnswer(words=said(panel.text, rows), caption=(said(panel.title, rows), ""))


def slicer_answer(panel: SlicerPanel, asked: Asked, cells: Cells | None, slicers: list[Narrowing]) -> PanelAnswer:
    found = next((each for each in slicers if each.id == panel.slicer), None)
    if found is None:
        return PanelAnswer(words="This slicer is no longer on the board")
    return PanelAnswer(words=f"**{slicer_name(found)}**\n\n{slicer_words(found) or 'all'}")


def picture_answer(panel: PicturePanel, asked: Asked) -> PanelAnswer:
    found = next((each for each in asked.pictures if each.id == panel.picture), None)
    return PanelAnswer(picture=None if found is None else (found, panel.strength))


def picture_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return plainscenes.picture_scene(answer.picture, canvas)


def lever_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return plainscenes.lever_scene(answer.lever, canvas)


def rule_scene(answer: PanelAnswer, canvas: Canvas) -> Scene:
    return plainscenes.rule_scene(answer.rule, canvas)


def sources_answer(sources: Sequence[tuple[str, int | None, str]]) -> PanelAnswer:
    """Of tables: name, rows (None where they are not told), when they were read."""
    lines = [
        " ".join([f"**{plain_words(name)}**:", *([plural(rows, "row")] if rows is not None else [])])
        + (f"{',' if rows is not None else ''} read {read_at}" if read_at else "")
        for name, rows, read_at in sources
    ]
    return PanelAnswer(words="\n\n".join(lines) or "No panel on this board uses a table yet")
