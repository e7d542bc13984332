"""Files read by a process of their own, which has limits: what the desk and the command line read with."""

from __future__ import annotations

from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.decoding import decoded
from summula.core.reading.readas import ReadAs, Setting
from summula.core.reading.spelling import path_of, spelled
from summula.core.refusal import shortened
from summula.core.sandbox.asking import ask
from summula.core.sandbox.messages import Answer, Request
from summula.core.tables.field import Kind, check_known
from summula.core.watch import Watch, unwatched

if TYPE_CHECKING:
    from collections.abc import Mapping
    from pathlib import Path

    from summula.core.tables.table import Table

_BESIDE = ("-wal", "-shm", "-journal")  # what a database keeps beside its file


class _OfFile(Request, frozen=True, kw_only=True):
    """Something about one file. `path` is written by `spelled`: not every name is text."""

    path: str
    read_as: ReadAs

    def place(self) -> Path:
        return path_of(self.path)

    def files(self) -> tuple[Path, ...]:
        path = self.place()
        beside = (path.with_name(path.name + each) for each in _BESIDE) if path.name else ()
        return (path, *(each for each in beside if each.exists()))

    def deed(self) -> str:
        return f"reading '{shortened(self.place().name, 80)}'"

    def remedy(self) -> str:
        return "the file may be damaged or malicious; save it again, or save a part of it as CSV"


class ReadFile(_OfFile, frozen=True, kw_only=True):
    """The whole table in a file."""

    kinds: dict[str, Kind]

    def do(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        from summula.core.reading.readers import read_found

        table, settings = read_found(self.place(), self.read_as, self.kinds, watch)
        return Answer((table,), msgspec.json.encode(settings))


class Preview(_OfFile, frozen=True, kw_only=True):
    """The first rows of a file."""

    def do(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        from summula.core.reading.previewing import preview

        table, settings, whole = preview(self.place(), self.read_as, watch)
        return Answer((table,), msgspec.json.encode((settings, whole)))


def read_found(
    path: Path, read_as: ReadAs | None = None, kinds: Mapping[str, Kind] | None = None, watch: Watch = unwatched
) -> tuple[Table, tuple[Setting, ...]]:
    """The table in a file, and every setting as it was used or found; as `readers.read_found`, which see."""
    read_as = read_as or ReadAs()
    check_known(kinds or {})
    answer = ask(ReadFile(path=spelled(path), read_as=read_as, kinds=dict(kinds or {})), watch=watch)
    return _named(answer.tables[0], path, read_as), decoded(answer.more, tuple[Setting, ...])


def read_table(
    path: Path, read_as: ReadAs | None = None, kinds: Mapping[str, Kind] | None = None, watch: Watch = unwatched
) -> Table:
    """The table in a file; as `readers.read_table`, which see."""
    return read_found(path, read_as, kinds, watch)[0]


def preview(path: Path, read_as: ReadAs, watch: Watch = unwatched) -> tuple[Table, tuple[Setting, ...], bool]:
    """The first rows of a file; as `previewing.preview`, which see."""
    answer = ask(Preview(path=spelled(path), read_as=read_as), watch=watch)
    settings, whole = decoded(answer.more, tuple[tuple[Setting, ...], bool])
    return _named(answer.tables[0], path, read_as), settings, whole


def _named(table: Table, path: Path, read_as: ReadAs) -> Table:
    from summula.core.reading.naming import name_of

    return replace(table, name=name_of(path, read_as), source=str(path))
