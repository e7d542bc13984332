"""What a person can say about a field: its name, kind, meaning, pattern and default total."""

from collections.abc import Mapping
from typing import Literal

import msgspec

from summula.core.refusal import Refusal

Kind = Literal["category", "number", "duration", "code", "date", "flag"]
KINDS: tuple[Kind, ...] = ("category", "number", "duration", "code", "date", "flag")
MEASURED: tuple[Kind, ...] = ("number", "duration")  # kinds whose values are figures: they add up, and fall into bands


class Field(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """One field of a table.

    `pattern` is a Unicode CLDR number pattern ("£#,##0.00"), empty for plain. `total` is how a bare
    number field is totalled in a phrase. `hidden` keeps a field out of the lists, not out of phrases.
    """

    name: str
    kind: Kind
    description: str = ""
    pattern: str = ""
    total: Literal["sum", "mean"] = "sum"
    hidden: bool = False


class Sensed(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True):
    """A kind, how to read it ("iso", "day first", "month first", "named", "quarter", "point", "comma", …) and why.

    `doubt` says that nothing in the values decides the reading. `unit` is what all numbers are written with ("£",
    "kg"), `century` the first of the hundred years that years of two figures mean (0: there are none). `markers` are
    some of those that were taken for nothing ("n/a").
    """

    kind: Kind
    reading: str = ""
    why: str = ""
    doubt: bool = False
    unit: str = ""
    century: int = 0
    markers: tuple[str, ...] = ()


def check_known(kinds: Mapping[str, Kind]) -> None:
    """Refuse what is said of a field and is no kind."""
    for kind in kinds.values():
        if kind not in KINDS:
            raise Refusal(f"'{kind}' is not a kind", "choose one of " + ", ".join(KINDS))
