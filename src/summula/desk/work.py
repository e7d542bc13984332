"""Long work off the UI thread. A newer request for the same place makes an older one stop mattering."""

from __future__ import annotations

import contextlib
import threading
from collections import deque
from collections.abc import Callable
from typing import Any, NamedTuple

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from summula.core.refusal import Refusal
from summula.core.watch import Stopped

# What may be expected soon.
QUICK_FIGURES = 40_000  # so many are worked out and laid out as soon
QUICK_TEXTS = 4_000  # so many are looked through as soon
QUICK_ROWS = 150_000  # an answer about so many rows takes well under 50 ms
_THREADS = 8  # at once: what takes long must not keep a short answer waiting

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
    """Carries outcomes from the workers to the UI thread. They lie here until they are fetched: a worker that handed
    one over itself might be the last to hold it, and with it what is of the window."""

    came = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.outcomes: deque[_Outcome] = deque()


class _Job(QRunnable):
    """`awaited`: the window's thread stands by for the outcome; else, or when it no longer does, the post brings it."""

    def __init__(self, number: int, work: Task, post: _Post, *, awaited: bool) -> None:
        super().__init__()
        self.number, self.work, self.post = number, work, post
        self._awaited, self._outcome = awaited, threading.Condition()
        self._found: _Outcome | None = None
        self.setAutoDelete(True)

    def run(self) -> None:
        _thread.number = self.number
        outcome = _done(self.number, self.work)
        del self.work
        with self._outcome:
            if self._awaited:
                self._found = outcome
                del outcome  # the last to hold it must be the window's thread
                self._outcome.notify()
                return
        self.post.outcomes.append(outcome)
        del outcome
        with contextlib.suppress(RuntimeError):  # the window has closed meanwhile: nobody waits for it
            self.post.came.emit()

    def outcome_within(self, seconds: float) -> _Outcome | None:
        """What comes of it within so long; afterwards nobody stands by."""
        with self._outcome:
            self._outcome.wait_for(lambda: self._found is not None, seconds)
            self._awaited, found, self._found = False, self._found, None
            return found


def _done(number: int, work: Task) -> _Outcome:
    try:
        return _Outcome(number, work, work())
    except Stopped:
        return _Outcome(number, work, stopped=True)
    except Refusal as refusal:
        return _Outcome(number, work, refusal=refusal)
    except MemoryError:
        notice = Refusal("not enough memory", "ask for less data, or close other programs")
        return _Outcome(number, work, refusal=notice)
    except BaseException as fault:  # a defect of ours, or a library's panic, told rather than swallowed
        notice = Refusal(f"something went wrong here ({type(fault).__name__}: {fault})", "please report it")
        return _Outcome(number, work, refusal=notice)


class Work(QObject):
    """Runs one piece of work at a time for one place; only the newest one's answer is handed on."""

    patience = 0.03  # seconds that the window stands still for an answer that is expected soon

    busy = pyqtSignal(bool)
    rows = pyqtSignal(int)  # how many rows the work has come to, where it tells
    parts = pyqtSignal(int, int)  # how many parts are done, of how many

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._newest = 0
        self._busy = False  # as it was told last
        self._asked: dict[int, tuple[Callable[[Any], None], Callable[[Refusal], None]]] = {}
        self._post = _Post()  # of no parent: a worker may come back to it when the window has gone
        self._post.came.connect(self._fetch)

    def ask(
        self, work: Task, done: Callable[[Any], None], refused: Callable[[Refusal], None], *, soon: bool = False
    ) -> None:
        """Do `work` in another thread, then call `done` or `refused` in this one. An answer that is expected `soon` is
        waited for a moment: where it comes within that, it has been handed on when this returns."""
        if soon:
            self.cancel()
        self._newest += 1
        self._asked[self._newest] = (done, refused)
        pool = QThreadPool.globalInstance()
        assert pool is not None
        pool.setMaxThreadCount(max(_THREADS, pool.maxThreadCount()))
        job = _Job(self._newest, work, self._post, awaited=soon)
        pool.start(job)
        outcome = job.outcome_within(self.patience) if soon else None
        if outcome is not None:
            self._take(outcome)
        else:
            self._busy = True
            self.busy.emit(True)

    def _fetch(self) -> None:
        self._take(self._post.outcomes.popleft())

    def _take(self, outcome: _Outcome) -> None:
        done, refused = self._asked.pop(outcome.number)
        if outcome.number != self._newest or outcome.stopped:
            return
        self._rest()
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
        self._rest()

    def _rest(self) -> None:
        if self._busy:
            self._busy = False
            self.busy.emit(False)
