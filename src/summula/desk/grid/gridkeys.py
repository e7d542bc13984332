"""What the keys do on a pivot grid: move, select, fold, order, ask for the rows behind."""

from __future__ import annotations

from typing import TYPE_CHECKING

from PyQt6.QtCore import Qt
from PyQt6.QtGui import QKeyEvent, QKeySequence

from summula.desk.grid.gridlayout import ROW, GridLayout

if TYPE_CHECKING:
    from summula.desk.grid.gridselection import Cell
    from summula.desk.grid.pivotgrid import PivotGrid

Key = Qt.Key


def key_pressed(grid: PivotGrid, layout: GridLayout, event: QKeyEvent) -> bool:
    """Do what a key says on a grid that shows rows; False where it says nothing here."""
    if event.matches(QKeySequence.StandardKey.Copy):
        grid.copy()
        return True
    last = (len(layout.rows) - 1, len(layout.lefts) - 1)
    if event.matches(QKeySequence.StandardKey.SelectAll):
        grid.select((0, 0), last)
        return True
    at = grid.selection.cursor if grid.selection is not None else (0, 0)
    key, held = Key(event.key()), event.modifiers()
    shift = bool(held & Qt.KeyboardModifier.ShiftModifier)
    line = layout.line(at[0])
    if held & Qt.KeyboardModifier.AltModifier and key in (Key.Key_Up, Key.Key_Down):
        grid.step_member(-1 if key == Key.Key_Up else 1)
    elif key == Key.Key_Space and held & Qt.KeyboardModifier.ControlModifier:
        grid.choose_column(at[1])
    elif key == Key.Key_Space and shift:
        grid.select((at[0], 0), (at[0], last[1]))
    elif _moved(grid, key, at, last, held=shift):
        pass
    elif key in (Key.Key_Plus, Key.Key_Minus, Key.Key_Space) and line.foldable:
        if key == Key.Key_Space or (key == Key.Key_Plus) == line.folded:
            grid.folded.emit(line.path, False)
    elif key in (Key.Key_Return, Key.Key_Enter) and grid.selection is not None:
        grid.rows_asked.emit()
    else:
        return False
    return True


def _moved(grid: PivotGrid, key: Qt.Key, at: Cell, last: Cell, *, held: bool) -> bool:
    """Move the cursor, where the key says so."""
    page = max(1, (grid.view().height() - grid.head_room()[1]) // ROW - 1)
    steps = {
        Key.Key_Up: (-1, 0),
        Key.Key_Down: (1, 0),
        Key.Key_Left: (0, -1),
        Key.Key_Right: (0, 1),
        Key.Key_PageUp: (-page, 0),
        Key.Key_PageDown: (page, 0),
        Key.Key_Home: (0, -last[1] - 1),
        Key.Key_End: (0, last[1] + 1),
    }
    if key not in steps:
        return False
    step = steps[key] if grid.selection is not None else (0, 0)
    moved = (min(max(at[0] + step[0], 0), last[0]), min(max(at[1] + step[1], 0), last[1]))
    grid.select(grid.selection.anchor if held and grid.selection is not None else moved, moved)
    grid.reveal(*moved)
    return True
