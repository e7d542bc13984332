"""Random hands on the demo for some minutes: how long the window is held up, by what, and whether memory grows.

./run hands [MINUTES] [SEED]
"""

from __future__ import annotations

import gc
import os
import random
import sys
import tempfile
import threading
import time
import traceback
from collections import Counter
from collections.abc import Callable
from pathlib import Path
from types import TracebackType
from typing import NamedTuple

from PyQt6.QtCore import QPoint, Qt, QTimer
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QAbstractButton, QApplication, QFileDialog, QLineEdit, QMenu, QWidget

from summula.core.folio.opened import Opened
from summula.core.summaries import parse
from summula.demo.folio import demo_folio
from summula.desk.app import application, begin_collecting
from summula.desk.session import describe
from summula.desk.window import Window

STALL = 0.1  # seconds
_LOOK = 0.06  # seconds after which what the window does is noted
_PHRASES = (
    'show sum of Takings by Route then Vessel across year of "Sailed on" then quarter of "Sailed on"',
    "show sum of Takings by Route then Vessel then Ticket without subtotals",
    'show median of Takings and rows by "Delay (min)" in bands of 10 across Ticket with every member',
    'show sum of Takings as share of row by month of "Sailed on" across year of "Sailed on" keeping top 3 Route by rows',
    'show sum of Takings by "Sailed on" drawn as lines', "show distinct count of Vessel by Ticket across Weather drawn as columns",
    'show rows by "Sailing no." across Ticket', "show rows", 'show each row of Takings by Route drawn as box plot',
    'show sum of Takings by Route then Vessel keeping top 2 Vessel by rows in each Route gathering the rest',
)  # fmt: skip
_KEYS = (
    Qt.Key.Key_Up, Qt.Key.Key_Down, Qt.Key.Key_Left, Qt.Key.Key_Right, Qt.Key.Key_Space, Qt.Key.Key_Plus, Qt.Key.Key_Minus,
    Qt.Key.Key_End, Qt.Key.Key_Home, Qt.Key.Key_PageDown, Qt.Key.Key_Escape, Qt.Key.Key_Tab, Qt.Key.Key_F5,
)  # fmt: skip
_MODIFIERS = (
    Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.NoModifier, Qt.KeyboardModifier.AltModifier,
    Qt.KeyboardModifier.ShiftModifier, Qt.KeyboardModifier.ControlModifier,
)  # fmt: skip


class Stall(NamedTuple):
    """One answer that took long: seconds on the clock, of the thread's own, and given away by the machine's host; how
    much slower than at its best the machine was just after; and what the window was at."""

    took: float
    worked: float
    stolen: float
    slower: float
    place: str

    @property
    def unhindered(self) -> float:
        """About the seconds it would have taken, had the machine been left alone."""
        return max(min(self.worked, self.took - self.stolen), 0.0) / self.slower


class Watcher(threading.Thread):
    """Notes what the window's thread does when it has been at one thing for long."""

    def __init__(self) -> None:
        super().__init__(daemon=True)
        self.main = threading.main_thread().ident
        self.since = 0.0  # when the present deed began; 0 between deeds
        self.snapshot: list[str] = []
        self.places: Counter[str] = Counter()

    def run(self) -> None:
        while True:
            time.sleep(0.01)
            if self.since and time.monotonic() - self.since > _LOOK and self.main is not None:
                self.snapshot.append(_ours(self.main))


class Collecting:
    """How long garbage was collected since it was last asked; no other thread sees anything of it."""

    def __init__(self) -> None:
        self.spent, self._begun = 0.0, 0.0
        gc.callbacks.append(self._heard)

    def _heard(self, phase: str, _: dict[str, int]) -> None:
        if phase == "start":
            self._begun = time.monotonic()
        else:
            self.spent += time.monotonic() - self._begun


def _ours(thread: int) -> str:
    """Where a thread is in our code. The frames are let go at once: whoever holds one keeps its painter alive."""
    frame, places = sys._current_frames().get(thread), []
    while frame is not None and len(places) < 5:
        if "/summula/" in frame.f_code.co_filename:
            places.append((frame.f_code, frame.f_lineno))
        frame = frame.f_back
    del frame
    return " < ".join(f"{Path(code.co_filename).stem}.{code.co_name}:{line}" for code, line in places)


