"""Where a summary's totals and measures stand, and what totals are called. Every choice shows at once."""

from __future__ import annotations

from collections.abc import Callable

from msgspec.structs import replace
from PyQt6.QtWidgets import QComboBox, QLineEdit, QWidget

from summula.core.grids.layout import Layout
from summula.core.phrases.phrase import Phrase
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Label
from summula.desk.widgets.popover import Popover

Put = Callable[[Layout, Phrase], None]


class LayoutPopover(Popover):
    """`put` takes every change at once; the popover stays, so that one can try."""

    stays = True

    def __init__(self, parent: QWidget, layout: Layout, phrase: Phrase, put: Put) -> None:
        super().__init__(parent, "Totals and measures", 300)
        self.layout_, self.phrase, self._put = layout, phrase, put
        off = "none"
        self.subtotals = self._combo(
            "Subtotals",
            ["above their members", "below their members", off],
            2 if not phrase.subtotals else 0 if layout.subtotals == "above" else 1,
            self._set_subtotals,
        )
        self.bottom = self._combo(
            "Grand total",
            ["below", "above", off],
            2 if not phrase.totals else 0 if layout.bottom == "below" else 1,
            self._set_bottom,
        )
        self.across = self._combo(
            "Column totals",
            ["after their members", "before their members"],
            0 if layout.across == "after" else 1,
            lambda at: self._change(across="before" if at else "after"),
        )
        self.measures = self._combo(
            "Measures",
            ["as columns", "as lines"],
            0 if layout.measures == "columns" else 1,
            lambda at: self._change(measures="rows" if at else "columns"),
        )
        self.bottom_name = self._line("Label of the grand total", layout.bottom_name, "All", "bottom_name")
        self.subtotal_name = self._line("Label of subtotals", layout.subtotal_name, "All", "subtotal_name")
        self.across_name = self._line("Label of column totals", layout.across_name, "All", "across_name")

    def _label(self, text: str) -> None:
        label = Label(text)
        label.setFont(font(12))
        tint(label, "muted")
        self.column.addWidget(label)

    def _combo(self, name: str, texts: list[str], now: int, chosen: Callable[[int], None]) -> QComboBox:
        self._label(name)
        combo = QComboBox()
        combo.setAccessibleName(name)
        combo.addItems(texts)
        combo.setCurrentIndex(now)
        combo.activated.connect(chosen)
        self.column.addWidget(combo)
        return combo

    def _line(self, name: str, text: str, hint: str, what: str) -> QLineEdit:
        self._label(name)
        line = QLineEdit(text)
        line.setAccessibleName(name)
        line.setPlaceholderText(hint)
        line.setMaxLength(60)
        line.editingFinished.connect(lambda: self._change(**{what: " ".join(line.text().split())}))
        self.column.addWidget(line)
        return line

    def _set_subtotals(self, at: int) -> None:
        self.phrase = replace(self.phrase, subtotals=at < 2)
        self._change(**({"subtotals": ("above", "below")[at]} if at < 2 else {}))

    def _set_bottom(self, at: int) -> None:
        self.phrase = replace(self.phrase, totals=at < 2)
        self._change(**({"bottom": ("below", "above")[at]} if at < 2 else {}))

    def _change(self, **what: object) -> None:
        self.layout_ = replace(self.layout_, **what)
        self._put(self.layout_, self.phrase)
