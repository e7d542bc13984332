"""What the shaping library says of the shipped type faces: advances of any text, and faces with a few letters alone."""

from __future__ import annotations

from functools import lru_cache
from pathlib import Path

import msgspec
import uharfbuzz


class ShapingFace(msgspec.Struct, frozen=True, eq=False):
    """A face as the shaping library holds it; `units` are its units per em, `known` the letters it has."""

    font: uharfbuzz.Font
    units: int
    known: frozenset[int]


@lru_cache(maxsize=16)
def shaping_face(file: Path) -> ShapingFace:
    face = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(file)))
    return ShapingFace(uharfbuzz.Font(face), face.upem, frozenset(face.unicodes))


def shaped_advance(face: ShapingFace, text: str) -> int:
    """In units of the face."""
    buffer = uharfbuzz.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    uharfbuzz.shape(face.font, buffer)
    return sum(place.x_advance for place in buffer.glyph_positions)


@lru_cache(maxsize=64)
def subset_of(file: Path, letters: frozenset[str]) -> bytes:
    """The face with these letters alone, as a TrueType file; letters that it lacks are left out."""
    wanted = uharfbuzz.SubsetInput()
    wanted.unicode_set.update(map(ord, letters))
    face = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(file)))
    return bytes(uharfbuzz.subset(face, wanted).blob.data)
