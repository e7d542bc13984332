"""Where a table begins in its source: titles above it, one or two rows of heads, and what the fields are called."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence
from itertools import pairwise

import msgspec

from summula.core.refusal import Refusal, shortened
from summula.core.tables.units import is_unit

MOST_FIELDS = 2_000
_LOOKED_AT = 40
_FIGURE = r"(?:\d+|\d{1,3}(?:[., '\u00a0\u202f]\d{2,3})+)?(?:[.,]?\d*)([eE][+-]?\d+)?"
_NUMBER = re.compile(rf"^[(+\-−]?[^\w\s]?\s?[+\-−]?{_FIGURE}\s?[%\w]{{0,1}}[)\-−]?$")
_DATE = re.compile(r"^\d{1,4}[-/.]\d{1,2}[-/.]\d{1,4}([T ].*)?$")
_YEAR = re.compile(r"^(19|20)\d\d(\.0)?$")

Rows = Sequence[Sequence[str]]


class Heads(msgspec.Struct, frozen=True):
    """`row` is the first row of heads (0-based; None without heads), `first` the first row of values."""

    names: tuple[str, ...]
    row: int | None
    first: int
    why: str
    titles: tuple[str, ...] = ()
    units: tuple[str, ...] = ()  # of each field, where a row below the heads says them


def find_heads(rows: Rows, head: int | None = None, head_rows: int | None = None, *, even: bool = True) -> Heads:
    """The heads of a table whose first rows are `rows`; `head` counts from 1, 0 says that there is none.

    `even` rows are all of one length, as in a sheet, and every filled column is a field; where rows come as long as
    they like, a row longer than its heads and than most others is ragged.
    """
    if head is not None and head > len(rows):
        raise Refusal(f"there is no row {head:,} among the first {len(rows):,}", "choose another header row")
    usual = _usual_width(rows)
    width = max([usual, *(_last_filled(row) for row in rows[:_LOOKED_AT])]) if even else _usual_length(rows)
    _check(width)
    if head == 0:
        return Heads(tuple(clear_names([""] * width)), None, 0, "as you chose")
    stated = head is not None
    at = head - 1 if head else _likely_head(rows, usual)
    if at is None:
        return Heads(tuple(clear_names([""] * width)), None, 0, "the first row looks like the rows below it")
    upper, count = _span_of_heads(rows, at, head_rows, stated=stated)
    first = upper + count
    names = _joined(rows[upper:first])
    units = _units(rows, names, first) if head_rows is None else ()
    first += bool(units)
    width = max(width, _last_filled(names))
    _check(width)
    names = [*names, *[""] * (width - len(names))][:width]
    titles = tuple(" ".join(cell for cell in row if cell.strip()) for row in rows[:upper])
    why = "as you chose" if stated else _why(upper, count, bool(units), [title for title in titles if title])
    shown = tuple(title for title in titles if title)
    return Heads(
        tuple(clear_names(names)),
        upper,
        first,
        why,
        shown,
        (*units, *[""] * (width - len(units)))[:width] if units else (),
    )


def _span_of_heads(rows: Rows, at: int, head_rows: int | None, *, stated: bool) -> tuple[int, int]:
    """The first row of heads, and how many there are: groups may stand in one or two rows above the fields' names."""
    if head_rows is not None:
        return at, head_rows
    if _is_pair(rows, at):
        upper, count = at, 2
    elif not stated and at > 0 and _is_pair(rows, at - 1):
        upper, count = at - 1, 2
    else:
        return at, 1
    if not stated and upper > 0 and _are_groups(rows[upper - 1], rows[upper]):
        return upper - 1, 3
    return upper, count


def _are_groups(row: Sequence[str], below: Sequence[str]) -> bool:
    """Whether a row names groups of the groups below it: words with blanks between them, all of them over one."""
    filled = [at for at, cell in enumerate(row) if cell.strip()]
    under = [at for at, cell in enumerate(below) if cell.strip()]
    if (
        len(filled) < 2
        or len(filled) >= len(under)
        or any(is_valued(row[at]) and not _YEAR.match(row[at].strip()) for at in filled)
    ):
        return False
    return all(at < len(below) and below[at].strip() for at in filled)


