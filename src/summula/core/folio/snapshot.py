"""A board as it was painted last: what is shown while a folio's rows are still being read. It is never worked with.

It is kept in the user's cache, under what tells one state of a file from another. Whatever is wrong with it, the
folio opens all the same, only later.
"""

from __future__ import annotations

import contextlib
import os
import zlib
from pathlib import Path

import msgspec
from msgspec.structs import replace

from summula.core.charts.scene import Group, Mark, Scene, Tag
from summula.core.decoding import decoded
from summula.core.folio.model import Folio
from summula.core.slicing.slicer import Holding

_MOST = 24  # kept at a time
_LARGEST = 8 * 1024**2  # bytes


class Snapshot(msgspec.Struct, frozen=True):
    """A folio, the board that is in view, and what it showed: each panel's scene, what each slicer's members held, and
    the words of the status line."""

    folio: Folio
    board: str
    scenes: dict[str, Scene]
    held: dict[str, list[Holding]]
    words: str = ""


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
            if any(board.id == seen.board for board in seen.folio.boards):
                return seen
    return None
