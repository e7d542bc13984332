"""In which encoding a text is written that is not UTF-8, told from its first bytes."""

from __future__ import annotations

import re
from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from summula.core.reading.readas import Encoding

CODECS: dict[Encoding, str] = {
    "utf-8": "utf-8", "utf-16": "utf-16", "utf-32": "utf-32", "windows-1252": "cp1252", "windows-1250": "cp1250",
    "windows-1251": "cp1251", "windows-1253": "cp1253", "windows-1254": "cp1254", "mac-roman": "mac_roman",
    "shift-jis": "cp932", "gb18030": "gb18030", "big5": "big5", "euc-kr": "euc_kr",
}  # fmt: skip
_NAMES = {codec: encoding for encoding, codec in CODECS.items()}
_OTHERS = ["cp1251", "cp932", "gb18030", "euc_kr", "big5", "cp1253"]  # of scripts other than Latin
_ENOUGH = 32 * 1024  # bytes
_TOGETHER = 0.4  # of the bytes beyond ASCII, those that stand side by side in a script other than Latin
_CENTRAL = frozenset(b"\x8c\x9c\x8d\x9d\x8f\x9f\xb3\xb9\xbf\xa3\xa5\xaf\xbe\xbc")  # letters there, in the west signs
_HIGH = re.compile(rb"[\x80-\xff]+")


def sense_8_bit(first: bytes) -> Encoding:
    """The encoding of a text with bytes that are no UTF-8."""
    lines = [line for line in first.splitlines() if _HIGH.search(line)]
    some = b"\n".join(lines)[:_ENOUGH]
    runs = _HIGH.findall(some)
    high = sum(map(len, runs))
    if high and sum(len(run) for run in runs if len(run) > 1) >= _TOGETHER * high:
        from charset_normalizer import from_bytes  # half a second, and seldom wanted

        best = from_bytes(some, cp_isolation=_OTHERS).best()
        if best is not None and best.encoding in _NAMES:
            return _korean_or_chinese(some) if best.encoding == "euc_kr" else _NAMES[best.encoding]
    return _latin(some)


def _korean_or_chinese(some: bytes) -> Encoding:
    """Both are written in the same bytes; Korean has hardly any letter that is not Hangul."""
    letters = [letter for letter in some.decode("euc_kr", "replace") if letter > "\x7f"]
    hangul = sum("가" <= letter <= "힣" for letter in letters)
    return "euc-kr" if hangul >= 0.95 * len(letters) else "gb18030"


def _latin(some: bytes) -> Encoding:
    """Western or central European, or an old Macintosh's: told by the bytes that are letters in one of them alone."""
    words = re.findall(rb"[A-Za-z\x80-\xff]+", some)
    letters = b"".join(b"".join(_HIGH.findall(word)) for word in words if re.search(rb"[A-Za-z]", word))
    if not letters:
        return "windows-1252"
    low = sum(byte in range(0x80, 0xA0) for byte in letters)
    apostrophes = sum(byte in (0x91, 0x92, 0x93, 0x94, 0x96, 0x97, 0x85) for byte in letters)
    central = sum(byte in _CENTRAL for byte in letters)
    if central * 8 >= len(letters):
        try:
            some.decode("cp1250")
            mac = low * 2 > len(letters) and any(byte in letters for byte in b"\x8e\x8f\x90\x88\x87")
            return "mac-roman" if mac else "windows-1250"
        except UnicodeDecodeError:
            return "mac-roman"
    if (low - apostrophes) * 2 > len(letters):
        return "mac-roman"
    text = letters.decode("cp1252", "replace").lower()
    czech = ("ø" in text and any(each in text for each in "ìèù")) or ("ì" in text and ("š" in text or "ž" in text))
    hungarian = "õ" in text and any(each in text for each in "ûöü")
    romanian = "þ" in text and "ã" in text
    return "windows-1250" if czech or hungarian or romanian else "windows-1252"
