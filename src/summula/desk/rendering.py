"""Drawing a page without showing a window."""

from __future__ import annotations

import os
from pathlib import Path

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QPixmap

from summula.core.folio.opened import Opened
from summula.core.refusal import Refusal, nearest
from summula.desk.app import application


def page_picture(opened: Opened, wanted: str, size: tuple[int, int]) -> QPixmap:
    """The page called `wanted` (or with that number in the Contents), `size` pixels in all."""
    os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")
    application()
    from PyQt6.QtCore import QThreadPool
    from PyQt6.QtWidgets import QApplication

    from summula.desk.pages.summarypage import SummaryPage
    from summula.desk.window import Window

    window = Window()
    window.session.adopt(opened)
    window.session.turn_to(_page_id(opened, wanted))
    page = window.pages.currentWidget()
    assert page is not None
    if isinstance(page, SummaryPage):
        page.for_readers()
    page.setParent(None)  # the page alone, without the frame around it
    page.setAttribute(Qt.WidgetAttribute.WA_DontShowOnScreen, True)
    page.resize(*size)
    page.show()
    pool = QThreadPool.globalInstance()
    for _ in range(3):  # a large table is answered in a worker
        QApplication.processEvents()
        if pool is not None:
            pool.waitForDone()
    QApplication.processEvents()
    picture = page.grab()
    page.hide()
    window.deleteLater()
    return picture


def render_page(opened: Opened, wanted: str, to: Path, size: tuple[int, int]) -> None:
    if not page_picture(opened, wanted, size).save(str(to), "PNG"):
        raise Refusal(f"'{to}' could not be written", "choose another folder")


def _page_id(opened: Opened, wanted: str) -> str:
    pages = [page for _, page in opened.folio.pages()]
    for number, page in enumerate(pages, start=1):
        if wanted == str(number) or page.name.casefold() == wanted.casefold():
            return page.id
    guess = nearest(wanted, [page.name for page in pages])
    remedy = f"did you mean '{guess}'?" if guess else f"give its name, or a number from 1 to {len(pages)}"
    raise Refusal(f"the folio has no page '{wanted}'", remedy)
