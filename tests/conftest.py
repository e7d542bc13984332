"""What all tests share: the screenless platform, and the demo, made once."""

from __future__ import annotations

import os
from collections.abc import Iterator
from typing import TYPE_CHECKING

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import pytest
from hypothesis import settings

from summula.core.folio.opened import Opened
from summula.demo.folio import demo_folio

if TYPE_CHECKING:
    from PyQt6.QtWidgets import QApplication
    from pytestqt.qtbot import QtBot

    from summula.desk.window import Window

settings.register_profile("steady", deadline=None, max_examples=60, print_blob=True)
settings.load_profile("steady")


@pytest.fixture(scope="session", autouse=True)
def own_cache(tmp_path_factory: pytest.TempPathFactory) -> Iterator[None]:
    """What is kept between starts is kept for one run of the tests."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setenv("XDG_CACHE_HOME", str(tmp_path_factory.mktemp("cache")))
        patch.setenv("XDG_STATE_HOME", str(tmp_path_factory.mktemp("state")))
        yield


@pytest.fixture(scope="session")
def demo() -> Opened:
    return demo_folio()


@pytest.fixture(autouse=True)
def widgets_held(request: pytest.FixtureRequest) -> Iterator[None]:
    """Widgets of a test are held until it is over: else one that only a local name held may be collected while Qt is
    painting it."""
    held: list[object] = []
    if "qtbot" in request.fixturenames:
        from summula.desk.work import Work

        Work.patience = 60.0  # what is expected soon is there, however slow the machine is just then
        qtbot = request.getfixturevalue("qtbot")
        add = qtbot.addWidget

        def hold(widget: object, **more: object) -> None:
            held.append(widget)
            add(widget, **more)

        qtbot.addWidget = hold
    yield
    held.clear()


@pytest.fixture(autouse=True)
def unasked(request: pytest.FixtureRequest, monkeypatch: pytest.MonkeyPatch) -> None:
    """A question that no test answers fails it, rather than waiting for a person."""
    if "qtbot" in request.fixturenames:
        from PyQt6.QtWidgets import QMessageBox

        def asked(box: QMessageBox) -> int:
            raise AssertionError(f"asked: {box.text()}")

        monkeypatch.setattr(QMessageBox, "exec", asked)


@pytest.fixture
def window(qtbot: QtBot, qapp: QApplication) -> Window:
    """The real window, empty, at 1280x800."""
    from summula.desk.application import application
    from summula.desk.window import Window

    application()
    made = Window()
    made.may_leave = lambda: True  # type: ignore[method-assign]  # nobody is there to be asked
    qtbot.addWidget(made)
    made.resize(1280, 800)
    made.show()
    return made


@pytest.fixture
def on_demo(window: Window, demo: Opened) -> Window:
    """The window with the demo's folio."""
    window.session.adopt(demo)
    return window


_WINDOWED = {"qtbot", "qapp", "window", "on_demo"}
_SLOW = ("test_random", "test_strangers", "test_hostile", "test_corpus", "test_reading")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """`-m "not qt"` runs what needs no window, `-m "not slow"` what takes a moment."""
    for item in items:
        if _WINDOWED & set(getattr(item, "fixturenames", ())):
            item.add_marker("qt")
        if item.path.stem.startswith(_SLOW):
            item.add_marker("slow")
