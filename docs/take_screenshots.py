"""Takes the pictures of docs/screenshots from the demo, at 1280x800. Run by `./run screenshots`."""

from __future__ import annotations

import os
import sys
import tempfile
import time
from collections.abc import Callable
from pathlib import Path

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

import msgspec
from PyQt6.QtCore import QPoint, QThreadPool
from PyQt6.QtGui import QPainter
from PyQt6.QtWidgets import QApplication

from summula.core.boards.boardstate import BoardState
from summula.core.charts.scene import Text
from summula.core.fields.bands import Bands
from summula.core.fields.heading import Heading
from summula.core.folio.model import with_lever, with_summary
from summula.core.grids.layout import Layout
from summula.core.grids.measurestyle import MeasureSetting, MeasureStyle
from summula.core.phrases.lever import LeverSetting
from summula.core.phrases.phrase import Phrase
from summula.core.preparation import steps
from summula.core.summaries import parse
from summula.demo.folio import demo_folio
from summula.desk.application import application
from summula.desk.preparing.bundles import BundlesPopover
from summula.desk.preparing.formula import FormulaPopover
from summula.desk.window import Window

sys.path.insert(0, str(Path(__file__).parent))
from contact_sheets import save as save_sheets

FOLDER = Path(__file__).parent / "screenshots"


def take(folder: Path = FOLDER, only: str = "") -> None:
    os.environ["XDG_STATE_HOME"] = tempfile.mkdtemp(prefix="summula-pictures-")  # what is kept is nobody's
    application()
    window = Window()
    window.session.adopt(demo_folio(Path("demo")))
    window.resize(1280, 800)
    window.show()

    def shot(name: str) -> None:
        settle()
        picture = window.grab()
        popover = QApplication.activePopupWidget()
        if popover is not None:  # a window of its own, laid where it stands
            painter = QPainter(picture)
            painter.drawPixmap(popover.pos() - window.mapToGlobal(QPoint(0, 0)), popover.grab())
            painter.end()
        if only in name:
            folder.mkdir(parents=True, exist_ok=True)
            picture.save(str(folder / f"{name}.png"))

    session = window.session
    session.turn_to("t1")
    window.pages.table.choose_field("Sailing no.")
    shot("table")
    preparing(window, shot)
    while session.history.undo_name:
        session.undo()
    session.turn_to("s3")
    window.pages.summary.pivot.select((1, 2), (3, 2))
    shot("summary-grid")
    window.pages.summary.pivot.select((1, 0), (1, 0))
    window.pages.summary.grid_actions.show_rows_behind()
    shot("rows-behind")
    window.refresh()
    session.turn_to(session.folio.boards[1].id)
    window.asides.hand_out()
    settle(1500)
    shot("hand-out")
    window.refresh()
    session.turn_to("t1")
    window.pages.table.show_starting_points()
    shot("starting-points")
    window.pages.table.starting.close()
    session.turn_to("s5")
    summary = session.folio.summary("s5")
    text = (
        'show sum of Takings - sum of "Running cost" called "Net result" and sum of Takings and sum of Takings '
        'as percent change on previous year of "Sailed on" called Growth by month of "Sailed on" '
        'across year of "Sailed on"'
    )
    phrase = parse(text, session.vocabulary("t1"))
    thousands = MeasureStyle("#,##0.0", "thousand", fill="bars")
    styles = (thousands, MeasureStyle(fill="shade", goal=300_000), MeasureStyle(signs=True))
    styled = msgspec.structs.replace(summary, phrase=phrase, measures=settings(phrase, styles))
    session.edit(with_summary(session.folio, styled), "style")
    shot("summary-styled")
    session.undo()
    laid_out(window, shot)
    charts(window, shot)
    session.turn_to("b8")
    board = window.pages.board
    board.slicing.choose("l22", ("Aldry – Fenholm", "Fenholm – Osk"))
    board.slicing.choose("l21", ("2024-01", "2025-11"))
    shot("board-reading")
    board.slicing.clear()
    session.turn_to("b60")
    settle(600)
    shot("board-charts")
    session.turn_to("b61")
    settle(600)
    shot("board-goals")
    session.turn_to("b8")
    settle()
    bars = next(each for each in board.panels.values() if each.panel.title == "Where the takings come from")
    assert bars.view.scene is not None
    petrel = next(mark.tag for mark in bars.view.scene.tagged() if mark.tag and "Petrel" in mark.tag.title)
    board.echoing.pick(bars.panel.id, petrel, adding=False)
    shot("board-echo")
    board.echoing.show(None)
    session.new_board()
    settle(900)
    shot("board-new")
    session.undo()
    session.turn_to("b8")
    session.set_board_state(BoardState(arranging=True, selection=("p17", "p18")))
    shot("board-arranging")
    window.session._saved = window.session.folio  # leave without being asked
    window.close()


def charts(window: Window, shot: Callable[[str], None]) -> None:
    """A chart whose trend is pointed at, and the sheet of all forms."""
    session = window.session
    session.turn_to("s40")
    settle()
    page = window.pages.summary
    assert page.chart.scene is not None
    page.chart.pointed.emit(next(m for m in page.chart.scene.marks if isinstance(m, Text) and m.part == "Trend"))
    shot("summary-chart")
    page.summary_margin.point_at(None)
    session.turn_to("s44")
    settle()
    page.choose_form(page.phrase)
    assert page.popover is not None
    settle(1500)
    page.popover.move(window.mapToGlobal(QPoint(240, 138)))
    shot("forms")
    page.popover.close()


