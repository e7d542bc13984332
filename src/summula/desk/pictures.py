"""Compositions as PNG: painted as on the screen, without a window."""

from __future__ import annotations

import os
from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QBuffer, QByteArray, QIODevice, QMetaType, QMimeData
from PyQt6.QtGui import QImage, QPainter

from summula.core.composition.composition import Composition, Page, one_page
from summula.core.handout.formats import FORMATS, Format
from summula.core.refusal import Refusal
from summula.core.theme.palettes import Palette, theme_of
from summula.desk.application import application
from summula.desk.theme import colour, wear, worn
from summula.desk.widgets.painter import paint_scene

if TYPE_CHECKING:
    from summula.core.charts.scene import Scene

PICTURE, SVG = "application/x-qt-image", "image/svg+xml"  # as Qt names a picture, as everybody names vectors


def page_image(page: Page, scale: float = 1.0) -> QImage:
    """A page, `scale` pixels a pixel."""
    size = (round(page.scene.width * scale), round(page.scene.height * scale))
    image = QImage(*size, QImage.Format.Format_RGB32)
    image.fill(colour(page.ground))
    painter = QPainter(image)
    painter.scale(scale, scale)
    painter.setRenderHint(QPainter.RenderHint.TextAntialiasing, True)
    paint_scene(painter, page.scene)
    painter.end()
    return image


def _png(composition: Composition) -> bytes:
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application()
    wear(theme_of(composition.palette))
    page = one_page(composition)
    if page.scene.width * page.scene.height * composition.scale**2 > MOST_PIXELS:
        raise Refusal("the picture is too large", "make it smaller, export fewer pages, or choose PDF")
    return _as_png(page_image(page, composition.scale))


def scene_png(scene: Scene, palette: Palette, scale: float = 2.0) -> bytes:
    """A scene by itself, on a white sheet."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application()
    wear(theme_of(palette))
    return _as_png(page_image(Page("", scene, "sheet"), scale))


class PictureMime(QMimeData):
    """A scene as other programs take it: as a picture twice as sharp as the screen, and as SVG. Made when one of them
    asks: most of what is drawn out of a window is let go before."""

    def __init__(self, scene: Scene, name: str) -> None:
        super().__init__()
        theme = worn()

        def as_svg() -> QByteArray:
            from summula.core.handout.svg import svg_text  # a window can do without it until then

            return QByteArray(svg_text(scene, name, ground="sheet", theme=theme).encode("utf-8"))

        self._makers: dict[str, Callable[[], object]] = {
            PICTURE: lambda: page_image(Page(name, scene, "sheet"), 2.0),
            SVG: as_svg,
        }

    def formats(self) -> list[str]:
        return list(self._makers)

    def hasFormat(self, mimetype: str | None) -> bool:
        return mimetype in self._makers

    def retrieveData(self, mimetype: str | None, preferred: QMetaType) -> object:
        make = self._makers.get(mimetype or "")
        return make() if make is not None else super().retrieveData(mimetype, preferred)


def _as_png(image: QImage) -> bytes:
    buffer = QBuffer()
    buffer.open(QIODevice.OpenModeFlag.WriteOnly)
    image.save(buffer, "PNG")
    return bytes(buffer.data().data())


MOST_PIXELS = 150_000_000
PNG = Format("png", "PNG", "png", "page", _png, hint="for slides and mail")
ALL_FORMATS: tuple[Format, ...] = (PNG, *FORMATS)
