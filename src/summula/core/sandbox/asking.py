"""Asking a process of its own to read: it comes back with tables, or with a sentence, whatever becomes of it."""

from __future__ import annotations

import atexit
import os
import signal
import subprocess
import sys
import tempfile
from contextlib import contextmanager, suppress
from functools import lru_cache
from pathlib import Path
from socket import socket
from threading import Lock
from typing import TYPE_CHECKING, NoReturn, assert_never

import msgspec

from summula.core.decoding import decoded, one_decoded
from summula.core.refusal import Refusal
from summula.core.sandbox.limits import Limits, limits_for
from summula.core.sandbox.messages import (
    Answer,
    Came,
    Done,
    Ended,
    Failed,
    Left,
    Order,
    Refused,
    Reply,
    Request,
    Told,
    Wanted,
    pair,
    received,
    send,
)
from summula.core.sandbox.packing import Packing, Unpacking, nonsense
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from collections.abc import Iterator

    from summula.core.tables.table import Table

_OFTEN = 0.03  # seconds between two looks at whether it is still wanted
_PATIENCE = 2.0  # seconds
_GIGABYTE = 1024**3
_MOST_WORDS = 20_000  # bytes of what a process said before it ended
_NO_ROOM = ("memory allocation of", "MemoryError", "cannot allocate memory", "bad_alloc", "capacity overflow")


def ask(
    request: Request, given: tuple[Table, ...] = (), watch: Watch = unwatched, servant: Servant | None = None
) -> Answer:
    """What comes of a request, done in a process of its own. `watch` is asked all the while; where it raises, the
    process ends at once. Raises Refusal for what was refused, and where the process died or went over its limits."""
    with (
        tempfile.TemporaryDirectory(prefix="summula-", ignore_cleanup_errors=True) as scratch,
        (servant or _servant()).process() as process,
    ):
        packing = Packing()
        try:
            wanted, tables = packing.add(msgspec.json.encode(request)), packing.add_tables(list(given))
            limits = limits_for(sum(_size(path) for path in request.files()) + tables.stop)
            with suppress(OSError):  # it has died: that comes out when it is heard
                send(process.asks, Order(wanted, tables, str(Path.cwd()), scratch, limits), (packing.file,))
        finally:
            os.close(packing.file)
        return _heard(process, request, watch, limits)


def _size(path: Path) -> int:
    try:
        return path.stat().st_size
    except OSError:
        return 0


def _heard(process: Process, request: Request, watch: Watch, limits: Limits) -> Answer:
    rows = 0
    process.asks.settimeout(_OFTEN)
    while True:
        try:
            data, files = received(process.asks)
        except TimeoutError:
            watch(rows)
            continue
        except OSError:
            data, files = b"", []
        if not data:
            _died(process, request, limits)
        reply = _believed(data, files)
        match reply:
            case Came():
                rows = reply.rows
                watch(rows)
            case Answer():
                return reply
            case Refused():
                raise reply.refusal()
            case Failed():
                if reply.for_memory or any(each in reply.words for each in _NO_ROOM):
                    raise _over_memory(request, limits)
                refusal = _unexpected(request, reply.kind)
                refusal.add_note(reply.words)
                raise refusal
            case _:
                assert_never(reply)


def _believed(data: bytes, files: list[int]) -> Came | Answer | Refused | Failed:
    """What a process says, its shared memory looked at. Whoever took it over may say anything: raises Refusal for what
    makes no sense. The files are closed, or taken over."""
    try:
        reply: Reply = one_decoded(data, Reply)
        if not isinstance(reply, Done):
            return reply
        unpacking = Unpacking(files.pop())
        return Answer(unpacking.tables_at(reply.tables), bytes(unpacking.bytes_at(reply.more)))
    except (msgspec.MsgspecError, OSError, IndexError):
        raise nonsense() from None
    finally:
        for each in files:
            os.close(each)


def _died(process: Process, request: Request, limits: Limits) -> NoReturn:
    status = process.status()
    words = process.last_words()
    number = os.WTERMSIG(status) if os.WIFSIGNALED(status) else 0
    if number == signal.SIGXCPU:
        seconds = f"{limits.seconds:,} seconds"
        raise Refusal(f"{request.deed()} was stopped: it takes more than {seconds} of work", request.remedy())
    if number == signal.SIGKILL or any(each in words for each in _NO_ROOM):
        raise _over_memory(request, limits)
    refusal = _unexpected(request, signal.Signals(number).name if number else f"{os.WEXITSTATUS(status)}")
    refusal.add_note(words)
    raise refusal


