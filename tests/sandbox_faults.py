"""Requests that misbehave in every way, and the process that does them: `python -m tests.sandbox_faults SOCKET`."""

from __future__ import annotations

import ctypes
import os
import signal
import socket
import sys
import tempfile
import time
from contextlib import suppress
from pathlib import Path
from typing import cast

import msgspec
import numpy as np
import polars as pl

from summula.core.refusal import Refusal
from summula.core.sandbox.messages import Answer, Request
from summula.core.sandbox.serving import make_processes
from summula.core.tables.column import CodedColumn, Column, DateColumn, NumberColumn, Refused
from summula.core.tables.field import Field
from summula.core.tables.table import Table
from summula.core.watch import Watch


class Fault(Request, frozen=True, kw_only=True):
    """Does what it is told."""

    deeds: str
    path: str = ""
    size: int = 0

    def files(self) -> tuple[Path, ...]:
        return (Path(self.path),) if self.path else ()

    def deed(self) -> str:
        return "reading 'harm.csv'"

    def remedy(self) -> str:
        return "choose another"

    def do(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        return cast("Answer", getattr(self, f"_{self.deeds}")(given, watch))

    def _back(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        return Answer(given, b"more")

    def _refuse(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        raise Refusal("this is wrong \udce9", "do that", span=(1, 2), suggestion="that")

    def _abort(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        os.abort()

    def _crash(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        ctypes.string_at(0)
        return Answer()

    def _panic(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        raise pl.exceptions.PanicException("not yet implemented")

    def _leave(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        os._exit(7)

    def _fill(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        kept = []
        while True:
            kept.append(np.ones(1 << 24))

    def _fill_in_rust(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        pl.int_range(0, 1_000_000_000, eager=True)
        return Answer()

    def _write_without_end(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        with tempfile.TemporaryFile() as file:
            os.truncate(file.fileno(), 1 << 50)
        return Answer()

    def _think(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        watch(5)
        while True:
            pass

    def _wait(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        watch(5)
        time.sleep(600)
        return Answer()

    def _read(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        return Answer((), Path(sys.argv[1] if not self.path else self.path).read_bytes())

    def _peek(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        found = []
        for each in ("~/secret", "/etc/passwd", "/etc/hostname", f"/proc/{os.getppid()}/environ", "/tmp"):
            place = Path(each).expanduser()
            with suppress(OSError):
                found.append(str(list(place.iterdir()) if place.is_dir() else place.read_bytes()))
        return Answer((), "\n".join(found).encode())

    def _touch(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        with tempfile.NamedTemporaryFile() as own:
            own.write(b"x")
        try:
            Path(self.path).write_text("changed")
        except PermissionError:
            return Answer((), b"kept")
        return Answer((), b"changed")

    def _call(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        with socket.socket() as caller:
            try:
                caller.connect(("127.0.0.1", self.size))
            except PermissionError:
                return Answer((), b"kept")
        return Answer((), b"called")

    def _kill_parent(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        os.kill(os.getppid(), signal.SIGKILL)
        time.sleep(0.2)
        return Answer((), b"alive")

    def _lie(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        return Answer((_lies()[self.size],))


def _lies() -> list[Table]:
    """Tables that none is."""
    ones, days = np.ones(3), np.zeros(3, dtype=np.int32)
    columns: list[Column] = [
        CodedColumn(np.array([0, 1, 9], dtype=np.uint8), ("a", "b")),
        CodedColumn(np.array([0, 1, -1], dtype=np.int64), ("a", "b")),  # type: ignore[arg-type]
        CodedColumn(np.array([0, 1], dtype=np.uint8), ("a", "b")),
        NumberColumn(np.array([1.0, np.nan, 2.0])),
        NumberColumn(ones.astype(np.float32)),  # type: ignore[arg-type]
        NumberColumn(ones, 99),
        NumberColumn(ones, 0, None, (), 0),
        NumberColumn(ones, 0, np.array([0, 1, 2], dtype=np.uint8).view(np.bool_)),
        NumberColumn(ones, 0, None, (Refused(3, "x"),)),
        DateColumn(np.array([0, 1, 2**31 - 1], dtype=np.int32)),
        DateColumn(days, None, np.array([0, 1, 86_400], dtype=np.int32)),
        DateColumn(days, np.zeros(2, dtype=np.bool_)),
    ]
    return [Table("", (Field("x", "category"),), (each,), 3) for each in columns]


LIES = len(_lies())
_DECODER = msgspec.json.Decoder(Fault)


def _decoded(raw: memoryview) -> Request:
    return _DECODER.decode(raw)


if __name__ == "__main__":
    make_processes(socket.socket(fileno=int(sys.argv[1])), _decoded)
