"""CSV from laid-out rows. A text that a spreadsheet would run as a formula stays text."""

from __future__ import annotations

import csv
import io
import re

NUMBER = re.compile(r"^-?\d+(\.\d+)?(e[+-]?\d+)?$", re.IGNORECASE)
STARTS_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def csv_text(rows: list[list[str]], delimiter: str = ",") -> str:
    """The rows as CSV (RFC 4180). Text that begins like a formula gets an apostrophe; numbers do not."""
    stream = io.StringIO()
    writer = csv.writer(stream, delimiter=delimiter, lineterminator="\r\n" if delimiter == "," else "\n")
    writer.writerows([[harmless(text) for text in row] for row in rows])
    return stream.getvalue()


def harmless(text: str) -> str:
    """The text as it can stand in a cell without being run."""
    if text.startswith(STARTS_FORMULA) and not NUMBER.match(text):
        return "'" + text
    return text
