"""The rows of a piece of a sheet, read by the workbook reader; and many such, put together."""

from __future__ import annotations

import logging
from concurrent.futures import Future, ThreadPoolExecutor
from typing import TYPE_CHECKING, Any, NamedTuple

import fastexcel
import msgspec
import numpy as np
import polars as pl
from numpy.typing import NDArray

from summula.core.reading.room import keep_room
from summula.core.reading.sheet import Cut, ErrorCell

if TYPE_CHECKING:
    from collections.abc import Iterable, Iterator

    from summula.core.watch import Watch

_THREADS = 2
_NUMBERS, _DAYS = {pl.Int64, pl.Float64}, {pl.Date, pl.Datetime}
_OF_DAYS_OWN = 1899  # times of day come as of the last days of this year
_STAMP = len("2024-05-31 00:00:00")
for _name in ("fastexcel", "calamine"):  # they warn of each column without values
    logging.getLogger(_name).setLevel(logging.ERROR)


class Look(NamedTuple):
    """The first rows of a sheet as text: from its row `top` and its column `left` on (both from 0)."""

    text: pl.DataFrame
    top: int
    left: int = 0

    @property
    def filled(self) -> bool:
        return any(series.null_count() < len(series) for series in self.text)


class Rows(msgspec.Struct, frozen=True):
    """Columns by place, and where each row stands in the sheet (from 0). Some cell of the columns `flags` is true or
    false."""

    frame: pl.DataFrame
    places: NDArray[np.int64]
    errors: tuple[ErrorCell, ...] = ()
    flags: frozenset[int] = frozenset()


def look_at(cut: Cut) -> Look:
    """A piece as text."""
    piece = cut.piece()
    text = _load(fastexcel.read_excel(piece.book), 0, "string", header=None if piece.below else 0)
    text = pl.DataFrame([_as_shown(series).alias(series.name) for series in text])
    if not piece.below:
        return Look(text, piece.row)
    return Look(
        text[:-1], piece.row + piece.rows - (text.height - 1)
    )  # blank rows above the first filled one are left out


def read_cut(cut: Cut, as_text: frozenset[int]) -> Rows:
    """A piece's rows with the types of their cells; those of some columns as text."""
    piece = cut.piece()
    book = fastexcel.read_excel(piece.book)
    if not piece.below:
        frame = _typed(book, 0, as_text, header=0)
        return Rows(frame, np.arange(frame.height) + piece.row, piece.errors, piece.flags)
    rows = _load(book, 0, "string", header=None).height - 1
    frame = _typed(book, 0, as_text, header=None, rows=rows)
    return Rows(frame, np.arange(rows) + (piece.row + piece.rows - rows), piece.errors, piece.flags)


def look_at_whole(book: fastexcel.ExcelReader, sheet: str, rows: int | None) -> Look:
    """So many rows of a sheet that is not cut, as text."""
    return Look(_load(book, sheet, "string", header=None, skip=0, rows=rows), 0)


def read_whole(book: fastexcel.ExcelReader, sheet: str, first: int) -> Rows:
    """The rows of such a sheet from `first` on."""
    frame = _typed(book, sheet, frozenset(), header=None, skip=first)
    return Rows(frame, np.arange(frame.height) + first)


def moved(frame: pl.DataFrame, columns: int) -> pl.DataFrame:
    """With so many blank columns before the others."""
    blank = pl.Series([None], dtype=pl.String).new_from_index(0, frame.height)
    return pl.DataFrame([*(blank.alias(f"before {at}") for at in range(columns)), *frame.get_columns()])


def _typed(book: fastexcel.ExcelReader, sheet: str | int, as_text: frozenset[int], **rows: int | None) -> pl.DataFrame:
    try:
        return _load(book, sheet, dict.fromkeys(sorted(as_text), "string") or None, **rows)
    except fastexcel.FastExcelError:  # cells that do not go together
        return _load(book, sheet, "string", **rows)


def _load(
    book: fastexcel.ExcelReader,
    sheet: str | int,
    kinds: Any,
    *,
    header: int | None,
    skip: int | None = None,
    rows: int | None = None,
) -> pl.DataFrame:
    loaded = book.load_sheet(
        sheet, header_row=header, skip_rows=skip, n_rows=rows, schema_sample_rows=None, dtypes=kinds
    )
    frame: pl.DataFrame = loaded.to_polars()
    return frame.rename({name: f"{at}" for at, name in enumerate(frame.columns)})


