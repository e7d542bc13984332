"""The file that a folio was opened from or saved to, as it stood then."""

from __future__ import annotations

from pathlib import Path

import msgspec


class Base(msgspec.Struct, frozen=True):
    """Where it is, its size and when it was changed last, in ns; without a path nothing was saved yet."""

    path: str = ""
    size: int = 0
    modified: int = 0

    @classmethod
    def of(cls, path: Path | None) -> Base:
        if path is None:
            return cls()
        try:
            stat = path.stat()
        except OSError:
            return cls(str(path))
        return cls(str(path.resolve()), stat.st_size, stat.st_mtime_ns)

    @property
    def stands(self) -> bool:
        """Whether the file is still as it was."""
        return bool(self.path) and Base.of(Path(self.path)) == self
