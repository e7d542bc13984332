"""Steps that make a field from others: date parts, bands, bundles."""

from __future__ import annotations

from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.fields import calendar
from summula.core.fields.bands import Band, encode_bands
from summula.core.fields.heading import Heading, encode_heading
from summula.core.fields.labels import label_of
from summula.core.preparation.outcome import Done, Tables, with_added
from summula.core.refusal import Refusal
from summula.core.tables.column import (
    CodedColumn,
    DateColumn,
    different_values,
    smallest_code_type,
)
from summula.core.tables.field import Field
from summula.core.tables.natural import natural_sorted
from summula.core.tables.table import Table, blanks

if TYPE_CHECKING:
    from summula.core.preparation.steps import AddBands, AddBundles, AddPart

FISCAL = ("year", "half", "quarter", "year-half", "year-quarter")


def add_part(table: Table, step: AddPart, others: Tables) -> Done:
    """A part of a date as an ordered category."""
    if step.starts != 1 and step.part in FISCAL:
        column = _fiscal(table, step)
    else:
        heading = Heading(step.field, part=step.part)
        encoded = encode_heading(table, heading)
        column = CodedColumn(encoded.codes, tuple(label_of(heading, member) for member in encoded.members))
    return Done(with_added(table, Field(step.name, "category"), column), table.rows - blanks(column))


def _fiscal(table: Table, step: AddPart) -> CodedColumn:
    """Parts of a year that begins with the month `starts`: the calendar's own, of dates moved back so many months."""
    if not 1 <= step.starts <= 12:
        raise Refusal(f"{step.starts} is not a month", "choose one from 1 to 12")
    dates = table.column(step.field)
    if not isinstance(dates, DateColumn):
        raise Refusal(f"'{step.field}' holds no dates, so it has no {step.part}", "choose a date field")
    months = dates.days.astype("datetime64[D]").astype("datetime64[M]") - (step.starts - 1)
    numbers = calendar.part_numbers(months.astype("datetime64[D]").astype(np.int64), step.part)
    present = numbers if dates.blank is None else numbers[~dates.blank]
    distinct = different_values(present)
    codes = np.searchsorted(distinct, numbers).astype(smallest_code_type(len(distinct)))
    if dates.blank is not None:
        codes[dates.blank] = len(distinct)
    return CodedColumn(codes, tuple(_fiscal_label(int(number), step.part) for number in distinct))


def _fiscal_label(number: int, part: str) -> str:
    if part in ("half", "quarter"):
        return f"{part[0].upper()}{number}"
    year, place = (number, 0) if part == "year" else divmod(number, 100)
    span = f"{year}/{(year + 1) % 100:02d}"
    return span if part == "year" else f"{part.removeprefix('year-')[0].upper()}{place} {span}"


def add_bands(table: Table, step: AddBands, others: Tables) -> Done:
    column = table.number(step.field)
    codes, bands = encode_bands(column, step.bands)
    if step.labels and len(step.labels) != len(step.bands.at) + 1:
        raise Refusal(
            f"{len(step.bands.at)} limits make {len(step.bands.at) + 1} bands, but {len(step.labels)} are named",
            "name each of them, from the lowest",
        )
    names = tuple(_band_name(band, step) for band in bands)
    if len(set(names)) < len(names):
        raise Refusal("two bands have the same label", "use different names")
    made = CodedColumn(codes, names)
    return Done(with_added(table, Field(step.name, "category"), made), table.rows - blanks(made))


def _band_name(band: Band, step: AddBands) -> str:
    if step.labels:
        return step.labels[0 if band.lower is None else step.bands.at.index(band.lower) + 1]
    return label_of(Heading(step.field, bands=step.bands), band)


def add_bundles(table: Table, step: AddBundles, others: Tables) -> Done:
    """Bundles first, in their order; then what stands apart, or the rest together."""
    column = table.column(step.field)
    if not isinstance(column, CodedColumn):
        raise Refusal(f"'{step.field}' holds no values to group", "choose a category, or use bands")
    bundle_of = {member: bundle.name for bundle in step.bundles for member in bundle.members}
    if not bundle_of:
        raise Refusal("no values are grouped", "select some and name the group")
    apart = [member for member in column.members if member not in bundle_of]
    names = list(dict.fromkeys(bundle.name for bundle in step.bundles if set(bundle.members) & set(column.members)))
    if step.rest:
        names += [step.rest] if apart and step.rest not in names else []
    else:
        names += [member for member in natural_sorted(apart) if member not in names]
    place = {name: at for at, name in enumerate(names)}
    lookup = [place[bundle_of.get(member, step.rest or member)] for member in column.members]
    codes = np.array([*lookup, len(names)]).astype(smallest_code_type(len(names)))[column.codes]
    made = CodedColumn(codes, tuple(names))
    missing = [member for member in bundle_of if member not in set(column.members)]
    notice = f"not in the table any more: {', '.join(missing[:4])}" if missing else ""
    return Done(with_added(table, Field(step.name, "category"), made), table.rows - blanks(made), notice)
