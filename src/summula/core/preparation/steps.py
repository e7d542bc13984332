"""The steps of a preparation, as values: what a person has said, to be done again whenever the source is read."""

from typing import Literal

import msgspec

from summula.core.fields.bands import Bands
from summula.core.fields.heading import DatePart
from summula.core.phrases.phrase import Condition
from summula.core.tables.field import Kind


class Step(msgspec.Struct, frozen=True, forbid_unknown_fields=True, omit_defaults=True, kw_only=True, tag_field="step"):
    """What every step has: it can be switched off."""

    off: bool = False


class SetKind(Step, frozen=True, tag="kind"):
    """A field read as another kind; `reading` is "day first", "month first", "point" or "comma" where it matters."""

    field: str
    kind: Kind
    reading: str = ""


class Rename(Step, frozen=True, tag="rename"):
    field: str
    name: str


class DropFields(Step, frozen=True, tag="drop"):
    fields: tuple[str, ...]


class KeepFields(Step, frozen=True, tag="keep"):
    """Only these fields, in this order."""

    fields: tuple[str, ...]


class Tidy(Step, frozen=True, tag="tidy"):
    """Text made even: "spaces" (none around it, one between words) or its letters "lower", "upper", "title" (all small,
    all capital, each word with a capital). No fields: all that hold text."""

    fields: tuple[str, ...] = ()
    how: Literal["spaces", "lower", "upper", "title"] = "spaces"


class Replace(Step, frozen=True, tag="replace"):
    """Text replaced wherever it stands in a value, or only where it is the whole value."""

    field: str
    find: str
    put: str = ""
    whole: bool = False


class FillBlanks(Step, frozen=True, tag="fill"):
    """Blanks filled with a value, or (`above`) with what the rows above hold."""

    field: str
    value: str = ""
    above: bool = False


class Split(Step, frozen=True, tag="split"):
    """Text parted wherever `at` stands into fields called `names`; the last takes what remains."""

    field: str
    at: str
    names: tuple[str, ...]


class Join(Step, frozen=True, tag="join"):
    """Several fields as one text; blanks are left out with their `between`."""

    fields: tuple[str, ...]
    name: str
    between: str = " "


class Rows(Step, frozen=True, tag="rows"):
    """Rows that meet all the conditions kept, or dropped."""

    where: tuple[Condition, ...]
    keep: bool = True


class DropDuplicates(Step, frozen=True, tag="duplicates"):
    """Of rows alike in these fields (none: in all) only the first."""

    fields: tuple[str, ...] = ()


class Append(Step, frozen=True, tag="append"):
    """The rows of another file of the same shape, which the folio keeps as the part `part`."""

    part: str
    name: str


class Unpivot(Step, frozen=True, tag="unpivot"):
    """Wide fields turned into rows: their names go into one field, their values into another."""

    fields: tuple[str, ...]
    name: str
    value: str
    blanks: bool = False


class AddPart(Step, frozen=True, tag="part"):
    """A part of a date as a field. Years, halves and quarters begin with the month `starts` (1 is January)."""

    field: str
    part: DatePart
    name: str
    starts: int = 1


class AddBands(Step, frozen=True, tag="bands"):
    """Bands of a number as a field; `labels` name the bands between the limits `bands.at`, from the lowest."""

    field: str
    bands: Bands
    name: str
    labels: tuple[str, ...] = ()


class Bundle(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    name: str
    members: tuple[str, ...]


class AddBundles(Step, frozen=True, tag="bundles"):
    """Values bundled by hand as a field; what is in no bundle stands apart, or together as `rest`."""

    field: str
    bundles: tuple[Bundle, ...]
    name: str
    rest: str = ""


class AddFormula(Step, frozen=True, tag="formula"):
    """An SQL expression over the fields, worked out row by row."""

    name: str
    text: str


class Key(msgspec.Struct, frozen=True, forbid_unknown_fields=True):
    """A field of this table and the field of the other that hold the same."""

    mine: str
    theirs: str


class AddLookup(Step, frozen=True, tag="lookup"):
    """Fields of another table, found by key fields, and what each is `called` here, so that it stays so when the
    other table or its fields are called otherwise; none says as there. Names that are taken get the table's with them.
    """

    table: str
    keys: tuple[Key, ...]
    fields: tuple[str, ...]
    called: tuple[str, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        return self.called or self.fields


AnyStep = (
    SetKind | Rename | DropFields | KeepFields | Tidy | Replace | FillBlanks | Split | Join | Rows | DropDuplicates
    | Append | Unpivot | AddPart | AddBands | AddBundles | AddFormula | AddLookup
)  # fmt: skip
