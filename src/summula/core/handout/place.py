"""Putting what is made in its place on disk, in one step."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Iterable
from pathlib import Path

from summula.core.folio.wholefile import unnamed
from summula.core.refusal import Refusal

_SUFFIX = ".part"


def check_not_read(to: Path, read: Iterable[Path]) -> None:
    """Refuses a target that is one of the files that were read, by whatever name or link."""
    for source in read:
        with contextlib.suppress(OSError):
            if to.resolve() == source.resolve() or to.samefile(source):
                wrong = f"'{to}' is the file that the figures come from" + ("" if to == source else f" ('{source}')")
                raise Refusal(wrong, "give the new file another name")


def put_in_place(to: Path, made: bytes, read: Iterable[Path] = ()) -> None:
    """Whoever opens the file sees the old one or the new; the old one stays where the new one cannot be written whole.
    `read` are the files that it was made from: none of them is written over. What a write that was killed has left
    beside it goes. Raises Refusal."""
    check_not_read(to, read)
    try:
        if to.exists() and not to.is_file():  # a device or a pipe takes it as it comes
            to.write_bytes(made)
            return
        to = to.resolve()  # what a link leads to is replaced, and the link stays
        for left in to.parent.glob(f".{_plain(to.name)}.*{_SUFFIX}"):
            with contextlib.suppress(OSError):
                left.unlink()
        beside = to.parent / f".{to.name[:100]}.{os.urandom(6).hex()}{_SUFFIX}"
        mode = to.stat().st_mode & 0o777 if to.exists() else None  # a new one is as private as the person has it
        try:
            with unnamed(to.parent, beside) as (stream, put_name):
                stream.write(made)
                stream.flush()
                if mode is not None:
                    os.fchmod(stream.fileno(), mode)
                os.fsync(stream.fileno())
                put_name()
                beside.replace(to)
        except BaseException:
            beside.unlink(missing_ok=True)
            raise
    except OSError as fault:
        wrong = f"'{to}' could not be written ({fault.strerror or fault})"
        raise Refusal(wrong, "choose another folder") from None


def _plain(name: str) -> str:
    """A name in which no letter stands for others."""
    import glob

    return glob.escape(name[:100])
