"""Inks are told apart, and what is written on them is read: whatever the palette, and by whoever looks."""

from __future__ import annotations

import math
from itertools import pairwise

import numpy as np
import pytest

from summula.core.charts.chart import Canvas
from summula.core.charts.labelling import ink_for_text, ink_on
from summula.core.charts.scene import Ink
from summula.core.folio.palettefile import palette_from
from summula.core.refusal import Refusal
from summula.core.theme.palettes import PALETTES, theme_of
from summula.core.theme.tokens import SERIES, SHADES, contrast

# Machado, Oliveira & Fernandes (2009): full protanopia, deuteranopia and tritanopia, over linear red, green and blue.
SEEN = {
    "all colours": np.eye(3),
    "protanopia": np.array([[0.152286, 1.052583, -0.204868], [0.114503, 0.786281, 0.099216], [-0.003882, -0.048116, 1.051998]]),
    "deuteranopia": np.array([[0.367322, 0.860646, -0.227968], [0.280085, 0.672501, 0.047413], [-0.011820, 0.042940, 0.968881]]),
    "tritanopia": np.array([[1.255528, -0.076749, -0.178779], [-0.078411, 0.930809, 0.147602], [0.004733, 0.691367, 0.303900]]),
}  # fmt: skip


def lab(colour: tuple[int, int, int], seen: str) -> tuple[float, float, float]:
    """CIE L*a*b* (D65) of a colour as some people see it."""
    share = np.array(colour) / 255
    linear = np.where(share <= 0.04045, share / 12.92, ((share + 0.055) / 1.055) ** 2.4)
    linear = np.clip(SEEN[seen] @ linear, 0, 1)
    xyz = np.array([[0.4124564, 0.3575761, 0.1804375], [0.2126729, 0.7151522, 0.0721750], [0.0193339, 0.1191920, 0.9503041]]) @ linear
    f = [each ** (1 / 3) if each > 216 / 24389 else (24389 / 27 * each + 16) / 116 for each in xyz / np.array([0.95047, 1, 1.08883])]
    return 116 * f[1] - 16, 500 * (f[0] - f[1]), 200 * (f[1] - f[2])


def ciede2000(one: tuple[float, float, float], other: tuple[float, float, float]) -> float:
    """The difference of two colours (Sharma, Wu & Dalal 2005)."""
    l1, a1, b1 = one
    l2, a2, b2 = other
    c = (math.hypot(a1, b1) + math.hypot(a2, b2)) / 2
    g = 0.5 * (1 - math.sqrt(c**7 / (c**7 + 25**7)))
    a1, a2 = (1 + g) * a1, (1 + g) * a2
    c1, c2 = math.hypot(a1, b1), math.hypot(a2, b2)
    h1, h2 = math.degrees(math.atan2(b1, a1)) % 360, math.degrees(math.atan2(b2, a2)) % 360
    dl, dc = l2 - l1, c2 - c1
    dh = 0.0 if c1 * c2 == 0 else (h2 - h1 + 180) % 360 - 180
    dbig = 2 * math.sqrt(c1 * c2) * math.sin(math.radians(dh) / 2)
    lm, cm = (l1 + l2) / 2, (c1 + c2) / 2
    hm = (h1 + h2 if c1 * c2 == 0 else h1 + dh / 2) % 360
    t = (1 - 0.17 * math.cos(math.radians(hm - 30)) + 0.24 * math.cos(math.radians(2 * hm))
         + 0.32 * math.cos(math.radians(3 * hm + 6)) - 0.20 * math.cos(math.radians(4 * hm - 63)))  # fmt: skip
    sl = 1 + 0.015 * (lm - 50) ** 2 / math.sqrt(20 + (lm - 50) ** 2)
    sc, sh = 1 + 0.045 * cm, 1 + 0.015 * cm * t
    turn = 30 * math.exp(-(((hm - 275) / 25) ** 2))
    rt = -2 * math.sqrt(cm**7 / (cm**7 + 25**7)) * math.sin(math.radians(2 * turn))
    return math.sqrt((dl / sl) ** 2 + (dc / sc) ** 2 + (dbig / sh) ** 2 + rt * (dc / sc) * (dbig / sh))


def test_the_difference_of_colours_is_the_published_one() -> None:
    for one, other, exact in (
        ((50.0, 2.6772, -79.7751), (50.0, 0.0, -82.7485), 2.0425), ((50.0, 2.5, 0.0), (73.0, 25.0, -18.0), 27.1492),
        ((22.7233, 20.0904, -46.6940), (23.0331, 14.9730, -42.5619), 2.0373),
    ):  # fmt: skip
        assert ciede2000(one, other) == pytest.approx(exact, abs=1e-4)


@pytest.mark.parametrize("name", list(PALETTES))
@pytest.mark.parametrize("seen", list(SEEN))
def test_neighbouring_inks_are_told_apart(name: str, seen: str) -> None:
    theme = theme_of(PALETTES[name])
    inks = [lab(theme.colour(f"series {at}"), seen) for at in range(SERIES)]
    differences = [ciede2000(one, other) for one, other in pairwise([*inks, inks[0]])]
    assert min(differences) >= 10, [round(each, 1) for each in differences]
    every = {theme.hex(f"series {at}") for at in range(SERIES * SHADES)}
    assert len(every) == SERIES * SHADES


@pytest.mark.parametrize("name", list(PALETTES))
def test_words_are_read_on_every_paper(name: str) -> None:
    theme = theme_of(PALETTES[name])
    for ground in ("paper", "sheet"):
        for token in ("ink", "text", "muted", "plum", "loss"):
            assert contrast(theme.colour(token), theme.colour(ground)) >= 4.5, (token, ground)
    assert contrast(theme.colour("ghost"), theme.colour("sheet")) >= 1.1  # what was before slicing is seen


@pytest.mark.parametrize("name", list(PALETTES))
def test_what_is_written_on_inks_is_read(name: str) -> None:
    theme = theme_of(PALETTES[name])
    canvas = Canvas(300, 200, theme=theme)
    tokens = [f"series {at}" for at in range(SERIES * SHADES)] + ["gain", "loss", "muted", "shape", "ghost"]
    for token in tokens:
        for strength in (1.0, 0.78, 0.72, 0.6, 0.5, 0.4, 0.32, 0.2, 0.1):
            ink = Ink(token, strength)
            on, ground = ink_on(ink, canvas), theme.colour(token, strength)
            assert contrast(theme.colour(on.token, on.strength), ground) >= 4.5, (token, strength, on)
        own = ink_for_text(Ink(token), canvas)
        assert contrast(theme.colour(own.token, own.strength), theme.colour("sheet")) >= 4.5, token


def test_a_palette_is_read_from_a_small_file() -> None:
    made = palette_from({"inks": ["#112233", "#C68A1E"]})
    assert made.inks[:2] == ("#112233", "#c68a1e") and len(set(made.inks)) == SERIES
    assert theme_of(made).hex("series 1") == "#c68a1e"
    for wrong, told in (
        ({"inks": []}, "ink"), ({"inks": ["red"]}, "#rrggbb"), ([], "inks"), ({"inks": ["#112233"] * 2}, "twice"),
        ({"inks": [7]}, "#rrggbb"), ({"inks": ["#112233"] * 9}, "8"), ({"inks": ["#112233"], "paper": "#404040"}, "read on that paper"),
        ({"inks": ["#112233"], "paper": "grey"}, "#rrggbb"), ({"inks": ["#112233"], "headings": "fancy"}, "headings"),
    ):  # fmt: skip
        with pytest.raises(Refusal, match=told):
            palette_from(wrong)
