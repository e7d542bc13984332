"""Long work off the UI thread. A newer request for the same place makes an older one stop mattering."""

from __future__ import annotations

import contextlib
import threading
from collections.abc import Callable
from typing import Any, Literal

from PyQt6.QtCore import QObject, QRunnable, QThreadPool, pyqtSignal

from summula.core.reading.readas import Stopped
from summula.core.refusal import Refusal

QUICK_ROWS = 150_000  # an answer about so many rows takes well under 50 ms, and needs no worker


_thread = threading.local()  # which piece of work runs in this thread


class _Signals(QObject):
    done = pyqtSignal(object)
    refused = pyqtSignal(object)


class _Job(QRunnable):
    def __init__(self, number: int, work: Callable[[], Any]) -> None:
        super().__init__()
        self.number, self.work = number, work
        self.signals = _Signals()
        self.setAutoDelete(True)

    def run(self) -> None:
        _thread.number = self.number
        try:
            result = self.work()
        except Stopped:
            return
        except Refusal as refusal:
            self._tell("refused", refusal)
        except MemoryError:
            self._tell(
                "refused",
                Refusal("there is not enough memory for this", "ask for less, or close other programs"),
            )
        except Exception as fault:  # a defect of ours, told rather than swallowed
            self._tell(
                "refused",
                Refusal(f"something went wrong here ({type(fault).__name__}: {fault})", "please report it"),
            )
        else:
            self._tell("done", result)

    def _tell(self, outcome: Literal["done", "refused"], what: object) -> None:
        with contextlib.suppress(RuntimeError):  # the window has closed meanwhile: nobody waits for it
            getattr(self.signals, outcome).emit(what)


class Work(QObject):
    """Runs one piece of work at a time for one place; only the newest one's answer is handed on."""

    busy = pyqtSignal(bool)
    rows = pyqtSignal(int)  # how many rows the work has come to, where it tells

    def __init__(self, parent: QObject) -> None:
        super().__init__(parent)
        self._newest = 0
        self._running: dict[int, _Job] = {}

    def ask(self, work: Callable[[], Any], done: Callable[[Any], None], refused: Callable[[Refusal], None]) -> None:
        """Do `work` in another thread, then call `done` or `refused` in this one."""
        self._newest += 1
        number = self._newest
        job = _Job(number, work)
        self._running[number] = job

        def finished(hand_on: Callable[[Any], None], what: Any) -> None:
            self._running.pop(number, None)
            if number == self._newest:
                self.busy.emit(False)
                hand_on(what)

        job.signals.done.connect(lambda what: finished(done, what))
        job.signals.refused.connect(lambda what: finished(refused, what))
        self.busy.emit(True)
        pool = QThreadPool.globalInstance()
        assert pool is not None
        pool.start(job)

    @property
    def waits(self) -> bool:
        """Whether the newest piece of work is still under way."""
        return self._newest in self._running

    def progressed(self, rows: int) -> None:
        """Called by the work in its own thread: tells how far it has come, and stops it where it is not wanted."""
        if getattr(_thread, "number", self._newest) != self._newest:
            raise Stopped
        self.rows.emit(rows)

    def cancel(self) -> None:
        """Whatever runs now is not waited for any more."""
        self._newest += 1
        self.busy.emit(False)
