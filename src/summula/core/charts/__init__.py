"""From a Grid to a Scene of marks, one small module a form.

A form is a pure function `(Chart, Canvas) -> Scene`; the desk's painter and every hand-out draw the same Scene. Marks
carry the members and measure they stand for.
"""

from summula.core.charts.chart import Canvas, Chart, SummaryLook, chart_of, drawn_as
from summula.core.charts.scene import Area, Box, Ink, Line, Mark, Point, Scene, Tag, Text, TextWidth
from summula.core.phrases.fitting import why_not

__all__ = [
    "Area",
    "Box",
    "Canvas",
    "Chart",
    "Ink",
    "Line",
    "Mark",
    "Point",
    "Scene",
    "SummaryLook",
    "Tag",
    "Text",
    "TextWidth",
    "chart_of",
    "draw",
    "drawn_as",
    "why_not",
]


def draw(chart: Chart, canvas: Canvas) -> Scene:
    """The scene of a chart; see `drawers.draw`. The forms are read when the first is drawn."""
    from summula.core.charts.drawers import draw as drawn

    return drawn(chart, canvas)
