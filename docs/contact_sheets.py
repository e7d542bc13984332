"""Every form and the settings of charts as small pictures, from the demo: the two sheets of docs/charts.md."""

from __future__ import annotations

from pathlib import Path

from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QPainter, QPixmap

from summula.core.boards.livefigures import LiveRows, with_live_words
from summula.core.charts import draw
from summula.core.charts.chart import Canvas, SummaryLook, chart_of
from summula.core.charts.settings import Value, with_value
from summula.core.charts.style import PLAIN_STYLE
from summula.core.summaries import Vocabulary, answer, parse
from summula.core.theme.palettes import PALETTES, Palette
from summula.core.theme.tokens import LIGHT
from summula.demo.folio import demo_folio
from summula.desk.theme import colour, font
from summula.desk.widgets.painter import paint_scene

_ACROSS, _SIZE, _GAP, _HEAD = 4, (300, 190), 16, 22
_MONTHS = 'month of "Sailed on"'
_LATE = '"Delay (min)"'
_NET = 'sum of Takings - sum of "Running cost" called Net'

Sample = tuple[str, str, dict[str, Value]]

FORMS: tuple[Sample, ...] = (
    ("grid", 'show sum of Takings by Vessel across year of "Sailed on" keeping top 5 Vessel by sum of Takings', {}),
    ("columns", f"show sum of Takings by {_MONTHS} drawn as columns", {}),
    ("bars", "show sum of Takings by Vessel ordered by sum of Takings, largest first drawn as bars", {}),
    ("stacked columns", f"show sum of Passengers by {_MONTHS} across Weather drawn as stacked columns", {}),
    ("stacked bars", "show sum of Passengers by Vessel across Weather drawn as stacked bars", {}),
    ("share columns", f"show rows by {_MONTHS} across Weather drawn as share columns", {}),
    ("share bars", "show rows by Vessel across Weather drawn as share bars", {}),
    ("dots", 'show mean of Takings by Route across year of "Sailed on" drawn as dots', {}),
    ("lines", f'show sum of Takings by {_MONTHS} across year of "Sailed on" drawn as lines', {}),
    ("columns and lines", f"show sum of Takings and mean of {_LATE} by {_MONTHS} drawn as columns and lines", {}),
    ("areas", 'show sum of Passengers by year-month of "Sailed on" across Weather drawn as areas', {}),
    ("share areas", 'show rows by year-month of "Sailed on" across Weather drawn as share areas', {}),
    ("pie", "show sum of Takings by Route keeping top 5 Route by sum of Takings gathering the rest drawn as pie", {}),
    ("ring", "show sum of Takings by Ticket drawn as ring", {}),
    ("waffle", "show rows by Weather drawn as waffle", {}),
    ("heat grid", f"show sum of Takings by Vessel across {_MONTHS} drawn as heat grid", {}),
    ("scatter", "show sum of Takings against sum of Passengers by Route drawn as scatter", {}),
    ("bubbles", "show sum of Takings and rows against sum of Passengers by Route drawn as bubbles", {}),
    ("histogram", "show each row of Takings drawn as histogram", {}),
    ("box plot", f"show each row of {_LATE} by Weather drawn as box plot", {}),
    ("gauge", f"show mean of {_LATE} drawn as gauge", {"gauge.fair": 12.0, "gauge.good": 6.0, "gauge.high": 20.0}),
    ("key figure", "show sum of Takings drawn as key figure", {}),
    ("cards", "show sum of Takings and rows by Vessel drawn as cards", {}),
    ("… for each", f"show sum of Takings by {_MONTHS} drawn as columns for each Weather", {}),
    ("two-way histogram",
     "show rows by Takings in bands of 500 from 0 to 2500 across Passengers in bands of 25 from 0 to 125 "
     "drawn as heat grid", {}),
)  # fmt: skip
SETTINGS: tuple[Sample, ...] = (
    ("a title, a line, a note, live figures", f"show sum of Takings by {_MONTHS} drawn as columns",
     {"words.title": "A summer's trade", "words.line": "{names: top 2 Vessel by sum of Takings} lead",
      "words.note": "{rows} sailings, {period}", "labels.show": "none"}),
    ("figures on marks: name and share", "show rows by Weather drawn as pie",
     {"labels.says": "name value share", "labels.joined": " / "}),
    ("the ends alone", f"show sum of Takings by {_MONTHS} drawn as lines", {"labels.show": "ends"}),
    ("legend at the right", "show rows by Vessel across Weather drawn as stacked columns", {"legend.place": "right"}),
    ("colour by the figure", "show sum of Takings by Vessel drawn as columns", {"colour.by": "size"}),
    ("by another measure", f"show sum of Takings and {_NET} by {_MONTHS} drawn as columns", {"colour.by": "measure"}),
    ("emphasis: the three largest", "show sum of Takings by Vessel drawn as columns", {"emphasis.end": "top"}),
    ("chosen members", "show sum of Takings by Route drawn as bars",
     {"emphasis.end": "members", "emphasis.members": "Osk – Vaila; Hesta – Lunna"}),
    ("a scale that fits, a least span", f"show mean of {_LATE} by {_MONTHS} drawn as lines",
     {"scale.begin": "fit", "scale.span": 30.0}),
    ("logarithmic", "show sum of Passengers by Ticket where Passengers is over 0 drawn as columns",
     {"scale.log": True}),
    ("a second scale, tied", f"show sum of Takings and sum of Passengers by {_MONTHS} drawn as columns and lines",
     {"scale.second": "tied"}),
    ("no grid lines, no gap", f"show sum of Takings by {_MONTHS} drawn as columns",
     {"frame.grid_lines": False, "frame.gap": 0.02, "labels.show": "none"}),
    ("the total set apart", f"show {_NET} by {_MONTHS} drawn as columns", {"total.shown": True, "total.name": "Year"}),
    ("references, shaded between", f"show sum of Takings by {_MONTHS} drawn as lines",
     {"reference.at": "median", "second_reference.at": "mean", "second_reference.band": True}),
    ("a trend and what it says", "show sum of Takings against sum of Passengers by Route drawn as scatter",
     {"trend.kind": "line"}),
    ("a moving mean", 'show sum of Takings by year-month of "Sailed on" drawn as lines', {"trend.kind": "moving mean"}),
    ("a slice pulled out", "show sum of Takings by Ticket drawn as pie", {"slices.pulled": "smallest"}),
    ("the size of the hole", "show sum of Takings by Weather drawn as ring", {"ring.hole": 0.78}),
    ("cut out of a picture", f"show sum of Takings by {_MONTHS} drawn as columns",
     {"picture.id": "g60", "labels.show": "none"}),
    ("a running share", "show each row of Takings drawn as histogram", {"histogram.running": True}),
    ("another palette", f"show rows by {_MONTHS} across Weather drawn as stacked columns", {"palette": "Harbour"}),
    ("small multiples, each its own scale", f"show sum of Takings by {_MONTHS} drawn as lines for each Weather",
     {"multiples.scales": "free"}),
    ("a note of the mean in boxes", f"show each row of {_LATE} by Weather drawn as box plot", {"box plot.mean": True}),
    ("a goal on a gauge", f"show mean of {_LATE} drawn as gauge",
     {"gauge.fair": 12.0, "gauge.good": 6.0, "gauge.goal": 5.0, "gauge.high": 20.0}),
)  # fmt: skip


