"""A board as a workbook: a sheet for each panel's figures with a chart that the workbook knows, or a picture; before
them one that tells where all of it comes from."""

from __future__ import annotations

import io
import math
from typing import TYPE_CHECKING, Any, Literal, NamedTuple

from summula.core.boards.board import KeyFigurePanel, Panel
from summula.core.boards.panelkinds import kind_of, panel_title
from summula.core.charts.chart import Canvas, Chart
from summula.core.charts.inks import member_ink
from summula.core.charts.plotted import Plotted, plotted
from summula.core.fields.labels import heading_name
from summula.core.grids.lines import row_titles
from summula.core.handout.cleantext import printable
from summula.core.handout.workbook import SheetFormats, fits, new_book, put_grid, sheet_name, sheet_pattern
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.slicing.slicerkinds import slicer_words
from summula.core.theme.palettes import theme_of

if TYPE_CHECKING:
    from summula.core.boards.panelanswer import PanelAnswer
    from summula.core.charts.scene import Ink
    from summula.core.handout.boardcontent import BoardContent
    from summula.core.phrases.forms import Form
    from summula.core.theme.tokens import Theme

Family = Literal["column", "bar", "line", "area", "pie", "doughnut"]


class Known(NamedTuple):
    """A chart that workbooks know: its family, and how its series stand on each other. `lines`: all but the first
    are lines over it."""

    family: Family
    subtype: str = ""
    lines: bool = False


_KNOWN: dict[Form, Known] = {
    "columns": Known("column"),
    "bars": Known("bar"),
    "stacked columns": Known("column", "stacked"),
    "stacked bars": Known("bar", "stacked"),
    "share columns": Known("column", "percent_stacked"),
    "share bars": Known("bar", "percent_stacked"),
    "lines": Known("line"),
    "columns and lines": Known("column", lines=True),
    "areas": Known("area", "stacked"),
    "share areas": Known("area", "percent_stacked"),
    "pie": Known("pie"),
    "ring": Known("doughnut"),
}
_ROUND: tuple[Family, ...] = ("pie", "doughnut")
_MOST_SERIES = 255  # a chart of the format holds no more
_MOST_ROWS = 100_000  # of the figures behind a chart
_PICTURE = (760.0, 460.0)
_TOP = 3  # the row of the heads


def board_workbook(content: BoardContent) -> bytes:
    """Refuses a board without figures."""
    stream = io.BytesIO()
    book = new_book(stream)
    formats = SheetFormats(book)
    about = book.add_worksheet("About")
    board, reckoning = content.board, content.reckoning()
    said: list[tuple[str, str, str]] = []
    keys: list[PanelAnswer] = []
    names = {"about", "key figures"}
    theme = theme_of(content.folio.palette)
    for done, panel in enumerate(board.panels, start=1):
        answer = reckoning.panel(board, panel)
        content.watch(done, len(board.panels))
        if answer.refusal:
            said.append((_title(panel, answer), answer.refusal, ""))
        elif answer.chart is not None:
            name = _free_name(_title(panel, answer), names)
            said.append((_title(panel, answer), print_phrase(answer.chart.grid.phrase), name))
            _put_chart(book, book.add_worksheet(name), formats, _title(panel, answer), answer, content, theme)
        elif answer.key_figure is not None:
            keys.append(answer)
            said.append((_title(panel, answer), _asked(panel), "Key figures"))
    if not said:
        raise Refusal(f"'{board.name}' has no figures", "export it as a picture or PDF")
    if keys:
        _put_key_figures(book.add_worksheet("Key figures"), formats, keys)
    _put_about(about, formats, content, said)
    book.close()
    return stream.getvalue()


def _title(panel: Panel, answer: PanelAnswer) -> str:
    return panel_title(panel, answer) or kind_of(panel).word.capitalize()


def _asked(panel: Panel) -> str:
    from summula.core.phrases.printing import print_measure

    return print_measure(panel.measure) if isinstance(panel, KeyFigurePanel) else ""


def _free_name(title: str, taken: set[str]) -> str:
    """A sheet's name: at most 31 letters, none twice."""
    name, at = sheet_name(title), 2
    while name.casefold() in taken:
        name, at = f"{sheet_name(title)[:27]} {at}", at + 1
    taken.add(name.casefold())
    return name