def settings(phrase: Phrase, styles: tuple[MeasureStyle, ...]) -> tuple[MeasureSetting, ...]:
    return tuple(MeasureSetting(each, style) for each, style in zip(phrase.measures, styles, strict=False))


def laid_out(window: Window, shot: Callable[[str], None]) -> None:
    """A nested grid laid out by hand, with its popover; levers, courses and goals; a member looked into;
    the values themselves."""
    session = window.session

    def shown(name: str, text: str, **what: object) -> None:
        made = session.new_summary("t1", parse(text, session.vocabulary("t1")), name)
        what["measures"] = settings(made.phrase, what.pop("styles", ()))  # type: ignore[arg-type]
        folio = with_summary(session.folio, msgspec.structs.replace(session.folio.summary(made.id), **what))
        session.edit(folio, "lay out")
        settle()

    shown(
        "Route, vessel and quarter",
        'show sum of Takings and sum of Takings as share of column by Route then Vessel across year of "Sailed on" '
        'then quarter of "Sailed on" keeping top 3 Vessel by sum of Takings in each Route',
        styles=(MeasureStyle(fill="bars"), MeasureStyle()),
        layout=Layout(subtotals="below", bottom_name="Net", measures="rows"),
        folded_across=(("2023",), ("2024",)),
    )
    page = window.pages.summary
    page.summary_margin.arrange(window.margin)
    assert page.popover is not None
    page.popover.move(window.mapToGlobal(QPoint(716, 230)))
    shot("summary-layout")
    page.popover.close()
    fares = LeverSetting("Fare change", 0.04, -0.3, 0.3, 0.02, "0%")
    aim = LeverSetting("A vessel's year", 220_000, 0, 600_000, 10_000, "£#,##0")
    session.edit(with_lever(with_lever(session.folio, fares), aim), "levers")
    shown(
        "If fares rose",
        'show sum of Takings * (1 + lever "Fare change") called "With the change" by Route '
        'across year of "Sailed on"',
        styles=(MeasureStyle(sparkline=True, goal_lever="A vessel's year"),),
    )
    page.grid_actions.look_into(Heading("Route"), "Aldry – Fenholm", Heading("Vessel"))
    while session.history.undo_name:
        session.undo()


def settle(ms: int = 300) -> None:
    """Let workers finish and what they found be shown."""
    end = time.monotonic() + ms / 1000
    pool = QThreadPool.globalInstance()
    while time.monotonic() < end:
        QApplication.processEvents()
        time.sleep(0.005)
    if pool is not None:
        pool.waitForDone()
    QApplication.processEvents()


def preparing(window: Window, shot: Callable[[str], None]) -> None:
    """A file from preview to prepared table, and the popovers on the way."""
    page = window.pages.table
    with tempfile.TemporaryDirectory() as place:
        source = Path(place) / "berths.csv"
        source.write_text(BERTHS, "utf-8")
        window.opening.open_path(source)
        settle(500)
        shot("preview")
        window.importing.preview_page.take.click()
        settle(500)
        page.choose_field("Fee")
        page.put_steps((steps.Tidy(), steps.FillBlanks("Pier", above=True)), "tidy")
        page.choose_field("Vessel")
        settle()  # popovers close when the window becomes the active one
        page.step_maker.make(steps.AddBundles, page.strip, "Vessel")
        bundles = page.step_maker.popover
        assert isinstance(bundles, BundlesPopover)
        for member in ("Gull", "Tern"):
            bundles.bundle_of[member] = "small boats"
        bundles._fill()
        bundles.later()
        settle()
        bundles.confirm()
        page.step_maker.make(steps.AddFormula, page.strip)
        formula = page.step_maker.popover
        assert isinstance(formula, FormulaPopover)
        formula.called.setText("Fee a day")
        formula.text.setPlainText('ROUND("Fee" / "Day", 2)')
        settle()
        formula.text.setPlainText('ROUND("Fee" / "Days", 2)')
        settle()
        formula.confirm()
        page.choose_field("Fee")
        page.put_steps(
            (*page.entry().steps, steps.AddBands("Fee", Bands(at=(100.0,)), "Size", ("small", "large"))), "+ Size"
        )
        settle()
        page.step_maker.change(2, page.strip.chips()[3])
        shot("steps")
        popover = QApplication.activePopupWidget()
        assert popover is not None
        popover.close()
        source.write_text(BERTHS + "61;Auk;05/06/2024;2;80,00;N\n", "utf-8")
        window.importing.read_again()
        settle(500)
        window.news.hide()
        window.status.tell("", False)


VESSELS = ("Tern", "Gull", "Petrel", "Skua")
BERTHS = "Skerry harbour office;;;;;\nBerths let in spring;;;;;\nNo.;Vessel;From;Days;Fee;Pier\n" + "".join(
    f"{n:03d};{VESSELS[n * 7 % 4]};0{n % 7 + 1}/0{n % 5 + 2}/2024;{n % 9 + 1};"
    f"{'lost' if n == 17 else f'{(n * 37) % 400},{n % 10}0'};{'N' if n % 3 else ''}\n"
    for n in range(1, 61)
)

if __name__ == "__main__":
    application()
    save_sheets(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER)
    take(Path(sys.argv[1]) if len(sys.argv) > 1 else FOLDER, sys.argv[2] if len(sys.argv) > 2 else "")
