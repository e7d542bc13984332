"""How far the letters of a face move on, from a table worked out beforehand.

A shaping library takes longer to read in than a window to be painted, and what it says of the letters that nearly
every text here is made of is soon told: an advance a letter, and for some pairs how far they move together or apart.
The tables are plain data (MessagePack) beside the faces. After a change of a face, or of `LETTERS`:
`python -m summula.core.theme.advances`.
"""

from __future__ import annotations

import sys
from array import array
from functools import lru_cache
from pathlib import Path

import msgspec

_LATIN = "".join(map(chr, (*range(0x20, 0x7F), *range(0xA0, 0x100))))
# Without what a face sets by more than its neighbour: soft hyphens, the slash of fractions, single quotation marks.
LETTERS = _LATIN.replace("\N{SOFT HYPHEN}", "") + (
    "–—−‐‑…“”„‹›†‡•‰″€₤№™←→↑↓↗↘↔▲▼▶◀■□●○◆◇✓✗Δ∑√∞≈≠≤≥"
    "\N{THIN SPACE}\N{NARROW NO-BREAK SPACE}\N{FIGURE SPACE}\N{EN SPACE}\N{EM SPACE}"
)


class Advances(msgspec.Struct, frozen=True, eq=False):
    """What a face has of `LETTERS`, in `units` per em: `steps` are the letters' advances; `pairs` what two letters that
    follow each other add to their own, of shape [first, second], row after row."""

    units: int
    places: dict[str, int]
    steps: array[int]
    pairs: array[int]

    def of(self, text: str) -> int | None:
        """The advance of a text; None where it has a letter that the table has not."""
        places, steps, pairs = self.places, self.steps, self.pairs
        count, total, last = len(steps), 0, -1
        for letter in text:
            place = places.get(letter)
            if place is None:
                return None
            total += steps[place]
            if last >= 0:
                total += pairs[last * count + place]
            last = place
        return total


@lru_cache(maxsize=16)
def advances(face: Path) -> Advances:
    """The table of a face of the product's own."""
    table = msgspec.msgpack.decode(table_file(face).read_bytes())
    places = {letter: place for place, letter in enumerate(table["letters"])}
    return Advances(table["units"], places, _figures(table["steps"]), _figures(table["pairs"]))


def _figures(stored: bytes) -> array[int]:
    """Two bytes each, the smaller first."""
    figures = array("h", stored)
    if sys.byteorder == "big":
        figures.byteswap()
    return figures


def table_file(face: Path) -> Path:
    return face.with_suffix(".advances")


def table_bytes(face: Path) -> bytes:
    """The table of a face as it is stored: what the shaping library says of it."""
    from summula.core.theme.shaping import shaped_advance, shaping_face

    shaped = shaping_face(face)
    letters = [each for each in LETTERS if ord(each) in shaped.known]
    steps = {each: shaped_advance(shaped, each) for each in letters}
    pairs = [shaped_advance(shaped, one + two) - steps[one] - steps[two] for one in letters for two in letters]
    stored = {
        "units": shaped.units,
        "letters": "".join(letters),
        "steps": _stored(list(steps.values())),
        "pairs": _stored(pairs),
    }
    return msgspec.msgpack.encode(stored)


def _stored(figures: list[int]) -> bytes:
    return b"".join(each.to_bytes(2, "little", signed=True) for each in figures)


if __name__ == "__main__":
    for stored in sorted(Path(__file__).with_name("fonts").glob("*.advances")):
        stored.write_bytes(table_bytes(stored.with_suffix(".ttf")))
