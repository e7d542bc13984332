"""What an asker and the process that reads say to each other, and how it goes over a socket."""

from __future__ import annotations

import array
import socket
from typing import TYPE_CHECKING

import msgspec

from summula.core.refusal import Refusal
from summula.core.sandbox.limits import Limits
from summula.core.sandbox.packing import Span
from summula.core.tables.table import Table

if TYPE_CHECKING:
    from pathlib import Path

    from summula.core.watch import Watch

MOST_MESSAGE = 1 << 17  # bytes; what is longer lies in shared memory


class Answer(msgspec.Struct, frozen=True):
    """What came of a request: tables, and whatever else its kind of request tells, as it encodes that."""

    tables: tuple[Table, ...] = ()
    more: bytes = b""


class Request(msgspec.Struct, frozen=True, tag=True, kw_only=True):
    """Something to be done to strangers' bytes. A kind of request says which files it reads, and does it; all kinds are
    listed in `summula.core.readingprocess`."""

    def files(self) -> tuple[Path, ...]:
        """All that is opened."""
        raise NotImplementedError

    def deed(self) -> str:
        """What is done, as a sentence begins: "reading 'crossings.csv'"."""
        raise NotImplementedError

    def remedy(self) -> str:
        """What to do where it came to a sudden end or went over its limits."""
        raise NotImplementedError

    def do(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        """Do it, in the process that has limits. `given` are the tables that came with it."""
        raise NotImplementedError


class Order(msgspec.Struct, frozen=True):
    """A request on its way. It lies, with the tables that are given, in the shared memory that comes with this: a table
    of thousands of fields is longer than a message. Paths are relative to `folder`."""

    request: Span
    given: Span
    folder: str
    scratch: str  # where files may be written for a while
    limits: Limits


class Came(msgspec.Struct, frozen=True, tag=True):
    """So many rows have been read so far."""

    rows: int


class Done(msgspec.Struct, frozen=True, tag=True):
    """It is done: tables and more lie in the shared memory that comes with this."""

    tables: Span
    more: Span


class Refused(msgspec.Struct, frozen=True, tag=True):
    """It was refused."""

    wrong: str
    remedy: str
    span: tuple[int, int] | None
    suggestion: str | None

    @staticmethod
    def of(refusal: Refusal) -> Refused:
        return Refused(_plain(refusal.wrong), _plain(refusal.remedy), refusal.span, refusal.suggestion)

    def refusal(self) -> Refusal:
        return Refusal(self.wrong, self.remedy, span=self.span, suggestion=self.suggestion)


class Failed(msgspec.Struct, frozen=True, tag=True):
    """It came to an end that nobody meant: the kind of fault, and its last words."""

    kind: str
    words: str
    for_memory: bool = False


Reply = Came | Done | Refused | Failed


class Wanted(msgspec.Struct, frozen=True, tag=True):
    """To the process that makes others: another one, please."""


class Ended(msgspec.Struct, frozen=True, tag=True):
    """To the process that makes others: how did this one end?"""

    process: int


class Left(msgspec.Struct, frozen=True, tag=True):
    """To the process that makes others: nobody asks any more how this one, which was killed, ended. No answer."""

    process: int


class Told(msgspec.Struct, frozen=True):
    """From it: the number of a process, or how one ended, as `waitpid` tells it."""

    number: int


def _plain(text: str) -> str:
    """A sentence without what no message can hold: a file's name may be no text."""
    return text.encode("utf-8", "replace").decode()


def send(to: socket.socket, message: msgspec.Struct, files: tuple[int, ...] = ()) -> None:
    """Send one message, and files with it. Raises OSError where nobody is there any more."""
    data = msgspec.json.encode(message)
    rights = [(socket.SOL_SOCKET, socket.SCM_RIGHTS, array.array("i", files))] if files else []
    to.sendmsg([data], rights)


def received(by: socket.socket) -> tuple[bytes, list[int]]:
    """One message and the files that came with it; none where the other has gone. The files are the caller's to close.
    Raises TimeoutError where nothing comes in the socket's time."""
    data, files, flags, _ = socket.recv_fds(by, MOST_MESSAGE, 4, socket.MSG_CMSG_CLOEXEC)
    if flags & (socket.MSG_TRUNC | socket.MSG_CTRUNC):
        raise OSError("a message was cut off")
    return data, list(files)


def pair() -> tuple[socket.socket, socket.socket]:
    """Two ends, between which messages stay whole."""
    return socket.socketpair(socket.AF_UNIX, socket.SOCK_SEQPACKET)
