"""Rows of text as aligned columns, for a terminal."""

from __future__ import annotations


def aligned(rows: list[list[str]], left: int) -> str:
    """The first `left` columns to the left, figures to the right."""
    widths = [max(len(row[at]) for row in rows) for at in range(len(rows[0]))]
    lines = []
    for row in rows:
        cells = [text.ljust(widths[at]) if at < left else text.rjust(widths[at]) for at, text in enumerate(row)]
        lines.append("  ".join(cells).rstrip())
    return "\n".join(lines) + "\n"
