"""Every form drawn from about two hundred figures; a million rows from the table to the painted picture, against
Matplotlib on the same arrays; small multiples, a moved slider, a live figure."""

from __future__ import annotations

import io
import os
from collections.abc import Callable
from statistics import median

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import numpy as np
import polars as pl
from PyQt6.QtGui import QImage, QPainter

from benchmarks.data import encoded, frame
from benchmarks.timing import in_turn, least
from summula.core.boards.livefigures import LiveRows, said
from summula.core.charts import draw
from summula.core.charts.chart import Canvas, Chart, SummaryLook, chart_of
from summula.core.charts.scene import Scene
from summula.core.charts.settings import with_value
from summula.core.charts.style import PLAIN_STYLE
from summula.core.engine.answer import dimensions_of, with_defaults
from summula.core.engine.cells import fold
from summula.core.phrases.fitting import why_not
from summula.core.phrases.forms import FORMS, Form
from summula.core.reading.readers import table_from_frame
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.tables.table import Table
from summula.desk.application import application
from summula.desk.widgets.painter import paint_scene

SIZE = (1280.0, 800.0)
_ASKED = (
    "show sum of Fee by Pier", "show sum of Fee by Boat", "show sum of Fee by Boat across Pier", "show sum of Fee and rows by Boat",
    "show rows and sum of Fee against sum of Cost by Boat across Pier", "show sum of Fee against sum of Cost by Boat across Pier",
    "show rows and sum of Fee and sum of Cost by Boat", "show each row of Fee across Pier", "show each row of Fee by Pier",
    "show sum of Fee",
)  # fmt: skip


def small_table() -> Table:
    """Fifty boats by four piers: two hundred figures."""
    rng = np.random.default_rng(3)
    rows = 4_000
    return table_from_frame(
        "Small",
        pl.DataFrame(
            {
                "Boat": [f"Boat {at % 50:02}" for at in range(rows)], "Pier": ["NESW"[at // 50 % 4] for at in range(rows)],
                "Fee": rng.gamma(2, 50, rows), "Cost": rng.gamma(2, 20, rows),
            }
        ),
        {"Boat": "category", "Pier": "category"},
    )  # fmt: skip


def charts(report: Callable[..., None]) -> None:
    application()
    _every_form()
    _beside_the_figures()
    _a_million_rows(report)


def painted(image: QImage, scene: Scene) -> None:
    image.fill(0xFFFDF9)
    painter = QPainter(image)
    paint_scene(painter, scene)
    painter.end()


def _every_form() -> None:
    table = small_table()
    words = Vocabulary(table)
    charts_by_form: dict[Form, Chart] = {}
    for form in FORMS:
        text = max(
            (each for each in _ASKED if not why_not(parse(each, words), form)),
            key=lambda each: answer(parse(each, words), table).values[answer(parse(each, words), table).finest].size
            if "each row" not in each and FORMS[form].most_marks != 24 else -_ASKED.index(each),
        )  # fmt: skip
        chart = chart_of(answer(parse(f"{text} drawn as {form}", words), table), table)
        draw(chart, Canvas(*SIZE))
        charts_by_form[form] = chart
    works = {form: lambda chart=chart: draw(chart, Canvas(*SIZE)) for form, chart in charts_by_form.items()}  # type: ignore[misc]
    taken = least(works)
    worst = max(taken, key=lambda form: taken[form])
    print(
        f"Each of {len(taken)} forms drawn at 1280x800\n    median {median(taken.values()):6.2f} ms (goal: 3)   "
        f"worst {taken[worst]:6.2f} ms, {worst} (goal: 12)"
    )
    print("    " + ", ".join(f"{form} {ms:.1f}" for form, ms in taken.items()))


def _beside_the_figures() -> None:
    rows = frame(200_000)
    table = encoded(rows)
    words = Vocabulary(table)
    image = QImage(1280, 800, QImage.Format.Format_RGB32)
    text = 'show sum of Takings by month of "Sailed on" across year of "Sailed on" drawn as lines for each Route'
    several = chart_of(answer(parse(text, words), table), table)
    draw(several, Canvas(*SIZE))
    count = several.grid.rows.levels[1].size
    taken = least({"": lambda: draw(several, Canvas(*SIZE))})[""]
    print(f"{count} small multiples of three lines drawn: {taken:6.2f} ms, {taken * 20 / count:6.2f} ms for twenty (goal: 12)")

    grid = answer(parse('show sum of Takings by Route then Vessel drawn as columns', words), table)
    charts_of = [
        chart_of(grid, table, SummaryLook(style=with_value(with_value(PLAIN_STYLE, "emphasis.end", "top"), "emphasis.number", at)))
        for at in range(1, 12)
    ]
    works = {at: lambda chart=chart: painted(image, draw(chart, Canvas(*SIZE))) for at, chart in enumerate(charts_of)}  # type: ignore[misc]
    taken = min(least(works, 1).values())
    print(f"A moved slider of a style to the painted chart: {taken:6.2f} ms (goal: 16)")

    phrase = with_defaults(parse("show sum of Takings keeping top 4 Vessel by sum of Takings", words), table)
    cells = fold(table, dimensions_of(phrase, table), summed="Takings")
    live = LiveRows(table, cells)
    caption = "The four busiest took {sum of Takings keeping top 4 Vessel by sum of Takings as share of everything}"
    said(caption, live)
    plain = parse("show sum of Takings keeping top 4 Vessel by sum of Takings", words)
    ours, beside = in_turn(lambda: said(caption, live), {"the phrase": lambda: answer(plain, table, cells)}, 5, lambda: None, 20)
    print(f"A live figure in a caption, on the fold: {ours:6.3f} ms (goal: 0.5), the phrase itself {beside['the phrase']:6.3f} ms")


def _a_million_rows(report: Callable[..., None]) -> None:
    import matplotlib

    matplotlib.use("Agg")
    from matplotlib.figure import Figure

    rows = frame(1_000_000)
    table = encoded(rows)
    words = Vocabulary(table)
    x, y = rows["Passengers"].to_numpy(), rows["Takings"].to_numpy()
    vessels = rows["Vessel"].to_physical().to_numpy()
    image = QImage(1280, 800, QImage.Format.Format_RGB32)

    def ours(text: str) -> Callable[[], None]:
        phrase = parse(text, words)
        return lambda: painted(image, draw(chart_of(answer(phrase, table)), Canvas(*SIZE)))

    def theirs(put: Callable[[object], object]) -> Callable[[], None]:
        def drawn() -> None:
            figure = Figure(figsize=(12.8, 8.0), dpi=100)
            put(figure.subplots())
            figure.savefig(io.BytesIO(), format="raw")

        return drawn

    groups = [y[vessels == at] for at in range(int(vessels.max()) + 1)]
    for title, text, put in (
        ("Scatter of a million rows, painted", "show each row of Takings against each row of Passengers drawn as scatter",
         lambda axes: axes.hexbin(x, y, gridsize=100)),
        ("Histogram of a million rows, painted", "show each row of Takings drawn as histogram", lambda axes: axes.hist(y, bins=24)),
        ("Box plot of a million rows by vessel, painted", "show each row of Takings by Vessel drawn as box plot",
         lambda axes: axes.boxplot(groups)),
    ):  # fmt: skip
        report(title, *in_turn(ours(text), {"matplotlib": theirs(put)}, 4, lambda: None), "ratio under 0.15")
