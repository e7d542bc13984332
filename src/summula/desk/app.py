"""Starting the desk."""

from __future__ import annotations

import sys
from collections.abc import Sequence
from pathlib import Path
from types import TracebackType
from typing import TYPE_CHECKING

from PyQt6.QtCore import QTimer
from PyQt6.QtWidgets import QApplication

from summula.core.refusal import Refusal
from summula.desk.application import application

if TYPE_CHECKING:
    from summula.desk.window import Window


def run(paths: Sequence[Path] = ()) -> int:
    from summula.desk.window import Window

    for path in paths:
        if not path.exists():
            raise Refusal(f"there is no file '{path}'", "check the name and the folder")
    app = application()
    window = Window()
    window.keeping.restore()
    window.show()
    if paths:
        window.opening.open_paths(list(paths))
    return _attend(app, window)


def run_demo() -> int:
    from summula.desk.window import Window

    app = application()
    window = Window()
    window.opening.open_demo()
    window.show()
    return _attend(app, window)


def _attend(app: QApplication, window: Window) -> int:
    """Run until the window closes; what can wait until it is seen is done then."""

    def tell(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        _tell_defect(window, kind, fault, trace)

    sys.excepthook = tell
    QTimer.singleShot(300, window.opening.warm_up)
    QTimer.singleShot(700, window.keeping.offer_unsaved)
    QTimer.singleShot(500, begin_collecting)
    return app.exec()


def _tell_defect(window: Window, kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
    """A defect of ours ends one action, never the desk with a person's work on it."""
    import traceback

    traceback.print_exception(kind, fault, trace)
    window.session.refuse(
        Refusal(f"something went wrong here ({kind.__name__}: {fault})", "undo it, and please report it")
    )


def begin_collecting() -> None:
    """Let garbage be collected from now on; what starting made stays aside."""
    from summula.desk.collecting import Collector

    Collector(QApplication.instance())
