"""What a slicer is set to. Frozen; part of the folio."""

from summula.core.fields.heading import Heading
from summula.core.fields.labels import BLANK, MONTHS
from summula.core.phrases.phrase import Struct

MemberChoice = str | float | None  # a member as the phrase spells it; None is the blank member


class ListSlicer(Struct, frozen=True, tag="list"):
    """Members to choose from. Nothing chosen means nothing narrowed.

    `spares` names the panels that this slicer does not reach; it reaches all others of its table.
    """

    id: str
    table: str
    heading: Heading
    chosen: tuple[MemberChoice, ...] = ()
    spares: tuple[str, ...] = ()

    @property
    def dimension(self) -> Heading:
        return self.heading

    @property
    def narrows(self) -> bool:
        return bool(self.chosen)


class PeriodSlicer(Struct, frozen=True, tag="period"):
    """The period ruler: whole months from `first` to `last` ("2024-01"), both included."""

    id: str
    table: str
    field: str
    first: str | None = None
    last: str | None = None
    spares: tuple[str, ...] = ()

    @property
    def dimension(self) -> Heading:
        return Heading(self.field, "year-month")

    @property
    def narrows(self) -> bool:
        return self.first is not None or self.last is not None


Slicer = ListSlicer | PeriodSlicer


def cleared(slicer: Slicer) -> Slicer:
    """The same slicer, set to let everything through."""
    if isinstance(slicer, ListSlicer):
        return ListSlicer(slicer.id, slicer.table, slicer.heading, (), slicer.spares)
    return PeriodSlicer(slicer.id, slicer.table, slicer.field, None, None, slicer.spares)


def slicer_words(slicer: Slicer) -> str:
    """What a slicer says now, in words: "Route is Osk – Brannay or Osk – Vaila", "Jan 2024 – Nov 2025"."""
    if not slicer.narrows:
        return ""
    if isinstance(slicer, PeriodSlicer):
        first = _month_label(slicer.first) if slicer.first else "the start"
        last = _month_label(slicer.last) if slicer.last else "the end"
        return first if first == last else f"{first} – {last}"
    names = [
        BLANK if choice is None else f"{choice:g}" if isinstance(choice, float) else choice for choice in slicer.chosen
    ]
    some = " or ".join(names[:3]) + (f" or {len(names) - 3} more" if len(names) > 3 else "")
    return f"{slicer.heading.field} is {some}"


def _month_label(month: str) -> str:
    year, number = month.split("-")
    return f"{MONTHS[int(number) - 1]} {year}"
