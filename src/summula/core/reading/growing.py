"""A field that grows block by block: exact numbers at once, text as codes into a dictionary."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any, Literal

import msgspec
import numpy as np
import polars as pl
from msgspec.structs import replace
from numpy.typing import NDArray

from summula.core.reading.digits import plain_numbers
from summula.core.reading.recognising import Known, Laid
from summula.core.tables.column import EXACT, Column, NumberColumn, Refused, smallest_code_type, stretches
from summula.core.tables.dictionary import encode_distinct, encode_repeating
from summula.core.tables.encoding import clean_text, encode, number_column, reading_for, sense_series
from summula.core.tables.few import MOST as MOST_FEW
from summula.core.tables.few import encode_few
from summula.core.tables.field import Kind, Sensed
from summula.core.tables.markers import is_marker, markers_in
from summula.core.tables.numerals import numbers_of
from summula.core.tables.script import told_of_unseen
from summula.core.tables.sensing import FIT, SENSE_ALL, Signs

Plan = Literal["whole", "number", "small", "text"]
_MOST_SMALL = 1_200  # small numbers
_REPEATS = 3  # rows a distinct value, at least, for a dictionary to be worth its while
_FEW = 2_000  # rows below which nothing is known yet about what repeats
_SELDOM = 8  # rows for each that is not known, at least, for telling the others by their bytes
_QUICKLY_MADE = 4_000  # texts
_SMALL, _SOME = 3, 0.9  # digits; the share of values that differ, at most, for a dictionary of them
_LONG = 15  # digits that a float64 holds exactly
_LEAST = np.array([-np.inf, -np.inf, *(10.0**digits for digits in range(1, 20))])  # whole numbers of so many digits


class PlanFailed(Exception):
    """A field is not what it began as: it has to be read by another plan."""

    def __init__(self, name: str, plan: Plan = "text") -> None:
        super().__init__(name)
        self.name, self.plan = name, plan


class Piece(msgspec.Struct, frozen=True):
    """What one block holds of one field: numbers (as whole units of 10**-decimals, where those are known), codes into
    the dictionary, or plain text."""

    values: NDArray[Any] | None = None
    decimals: int | None = None
    unfit: tuple[tuple[int, str], ...] = ()
    blank: NDArray[np.bool_] | None = None
    odd: bool = False  # numbers with leading zeros: digits that identify
    plain: pl.Series | None = None
    base: int = 0
    new: tuple[str, ...] = ()


def plan_for(sample: pl.Series, kind: Kind | None, sensed: Sensed) -> Plan:
    """Numbers that the whole file is likely to hold plainly are read as such, but for small ones: they are few,
    and each is read once. All else is text first. The sample has no spaces around its values."""
    if kind not in (None, "number") or (kind is None and sensed.kind != "number") or sensed.reading == "comma":
        return "text"
    present = sample.drop_nulls()
    long = (present.str.len_bytes() > _LONG) & ~present.str.contains(".", literal=True)
    if len(present) == 0 or bool(long.any()):
        return "text"
    if present.cast(pl.Float64, strict=False).null_count() > (1 - FIT) * len(present):
        return "text"
    if bool(present.str.contains(r"\.\d").any()):
        return "number"
    small = bool((present.str.len_bytes() <= _SMALL).all()) and present.n_unique() < _SOME * len(present)
    return "small" if small else "whole"


def parts_of(frame: pl.DataFrame, growing: Sequence[Growing]) -> list[Piece]:
    """What a block holds of each field.

    The plain case first, all fields in one go; where a block holds something else, field by field.
    """
    expected = {at: each for at, field in enumerate(growing) if (each := _expected(at, field)) is not None}
    found = _select(frame, list(expected.values()))
    parts = []
    for at, field in enumerate(growing):
        name = f"{at}"
        plain = found if found is not None else _select(frame, [expected[at]]) if at in expected else None
        values = plain[name] if plain is not None and at in expected else None
        if not field.coded:
            parts.append(_numbers(frame[name], values, whole=field.plan == "whole"))
        elif values is not None:
            parts.append(Piece(values.to_numpy(), base=len(field.known)))
        else:
            parts.append(_codes(frame[name], field.known))
    return parts


def parts_told(laid: Laid, growing: Sequence[Growing]) -> list[Piece] | None:
    """What a plain block holds of each field, told by its bytes; None where much is not known, or is no plain number:
    then parsing is quicker."""
    told_by = [field.told_by() for field in growing]  # once: they grow meanwhile
    if any(known is None and field.coded for field, known in zip(growing, told_by, strict=True)):
        return None
    parts = []
    most = max(laid.rows // _SELDOM, _FEW)
    for at, (field, known) in enumerate(zip(growing, told_by, strict=True)):
        if known is not None:
            codes, other = known.codes(laid, at)
            part = Piece(codes, base=known.size) if len(other) <= most else None
            if part is not None and len(other):
                part = _with_new(part, other, laid.texts(at, other))
        else:
            values, decimals, other = plain_numbers(laid, at, whole=field.plan == "whole")
            part = Piece(values, decimals) if len(other) <= most else None
            if part is not None and len(other):
                texts = pl.Series([text or None for text in laid.texts(at, other)], dtype=pl.String)
                part = _with_marked(part, other, _numbers(texts, None, whole=field.plan == "whole"))
        if part is None:
            return None
        parts.append(part)
    return parts


def _with_new(part: Piece, rows: NDArray[np.intp], texts: list[str]) -> Piece:
    """A part with some rows' texts, which are none of those known."""
    assert part.values is not None
    new = {text: part.base + at for at, text in enumerate(dict.fromkeys(texts), start=1)}
    values = part.values.astype(smallest_code_type(part.base + len(new)), copy=False)
    values[rows] = [new[text] for text in texts]
    return replace(part, values=values, new=tuple(new))


