"""The shipped type faces, and how wide texts are in them: as wide here as where they are painted."""

from __future__ import annotations

from functools import lru_cache
from itertools import groupby
from pathlib import Path

from summula.core.theme.advances import Advances, advances

FONTS = Path(__file__).with_name("fonts")
SANS, SERIF, FALLBACK = "Hanken Grotesk", "Source Serif 4", "DejaVu Sans"
_FILES = {
    SANS: {400: "HankenGrotesk-400", 500: "HankenGrotesk-500", 600: "HankenGrotesk-600", 700: "HankenGrotesk-700"},
    SERIF: {400: "SourceSerif4-400", 600: "SourceSerif4-600"},
    FALLBACK: {400: "DejaVuSans"},
}


def face_files() -> tuple[Path, ...]:
    """The files of all faces that texts are measured in."""
    return tuple(FONTS / f"{name}.ttf" for files in _FILES.values() for name in files.values())


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
    from summula.core.theme.shaping import shaping_face

    return ord(letter) in shaping_face(file).known


@lru_cache(maxsize=4096)
def text_width(text: str, size: float, weight: int = 400, serif: bool = False) -> float:
    """Pixels a text takes in the face and weight (as in CSS), kerned. Sizes are whole pixels: others are rounded.
    Letters that the face lacks are taken from the fallback's."""
    file = file_of(weight, serif=serif)
    table = advances(file)
    pixels = max(1, round(size))
    advance = table.of(text)
    if advance is not None:
        return advance * pixels / table.units
    tabled = _tabled_of_two(text, table)
    return pixels * (_shaped(text, file) if tabled is None else tabled)


def _tabled_of_two(text: str, own: Advances) -> float | None:
    """Ems of a text of which some letters are the fallback's; None where the tables do not have them all."""
    other = advances(fallback_file())
    total = 0.0
    for mine, letters in groupby(text, key=own.places.__contains__):
        table = own if mine else other
        advance = table.of("".join(letters))
        if advance is None:
            return None
        total += advance / table.units
    return total


def _shaped(text: str, file: Path) -> float:
    """Ems of any text, each letter from the face that has it."""
    from summula.core.theme.shaping import shaped_advance, shaping_face

    own, other = shaping_face(file), shaping_face(fallback_file())
    runs = groupby(text, key=lambda letter: ord(letter) in own.known)
    faces = [(own if mine else other, "".join(letters)) for mine, letters in runs]
    return sum(shaped_advance(face, run) / face.units for face, run in faces)
