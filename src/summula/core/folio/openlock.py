"""Which folios are open on some desk of this person's, so that two windows do not save over each other."""

from __future__ import annotations

import contextlib
import fcntl
import zlib
from pathlib import Path
from typing import BinaryIO

from summula.core.folio.snapshot import own_folder


class OpenLock:
    """Held while a folio's file is open; let go by the system when the process ends, however it ends."""

    def __init__(self, stream: BinaryIO | None, place: Path) -> None:
        self._stream, self._place = stream, place

    def release(self) -> None:
        if self._stream is not None:
            with contextlib.suppress(OSError):
                self._place.unlink()
            self._stream.close()
            self._stream = None


def lock_folio(path: Path) -> OpenLock | None:
    """Hold a folio's file; None where another window holds it. Where no lock can be kept nobody is kept out."""
    state = str(path.resolve()).encode()
    place = own_folder("XDG_STATE_HOME", ".local/state") / "open" / f"{zlib.crc32(state):08x}{zlib.adler32(state):08x}"
    try:
        place.parent.mkdir(parents=True, exist_ok=True, mode=0o700)
        stream = place.open("ab")
    except OSError:
        return OpenLock(None, place)
    try:
        fcntl.flock(stream, fcntl.LOCK_EX | fcntl.LOCK_NB)
    except OSError:
        stream.close()
        return None
    return OpenLock(stream, place)
