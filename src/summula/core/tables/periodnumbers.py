"""Numbers that are years, months, weeks: they order and group rows, but a total of them means nothing."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

from summula.core.arrays import np
from summula.core.memory import Remembered
from summula.core.tables.column import NumberColumn, different_values
from summula.core.tables.names import words
from summula.core.tables.natural import folded

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.tables.table import Table

_EARLIEST, _LATEST = 1800, 2100
_CALLED_YEAR = re.compile(r"(^|[\s_.\-/])(year|years|yr|jahr|année|annee|año|ano|anno)([\s_.\-/]|$)", re.IGNORECASE)
_TELLING = 20  # values that tell years without the name
_REPEATS = 3  # rows a distinct one, at least

# Parts of dates: their least and greatest number, and the words that name them (folded), one of them: "months" may be
# how long something took.
_PARTS = {
    "months": (1, 12, "month monat mois mes mese maand miesiac"),
    "weeks": (1, 53, "week wk kw woche kalenderwoche semaine semana settimana"),
    "quarters": (1, 4, "quarter qtr quartal trimestre kwartaal kwartal"),
    "weekdays": (0, 7, "weekday dow wochentag weekdag"),
    "hours": (0, 23, "hour stunde heure hora ora uur godzina"),
}
_NUMBERED = words("no nr nro num number nummer numero of the year de del do iso calendar kalender")
_RATES = words("per a an each pro par por al every")  # "trips per month" counts trips
_UNITS: Remembered[str, str] = Remembered("units of periods", most=2_000)


def period_unit(table: Table, name: str) -> str:
    """What a number field holds nothing but: "years" (whole numbers from 1800 to 2100 that come again and again, or
    that its name calls so), "months", "weeks", "quarters", "weekdays", "hours" (told by its name); empty for other
    numbers. Remembered by the table."""
    return _UNITS.of(table.memo, name, lambda: _period_unit(table, name))


def _period_unit(table: Table, name: str) -> str:
    column = table.column(name)
    if not isinstance(column, NumberColumn) or column.decimals or column.per != 1:
        return ""
    present = column.present()
    if len(present) == 0 or not np.array_equal(present, np.rint(present)):
        return ""
    if _are_years(present, name):
        return "years"
    called = called_part(name)
    if not called:
        return ""
    least, greatest, _ = _PARTS[called]
    return called if present.min() >= least and present.max() <= greatest else ""


def called_year(name: str) -> bool:
    """Whether a name says that its values are years."""
    return _CALLED_YEAR.search(name) is not None


def called_part(name: str) -> str:
    """The part of a date that a name says its numbers are; empty where it says none."""
    found = re.findall(r"[^\W\d_]+", folded(name))
    if not found or _RATES.intersection(found):
        return ""
    while len(found) > 1 and found[-1] in _NUMBERED:
        found.pop()
    return next((unit for unit, (_, _, names) in _PARTS.items() if found[-1] in names.split()), "")


def _are_years(present: NDArray[np.float64], name: str) -> bool:
    if present.min() < _EARLIEST or present.max() > _LATEST:
        return False
    return called_year(name) or len(present) >= max(_TELLING, _REPEATS * len(different_values(present)))
