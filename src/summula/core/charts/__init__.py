"""From a Grid to a Scene of marks, one small module a form.

A form is a pure function `(Chart, Canvas) -> Scene`; the desk's painter and every hand-out draw the same Scene. Marks
carry the members and measure they stand for.
"""

from __future__ import annotations

from typing import TYPE_CHECKING

if TYPE_CHECKING:
    from summula.core.charts.chart import Canvas, Chart
    from summula.core.charts.scene import Scene


def draw(chart: Chart, canvas: Canvas) -> Scene:
    """The scene of a chart; see `drawers.draw`. The forms are read when the first is drawn."""
    from summula.core.charts.drawers import draw as drawn

    return drawn(chart, canvas)
