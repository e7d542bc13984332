"""Writes the manual's page of shortcuts from the table of actions. Run it after a shortcut is added; a test holds the
page to it."""

from __future__ import annotations

from pathlib import Path

from summula.desk.windowactions import BOARD, FOLIO, SUMMARY, TABLE

PAGE = Path(__file__).parent.parent / "src" / "summula" / "manual" / "shortcuts.md"
_PLACES = (("Everywhere", FOLIO), ("On a table", TABLE), ("On a summary", SUMMARY), ("On a board", BOARD))


def shortcuts_page() -> str:
    """The page, a table for each kind of page."""
    lines = ["# Shortcuts"]
    for place, rows in _PLACES:
        lines += ["", f"## {place}", "", "| keys | action |", "| --- | --- |"]
        for row in rows:
            if row.keys:
                lines.append(f"| {', '.join(row.keys)} | {row.name.removesuffix(' …')} |")
    return "\n".join(lines) + "\n"


if __name__ == "__main__":
    PAGE.write_text(shortcuts_page(), "utf-8")
