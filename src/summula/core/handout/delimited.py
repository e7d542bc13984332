"""CSV from laid-out rows. A text that a spreadsheet would run as a formula stays text."""

from __future__ import annotations

import csv
import io

from summula.core.handout.cleantext import harmless


def csv_text(rows: list[list[str]], delimiter: str = ",") -> str:
    """The rows as CSV (RFC 4180). Text that begins like a formula gets an apostrophe; numbers do not."""
    stream = io.StringIO()
    writer = csv.writer(stream, delimiter=delimiter, lineterminator="\r\n" if delimiter == "," else "\n")
    writer.writerows([[harmless(text) for text in row] for row in rows])
    return stream.getvalue()

