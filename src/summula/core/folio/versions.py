"""Earlier versions of a folio: each save keeps the file that it replaces, for a while, thinned out by age."""

from __future__ import annotations

import contextlib
import os
import shutil
import zlib
from collections.abc import Iterable
from datetime import UTC, datetime, timedelta
from pathlib import Path
from typing import NamedTuple

from summula.core.folio.model import SUFFIX
from summula.core.folio.snapshot import own_folder

_STAMP = "%Y%m%dT%H%M%S"
# Of versions as old as this, one is kept in each such span.
_THINNED: tuple[tuple[timedelta, timedelta], ...] = (
    (timedelta(hours=2), timedelta(minutes=2)),
    (timedelta(days=2), timedelta(hours=1)),
    (timedelta(days=31), timedelta(days=1)),
    (timedelta(days=183), timedelta(days=7)),
)
_MOST_BYTES = 2 * 1024**3  # of one folio's versions together; the oldest go


class Version(NamedTuple):
    """A folio as it was until `at`."""

    path: Path
    at: datetime

    @property
    def words(self) -> str:
        return self.at.astimezone().strftime("%A %-d %B %Y, %H:%M")


def versions_of(path: Path) -> list[Version]:
    """The earlier versions of a folio's file, the newest first."""
    found = []
    folder = _folder(path)
    for each in folder.glob(f"*{SUFFIX}") if folder.is_dir() else []:
        with contextlib.suppress(ValueError):
            found.append(Version(each, datetime.strptime(each.stem, _STAMP).replace(tzinfo=UTC)))
    return sorted(found, key=lambda each: each.at, reverse=True)


def keep_version(path: Path, now: datetime | None = None) -> None:
    """Keep the file as it stands, before a save replaces it. A folder that takes nothing does no harm to the save."""
    now = now or datetime.now(UTC)
    folder = _folder(path)
    with contextlib.suppress(OSError):
        if not path.is_file():
            return
        folder.mkdir(parents=True, exist_ok=True, mode=0o700)
        place = folder / f"{now:{_STAMP}}{SUFFIX}"
        beside = place.with_suffix(".part")
        beside.unlink(missing_ok=True)
        try:
            os.link(path, beside)  # the save puts another file in its place, and never writes into this one
        except OSError:
            shutil.copyfile(path, beside)
        beside.replace(place)
        thin(path, now)


def thin(path: Path, now: datetime) -> None:
    """Take away what is not kept any longer."""
    every = versions_of(path)
    kept = set(_kept([each.at for each in every], now))
    total = 0
    for each in every:
        size = each.path.stat().st_size
        total += size
        if each.at not in kept or (total > _MOST_BYTES and each is not every[0]):
            each.path.unlink(missing_ok=True)


def _kept(times: Iterable[datetime], now: datetime) -> list[datetime]:
    """Of each span the newest; of what is older than all of them none."""
    kept, spans = [], set()
    for at in sorted(times, reverse=True):
        span = next((each for oldest, each in _THINNED if now - at <= oldest), None)
        if span is None:
            continue
        key = (span, int(at.timestamp() // span.total_seconds()))
        if key not in spans:
            spans.add(key)
            kept.append(at)
    return kept


def _folder(path: Path) -> Path:
    state = str(path.resolve()).encode()
    name = f"{path.stem[:60]}-{zlib.crc32(state):08x}{zlib.adler32(state):08x}"
    return own_folder("XDG_STATE_HOME", ".local/state") / "versions" / name