_UNIT = re.compile(
    r"^[(\[]?\s*([^\W\d]{1,12}|[%‰°£$€¥₹#]|[^\W\d]{0,6}[/·²³%°^\-][^\W]{0,6}[²³]?|°[CFK]|in [^\W\d]{1,8})\s*[)\]]?$"
)


def _units(rows: Rows, names: Sequence[str], first: int) -> tuple[str, ...]:
    """The units that the row below the heads says; empty where it is a row of values, or of another sort."""
    if first + 1 >= len(rows):
        return ()
    row, below = rows[first], [each for each in rows[first + 1 : _LOOKED_AT] if _filled(each)]
    units, known = [], 0
    for at in range(len(names)):
        cell = row[at].strip() if at < len(row) else ""
        column = [each[at].strip() for each in below if at < len(each) and each[at].strip()]
        numeric = bool(column) and sum(is_valued(each) for each in column) >= 0.9 * len(column)
        if cell and (is_valued(cell) or (not numeric and cell in column)):
            return ()
        found = _UNIT.match(cell) if numeric and cell else None
        if numeric and cell and found is None:
            return ()
        known += found is not None and is_unit(found[1])
        units.append(found[1] if found else "")
    stated = sum(map(bool, units))
    return tuple(units) if stated and known * 2 >= stated else ()


def _check(width: int) -> None:
    if width > MOST_FIELDS:
        raise Refusal(
            f"the table has {width:,} fields, more than the {MOST_FIELDS:,} that can be held", "choose a part of it"
        )


def _usual_length(rows: Rows) -> int:
    counts = Counter(len(row) for row in rows)
    most = max(counts.values(), default=0)
    return max((length for length, count in counts.items() if count == most), default=0)


def _why(upper: int, count: int, units: bool, titles: list[str]) -> str:
    pair = {1: "", 2: "two header rows", 3: "three header rows"}.get(count, "")
    if units:
        pair = f"{pair}, and a row of units" if pair else "the row below holds units"
    if titles:
        above = f"the text above it is a title: “{shortened(titles[0])}”"
        return f"{above}; {pair}" if pair else above
    return pair or ("the rows above are blank" if upper else "it holds names, the rows below do not")


def _filled(row: Sequence[str]) -> int:
    return sum(1 for cell in row if cell.strip())


def _last_filled(row: Sequence[str]) -> int:
    return max((at + 1 for at, cell in enumerate(row) if cell.strip()), default=0)


def _usual_width(rows: Rows) -> int:
    """How many cells most rows fill."""
    counts = Counter(_filled(row) for row in rows[:_LOOKED_AT] if _filled(row))
    if not counts:
        return 0
    most = max(counts.values())
    return max(width for width, count in counts.items() if count == most)


def is_valued(cell: str) -> bool:
    """Whether a cell holds a number or a day."""
    cell = cell.strip()
    return bool((_NUMBER.match(cell) and any(map(str.isdigit, cell))) or _DATE.match(cell))


def _likely_head(rows: Rows, usual: int) -> int | None:
    """The first row that is about as full as the others; None when it looks like a row of values."""
    need = max(1, 0.7 * usual)
    for at, row in enumerate(rows[:_LOOKED_AT]):
        if _filled(row) >= need or _names_all_but_the_first(row, usual):
            below = [each for each in rows[at + 1 : _LOOKED_AT] if _filled(each)]
            return (
                at
                if not below or not _like_below(row, below)
                else (None if at == 0 else at - 1 if _filled(rows[at - 1]) > 1 else at)
            )
    return 0 if rows else None


def _names_all_but_the_first(row: Sequence[str], usual: int) -> bool:
    """Whether a row names every field but the first, which holds the rows' own names: no title begins so far in."""
    cells = [cell.strip() for cell in row[:usual]]
    return usual > 1 and len(cells) == usual and not cells[0] and all(cells[1:]) and not any(map(is_valued, cells[1:]))


