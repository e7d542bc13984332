"""Opens hostile folios in a window and visits every page: `python -m tests.hostile_windows FOLDER FIRST COUNT`.

FOLDER holds sound.summula and takes what is made of it. Prints a line for each folio that something went wrong with.
"""

from __future__ import annotations

import copy
import json
import random
import resource
import sys
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path
from typing import Any

from PyQt6.QtWidgets import QWidget

from summula.core.folio.model import FORMAT
from summula.core.refusal import Refusal
from summula.desk.application import application
from summula.desk.window import Window
from tests.hands import settled
from tests.test_strangers import harm, parts_of

_MEMORY = 6 * 1024**3
_DEFECT = "omething went wrong"


MARKUP = ("<b>bold</b>", "<img src='/etc/passwd'>", "&lt;script&gt;", "a&b", "{0}", "%s%n", "x" * 3_000, "\u202eexe.csv", "=1+1", "**a**")
FORMULAS = (
    '"Sailed on" - "Sailed on"', "CAST(1 AS DECIMAL(400, 400))", " || ".join(['"Route"'] * 400), "SPLIT_PART(1, 2, 3)", "1 / 0",
    "REPEAT(Route, 900)", "STRFTIME(\"Sailed on\", '%Q')", "POW(Takings, 99999)", "NULL", "INTERVAL '1 day'",
)  # fmt: skip
STEPS = (
    lambda dice: {"type": "AddFormula", "name": "New", "text": dice.choice(FORMULAS)},
    lambda dice: {"type": "SetKind", "field": "Route", "kind": dice.choice(["number", "date", "flag", "duration", "code"])},
)  # fmt: skip
NUMBERS = (0, 1, -1, 2, 7, 10**6, 2**31, -(2**63), 1e-300, 1e300, 0.1)


def strange(folio: Any, dice: random.Random) -> Any:
    """The folio's JSON with a few values put where others of their type stand: what the decoder lets pass."""
    folio = copy.deepcopy(folio)
    by_key: dict[object, list[Any]] = {}
    for path in parts_of(folio):
        by_key.setdefault(_key(path), []).append(_at(folio, path))
    for _ in range(dice.choice([1, 2, 3, 6])):
        path = dice.choice([each for each in parts_of(folio) if len(each) > 1])
        inside, value = _at(folio, path[:-1]), _at(folio, path)
        alike = [each for each in by_key.get(_key(path), []) if type(each) is type(value)] or [value]
        if dice.random() < 0.8:
            new = dice.choice(alike)
        elif isinstance(value, bool):
            new = not value
        elif isinstance(value, int | float):
            new = type(value)(dice.choice(NUMBERS))
        elif isinstance(value, str):
            new = dice.choice(MARKUP)
        elif isinstance(value, list):
            new = dice.choice([[], value[::-1], value * 30, value[:1]])
        else:
            new = dice.choice(alike)
        inside[path[-1]] = copy.deepcopy(new)
    if dice.random() < 0.3:
        folio["tables"][0].setdefault("steps", []).append(dice.choice(STEPS)(dice))
    return folio


def _key(path: tuple[Any, ...]) -> object:
    return next((each for each in reversed(path) if isinstance(each, str)), "")


def _at(value: Any, path: tuple[Any, ...]) -> Any:
    for key in path:
        value = value[key]
    return value


def make(folder: Path, seed: int) -> Path:
    """A folio made of the sound one, with some of what it says changed: now by values of every kind, now by such that
    could stand there."""
    with zipfile.ZipFile(folder / "sound.summula") as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    sound, dice = json.loads(members.pop("folio.json"))["folio"], random.Random(seed)
    folio = harm(sound, dice, folder / "secret.csv", 9) if seed % 5 == 0 else strange(sound, dice)
    path = folder / f"hostile {seed}.summula"
    with zipfile.ZipFile(path, "w", zipfile.ZIP_DEFLATED) as archive:
        archive.writestr("folio.json", json.dumps({"application": "Summula", "format": FORMAT, "folio": folio}))
        for name, data in members.items():
            archive.writestr(name, data)
    return path


@contextmanager
def faults() -> Iterator[list[str]]:
    """What was raised and not caught, meanwhile."""
    found: list[str] = []
    before = sys.excepthook
    sys.excepthook = lambda kind, fault, _: found.append(f"{kind.__name__}: {fault}")
    try:
        yield found
    finally:
        sys.excepthook = before


def visit(path: Path) -> list[str]:
    """What went wrong while the folio was opened and each of its pages shown."""
    window = Window()
    window.resize(1280, 800)
    window.show()
    told: list[str] = []
    with faults() as found:
        try:
            window.session.opening(path)()
        except Refusal:
            pass
        else:
            folio = window.session.folio
            for page in (*folio.tables, *folio.summaries, *folio.boards):
                window.session.turn_to(page.id)
                settled()
                told += [f"{page.id}: {each}" for each in _words(window) if _DEFECT in each]
    window.deleteLater()
    settled()
    return [*found, *told]


def _words(window: QWidget) -> Iterator[str]:
    for each in window.findChildren(QWidget):
        text = getattr(each, "text", None)
        if callable(text):
            said = text()
            if isinstance(said, str):
                yield said


def main() -> None:
    folder, first, count = Path(sys.argv[1]), int(sys.argv[2]), int(sys.argv[3])
    resource.setrlimit(resource.RLIMIT_DATA, (_MEMORY, _MEMORY))
    application()
    for seed in range(first, first + count):
        print(f"begins {seed}", flush=True)
        for each in visit(make(folder, seed)):
            print(f"wrong {seed} {each}", flush=True)
    print("done", flush=True)


if __name__ == "__main__":
    main()
