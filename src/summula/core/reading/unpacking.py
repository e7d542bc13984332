"""A table alone in a ZIP archive, unpacked for as long as it is read."""

from __future__ import annotations

import os
import shutil
import tempfile
import zipfile
import zlib
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path, PurePosixPath

from summula.core.reading.contents import ENDINGS, content_of
from summula.core.refusal import Refusal

_MOST_UNPACKED = 8 * 1024**3
_MOST_RATIO = 400
_SMALL = 64 * 1024**2
_PIECE = 1 << 20
_TABLES = tuple(ENDINGS)


@contextmanager
def unpacked(path: Path) -> Iterator[Path]:
    """The file itself, or the one table in it where it is a ZIP archive, which is gone afterwards."""
    if content_of(path) != "zip":
        yield path
        return
    with tempfile.TemporaryDirectory(prefix="summula-") as folder:
        yield _taken_out(path, Path(folder))


def _taken_out(path: Path, folder: Path) -> Path:
    try:
        with zipfile.ZipFile(path) as archive:
            entry = _only_table(path, archive)
            if entry.flag_bits & 1:
                raise Refusal(f"'{path.name}' is locked with a password", "unpack it first")
            most = min(_MOST_UNPACKED, max(_SMALL, entry.compress_size * _MOST_RATIO))
            target = folder / _name_within(path, entry.filename)
            size = 0
            with archive.open(entry) as stream, target.open("wb") as file:
                while piece := stream.read(_PIECE):
                    size += len(piece)
                    if size > most:
                        raise Refusal(
                            f"'{path.name}' unpacks to more than {most // 1024**2:,} MB",
                            "it may be malicious; check where it comes from",
                        )
                    file.write(piece)
            shutil.copystat(path, target)
            return target
    except (zipfile.BadZipFile, zlib.error, EOFError, NotImplementedError, RuntimeError, ValueError):
        raise Refusal(f"'{path.name}' is damaged: it does not unpack", "download or copy the file again") from None


def _name_within(archive: Path, entry: str) -> str:
    """What an unpacked file is called: what went wrong in it is told by its name, and by that of its archive. An
    entry's name may lead anywhere, and be of any length: only its last part is taken."""
    last = PurePosixPath(entry.replace("\\", "/"))
    stem = "".join(each for each in last.stem if each.isprintable())
    stem = stem.encode("utf-8", "replace")[:90].decode(errors="ignore")
    ending = last.suffix.lower()[:10] if last.suffix.isascii() and last.suffix.isprintable() else ""
    return f"{os.fsdecode(os.fsencode(archive.name)[-120:])} › {stem}{ending}"


def _only_table(path: Path, archive: zipfile.ZipFile) -> zipfile.ZipInfo:
    entries = [each for each in archive.infolist() if not each.is_dir() and not _is_hidden(each.filename)]
    tables = [each for each in entries if each.filename.lower().endswith(_TABLES)]
    data = [each for each in tables if "readme" not in each.filename.lower() and "license" not in each.filename.lower()]
    found = data or tables
    if len(found) == 1:
        return found[0]
    if not found:
        raise Refusal(f"'{path.name}' holds no table that can be read", "choose another file")
    some = ", ".join(PurePosixPath(each.filename).name for each in found[:6])
    raise Refusal(f"'{path.name}' holds {len(found):,} tables ({some})", "unpack it, and choose one of them")


def _is_hidden(name: str) -> bool:
    return any(part.startswith((".", "__MACOSX")) and part != ".." for part in PurePosixPath(name).parts)
