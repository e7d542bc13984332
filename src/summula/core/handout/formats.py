"""The formats that pages and figures are handed out in, one row each. Menu, find-anything, save dialog and command line
loop over them; what they take and how they are made is said nowhere else."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Any, Literal

import msgspec

from summula.core.charts.chart import PLAIN, SummaryLook
from summula.core.composition.composition import Composition, one_page
from summula.core.engine.grid import Grid
from summula.core.grids.measurestyle import styled
from summula.core.refusal import Refusal
from summula.core.theme.palettes import theme_of

if TYPE_CHECKING:
    from summula.core.handout.boardcontent import BoardContent

Takes = Literal["page", "board", "figures"]
_WORDS: dict[Takes, str] = {"page": "This page", "board": "This page", "figures": "Figures of this summary"}


class Figures(msgspec.Struct, frozen=True, eq=False):
    """The answer of a summary: its grid, how it looks, its name, its phrase as text; `record` is its exact JSON."""

    grid: Grid
    name: str
    phrase: str
    look: SummaryLook = PLAIN
    record: Callable[[], dict[str, Any]] | None = None


class Format(msgspec.Struct, frozen=True):
    """`takes`: whole pages (a Composition), a board with what answers it (a BoardContent), or the figures of a summary.
    `make` makes the file's content. `hint`: what it is good for. `shown`: whether it can be shown where it was asked (a
    terminal). `pages`: whether it holds several pages. `live`: whether it answers to slicers."""

    key: str
    name: str
    suffix: str
    takes: Takes
    make: Callable[[Any], bytes]
    shown: bool = False
    hint: str = ""
    pages: bool = False
    live: bool = False

    @property
    def words(self) -> str:
        """What it hands out, in words."""
        return f"{_WORDS[self.takes]} as {self.name}"


def _svg(composition: Composition) -> bytes:
    from summula.core.handout.svg import svg_text

    page = one_page(composition)
    return svg_text(page.scene, page.name, ground=page.ground, theme=theme_of(composition.palette)).encode("utf-8")


def _rows(figures: Figures, *, exact: bool) -> list[list[str]]:
    from summula.core.grids.records import laid_out

    look, grid = figures.look.grid, figures.grid
    styles = tuple(styled(own, look.style_of(at)) for at, own in enumerate(grid.styles))
    return laid_out(grid, exact=exact, layout=look.layout, styles=styles)


def _labels(figures: Figures) -> int:
    from summula.core.grids.lines import as_rows

    return max(figures.grid.rows.depth, 1) + as_rows(figures.grid, figures.look.grid.layout)


def _csv(figures: Figures) -> bytes:
    from summula.core.handout.delimited import csv_text

    return csv_text(_rows(figures, exact=True)).encode("utf-8")


def _markdown(figures: Figures) -> bytes:
    from summula.core.handout.markdown import markdown_text

    return markdown_text(_rows(figures, exact=False), _labels(figures)).encode("utf-8")


def _text(figures: Figures) -> bytes:
    from summula.core.handout.plain import aligned

    return aligned(_rows(figures, exact=False), _labels(figures)).encode("utf-8")


def _json(figures: Figures) -> bytes:
    import json

    from summula.core.grids.records import json_record

    record = figures.record() if figures.record is not None else json_record(figures.grid, figures.grid.phrase)
    return (json.dumps(record, ensure_ascii=False) + "\n").encode("utf-8")


def _arrow(figures: Figures) -> bytes:
    from summula.core.handout.columnar import arrow_bytes

    return arrow_bytes(figures.grid)


def _parquet(figures: Figures) -> bytes:
    from summula.core.handout.columnar import parquet_bytes

    return parquet_bytes(figures.grid)


def _xlsx(figures: Figures) -> bytes:
    from summula.core.handout.workbook import fits, workbook_bytes

    if not fits(figures.grid):
        raise Refusal("a sheet cannot hold so many rows or columns", "export it as CSV")
    look = figures.look.grid
    return workbook_bytes(figures.grid, figures.name, figures.phrase, look.measures, look.layout)


def _pdf(composition: Composition) -> bytes:
    from summula.core.handout.pdf import pdf_bytes

    return pdf_bytes(composition, composition.on)


def _workbook(content: BoardContent) -> bytes:
    from summula.core.handout.boardworkbook import board_workbook

    return board_workbook(content)


def _html(content: BoardContent) -> bytes:
    from summula.core.handout.livepage import live_page

    return live_page(content).encode("utf-8")


FORMATS: tuple[Format, ...] = (
    Format("svg", "SVG", "svg", "page", _svg, hint="vector graphics, for editing"),
    Format("pdf", "PDF", "pdf", "page", _pdf, hint="for printing and reading", pages=True),
    Format("html", "HTML", "html", "board", _html, hint="for any browser, with interactive slicers", live=True),
    Format("workbook", "XLSX", "xlsx", "board", _workbook, hint="values of every panel, with charts"),
    Format("xlsx", "XLSX", "xlsx", "figures", _xlsx),
    Format("csv", "CSV", "csv", "figures", _csv, shown=True),
    Format("parquet", "Parquet", "parquet", "figures", _parquet, hint="detailed values, for other programs"),
    Format("arrow", "Arrow", "arrow", "figures", _arrow, hint="detailed values, for other programs"),
    Format("md", "Markdown", "md", "figures", _markdown, shown=True),
    Format("json", "JSON", "json", "figures", _json, shown=True),
    Format("text", "plain text", "txt", "figures", _text, shown=True),
)


def format_for(name: str, formats: tuple[Format, ...], *takes: Takes) -> Format:
    """The format that a file's name asks for; refuses one that is none of these."""
    suffix = name.rpartition(".")[2].lower() if "." in name else ""
    for each in formats:
        if each.takes in takes and each.suffix == suffix:
            return each
    known = " or ".join(f".{each.suffix}" for each in formats if each.takes in takes)
    raise Refusal(f"'{name}' does not end in a format that can be written", f"give it a name that ends in {known}")
