"""What names mean in one table: fields by any case, members, and what may be asked of each."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import cached_property

import msgspec
from msgspec.structs import replace

from summula.core.engine.comparisons import check_along
from summula.core.engine.keeping import check_keep
from summula.core.fields.bands import checked
from summula.core.fields.heading import Heading, encode_heading
from summula.core.language.faults import meant_by
from summula.core.language.values import Span, checked_values
from summula.core.phrases.phrase import Aggregate, Comparison, Function, Keep, Lever, Measure, Test, Value
from summula.core.phrases.words import Names
from summula.core.refusal import Refusal, nearest
from summula.core.tables.column import DateColumn
from summula.core.tables.field import MEASURED, Field
from summula.core.tables.table import Table

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
_MOST_CODES = 5_000  # of a field, that may stand bare whatever they are made of; of more, those that need no quotes


class Vocabulary(msgspec.Struct, frozen=True, dict=True):
    """The names of one table, and of the folio's levers, as the parser asks for them."""

    table: Table
    levers: tuple[str, ...] = ()
    notes: list[str] | None = None  # takes a sentence for each name that was read otherwise than written
    others: tuple[Table, ...] = ()  # that are linked to it: their figures can stand beside its own

    @cached_property
    def names(self) -> Names:
        known = [field.name for field in self.table.fields]
        for field in self.table.fields:
            if field.kind in ("category", "code"):
                members = encode_heading(self.table, Heading(field.name)).members
                if field.kind == "category" or len(members) <= _MOST_CODES:
                    known.extend(str(member) for member in members)
        for other in self.others:
            known += [other.name, *(field.name for field in other.fields)]
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
            meant = None if guess else meant_by(name)
            if meant is not None:
                raise Refusal(f"no field '{name}'", f"enter '{meant}'", span=span, suggestion=meant)
            remedy = f"did you mean '{guess}'?" if guess else f"'{self.table.name}' has no such field"
            raise Refusal(f"no field '{name}'", remedy, span=span, suggestion=guess)
        return found

    def other(self, name: str, span: Span | None) -> Vocabulary:
        """The names of a linked table."""
        for table in self.others:
            if table.name.casefold() == name.casefold():
                return Vocabulary(table)
        guess = nearest(name, (table.name for table in self.others))
        remedy = f"did you mean '{guess}'?" if guess else "link it to this one first: its fields and this table's"
        raise Refusal(f"no linked table '{name}'", remedy, span=span, suggestion=guess)

    def lever(self, name: str, span: Span | None) -> Lever:
        for known in self.levers:
            if known.casefold() == name.casefold():
                return Lever(known)
        guess = nearest(name, self.levers)
        remedy = f"did you mean '{guess}'?" if guess else "create it first, or use a number instead"
        raise Refusal(f"no lever '{name}'", remedy, span=span, suggestion=guess)

    def bare_lever(self, name: str) -> Lever | None:
        """The lever that a name by itself means: none where a field is called so."""
        if name.casefold() in self._by_folded:
            return None
        return next((Lever(known) for known in self.levers if known.casefold() == name.casefold()), None)

    def check_function(self, function: Function, name: str, span: Span | None) -> str:
        field = self.field(name, span)
        if function in OF_NUMBERS and field.kind not in MEASURED:
            if field.kind == "code":
                raise Refusal(
                    f"'{field.name}' is a code, so its {function} would mean nothing",
                    f'count it, or make it a number first (kind "{field.name}=number")',
                    span=span,
                )
            lacks = "its values are not numbers" if function == "each row" else f"it has no {function}"
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
        column = self.table.column(field.name)
        if heading.part == "hour" and isinstance(column, DateColumn) and column.seconds is None:
            raise Refusal(f"'{field.name}' holds days without a time", "choose another part of the date", span=span)
        if heading.bands is not None and field.kind not in MEASURED:
            raise Refusal(f"'{field.name}' is a {field.kind}, so it has no bands", "choose a number field", span=span)
        if heading.bands is not None:
            bands = heading.bands
            _placed(lambda: checked(bands), span)
        return Heading(field.name, heading.part, heading.bands)

    def check_values(
        self,
        heading: Heading,
        test: Test,
        values: tuple[Value, ...],
        written: Sequence[str],
        spans: Sequence[Span | None],
    ) -> tuple[Value, ...]:
        """The values as the table spells them; refuses what can have no answer."""
        return checked_values(self.table, heading, test, values, written, spans, self.notes)

    def check_along(self, comparison: Comparison | None, headings: tuple[Heading, ...], span: Span | None) -> None:
        """Refuses, at its place, a comparison that these headings give no place."""
        dates = {field.name for field in self.table.fields if field.kind == "date"}
        _placed(lambda: check_along(comparison, headings, dates), span)

    def check_keep(self, keep: Keep, span: Span | None) -> None:
        """Refuses, at its place, a share of a figure that does not add up."""
        _placed(lambda: check_keep(keep), span)
        calculation = keep.measure.calculation
        bare = isinstance(calculation, Aggregate) and calculation.function == "default"
        if keep.percent and bare and isinstance(calculation, Aggregate) and calculation.field is not None:
            field = self.table.field(calculation.field)
            if field.kind in MEASURED and field.total != "sum":
                summed = replace(keep, measure=Measure(Aggregate("mean", field.name)))
                _placed(lambda: check_keep(summed), span)


def _placed(check: Callable[[], object], span: Span | None) -> None:
    """A check whose refusal is told at a place."""
    try:
        check()
    except Refusal as refusal:
        raise Refusal(refusal.wrong, refusal.remedy, span=refusal.span or span) from None
