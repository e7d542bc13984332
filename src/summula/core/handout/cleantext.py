"""Text as files for other programs can hold it."""

from __future__ import annotations

import re

# What XML 1.0 has no place for, and the non-characters that Unicode reserves.
_NO_TEXT = re.compile("[\x00-\x08\x0b\x0c\x0e-\x1f\x7f\ud800-\udfff\ufdd0-\ufdef]|[" + "".join(
    f"{chr(plane * 0x10000 + 0xFFFE)}{chr(plane * 0x10000 + 0xFFFF)}" for plane in range(17)
) + "]")  # fmt: skip

# What a spreadsheet passes over before it looks for a formula: spaces, controls, marks of direction and of nothing.
_PASSED_OVER = re.compile(
    "[\\s\x00-\x1f\x7f-\xa0\xad\u061c\u180e\u200b-\u200f\u2028-\u202f\u205f-\u206f\ufeff\ufff9-\ufffb\ufffe\uffff]+"
)
_FORMULA_SIGNS = "=+-@\uff1d\uff0b\uff0d\uff20"  # those of full width, too
_NUMBER = re.compile(r"-?\d+(\.\d+)?(e[+-]?\d+)?$", re.IGNORECASE | re.ASCII)


def printable(text: str) -> str:
    """The text without what no file of text should hold."""
    return _NO_TEXT.sub("", text)


def harmless(text: str) -> str:
    """The text as it can stand in a cell without being run: one that begins like a formula, whatever a program passes
    over before it, gets an apostrophe. Numbers do not."""
    text = printable(text)
    begins = _PASSED_OVER.match(text)
    seen = text[begins.end() :] if begins is not None else text
    formula = seen.startswith(tuple(_FORMULA_SIGNS)) and not _NUMBER.match(text)
    return "'" + text if formula or text.startswith(("\t", "\r")) else text
