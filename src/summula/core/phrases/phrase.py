"""The phrase as data: what a summary shows, by what, across what. Frozen, and the file format itself."""

from typing import Literal

import msgspec

from summula.core.fields.heading import Heading
from summula.core.phrases.forms import Form

Value = str | float
Function = Literal[
    "rows",
    "default",
    "sum",
    "mean",
    "median",
    "min",
    "max",
    "range",
    "count",
    "distinct count",
    "standard deviation",
    "variance",
    "first",
    "last",
    "percentile",
    "each row",
]
# More than these no person can have meant, and no screen hold.
MOST_MEASURES = 100
MOST_HEADINGS = 12  # on one side
MOST_CONDITIONS = 200
MOST_VALUES = 100_000  # of one condition
Test = Literal[
    "is",
    "is not",
    "is blank",
    "is not blank",
    "is from",
    "is over",
    "is at least",
    "is under",
    "is at most",
    "contains",
    "starts with",
    "ends with",
    "is in the last",
]


class Struct(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, cache_hash=True, gc=False):
    """The shape of everything a person can say. It is often a key to what was worked out before: its hash is kept. None
    can hold what holds it, so that garbage is not looked for among them."""


class Condition(Struct, frozen=True):
    """Which rows count. `values`: members for is / is not; two limits for "is from"; a number and a
    unit ("days", "weeks", "months", "quarters", "years") for "is in the last"; else one value."""

    heading: Heading
    test: Test
    values: tuple[Value, ...] = ()


class Aggregate(Struct, frozen=True, tag="aggregate"):
    """One figure worked out from rows. `default` stands for a bare field's own total."""

    function: Function
    field: str | None = None
    percentile: float | None = None
    where: tuple[Condition, ...] = ()


class Number(Struct, frozen=True, tag="number"):
    value: float


class Lever(Struct, frozen=True, tag="lever"):
    """A named number that a person moves. The folio knows its `value`; it is put in for an answer, not kept here."""

    name: str
    value: float | None = None


class Linked(Struct, frozen=True, tag="linked"):
    """A figure of another table of the folio, by its name: of those rows that have the same members of the headings
    that both tables know."""

    table: str
    aggregate: Aggregate


class Arithmetic(Struct, frozen=True, tag="arithmetic"):
    operator: Literal["+", "-", "*", "/"]
    left: "Calculation"
    right: "Calculation"


Calculation = Aggregate | Number | Lever | Linked | Arithmetic


class Comparison(Struct, frozen=True):
    """A figure set against another. `along` and `member` where the kind needs them."""

    kind: Literal[
        "share of all",
        "share of row",
        "share of column",
        "share of group",
        "share of everything",
        "running total",
        "rank",
        "change on previous",
        "percent change on previous",
        "change on a year earlier",
        "percent change on a year earlier",
        "change on",
        "percent change on",
    ]
    along: Heading | None = None
    member: Value | None = None


class Measure(Struct, frozen=True):
    calculation: Calculation
    comparison: Comparison | None = None
    name: str | None = None


class Keep(Struct, frozen=True):
    """top 5 Vessel by rows in each Route gathering the rest as "Others"."""

    end: Literal["top", "bottom"]
    number: float
    heading: Heading
    measure: Measure
    percent: bool = False
    each: Heading | None = None
    gather: bool = False
    gathered_name: str | None = None


class Order(Struct, frozen=True):
    """By a measure (largest or smallest first), or one heading backwards or in a given sequence."""

    measure: Measure | None = None
    largest: bool = True
    heading: Heading | None = None
    backwards: bool = False
    sequence: tuple[Value, ...] = ()


class Phrase(Struct, frozen=True):
    measures: tuple[Measure, ...]
    against: Measure | None = None
    by: tuple[Heading, ...] = ()
    across: tuple[Heading, ...] = ()
    where: tuple[Condition, ...] = ()
    keeping: tuple[Keep, ...] = ()
    order: Order | None = None
    every_member: bool = False
    subtotals: bool = True
    totals: bool = True
    form: Form = "grid"
    multiples: Heading | None = None  # the form is drawn once for each of its members


def figures_shown(phrase: Phrase) -> tuple[Measure, ...]:
    """The measures in the order their figures stand; the one that they are set against is the last."""
    return phrase.measures if phrase.against is None else (*phrase.measures, phrase.against)


def headings_of(phrase: Phrase) -> tuple[Heading, ...]:
    """Every heading that its figures are told apart by."""
    multiples = () if phrase.multiples is None else (phrase.multiples,)
    return (*multiples, *phrase.by, *phrase.across)


def aggregates_of(calculation: Calculation) -> list[Aggregate]:
    """The aggregates a calculation is made of, from left to right."""
    if isinstance(calculation, Aggregate):
        return [calculation]
    if isinstance(calculation, Arithmetic):
        return [*aggregates_of(calculation.left), *aggregates_of(calculation.right)]
    return []


def linked_in(calculation: Calculation) -> list[Linked]:
    """The figures of other tables that a calculation is made of."""
    if isinstance(calculation, Linked):
        return [calculation]
    if isinstance(calculation, Arithmetic):
        return [*linked_in(calculation.left), *linked_in(calculation.right)]
    return []


def is_each_row(calculation: Calculation) -> bool:
    """Whether a figure stands for the values themselves."""
    return isinstance(calculation, Aggregate) and calculation.function == "each row"
