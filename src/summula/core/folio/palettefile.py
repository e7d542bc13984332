"""A palette read from a small file: what a stranger wrote is checked here."""

from __future__ import annotations

import re
from typing import Any

from summula.core.refusal import Refusal
from summula.core.theme.palettes import OWN, Inks
from summula.core.theme.tokens import SERIES

_HEX = re.compile(r"#[0-9a-fA-F]{6}")


def palette_from(document: Any) -> Inks:
    """A palette from decoded JSON, `{"inks": ["#rrggbb", …]}`: up to eight inks; those that are not said are the usual
    ones that none of them is. Raises Refusal."""
    if not isinstance(document, dict) or not isinstance(document.get("inks"), list):
        raise Refusal("this is no palette", 'write {"inks": ["#rrggbb", …]}')
    return checked_inks(document["inks"])


def checked_inks(inks: list[Any]) -> Inks:
    if not 1 <= len(inks) <= SERIES:
        raise Refusal(f"a palette has from 1 ink to {SERIES}, not {len(inks)}", "leave some out, or add one")
    for each in inks:
        if not isinstance(each, str) or not _HEX.fullmatch(each):
            raise Refusal(f"'{str(each)[:40]}' is no colour", "write each as #rrggbb")
    own = [each.lower() for each in inks]
    if len(set(own)) < len(own):
        raise Refusal("an ink stands twice in the palette", "take one of them away")
    rest = [each for each in OWN if each not in own]
    return tuple([*own, *rest][:SERIES])
