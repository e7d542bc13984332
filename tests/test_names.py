"""What names of fields say: codes are never totalled, counts and amounts are."""

from __future__ import annotations

import pytest

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