def _put_chart(
    book: Any, sheet: Any, formats: SheetFormats, title: str, answer: PanelAnswer, content: BoardContent, theme: Theme
) -> None:
    chart = answer.chart
    assert chart is not None
    phrase = print_phrase(chart.grid.phrase)
    series = chart.grid.columns.levels[-1].size * len(chart.grid.phrase.measures)
    is_held = chart.grid.phrase.multiples is None and series <= _MOST_SERIES
    known = _KNOWN.get(chart.form) if is_held else None
    if chart.form == "grid" or known is None:
        if chart.grid.samples is None and fits(chart.grid):
            put_grid(sheet, formats, chart.grid, title, phrase, chart.look.grid.measures, chart.look.grid.layout)
            right = (
                chart.grid.rows.depth + sum(level.size for level in chart.grid.columns.levels) * len(chart.styles) + 1
            )
        else:
            sheet.write_string(0, 0, title, formats.of(bold=True, font_size=14))
            sheet.write_string(1, 0, phrase, formats.of(font_color="#665f58"))
            sheet.write_string(_TOP, 0, "This chart shows values row by row; its figures are the table's own.")
            right = 0
        if chart.form != "grid":
            _put_picture(sheet, answer, content, right)
        return
    shown = plotted(chart)
    if not shown.cats or not shown.series:
        sheet.write_string(0, 0, title, formats.of(bold=True, font_size=14))
        sheet.write_string(_TOP, 0, "No rows match.")
        return
    if len(shown.cats) > _MOST_ROWS:
        raise Refusal(f"'{title}' has {len(shown.cats):,} members", "keep the top few, or export it as CSV")
    labels = _put_figures(sheet, formats, title, phrase, shown)
    made = _real_chart(book, sheet.get_name(), known, shown, labels, theme)
    made.set_title({"name": [sheet.get_name(), 0, 0], "overlay": False, "name_font": {"size": 12, "bold": True}})
    made.set_size({"width": 760, "height": 460})
    sheet.insert_chart(_TOP, labels + len(shown.series) + 1, made)


def _put_figures(sheet: Any, formats: SheetFormats, title: str, phrase: str, shown: Plotted) -> int:
    """The figures of a chart, a row for each member; returns how many columns name it."""
    chart = shown.chart
    sheet.write_string(0, 0, title, formats.of(bold=True, font_size=14))
    sheet.write_string(1, 0, phrase, formats.of(font_color="#665f58"))
    headings = chart.grid.rows.headings
    titles = [heading_name(each) for each in headings] or row_titles(chart.grid) or [""]
    head = formats.of(bold=True, bottom=1)
    for place, text in enumerate(titles):
        sheet.write_string(_TOP, place, text, head)
    for place, each in enumerate(shown.series):
        sheet.write_string(_TOP, len(titles) + place, each.label, formats.of(bold=True, bottom=1, align="right"))
    for row, (cat, line) in enumerate(zip(shown.cats, shown.figures, strict=True), start=_TOP + 1):
        parts = cat.group.split(" · ") if cat.group else []
        texts = [*parts, cat.label] if len(parts) + 1 == len(titles) else [*[""] * (len(titles) - 1), cat.name]
        for place, text in enumerate(texts):
            sheet.write_string(row, place, text)
        for place, (each, figure) in enumerate(zip(shown.series, line, strict=True)):
            style = chart.styles[each.measure]
            pattern = formats.of(num_format=sheet_pattern(style))
            if math.isfinite(figure):
                sheet.write_number(row, len(titles) + place, figure / 24 if style.clock else figure, pattern)
            else:
                sheet.write_blank(row, len(titles) + place, None, pattern)
    sheet.freeze_panes(_TOP + 1, len(titles))
    sheet.set_column(0, len(titles) - 1, 22)
    sheet.set_column(len(titles), len(titles) + len(shown.series) - 1, 14)
    return len(titles)


def _real_chart(book: Any, sheet: str, known: Known, shown: Plotted, labels: int, theme: Theme) -> Any:
    made = book.add_chart({"type": known.family} | ({"subtype": known.subtype} if known.subtype else {}))
    over = book.add_chart({"type": "line"}) if known.lines and len(shown.series) > 1 else None
    first, last = _TOP + 1, _TOP + len(shown.cats)
    strong = shown.strong() if len(shown.series) == 1 else frozenset(range(len(shown.cats)))
    unit = shown.chart.styles[shown.series[0].measure].unit
    for place, each in enumerate(shown.series[:1] if known.family in _ROUND else shown.series):
        column = labels + place
        ink = _hex(each.ink, theme)
        series: dict[str, Any] = {
            "name": [sheet, _TOP, column],
            "categories": [sheet, first, 0, last, labels - 1],
            "values": [sheet, first, column, last, column],
        }
        if known.family in ("column", "line") and shown.chart.styles[each.measure].unit != unit:
            series["y2_axis"] = True  # a scale of its own, as in ours
        if over is not None and place:
            over.add_series(series | {"line": {"color": ink, "width": 2.0}, "marker": {"type": "circle", "size": 5}})
            continue
        if known.family in _ROUND:
            series["points"] = [{"fill": {"color": own}} for own in _member_inks(shown, theme)]
        elif known.family == "line":
            series |= {"line": {"color": ink, "width": 2.0}}
        else:
            series |= {"fill": {"color": ink}, "border": {"none": True}, "gap": 45}
            if len(strong) < len(shown.cats):
                pale = {"fill": {"color": _hex(each.ink.pale(), theme)}}
                series["points"] = [None if at in strong else pale for at in range(len(shown.cats))]
        made.add_series(series)
    if over is not None:
        made.combine(over)
    if not shown.named and known.family not in _ROUND:
        made.set_legend({"none": True})
    if known.family not in _ROUND:
        line = {"line": {"none": True}, "major_gridlines": {"visible": True, "line": {"color": theme.hex("hairline")}}}
        made.set_y_axis(line if known.family != "bar" else {"line": {"none": True}, "reverse": True})
        made.set_x_axis(line if known.family == "bar" else {"line": {"color": theme.hex("hairline")}})
        if known.family == "bar":  # the first member stands on top, as in ours
            made.set_x_axis({"major_gridlines": {"visible": True, "line": {"color": theme.hex("hairline")}}})
            made.set_y_axis({"reverse": True, "line": {"none": True}})
    return made


