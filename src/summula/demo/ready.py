"""The demo's folio, kept ready: made once, then opened from the user's cache in a blink."""

from __future__ import annotations

import contextlib
from hashlib import sha256
from pathlib import Path

import msgspec
from platformdirs import user_cache_path, user_data_path

from summula.core.folio.kept import keep, open_kept
from summula.core.folio.opened import Opened


def ready_folio() -> Opened:
    """The demo's folio, from the cache when what it is made from has not changed since."""
    kept = user_cache_path("summula") / f"demo-{_fingerprint()}"
    with contextlib.suppress(OSError, ValueError, KeyError, msgspec.MsgspecError):
        return open_kept(kept)
    from summula.demo.folio import demo_folio

    opened = demo_folio(demo_folder())
    with contextlib.suppress(OSError):  # a cache that cannot be written costs a second, no more
        keep(kept, opened)
    return opened


def demo_folder() -> Path:
    """Where the demo's tables stand as files, so that they can be read again."""
    return user_data_path("summula") / "demo"


def put_files() -> None:
    """Write the demo's files unless they are there. Where that is not possible, only reading again will miss them."""
    from summula.demo.files import write_files

    if not (demo_folder() / "sailings.csv").exists():
        with contextlib.suppress(OSError):
            write_files(demo_folder())


def _fingerprint() -> str:
    """What the demo and its encoding are made from, in a few letters."""
    here = Path(__file__).parent
    sources = sorted([*here.glob("*.py"), *(here.parent / "core").glob("*/*.py")])
    whole = sha256()
    for source in sources:
        stamp = source.stat()
        whole.update(f"{source.name}:{stamp.st_size}:{stamp.st_mtime_ns}".encode())
    return whole.hexdigest()[:16]
