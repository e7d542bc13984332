"""A systemd timer of the person's own session that refreshes a folio and hands it out."""

from __future__ import annotations

import re
import sys
from collections.abc import Sequence
from pathlib import Path
from typing import NamedTuple

from summula.core.folio.snapshot import own_folder
from summula.core.handout.place import put_in_place
from summula.core.refusal import Refusal

_TIME = re.compile(r"([01]\d|2[0-3]):([0-5]\d)", re.ASCII)


class Unit(NamedTuple):
    """A unit's file, and what stands in it."""

    place: Path
    text: str


def timer_units(folio: Path, to: Path, at: str, pages: Sequence[str] = ()) -> tuple[Unit, Unit]:
    """The service and the timer. `at`: a time of day, as 06:00. Raises Refusal."""
    if not _TIME.fullmatch(at):
        raise Refusal(f"'{at}' is not a time of day", "write it as 06:00")
    folio, to = folio.resolve(), to.resolve()
    name = "summula-" + (re.sub(r"[^A-Za-z0-9]+", "-", folio.stem).strip("-").lower() or "folio")
    folder = own_folder("XDG_CONFIG_HOME", ".config").parent / "systemd" / "user"
    words = [sys.executable, "-m", "summula", "refresh", str(folio), "--hand-out", str(to), *_each(pages)]
    service = (
        f"[Unit]\nDescription=Refresh {_plain(folio.name)} and hand it out\n\n"
        f"[Service]\nType=oneshot\nExecStart={' '.join(_quoted(each) for each in words)}\n"
    )
    timer = (
        f"[Unit]\nDescription=Every day at {at}: {_plain(folio.name)}\n\n"
        f"[Timer]\nOnCalendar=*-*-* {at}:00\nPersistent=true\n\n[Install]\nWantedBy=timers.target\n"
    )
    return Unit(folder / f"{name}.service", service), Unit(folder / f"{name}.timer", timer)


def _each(pages: Sequence[str]) -> list[str]:
    return [word for page in pages for word in ("--page", page)]


def write_units(units: Sequence[Unit]) -> None:
    """Refuses to overwrite what it did not write itself."""
    for unit in units:
        if (
            unit.place.exists()
            and '-m" "summula"' not in unit.place.read_text("utf-8")
            and unit.place.suffix == ".service"
        ):
            raise Refusal(f"'{unit.place}' is there already, and is another's", "rename the folio, or move that away")
    for unit in units:
        try:
            unit.place.parent.mkdir(parents=True, exist_ok=True)
        except OSError as fault:
            raise Refusal(f"'{unit.place.parent}' could not be made ({fault.strerror})", "make it yourself") from None
        put_in_place(unit.place, unit.text.encode("utf-8"))


def _plain(text: str) -> str:
    """One line, in which nothing is read as a specifier."""
    return " ".join(text.split()).replace("%", "%%")


def _quoted(word: str) -> str:
    """A word of a command line as systemd reads it."""
    for sign, meant in (("\\", "\\\\"), ('"', '\\"'), ("%", "%%"), ("$", "$$"), ("\n", "\\n")):
        word = word.replace(sign, meant)
    return f'"{word}"'