def _with_marked(part: Piece, rows: NDArray[np.intp], read: Piece) -> Piece:
    """Numbers with some rows' as they were read alone."""
    assert part.values is not None and read.values is not None
    decimals = _common_decimals([part, read])
    values = _in_units(part, decimals)
    values[rows] = _in_units(read, decimals)
    unfit = tuple((int(rows[at]), text) for at, text in read.unfit)
    blank = None
    if read.blank is not None:
        blank = np.zeros(len(values), dtype=np.bool_)
        blank[rows] = read.blank
    return Piece(values, decimals, unfit, blank, odd=read.odd)


def _common_decimals(parts: Sequence[Piece]) -> int | None:
    """The decimals that hold the numbers of all parts as whole units; None where those are not known, or too many."""
    if any(part.decimals is None for part in parts):
        return None
    decimals = max((part.decimals or 0 for part in parts), default=0)
    for part in parts:
        scale = 10.0 ** (decimals - (part.decimals or 0))
        if part.values is not None and scale > 1 and _largest(part.values) * scale >= EXACT:
            return None
    return decimals


def _in_units(part: Piece, decimals: int | None) -> NDArray[np.float64]:
    """A part's numbers as units of so many decimals, which are not fewer than its own; None says as they are."""
    assert part.values is not None
    values: NDArray[np.float64] = part.values
    if part.decimals == decimals:
        return values
    if decimals is None:
        return values / 10.0 ** (part.decimals or 0)
    return values * 10.0 ** (decimals - (part.decimals or 0))


def _largest(values: NDArray[np.float64]) -> float:
    return float(max(values.max(initial=0.0), -values.min(initial=0.0)))


def _select(frame: pl.DataFrame, wanted: list[pl.Expr]) -> pl.DataFrame | None:
    try:
        return frame.select(wanted)
    except pl.exceptions.PolarsError:
        return None


def _expected(at: int, field: Growing) -> pl.Expr | None:
    """What a field's values have been so far: numbers, or known texts as their codes."""
    text = pl.nth(at)
    if not field.coded:
        return text.cast(pl.Float64).alias(f"{at}")
    size, dictionary = field.dictionary()
    if size == 0:
        return None
    place = text.cast(dictionary).to_physical().cast(_unsigned(size))
    return (place + 1).fill_null(0).alias(f"{at}")


def _unsigned(size: int) -> type[pl.DataType]:
    return {1: pl.UInt8, 2: pl.UInt16}.get(smallest_code_type(size).itemsize, pl.UInt32)


def _numbers(texts: pl.Series, plain: pl.Series | None, *, whole: bool) -> Piece:
    numbers = texts.cast(pl.Float64, strict=False) if plain is None else plain
    values = numbers.fill_null(np.nan).to_numpy() if numbers.null_count() else numbers.to_numpy()
    odd = whole and _leading_zeros(texts, values)
    missing = ~np.isfinite(values)
    if not missing.any():
        return Piece(*_whole_units(values), odd=odd)
    rows = np.flatnonzero(missing & texts.is_not_null().to_numpy())
    unfit = tuple(zip(rows.tolist(), texts.gather(rows).to_list(), strict=True)) if len(rows) else ()
    return Piece(*_whole_units(np.where(missing, 0.0, values)), unfit, missing, odd=odd)


