"""House palettes: eight inks that change a whole folio in one move. Neighbouring inks are told apart by
everybody, with the three common kinds of colour blindness as well; a test says by how much."""

from __future__ import annotations

from functools import lru_cache

from msgspec.structs import replace

from summula.core.theme.tokens import LIGHT, SERIES, Theme, with_shades

Inks = tuple[str, ...]  # eight, as "#rrggbb"
OWN: Inks = tuple(LIGHT.tokens[f"series {at}"] for at in range(SERIES))

PALETTES: dict[str, Inks] = {
    "Skerry": OWN,
    "Harbour": ("#005060", "#9693c0", "#643f2a", "#6ea8a7", "#356d39", "#ce92c9", "#614f07", "#d88faa"),
    "Heath": ("#753564", "#88ad7b", "#7c4e5c", "#af9340", "#554a7a", "#459aa5", "#45667a", "#cc955c"),
    "Lantern": ("#664100", "#8f8fe6", "#783831", "#4a9d76", "#055887", "#c186de", "#10696a", "#a4ac42"),
    "Slate": ("#445965", "#979cb7", "#4a3c4c", "#719986", "#56413c", "#bb977a", "#48696a", "#adab96"),
    "Meadow": ("#386421", "#c39064", "#5a5d2e", "#aa7986", "#4f3455", "#75b79e", "#333e74", "#548bbb"),
}  # fmt: skip
USUAL = "Skerry"


@lru_cache(maxsize=64)
def theme_of(inks: tuple[str, ...]) -> Theme:
    """The theme with eight inks; the usual one where none are said."""
    if not inks or inks == OWN:
        return LIGHT
    own = {f"series {at}": ink for at, ink in enumerate(inks)}
    return replace(LIGHT, tokens=with_shades({**LIGHT.tokens, **own}))
