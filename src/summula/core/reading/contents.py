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
_HTML = re.compile(rb"(?:<\?xml[^>]*>\s*)?<(?:!doctype\s+html|html|head|body|table|meta)\b", re.I)


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
    if _HTML.match(_after_comments(plain)):
        return "html"
    if plain.startswith(b"{") and (ending in (".jsonl", ".ndjson") or _is_object_lines(plain, ending != ".json")):
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


def _after_comments(plain: bytes) -> bytes:
    """The text behind the comments that it begins with. Each is passed over once: a pattern would try them in every
    way there is."""
    at = 0
    while plain.startswith(b"<!--", at):
        end = plain.find(b"-->", at + 4)
        if end < 0:
            return b""
        at = end + 3
        while at < len(plain) and plain[at : at + 1].isspace():
            at += 1
    return plain[at:]


def _is_object_lines(plain: bytes, one_is_enough: bool) -> bool:
    """Whether the first line is an object, and the next one begins one; or, where that is enough, there is none."""
    first, _, rest = plain.partition(b"\n")
    if not (first.startswith(b"{") and first.rstrip().endswith(b"}")):
        return False
    rest = rest.lstrip()
    return rest.startswith(b"{") or (one_is_enough and not rest)


def is_delimited_text(path: Path) -> bool:
    """Whether a file of an unknown name holds lines of values."""
    with path.open("rb") as file:
        first = file.read(_LOOK)
    return not first.startswith((b"%PDF", b"{\\rtf", b"\x89PNG")) and _is_text(first)


def _is_text(first: bytes) -> bool:
    """Whether bytes are letters and lines, for a file whose name says otherwise."""
    odd = sum(byte < 32 and byte not in (9, 10, 12, 13) for byte in first[:4096])
    return odd == 0 and (b"\n" in first or b"\r" in first) and any(sign in first for sign in (b",", b";", b"\t", b"|"))
