"""The popovers of keeping and of ordering."""

from __future__ import annotations

from typing import TYPE_CHECKING, Any, cast

from msgspec.structs import replace
from PyQt6.QtWidgets import (
    QComboBox,
    QHBoxLayout,
    QLineEdit,
    QSpinBox,
    QWidget,
)

from summula.core.fields.heading import Heading
from summula.core.phrases import editing
from summula.core.phrases.phrase import Aggregate, Keep, Measure, Order, Phrase
from summula.desk.phrase.phrasewords import Word, heading_words, measure_words
from summula.desk.phrase.popoverparts import Say, done, foot
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, CheckBox
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.language.vocabulary import Vocabulary


def keep_popover(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    keep, table = phrase.keeping[word.at], vocabulary.table
    popover = Popover(anchor, "Keep", 320)
    row = QHBoxLayout()
    end = QComboBox()
    end.setAccessibleName("top or bottom")
    end.addItems(["top", "bottom"])
    end.setCurrentText(keep.end)
    number = QSpinBox()
    number.setAccessibleName("how many")
    number.setRange(1, 100 if keep.percent else 100_000)
    number.setValue(int(keep.number))
    unit = QComboBox()
    unit.setAccessibleName("members or percent")
    unit.addItems(["members", "percent"])
    unit.setCurrentIndex(int(keep.percent))
    unit.activated.connect(lambda at: number.setRange(1, 100 if at else 100_000))
    row.addWidget(end)
    row.addWidget(number)
    row.addWidget(unit)
    popover.column.addLayout(row)
    heading = QComboBox()
    heading.setAccessibleName("of which heading")
    options = list(
        dict.fromkeys(
            [
                keep.heading,
                *phrase.by,
                *phrase.across,
                *(Heading(f.name) for f in table.fields if f.kind == "category"),
            ]
        )
    )
    for each in options:
        heading.addItem(heading_words(each), each)
    measure = QComboBox()
    measure.setAccessibleName("by which figure")
    plain = [Measure(m.calculation) for m in phrase.measures]
    for figure in dict.fromkeys([keep.measure, *plain, Measure(Aggregate("rows"))]):
        measure.addItem("by " + measure_words(figure, ()), figure)
    each_in = QComboBox()
    each_in.setAccessibleName("in each")
    each_in.addItem("overall", None)
    for each in (*phrase.by, *phrase.across):
        each_in.addItem(f"in each {heading_words(each)}", each)
        if each == keep.each:
            each_in.setCurrentIndex(each_in.count() - 1)
    gather = CheckBox("group the rest")
    gather.setChecked(keep.gather)
    rest = QLineEdit(keep.gathered_name or "")
    rest.setAccessibleName("name of the rest")
    rest.setPlaceholderText("label of the rest, such as Others")
    rest.setEnabled(keep.gather)
    gather.toggled.connect(rest.setEnabled)
    for box in (heading, measure, each_in, gather, rest):
        popover.column.addWidget(box)
    take = Button("Apply")
    take.setProperty("strong", "true")

    def taken() -> None:
        each = each_in.currentData()
        new = Keep(
            cast(Any, end.currentText()),
            float(number.value()),
            heading.currentData(),
            measure.currentData(),
            unit.currentIndex() == 1,
            each if each != heading.currentData() else None,
            gather.isChecked(),
            (" ".join(rest.text().split()) or None) if gather.isChecked() else None,
        )
        done(popover, say, editing.put(phrase, "keeping", word.at, new), "Change what is kept")

    take.clicked.connect(taken)
    popover.column.addWidget(take)
    foot(popover, word, phrase, say, len(phrase.keeping))
    return popover


def order_choices(phrase: Phrase) -> list[Pick]:
    choices = [Pick("original order", None)]
    for measure in phrase.measures:
        plain = Measure(measure.calculation)
        name = measure_words(plain, ())
        choices.append(Pick(f"{name}, largest first", Order(plain, True)))
        choices.append(Pick(f"{name}, smallest first", Order(plain, False)))
    choices += [
        Pick(f"{heading_words(h)}, backwards", Order(heading=h, backwards=True)) for h in (*phrase.by, *phrase.across)
    ]
    return list({choice.text: choice for choice in choices}.values())


def order_popover(anchor: QWidget, word: Word, phrase: Phrase, vocabulary: Vocabulary, say: Say) -> Popover:
    popover = Popover(anchor, "Ordered", 300)
    picks = PickList(order_choices(phrase), name="orders", search=False)
    picks.picked.connect(lambda order: done(popover, say, replace(phrase, order=order), "Change sort"))
    popover.column.addWidget(picks)
    picks.focus_in()
    return popover
