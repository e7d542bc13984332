"""The rows of a folio's file read by a process of its own, which has limits: whoever made it is a stranger."""

from __future__ import annotations

import zipfile
from typing import TYPE_CHECKING

import msgspec
from msgspec.structs import replace

from summula.core.decoding import decoded
from summula.core.folio.model import Source, TableEntry
from summula.core.reading.spelling import path_of, spelled
from summula.core.refusal import Refusal, shortened
from summula.core.sandbox.asking import ask
from summula.core.sandbox.messages import Answer, Request

if TYPE_CHECKING:
    from collections.abc import Sequence
    from pathlib import Path

    from summula.core.tables.table import Table
    from summula.core.watch import Watch


class _Wanted(msgspec.Struct, frozen=True):
    """A source, and what the table is called that it is of."""

    called: str
    source: Source


class ReadRows(Request, frozen=True, kw_only=True):
    """The rows of some sources of a folio's file; of what cannot be read none, with why."""

    path: str
    sources: tuple[_Wanted, ...]

    def files(self) -> tuple[Path, ...]:
        return (path_of(self.path),)

    def deed(self) -> str:
        name = shortened(path_of(self.path).name, 80)
        return f"reading the rows of '{shortened(self.sources[0].called)}' in '{name}'"

    def remedy(self) -> str:
        return "the folio may be damaged or malicious; open an earlier copy"

    def do(self, given: tuple[Table, ...], watch: Watch) -> Answer:
        from summula.core.folio.rowsfile import no_rows, read_rows

        path = path_of(self.path)
        tables, whys = [], []
        with zipfile.ZipFile(path) as archive:
            for wanted in self.sources:
                why = ""
                try:
                    tables.append(read_rows(archive, wanted.called, wanted.source, path.name))
                except Refusal as refusal:
                    why = str(refusal)
                    tables.append(no_rows(wanted.called, wanted.source))
                whys.append(why)
                watch(sum(table.rows for table in tables))
        return Answer(tuple(tables), msgspec.json.encode(whys))


def rows_of(path: Path, sources: Sequence[tuple[TableEntry, Source]], watch: Watch) -> list[tuple[Table, str]]:
    """Of each source its rows, and why there are none where they cannot be read."""
    wanted = tuple(_Wanted(entry.name, source) for entry, source in sources)
    if not wanted:
        return []
    try:
        answer = ask(ReadRows(path=spelled(path), sources=wanted), watch=watch)
    except Refusal as refusal:
        if len(sources) == 1:
            from summula.core.folio.rowsfile import no_rows

            return [(no_rows(wanted[0].called, wanted[0].source), str(refusal))]
        # One of them brought the process down: each by itself, so that the others are there.
        return [each for one in sources for each in rows_of(path, [one], watch)]
    whys = decoded(answer.more, list[str])
    return [
        (replace(table, name=each.called, source=each.source.place), why)
        for table, why, each in zip(answer.tables, whys, wanted, strict=True)
    ]
