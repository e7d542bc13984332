"""What hands do in a window, and what eyes see there, for all tests of the real interface."""

from __future__ import annotations

import time
from pathlib import Path

import msgspec
from PyQt6.QtCore import QAbstractAnimation, QEvent, QObject, QPoint, QPointF, Qt, QThreadPool, QTimer
from PyQt6.QtGui import QDragEnterEvent, QDragMoveEvent, QDropEvent
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget
from pytestqt.qtbot import QtBot

from summula.core.charts.scene import Box, Scene
from summula.core.folio.model import with_summary
from summula.core.grids.measurestyle import MeasureSetting, MeasureStyle
from summula.core.phrases.phrase import figures_shown
from summula.core.summaries import parse, print_phrase
from summula.desk.frame.contents import field_mime
from summula.desk.frame.margin import Margin
from summula.desk.grid.gridlayout import GridLayout
from summula.desk.pages.summarypage import SummaryPage
from summula.desk.widgets.picklist import PickList
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window

LEFT = Qt.MouseButton.LeftButton


def take_in(window: Window, qtbot: QtBot, source: Path) -> None:
    """Open a table file: it is previewed, and Enter takes it in."""
    window.opening.open_path(source)
    qtbot.waitUntil(lambda: window.pages.currentWidget() is window.importing.preview_page and window.importing.preview_page.take.isEnabled(), timeout=10_000)
    qtbot.waitUntil(lambda: window.importing.preview_page.rows is not None, timeout=10_000)
    QTest.keyClick(window.importing.preview_page, Qt.Key.Key_Return)


def drop(target: QWidget, place: QPoint, field: str) -> None:
    """Drag a field onto a place of a widget and let go, as Qt tells it."""
    mime, none = field_mime(field), Qt.KeyboardModifier.NoModifier
    QApplication.sendEvent(target, QDragEnterEvent(place, Qt.DropAction.CopyAction, mime, LEFT, none))
    QApplication.sendEvent(target, QDragMoveEvent(place, Qt.DropAction.CopyAction, mime, LEFT, none))
    QApplication.sendEvent(target, QDropEvent(QPointF(place), Qt.DropAction.CopyAction, mime, LEFT, none))


def pick(popover: Popover, text: str) -> None:
    """Type into an open popover's list and take what is found."""
    picks = popover.findChild(PickList)
    assert picks is not None
    if picks.search.isVisible():
        QTest.keyClicks(picks.search, text)
        QTest.keyClick(picks.search, Qt.Key.Key_Return)
    else:
        rows = [picks.list.item(at) for at in range(picks.list.count())]
        picks.list.setCurrentItem(next(row for row in rows if row is not None and text in row.text()))
        QTest.keyClick(picks.list, Qt.Key.Key_Return)


def phrase_text(window: Window) -> str:
    page = window.session.page()
    assert page is not None
    return print_phrase(page[1].phrase)


def scene_of(window: Window, title: str) -> Scene:
    view = next(v for v in window.pages.board.panels.values() if v.panel.title == title)
    assert view.view.scene is not None
    return view.view.scene


def bars(scene: Scene) -> dict[str, float]:
    return {
        mark.tag.title: mark.tag.value for mark in scene.marks if isinstance(mark, Box) and mark.tag and not mark.ghost
    }


def shown(window: Window, text: str, **what: object) -> SummaryPage:
    """A new summary with this phrase, in view."""
    session = window.session
    made = session.new_summary("t1", parse(text, session.vocabulary("t1")), "Trial")
    if what:
        if "measure_styles" in what:
            figures = figures_shown(made.phrase)
            said = zip(figures, what.pop("measure_styles"), strict=False)  # type: ignore[call-overload]
            what["measures"] = tuple(MeasureSetting(measure, style) for measure, style in said if style != MeasureStyle())
        changed = msgspec.structs.replace(session.folio.summary(made.id), **what)
        session.edit(with_summary(session.folio, changed), "set")
    return window.pages.summary


def layout_of(page: SummaryPage) -> GridLayout:
    assert page.pivot.layout_ is not None
    return page.pivot.layout_


def said(page: SummaryPage) -> str:
    assert page.summary is not None
    return print_phrase(page.summary.phrase)


def margin_of(window: Window) -> Margin:
    """The margin as it is a frame later, when it has followed the page."""
    window.margin.lay_out()
    return window.margin


_PATIENCE = 90.0  # seconds until something is held to be stuck
_PAUSE = 1_000  # milliseconds: what waits longer waits for a person


def settled(*, work: bool = True) -> None:
    """Wait until nothing is under way any more: events, what is to be deleted, pauses before something, motion, and,
    unless a test holds it back, the work in other threads."""
    pool, until, quiet = QThreadPool.globalInstance(), time.monotonic() + _PATIENCE, 0
    assert pool is not None
    while quiet < 3:  # what is dealt with may ask for more
        QApplication.processEvents()
        QApplication.sendPostedEvents(None, QEvent.Type.DeferredDelete)
        assert time.monotonic() < until, f"still under way: {', '.join(_under_way()) or 'work'}"
        resting = not _under_way() and not (work and pool.activeThreadCount())
        quiet = quiet + 1 if resting else 0
        if not resting:
            time.sleep(0.002)


def _under_way() -> list[str]:
    """The timers that run out soon, and the motion that comes to an end, of all windows."""
    roots: list[QObject] = [*QApplication.topLevelWidgets()]
    pauses = [
        f"a timer of {type(each.parent()).__name__}"
        for root in roots
        for each in root.findChildren(QTimer)
        if each.isActive() and each.isSingleShot() and each.interval() <= _PAUSE
    ]
    moving = [
        f"a motion of {type(each.parent()).__name__}"
        for root in roots
        for each in root.findChildren(QAbstractAnimation)
        if each.state() == QAbstractAnimation.State.Running and each.totalDuration() >= 0  # not what goes on for ever
    ]
    return pauses + moving
