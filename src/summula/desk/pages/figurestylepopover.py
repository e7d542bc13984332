"""How a measure's figures look in the grid: pattern, scale, sign marks, bars. Every choice shows at once."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING

from msgspec.structs import replace
from PyQt6.QtWidgets import QComboBox, QLineEdit, QWidget

from summula.core.grids.measurestyle import SCALES, MeasureStyle, styled
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import CheckBox, Label
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.fields.figures import FigureStyle

_PATTERNS = (
    ("as the measure", ""), ("whole numbers", "#,##0"), ("one decimal", "#,##0.0"), ("two decimals", "#,##0.00"),
    ("pounds", "£#,##0"), ("euros", "€#,##0"), ("percent", "0.0%"), ("with a sign", "+#,##0;−#,##0;0"),
    ("negative in brackets", "#,##0;(#,##0);–"),
)  # fmt: skip
_FILLS = (("no shading", ""), ("bars", "bars"), ("a shade", "shade"))


class FigureStylePopover(Popover):
    """`put` takes every change at once; the popover stays, so that one can try."""

    stays = True

    def __init__(
        self, parent: QWidget, name: str, style: FigureStyle, examples: list[float], own: MeasureStyle,
        put: Callable[[MeasureStyle], None], levers: tuple[str, ...] = (),
    ) -> None:  # fmt: skip
        super().__init__(parent, f"Figures of {name}", 290)
        self.style_, self.examples, self.own, self._put, self.levers = style, examples, own, put, levers
        self.pattern = self._combo("Pattern", [text for text, _ in _PATTERNS])
        places = [at for at, (_, each) in enumerate(_PATTERNS) if each == own.pattern]
        self.pattern.setCurrentIndex(places[0] if places else -1)
        self.pattern.activated.connect(lambda at: self._written(_PATTERNS[at][1]))
        self.line = QLineEdit(own.pattern)
        self.line.setPlaceholderText("or write one: #,##0.0;(#,##0.0);–")
        self.line.setAccessibleName("pattern as text")
        self.line.returnPressed.connect(lambda: self._written(self.line.text().strip()))
        self.column.addWidget(self.line)
        self.scale = self._combo("Scale", ["in full", "in thousands", "in millions", "in billions"])
        self.scale.setCurrentIndex(list(SCALES).index(own.scale))
        self.scale.activated.connect(lambda at: self._change(scale=list(SCALES)[at]))
        self.fill = self._combo("Behind the figures", [text for text, _ in _FILLS])
        self.fill.setCurrentIndex([each for _, each in _FILLS].index(own.fill))
        self.fill.activated.connect(lambda at: self._change(fill=_FILLS[at][1]))
        self.signs = CheckBox("▲ ▼ and the colours of gain and loss")
        self.signs.setChecked(own.signs)
        self.signs.toggled.connect(lambda on: self._change(signs=on))
        self.column.addWidget(self.signs)
        self.sparkline = CheckBox("A small line across the columns")
        self.sparkline.setChecked(own.sparkline)
        self.sparkline.toggled.connect(lambda on: self._change(sparkline=on))
        self.column.addWidget(self.sparkline)
        goal = Label("Goal (● reached, ◐ near, ○ missed)")
        goal.setFont(font(12))
        tint(goal, "muted")
        self.column.addWidget(goal)
        self.goal = QLineEdit(own.goal_lever or ("" if own.goal is None else f"{own.goal:g}"))
        self.goal.setPlaceholderText("a figure, such as 50000, or a lever's name")
        self.goal.setAccessibleName("goal")
        self.goal.returnPressed.connect(self._goal_written)
        self.column.addWidget(self.goal)
        self.under = CheckBox("Lower is better")
        self.under.setChecked(own.under)
        self.under.toggled.connect(lambda on: self._change(under=on))
        self.column.addWidget(self.under)
        self.example = Label()
        self.example.setFont(font(13, 600))
        self.example.setAccessibleName("example")
        self.example.setWordWrap(True)
        self.column.addWidget(self.example)
        self._show()

    def _combo(self, name: str, texts: list[str]) -> QComboBox:
        label = Label(name)
        label.setFont(font(12))
        tint(label, "muted")
        combo = QComboBox()
        combo.setAccessibleName(name)
        combo.addItems(texts)
        self.column.addWidget(label)
        self.column.addWidget(combo)
        return combo

    def _written(self, pattern: str) -> None:
        try:
            figures = not pattern or "#" in pattern or "0" in pattern
            styled(self.style_, MeasureStyle(pattern)).text(-1234.5)
        except ValueError:
            figures = False
        if not figures:
            self.example.setText("This is not a number pattern: it has # and 0 for figures, as #,##0.00 has.")
            tint(self.example, "loss")
            return
        self.line.setText(pattern)
        self._change(pattern=pattern)

    def _goal_written(self) -> None:
        stated = " ".join(self.goal.text().split())
        lever = next((name for name in self.levers if name.casefold() == stated.casefold()), "")
        text = stated.replace(",", "").replace(" ", "")
        try:
            goal = float(text) if text and not lever else None
        except ValueError:
            known = f" The levers are {', '.join(self.levers)}." if self.levers else ""
            self.example.setText(f"“{stated}” is neither a figure nor a lever.{known}")
            tint(self.example, "loss")
            return
        self._change(goal=goal, goal_lever=lever)

    def _change(self, **what: object) -> None:
        self.own = replace(self.own, **what)
        self._show()
        self._put(self.own)

    def _show(self) -> None:
        style = styled(self.style_, self.own)
        tint(self.example, "ink")
        texts = [style.text(value, unit=True) for value in self.examples]
        self.example.setText("For example:  " + "   ".join(texts))