def _like_below(row: Sequence[str], below: Rows) -> bool:
    """Whether a row looks like the rows below it: values where they have values."""
    if _is_series(row) and not all(map(_is_series, below[:3])):
        return False
    valued = names = 0
    for at, cell in enumerate(row):
        column = [each[at] for each in below if at < len(each) and each[at].strip()]
        if not column or sum(is_valued(each) for each in column) < 0.6 * len(column):
            continue
        year = _YEAR.match(cell.strip()) and not all(_YEAR.match(each.strip()) for each in column)
        if is_valued(cell) and not year:
            valued += 1
        elif cell.strip():
            names += 1
    return valued > names


_LEAST_SERIES = 3
_STEP = re.compile(r"^(-?\d{1,6}(?:\.\d{1,3})?)(?:\s*[-–:]\s*(\d{1,6}))?(?:\+|:00)?$")
_EVEN = 0.1  # of a step, by which steps may differ that have been rounded


def _is_series(row: Sequence[str]) -> bool:
    """Whether the values of a row go up in even steps, as heads do: days of a month, hours, sizes, dates."""
    cells = [cell.strip() for cell in row if is_valued(cell) or _STEP.match(cell.strip())]
    if len(cells) < _LEAST_SERIES or len(cells) + 2 < _filled(row) or len(set(cells)) < len(cells):
        return False
    if all(_DATE.match(cell) for cell in cells):
        return True
    found = [_STEP.match(cell) for cell in cells]
    if not all(found):
        return False
    numbers = [float(each[1]) for each in found if each]
    steps = [following - one for one, following in pairwise(numbers)]
    return min(steps) > 0 and max(steps) - min(steps) <= _EVEN * max(steps)


def _is_pair(rows: Rows, at: int) -> bool:
    """Whether the row at `at` heads groups of the heads below it: blanks after names, and all names in both."""
    if at + 2 >= len(rows):
        return False
    upper, lower = rows[at], rows[at + 1]
    width = max(_last_filled(upper), _last_filled(lower))
    if _filled(upper) < 2 or _filled(lower) < 2 or _filled(upper) >= width:
        return False
    if any(is_valued(cell) and not _YEAR.match(cell.strip()) for cell in (*upper, *lower)):
        return False
    below = [each for each in rows[at + 2 : _LOOKED_AT] if _filled(each)]
    if not any(is_valued(cell) for each in below for cell in each):
        return False
    names = [cell.strip() for cell in lower if cell.strip()]
    repeated = len(set(names)) < len(names)
    merged_down = any(
        up.strip() and not (lower[place].strip() if place < len(lower) else "") for place, up in enumerate(upper)
    )
    spread = _last_filled(upper) > width / 2 and not upper[0].strip()
    return repeated or merged_down or spread


def _joined(rows: Rows) -> list[str]:
    """Heads over heads as one name: an upper one reaches on over the blanks after it, up to the next of its own row or
    of one above it."""
    width = max(map(len, rows))
    cells = [[row[at].strip() if at < len(row) else "" for at in range(width)] for row in rows]
    parts: list[list[str]] = [[] for _ in range(width)]
    begun: set[int] = set()  # where a group of the rows above begins
    for row in cells[:-1]:
        above = ""
        for at, over in enumerate(row):
            reaches = bool(cells[-1][at]) and at not in begun
            above = over or (above if reaches else "")
            parts[at].append(above)
        begun |= {at for at, over in enumerate(row) if over}
    for at, under in enumerate(cells[-1]):
        parts[at].append(_plain_year(under))
    return [" ".join(part for part in each if part) for each in parts]


def _plain_year(text: str) -> str:
    return text[:-2] if _YEAR.match(text) and text.endswith(".0") else text


def clear_names(names: Sequence[str]) -> list[str]:
    """Heads made usable: spaces trimmed, empty ones numbered, repeated ones told apart."""
    taken: set[str] = set()
    copies: Counter[str] = Counter()
    clear = []
    for at, name in enumerate(names, start=1):
        base = _plain_year(" ".join(name.split())) or f"Field {at}"
        unique = base
        while unique.casefold() in taken:
            copies[base] += 1
            unique = f"{base} ({copies[base] + 1})"
        taken.add(unique.casefold())
        clear.append(unique)
    return clear
