"""What all of the look is made of, without Qt: colours as tokens, and the shipped type faces with their widths."""

from summula.core.theme.tokens import LIGHT, Theme
from summula.core.theme.typefaces import text_width

__all__ = ["LIGHT", "Theme", "text_width"]
