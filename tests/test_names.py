"""What names of fields say: codes are never totalled, counts and amounts are."""

from __future__ import annotations

import re

import polars as pl
import pytest
from babel import Locale

from summula.core.reading.readers import table_from_frame
from summula.core.tables.calendarnames import names_among
from summula.core.tables.monthnames import MONTH_OF, WEEKDAY_OF
from summula.core.tables.names import averages, identifies, sums
from summula.core.tables.natural import folded
from summula.core.tables.periodnumbers import called_part, period_unit

CODES = (
    "id", "ID", "No.", "Sailing no.", "Docket No", "order_id", "OrderID", "vesselid", "customerIds", "Ticket number", "Phone", "Postcode",
    "ZIP code", "zip", "SKU", "isbn", "EAN", "SSN", "fips", "Account", "Account no", "Kundennr.", "Artikelnummer", "Rechnungsnr", "PLZ",
    "N° client", "№", "código postal", "code postal", "Codice fiscale", "Numéro client", "numero de cliente", "Klantnummer", "Kod pocztowy",
    "numer klienta nr", "Ref", "Ref. order", "reference", "IBAN", "Berth code", "Route key", "Cod_articolo", "Número", "NIF", "Telefon",
)  # fmt: skip
OTHERS = (
    "num_passengers", "no_of_legs", "No. of passengers", "number_of_boats", "Passenger count", "n_seats", "nb passagers", "nombre de trajets",
    "número de pasajeros", "Anzahl Fahrten", "account balance", "Account total", "Paid", "Unpaid", "Takings", "Grid", "Rapid", "bid", "Humid",
    "Delay (min)", "Distance (nm)", "Zip count", "Price", "Notes", "Nodes", "Number of people", "Covid", "valid", "Hybrid", "Aantal", "Nr of crew", "Price index", "Market cap", "VAT",
)  # fmt: skip


@pytest.mark.parametrize("name", CODES)
def test_digits_that_identify(name: str) -> None:
    assert identifies(name)


@pytest.mark.parametrize("name", OTHERS)
def test_digits_that_count_or_measure(name: str) -> None:
    assert not identifies(name)


@pytest.mark.parametrize(
    ("name", "values", "kind"),
    [
        ("Docket", [*range(100, 150)], "code"), ("Docket", [*range(100, 120), *range(125, 150)], "code"), ("Age", [*range(101)], "number"),
        ("Population", [n * n * 17 + 300 for n in range(40)], "number"), ("Depth", [*range(0, 400, 10)], "number"), ("Vessel ID", [3, 9, 4], "code"),
    ],
)  # fmt: skip
def test_running_numbers_step_by_one_and_measures_may(name: str, values: list[int], kind: str) -> None:
    table = table_from_frame("T", pl.DataFrame({name: [str(value) for value in values]}))
    assert table.fields[0].kind == kind


@pytest.mark.parametrize("name", ["Highest temperature", "unit price", "Rating", "Latitude", "Delay (min)", "Durchschnittsalter alter", "humidity_pct", "Taux moyenne"])
def test_what_is_averaged(name: str) -> None:
    assert averages(name) and not sums(name)


@pytest.mark.parametrize("name", ["Takings", "Delay count", "Total price", "Passengers", "Cost"])
def test_what_adds_up(name: str) -> None:
    assert sums(name) or not averages(name)


def test_names_of_months_are_those_of_the_common_locales() -> None:
    """Held against the library's own tables: every month of these locales is known, and means its month."""
    locales = re.findall(r"\w+", "en de fr es it pt nl da sv nb fi pl cs sk hu ro bg hr sl sr uk ru el tr lt lv et ca")
    known = wrong = named = 0
    for locale in locales:
        months = Locale(locale).months
        for number, name in [*months["format"]["wide"].items(), *months["stand-alone"]["wide"].items(), *months["format"]["abbreviated"].items()]:
            words = [word for word in re.findall(r"[^\W\d_]+", folded(name)) if len(word) > 1 and word != "de"]
            if len(words) == 1:
                known, wrong = known + 1, wrong + (MONTH_OF.get(words[0]) != number)
        for number, name in [*Locale(locale).days["format"]["wide"].items(), *Locale(locale).days["format"]["abbreviated"].items()]:
            day = WEEKDAY_OF.get(folded(name).rstrip("."))
            assert day in (None, number + 1), name  # none that means another day elsewhere
            named += day is not None
    assert named > 300
    assert known > 700 and wrong <= 8  # some languages call different months alike (listopad, srp)


@pytest.mark.parametrize(
    ("members", "unit", "ordered"),
    [
        (["Apr", "Feb", "Jan"], "months", ["Jan", "Feb", "Apr"]), (["Friday", "MONDAY", "Sunday", "Tuesday"], "weekdays", ["MONDAY", "Tuesday", "Friday", "Sunday"]),
        (["août", "févr.", "janv."], "months", ["janv.", "févr.", "août"]), (["Dienstag", "Freitag", "Montag"], "weekdays", ["Montag", "Dienstag", "Freitag"]),
        (["May", "June"], None, []), (["May", "June", "Ada"], None, []), (["Jan", "January", "jan"], None, []), ([], None, []),
    ],
)  # fmt: skip
def test_names_of_months_and_weekdays_have_the_calendars_order(members: list[str], unit: str | None, ordered: list[str]) -> None:
    found = names_among(members)
    assert (found is None) if unit is None else (found is not None and found.unit == unit and list(found.members) == ordered)


@pytest.mark.parametrize(
    ("name", "unit"),
    [
        ("Month", "months"), ("Month no.", "months"), ("Months", ""), ("Trips per month", ""), ("ISO week", "weeks"), ("KW", "weeks"), ("Fiscal quarter", "quarters"),
        ("Stunde", "hours"), ("Hours", ""), ("Weekday", "weekdays"), ("Moisture", ""), ("", ""),
    ],
)  # fmt: skip
def test_what_a_name_says_of_parts_of_dates(name: str, unit: str) -> None:
    assert called_part(name) == unit
    if unit:
        table = table_from_frame("Parts", pl.DataFrame({name: ["1", "2", "3", "2"] * 5}), {name: "number"})
        assert period_unit(table, name) == unit and table.field(name).total == "mean"
        more = table_from_frame("Parts", pl.DataFrame({name: ["1", "2", "77"]}), {name: "number"})
        assert not period_unit(more, name)
