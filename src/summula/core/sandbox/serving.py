"""The process that makes those that read, and what each of them does.

It has imported all that reading needs and never started a thread, so that a copy of it is there in a few milliseconds.
One copy waits ahead; it does one request, bound to its files and limits, and ends.
"""

from __future__ import annotations

import gc
import os
import sys
import traceback
from collections.abc import Callable
from contextlib import suppress
from pathlib import Path
from time import monotonic
from typing import TYPE_CHECKING, assert_never

import msgspec

from summula.core.refusal import Refusal
from summula.core.sandbox.limits import confine, end_with_parent
from summula.core.sandbox.messages import (
    MOST_MESSAGE,
    Came,
    Done,
    Ended,
    Failed,
    Left,
    Order,
    Refused,
    Told,
    Wanted,
    pair,
    received,
    send,
)
from summula.core.sandbox.packing import Packing, Unpacking

if TYPE_CHECKING:
    import socket

    from summula.core.sandbox.messages import Request
    from summula.core.tables.table import Table

_OFTEN = 0.05  # seconds between two tellings of how far it has come
_MOST_WORDS = 2_000  # letters of a fault

Decode = Callable[[memoryview], "Request"]


class _Spare:
    """A process that waits for a request: its number, our asker's end of its socket, and what it says on stderr."""

    def __init__(self, door: socket.socket, decode: Decode) -> None:
        self.asks, end = pair()
        self.words = os.memfd_create("words", os.MFD_CLOEXEC)
        self.process = os.fork()
        if self.process == 0:
            door.close()
            self.asks.close()
            os.dup2(self.words, 2)
            _serve(end, decode)
        end.close()

    def hand_over(self, door: socket.socket) -> None:
        send(door, Told(self.process), (self.asks.fileno(), self.words))
        self.asks.close()
        os.close(self.words)


def make_processes(door: socket.socket, decode: Decode) -> None:
    """Hand out processes through the door until it is closed. Never returns otherwise."""
    gc.collect()
    gc.freeze()  # what copies share stays shared
    asked = msgspec.json.Decoder(Wanted | Ended | Left)
    spare = _Spare(door, decode)
    while True:
        data, _ = received(door)
        if not data:
            return
        message = asked.decode(data)
        match message:
            case Ended():
                _, status = os.waitpid(message.process, 0)
                send(door, Told(status))
            case Left():
                os.waitpid(message.process, 0)
            case Wanted():
                spare.hand_over(door)
                spare = _Spare(door, decode)
            case _:
                assert_never(message)


def _serve(end: socket.socket, decode: Decode) -> None:
    """Do one request, and end this process."""
    with suppress(OSError):  # nobody waits for it any more
        end_with_parent()
        data, files = received(end)
        if data:
            try:
                _answer(end, msgspec.json.decode(data, type=Order), files[0], decode)
            except Refusal as refusal:
                send(end, Refused.of(refusal))
            except MemoryError:
                send(end, Failed("MemoryError", "", for_memory=True))
            except BaseException as fault:  # a library's panic is none of Python's exceptions
                words = "".join(traceback.format_exception(fault))[-_MOST_WORDS:]
                send(end, Failed(type(fault).__name__, words.encode("utf-8", "replace").decode()))
    sys.stderr.flush()
    os._exit(0)  # nothing that this process was copied from is to be tidied up twice


def _answer(end: socket.socket, order: Order, given: int, decode: Decode) -> None:
    unpacking = Unpacking(given)
    request = decode(unpacking.bytes_at(order.request))
    os.chdir(order.folder)
    scratch = Path(order.scratch)
    os.environ["TMPDIR"] = order.scratch
    confine(order.limits, request.files(), scratch)
    tables: tuple[Table, ...] = unpacking.tables_at(order.given)
    last = 0.0

    def watch(rows: int) -> None:
        nonlocal last
        if monotonic() - last > _OFTEN:
            last = monotonic()
            send(end, Came(rows))

    answer = request.do(tables, watch)
    more, made = answer.more, list(answer.tables)
    del answer, tables
    packing = Packing()
    try:
        done = Done(packing.add_tables(made), packing.add(more))
    except OSError as fault:
        raise MemoryError from fault
    assert len(msgspec.json.encode(done)) < MOST_MESSAGE
    send(end, done, (packing.file,))