def _stolen() -> float:
    """Seconds that the host of a virtual machine has given to others since it began; 0 where nothing tells."""
    fields = Path("/proc/stat").read_text().split("\n", 1)[0].split()
    return int(fields[8]) / os.sysconf("SC_CLK_TCK") if len(fields) > 8 else 0.0


def _pace() -> float:
    """Seconds for a fixed piece of work: how fast the machine is at this moment."""
    begun = time.perf_counter()
    total = 0
    for each in range(50_000):
        total += each
    return time.perf_counter() - begun


def _resident() -> int:
    """Memory in use now, in MB."""
    pages = int(Path("/proc/self/statm").read_text().split()[1])
    return pages * os.sysconf("SC_PAGE_SIZE") >> 20


def _opened() -> Opened:
    """The demo as a worker hands it on to a window: with its tables described."""
    opened = demo_folio()
    for table in opened.prepared().values():
        describe(table)
    return opened


def main(minutes: float, seed: int) -> int:
    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="summula-hands-")  # what is kept is nobody's
    dice = random.Random(seed)
    app = application()
    window = Window()
    window.session.adopt(_opened())
    window.resize(1280, 800)
    window.show()
    window.opening.warm_up()
    QTest.qWait(2_000)
    begin_collecting()
    session = window.session
    words = session.vocabulary("t1")
    for text in _PHRASES:
        session.new_summary("t1", parse(text, words), "Trial")
    faults: list[str] = []

    def tell(kind: type[BaseException], fault: BaseException, trace: TracebackType | None) -> None:
        faults.append("".join(traceback.format_exception(kind, fault, trace)))
        print(faults[-1], flush=True)

    sys.excepthook = tell
    session.notice.connect(lambda sentence, wrong: faults.append(sentence) if "went wrong" in sentence else None)
    watcher, collecting = Watcher(), Collecting()
    watcher.start()
    QFileDialog.getOpenFileName = QFileDialog.getSaveFileName = lambda *_, **__: ("", "")  # type: ignore[method-assign,assignment]
    QFileDialog.getOpenFileNames = lambda *_, **__: ([], "")  # type: ignore[method-assign,assignment]
    waited = [0.0]

    def let_go() -> None:
        """A menu or a question that waits for an answer is sent away: its time is nobody's."""
        for open_ in (QApplication.activeModalWidget(), QApplication.activePopupWidget()):
            if open_ is not None and (open_.isModal() or isinstance(open_, QMenu)):
                open_.close()
                waited[0] = time.monotonic()

    timer = QTimer()
    timer.timeout.connect(let_go)
    timer.start(30)

    def somewhere(widget: QWidget) -> QPoint:
        return QPoint(dice.randrange(max(widget.width(), 1)), dice.randrange(max(widget.height(), 1)))

    aimed: list[QWidget] = [window]  # looked for before the time is taken

    def aim() -> None:
        aimed[0] = dice.choice([each for each in window.findChildren(QWidget) if each.isVisible() and each.isEnabled()])
        lines[:] = [each for each in window.findChildren(QLineEdit) if each.isVisible()]

    lines: list[QLineEdit] = []

    def widget() -> QWidget:
        return aimed[0]

    def click() -> None:
        target = widget()
        QTest.mouseClick(target, Qt.MouseButton.LeftButton, dice.choice(_MODIFIERS), somewhere(target))

    def double_click() -> None:
        target = widget()
        QTest.mouseDClick(target, Qt.MouseButton.LeftButton, pos=somewhere(target))

    def drag() -> None:
        target = widget()
        QTest.mousePress(target, Qt.MouseButton.LeftButton, pos=somewhere(target))
        for _ in range(3):
            note("drag")
            QTest.mouseMove(target, somewhere(target))
        note("drag")
        QTest.mouseRelease(target, Qt.MouseButton.LeftButton, pos=somewhere(target))

    def key() -> None:
        target = QApplication.focusWidget() or window
        QTest.keyClick(target, dice.choice(_KEYS), dice.choice(_MODIFIERS[:4]))

    def write() -> None:
        if lines:
            QTest.keyClicks(dice.choice(lines), dice.choice(["a", "12", "x y", "%"]))

    def popover() -> None:
        open_ = QApplication.activePopupWidget()
        if open_ is None:
            return
        buttons = [each for each in open_.findChildren(QAbstractButton) if each.isVisible() and each.isEnabled()]
        if buttons and dice.random() < 0.6:
            QTest.mouseClick(dice.choice(buttons), Qt.MouseButton.LeftButton)
        else:
            open_.close()

    def turn() -> None:
        session.turn_to(dice.choice([page.id for _, page in session.folio.pages()]))

    def slice_() -> None:
        session.turn_to(session.folio.boards[0].id if session.folio.boards else session.page_id)

    grid_actions: list[Callable[[], object]] = [
        click, click, click, double_click, drag, key, key, write, popover, popover, turn, slice_, session.undo, session.redo,
        lambda: window.resize(dice.randrange(900, 1500), dice.randrange(600, 900)), window.grab,
    ]  # fmt: skip
    stalls: list[Stall] = []
    since = [0.0, 0.0, 0.0]  # the clock, the thread's own, and what was stolen, when what is timed now began
    quickest = min(_pace() for _ in range(50))

    def begin() -> None:
        watcher.snapshot.clear()
        collecting.spent = 0.0
        since[2], since[1] = _stolen(), time.thread_time()
        watcher.since = since[0] = time.monotonic()

    def note(name: str) -> None:
        """One answer of the window is over: a hand that goes on asks for the next."""
        took, worked, watcher.since = time.monotonic() - since[0], time.thread_time() - since[1], 0.0
        if took > STALL and waited[0] < since[0] - 0.05:
            places = list(watcher.snapshot)
            watcher.places.update(set(places))
            spread = [places[at * (len(places) - 1) // 2] for at in range(3)] if places else ["?"]
            where = " … ".join(dict.fromkeys(each or "(Qt)" for each in spread))
            words = f"{name}: {where} (collecting {collecting.spent * 1000:.0f} ms)"
            stalls.append(Stall(took, worked, _stolen() - since[2], max(_pace() / quickest, 1.0), words))
        begin()

    begun, notice, done = time.monotonic(), time.monotonic(), 0
    sizes = []
    while time.monotonic() - begun < minutes * 60:
        edit_name = dice.choice(grid_actions)
        aim()
        begin()
        edit_name()
        app.processEvents()
        if edit_name != window.grab:
            note(getattr(edit_name, "__name__", str(edit_name)))
        watcher.since = 0.0
        QTest.qWait(1)
        done += 1
        if not session.folio.tables or len(session.folio.summaries) < 3 or time.monotonic() - notice > 60:
            notice = time.monotonic()
            session.adopt(_opened())
            QTest.qWait(200)  # what the folio before left behind is let go
            sizes.append(_resident())
            for text in _PHRASES:
                session.new_summary("t1", parse(text, words), "Trial")
            QTest.qWait(200)
            print(f"{(notice - begun) / 60:4.1f} min  {done:,} deeds  {sizes[-1]} MB  {len(stalls)} stalls", flush=True)
    third = max(len(sizes) // 3, 1)
    means = [sum(part) / len(part) for part in (sizes[third : 2 * third], sizes[-third:]) if part]
    print(f"{done:,} deeds in {minutes:g} minutes; {len(faults)} exceptions")
    print(
        f"memory of the same folio opened again, second third and last: {' and '.join(f'{each:.0f}' for each in means)} MB"
    )
    own = [each for each in stalls if each.worked > STALL]  # the others waited for the machine
    true = [each for each in own if each.unhindered > STALL]
    longest = max([0.0, *(each.took for each in stalls)])
    print(f"over {STALL * 1000:.0f} ms: {len(stalls)}, {len(own)} of them at work; the longest {longest * 1000:.0f} ms")
    print(f"{len(true)} of them without what the host took and at the quickest pace met (the others: it was slow just then)")
    for each in sorted(stalls, key=lambda each: -each.unhindered)[:25]:
        print(
            f"  {each.took * 1000:5.0f} ms, {each.worked * 1000:5.0f} at work, {each.stolen * 1000:4.0f} stolen,"
            f" {each.slower:3.1f} x slower, {each.unhindered * 1000:4.0f} unhindered  {each.place}"
        )
    for fault in faults[:10]:
        print(fault)
    return 1 if faults else 0


if __name__ == "__main__":
    said = [float(each) for each in sys.argv[1:]]
    sys.exit(main(said[0] if said else 30.0, int(said[1]) if len(said) > 1 else 1))
