"""What names mean in one table: fields by any case, members, and what may be asked of each."""

from __future__ import annotations

from datetime import date
from functools import cached_property

import msgspec

from summula.core.fields.bands import checked
from summula.core.fields.heading import Heading, encode_heading
from summula.core.fields.labels import label_of
from summula.core.refusal import Refusal, nearest
from summula.core.summaries.language.words import Names
from summula.core.summaries.phrase import Function, Lever, Test, Value
from summula.core.tables.field import Field
from summula.core.tables.table import Table

Span = tuple[int, int]
OF_NUMBERS = {
    "sum",
    "mean",
    "median",
    "min",
    "max",
    "range",
    "standard deviation",
    "variance",
    "percentile",
    "each row",
}
_COMPARING = {"is over", "is at least", "is under", "is at most", "is from"}


class Vocabulary(msgspec.Struct, frozen=True, dict=True):
    """The names of one table, and of the folio's levers, as the parser asks for them."""

    table: Table
    levers: tuple[str, ...] = ()

    @cached_property
    def names(self) -> Names:
        known = [field.name for field in self.table.fields]
        for field in self.table.fields:
            if field.kind == "category":
                known.extend(str(m) for m in encode_heading(self.table, Heading(field.name)).members)
        return Names([*known, *self.levers])

    @cached_property
    def _by_folded(self) -> dict[str, Field]:
        folded: dict[str, Field] = {}
        for field in self.table.fields:
            folded.setdefault(field.name.casefold(), field)
        return folded

    def field(self, name: str, span: Span | None) -> Field:
        if self.table.has(name):
            return self.table.field(name)
        found = self._by_folded.get(name.casefold())
        if found is None:
            guess = nearest(name, (field.name for field in self.table.fields))
            remedy = f"did you mean '{guess}'?" if guess else f"'{self.table.name}' has no such field"
            raise Refusal(f"no field '{name}'", remedy, span=span, suggestion=guess)
        return found

    def lever(self, name: str, span: Span | None) -> Lever:
        for known in self.levers:
            if known.casefold() == name.casefold():
                return Lever(known)
        guess = nearest(name, self.levers)
        remedy = f"did you mean '{guess}'?" if guess else "make it first, or write a number in its place"
        raise Refusal(f"no lever '{name}'", remedy, span=span, suggestion=guess)

    def bare_lever(self, name: str) -> Lever | None:
        """The lever that a name by itself means: none where a field is called so."""
        if name.casefold() in self._by_folded:
            return None
        return next((Lever(known) for known in self.levers if known.casefold() == name.casefold()), None)

    def check_function(self, function: Function, name: str, span: Span | None) -> str:
        field = self.field(name, span)
        if function in OF_NUMBERS and field.kind != "number":
            if field.kind == "code":
                raise Refusal(
                    f"'{field.name}' is a code, so its {function} would mean nothing",
                    f'count it, or make it a number first (kind "{field.name}=number")',
                    span=span,
                )
            lacks = "its values are no numbers" if function == "each row" else f"it has no {function}"
            raise Refusal(f"'{field.name}' is a {field.kind}, so {lacks}", "count it instead", span=span)
        return field.name

    def check_heading(self, heading: Heading, span: Span | None) -> Heading:
        field = self.field(heading.field, span)
        if heading.part is not None and field.kind != "date":
            raise Refusal(
                f"'{field.name}' is a {field.kind}, so it has no {heading.part}",
                "choose a date field",
                span=span,
            )
        if heading.bands is not None and field.kind != "number":
            raise Refusal(f"'{field.name}' is a {field.kind}, so it has no bands", "choose a number field", span=span)
        if heading.bands is not None:
            try:
                checked(heading.bands)
            except Refusal as refusal:
                raise Refusal(refusal.wrong, refusal.remedy, span=span) from None
        return Heading(field.name, heading.part, heading.bands)

    def check_values(
        self, heading: Heading, test: Test, values: tuple[Value, ...], spans: list[Span | None]
    ) -> tuple[Value, ...]:
        """The values as the table spells them; refuses a member that a category does not have."""
        field = self.table.field(heading.field)
        if test in ("is", "is not"):
            pairs = zip(values, spans, strict=True)
            return tuple(self.member(heading, value, span) for value, span in pairs)
        if test in _COMPARING and field.kind == "number" and heading.part is None:
            for value, span in zip(values, spans, strict=True):
                if isinstance(value, str):
                    raise Refusal(
                        f"'{field.name}' is compared with a number, not '{value}'",
                        "write a number",
                        span=span,
                    )
        if test in ("contains", "starts with", "ends with") and field.kind not in ("category", "code"):
            raise Refusal(
                f"'{field.name}' is a {field.kind}, so it holds no text",
                "compare it with a value",
                span=spans[0],
            )
        if test == "is in the last" and (field.kind != "date" or heading.part is not None):
            raise Refusal(f"'{field.name}' is not a date", "choose a date field", span=spans[0])
        return values

    def member(self, heading: Heading, value: Value, span: Span | None) -> Value:
        """A member of a heading as the table spells it (any case; "Jan" for month 1)."""
        encoded = encode_heading(self.table, heading)
        field = self.table.field(heading.field)
        if heading.part is None and heading.bands is None and field.kind == "number":
            if isinstance(value, float | int):
                return float(value)
            raise Refusal(f"'{field.name}' holds numbers, not '{value}'", "write a number", span=span)
        # A number is asked of a category of digits ("5"), a month by its name ("Jan"): both are meant.
        folded = str(_plain(value)).casefold()
        for member in encoded.members:
            spelled = member.isoformat() if isinstance(member, date) else member
            if folded in (str(spelled).casefold(), label_of(heading, member).casefold()):
                return float(spelled) if isinstance(spelled, int) and not isinstance(spelled, bool) else str(spelled)
        if heading.part is not None or field.kind == "date":
            return value  # a date that does not occur is a fair question: no rows
        guess = nearest(str(_plain(value)), [label_of(heading, member) for member in encoded.members[:5000]])
        remedy = f"did you mean '{guess}'?" if guess else "see the field's values on its table's page"
        raise Refusal(f"'{heading.field}' has no '{_plain(value)}'", remedy, span=span, suggestion=guess)


def _plain(value: Value) -> str | float | int:
    return int(value) if isinstance(value, float) and value == int(value) else value
