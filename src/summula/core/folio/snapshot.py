"""A board as it was painted last: what is shown while a folio's rows are still being read. It is never worked with.

It is kept in the user's cache, under what tells one state of a file from another. Whatever is wrong with it, the
folio opens all the same, only later.
"""

from __future__ import annotations

import contextlib
import os
import zlib
from pathlib import Path
from typing import Self

import msgspec
from msgspec.structs import replace

from summula.core.boards.board import Board
from summula.core.charts.scene import Group, Mark, Scene, Tag
from summula.core.decoding import decoded
from summula.core.folio.model import Folio, Source, Summary, TableEntry
from summula.core.phrases.forms import Form
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.phrase import Aggregate, Measure, Phrase
from summula.core.slicing.slicer import Holding
from summula.core.tables.field import Field
from summula.core.theme.palettes import Palette

_MOST = 24  # kept at a time
_LARGEST = 8 * 1024**2  # bytes


class SeenTable(msgspec.Struct, frozen=True):
    id: str
    name: str
    fields: tuple[Field, ...]
    rows: int


class SeenSummary(msgspec.Struct, frozen=True):
    id: str
    name: str
    table: str
    form: Form


class Snapshot(msgspec.Struct, frozen=True):
    """The board that is in view, and what it showed: each panel's scene, what each slicer's members held, and the words
    of the status line; of the rest of the folio, what the frame around it shows. How a summary is asked and a table
    was prepared is left out: reading that takes longer than all else."""

    name: str
    palette: Palette
    tables: tuple[SeenTable, ...]
    summaries: tuple[SeenSummary, ...]
    boards: tuple[tuple[str, str], ...]  # id and name
    levers: tuple[LeverSetting, ...]
    board: Board
    scenes: dict[str, Scene]
    held: dict[str, list[Holding]]
    words: str = ""

    @classmethod
    def of(
        cls, folio: Folio, board: Board, scenes: dict[str, Scene], held: dict[str, list[Holding]], words: str
    ) -> Self:
        return cls(
            folio.name,
            folio.palette,
            tuple(SeenTable(each.id, each.name, each.fields, each.rows) for each in folio.tables),
            tuple(SeenSummary(each.id, each.name, each.table, each.phrase.form) for each in folio.summaries),
            tuple((each.id, each.name) for each in folio.boards),
            folio.levers,
            board,
            scenes,
            held,
            words,
        )

    @property
    def folio(self) -> Folio:
        """The folio as far as it is seen."""
        rows = (Measure(Aggregate("rows")),)
        return Folio(
            self.name,
            tuple(TableEntry(each.id, each.name, Source(each.id), each.fields, each.rows) for each in self.tables),
            tuple(Summary(each.id, each.name, each.table, Phrase(rows, form=each.form)) for each in self.summaries),
            tuple(self.board if key == self.board.id else Board(key, name) for key, name in self.boards),
            levers=self.levers,
            palette=self.palette,
        )


def bare(scene: Scene) -> Scene:
    """The scene without what its marks stand for: only their words stay."""

    def bare_mark(mark: Mark) -> Mark:
        if isinstance(mark, Group):
            mark = replace(mark, marks=tuple(map(bare_mark, mark.marks)))
        return mark if mark.tag is None else replace(mark, tag=Tag((), (), -1, 0.0, mark.tag.title, mark.tag.text))

    return replace(scene, marks=tuple(map(bare_mark, scene.marks)))


def own_folder(variable: str, otherwise: str) -> Path:
    """Our folder in one of the XDG base directories; a relative one is passed over, as their specification asks."""
    base = Path(os.environ.get(variable, ""))
    return (base if base.is_absolute() else Path.home() / otherwise) / "summula"


def place_for(path: Path) -> Path | None:
    """Where the sight of a folio's file is kept, as the file stands now; None where there is no such file."""
    try:
        stat = path.stat()
    except OSError:
        return None
    state = f"{path.resolve()} {stat.st_size} {stat.st_mtime_ns}".encode()
    name = f"{zlib.crc32(state):08x}{zlib.adler32(state):08x}.json"
    return own_folder("XDG_CACHE_HOME", ".cache") / "seen" / name


def keep_snapshot(place: Path, seen: Snapshot) -> None:
    """Keep it for its owner's eyes only; the oldest of many go. A cache that cannot be written does no harm."""
    with contextlib.suppress(OSError):
        place.parent.mkdir(parents=True, exist_ok=True)
        with open(place, "wb", opener=lambda name, flags: os.open(name, flags, 0o600)) as file:
            file.write(msgspec.json.encode(seen))
        if place.parent.name == "seen":
            kept = sorted(place.parent.glob("*.json"), key=lambda each: each.stat().st_mtime_ns)
            for each in kept[:-_MOST]:
                each.unlink(missing_ok=True)


def snapshot_at(place: Path | None) -> Snapshot | None:
    """What was kept there; None where nothing was, or nothing that can be used."""
    if place is None:
        return None
    with contextlib.suppress(OSError, msgspec.MsgspecError):
        if place.stat().st_size <= _LARGEST:
            seen = decoded(place.read_bytes(), Snapshot)
            if any(key == seen.board.id for key, _ in seen.boards):
                return seen
    return None