def _member_inks(shown: Plotted, theme: Theme) -> list[str]:
    axis = shown.chart.grid.rows
    if not axis.headings:
        return [_hex(shown.series[0].ink, theme)]
    inks = [member_ink(axis, cat.path[-1], shown.chart.look.inks) for cat in shown.cats if cat.path]
    return [_hex(each, theme) for each in inks]


def _hex(ink: Ink, theme: Theme) -> str:
    return theme.hex(ink.token, ink.strength, "sheet")


def _put_picture(sheet: Any, answer: PanelAnswer, content: BoardContent, column: int) -> None:
    chart: Chart | None = answer.chart
    if chart is None or content.picture is None:
        return
    from summula.core.charts import draw

    data = content.picture(draw(chart, Canvas(*_PICTURE)))
    name = f"{chart.form} of {', '.join(chart.grid.names)}"
    sheet.insert_image(_TOP, column, "chart.png", {"image_data": io.BytesIO(data), "description": printable(name)})


def _put_key_figures(sheet: Any, formats: SheetFormats, keys: list[PanelAnswer]) -> None:
    sheet.write_string(0, 0, "Key figures", formats.of(bold=True, font_size=14))
    head = formats.of(bold=True, bottom=1)
    for place, text in enumerate(("Figure", "Value", "Change", "Against")):
        sheet.write_string(_TOP, place, text, head)
    for row, answer in enumerate(keys, start=_TOP + 1):
        key = answer.key_figure
        assert key is not None
        sheet.write_string(row, 0, key.title)
        if math.isfinite(key.value):
            shown = key.value / 24 if key.style.clock else key.value
            sheet.write_number(row, 1, shown, formats.of(num_format=sheet_pattern(key.style)))
        if math.isfinite(key.change):
            sheet.write_number(row, 2, key.change, formats.of(num_format="+0.0%;-0.0%"))
            sheet.write_string(row, 3, key.against)
    sheet.freeze_panes(_TOP + 1, 1)
    sheet.set_column(0, 0, 30)
    sheet.set_column(1, 3, 18)


def _put_about(sheet: Any, formats: SheetFormats, content: BoardContent, said: list[tuple[str, str, str]]) -> None:
    """Sources, slicing, levers, and what each panel asks."""
    board, folio = content.board, content.folio
    bold, muted = formats.of(bold=True), formats.of(font_color="#665f58")
    sheet.write_string(0, 0, board.name, formats.of(bold=True, font_size=14))
    sheet.write_string(1, 0, folio.name, muted)
    lines: list[tuple[str, str]] = []
    if content.foot:
        for entry in folio.tables:
            if entry.id in content.tables:
                source = entry.source.place.replace("\\", "/").rpartition("/")[2]
                parts = [source, f"read {entry.source.read_at[:10]}" if entry.source.read_at else ""]
                rows = f"{content.tables[entry.id].rows:,} rows" if content.tells_all else ""
                lines.append((f"Table {entry.name}", " · ".join(filter(None, [*parts, rows]))))
    lines += [("Sliced", slicer_words(each)) for each in board.slicers if each.narrows]
    lines += [(f"Lever {each.name}", f"{each.value:g}") for each in folio.levers]
    at = 3
    for name, text in lines:
        sheet.write_string(at, 0, name, bold)
        sheet.write_string(at, 1, text)
        at += 1
    at += 1
    for place, text in enumerate(("Panel", "Phrase", "Sheet")):
        sheet.write_string(at, place, text, formats.of(bold=True, bottom=1))
    for title, phrase, name in said:
        at += 1
        for place, text in enumerate((title, phrase, name)):
            sheet.write_string(at, place, text)
    sheet.set_column(0, 0, 28)
    sheet.set_column(1, 1, 80)
    sheet.set_column(2, 2, 24)
