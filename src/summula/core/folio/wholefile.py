"""Files that are whole or not there: they have no name until they are written."""

from __future__ import annotations

import contextlib
import os
from collections.abc import Callable, Iterator
from pathlib import Path
from typing import BinaryIO


@contextlib.contextmanager
def unnamed(folder: Path, name: Path) -> Iterator[tuple[BinaryIO, Callable[[], None]]]:
    """A file of a folder that has no name yet, and what names it."""
    try:
        descriptor = os.open(folder, os.O_TMPFILE | os.O_RDWR, 0o666)
    except (OSError, AttributeError):  # a system or a disk without such files
        with name.open("w+b") as stream:
            yield stream, lambda: None
        return
    with os.fdopen(descriptor, "w+b") as stream:
        fd = stream.fileno()
        # With a folder given, Python calls linkat, which follows the link to the file that is open.
        yield stream, lambda: os.link(f"/proc/self/fd/{fd}", name, src_dir_fd=fd, follow_symlinks=True)


def sync_folder(folder: Path) -> None:
    with contextlib.suppress(OSError):
        descriptor = os.open(folder, os.O_RDONLY)
        try:
            os.fsync(descriptor)
        finally:
            os.close(descriptor)
