"""Printing a composition: the pages of the preview, on the printer that is chosen."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from PyQt6.QtCore import QMarginsF
from PyQt6.QtGui import QPageLayout, QPageSize, QPainter
from PyQt6.QtPrintSupport import QPrintDialog, QPrinter
from PyQt6.QtWidgets import QWidget

from summula.core.fields.figures import plural
from summula.core.refusal import Refusal
from summula.desk.theme import colour
from summula.desk.widgets.painter import paint_scene

if TYPE_CHECKING:
    from summula.core.composition.composition import Composition
    from summula.core.composition.paper import Paper
    from summula.desk.filewriting import FileWriting

_SIZES = {
    "A3": QPageSize.PageSizeId.A3,
    "A4": QPageSize.PageSizeId.A4,
    "A5": QPageSize.PageSizeId.A5,
    "Letter": QPageSize.PageSizeId.Letter,
    "Legal": QPageSize.PageSizeId.Legal,
}


def print_pages(parent: QWidget, paper: Paper, compose: Callable[[], Composition], writing: FileWriting) -> None:
    """Ask for a printer, then compose and print in a worker."""
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    lies = paper.lies is not False
    turned = QPageLayout.Orientation.Landscape if lies else QPageLayout.Orientation.Portrait
    margins = QMarginsF(paper.edge, paper.edge, paper.edge, paper.edge)
    printer.setPageLayout(QPageLayout(QPageSize(_SIZES[paper.size]), turned, margins, QPageLayout.Unit.Millimeter))
    printer.setCreator("Summula")
    if QPrintDialog(printer, parent).exec() != QPrintDialog.DialogCode.Accepted:
        return
    writing.do(lambda: put_on(printer, compose(), paper, writing.work.stepped))


def put_on(printer: QPrinter, composition: Composition, paper: Paper, watch: Callable[[int, int], None]) -> str:
    """Paint each page on the printer's, as large as it fits. Raises Refusal where the printer takes nothing."""
    printer.setDocName(composition.title)
    painter = QPainter()
    if not painter.begin(printer):
        raise Refusal("the printer does not respond", "check that it is on, or export a PDF")
    try:
        for at, page in enumerate(composition.pages):
            if at:
                printer.newPage()
            room = printer.pageLayout().paintRectPixels(printer.resolution())
            scale = min(room.width() / page.scene.width, room.height() / page.scene.height)
            painter.save()
            if not paper.white:
                painter.fillRect(0, 0, room.width(), room.height(), colour(page.ground))
            painter.translate((room.width() - page.scene.width * scale) / 2, 0)
            painter.scale(scale, scale)
            paint_scene(painter, page.scene)
            painter.restore()
            watch(at + 1, len(composition.pages))
    finally:
        painter.end()
    return f"{plural(len(composition.pages), 'page')} printed"
