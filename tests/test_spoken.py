"""What a screen reader is told of a grid and a chart: always of what is shown now."""

from __future__ import annotations

from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from pytestqt.qtbot import QtBot

from summula.desk.widgets.sceneview import SceneView
from summula.desk.window import Window
from tests.hands import layout_of, shown


def test_a_grid_tells_its_size_until_something_is_selected(on_demo: Window) -> None:
    told = set()
    for phrase in ("show sum of Takings by Route", "show sum of Passengers by Vessel across Ticket", "show mean of Takings by Weather"):
        page = shown(on_demo, phrase)
        layout, pivot = layout_of(page), page.pivot
        told.add(pivot.accessibleDescription())
        assert pivot.accessibleDescription().startswith(f"{len(layout.rows)} lines, {len(layout.columns)} column")
        pivot.select((0, 0), (0, 0))
        assert any(map(str.isdigit, pivot.accessibleDescription())) and pivot.accessibleDescription() not in told
    pivot.show_message("Nothing is left of the rows.")
    assert pivot.accessibleDescription() == "Nothing is left of the rows."


def test_a_chart_tells_how_many_marks_there_are_and_tells_the_whole_again(on_demo: Window, qtbot: QtBot) -> None:
    window = on_demo
    window.resize(1280, 800)
    window.show()
    board = window.session.folio.boards[0]
    window.session.turn_to(board.id)
    qtbot.waitUntil(lambda: any(view.scene is not None for view in window.findChildren(SceneView)))
    views = [view for view in window.findChildren(SceneView) if view.isVisible() and view.scene is not None]
    many = [view for view in views if view.scene is not None and len(view.scene.tagged()) > 24]
    assert many
    for view in many:
        assert view.scene is not None
        whole = view.accessibleDescription()
        assert whole.endswith(f"{len(view.scene.tagged()) - 24:,} more, told one by one with the arrow keys")
        view.setFocus()
        QTest.keyClick(view, Qt.Key.Key_Right)
        assert view.accessibleDescription() != whole
        view.clearFocus()
        assert view.accessibleDescription() == whole