def sheet(samples: tuple[Sample, ...]) -> QPixmap:
    """The samples in rows of four, each under its name."""
    opened = demo_folio()
    table, folio = opened.tables["t1"], opened.folio
    words = Vocabulary(table)
    rows = -(-len(samples) // _ACROSS)
    step = (_SIZE[0] + _GAP, _SIZE[1] + _GAP + _HEAD)
    picture = QPixmap(_ACROSS * step[0] + _GAP, rows * step[1] + _GAP)
    picture.fill(colour("paper"))
    painter = QPainter(picture)
    for at, (name, text, said) in enumerate(samples):
        x, y = _GAP + at % _ACROSS * step[0], _GAP + at // _ACROSS * step[1]
        painter.setFont(font(13, 600))
        painter.setPen(colour("text"))
        painter.drawText(QRectF(x, y - 4, _SIZE[0], _HEAD), Qt.AlignmentFlag.AlignLeft, name)
        painter.fillRect(QRectF(x, y + _HEAD - 6, *_SIZE), colour("sheet"))
        style = PLAIN_STYLE
        palette = PALETTES[str(said["palette"])] if "palette" in said else Palette()
        for key, value in said.items():
            if key != "palette":
                style = with_value(style, key, value)
        phrase = parse(text, words)
        chart = chart_of(
            answer(phrase, table), table, SummaryLook(style=style, palette=palette, pictures=folio.pictures)
        )
        chart = with_live_words(chart, LiveRows(table, where=phrase.where))
        scene = draw(chart, Canvas(_SIZE[0] - 16, _SIZE[1] - 14, theme=LIGHT))
        paint_scene(painter, scene, x + 8, y + _HEAD + 2)
    painter.end()
    return picture


def save(folder: Path) -> None:
    folder.mkdir(parents=True, exist_ok=True)
    sheet(FORMS).save(str(folder / "charts-forms.png"))
    sheet(SETTINGS).save(str(folder / "charts-settings.png"))
