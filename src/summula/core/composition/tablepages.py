"""A table as a page: its name, how many rows it has, its fields with their kinds, and its first rows."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.charts.scene import XY, Ink, Line, Mark, Text, fitted
from summula.core.composition.composition import Composition, Foot
from summula.core.composition.surroundings import bare_page, bare_room, surroundings
from summula.core.fields.figures import plural as counted
from summula.core.tables.column import NumberColumn
from summula.core.tables.rows import with_rows
from summula.core.theme.typefaces import text_width

if TYPE_CHECKING:
    from summula.core.tables.table import Table

_ROW, _SIZE, _GAP = 22.0, 12.0, 18.0
_WIDEST = 240.0


def compose_table(table: Table, size: XY, stated: Foot = Foot()) -> Composition:  # noqa: B008
    """As many rows and fields as have room on one page; what has none is said."""
    words = f"{counted(table.rows, 'row')}, {counted(len(table.fields), 'field')}"
    around = surroundings(table.name, words, stated, size)
    if around is None:
        page = bare_page(table.name, _cells(table, bare_room(size)), size)
    else:
        page = around.page(_cells(table, around.room))
    return Composition(table.name, (page,))


def _cells(table: Table, room: XY) -> tuple[Mark, ...]:
    from summula.core.tables.texts import texts_of  # polars is read when it is needed

    rows = min(table.rows, max(1, int((room[1] - 3 * _ROW) // _ROW)))
    first = with_rows(table, np.arange(rows, dtype=np.int64))
    marks: list[Mark] = []
    x, shown = 0.0, 0
    for field, column in zip(first.fields, first.columns, strict=True):
        texts = [text or "" for text in texts_of(field.name, column).to_list()]
        widest = max(text_width(each, _SIZE, 400) for each in (*texts, field.kind))
        width = min(max(widest, text_width(field.name, _SIZE, 600)), _WIDEST)
        if shown and x + width > room[0]:
            break
        right = isinstance(column, NumberColumn)
        at, align = (x + width, "right") if right else (x, "left")
        name = fitted(field.name, width, _SIZE, 600, text_width)
        marks.append(Text(at, 12, name, Ink("text"), _SIZE, 600, align, full=field.name))  # type: ignore[arg-type]
        marks.append(Text(at, 28, field.kind, Ink("muted"), 11, align=align))  # type: ignore[arg-type]
        for row, text in enumerate(texts):
            cut = fitted(text, width, _SIZE, 400, text_width)
            y = 28 + (row + 1) * _ROW
            marks.append(Text(at, y, cut, Ink("text"), _SIZE, align=align, full=text))  # type: ignore[arg-type]
        x += width + _GAP
        shown += 1
    marks.append(Line(((0, 35), (room[0], 35)), Ink("ink", 0.9)))
    more = [counted(table.rows - rows, "row")] if table.rows > rows else []
    more += [counted(len(table.fields) - shown, "field")] if len(table.fields) > shown else []
    if more:
        words = f"{' and '.join(more)} more than fit here"
        marks.append(Text(0, 28 + (rows + 1) * _ROW + 12, words, Ink("muted"), 11))
    return tuple(marks)
