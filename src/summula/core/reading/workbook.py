"""The reader for workbooks: XLSX, XLS, ODS. A file from a stranger is measured before it is unpacked."""

from __future__ import annotations

import re
import zipfile
import zlib
from itertools import islice, takewhile
from typing import TYPE_CHECKING, NamedTuple

import fastexcel
import numpy as np
import polars as pl
from msgspec.structs import replace

from summula.core.reading.contents import content_of
from summula.core.reading.delimited import head_setting
from summula.core.reading.heads import MOST_FIELDS, Heads, clear_names, find_heads
from summula.core.reading.oldsheet import old_sheet_cells, refuse_far_old_cells
from summula.core.reading.raw import Raw, signs_of
from summula.core.reading.readas import ReadAs, Setting
from summula.core.reading.sheet import Cut, Merged, NotCut, Sheet, column_number, refuse_far_cells
from summula.core.reading.sheetfiles import opened_sheet, sheet_names
from summula.core.reading.sheetrows import (
    Look,
    Rows,
    in_turn,
    joined,
    look_at,
    look_at_whole,
    mixed_columns,
    moved,
    read_whole,
)
from summula.core.reading.sheettables import LAST_ROW, letters_of, tables_on
from summula.core.refusal import Refusal, with_capital
from summula.core.tables.column import Refused
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from collections.abc import Iterator
    from pathlib import Path

    from summula.core.tables.field import Kind
    from summula.core.tables.sensing import Signs

# Beyond these a workbook is a bomb rather than a table: a sheet has at most 1,048,576 rows.
_MOST_UNPACKED = 4 * 1024**3
_MOST_RATIO = 400
_LOOKED_AT = 200
_MOST_TOLD = 4  # names in a sentence
_SHOWN_AREAS = 20
_COVER = 12  # rows of a sheet of words, at most
_MOST_LOOKED_INTO = 100  # sheets, until one with cells is found
_SEALED = bytes.fromhex("d0cf11e0a1b11ae1")  # how a file begins that holds an encrypted workbook
_FAULTS = (fastexcel.FastExcelError, pl.exceptions.PolarsError, ValueError)
_LONGEST_REASON = 60  # letters; what is longer speaks of the reader's own workings
_AREA = re.compile(r"^([A-Z]{1,3})(\d{1,7}):([A-Z]{1,3})(\d{1,7})$")


class Area(NamedTuple):
    """A block of cells: its first and last row and column, counted from 0. Whole sheets end nowhere."""

    top: int = 0
    left: int = 0
    bottom: int = 1 << 40
    right: int = 1 << 40


class Found(NamedTuple):
    """What a sheet holds: its heads, counted from the row `top` and the column `left` of the sheet (from 0), and the
    rows after them; `more` rows follow that were not read."""

    heads: Heads
    top: int
    left: int
    rows: Rows
    more: bool = False
    merged: tuple[int, ...] = ()  # columns of the sheet with cells merged downwards
    areas: tuple[str, ...] = ()  # of several tables on the sheet


def read_workbook(path: Path, read_as: ReadAs, kinds: dict[str, Kind], watch: Watch) -> Raw:
    """One sheet (the first with cells unless said); titles above the table and blank rows are left out."""
    return _read(path, read_as, watch, whole=True)[0]


def preview_workbook(path: Path, read_as: ReadAs) -> tuple[Raw, bool]:
    """The first rows at least, and whether they are all."""
    raw, more = _read(path, read_as, unwatched, whole=False)
    return raw, not more


