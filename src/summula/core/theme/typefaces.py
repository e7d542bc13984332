"""The shipped type faces, and how wide texts are in them: as wide here as where they are painted."""

from __future__ import annotations

from functools import lru_cache
from itertools import groupby, pairwise
from pathlib import Path
from typing import Any

import msgspec

FONTS = Path(__file__).with_name("fonts")
SANS, SERIF, FALLBACK = "Hanken Grotesk", "Source Serif 4", "DejaVu Sans"
_FILES = {
    SANS: {400: "HankenGrotesk-400", 500: "HankenGrotesk-500", 600: "HankenGrotesk-600", 700: "HankenGrotesk-700"},
    SERIF: {400: "SourceSerif4-400", 600: "SourceSerif4-600"},
    FALLBACK: {400: "DejaVuSans"},
}


class Face(msgspec.Struct, frozen=True, eq=False):
    """A face as the shaping library holds it; `units` are its units per em, `known` the letters it has."""

    font: Any
    units: int
    known: frozenset[int]


@lru_cache(maxsize=64)
def file_of(weight: int, *, serif: bool) -> Path:
    """The file of the face that a text of this weight (as in CSS) is set in."""
    files = _FILES[SERIF if serif else SANS]
    return FONTS / f"{files[min(files, key=lambda each: (abs(each - weight), each))]}.ttf"


def fallback_file() -> Path:
    """The file of the face whose letters stand in for those that another lacks."""
    return FONTS / f"{_FILES[FALLBACK][400]}.ttf"


def knows(file: Path, letter: str) -> bool:
    """Whether a face has a letter."""
    return ord(letter) in _face(file).known


@lru_cache(maxsize=16)
def _face(path: Path) -> Face:
    import uharfbuzz

    face = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(path)))
    return Face(uharfbuzz.Font(face), face.upem, frozenset(face.unicodes))


@lru_cache(maxsize=65536)
def text_width(text: str, size: float, weight: int = 400, serif: bool = False) -> float:
    """Pixels a text takes in the face and weight (as in CSS), kerned. Sizes are whole pixels: others are rounded.
    Letters that the face lacks are taken from the fallback's."""
    if not text:
        return 0.0
    path = file_of(weight, serif=serif)
    own = _face(path)
    pixels = max(1, round(size))
    if text.isascii() and text.isprintable():
        return _advance_of_plain(path, text) * pixels / own.units
    if own.known.issuperset(map(ord, text)):
        return _advance(own, text) * pixels / own.units
    other = _face(fallback_file())
    runs = groupby(text, key=lambda letter: ord(letter) in own.known)
    faces = [(own if mine else other, "".join(letters)) for mine, letters in runs]
    return sum(_advance(face, run) * pixels / face.units for face, run in faces)


@lru_cache(maxsize=64)
def subset_of(file: Path, letters: frozenset[str]) -> bytes:
    """The face with these letters alone, as a TrueType file; letters that it lacks are left out."""
    import uharfbuzz

    wanted = uharfbuzz.SubsetInput()
    wanted.unicode_set.update(map(ord, letters))
    face = uharfbuzz.Face(uharfbuzz.Blob.from_file_path(str(file)))
    return bytes(uharfbuzz.subset(face, wanted).blob.data)


def _advance_of_plain(path: Path, text: str) -> int:
    """The advance of ASCII text: what is kerned there are pairs, which are few and met again and again."""
    pairs = _pairs(path)
    total = 0
    for pair in map("".join, pairwise(text)):
        step = pairs.get(pair)
        if step is None:
            face = _face(path)
            step = pairs[pair] = _advance(face, pair) - _advance(face, pair[1])
        total += step
    last = text[-1:]
    if last not in pairs:
        pairs[last] = _advance(_face(path), last)
    return total + pairs[last]


@lru_cache(maxsize=16)
def _pairs(path: Path) -> dict[str, int]:
    """How far each pair of letters of a face moves on from its first to its second."""
    return {}


def _advance(face: Face, text: str) -> int:
    """In units of the face."""
    import uharfbuzz

    buffer = uharfbuzz.Buffer()
    buffer.add_str(text)
    buffer.guess_segment_properties()
    uharfbuzz.shape(face.font, buffer)
    return sum(place.x_advance for place in buffer.glyph_positions)
