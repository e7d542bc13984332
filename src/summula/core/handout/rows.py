"""Rows of a table as delimited text: every value exact, as other programs read it."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING

import polars as pl

from summula.core.handout.cleantext import harmless
from summula.core.handout.delimited import csv_text
from summula.core.tables.rows import with_rows
from summula.core.tables.texts import texts_of

if TYPE_CHECKING:
    from numpy.typing import NDArray

    from summula.core.arrays import np
    from summula.core.tables.table import Table


def rows_text(
    table: Table, rows: NDArray[np.int64], names: Sequence[str], delimiter: str = ",", *, heads: bool = True
) -> str:
    """These rows (0-based, in the order given) of these fields, under their names unless without `heads`.

    Numbers stand in full with a decimal point, dates in ISO 8601, blanks as nothing, and what did not fit its field as
    it was. Text that begins like a formula gets an apostrophe.
    """
    some = with_rows(table, rows)
    frame = pl.DataFrame([texts_of(f"{at}", some.column(name)) for at, name in enumerate(names)])
    frame = frame.select(_harmless(name) for name in frame.columns)
    end = "\r\n" if delimiter == "," else "\n"
    body = frame.write_csv(include_header=False, separator=delimiter, line_terminator=end)
    return csv_text([list(names)], delimiter) + body if heads else body


def _harmless(name: str) -> pl.Expr:
    """Most texts begin with a letter or a figure and hold no control: they are told at one go."""
    text = pl.col(name)
    odd = text.str.contains(r"^[^\p{L}\p{N}]|[\p{C}]|[\x{fdd0}-\x{fdef}]")
    mended = pl.when(odd).then(text).otherwise(None).map_elements(harmless, return_dtype=pl.String)
    return pl.when(odd).then(mended).otherwise(text).alias(name)
