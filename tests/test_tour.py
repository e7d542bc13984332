"""The tour: from the empty page through the demo in six steps, or left on the way."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QPushButton
from pytestqt.qtbot import QtBot

from summula.desk.frame.tourbar import STOPS
from summula.desk.window import Window
from tests.hands import LEFT


def test_six_steps_through_the_demo(window: Window, qtbot: QtBot) -> None:
    button = next(each for each in window.pages.findChildren(QPushButton) if each.text() == "Take the tour")
    QTest.mouseClick(button, LEFT)
    qtbot.waitUntil(lambda: window.tour is not None and window.tour.isVisible(), timeout=60_000)
    tour = window.tour
    assert tour is not None and not tour.back.isEnabled() and len(STOPS) == 6
    for at, stop in enumerate(STOPS):
        assert window.session.page_id == stop.page and tour.text.text() == stop.text
        assert f"Step {at + 1} of 6" in tour.accessibleDescription()
        QTest.mouseClick(tour.next, LEFT)
    assert not tour.isVisible() and window.session.folio.tables  # the demo stays


def test_it_is_left_and_taken_again(on_demo: Window) -> None:
    on_demo.actions_.run("tour")
    tour = on_demo.tour
    assert tour is not None
    QTest.mouseClick(tour.next, LEFT)
    QTest.mouseClick(tour.back, LEFT)
    assert tour.at == 0 and on_demo.session.page_id == "b8"
    QTest.mouseClick(tour.leave, LEFT)
    assert not tour.isVisible()
    on_demo.actions_.run("tour")
    tour.next.setFocus()
    QTest.keyClick(tour.next, Qt.Key.Key_Escape)
    assert not tour.isVisible()
