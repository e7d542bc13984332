"""The kinds of slicers, one row each: what rows must be folded by for one, which it lets through, what it says."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace

from summula.core.arrays import np
from summula.core.fields.bands import LARGEST, Band
from summula.core.fields.figures import FigureStyle
from summula.core.fields.labels import BLANK, MONTHS, heading_name
from summula.core.fields.periods import days_of
from summula.core.phrases.phrase import Condition
from summula.core.phrases.wellformed import check_heading
from summula.core.refusal import Refusal, shortened
from summula.core.slicing.slicer import Echo, ListSlicer, Narrowing, NumberSlicer, PeriodSlicer, TextSlicer
from summula.core.tables.column import Mask, take_at
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from summula.core.engine.cells import Cells, Dimension
    from summula.core.fields.heading import Encoded

MOST_CHOSEN = 100_000
_MOST_COLUMNS = 6
_MOST_EDGES = 200
_MOST_LETTERS = 200


class SlicerKind(msgspec.Struct, frozen=True):
    """`needs`: what the rows of a table are folded by for it. `setting`: all that its mask depends on. `mask`: the
    cells it lets through. `words` of what it lets through; `cleared`: the same, letting everything through;
    `chosen`: the same, set to what was asked for; `check` refuses what a folio may not say."""

    word: str
    needs: Callable[[Any, Table], tuple[Dimension, ...]]
    setting: Callable[[Any], tuple[Any, ...]]
    mask: Callable[[Any, Cells], Mask]
    words: Callable[[Any], str]
    cleared: Callable[[Any], Any]
    chosen: Callable[[Any, Any], Any]
    check: Callable[[Any], None]


def slicer_kind(slicer: Narrowing) -> SlicerKind:
    return SLICER_KINDS[type(slicer)]


def needs_of(slicer: Narrowing, table: Table) -> tuple[Dimension, ...]:
    return slicer_kind(slicer).needs(slicer, table)


def slicer_name(slicer: Narrowing) -> str:
    """What it slices by, in words."""
    return heading_name(slicer.dimension) if not isinstance(slicer, Echo) else "Echo"


def slicer_words(slicer: Narrowing) -> str:
    """What a slicer lets through, in words: "Route is Osk – Brannay or Osk – Vaila", "Jan 2024 – Nov 2025"; empty where
    that is everything."""
    return slicer_kind(slicer).words(slicer) if slicer.narrows else ""


def cleared(slicer: Any) -> Any:
    """The same slicer, set to let everything through."""
    return slicer_kind(slicer).cleared(slicer)


def _own_heading(slicer: Any, table: Table) -> tuple[Dimension, ...]:
    return (slicer.dimension,)


def _by_member(through: Callable[[Any, Encoded, Table], Mask]) -> Callable[[Any, Cells], Mask]:
    """The cells whose member is let through."""

    def mask(slicer: Any, cells: Cells) -> Mask:
        encoded = cells.encoded(slicer.dimension)
        return take_at(through(slicer, encoded, cells.table), encoded.codes)

    return mask


# -- lists ----------------------------------------------------------------------------------------------------


def list_mask(slicer: ListSlicer, encoded: Encoded, table: Table) -> Mask:
    """Of each code of its heading (the blank last), whether it is chosen."""
    from summula.core.engine.conditions import holds_by_member

    values = tuple(choice for choice in slicer.chosen if choice is not None)
    through = holds_by_member(Condition(slicer.heading, "is", values), encoded, table)
    through[-1] = None in slicer.chosen
    return through


def _list_words(slicer: ListSlicer) -> str:
    names = [
        BLANK if choice is None else f"{choice:g}" if isinstance(choice, float) else _member_words(choice)
        for choice in slicer.chosen
    ]
    some = " or ".join(names[:3]) + (f" or {len(names) - 3} more" if len(names) > 3 else "")
    return f"{slicer.heading.field} is {some}"


_BAND = re.compile(r"Band\(lower=(None|[-+.e\d]+), upper=(None|[-+.e\d]+)\)")


def _member_words(choice: str) -> str:
    """A band by its limits; any other member as it is spelled."""
    found = _BAND.fullmatch(choice)
    if found is None:
        return choice
    low, high = found.groups()
    plain = FigureStyle()
    ends = [plain.text(float(each)) if each != "None" else "" for each in (low, high)]
    return f"{ends[0]} to under {ends[1]}" if all(ends) else f"under {ends[1]}" if ends[1] else f"{ends[0]} and over"


def _check_list(slicer: ListSlicer) -> None:
    check_heading(slicer.heading)
    for members in (slicer.chosen, slicer.sequence):
        if len(members) > MOST_CHOSEN:
            raise Refusal(f"{len(members):,} members are chosen", "select fewer")
    if not 1 <= slicer.columns <= _MOST_COLUMNS:
        raise Refusal(f"it has {slicer.columns} columns", f"give it 1 to {_MOST_COLUMNS}")


# -- periods --------------------------------------------------------------------------------------------------


def _of_period(slicer: PeriodSlicer, encoded: Encoded, table: Table) -> Mask:
    keys = [str(member) for member in encoded.members]
    low, high = slicer.first or "", (slicer.last or "9999-99") + ("" if slicer.grain == "month" else "~")
    return np.array([*[low <= key <= high for key in keys], False], dtype=np.bool_)


def _period_words(slicer: PeriodSlicer) -> str:
    first = period_label(slicer.first) if slicer.first else "the start"
    last = period_label(slicer.last) if slicer.last else "the end"
    return first if first == last else f"{first} – {last}"


def period_label(key: str) -> str:
    """ "2024-01" as "Jan 2024", "2024-01-31" as "31 Jan 2024"."""
    year, number, *day = key.split("-")
    return " ".join([*(str(int(each)) for each in day), MONTHS[int(number) - 1], year])


def _period_chosen(slicer: PeriodSlicer, asked: tuple[str, str] | None) -> PeriodSlicer:
    first, last = asked if asked is not None else (None, None)
    return replace(slicer, first=first, last=last)


def _check_period(slicer: PeriodSlicer) -> None:
    pattern = r"\d{4}-\d{2}" if slicer.grain == "month" else r"\d{4}-\d{2}(-\d{2})?"
    for key in (slicer.first, slicer.last):
        if key is not None and (not re.fullmatch(pattern, key, re.ASCII) or days_of(key) is None):
            raise Refusal(f"'{shortened(key, 20)}' is not a {slicer.grain}", "set it again")


# -- numbers and texts ----------------------------------------------------------------------------------------


def _of_numbers(slicer: NumberSlicer, encoded: Encoded, table: Table) -> Mask:
    low = -np.inf if slicer.low is None else slicer.low
    high = np.inf if slicer.high is None else slicer.high
    through = []
    for member in encoded.members:
        assert isinstance(member, Band)
        begins = -np.inf if member.lower is None else member.lower
        ends = np.inf if member.upper is None else member.upper
        through.append(bool(begins >= low and ends <= high))
    return np.array([*through, False], dtype=np.bool_)


def _number_words(slicer: NumberSlicer) -> str:
    plain = FigureStyle()
    low, high = (plain.text(each) if each is not None else "" for each in (slicer.low, slicer.high))
    if low and high:
        return f"{slicer.field} from {low} to under {high}"
    return f"{slicer.field} under {high}" if high else f"{slicer.field} from {low} on"


def _check_numbers(slicer: NumberSlicer) -> None:
    limits = [*slicer.edges, *(each for each in (slicer.low, slicer.high) if each is not None)]
    if len(limits) > _MOST_EDGES or not all(abs(each) < LARGEST for each in limits):
        raise Refusal("its limits are not valid numbers", "set it again")
    if slicer.low is not None and slicer.high is not None and slicer.low > slicer.high:
        raise Refusal("the start is after the end", "set it again")


def _of_text(slicer: TextSlicer, encoded: Encoded, table: Table) -> Mask:
    from summula.core.engine.conditions import holds_by_member

    return holds_by_member(Condition(slicer.dimension, slicer.test, (slicer.text.strip(),)), encoded, table)


def _check_text(slicer: TextSlicer) -> None:
    if len(slicer.text) > _MOST_LETTERS:
        raise Refusal(f"it looks for {len(slicer.text):,} letters", f"at most {_MOST_LETTERS}")


# -- what echoes ----------------------------------------------------------------------------------------------


def _echo_needs(echo: Echo, table: Table) -> tuple[Dimension, ...]:
    from summula.core.engine.answer import condition_dimension

    found: list[Dimension] = []
    for part in echo.parts:
        for condition in part:
            found.append(condition_dimension(condition, table, found))
    return tuple(dict.fromkeys(found))


def _of_echo(echo: Echo, cells: Cells) -> Mask:
    joined: Mask = np.zeros(cells.size, dtype=np.bool_)
    for part in echo.parts:
        own: Mask = np.ones(cells.size, dtype=np.bool_)
        for condition in part:
            own &= cells.passes(condition)
        joined |= own
    return joined


def _echo_words(echo: Echo) -> str:
    """One field at a time where the parts tell of one; else how many parts there are."""
    from summula.core.phrases.printing import print_condition

    first, *others = echo.parts
    if not others:
        return " and ".join(map(print_condition, first))
    same = [part for part in others if len(part) == len(first) == 1 and part[0].heading == first[0].heading]
    if len(same) == len(others) and all(part[0].test == "is" for part in echo.parts):
        values = tuple(value for part in echo.parts for value in part[0].values)
        if len(values) <= 4:
            return print_condition(replace(first[0], values=values))
    return f"{print_condition(first[0])} and {len(others)} more"


SLICER_KINDS: dict[type, SlicerKind] = {
    ListSlicer: SlicerKind(
        "list", needs=_own_heading, setting=lambda s: s.chosen, mask=_by_member(list_mask), words=_list_words,
        cleared=lambda s: replace(s, chosen=()), chosen=lambda s, asked: replace(s, chosen=tuple(asked)),
        check=_check_list,
    ),
    PeriodSlicer: SlicerKind(
        "period ruler", needs=_own_heading, setting=lambda s: (s.first, s.last), mask=_by_member(_of_period),
        words=_period_words, cleared=lambda s: replace(s, first=None, last=None),
        chosen=_period_chosen, check=_check_period,
    ),
    NumberSlicer: SlicerKind(
        "range", needs=_own_heading, setting=lambda s: (s.low, s.high), mask=_by_member(_of_numbers),
        words=_number_words, cleared=lambda s: replace(s, low=None, high=None),
        chosen=lambda s, asked: replace(s, low=asked[0], high=asked[1]), check=_check_numbers,
    ),
    TextSlicer: SlicerKind(
        "search", needs=_own_heading, setting=lambda s: (s.test, s.text), mask=_by_member(_of_text),
        words=lambda s: f"{s.field} {s.test} “{s.text.strip()}”", cleared=lambda s: replace(s, text=""),
        chosen=lambda s, asked: replace(s, test=asked[0], text=asked[1]), check=_check_text,
    ),
    Echo: SlicerKind(
        "echo", needs=_echo_needs, setting=lambda s: s.parts, mask=_of_echo, words=_echo_words,
        cleared=lambda s: replace(s, parts=()), chosen=lambda s, asked: replace(s, parts=asked), check=lambda s: None,
    ),
}  # fmt: skip
