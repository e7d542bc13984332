"""Colours as tokens. A dark or high-contrast theme is another set of values for the same tokens."""

from __future__ import annotations

from functools import lru_cache

import msgspec

Colour = tuple[int, int, int]  # red, green, blue: 0-255 each
SERIES = 8  # inks told apart by their hue
SHADES = 3  # of each of them: as it is, darker, lighter

_PLAIN: dict[str, str] = {
    "paper": "#f3efe6",
    "sheet": "#fffdf9",
    "hairline": "#ddd6c8",
    "ink": "#23262d",
    "text": "#23262d",
    "muted": "#665f58",  # darker than the muted of large type: 4.5:1 on paper at any size
    "faint": "#a59d90",  # marks and lines only, never text
    "plum": "#5a3566",
    "plum wash": "#f0e8f1",
    "amber": "#8a5a08",
    "gain": "#2f7d5b",
    "loss": "#b0452f",
    "ghost": "#e3dccf",
    "shape": "#b9b09f",
    "black": "#000000",  # on inks of a middle lightness, where nothing else is read
    "series 0": "#5a3566",
    "series 1": "#c68a1e",
    "series 2": "#2c7d80",
    "series 3": "#b59a63",
    "series 4": "#5a677b",
    "series 5": "#b0513d",
    "series 6": "#c4788f",
    "series 7": "#6c8a3c",
}


class Theme(msgspec.Struct, frozen=True, eq=False):
    """Each token's colour, as "#rrggbb"; whether titles and key figures stand in the serif face."""

    tokens: dict[str, str]
    serif_headings: bool = True

    def colour(self, token: str, strength: float = 1.0, ground: str = "sheet") -> Colour:
        """A token's colour, or that of "#rrggbb", mixed with the ground where it is laid on less than fully."""
        own = token if token.startswith("#") else self.tokens[token]
        return _mixed(own, self.tokens[ground], strength)

    def hex(self, token: str, strength: float = 1.0, ground: str = "sheet") -> str:
        own = token if token.startswith("#") else self.tokens[token]
        return _hex(_mixed(own, self.tokens[ground], strength))


@lru_cache(maxsize=4_096)
def _hex(colour: Colour) -> str:
    red, green, blue = colour
    return f"#{red:02x}{green:02x}{blue:02x}"


def with_shades(tokens: dict[str, str]) -> dict[str, str]:
    """The tokens, and of each series' ink a darker and a lighter one: "series 8" to "series 23"."""
    made = dict(tokens)
    for at in range(SERIES):
        own = tokens[f"series {at}"]
        for shade, (other, share) in enumerate((("#000000", 0.42), ("#ffffff", 0.45)), start=1):
            made[f"series {at + shade * SERIES}"] = mixed(own, other, 1 - share)
    return made


@lru_cache(maxsize=1024)
def _mixed(colour: str, ground: str, strength: float) -> Colour:
    over, under = parts(colour), parts(ground)
    if strength >= 1:
        return over
    red, green, blue = (round(a * strength + b * (1 - strength)) for a, b in zip(over, under, strict=True))
    return red, green, blue


def mixed(colour: str, ground: str, share: float) -> str:
    """So much of a colour laid on a ground, both as "#rrggbb"."""
    red, green, blue = _mixed(colour, ground, share)
    return f"#{red:02x}{green:02x}{blue:02x}"


def parts(colour: str) -> Colour:
    """ "#rrggbb" as three numbers."""
    return int(colour[1:3], 16), int(colour[3:5], 16), int(colour[5:7], 16)


def luminance(colour: Colour) -> float:
    """Relative luminance, 0 (black) to 1 (white); WCAG 2.2."""
    shares = [part / 255 for part in colour]
    red, green, blue = (s / 12.92 if s <= 0.04045 else ((s + 0.055) / 1.055) ** 2.4 for s in shares)
    return 0.2126 * red + 0.7152 * green + 0.0722 * blue


def contrast(first: Colour, second: Colour) -> float:
    """The contrast ratio of two colours, 1 to 21; WCAG 2.2."""
    light, dark = sorted((luminance(first), luminance(second)), reverse=True)
    return (light + 0.05) / (dark + 0.05)


LIGHT = Theme(with_shades(_PLAIN))
