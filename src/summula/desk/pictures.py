"""Compositions as PNG: painted as on the screen, without a window."""

from __future__ import annotations

import os

from PyQt6.QtCore import QBuffer, QIODevice
from PyQt6.QtGui import QImage, QPainter

from summula.core.composition.composition import Composition, Page, one_page
from summula.core.handout.formats import FORMATS, Format
from summula.core.theme.palettes import theme_of
from summula.desk.application import application
from summula.desk.theme import colour, wear
from summula.desk.widgets.painter import paint_scene


def page_image(page: Page) -> QImage:
    """A page, a pixel a pixel."""
    image = QImage(round(page.scene.width), round(page.scene.height), QImage.Format.Format_RGB32)
    image.fill(colour(page.ground))
    painter = QPainter(image)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing, True)
    paint_scene(painter, page.scene)
    painter.end()
    return image


def _png(composition: Composition) -> bytes:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application()
    wear(theme_of(composition.palette))
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    page_image(one_page(composition)).save(buffer, "PNG")
    return bytes(buffer.data().data())


PNG = Format("png", "PNG", "png", "page", _png)
ALL_FORMATS: tuple[Format, ...] = (PNG, *FORMATS)
