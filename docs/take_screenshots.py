"""Takes the pictures of docs/screenshots from the demo, at 1280x800. Run by `./run screenshots`."""

from __future__ import annotations

import os
import sys
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from PyQt6.QtWidgets import QApplication

from summula.demo.folio import demo_folio
from summula.desk.app import application
from summula.desk.window import Window

FOLDER = Path(__file__).parent / "screenshots"


def take(folder: Path = FOLDER, only: str = "") -> None:
    application()
    window = Window()
    window.session.adopt(demo_folio())
    window.resize(1280, 800)
    window.show()

    def shot(name: str) -> None:
        QApplication.processEvents()
        QApplication.processEvents()
        if only in name:
            folder.mkdir(parents=True, exist_ok=True)
            window.grab().save(str(folder / f"{name}.png"))

    session = window.session
    session.turn_to("t1")
    window.table_page.choose_field("Sailing no.")
    shot("table")
    session.turn_to("s3")
    window.summary_page.pivot.select((1, 2), (3, 2))
    shot("summary-grid")
    session.turn_to("s4")
    shot("summary-chart")
    session.turn_to("b8")
    board = window.board_page
    board.choose("l22", ("Aldry – Fenholm", "Fenholm – Osk"))
    board.choose("l21", ("2024-01", "2025-11"))
    shot("board-reading")
    board.selected = "p17"
    board.set_arranging(True)
    shot("board-arranging")
    window.session._saved = window.session.folio  # leave without being asked
    window.close()


if __name__ == "__main__":
    take(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER, sys.argv[2] if len(sys.argv) > 2 else "")
