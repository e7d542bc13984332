"""The line below tells of work that may outlast it."""

from __future__ import annotations

import pytest
from PyQt6 import sip
from PyQt6.QtCore import QObject
from pytestqt.qtbot import QtBot

from summula.desk.frame.statusline import StatusLine
from summula.desk.work import Work


def test_work_that_goes_on_tells_nobody_once_the_line_has_gone(qtbot: QtBot) -> None:
    owner = QObject()
    line, work = StatusLine(), Work(owner)
    line.attend(work, "reading …")
    sip.delete(line)
    with qtbot.captureExceptions() as faults:
        work.busy.emit(True)
        work.rows.emit(5)
        work.parts.emit(1, 2)
    assert faults == []


def test_rows_are_told_of_the_work_that_is_under_way(qtbot: QtBot, monkeypatch: pytest.MonkeyPatch) -> None:
    line, owner = StatusLine(), QObject()
    qtbot.addWidget(line)
    one, other = Work(owner), Work(owner)
    line.attend(one)
    line.attend(other)
    one._asked[one._newest] = (lambda _: None, lambda _: None)
    one.rows.emit(1_500)
    assert line.taken.text() == "1,500 rows so far …"
    other.rows.emit(9)  # stopped meanwhile
    assert line.taken.text() == "1,500 rows so far …"
