"""Long work off the UI thread. A newer request for the same place makes an older one stop mattering."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any, NamedTuple

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from summula.core.reading.readas import Stopped
from summula.core.refusal import Refusal

QUICK_FIGURES = 40_000  # so many are worked out and laid out as soon
QUICK_STEP_ROWS = 20_000  # so many are prepared as soon: a kind may be told anew, of texts that are all different
QUICK_TEXTS = 4_000  # so many are looked through as soon
QUICK_ROWS = 150_000  # an answer about so many rows takes well under 50 ms, and needs no worker

Task = Callable[[], Any]

_thread = threading.local()  # which piece of work runs in this thread


class _Outcome(NamedTuple):
    """What came of a piece of work. The work itself goes along: what it holds of the window must be let go in the
    window's own thread."""

    number: int
    work: Task
    result: Any = None
    refusal: Refusal | None = None
    stopped: bool = False


class _Post(QObject):
    """Carries outcomes from the workers to the UI thread."""

    came = pyqtSignal(object)


class _Job(QRunnable):
    def __init__(self, number: int, work: Task, post: _Post) -> None:
        super().__init__()
        self.number, self.work, self.post = number, work, post
        self.setAutoDelete(True)

    def run(self) -> None:
        _thread.number = self.number
        outcome = _done(self.number, self.work)
        del self.work
        with contextlib.suppress(RuntimeError):  # the window has closed meanwhile: nobody waits for it
            self.post.came.emit(outcome)


def _done(number: int, work: Task) -> _Outcome:
    try:
        return _Outcome(number, work, work())
    except Stopped:
        return _Outcome(number, work, stopped=True)
    except Refusal as refusal:
        return _Outcome(number, work, refusal=refusal)
    except MemoryError:
        notice = Refusal("there is not enough memory for this", "ask for less, or close other programs")
        return _Outcome(number, work, refusal=notice)
    except BaseException as fault:  # a defect of ours, or a library's panic, told rather than swallowed
        notice = Refusal(f"something went wrong here ({type(fault).__name__}: {fault})", "please report it")
        return _Outcome(number, work, refusal=notice)


class Work(QObject):
    """Runs one piece of work at a time for one place; only the newest one's answer is handed on."""

    busy = pyqtSignal(bool)
    rows = pyqtSignal(int)  # how many rows the work has come to, where it tells
    parts = pyqtSignal(int, int)  # how many parts are done, of how many

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._newest = 0
        self._asked: dict[int, tuple[Callable[[Any], None], Callable[[Refusal], None]]] = {}
        self._post = _Post()  # of no parent: a worker may come back to it when the window has gone
        self._post.came.connect(self._take)

    def ask(self, work: Task, done: Callable[[Any], None], refused: Callable[[Refusal], None]) -> None:
        """Do `work` in another thread, then call `done` or `refused` in this one."""
        self._newest += 1
        self._asked[self._newest] = (done, refused)
        self.busy.emit(True)
        pool = QThreadPool.globalInstance()
        assert pool is not None
        pool.start(_Job(self._newest, work, self._post))

    def _take(self, outcome: _Outcome) -> None:
        done, refused = self._asked.pop(outcome.number)
        if outcome.number != self._newest or outcome.stopped:
            return
        self.busy.emit(False)
        if outcome.refusal is not None:
            refused(outcome.refusal)
        else:
            done(outcome.result)

    @property
    def waits(self) -> bool:
        """Whether the newest piece of work is still under way."""
        return self._newest in self._asked

    def progressed(self, rows: int) -> None:
        """Called by the work in its own thread: tells how far it has come, and stops it where it is not wanted."""
        if getattr(_thread, "number", self._newest) != self._newest:
            raise Stopped
        self.rows.emit(rows)

    def stepped(self, done: int, of: int) -> None:
        """As `progressed`, for work that is done part by part."""
        if getattr(_thread, "number", self._newest) != self._newest:
            raise Stopped
        self.parts.emit(done, of)

    def cancel(self) -> None:
        """Whatever runs now is not waited for any more."""
        self._newest += 1
        self.busy.emit(False)
