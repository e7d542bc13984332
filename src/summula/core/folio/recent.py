"""The folios that were open last, and how the window stood: kept in the person's state folder."""

from __future__ import annotations

import contextlib
import os
from pathlib import Path

import msgspec

from summula.core.decoding import decoded
from summula.core.folio.snapshot import own_folder

MOST = 12
_LARGEST = 256 * 1024  # bytes


class DeskState(msgspec.Struct, frozen=True, omit_defaults=True):
    """`folios`: their paths, the last one first. `geometry`: of the window, as Qt writes it, in base 64."""

    folios: tuple[str, ...] = ()
    geometry: str = ""


def _place() -> Path:
    return own_folder("XDG_STATE_HOME", ".local/state") / "desk.json"


def desk_state() -> DeskState:
    """What was kept; nothing where it cannot be read."""
    with contextlib.suppress(OSError, msgspec.MsgspecError):
        place = _place()
        if place.stat().st_size <= _LARGEST:
            return decoded(place.read_bytes(), DeskState)
    return DeskState()


def keep_desk_state(state: DeskState) -> None:
    """For the next start; a folder that takes nothing does no harm."""
    with contextlib.suppress(OSError):
        place = _place()
        place.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        beside = place.with_suffix(f".{os.getpid()}")
        with open(beside, "wb", opener=lambda name, flags: os.open(name, flags, 0o600)) as stream:
            stream.write(msgspec.json.encode(state))
        beside.replace(place)


def with_folio(state: DeskState, path: Path) -> DeskState:
    """The state after a folio was opened or saved there."""
    name = str(path.resolve())
    others = tuple(each for each in state.folios if each != name)
    return msgspec.structs.replace(state, folios=(name, *others)[:MOST])


def recent_folios() -> list[Path]:
    """Those that are still there, the last one first."""
    return [path for path in map(Path, desk_state().folios) if path.is_file()]
