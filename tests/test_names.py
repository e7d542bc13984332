"""What names of fields say: codes are never totalled, counts and amounts are."""

from __future__ import annotations

import polars as pl
import pytest

from summula.core.reading.readers import table_from_frame
from summula.core.tables.names import identifies

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
