"""Skerry Ferries: every sailing from January 2023 to 11 November 2025, with structure worth finding.

Seasons and growth; winters that lose money; a vessel that moves to another route; a route closed for a
winter; weather that makes delays with a long tail; takings that rise with passengers; refunds, blanks
and a few absurd entries, as in any real office.
"""

from __future__ import annotations

import numpy as np
import polars as pl
from numpy.typing import NDArray

SEED = 20251111
FIRST_DAY = np.datetime64("2023-01-01")
LAST_DAY = np.datetime64("2025-11-11")
DASH = "\N{EN DASH}"

# Route: nautical miles, how busy (1 is the busiest), its vessels.
ROUTES: dict[str, tuple[float, float, tuple[str, ...]]] = {
    f"Aldry {DASH} Fenholm": (9.0, 1.00, ("Petrel", "Guillemot", "Tern")),
    f"Fenholm {DASH} Osk": (14.5, 0.80, ("Petrel", "Kittiwake")),
    f"Osk {DASH} Brannay": (21.0, 0.62, ("Kittiwake", "Dunlin")),
    "Tarn Ness circular": (18.0, 0.42, ("Tern", "Turnstone")),
    f"Brannay {DASH} Merrow": (26.5, 0.38, ("Guillemot", "Plover")),
    f"Merrow {DASH} Sule": (32.0, 0.27, ("Plover", "Whimbrel")),
    f"Aldry {DASH} Hesta": (6.5, 0.30, ("Turnstone", "Godwit")),
    f"Hesta {DASH} Lunna": (11.0, 0.22, ("Godwit",)),
    f"Osk {DASH} Vaila": (8.0, 0.20, ("Turnstone", "Whimbrel")),
    f"Vaila {DASH} Noss Holm": (16.0, 0.16, ("Whimbrel",)),
    f"Fenholm {DASH} Grimsay": (38.0, 0.14, ("Plover", "Godwit")),
}
# Ticket: share of a sailing's passengers, fare against a single, how often the class is on a sailing.
TICKETS: dict[str, tuple[float, float, float]] = {
    "Day return": (0.36, 1.12, 0.97),
    "Single": (0.22, 1.00, 0.93),
    "Islander pass": (0.14, 0.82, 0.80),
    "Vehicle": (0.10, 1.45, 0.62),
    "Group": (0.09, 0.90, 0.34),
    "Child": (0.06, 0.78, 0.42),
    "Bicycle": (0.03, 1.10, 0.30),
    "Staff pass": (0.015, 0.0, 0.10),
}
CHANNELS = ("Quay office", "Web", "Phone", "On board", "Agent")
WEATHERS = ("Calm", "Breezy", "Rough", "Fog")
MOVED_VESSEL, MOVED_ON = "Dunlin", np.datetime64("2024-06-01")
CLOSED_ROUTE = "Tarn Ness circular"
CLOSED_FROM, CLOSED_TO = np.datetime64("2023-11-01"), np.datetime64("2024-03-31")
_FIRST_NUMBER = 100_003


def sailings(last: np.datetime64 = LAST_DAY) -> pl.DataFrame:
    """One row for each departure and ticket class, up to and with `last`; the same at every call."""
    rng = np.random.default_rng(SEED)
    days, routes, vessels = _departures(rng, last)
    season = _season(days)
    weather = _weather(rng, days)
    busy = np.array([ROUTES[name][1] for name in ROUTES])[routes]
    years = (days - FIRST_DAY).astype(np.int64) / 365.25
    crowd = (30 + 190 * busy**0.7) * season * 1.045**years * np.array([1.0, 0.95, 0.74, 0.82])[weather]
    crowd *= rng.lognormal(0, 0.22, len(days))
    late = _delays(rng, weather)
    departure, ticket = _classes(rng, len(days), season)
    return _rows(rng, days, routes, vessels, weather, crowd, late, departure, ticket)


