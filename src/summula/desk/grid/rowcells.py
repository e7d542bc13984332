"""Painting the cells of a table's rows: the same few figures and names, in a face that is known."""

from __future__ import annotations

from typing import TYPE_CHECKING, NamedTuple

from PyQt6.QtCore import QLineF, QModelIndex, QRectF
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QStyle, QStyledItemDelegate, QStyleOptionViewItem

from summula.desk.theme import brush, pen, text_width
from summula.desk.widgets.writing import elided, write

if TYPE_CHECKING:
    from summula.desk.grid.rowsview import TableModel

_EDGE = 10  # pixels between a cell's edge and what is written in it
_SIZE = 13.0


class CellLook(NamedTuple):
    """How a cell reads: its text, the ink it is written in, whether it stands right, whether it is struck out."""

    text: str
    ink: str = "ink"
    right: bool = False
    struck: bool = False


class RowCells(QStyledItemDelegate):
    """Paints cells as `TableModel.look` tells."""

    def __init__(self, model: TableModel) -> None:
        super().__init__(model)
        self._model = model

    def paint(self, painter: QPainter | None, option: QStyleOptionViewItem, index: QModelIndex) -> None:
        if painter is None:
            return
        look, state, area = self._model.look(index.row(), index.column()), option.state, QRectF(option.rect)
        chosen = bool(state & QStyle.StateFlag.State_Selected)
        painter.fillRect(area, brush("plum wash" if chosen else "paper" if look.struck else "sheet"))
        painter.setPen(pen("plum" if chosen else look.ink))
        inner = area.adjusted(_EDGE, 0, -_EDGE, 0)
        text = elided(look.text, inner.width(), _SIZE)
        write(painter, inner, text, _SIZE, side="right" if look.right else "left")
        if look.struck and text:
            _strike(painter, inner, text, right=look.right)
        if state & QStyle.StateFlag.State_HasFocus:
            painter.setPen(pen("plum"))
            painter.drawRect(option.rect.adjusted(0, 0, -1, -1))


def _strike(painter: QPainter, area: QRectF, text: str, *, right: bool) -> None:
    y, wide = area.center().y() + 1, min(text_width(text, _SIZE), area.width())
    left = area.right() - wide if right else area.x()
    painter.drawLine(QLineF(left, y, left + wide, y))
