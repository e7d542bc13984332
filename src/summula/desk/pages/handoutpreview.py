"""What will be handed out, seen before: its pages as pictures, one below the other."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace
from PyQt6.QtCore import QRect, QSize
from PyQt6.QtGui import QImage, QPainter, QPaintEvent
from PyQt6.QtWidgets import QWidget

from summula.core.fields.figures import plural
from summula.core.handout.order import Order, composed, content_of
from summula.desk.pictures import page_image
from summula.desk.theme import colour

if TYPE_CHECKING:
    from summula.core.composition.composition import Composition, Page
    from summula.core.folio.model import AnyPage, Folio
    from summula.core.handout.formats import Format
    from summula.core.tables.table import Table

_SHOWN = 30  # pages of a preview
_WIDE = 1400  # pixels of its pictures


class Preview(msgspec.Struct, frozen=True, eq=False):
    """The pages as they will be, and what is said of the file."""

    images: list[QImage]
    names: list[str]
    pages: int
    said: str


def preview_of(pages: list[AnyPage], folio: Folio, tables: dict[str, Table], way: Format, order: Order) -> Preview:
    """The pages as pictures, and what is said of the file (in a worker)."""
    said = ""
    if way.takes == "board":
        if order.live:
            from summula.core.handout.livepage import estimate

            said = estimate(content_of(pages, folio, tables, order)).words
        else:
            content_of(pages, folio, tables, order)
    shown = composed(pages, folio, tables, way, replace(order, live=()))
    images = [_on_paper(page, shown) for page in shown.pages[:_SHOWN]]
    names = [page.chapter or page.name for page in shown.pages[:_SHOWN]]
    count = len(shown.pages)
    if way.pages:
        more = f", the first {_SHOWN} shown" if count > _SHOWN else ""
        on = shown.on.size if shown.on is not None else "custom size"
        said = f"{plural(count, 'page')} on {on}{more}"
    elif way.key == "png":
        size = shown.pages[0].scene
        wide, high = round(size.width * order.scale), round(size.height * order.scale)
        said = f"{wide:,} × {high:,} pixels"
    return Preview(images, names, count, said or way.hint.capitalize())


def _on_paper(page: Page, composition: Composition) -> QImage:
    """A page on its paper, as it will be printed."""
    scene = page.scene
    if composition.on is None:
        return page_image(page, min(_WIDE / scene.width, 1.25))
    wide, high = composition.on.points(scene.width > scene.height)
    scale = _WIDE / max(wide, high)
    image = QImage(round(wide * scale), round(high * scale), QImage.Format.Format_RGB32)
    image.fill(colour("sheet") if composition.on.white else colour(page.ground))
    margin = composition.on.margin * scale
    room = (image.width() - 2 * margin, image.height() - 2 * margin)
    part = min(room[0] / scene.width, room[1] / scene.height)
    painter = QPainter(image)
    inner = page_image(page, part) if not composition.on.white else page_image(replace(page, ground="sheet"), part)
    painter.drawImage(round(margin + (room[0] - scene.width * part) / 2), round(margin), inner)
    painter.end()
    return image


class Sheets(QWidget):
    """Pictures of pages, one below the other."""

    _GAP = 18

    def __init__(self) -> None:
        super().__init__()
        self.images: list[QImage] = []
        self.setAccessibleName("Preview of the pages")

    def show_images(self, images: list[QImage], names: list[str]) -> None:
        self.images = images
        self.setAccessibleDescription("; ".join(f"page {at}: {name}" for at, name in enumerate(names, start=1)))
        self.setMinimumHeight(self._height())
        self.update()

    def _room(self) -> int:
        return max(self.width() - 20, 60)

    def _height(self) -> int:
        return sum(round(each.height() * self._wide(each) / each.width()) + self._GAP for each in self.images) + 4

    def _wide(self, image: QImage) -> int:
        """So wide that the whole page is seen."""
        area = self.parentWidget()
        high = max(area.height() - self._GAP - 10, 200) if area is not None else 600
        return min(self._room(), image.width(), round(high * image.width() / image.height()))

    def resizeEvent(self, event: object) -> None:
        self.setMinimumHeight(self._height())

    def sizeHint(self) -> QSize:
        return QSize(600, self._height())

    def paintEvent(self, event: QPaintEvent | None) -> None:
        painter = QPainter(self)
        painter.setRenderHint(QPainter.RenderHint.SmoothPixmapTransform, True)
        y = 2
        for image in self.images:
            wide = self._wide(image)
            high = round(image.height() * wide / image.width())
            place = QRect(1, y, wide, high)
            if event is None or event.rect().intersects(place):
                painter.drawImage(place, image)
                painter.setPen(colour("hairline"))
                painter.drawRect(place.adjusted(-1, -1, 0, 0))
            y += high + self._GAP
