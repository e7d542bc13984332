"""What the popovers of a phrase's words share: their foot, their typed line, their lists of fields."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, cast

from msgspec.structs import replace
from PyQt6.QtWidgets import (
    QHBoxLayout,
    QLineEdit,
)

from summula.core.phrases import editing
from summula.core.phrases.phrase import Phrase
from summula.core.refusal import Refusal, sentence
from summula.desk.theme import font, tint
from summula.desk.widgets.glyphs import KIND_WORDS
from summula.desk.widgets.picklist import Pick
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover, small_heading

if TYPE_CHECKING:
    from summula.core.tables.table import Table
    from summula.desk.phrase.phrasewords import Word

Say = Callable[[Phrase, str], None]  # takes the changed phrase and what was done


def remove_word(word: Word, phrase: Phrase, say: Say) -> None:
    """Take a word out of its phrase."""
    if word.role == "order":
        say(replace(phrase, order=None), "Remove sort")
    elif word.role == "option":
        option = {
            "with every member": {"every_member": False},
            "without subtotals": {"subtotals": True},
            "without totals": {"totals": True},
        }
        say(replace(phrase, **option[word.text]), f"Remove {word.text}")
    elif word.role in ("measures", "by", "across", "where", "keeping"):
        say(editing.take_away(phrase, cast(editing.Clause, word.clause), word.at), f"Remove {word.text}")


def field_choices(table: Table, kinds: tuple[str, ...] = ()) -> list[Pick]:
    return [
        Pick(f.name, f.name, KIND_WORDS[f.kind].split(":")[0], f.description)
        for f in table.fields
        if (not kinds or f.kind in kinds) and not f.hidden
    ]


def foot(popover: Popover, word: Word, phrase: Phrase, say: Say, count: int) -> None:
    """Earlier, later, take away: at the foot of a word's popover."""
    row = QHBoxLayout()
    clause = cast(editing.Clause, word.clause)
    for text, step, possible in (("← Earlier", -1, word.at > 0), ("Later →", 1, word.at < count - 1)):
        button = Button(text)
        button.setEnabled(possible)
        button.clicked.connect(
            lambda _, step=step: done(popover, say, editing.move(phrase, clause, word.at, step), f"Move {word.text}")
        )
        row.addWidget(button)
    row.addStretch(1)
    remove = Button("Remove")
    remove.clicked.connect(lambda: taken_away(popover, word, phrase, say))
    row.addWidget(remove)
    popover.column.addLayout(row)


def taken_away(popover: Popover, word: Word, phrase: Phrase, say: Say) -> None:
    popover.close()
    remove_word(word, phrase, say)


def done(popover: Popover, say: Say, phrase: Phrase, edit_name: str) -> None:
    popover.close()
    say(phrase, edit_name)


def trouble_label() -> Label:
    """A place for what is wrong; hidden while nothing is."""
    label = Label()
    label.setWordWrap(True)
    label.setFont(font(12))
    tint(label, "loss")
    label.hide()
    return label


def tell(label: Label, refusal: Refusal, popover: Popover) -> None:
    """Say in a popover what is wrong, and what to do."""
    label.setText(sentence(refusal))
    label.show()
    popover.adjustSize()


def typed(popover: Popover, text: str, name: str, read: Callable[[str], Phrase], say: Say, edit_name: str) -> QLineEdit:
    """A line in which the word can be typed; a fault is told below it."""
    line = QLineEdit(text)
    line.setAccessibleName(name)
    trouble = trouble_label()

    def take() -> None:
        try:
            changed = read(line.text())
        except Refusal as refusal:
            trouble.setText(str(refusal))
            trouble.show()
            popover.adjustSize()
            return
        done(popover, say, changed, edit_name)

    line.returnPressed.connect(take)
    popover.column.addWidget(small_heading("Edit as text"))
    popover.column.addWidget(line)
    popover.column.addWidget(trouble)
    return line