def _whole_units(values: NDArray[np.float64]) -> tuple[NDArray[np.float64], int | None]:
    """Numbers as units of the fewest decimals that hold them; as they are, and None, where there are too many."""
    column = number_column(values, None)
    known = column.decimals or np.array_equal(values, np.rint(values))
    return column.values, column.decimals if known else None


def _leading_zeros(texts: pl.Series, values: NDArray[np.float64]) -> bool:
    """Whether some number is written with more digits than it needs."""
    lengths = texts.str.len_bytes().fill_null(0).to_numpy()
    if not (values < _LEAST[np.minimum(lengths, len(_LEAST) - 1)]).any():
        return False  # signs and points make a number longer too, but most have none
    return bool((texts.str.starts_with("0").fill_null(False).to_numpy() & (values >= 1)).any())


def _codes(texts: pl.Series, known: pl.Series) -> Piece:
    """Codes from 1 into what is known, and beyond it into the part's own new values; 0 is a blank."""
    distinct = texts.unique(maintain_order=True).drop_nulls()
    fresh = distinct.filter(~distinct.is_in(known.implode())) if len(known) else distinct
    if len(fresh) * _REPEATS > len(texts) and len(texts) > _FEW:
        return Piece(plain=texts)
    both = pl.concat([known, fresh]) if len(known) else fresh
    codes = (texts.cast(pl.Enum(both)).to_physical().cast(pl.UInt32) + 1).fill_null(0).to_numpy()
    return Piece(codes.astype(smallest_code_type(len(both)), copy=False), base=len(known), new=tuple(fresh.to_list()))


class Growing(msgspec.Struct):
    """One field, so far. Blocks are added in their order."""

    name: str
    plan: Plan
    sampled: Sensed
    known: pl.Series = msgspec.field(default_factory=lambda: pl.Series([], dtype=pl.String))
    parts: list[NDArray[Any] | pl.Series] = msgspec.field(default_factory=list)
    numbers: list[Piece] = msgspec.field(default_factory=list)
    unfit: list[tuple[int, str]] = msgspec.field(default_factory=list)
    _places: dict[str, int] = msgspec.field(default_factory=dict)
    _dictionary: tuple[int, pl.Enum] | None = None
    _told_by: tuple[int, Known | None] | None = None

    @property
    def coded(self) -> bool:
        """Whether values are held as codes into those that are known."""
        return self.plan in ("small", "text")

    def dictionary(self) -> tuple[int, pl.Enum]:
        """How many values are known, and they as a type; made once for all blocks that it serves."""
        known, made = self.known, self._dictionary
        if made is None or made[0] != len(known):
            made = self._dictionary = (len(known), pl.Enum(known))
        return made

    def told_by(self) -> Known | None:
        """What tells the known values by their bytes; None where they are not such, or none are held as codes. Made
        anew when many have come."""
        if not self.coded:
            return None
        known, made = self.known, self._told_by
        if made is None or len(known) > made[0] + max(0, made[0] - _QUICKLY_MADE) // 8:
            plain = not any(isinstance(part, pl.Series) for part in self.parts[-1:])
            made = self._told_by = (len(known), Known.of(known.to_list()) if plain else None)
        return made[1]

    def add(self, part: Piece, row: int) -> None:
        """Take in the block that begins at `row`."""
        if not self.coded:
            self.numbers.append(part)
            self.unfit += [(row + at, text) for at, text in part.unfit]
            if part.odd:
                raise PlanFailed(self.name)
        elif part.plain is not None:
            self.parts.append(part.plain)
        else:
            assert part.values is not None
            self.parts.append(self._recoded(part))
        if self.plan == "small" and (part.plain is not None or len(self.known) > _MOST_SMALL):
            raise PlanFailed(self.name, "whole")

    def _recoded(self, part: Piece) -> NDArray[Any]:
        """A part's codes as codes into the whole dictionary, which may have grown since its snapshot."""
        assert part.values is not None
        if not part.new:
            return part.values
        unknown = [text for text in part.new if text not in self._places]
        for text in unknown:
            self._places[text] = len(self._places) + 1
        if unknown:
            self.known = pl.concat([self.known, pl.Series(unknown, dtype=pl.String)])
        places = np.array([self._places[text] for text in part.new], dtype=np.int64)
        lookup = np.concatenate([np.arange(part.base + 1), places]).astype(smallest_code_type(len(self.known)))
        recoded: NDArray[Any] = lookup[part.values]
        return recoded

    def finish(self, kind: Kind | None, signs: Signs = SENSE_ALL) -> tuple[Column, Sensed]:
        """The whole field as a column, and how it was sensed. What it was made from is let go."""
        try:
            return self._texts(kind, signs) if self.coded else self._numbers(signs)
        finally:
            self.parts.clear()
            self.numbers.clear()

    def _numbers(self, signs: Signs) -> tuple[Column, Sensed]:
        parts = self.numbers
        found = _read_after_all([text for _, text in self.unfit])
        decimals = None if any(number is not None for number in found) else _common_decimals(parts)
        blank = None
        if any(part.blank is not None for part in parts):
            masks = ((part.blank, part.values) for part in parts)
            blank = np.concatenate([np.zeros(len(p), np.bool_) if m is None else m for m, p in masks if p is not None])
        values = np.concatenate([_in_units(part, decimals) for part in parts]) if parts else np.zeros(0)
        parts.clear()
        refused: list[Refused] = []
        for (row, text), number in zip(self.unfit, found, strict=True):
            if number is not None:
                values[row] = number
                assert blank is not None
                blank[row] = False
            elif text.strip() and not (signs.markers and is_marker(text)):
                refused.append(Refused(row, text.strip()))
        # Only a part was looked at. And a float cannot tell larger numbers apart.
        present = len(values) - (0 if blank is None else int(np.count_nonzero(blank)) - len(refused))
        too_many = len(refused) > (1 - FIT) * max(present, 1)
        if too_many or _largest(values) >= 10.0 ** (_LONG + (decimals or 0)):
            raise PlanFailed(self.name)
        blank = blank if blank is not None and blank.any() else None
        if decimals is None:
            column = number_column(values, blank, tuple(refused))
        else:
            column = NumberColumn(*_fewest(values, decimals), blank, tuple(refused))
        sensed = self.sampled if self.sampled.kind == "number" else Sensed("number", "point")
        if signs.markers and self.unfit:
            sensed = replace(sensed, markers=markers_in([*sensed.markers, *(text for _, text in self.unfit)]))
        return column, sensed

    def _texts(self, kind: Kind | None, signs: Signs) -> tuple[Column, Sensed]:
        if not any(isinstance(part, pl.Series) for part in self.parts):
            if self.sampled.doubt and self.sampled.reading == "comma":
                signs = signs._replace(decimal="comma")
            codes = _joined(self.parts, smallest_code_type(len(self.known)))
            self.parts.clear()
            column, sensed = encode_distinct(self.name, self.known, codes, kind, signs)
            if sensed.kind == "number" == self.sampled.kind:
                sensed = replace(self.sampled, unit=sensed.unit, markers=sensed.markers)
            return column, sensed
        padded = pl.concat([pl.Series([None], dtype=pl.String), self.known])
        texts = pl.concat(
            [part if isinstance(part, pl.Series) else padded.gather(part.astype(np.uint32)) for part in self.parts]
        )
        self.parts.clear()
        return encode_texts(texts.alias(self.name), kind, signs)


