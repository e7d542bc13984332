"""Where a table begins in its source: titles above it, one or two rows of heads, and what the fields are called."""

from __future__ import annotations

import re
from collections import Counter
from collections.abc import Sequence

import msgspec

from summula.core.refusal import Refusal

MOST_FIELDS = 2_000
_LOOKED_AT = 40
_NUMBER = re.compile(r"^[(+\-−]?[^\w\s]?\s?[+\-−]?\d[\d.,' \u00a0\u202f]*([eE][+-]?\d+)?\s?[%\w]{0,1}[)\-−]?$")
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


def find_heads(rows: Rows, head: int | None = None, head_rows: int | None = None, *, even: bool = True) -> Heads:
    """The heads of a table whose first rows are `rows`; `head` counts from 1, 0 says that there is none.

    `even` rows are all of one length, as in a sheet, and every filled column is a field; where rows come as long as
    they like, a row longer than its heads and than most others is ragged.
    """
    if head is not None and head > len(rows):
        raise Refusal(f"there is no row {head:,} among the first {len(rows):,}", "choose another row for the heads")
    usual = _usual_width(rows)
    width = max([usual, *(_last_filled(row) for row in rows[:_LOOKED_AT])]) if even else _usual_length(rows)
    _check(width)
    if head == 0:
        return Heads(tuple(clear_names([""] * width)), None, 0, "as you said")
    said = head is not None
    at = head - 1 if head else _likely_head(rows, usual)
    if at is None:
        return Heads(tuple(clear_names([""] * width)), None, 0, "the first row holds values like those below it")
    two = head_rows == 2 if head_rows is not None else _is_pair(rows, at)
    upper = at
    if not two and not said and head_rows is None and at > 0 and _is_pair(rows, at - 1):
        upper, two = at - 1, True
    if two:
        names, first = _joined(rows[upper], rows[upper + 1] if upper + 1 < len(rows) else ()), upper + 2
    else:
        names, first = list(rows[at]), at + 1
    width = max(width, _last_filled(names))
    _check(width)
    names = [*names, *[""] * (width - len(names))][:width]
    titles = tuple(" ".join(cell for cell in row if cell.strip()) for row in rows[:upper])
    why = "as you said" if said else _why(upper, two, [title for title in titles if title])
    return Heads(tuple(clear_names(names)), upper, first, why, tuple(title for title in titles if title))


def _check(width: int) -> None:
    if width > MOST_FIELDS:
        raise Refusal(
            f"the table has {width:,} fields, more than the {MOST_FIELDS:,} that can be held", "choose a part of it"
        )


def _usual_length(rows: Rows) -> int:
    counts = Counter(len(row) for row in rows)
    most = max(counts.values(), default=0)
    return max((length for length, count in counts.items() if count == most), default=0)


def _why(upper: int, two: bool, titles: list[str]) -> str:
    pair = "two rows make up the heads" if two else ""
    if titles:
        above = f"what stands above it is a title: “{titles[0][:40]}”"
        return f"{above}; {pair}" if pair else above
    return pair or ("the rows above are blank" if upper else "its values are names, those below are not")


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


def _valued(cell: str) -> bool:
    return bool(_NUMBER.match(cell.strip()) or _DATE.match(cell.strip()))


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
    return usual > 1 and len(cells) == usual and not cells[0] and all(cells[1:]) and not any(map(_valued, cells[1:]))


def _like_below(row: Sequence[str], below: Rows) -> bool:
    """Whether a row looks like the rows below it: values where they have values."""
    valued = names = 0
    for at, cell in enumerate(row):
        column = [each[at] for each in below if at < len(each) and each[at].strip()]
        if not column or sum(_valued(each) for each in column) < 0.6 * len(column):
            continue
        if _valued(cell) and not (_YEAR.match(cell.strip()) and not all(_YEAR.match(each.strip()) for each in column)):
            valued += 1
        elif cell.strip():
            names += 1
    return valued > names


def _is_pair(rows: Rows, at: int) -> bool:
    """Whether the row at `at` heads groups of the heads below it: blanks after names, and all names in both."""
    if at + 2 >= len(rows):
        return False
    upper, lower = rows[at], rows[at + 1]
    width = max(_last_filled(upper), _last_filled(lower))
    if _filled(upper) < 2 or _filled(lower) < 2 or _filled(upper) >= width:
        return False
    if any(_valued(cell) and not _YEAR.match(cell.strip()) for cell in (*upper, *lower)):
        return False
    below = [each for each in rows[at + 2 : _LOOKED_AT] if _filled(each)]
    if not any(_valued(cell) for each in below for cell in each):
        return False
    names = [cell.strip() for cell in lower if cell.strip()]
    repeated = len(set(names)) < len(names)
    merged_down = any(
        up.strip() and not (lower[place].strip() if place < len(lower) else "") for place, up in enumerate(upper)
    )
    spread = _last_filled(upper) > width / 2 and not upper[0].strip()
    return repeated or merged_down or spread


def _joined(upper: Sequence[str], lower: Sequence[str]) -> list[str]:
    """Heads over heads as one name: the upper one reaches on over the blanks after it."""
    width = max(len(upper), len(lower))
    names, above = [], ""
    for at in range(width):
        over = upper[at].strip() if at < len(upper) else ""
        under = lower[at].strip() if at < len(lower) else ""
        above = over or (above if under else "")
        names.append(" ".join(part for part in (above, _plain_year(under)) if part))
    return names


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