def _read(path: Path, read_as: ReadAs, watch: Watch, *, whole: bool) -> tuple[Raw, bool]:
    area = _area(read_as.area) if read_as.area else Area()
    try:
        if content_of(path) == "xls":  # not a ZIP: cells are stored as they are
            refuse_far_old_cells(path, watch)
            names, sheet, found = _read_at_one_go(path, read_as, area)
        else:
            names, sheet, found = _read_archive(path, read_as, area, watch, whole=whole)
    except BaseException as fault:
        panic = type(fault).__name__ == "PanicException"  # no Exception, and of a class that cannot be imported
        if not panic and not isinstance(fault, _FAULTS):
            raise
        if "password" in str(fault):
            raise _locked(path) from None
        what = (str(fault).splitlines() or [""])[0].rpartition("error: ")[2]
        why = f" ({what})" if 0 < len(what) < _LONGEST_REASON and what.isprintable() and not panic else ""
        raise Refusal(
            f"'{path.name}' could not be read as a workbook{why}", "open it where it was made and save it again"
        ) from None
    watch(found.rows.frame.height)
    settings = (
        _sheet_setting(names, sheet, read_as),
        head_setting(found.heads, range(found.top + 1, found.top + found.heads.first + _LOOKED_AT)),
        *_areas_setting(found),
        *_merged_setting(found, read_as),
        *_formulas_told(found),
    )
    return _raw(found, settings, signs_of(read_as)), found.more


Names = list[tuple[str, bool]]  # of sheets, and whether each is hidden


def _sheet_setting(names: Names, sheet: str, read_as: ReadAs) -> Setting:
    choices = tuple((f"{name} (hidden)" if hidden else name, name) for name, hidden in names)
    if len(names) == 1:
        return Setting("sheet", sheet, "the only one", choices)
    others = [label for label, name in choices if name != sheet]
    some = ", ".join(others[:_MOST_TOLD]) + (
        f" and {len(others) - _MOST_TOLD:,} more" if len(others) > _MOST_TOLD else ""
    )
    notice = "" if read_as.sheet else f"read the sheet '{sheet}'; the file also has {some}"
    return Setting("sheet", sheet, f"one of {len(names)} in the file", choices, notice=notice)


def _areas_setting(found: Found) -> list[Setting]:
    """Several tables on a sheet are each offered; the first is read."""
    if not found.areas:
        return []
    shown = [area.replace(str(LAST_ROW), "…") for area in found.areas]
    notice = f"the sheet holds {len(shown)} tables ({', '.join(shown[:_MOST_TOLD])}); the first is read"
    choices = tuple(zip(shown[:_SHOWN_AREAS], found.areas, strict=False))
    return [Setting("area", shown[0], f"one of {len(found.areas)} tables on the sheet", choices, True, notice)]


def _merged_setting(found: Found, read_as: ReadAs) -> list[Setting]:
    """Cells that were merged downwards hold for every row beside them."""
    names = [
        found.heads.names[column - found.left]
        for column in found.merged
        if 0 <= column - found.left < len(found.heads.names)
    ]
    if not names:
        return []
    some = _some(names)
    value = "filled down" if read_as.merged else "left blank"
    choices = (("filled down", True), ("left blank", False))
    notice, offer = f"merged cells of {some} are {value}", "Leave blank" if read_as.merged else "Fill down"
    why = f"cells of {some} are merged"
    return [Setting("merged", value, why, choices, notice=notice, offer=offer, fields=tuple(names))]


def _formulas_told(found: Found) -> list[Setting]:
    """Formulas that nobody has worked out have no value to read."""
    cells = [each for each in found.rows.errors if each.text.startswith("=")]
    if not cells:
        return []
    places = ", ".join(f"{letters_of(each.column)}{each.row + 1}" for each in cells[:_MOST_TOLD])
    more = f" and {len(cells) - _MOST_TOLD:,} more" if len(cells) > _MOST_TOLD else ""
    notice = (
        f"the workbook holds formulas not yet worked out ({places}{more}): open it where it was made, and save it there"
    )
    return [Setting("formulas", f"{len(cells):,} without a value", with_capital(notice), notice=notice)]


def _some(names: list[str]) -> str:
    more = f" and {len(names) - _MOST_TOLD:,} more" if len(names) > _MOST_TOLD else ""
    return ", ".join(names[:_MOST_TOLD]) + more


