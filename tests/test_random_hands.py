"""Hands that do not know what they do: clicks, drags, keys, menus and undo at random end in no exception."""

from __future__ import annotations

import random

import msgspec
import pytest
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QWidget

from summula.core.folio.model import with_lever, with_summary
from summula.core.grids.layout import Layout
from summula.core.grids.measurestyle import MeasureStyle
from summula.core.phrases.lever import LeverSetting
from summula.core.summaries import parse, print_phrase
from summula.desk.window import Window
from tests.hands import LEFT, shown

TEXTS = (
    'show sum of Takings by Route then Vessel across year of "Sailed on" then quarter of "Sailed on"',
    'show median of Takings and rows by "Delay (min)" in bands of 10 across Ticket with every member',
    'show sum of Takings as share of row by month of "Sailed on" across year of "Sailed on" keeping top 3 Route by rows',
    "show sum of Takings by Route then Vessel then Ticket without subtotals", "show rows across Route", "show rows",
)  # fmt: skip
KEYS = (
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_Plus,
    Qt.Key.Key_Minus, Qt.Key.Key_End, Qt.Key.Key_PageDown,
)  # fmt: skip
MODIFIERS = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier,
    Qt.KeyboardModifier.ControlModifier,
)  # fmt: skip


@pytest.mark.parametrize("seed", [5, 6])
def test_random_hands_break_nothing(seed: int, on_demo: Window) -> None:
    dice, session = random.Random(seed), on_demo.session
    levers = [lever.name for lever in session.folio.levers]
    session.edit(with_lever(session.folio, LeverSetting("L", 0.04, -0.3, 0.3, 0.02)), "lever")
    for text in TEXTS:
        measure_styles = (MeasureStyle(sparkline=dice.random() < 0.5, signs=dice.random() < 0.5, goal_lever="L"),)
        layout = Layout(dice.choice(["above", "below"]), across=dice.choice(["after", "before"]), measures=dice.choice(["rows", "columns"]))
        page = shown(on_demo, text, measure_styles=measure_styles, layout=layout)
    summaries = [each.id for each in session.folio.summaries if each.name.startswith("Trial")]

    grid = page.pivot
    view = grid.view()

    def somewhere(widget: QWidget) -> QPoint:
        return QPoint(dice.randrange(max(widget.width(), 1)), dice.randrange(max(min(widget.height(), 400), 1)))

    def drag(widget: QWidget, *places: QPoint) -> None:
        QTest.mousePress(widget, LEFT, pos=places[0])
        for place in places[1:]:
            QTest.mouseMove(widget, place)
        QTest.mouseRelease(widget, LEFT, pos=places[-1])

    def menu() -> None:
        if grid.layout_ is not None:
            entries = [each for each in grid.menu_at(somewhere(view)).actions() if each.text() and each.menu() is None]
            if entries:
                dice.choice(entries).trigger()

    def word() -> None:
        button = dice.choice(page.phrase.buttons())
        to = button.mapFromGlobal(page.mapToGlobal(somewhere(page)))
        drag(button, button.rect().center(), button.rect().center() + QPoint(15, 0), to)

    def lay_out() -> None:
        assert page.summary is not None
        other = msgspec.structs.replace(page.summary.layout, measures=dice.choice(["rows", "columns"]))
        session.edit(with_summary(session.folio, msgspec.structs.replace(page.summary, layout=other)), "lay out")

    grid_actions = [
        lambda: QTest.mouseClick(view, LEFT, dice.choice(MODIFIERS), somewhere(view)),
        lambda: drag(view, somewhere(view), somewhere(view), somewhere(view)),
        lambda: QTest.mouseDClick(view, LEFT, pos=somewhere(view)),
        lambda: QTest.keyClick(grid, dice.choice(KEYS), dice.choice(MODIFIERS)),
        menu, word, lay_out, session.undo, session.redo, page.grid_actions.back, page.swap, page.grid_actions.fold_all,
        lambda: page.draw_as(dice.choice(["grid", "grid", "lines", "bars"])),  # type: ignore[arg-type]
    ]  # fmt: skip
    for _ in range(220):
        if session.page_id not in summaries or dice.random() < 0.04:
            session.turn_to(dice.choice(summaries))
        popover = QApplication.activePopupWidget()
        if popover is not None:
            popover.close()
        dice.choice(grid_actions)()
        QApplication.processEvents()
    # Whatever came of it can be read, and goes back all the way.
    for summary in session.folio.summaries:
        words = session.vocabulary(summary.table)
        assert parse(print_phrase(summary.phrase), words) == summary.phrase
    while session.history.undo_name:
        session.undo()
    assert [lever.name for lever in session.folio.levers] == levers
