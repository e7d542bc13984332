"""The company's rows at any size: the same fields and members, drawn at random from a seed."""

from __future__ import annotations

import numpy as np
import polars as pl

from summula.core.reading.readers import table_from_frame
from summula.core.tables.table import Table
from summula.demo.company import CHANNELS, ROUTES, TICKETS, WEATHERS

VESSELS = sorted({vessel for _, _, fleet in ROUTES.values() for vessel in fleet})
FIELDS = ("Sailed on", "Route", "Vessel", "Ticket", "Sold through", "Weather", "Passengers", "Takings")


def frame(rows: int) -> pl.DataFrame:
    """Eight fields. Categories are polars Enums, so that rivals work on codes as we do."""
    rng = np.random.default_rng(7)

    def drawn(members: tuple[str, ...]) -> pl.Series:
        codes = pl.Series(rng.integers(0, len(members), rows).astype(np.uint32))
        return pl.Series(sorted(members)).gather(codes).cast(pl.Enum(sorted(members)))

    return pl.DataFrame(
        {
            "Sailed on": pl.Series((19358 + rng.integers(0, 1046, rows)).astype(np.int32)).cast(pl.Date),
            "Route": drawn(tuple(ROUTES)),
            "Vessel": drawn(tuple(VESSELS)),
            "Ticket": drawn(tuple(TICKETS)),
            "Sold through": drawn(CHANNELS),
            "Weather": drawn(WEATHERS),
            "Passengers": rng.integers(1, 240, rows).astype(np.float64),
            "Takings": np.round(rng.gamma(2.0, 150.0, rows), 2),
        }
    )


def encoded(rows: pl.DataFrame) -> Table:
    return table_from_frame("Sailings", rows)
