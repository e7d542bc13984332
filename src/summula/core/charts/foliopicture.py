"""A picture that a folio holds: a whole PNG or JPEG file, its size read from its head before anything unpacks it."""

from __future__ import annotations

from summula.core.phrases.phrase import Struct
from summula.core.refusal import Refusal

MOST_BYTES = 4 * 1024**2
MOST_PIXELS = 4_096  # a side
_PNG = b"\x89PNG\r\n\x1a\n"


class FolioPicture(Struct, frozen=True):
    """`data` is the file as it was read."""

    id: str
    name: str
    data: bytes

    @property
    def size(self) -> tuple[int, int]:
        """Pixels along and down."""
        return size_of(self.data)


def checked_picture(data: bytes) -> bytes:
    """The picture, where it is one of a reasonable size; raises Refusal."""
    if len(data) > MOST_BYTES:
        raise Refusal(
            f"the picture has {len(data) / 1024**2:.1f} MB",
            f"a folio keeps pictures of up to {MOST_BYTES // 1024**2} MB",
        )
    wide, high = size_of(data)
    if not (0 < wide <= MOST_PIXELS and 0 < high <= MOST_PIXELS):
        raise Refusal(f"the picture has {wide:,} by {high:,} pixels", f"make it {MOST_PIXELS:,} a side at most")
    return data


def size_of(data: bytes) -> tuple[int, int]:
    """Pixels along and down, as the file's head says; raises Refusal where it is neither PNG nor JPEG."""
    if data.startswith(_PNG) and len(data) > 24 and data[12:16] == b"IHDR":
        return _number(data[16:20]), _number(data[20:24])
    if data.startswith(b"\xff\xd8"):
        at = 2
        while at + 9 < len(data) and data[at] == 0xFF:
            marker, length = data[at + 1], _number(data[at + 2 : at + 4])
            if 0xC0 <= marker <= 0xCF and marker not in (0xC4, 0xC8, 0xCC):
                return _number(data[at + 7 : at + 9]), _number(data[at + 5 : at + 7])
            at += 2 + max(length, 2)
    raise Refusal("that is neither a PNG nor a JPEG picture", "choose another file")


def _number(data: bytes) -> int:
    """A number as both kinds of pictures write it: the greatest place first."""
    return int.from_bytes(data, "big")
