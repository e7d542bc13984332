"""What a person can say about a field: its name, kind, meaning, pattern and default total."""

from typing import Literal

import msgspec

Kind = Literal["category", "number", "code", "date", "flag"]
KINDS: tuple[Kind, ...] = ("category", "number", "code", "date", "flag")


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
    """A kind, how to read it ("iso", "day first", "month first", "named", "point", "comma", "typed"), and why.

    `doubt` says that nothing in the values decides the reading.
    """

    kind: Kind
    reading: str = ""
    why: str = ""
    doubt: bool = False
