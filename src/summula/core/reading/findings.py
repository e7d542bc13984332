"""What a person should know of how a file was read, a sentence each: what does not fit, what was left out, what nothing
in the file decides, and what else it holds."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import msgspec

from summula.core.refusal import shortened

if TYPE_CHECKING:
    from summula.core.reading.readas import Setting
    from summula.core.tables.table import Table

_TOLD = 3  # values of each field


class Finding(msgspec.Struct, frozen=True):
    """A sentence about a field, or about the table where there is none."""

    sentence: str
    field: str = ""


def findings(table: Table, settings: Sequence[Setting]) -> tuple[Finding, ...]:
    """Everything that was found out about a file and its table, the table as a whole first."""
    found = [Finding(_of_setting(each)) for each in settings if each.doubt or each.notice]
    whys = {each.why for each in settings if each.doubt}
    if table.ragged:
        row = table.ragged[0].row + 1
        notice = f"{len(table.ragged):,} rows have" if len(table.ragged) > 1 else "1 row has"
        found.append(Finding(f"{notice} too many or too few values, first row {row:,}; what is too many is kept"))
    for at, field in enumerate(table.fields):
        column = table.columns[at]
        if column.refused and not all(
            each.text.startswith("=") for each in column.refused
        ):  # formulas are told as such
            some = ", ".join(f"'{shortened(each.text)}'" for each in column.refused[:_TOLD])
            count = len(column.refused)
            notice = f"{count:,} values of '{field.name}' do" if count > 1 else f"1 value of '{field.name}' does"
            found.append(Finding(f"{notice} not fit a {field.kind} ({some}); counted as blank", field.name))
        sensed = table.sensed[at] if at < len(table.sensed) else None
        if sensed is None or not sensed.why or f"{field.name}: {sensed.why}" in whys:
            continue
        if sensed.doubt or sensed.reading in _TOLD_READINGS:
            doubt = ", in doubt" if sensed.doubt else ""
            how = f" {sensed.reading}" if sensed.reading else ""
            found.append(Finding(f"'{field.name}' is read as a {field.kind}{how}{doubt}: {sensed.why}", field.name))
    return tuple(found)


_TOLD_READINGS = frozenset(("marked", "quarter", "half", "month", "week", "compact", "trimmed"))


def _of_setting(setting: Setting) -> str:
    if setting.notice:
        return setting.notice
    doubt = ", in doubt" if setting.doubt else ""
    return f"{setting.name.replace('_', ' ')}: {setting.value}{doubt} ({setting.why})"
