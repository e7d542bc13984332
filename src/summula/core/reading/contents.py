"""What a file is, told by its content rather than its name."""

from __future__ import annotations

import re
import zipfile
from pathlib import Path
from typing import Literal

Content = Literal["xlsx", "ods", "xls", "parquet", "database", "json", "json lines", "html", "text", "zip"]
# What a name claims; endings of tables that can be read.
ENDINGS: dict[str, Content] = {
    ".csv": "text", ".tsv": "text", ".tab": "text", ".txt": "text", ".psv": "text", ".dat": "text", ".xlsx": "xlsx",
    ".xlsm": "xlsx", ".xls": "xls", ".ods": "ods", ".parquet": "parquet", ".jsonl": "json lines",
    ".ndjson": "json lines",
    ".json": "json", ".html": "html", ".htm": "html", ".sqlite": "database", ".sqlite3": "database", ".db": "database",
}  # fmt: skip
_LOOK = 64 * 1024
_HTML = re.compile(
    rb"^\s*(?:<!--.*?-->\s*)*(?:<\?xml[^>]*>\s*)?<(?:!doctype\s+html|html|head|body|table|meta)\b", re.I | re.S
)
_TWO_OBJECTS = re.compile(rb"^\s*\{[^\n]*\}\s*\r?\n\s*\{")
_OBJECT_LINES = re.compile(rb"^\s*\{[^\n]*\}\s*(?:\r?\n\s*\{|\Z)")


def content_of(path: Path) -> Content:
    """What the file at `path` holds; text where nothing tells otherwise. Raises OSError where it cannot be read."""
    with path.open("rb") as file:
        first = file.read(_LOOK)
    if first.startswith((b"PK\x03\x04", b"PK\x05\x06")):
        return _of_archive(path)
    if first.startswith(bytes.fromhex("d0cf11e0a1b11ae1")):
        return "xlsx" if path.suffix.lower() in (".xlsx", ".xlsm") else "xls"  # a locked XLSX looks so too
    if first.startswith(b"PAR1"):
        return "parquet"
    if first.startswith(b"SQLite format 3\x00"):
        return "database"
    if first.startswith(b"\x09\x08") or first[:2] in (b"\x09\x00", b"\x09\x02", b"\x09\x04"):
        return "xls"
    return _of_text(path, first)


def _of_archive(path: Path) -> Content:
    try:
        with zipfile.ZipFile(path) as archive:
            names = set(archive.namelist())
    except (zipfile.BadZipFile, ValueError, NotImplementedError):
        return "ods" if path.suffix.lower() == ".ods" else "xlsx"
    if "content.xml" in names:
        return "ods"
    if any(name.startswith("xl/") or name == "[Content_Types].xml" for name in names):
        return "xlsx"
    claimed = ENDINGS.get(path.suffix.lower())
    return claimed if claimed in ("xlsx", "ods") else "zip"


def _of_text(path: Path, first: bytes) -> Content:
    """Text by how it begins; its name has the last word where it may be several things."""
    ending = path.suffix.lower()
    plain = first.removeprefix(b"\xef\xbb\xbf").lstrip()
    if _HTML.match(plain):
        return "html"
    lines = _OBJECT_LINES if ending != ".json" else _TWO_OBJECTS
    if plain.startswith(b"{") and (ending in (".jsonl", ".ndjson") or lines.match(plain)):
        return "json lines"
    if (
        plain.startswith((b"[", b"{"))
        and (ending == ".json" or re.match(rb"^[\[{]\s*[\[{\"]", plain))
        and b'"' in plain
    ):
        return "json"
    claimed = ENDINGS.get(ending, "text")
    if claimed in ("text", "json lines", "json", "html"):
        return claimed
    return "text" if plain and _is_text(first) else claimed


def is_delimited_text(path: Path) -> bool:
    """Whether a file of an unknown name holds lines of values."""
    with path.open("rb") as file:
        first = file.read(_LOOK)
    return not first.startswith((b"%PDF", b"{\\rtf", b"\x89PNG")) and _is_text(first)


def _is_text(first: bytes) -> bool:
    """Whether bytes are letters and lines, for a file whose name says otherwise."""
    odd = sum(byte < 32 and byte not in (9, 10, 12, 13) for byte in first[:4096])
    return odd == 0 and (b"\n" in first or b"\r" in first) and any(sign in first for sign in (b",", b";", b"\t", b"|"))
