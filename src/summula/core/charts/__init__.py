"""From a Grid to a Scene of marks, one small module a form.

A form is a pure function `(Grid, Look, size, text width) -> Scene`; the desk's painter and every hand-out
draw the same Scene. Marks carry the members and measure they stand for.
"""

from summula.core.charts.forms import draw, why_not
from summula.core.charts.look import Look
from summula.core.charts.scene import Box, Ink, Line, Mark, Point, Scene, Tag, Text, TextWidth

__all__ = [
    "Box",
    "Ink",
    "Line",
    "Look",
    "Mark",
    "Point",
    "Scene",
    "Tag",
    "Text",
    "TextWidth",
    "draw",
    "why_not",
]