def _departures(
    rng: np.random.Generator, last: np.datetime64
) -> tuple[NDArray[np.datetime64], NDArray[np.int64], NDArray[np.str_]]:
    # Drawn for the whole span whatever `last` is, so that later rows never change earlier ones.
    calendar = np.arange(FIRST_DAY, np.datetime64("2026-12-31") + 1)
    days, routes, vessels = [], [], []
    for place, (name, (_, busy, fleet)) in enumerate(ROUTES.items()):
        chance = np.clip(0.31 + 0.60 * busy * _season(calendar) ** 0.45, 0.05, 0.98)
        sails = rng.random(len(calendar)) < chance
        if name == CLOSED_ROUTE:
            sails &= (calendar < CLOSED_FROM) | (calendar > CLOSED_TO)
        on = calendar[sails]
        weights = np.array([0.52, 0.30, 0.18] if len(fleet) == 3 else [0.6, 0.4] if len(fleet) == 2 else [1.0])
        chosen = np.array(fleet)[rng.choice(len(fleet), len(on), p=weights)]
        days.append(on)
        routes.append(np.full(len(on), place))
        vessels.append(chosen)
    day, route, vessel = np.concatenate(days), np.concatenate(routes), np.concatenate(vessels).astype("<U12")
    names = list(ROUTES)
    old, new = names.index(f"Osk {DASH} Brannay"), names.index(f"Brannay {DASH} Merrow")
    after = day >= MOVED_ON
    vessel[after & (route == old) & (vessel == MOVED_VESSEL)] = "Kittiwake"
    moved = after & (route == new) & (rng.random(len(day)) < 0.45)
    vessel[moved] = MOVED_VESSEL
    order = np.lexsort((route, day))
    order = order[day[order] <= last]
    return day[order], route[order], vessel[order]


def _season(days: NDArray[np.datetime64]) -> NDArray[np.float64]:
    """About 0.35 in January, 1.6 at the start of August, with a little life at the year's turn."""
    of_year = (days - days.astype("datetime64[Y]")).astype(np.int64) / 365.25
    summer = np.exp(-(((of_year - 0.575) / 0.155) ** 2))
    turn = 0.12 * np.exp(-((np.minimum(of_year, 1 - of_year) / 0.02) ** 2))
    return np.asarray(0.36 + 1.2 * summer + turn, dtype=np.float64)


def _weather(rng: np.random.Generator, days: NDArray[np.datetime64]) -> NDArray[np.int64]:
    """One weather a day for all routes; rougher in winter, fog in spring."""
    calendar, of_day = np.unique(days, return_inverse=True)
    months = calendar.astype("datetime64[M]").astype(np.int64) % 12
    winter = np.cos((months - 0.5) / 12 * 2 * np.pi) * 0.5 + 0.5
    rough, fog = 0.06 + 0.22 * winter, 0.03 + 0.07 * np.exp(-((months - 4) ** 2) / 4.0)
    draw = np.random.default_rng(SEED + 1).random(2000)[: len(calendar)]
    calm = 0.62 * (1 - rough - fog)
    edges = np.stack([calm, 1 - rough - fog, 1 - fog])
    return np.asarray((draw[None, :] > edges).sum(axis=0))[of_day]


def _delays(rng: np.random.Generator, weather: NDArray[np.int64]) -> NDArray[np.float64]:
    """Minutes late: long to the right, worse in fog; sometimes early; a few absurd."""
    middle = np.array([4.5, 7.0, 15.0, 21.0])[weather]
    late = np.round(middle * rng.lognormal(0, 0.75, len(weather)) - 3)
    absurd = rng.random(len(weather)) < 0.0006
    late[absurd] = rng.choice([1440, 2880, 9999], int(absurd.sum()))
    return late


def _classes(
    rng: np.random.Generator, departures: int, season: NDArray[np.float64]
) -> tuple[NDArray[np.int64], NDArray[np.int64]]:
    often = np.array([chance for _, _, chance in TICKETS.values()])
    present = rng.random((departures, len(TICKETS))) < often * np.clip(0.78 + 0.22 * season[:, None], 0, 1)
    present[~present.any(axis=1), 0] = True
    departure, ticket = np.nonzero(present)
    return departure, ticket