def _read_archive(path: Path, read_as: ReadAs, area: Area, watch: Watch, *, whole: bool) -> tuple[Names, str, Found]:
    cover: tuple[Names, str, Found] | None = None
    try:
        with zipfile.ZipFile(path) as archive:
            _refuse_bomb(path, archive)
            _refuse_lies(path, archive)
            if _is_locked(archive):
                raise _locked(path)
            names = sheet_names(path, archive)
            for sheet in _wanted(path, read_as, names):
                cuts = opened_sheet(path, sheet, archive, chosen=bool(read_as.area))
                found = _read_cuts(cuts, area, read_as, watch, whole=whole)
                if found is not None and (read_as.sheet or not _is_cover(found)):
                    return names, sheet, found
                if found is not None:
                    cover = cover or (names, sheet, found)
            if cover is not None:
                return cover
    except (zipfile.BadZipFile, zlib.error, EOFError):
        with path.open("rb") as file:
            if file.read(len(_SEALED)) == _SEALED:
                raise _locked(path) from None
        raise Refusal(
            f"'{path.name}' is damaged or not a workbook", "open it where it was made and save it again"
        ) from None
    except (NotCut, KeyError, NotImplementedError):  # encrypted, or made in a way that is not known here
        if content_of(path) == "ods":
            raise Refusal(
                f"'{path.name}' holds no sheets that can be read", "open it where it was made and save it again"
            ) from None
        refuse_far_cells(path)
        return _read_at_one_go(path, read_as, area)
    raise _no_cells(path, read_as, names)


def _is_cover(found: Found) -> bool:
    """Whether a sheet holds a title and some words rather than a table."""
    frame = found.rows.frame
    filled = sum(series.null_count() < len(series) for series in frame)
    return frame.height == 0 or (filled < 2 and frame.height <= _COVER)


def _wanted(path: Path, read_as: ReadAs, names: Names) -> list[str]:
    """The sheet that was said, or all, hidden ones last: the first with cells is taken."""
    every = [name for name, _ in names]
    if read_as.sheet and read_as.sheet not in every:
        raise Refusal(f"no sheet '{read_as.sheet}' in '{path.name}'", "its sheets are " + ", ".join(every))
    if read_as.sheet:
        return [read_as.sheet]
    return [name for name, _ in sorted(names, key=lambda each: each[1])][:_MOST_LOOKED_INTO]


def _no_cells(path: Path, read_as: ReadAs, names: Names) -> Refusal:
    if read_as.area:
        return Refusal(f"'{read_as.area}' holds no cells", "choose another block of cells")
    if read_as.sheet and len(names) > 1:
        return Refusal(f"the sheet '{read_as.sheet}' of '{path.name}' is empty", "choose another sheet")
    if len(names) > _MOST_LOOKED_INTO:
        notice = f"the first {_MOST_LOOKED_INTO} of the {len(names):,} sheets of '{path.name}' are empty"
        return Refusal(notice, "choose a sheet")
    return Refusal(f"'{path.name}' is empty", "choose a workbook with a header row")


def _read_cuts(sheet: Sheet, area: Area, read_as: ReadAs, watch: Watch, *, whole: bool) -> Found | None:
    """A sheet piece by piece; None where it has no cells."""
    look = next((look for cut in _within(sheet.cuts(area.top), area) if (look := look_at(cut)).filled), None)
    if look is None:
        return None
    if look.top < area.top:  # a row that repeats may begin above
        look = Look(look.text[area.top - look.top :], area.top)
    areas = () if read_as.area else tables_on(look)
    if areas:  # the first of several tables, with what stands above it
        area = _area(areas[0])._replace(top=0)
    heads, left = _heads(look, area, read_as)

    def read(as_text: frozenset[int]) -> tuple[list[Rows], bool]:
        cuts = _within(sheet.cuts(look.top + heads.first), area)
        parts = list(in_turn(cuts if whole else islice(cuts, 1), as_text, watch))
        return parts, not whole and next(cuts, None) is not None

    parts, more = read(frozenset())
    if mixed := mixed_columns(parts):
        parts, more = read(mixed)
    rows = joined(parts)
    merged = [each for each in sheet.merged if each.top >= look.top + heads.first]
    if read_as.merged:
        rows = _filled_down(rows, merged)
    columns = tuple(sorted({each.left for each in merged}))
    return _found(heads, look.top, left, area, rows)._replace(more=more, merged=columns, areas=areas)


