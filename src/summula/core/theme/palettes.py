"""House palettes: eight inks, the paper and the face of headings, which change a whole folio in one move. Neighbouring
inks are told apart by everybody, with the three common kinds of colour blindness as well; a test says by how much."""

from __future__ import annotations

from functools import lru_cache
from typing import Literal

from msgspec import Struct
from msgspec.structs import replace

from summula.core.theme.tokens import LIGHT, SERIES, Theme, mixed, with_shades

Inks = tuple[str, ...]  # eight, as "#rrggbb"
Face = Literal["serif", "sans"]
OWN: Inks = tuple(LIGHT.tokens[f"series {at}"] for at in range(SERIES))


class Palette(Struct, frozen=True, omit_defaults=True, forbid_unknown_fields=True):
    """`inks`: eight, or none for the usual ones; `paper`: the colour of the page, empty for the usual one; `headings`:
    the face of titles and key figures (names and figures stand in the sans face, whose digits are equally wide)."""

    inks: Inks = ()
    paper: str = ""
    headings: Face = "serif"


PALETTES: dict[str, Palette] = {
    "Skerry": Palette(),
    "Harbour": Palette(
        ("#005060", "#9693c0", "#643f2a", "#6ea8a7", "#356d39", "#ce92c9", "#614f07", "#d88faa"), "#eaf0f1", "sans"
    ),
    "Heath": Palette(
        ("#753564", "#88ad7b", "#7c4e5c", "#af9340", "#554a7a", "#459aa5", "#45667a", "#cc955c"), "#f2eef1", "serif"
    ),
    "Lantern": Palette(
        ("#664100", "#8f8fe6", "#783831", "#4a9d76", "#055887", "#c186de", "#10696a", "#a4ac42"), "#f7efdc", "serif"
    ),
    "Slate": Palette(
        ("#445965", "#979cb7", "#4a3c4c", "#719986", "#56413c", "#bb977a", "#48696a", "#adab96"), "#eef0f1", "sans"
    ),
    "Meadow": Palette(
        ("#386421", "#c39064", "#5a5d2e", "#aa7986", "#4f3455", "#75b79e", "#333e74", "#548bbb"), "#eef1e4", "serif"
    ),
}  # fmt: skip
USUAL = "Skerry"
_SHEET = 0.22  # how much of the paper's colour a sheet on it has; the rest is white
_LINES = 0.12  # how much darker than the paper hairlines and what was before slicing are


@lru_cache(maxsize=64)
def theme_of(palette: Palette) -> Theme:
    """The theme of a palette; the usual one where it says nothing."""
    if palette == Palette():
        return LIGHT
    tokens = dict(LIGHT.tokens)
    tokens |= {f"series {at}": ink for at, ink in enumerate(palette.inks)}
    if palette.paper:
        tokens |= {
            "paper": palette.paper,
            "sheet": mixed("#ffffff", palette.paper, 1 - _SHEET),
            "hairline": mixed("#000000", palette.paper, _LINES),
            "ghost": mixed("#000000", palette.paper, _LINES * 0.75),
        }
    return replace(LIGHT, tokens=with_shades(tokens), serif_headings=palette.headings == "serif")
