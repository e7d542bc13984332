"""Summula on the desktop of one person: an entry in the menu, an icon, a type of file, opening by a double click."""

from __future__ import annotations

import argparse
import shlex
import shutil
import subprocess
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from summula.core.folio.snapshot import own_folder
from summula.core.handout.place import put_in_place
from summula.core.refusal import Refusal

MIME = "application/x-summula-folio"
_ICONS = Path(__file__).parents[1] / "desk" / "icons"
_TABLES = ("text/csv", "text/tab-separated-values", "application/vnd.apache.parquet",
           "application/vnd.openxmlformats-officedocument.spreadsheetml.sheet",
           "application/vnd.oasis.opendocument.spreadsheet")  # fmt: skip


class Part(NamedTuple):
    """A file of the desktop's, and what stands in it."""

    place: Path
    content: bytes


def desktop_entry(command: Sequence[str]) -> str:
    """The entry of the menu, as freedesktop.org's specification of desktop entries has it."""
    line = " ".join(_quoted(each) for each in command)
    return (
        "[Desktop Entry]\nType=Application\nVersion=1.0\nName=Summula\nGenericName=Pivot summaries and boards\n"
        "Comment=Pivot summaries, charts and sliced boards from flat tables\n"
        f"Exec={line} open %F\nIcon=summula\nTerminal=false\nCategories=Office;Spreadsheet;Qt;\n"
        f"MimeType={MIME};{';'.join(_TABLES)};\nKeywords=pivot;dashboard;slicer;chart;table;\n"
        "StartupWMClass=summula\nActions=demo;\n\n"
        f"[Desktop Action demo]\nName=Look at the demo\nExec={line} demo\n"
    )


def mime_type() -> str:
    """The type of a folio, as the shared MIME-info specification has it."""
    return (
        '<?xml version="1.0" encoding="UTF-8"?>\n'
        '<mime-info xmlns="http://www.freedesktop.org/standards/shared-mime-info">\n'
        f'<mime-type type="{MIME}"><comment>Summula folio</comment>'
        '<sub-class-of type="application/zip"/><glob pattern="*.summula"/>'
        '<icon name="summula-folio"/></mime-type>\n</mime-info>\n'
    )


def _quoted(word: str) -> str:
    """A word of an Exec line."""
    plain = all(letter.isalnum() or letter in "/._-+:@" for letter in word)
    for sign in '\\"`$':
        word = word.replace(sign, "\\" + sign)
    return word.replace("%", "%%") if plain else '"' + word.replace("%", "%%") + '"'


def parts(data: Path, command: Sequence[str]) -> list[Part]:
    """What is put into a data folder ("~/.local/share", "/usr/share")."""
    icons = data / "icons" / "hicolor" / "scalable"
    return [
        Part(data / "applications" / "summula.desktop", desktop_entry(command).encode("utf-8")),
        Part(data / "mime" / "packages" / "summula.xml", mime_type().encode("utf-8")),
        Part(icons / "apps" / "summula.svg", (_ICONS / "summula.svg").read_bytes()),
        Part(icons / "mimetypes" / "summula-folio.svg", (_ICONS / "folio.svg").read_bytes()),
    ]


def integrate_desktop(options: argparse.Namespace) -> int:
    """Puts it all in place for this person, or takes it out again. Nothing is asked of root."""
    data = own_folder("XDG_DATA_HOME", ".local/share").parent
    found = parts(data, _command())
    for part in found:
        try:
            if options.remove:
                part.place.unlink(missing_ok=True)
            else:
                part.place.parent.mkdir(parents=True, exist_ok=True)
                put_in_place(part.place, part.content)
        except OSError as fault:
            wrong = f"'{part.place}' could not be changed ({fault.strerror or fault})"
            raise Refusal(wrong, "see who owns that folder") from None
    _refresh(data)
    word = "taken away" if options.remove else "in place"
    print("\n".join(f"{part.place} {word}" for part in found))
    return 0


def _command() -> list[str]:
    """How this very Summula is started."""
    beside = Path(sys.executable).with_name("summula")
    return [str(beside)] if beside.is_file() else [sys.executable, "-m", "summula"]


def _refresh(data: Path) -> None:
    """Let the desktop see it, where it has what does so; else it sees it at the next start of the session."""
    for command in (
        ["update-mime-database", str(data / "mime")],
        ["update-desktop-database", "-q", str(data / "applications")],
        ["gtk-update-icon-cache", "-q", "-t", "-f", str(data / "icons" / "hicolor")],
    ):
        if shutil.which(command[0]) and Path(command[-1]).is_dir():
            done = subprocess.run(command, capture_output=True, timeout=60, check=False)
            if done.returncode:
                print(
                    f"summula: {shlex.join(command)} said {done.stderr.decode(errors='replace').strip()}",
                    file=sys.stderr,
                )
