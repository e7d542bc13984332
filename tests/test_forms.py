"""Every form of a step in the real window: filled in with keys, done, read again in its own form, and taken back."""

from __future__ import annotations

from collections.abc import Callable
from datetime import date
from typing import Any

import polars as pl
import pytest
from PyQt6.QtCore import Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QCheckBox, QComboBox, QLineEdit, QListWidget, QWidget
from pytestqt.qtbot import QtBot

from summula.core.reading.readers import table_from_frame
from summula.core.tables.table import Table
from summula.desk.preparing.stepforms import FORMS
from summula.desk.preparing.steppopover import FormPopover
from summula.desk.widgets.popover import Popover
from summula.desk.window import Window
from tests.hands import LEFT, settled
from tests.test_preparing import click, new_step, popup, shown_steps, values

ROWS = pl.DataFrame(
    {
        "Boat": ["Tern ", " gull", "Skua", "Skua", None, "TERN", "Gull", "Skua"],
        "Trip": ["N-S", "S-N", "N-S", "N-S", "E-W", "N-S", "S-N", "N-S"],
        "Jan": [1, 2, 3, 3, 5, 6, 7, 3],
        "Feb": [10, None, 30, 30, 50, 60, 70, 30],
        "When": [date(2024, month, 3) for month in (1, 2, 5, 5, 7, 11, 12, 5)],
        "Fee": [5.5, 15.5, 25.5, 25.5, 35.5, 45.5, 55.5, 25.5],
    }
)
Check = Callable[[Table, Callable[[str], list[Any]]], bool]
CASES: list[tuple[str, dict[str, Any], Check]] = [
    ("Clean text", {"Operation": "lower case", "In these fields (none: all text fields)": ["Boat"]},
     lambda t, v: {b.strip() for b in v("Boat") if b} == {"tern", "gull", "skua"} and "N-S" in v("Trip")),
    ("Replace text", {"Field": "Boat", "Find": "Skua", "Replace with": "Razorbill",
                      "Whole values only": True}, lambda t, v: v("Boat").count("Razorbill") == 3),
    ("Fill blanks", {"Field": "Boat", "With": "none"}, lambda t, v: v("Boat")[4] == "none"),
    ("Fill blanks", {"Field": "Feb", "From the row above": True}, lambda t, v: v("Feb")[1] == 10),
    ("Filter rows", {"Matching rows are": "dropped", "Condition": "Jan is at least 5"}, lambda t, v: v("Jan") == [1, 2, 3, 3, 3]),
    ("Remove duplicates", {}, lambda t, v: t.rows == 6),
    ("Remove duplicates", {"Compare these fields (none: all)": ["Trip"]}, lambda t, v: v("Trip") == ["N-S", "S-N", "E-W"]),
    ("Change type", {"Field": "Jan", "Type": "code"}, lambda t, v: t.field("Jan").kind == "code"),
    ("Rename field", {"Field": "Fee", "Name": "Charge"}, lambda t, v: t.has("Charge") and not t.has("Fee")),
    ("Remove fields", {"Fields to remove": ["Jan", "Feb"]}, lambda t, v: [f.name for f in t.fields] == ["Boat", "Trip", "When", "Fee"]),
    ("Choose and order fields", {"Fields to keep, in this order": ["Feb"]},
     lambda t, v: [f.name for f in t.fields] == ["Boat", "Trip", "Jan", "When", "Fee"]),
    ("Split text", {"Field": "Trip", "Separator": "-", "Names of the new fields": "From, To"},
     lambda t, v: v("From")[1] == "S" and v("To")[4] == "W"),
    ("Join text", {"Fields, in this order": ["Boat", "Trip"], "Separator": " / "},
     lambda t, v: v("Boat and Trip")[2] == "Skua / N-S"),
    ("Turn wide fields into rows", {"Fields to turn": ["Jan", "Feb"], "Field for their names": "Month",
                                    "Field for their values": "Guests"}, lambda t, v: t.rows == 15 and sum(v("Guests")) == 310),
    ("Turn wide fields into rows", {"Fields to turn": ["Jan", "Feb"], "Field for their names": "Month",
                                    "Field for their values": "Guests", "Keep rows with blank values": True},
     lambda t, v: t.rows == 16),
    ("Date part", {"Date": "When", "Part": "quarter (Q2)"}, lambda t, v: len(set(v("Quarter of When"))) == 4),
    ("Bands of numbers", {"Number": "Fee", "Limits": "10, 30", "Labels, from the lowest (optional)": "low, middle, high"},
     lambda t, v: [v("Fee band").count(each) for each in ("low", "middle", "high")] == [1, 4, 3]),
    ("Bands of numbers", {"Number": "Fee", "Limits": "every 10 from 10 to 40", "Name": "Range"},
     lambda t, v: len(set(v("Range"))) == 5),
]  # fmt: skip


def fill(form: FormPopover, label: str, wanted: Any) -> None:
    """Answer one part with keys, as a person would."""
    widgets = [w for w in form.findChildren(QWidget) if w.accessibleName() == label]
    widget = widgets[0] if widgets else next(b for b in form.findChildren(QCheckBox) if b.text() == label)
    widget.setFocus()
    if isinstance(widget, QCheckBox):
        QTest.keyClick(widget, Qt.Key.Key_Space)
    elif isinstance(widget, QComboBox):
        QTest.keyClick(widget, Qt.Key.Key_Home)
        while widget.currentText() != wanted:
            at = widget.currentIndex()
            QTest.keyClick(widget, Qt.Key.Key_Down)
            assert widget.currentIndex() == at + 1, f"{wanted} is not offered"
    elif isinstance(widget, QListWidget):
        for row in range(widget.count()):
            item = widget.item(row)
            assert item is not None
            if item.text() in wanted:
                widget.setCurrentRow(row)
                QTest.keyClick(widget, Qt.Key.Key_Space)
    else:
        assert isinstance(widget, QLineEdit)
        widget.selectAll()
        QTest.keyClicks(widget, wanted)


def test_every_form_is_tried() -> None:
    assert {title for title, _, _ in CASES} == {form.title for form in FORMS}


@pytest.mark.parametrize(("title", "answers", "holds"), CASES)
def test_a_form_makes_its_step_and_shows_it_again(
    window: Window, qtbot: QtBot, title: str, answers: dict[str, Any], holds: Check
) -> None:  # fmt: skip
    session = window.session
    session.take_table(table_from_frame("Boats", ROWS))
    session.turn_to("t1")
    window.activateWindow()
    settled()  # popovers close when the window becomes the active one
    begun = session.folio
    new_step(window, title)
    form = popup(FormPopover)
    for label, wanted in answers.items():
        fill(form, label, wanted)
    qtbot.waitUntil(lambda: bool(form.notice.text().strip()), timeout=5_000)  # what it would do is told before it is done
    assert session.folio == begun
    notice = form.notice.text()
    QTest.mouseClick(form.take, LEFT)
    assert not form.isVisible(), notice
    assert holds(session.table("t1"), lambda name: values(session, name))
    (step,) = session.folio.table("t1").steps

    QTest.mouseClick(window.pages.table.strip.chips()[1], LEFT)
    settled()
    click(popup(Popover), "Change …")
    settled()
    again = popup(FormPopover)
    assert again.step() == step and again.take.text() == "Apply"
    done = session.history
    QTest.mouseClick(again.take, LEFT)
    assert session.folio.table("t1").steps == (step,) and session.history.undo_name == done.undo_name
    session.undo()
    assert session.folio == begun and shown_steps(window) == ["rows as they were read"]
