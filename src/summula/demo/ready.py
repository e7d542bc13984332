"""The demo's folio, kept ready: made once, then opened from the user's cache in a blink."""

from __future__ import annotations

import contextlib
import os
import zlib
from functools import cache
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from summula.core.decoding import decoded
from summula.core.folio.model import Folio
from summula.core.folio.snapshot import own_folder

if TYPE_CHECKING:
    from summula.core.folio.opened import Opened


_SEEN = "seen.json"


def ready_folio() -> Opened:
    """The demo's folio, from the cache when what it is made from has not changed since."""
    from summula.core.folio.kept import keep, open_kept

    kept = _kept()
    with contextlib.suppress(OSError, ValueError, KeyError, msgspec.MsgspecError):
        return open_kept(kept)
    from summula.demo.folio import demo_folio

    opened = demo_folio(demo_folder())
    with contextlib.suppress(OSError):  # a cache that cannot be written costs a second, no more
        import shutil

        for outdated in kept.parent.glob("demo-*"):
            shutil.rmtree(outdated, ignore_errors=True)
        keep(kept, opened)
    return opened


def snapshot_place() -> Path:
    """Where the sight of the demo's board is kept, beside its folio."""
    return _kept() / _SEEN


def snapshot_left() -> Path | None:
    """Where the sight of the demo's board was left, be it of the demo as it was before: it is seen for a moment only,
    and telling what the demo is made from now would hold that up."""
    return next(_own_cache().glob(f"demo-*/{_SEEN}"), None)


def is_ready(folio: Folio) -> bool:
    """Whether this is the demo's folio as it is kept."""
    with contextlib.suppress(OSError, msgspec.MsgspecError):
        return decoded((_kept() / "folio.json").read_bytes(), Folio) == folio
    return False


def _own_cache() -> Path:
    return own_folder("XDG_CACHE_HOME", ".cache")


def _kept() -> Path:
    return _own_cache() / f"demo-{_fingerprint()}"


def demo_folder() -> Path:
    """Where the demo's tables stand as files, so that they can be read again."""
    return own_folder("XDG_DATA_HOME", ".local/share") / "demo"


def put_files() -> None:
    """Write the demo's files unless they are there. Where that is not possible, only reading again will miss them."""
    from summula.demo.files import write_files

    if not (demo_folder() / "sailings.csv").exists():
        with contextlib.suppress(OSError):
            write_files(demo_folder())


@cache
def _fingerprint() -> str:
    """What the demo and its encoding are made from, in a few letters."""
    here = Path(__file__).parent
    with os.scandir(here.parent / "core") as parts:
        folders = [str(here), *sorted(part.path for part in parts if part.is_dir())]
    stamps: list[tuple[str, int, int]] = []
    for folder in folders:
        with os.scandir(folder) as sources:
            stamps += sorted(
                (source.name, (stat := source.stat()).st_size, stat.st_mtime_ns)
                for source in sources
                if source.name.endswith(".py")
            )
    return f"{zlib.crc32(repr(stamps).encode()):08x}"
