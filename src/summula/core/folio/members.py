"""The members of a folio's archive, believed in nothing: how each is packed and how large it is comes first."""

from __future__ import annotations

import zipfile
import zlib

from summula.core.refusal import Refusal

MOST_JSON = 64 * 1024**2  # bytes
MOST_TABLE = 16 * 1024**3
_MOST_GROWTH = 400  # times, of what is deflated


def member(archive: zipfile.ZipFile, info: zipfile.ZipInfo, most: int, what: str) -> bytes:
    """What a member holds: stored or deflated, and no more than it says and may."""
    if info.compress_type not in (zipfile.ZIP_STORED, zipfile.ZIP_DEFLATED) or info.flag_bits & 1:
        raise Refusal(f"{what} is packed in a way that no folio uses", "it may be malicious")
    grows = 1 if info.compress_type == zipfile.ZIP_STORED else _MOST_GROWTH
    if info.file_size > most or info.file_size > max(info.compress_size, 64) * grows:
        raise Refusal(f"{what} is impossibly large", "it may be malicious")
    try:
        with archive.open(info) as stream:
            return stream.read(info.file_size)
    except (OSError, EOFError, ValueError, zlib.error, zipfile.BadZipFile):
        raise Refusal(f"{what} is damaged", "open an earlier copy of the folio") from None