def _read_after_all(texts: list[str]) -> list[float | None]:
    """The numbers in texts that are not plain ones, with marks and signs of all sorts; None for other texts."""
    if not texts:
        return []
    read = numbers_of(clean_text(pl.Series(texts, dtype=pl.String)), "point").values
    return [number if number is not None and np.isfinite(number) else None for number in read.to_list()]


def _fewest(values: NDArray[np.float64], decimals: int) -> tuple[NDArray[np.float64], int]:
    """Whole units with no more decimals than they need."""
    while decimals and not any((values[part] % 10).any() for part in stretches(len(values))):
        values, decimals = values / 10.0, decimals - 1
    return values, decimals


def _joined(parts: list[Any], dtype: Any) -> NDArray[Any]:
    return np.concatenate([part.astype(dtype, copy=False) for part in parts]) if parts else np.zeros(0, dtype)


def encode_texts(texts: pl.Series, kind: Kind | None, signs: Signs = SENSE_ALL) -> tuple[Column, Sensed]:
    """A field of text (or typed already) sensed, or read as the kind that was said, and encoded."""
    if texts.dtype == pl.String:
        few = encode_few(texts.name, texts.to_list(), kind, signs) if len(texts) <= MOST_FEW else None
        if few is not None:
            return few
        found = encode_repeating(texts.name, texts, kind, signs)
        if found is not None:
            return found
        written, texts = texts, clean_text(texts)
    sensed = reading_for(kind, texts.name, texts, signs) if kind else sense_series(texts.name, texts, signs)
    if texts.dtype == pl.String:
        sensed = told_of_unseen(sensed, written)
    column = encode(texts, sensed, markers=signs.markers)
    # Only a part was looked at: where too much turns out not to fit after all, the field is what holds everything.
    if kind is None and len(column.refused) > (1 - FIT) * max(len(texts) - texts.null_count(), 1):
        sensed = Sensed("category")
        column = encode(texts, sensed)
    return column, sensed
