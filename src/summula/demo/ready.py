"""The demo's folio, kept ready: made once, then opened from the user's cache in a blink."""

from __future__ import annotations

import contextlib
from hashlib import sha256
from pathlib import Path

from platformdirs import user_cache_path

from summula.core.folio.file import Opened, open_folio, save_folio
from summula.core.refusal import Refusal


def ready_folio() -> Opened:
    """The demo's folio, from the cache when what it is made from has not changed since."""
    kept = user_cache_path("summula") / f"demo-{_fingerprint()}.summula"
    with contextlib.suppress(Refusal):
        if kept.exists():
            return open_folio(kept)
    from summula.demo.folio import demo_folio

    opened = demo_folio()
    with contextlib.suppress(OSError, Refusal):  # a cache that cannot be written costs a second, no more
        kept.parent.mkdir(parents=True, exist_ok=True)
        save_folio(kept, opened.folio, opened.tables)
    return opened


def _fingerprint() -> str:
    """What the demo and the file format are made from, in a few letters."""
    sources = sorted([*Path(__file__).parent.glob("*.py"), *(Path(__file__).parents[1] / "core").glob("**/*.py")])
    whole = sha256()
    for source in sources:
        stamp = source.stat()
        whole.update(f"{source.name}:{stamp.st_size}:{stamp.st_mtime_ns}".encode())
    return whole.hexdigest()[:16]
