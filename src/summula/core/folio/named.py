"""The files that a person has named for a folio on this desk. What a folio from elsewhere names is read only once its
person has been asked."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterable
from pathlib import Path
from typing import TYPE_CHECKING

import msgspec

from summula.core.decoding import decoded
from summula.core.folio.journallog import private
from summula.core.folio.snapshot import own_folder
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.folio.model import TableEntry

_MAX_FOLIOS = 400  # remembered; those saved longest ago go, and ask again
_LARGEST = 4 * 1024**2  # bytes


class _Named(msgspec.Struct, frozen=True):
    """`places`: by the folio's path, the files that were named for it; the folio saved last comes last."""

    places: dict[str, tuple[str, ...]] = {}


def _file() -> Path:
    return own_folder("XDG_STATE_HOME", ".local/state") / "named.json"


def _remembered() -> _Named:
    with contextlib.suppress(OSError, msgspec.MsgspecError):
        file = _file()
        if file.stat().st_size <= _LARGEST:
            return decoded(file.read_bytes(), _Named)
    return _Named()


def named_for(folio: Path) -> frozenset[str]:
    """The files that were named for a folio, by their full paths."""
    return frozenset(_remembered().places.get(str(folio.resolve()), ()))


def keep_named(folio: Path, places: Iterable[str]) -> None:
    """Remember them for the next time it is opened; a folder that takes nothing does no harm: it is asked again."""
    key = str(folio.resolve())
    before = _remembered().places
    kept = {name: before[name] for name in [each for each in before if each != key][-_MAX_FOLIOS + 1 :]}
    with contextlib.suppress(OSError):
        file = _file()
        file.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        beside = file.with_suffix(f".{os.getpid()}")
        with open(beside, "wb", opener=private) as stream:
            stream.write(msgspec.json.encode(_Named(kept | {key: tuple(sorted(places))})))
        beside.replace(file)


def places_read(entry: TableEntry, folio: Path | None) -> list[str]:
    """The files that reading a table's sources again would read, by their full paths."""
    from summula.core.folio.rereading import place_of  # what opening a folio does not need

    found = []
    for source in entry.sources():
        with contextlib.suppress(Refusal):
            found.append(full_path(place_of(source, entry.name, folio)))
    return found


def full_path(path: Path) -> str:
    """A file's path by which it is known; links are followed."""
    return str(path.resolve())
