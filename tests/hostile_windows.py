"""Opens hostile folios in a window and visits every page: `python -m tests.hostile_windows FOLDER FIRST COUNT`.

FOLDER holds sound.summula and takes what is made of it. Prints a line for each folio that something went wrong with.
"""

from __future__ import annotations

import json
import random
import resource
import sys
import zipfile
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

from PyQt6.QtCore import QThreadPool
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QWidget

from summula.core.folio.model import FORMAT
from summula.core.refusal import Refusal
from summula.desk.application import application
from summula.desk.window import Window
from tests.test_strangers import harm

_MEMORY = 6 * 1024**3
_DEFECT = "omething went wrong"


def make(folder: Path, seed: int) -> Path:
    """A folio made of the sound one, with some of what it says changed."""
    with zipfile.ZipFile(folder / "sound.summula") as archive:
        members = {name: archive.read(name) for name in archive.namelist()}
    folio = harm(json.loads(members.pop("folio.json"))["folio"], random.Random(seed), folder / "secret.csv", 9)
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


def _settled() -> None:
    pool = QThreadPool.globalInstance()
    assert pool is not None
    for _ in range(2):
        while not pool.waitForDone(20):
            QTest.qWait(0)
        QTest.qWait(0)


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
                _settled()
                told += [f"{page.id}: {each}" for each in _words(window) if _DEFECT in each]
        window.session.adopt_nothing() if hasattr(window.session, "adopt_nothing") else None
        window.keeping.journal.stop() if hasattr(window.keeping, "journal") else None
    window.deleteLater()
    _settled()
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
