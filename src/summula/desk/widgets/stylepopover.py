"""Settings of a chart, to be tried: every choice shows at once, and the form or the popover around it stays."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from functools import partial

import msgspec
from PyQt6.QtWidgets import QComboBox, QLineEdit, QVBoxLayout, QWidget

from summula.core.charts.settings import Editor, Setting, Value, default_of, value_of, with_value
from summula.core.charts.style import ChartStyle
from summula.core.fields.figures import typed_number
from summula.core.refusal import Refusal, sentence
from summula.desk.theme import font, tint
from summula.desk.widgets.plaintext import Button, CheckBox, Label, set_tip
from summula.desk.widgets.popover import Popover, small_heading

Changed = Callable[..., None]  # a value; whether it is still being typed
Put = Callable[[ChartStyle, str, bool], None]  # the style, the key that was changed, whether it is still being typed


class Offered(msgspec.Struct, frozen=True):
    """What a folio has that settings may name: its levers; its pictures, by id and name; `add` asks for a picture's
    file and gives the id it is kept under, empty where none is chosen."""

    levers: tuple[str, ...] = ()
    pictures: tuple[tuple[str, str], ...] = ()
    add: Callable[[], str] | None = None


NOTHING_OFFERED = Offered()


def _choice(setting: Setting, value: Value, changed: Changed, offered: Offered) -> QWidget:
    box = QComboBox()
    box.addItems([words for _, words in setting.choices])
    values = [each for each, _ in setting.choices]
    box.setCurrentIndex(values.index(str(value)))
    box.activated.connect(lambda at: changed(values[at]))
    return box


def _lever(setting: Setting, value: Value, changed: Changed, offered: Offered) -> QWidget:
    box = QComboBox()
    values = ["", *offered.levers]
    box.addItems(["none", *offered.levers])
    box.setCurrentIndex(values.index(str(value)) if value in values else -1)
    box.activated.connect(lambda at: changed(values[at]))
    return box


def _picture(setting: Setting, value: Value, changed: Changed, offered: Offered) -> QWidget:
    box = QComboBox()
    values = ["", *(key for key, _ in offered.pictures)]
    box.addItems(["none", *(name for _, name in offered.pictures), *(["From a file …"] if offered.add else [])])
    box.setCurrentIndex(values.index(str(value)) if value in values else -1)

    def chosen(at: int) -> None:
        if at < len(values):
            changed(values[at])
        elif offered.add is not None and (added := offered.add()):
            changed(added)
        else:
            box.setCurrentIndex(values.index(str(value)) if value in values else -1)

    box.activated.connect(chosen)
    return box


def _flag(setting: Setting, value: Value, changed: Changed, offered: Offered) -> QWidget:
    box = CheckBox(setting.words)
    box.setChecked(bool(value))
    box.toggled.connect(changed)
    return box


def _line(setting: Setting, value: Value, changed: Changed, offered: Offered) -> QWidget:
    line = QLineEdit("" if value is None else f"{value:g}" if isinstance(value, float | int) else str(value))
    line.setPlaceholderText({"number": "automatic", "pattern": "#,##0.0"}.get(setting.editor, ""))

    def entered() -> None:
        text = line.text().strip()
        if setting.editor != "number":
            changed(text)
            return
        plain = text.replace(",", "").replace("\N{MINUS SIGN}", "-")
        try:
            changed(float(plain) if plain else None)
        except ValueError:
            changed(text)  # which is refused in a sentence

    def typed(text: str) -> None:
        """While it is typed, what can be shown is; what cannot is told at the end."""
        if setting.editor == "text":
            changed(text.strip(), typing=True)
        elif setting.editor == "number":
            number = typed_number(text)
            if (
                number is not None
                and setting.low <= number <= setting.high
                and (not setting.whole or number == int(number))
            ):
                changed(number, typing=True)

    line.textEdited.connect(typed)
    line.editingFinished.connect(entered)
    return line


EDITORS: dict[Editor, Callable[[Setting, Value, Changed, Offered], QWidget]] = {
    "choice": _choice,
    "number": _line,
    "text": _line,
    "pattern": _line,
    "flag": _flag,
    "lever": _lever,
    "picture": _picture,
}


class StyleForm(QWidget):
    """The settings of some groups; `put` takes every change at once."""

    def __init__(
        self, settings: Sequence[Setting], style: ChartStyle, put: Put,
        offered: Offered = NOTHING_OFFERED, *, titled: bool = False,
    ) -> None:  # fmt: skip
        super().__init__()
        self.style_, self._put = style, put
        self.editors: dict[str, QWidget] = {}
        column = QVBoxLayout(self)
        column.setContentsMargins(0, 10 if titled else 0, 0, 0)
        column.setSpacing(6)
        group = ""
        for setting in settings:
            if titled and setting.group != group:
                if group:
                    column.addSpacing(10)
                group = setting.group
                column.addWidget(small_heading(group))
            if setting.editor != "flag":
                label = Label(setting.words)
                label.setFont(font(12))
                tint(label, "muted")
                column.addWidget(label)
            changed = partial(self._change, setting.key)
            editor = EDITORS[setting.editor](setting, value_of(style, setting.key), changed, offered)
            editor.setAccessibleName(setting.words)
            set_tip(editor, setting.hint)
            column.addWidget(editor)
            self.editors[setting.key] = editor
        self.wrong = Label()
        self.wrong.setWordWrap(True)
        tint(self.wrong, "loss")
        self.wrong.hide()
        column.addWidget(self.wrong)

    def _change(self, key: str, value: Value, typing: bool = False) -> None:
        if value == value_of(self.style_, key):
            return
        try:
            self.style_ = with_value(self.style_, key, value)
        except Refusal as refusal:
            self.wrong.setText(sentence(refusal))
            self.wrong.show()
            return
        self.wrong.hide()
        self._put(self.style_, key, typing)


class StylePopover(Popover):
    """One group of settings, near the words that opened it."""

    stays = True

    def __init__(
        self, parent: QWidget, group: str, settings: list[Setting], style: ChartStyle,
        put: Put, offered: Offered = NOTHING_OFFERED,
    ) -> None:  # fmt: skip
        super().__init__(parent, group, 270)
        self.form = StyleForm(settings, style, put, offered)
        self.editors, self.wrong = self.form.editors, self.form.wrong
        self.column.addWidget(self.form)
        changed = [each for each in settings if value_of(style, each.key) != default_of(each.key)]
        if changed:
            back = Button(f"Reset {group.lower()}")
            back.clicked.connect(lambda: self._reset(changed, put))
            self.column.addWidget(back)

    def _reset(self, changed: Sequence[Setting], put: Put) -> None:
        style = self.form.style_
        for each in changed:
            style = with_value(style, each.key, default_of(each.key))
        self.close()
        put(style, changed[0].key, False)

    def focus_in(self) -> None:
        if self.editors:
            next(iter(self.editors.values())).setFocus()