def _over_memory(request: Request, limits: Limits) -> Refusal:
    memory = limits.memory / _GIGABYTE
    return Refusal(f"{request.deed()} was stopped: it takes more than {memory:,.1f} GB of memory", request.remedy())


def _unexpected(request: Request, fault: str) -> Refusal:
    return Refusal(f"{request.deed()} ended unexpectedly ({fault})", request.remedy())


class Process:
    """One process that reads: `asks` is our end of its socket."""

    def __init__(self, servant: Servant, number: int, asks: socket, words: int) -> None:
        self.servant, self.number, self.asks, self.words = servant, number, asks, words
        self._status: int | None = None

    def status(self) -> int:
        """How it ended, as `waitpid` tells it; waits for that."""
        if self._status is None:
            self._status = self.servant.status_of(self.number)
        return self._status

    def last_words(self) -> str:
        size = os.fstat(self.words).st_size
        return os.pread(self.words, _MOST_WORDS, max(0, size - _MOST_WORDS)).decode("utf-8", "replace")

    def close(self) -> None:
        if self._status is None:
            with suppress(OSError):
                os.kill(self.number, signal.SIGKILL)  # it is ours until its end has been asked for
            self.servant.leave(self.number)
        self.asks.close()
        os.close(self.words)


class Servant:
    """The process that makes those that read; started when it is first wanted, and again where it died. It runs a
    module that knows every kind of request."""

    def __init__(self, module: str = "summula.core.readingprocess") -> None:
        self._module = module
        self._talking = Lock()
        self._door: socket | None = None
        self._popen: subprocess.Popen[bytes] | None = None

    def start(self) -> None:
        """So that it is there when it is wanted; does not wait for it."""
        with self._talking:
            self._opened()

    def stop(self) -> None:
        """Let it end, with every process that it made."""
        if not self._talking.acquire(timeout=_PATIENCE):
            return  # somebody waits for it in another thread; it ends when this program has gone
        try:
            if self._door is not None and self._popen is not None:
                self._door.close()
                self._popen.wait()
                self._door = self._popen = None
        finally:
            self._talking.release()

    def _opened(self) -> socket:
        if self._door is not None and self._popen is not None and self._popen.poll() is None:
            return self._door
        if self._door is not None:
            self._door.close()
        door, theirs = pair()
        command = [sys.executable, "-P", "-m", self._module, str(theirs.fileno())]
        threads = {"OPENBLAS_NUM_THREADS": "1", "OMP_NUM_THREADS": "1"}  # a process with threads is not copied safely
        try:
            self._popen = subprocess.Popen(
                command, env=os.environ | threads, pass_fds=[theirs.fileno()], stdin=subprocess.DEVNULL
            )
        except OSError as fault:
            door.close()
            reason = fault.strerror or type(fault).__name__
            raise Refusal(f"no process to read in could be started ({reason})", "close other programs") from None
        finally:
            theirs.close()
        self._door = door
        return door

    def _told(self, message: Wanted | Ended) -> tuple[int, list[int]]:
        door = self._opened()
        send(door, message)
        data, files = received(door)
        if not data:
            raise OSError("it has gone")
        return decoded(data, Told).number, files

    @contextmanager
    def process(self) -> Iterator[Process]:
        """A process that waits for one request. It is gone afterwards, whatever it was doing."""
        with self._talking:
            try:
                number, files = self._told(Wanted())
            except OSError:  # it died since: once more, with another
                try:
                    number, files = self._told(Wanted())
                except OSError:
                    raise Refusal("no process to read in could be started", "close other programs") from None
        found = Process(self, number, socket(fileno=files[0]), files[1])
        try:
            yield found
        finally:
            found.close()

    def leave(self, process: int) -> None:
        """Tidy up after a process that was killed; nobody waits for that."""
        with self._talking, suppress(OSError):
            if self._door is not None:
                send(self._door, Left(process))

    def status_of(self, process: int) -> int:
        with self._talking:
            return self._told(Ended(process))[0]


@lru_cache(maxsize=1)
def _servant() -> Servant:
    """The one of this program; it ends with it."""
    made = Servant()
    atexit.register(made.stop)
    return made


def warm() -> None:
    """Start what reads strangers' files, so that the first one need not wait for it."""
    _servant().start()