def in_turn(cuts: Iterable[Cut], as_text: frozenset[int], watch: Watch) -> Iterator[Rows]:
    """The rows of all pieces, in their order, some under way in other threads."""
    rows = 0
    keep_room()
    with ThreadPoolExecutor(_THREADS) as threads:
        under_way: list[Future[Rows]] = []
        try:
            for cut in cuts:
                under_way.append(threads.submit(read_cut, cut, as_text))
                if len(under_way) > _THREADS:
                    read = under_way.pop(0).result()
                    rows += read.frame.height
                    watch(rows)
                    yield read
            while under_way:
                read = under_way.pop(0).result()
                rows += read.frame.height
                watch(rows)
                yield read
        finally:
            for each in under_way:
                each.cancel()


def mixed_columns(parts: list[Rows]) -> frozenset[int]:
    """The columns whose values are of kinds that do not go together from piece to piece."""
    flags = frozenset[int]().union(*(part.flags for part in parts))  # among numbers, the reader takes them for 1 and 0
    types = {at: _type(parts, at) for at in range(_width(parts))}
    return frozenset(at for at, kind in types.items() if kind is None or (at in flags and kind in _NUMBERS))


def _width(parts: list[Rows]) -> int:
    return max((part.frame.width for part in parts), default=0)


def _columns(parts: list[Rows], at: int) -> Iterator[pl.Series]:
    return (part.frame.to_series(at) for part in parts if at < part.frame.width)


def _type(parts: list[Rows], at: int) -> pl.DataType | None:
    """The type that holds a column's values in all pieces; None where there is none."""
    types = {each.dtype for each in _columns(parts, at) if each.null_count() < len(each)}
    if len(types) <= 1:
        return next(iter(types), pl.String())
    kinds = {each.base_type() for each in types}
    if kinds <= _NUMBERS:
        return pl.Float64()
    return pl.Datetime("ms") if kinds <= _DAYS else None


def joined(parts: list[Rows]) -> Rows:
    """All rows as one, columns that a piece lacks blank there. What is of mixed kinds has been read as text."""
    series = []
    for at in range(_width(parts)):
        wanted = _type(parts, at) or pl.String()
        pieces = []
        for part in parts:
            found = part.frame.to_series(at) if at < part.frame.width else None
            if found is None or found.null_count() == len(found):
                found = pl.Series([None], dtype=wanted).new_from_index(0, part.frame.height)
            pieces.append(found if found.dtype == wanted else found.cast(wanted))
        whole = pl.concat(pieces)
        # Lengths of time ([h]:mm) come as such; times of day as of a day of their own.
        series.append((whole if whole.dtype == pl.Duration else _as_shown(whole)).alias(f"{at}"))
    places = np.concatenate([part.places for part in parts]) if parts else np.zeros(0, np.int64)
    return Rows(pl.DataFrame(series), places, tuple(error for part in parts for error in part.errors))


def _as_shown(column: pl.Series) -> pl.Series:
    """Times of day and lengths of time as text, as a sheet shows them: it counts them from a day of its own. Days among
    text without the midnight that the reader adds."""
    if column.dtype == pl.Duration:
        seconds = (column.dt.total_milliseconds() / 1000).round().cast(pl.Int64)
        sign = pl.when(seconds < 0).then(pl.lit("-")).otherwise(pl.lit(""))
        parts = [seconds.abs() // 3600, seconds.abs() // 60 % 60, seconds.abs() % 60]
        hours, minutes, rest = (part.cast(pl.String) for part in parts)
        text = pl.concat_str(sign, hours, pl.lit(":"), minutes.str.zfill(2), pl.lit(":"), rest.str.zfill(2))
        return pl.select(pl.when(seconds.is_not_null()).then(text)).to_series()
    if column.dtype == pl.Datetime:
        if not (column.dt.year() <= _OF_DAYS_OWN).all():
            return column
        return column.dt.strftime("%H:%M:%S" if (column.dt.second() != 0).any() else "%H:%M")
    if column.dtype == pl.String and (column.str.len_bytes() == _STAMP).any():
        shown = column.str.replace(r"^(\d{4}-\d\d-\d\d) 00:00:00$", "$1")
        return shown.str.replace(r"^1899-12-3[01] (\d\d:\d\d:\d\d)$", "$1")
    return column