def _filled_down(rows: Rows, merged: list[Merged]) -> Rows:
    """Cells that were merged downwards, each with the value of all."""
    columns = rows.frame.get_columns()
    for column in {each.left for each in merged if each.left < len(columns)}:
        sources = np.arange(rows.frame.height)
        for each in merged:
            if each.left == column:
                first, last = np.searchsorted(rows.places, (each.top, each.bottom + 1))
                if first < last and rows.places[first] == each.top:
                    sources[first:last] = first
        columns[column] = columns[column].gather(sources)
    return replace(rows, frame=pl.DataFrame(columns)) if columns else rows


def _within(cuts: Iterator[Cut], area: Area) -> Iterator[Cut]:
    return takewhile(lambda cut: cut.start <= area.bottom, cuts)


def _heads(look: Look, area: Area, read_as: ReadAs) -> tuple[Heads, int]:
    """The heads among the first rows, and the column in which they begin."""
    text = look.text[: min(_LOOKED_AT, area.bottom - look.top + 1)]
    filled = [at for at, series in enumerate(text) if series.null_count() < len(series)]
    left = max(area.left, filled[0] + look.left if filled else 0)
    text = text[:, left - look.left : max(area.right + 1 - look.left, 0)]
    if text.width == 0 or text.height == 0:
        raise Refusal(f"'{read_as.area}' holds no cells", "choose another block of cells")
    rows = [list(row) for row in text.select(pl.all().fill_null("")).rows()]
    if read_as.head and not 0 < read_as.head - look.top <= len(rows):
        notice = f"there is no row {read_as.head:,} among the rows {look.top + 1:,} to {look.top + len(rows):,}"
        raise Refusal(notice, "choose another header row")
    return find_heads(rows, read_as.head - look.top if read_as.head else read_as.head, read_as.head_rows), left


def _found(heads: Heads, top: int, left: int, area: Area, rows: Rows) -> Found:
    """The rows that hold anything, within the area. What stands beside the heads is kept, as fields of their own."""
    frame, places = rows.frame, rows.places
    filled = np.isin(places, [error.row for error in rows.errors])
    if frame.width:
        filled |= ~frame.select(pl.all_horizontal(pl.all().is_null())).to_series().to_numpy()
    filled &= (places >= top + heads.first) & (places <= area.bottom)
    if not filled.all():
        frame, places = frame.filter(pl.Series(filled)), places[filled]
    kept = set(places.tolist()) if rows.errors else set()
    used = {at for at, series in enumerate(frame) if series.null_count() < len(series)}
    used |= {error.column for error in rows.errors if error.row in kept}
    begin = max(area.left, min({left, *used}))
    end = min(area.right + 1, max({left + len(heads.names), *(at + 1 for at in used)}))
    if end - begin > MOST_FIELDS:
        notice = f"the table has {end - begin:,} fields, more than the {MOST_FIELDS:,} that can be held"
        raise Refusal(notice, "choose a part of it")
    units = (*[""] * (left - begin), *heads.units)[: end - begin] if heads.units else ()
    names = clear_names([*[""] * (left - begin), *heads.names, *[""] * (end - left - len(heads.names))][: end - begin])
    blank = pl.Series("", [None], dtype=pl.String).new_from_index(0, frame.height)
    columns = [frame.to_series(at) if at < frame.width else blank for at in range(begin, end)]
    frame = pl.DataFrame([column.alias(f"{at}") for at, column in enumerate(columns)])
    heads = replace(heads, names=tuple(names), units=units)
    return Found(heads, top, begin, Rows(frame, places, rows.errors))


