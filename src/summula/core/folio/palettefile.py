"""A palette read from a small file: what a stranger wrote is checked here."""

from __future__ import annotations

import re
from typing import Any

from summula.core.refusal import Refusal, shortened
from summula.core.theme.palettes import OWN, Inks, Palette
from summula.core.theme.tokens import LIGHT, SERIES, contrast, parts

_HEX = re.compile(r"#[0-9a-fA-F]{6}")


_LEAST = 4.5  # contrast of words on the paper


def palette_from(document: Any) -> Palette:
    """A palette from decoded JSON, `{"inks": ["#rrggbb", …], "paper": "#rrggbb", "headings": "serif"}`: up to eight
    inks; those that are not said are the usual ones that none of them is. Raises Refusal."""
    wanted = 'enter {"inks": ["#rrggbb", …]}, and if you like "paper": "#rrggbb" and "headings": "serif" or "sans"'
    if not isinstance(document, dict) or not isinstance(document.get("inks"), list):
        raise Refusal("this is not a palette", wanted)
    paper, headings = document.get("paper", ""), document.get("headings", "serif")
    if not isinstance(paper, str) or headings not in ("serif", "sans"):
        raise Refusal("its paper or its headings cannot be read", wanted)
    _checked_inks(document["inks"])
    return checked_palette(Palette(tuple(document["inks"]), paper.lower(), headings))


def checked_palette(palette: Palette) -> Palette:
    """The palette, its inks made up to eight. Raises Refusal where it is none, or words on its paper are not read."""
    inks = _checked_inks(list(palette.inks)) if palette.inks else ()
    if palette.paper:
        if not _HEX.fullmatch(palette.paper):
            raise Refusal(f"'{shortened(palette.paper)}' is not a colour", "enter the paper as #rrggbb")
        if contrast(parts(palette.paper), LIGHT.colour("muted")) < _LEAST:
            raise Refusal("words could not be read on that paper", "choose a lighter one")
    return Palette(inks, palette.paper, palette.headings)


def _checked_inks(inks: list[Any]) -> Inks:
    if not 1 <= len(inks) <= SERIES:
        raise Refusal(f"a palette has from 1 ink to {SERIES}, not {len(inks)}", "leave some out, or add one")
    for each in inks:
        if not isinstance(each, str) or not _HEX.fullmatch(each):
            raise Refusal(f"'{shortened(str(each))}' is not a colour", "write each as #rrggbb")
    own = [each.lower() for each in inks]
    if len(set(own)) < len(own):
        raise Refusal("a colour occurs twice in the palette", "remove one of them")
    rest = [each for each in OWN if each not in own]
    return tuple([*own, *rest][:SERIES])