def _rows(
    rng: np.random.Generator,
    days: NDArray[np.datetime64],
    routes: NDArray[np.int64],
    vessels: NDArray[np.str_],
    weather: NDArray[np.int64],
    crowd: NDArray[np.float64],
    late: NDArray[np.float64],
    departure: NDArray[np.int64],
    ticket: NDArray[np.int64],
) -> pl.DataFrame:
    share = np.array([part for part, _, _ in TICKETS.values()])[ticket]
    fare = np.array([price for _, price, _ in TICKETS.values()])[ticket]
    miles = np.array([far for far, _, _ in ROUTES.values()])[routes[departure]]
    n = len(ticket)
    people = np.maximum(1, np.round(crowd[departure] * share * rng.lognormal(0, 0.24, n)))
    names = np.array(list(TICKETS))
    vehicles = np.where(names[ticket] == "Vehicle", np.maximum(1, np.round(people / 2.1)), 0)
    vehicles = np.where(names[ticket] == "Bicycle", 0, vehicles)
    # A fare grows a little with the way and with the years; the spread leaves R² near 0.85.
    years = (days[departure] - FIRST_DAY).astype(np.int64) / 365.25
    price = 13.0 * (0.86 + 0.010 * miles) * fare * 1.02**years
    takings = np.round(people * price * rng.normal(1, 0.19, n) + rng.normal(0, 66, n) * (fare > 0), 2)
    takings = np.where(fare > 0, np.maximum(takings, np.round(people * price * rng.uniform(0.45, 0.7, n), 2)), 0.0)
    refund = (rng.random(n) < 0.008) & (fare > 0)
    takings[refund] = -np.round(np.abs(takings[refund]) * 0.4, 2)
    slip = rng.choice(n, 3, replace=False)  # a decimal point in the wrong place
    takings[slip] = np.round(np.abs(takings[slip]) * 10 + 400, 2)
    cost = np.round((58 + 5.2 * miles) * (share / 0.23) ** 0.25 * rng.normal(1, 0.08, n) + 2.1 * people, 2)
    delay = late[departure].copy()
    delay_blank = rng.random(n) < 0.0088
    early = rng.geometric(0.085, n) - 1
    sold = rng.choice(len(CHANNELS), n, p=[0.30, 0.41, 0.09, 0.13, 0.07])
    sailed = days[departure]
    return pl.DataFrame(
        {
            "Sailing no.": pl.Series((_FIRST_NUMBER + 7 * np.arange(n)).astype(str)),
            "Sailed on": pl.Series(sailed).cast(pl.Date),
            "Booked on": pl.Series(sailed - early.astype("timedelta64[D]")).cast(pl.Date),
            "Route": pl.Series(np.array(list(ROUTES))[routes[departure]]),
            "Vessel": pl.Series(vessels[departure]),
            "Ticket": pl.Series(names[ticket]),
            "Sold through": pl.Series(np.array(CHANNELS)[sold]),
            "Weather": pl.Series(np.array(WEATHERS)[weather[departure]]),
            "Passengers": people.astype(np.int64),
            "Vehicles": vehicles.astype(np.int64),
            "Distance (nm)": miles,
            "Takings": takings,
            "Running cost": cost,
            "Delay (min)": pl.Series(delay.astype(np.int64)).set(pl.Series(delay_blank), None),
        }
    )


def targets(rows: pl.DataFrame | None = None) -> pl.DataFrame:
    """The takings goal of each route and month: last year's takings and a little more, in round hundreds."""
    rows = sailings() if rows is None else rows
    monthly = (
        rows.group_by("Route", pl.col("Sailed on").dt.truncate("1mo").alias("Month"))
        .agg(pl.col("Takings").sum())
        .sort("Route", "Month")
    )
    goal = (
        monthly["Takings"].to_numpy() * np.random.default_rng(SEED + 2).normal(1.02, 0.09, len(monthly)) / 100
    ).round() * 100
    return monthly.select("Route", "Month").with_columns(
        pl.Series("Takings goal", np.maximum(goal, 500.0).astype(np.int64))
    )
