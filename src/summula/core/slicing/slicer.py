"""What a slicer is set to. Frozen; part of the folio. What each kind does stands in `slicerkinds.py`."""

from typing import Literal, NamedTuple

from summula.core.fields.bands import Bands
from summula.core.fields.heading import Heading, Member
from summula.core.phrases.phrase import Condition, Struct

MemberChoice = str | float | None  # a member as the phrase spells it; None is the blank member
MemberOrder = Literal["own", "rows", "hand"]


class ListSlicer(Struct, frozen=True, tag="list"):
    """Members to choose from. Nothing chosen means nothing narrowed.

    `spares` names the panels that this slicer does not reach; it reaches all others of its table, and of tables that
    are linked to it. How it looks: `columns` of members, or a `drop_down`; their `order` (own, by what they hold, by
    hand: those of `sequence` first); `single`: one at a time; `holding`: only those that hold something.
    """

    id: str
    table: str
    heading: Heading
    chosen: tuple[MemberChoice, ...] = ()
    spares: tuple[str, ...] = ()
    columns: int = 1
    drop_down: bool = False
    order: MemberOrder = "own"
    sequence: tuple[MemberChoice, ...] = ()
    single: bool = False
    holding: bool = False

    @property
    def dimension(self) -> Heading:
        return self.heading

    @property
    def narrows(self) -> bool:
        return bool(self.chosen)


class PeriodSlicer(Struct, frozen=True, tag="period"):
    """The period ruler: from `first` to `last`, both included: whole months ("2024-01"), or days ("2024-01-31") where
    its `grain` is days."""

    id: str
    table: str
    field: str
    first: str | None = None
    last: str | None = None
    spares: tuple[str, ...] = ()
    grain: Literal["month", "day"] = "month"

    @property
    def dimension(self) -> Heading:
        return Heading(self.field, "year-month" if self.grain == "month" else None)

    @property
    def narrows(self) -> bool:
        return self.first is not None or self.last is not None


class NumberSlicer(Struct, frozen=True, tag="number"):
    """Numbers from `low` to under `high`; None where that end is open. `edges`: the limits of the bars that its
    distribution is shown in, which its handles stop at."""

    id: str
    table: str
    field: str
    edges: tuple[float, ...] = ()
    low: float | None = None
    high: float | None = None
    spares: tuple[str, ...] = ()

    @property
    def dimension(self) -> Heading:
        limits = {*self.edges, *(each for each in (self.low, self.high) if each is not None)}
        return Heading(self.field, bands=Bands(at=tuple(sorted(limits))))

    @property
    def narrows(self) -> bool:
        return self.low is not None or self.high is not None


class TextSlicer(Struct, frozen=True, tag="text"):
    """Texts that contain, or start with, some letters; in any case and with any accents."""

    id: str
    table: str
    field: str
    test: Literal["contains", "starts with"] = "contains"
    text: str = ""
    spares: tuple[str, ...] = ()

    @property
    def dimension(self) -> Heading:
        return Heading(self.field)

    @property
    def narrows(self) -> bool:
        return bool(self.text.strip())


Slicer = ListSlicer | PeriodSlicer | NumberSlicer | TextSlicer


class Echo(Struct, frozen=True, tag="echo"):
    """What a click on marks of a panel picks out: rows that meet all conditions of one of its `parts`. It moves the
    other panels as a slicer does, but stands beside the whole; it is no edit, and in no file."""

    panel: str
    table: str
    parts: tuple[tuple[Condition, ...], ...] = ()
    spares: tuple[str, ...] = ()
    id: str = "echo"

    @property
    def narrows(self) -> bool:
        return bool(self.parts)


Narrowing = Slicer | Echo


class Holding(NamedTuple):
    """One member of a slicer, its rows now and its rows before slicing."""

    choice: MemberChoice
    label: str
    rows: int
    before: int


def choice_of(member: Member) -> MemberChoice:
    """A heading's member as a slicer keeps it."""
    if member is None or isinstance(member, str):
        return member
    if isinstance(member, bool):
        return "true" if member else "false"
    if isinstance(member, int | float):
        return float(member)
    return str(member)
