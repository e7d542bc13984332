"""One line of text: the same to the pixel when it is painted first and when its letters are placed already."""

from __future__ import annotations

from collections.abc import Callable

import pytest
from PyQt6.QtCore import QRectF, Qt
from PyQt6.QtGui import QImage, QPainter
from pytestqt.qtbot import QtBot

from summula.core.charts.scene import Ink, Scene, Text
from summula.desk.theme import text_width
from summula.desk.widgets.painter import paint_scene
from summula.desk.widgets.writing import elided, laid_out, write


def painted(paint: Callable[[QPainter], None], scale: float) -> QImage:
    image = QImage(720, 60, QImage.Format.Format_ARGB32_Premultiplied)
    image.fill(Qt.GlobalColor.white)
    painter = QPainter(image)
    painter.scale(scale, scale)
    paint(painter)
    painter.end()
    return image


@pytest.mark.parametrize("scale", [1.0, 1.5])
@pytest.mark.parametrize("text", ["Harbour – Agpq ▾ ●", "£1,234.5 − 2 %", "WAVE To. Ærø"])
def test_a_text_does_not_move_when_it_is_laid_out(qtbot: QtBot, text: str, scale: float) -> None:
    for size, weight, serif in ((10.5, 400, False), (11, 500, False), (13, 600, True), (22, 600, False)):
        for at, side in ((3.4, "left"), (7.83, "right"), (0.25, "middle")):
            own = f"{text} {size} {at} {scale}"  # met here for the first time
            area = QRectF(at, at, 460.3, 22.7)

            def row(painter: QPainter, own: str = own, area: QRectF = area, side: str = side, size: float = size) -> None:
                write(painter, area, own, size, weight, side=side, serif=serif)  # type: ignore[arg-type]  # noqa: B023

            first, second, third = (painted(row, scale) for _ in range(3))
            assert first == second == third and laid_out(own, size, weight, serif) is not None
            scene = Scene(480.0, 60.0, (Text(at + 230, 20.0 + at, own + "!", Ink("ink"), size, weight, "centre", serif=serif),))
            assert painted(lambda painter, scene=scene: paint_scene(painter, scene), scale) == painted(  # type: ignore[misc]
                lambda painter, scene=scene: paint_scene(painter, scene), scale  # type: ignore[misc]
            )


def test_what_is_too_wide_is_cut_or_shortened(qtbot: QtBot) -> None:
    text = "Hesta – Lunna over Brannay"
    short = elided(text, 90, 13)
    assert short.endswith("…") and text_width(short, 13) <= 90 < text_width(text, 13)
    assert elided(text, 400, 13) == text
    beside = painted(lambda painter: write(painter, QRectF(10, 5, 60, 20), text, 13), 1.0)
    assert all(beside.pixelColor(x, y) == Qt.GlobalColor.white for x in range(72, 720) for y in range(60))