def _raw(found: Found, settings: tuple[Setting, ...], signs: Signs) -> Raw:
    heads, rows = found.heads, found.rows
    place = {int(row): at for at, row in enumerate(rows.places)} if rows.errors else {}
    errors = tuple(
        (heads.names[each.column - found.left], Refused(place[each.row], each.text))
        for each in rows.errors
        if each.row in place and 0 <= each.column - found.left < len(heads.names)
    )
    frame = rows.frame
    fields = frame.get_columns()
    return Raw(heads.names, fields, frame.height, settings=settings, signs=signs, errors=errors, units=heads.units)


def _read_at_one_go(path: Path, read_as: ReadAs, area: Area) -> tuple[Names, str, Found]:
    """An XLS file, or one of a make that cannot be cut into pieces."""
    named_so = path.suffix.lower().removeprefix(".") == content_of(path)  # it goes by the name where it can
    book = fastexcel.read_excel(str(path) if named_so else path.read_bytes())
    names = [(name, False) for name in book.sheet_names]
    for sheet in _wanted(path, read_as, names):
        look = look_at_whole(book, sheet, area.top + _LOOKED_AT)
        if not look.filled:
            look = look_at_whole(book, sheet, None)
        look = look._replace(text=look.text[area.top :], top=area.top)
        if not look.filled:
            continue
        left, errors = old_sheet_cells(path, sheet) if read_as.area else (0, ())
        heads, begin = _heads(look._replace(left=left), area, read_as)
        rows = read_whole(book, sheet, look.top + heads.first)
        if not read_as.area and any(series.null_count() for series in rows.frame):  # error cells are read as blanks
            left, errors = old_sheet_cells(path, sheet)
            begin += left
        rows = joined([replace(rows, frame=moved(rows.frame, left), errors=errors)])
        return names, sheet, _found(heads, look.top, begin, area, rows)
    raise _no_cells(path, read_as, names)


def _area(area: str) -> Area:
    """The block of cells that "B3:H200" says."""
    found = _AREA.match(area.upper().replace("$", "").replace(" ", ""))
    if found is None:
        raise Refusal(f"'{area}' is not a block of cells", "enter a range such as B3:H200")
    left, right = column_number(found[1]) - 1, column_number(found[3]) - 1
    top, bottom = int(found[2]) - 1, int(found[4]) - 1
    if left > right or top > bottom or top < 0:
        raise Refusal(f"'{area}' holds no cells", "put the first cell first: B3:H200")
    return Area(top, left, bottom, right)


def _locked(path: Path) -> Refusal:
    return Refusal(f"'{path.name}' is locked with a password", "save it without a password")


def _is_locked(archive: zipfile.ZipFile) -> bool:
    """Whether an ODS file says that its parts are encrypted."""
    try:
        with archive.open("META-INF/manifest.xml") as stream:
            return b"encryption-data" in stream.read(4 * 1024**2)
    except KeyError:
        return False


_UNIQUE = re.compile(rb"uniqueCount\s*=\s*[\"'](\d+)")
_LEAST_TEXT = 5  # bytes of an entry: <si/>


def _refuse_lies(path: Path, archive: zipfile.ZipFile) -> None:
    """Refuses a list of texts that says it has more than its bytes could hold: room is made for what it says."""
    for info in archive.infolist():
        if info.filename.lower().endswith("sharedstrings.xml"):
            with archive.open(info) as stream:
                head = stream.read(4096).partition(b"<si")[0]
            if any(len(each) > 12 or int(each) * _LEAST_TEXT > info.file_size for each in _UNIQUE.findall(head)):
                raise Refusal(
                    f"'{path.name}' is damaged: it says that it holds more texts than it has",
                    "open it where it was made and save it again",
                )


def _refuse_bomb(path: Path, archive: zipfile.ZipFile) -> None:
    packed = sum(info.compress_size for info in archive.infolist())
    unpacked = sum(info.file_size for info in archive.infolist())
    if unpacked > _MOST_UNPACKED or (unpacked > 64 * 1024**2 and unpacked > packed * _MOST_RATIO):
        raise Refusal(
            f"'{path.name}' would unpack to {unpacked // 1024**2:,} MB, far more than a sheet can hold",
            "it may be malicious; check where it comes from",
        )
