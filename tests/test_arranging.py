"""Boards from nothing, many panels arranged at once, reach, named slicings, play, presenting, notes: by mouse and keys."""

from __future__ import annotations

from datetime import date, timedelta
from pathlib import Path

import polars as pl
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from msgspec.structs import replace
from PyQt6.QtCore import QPoint, Qt
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QApplication, QFileDialog, QPushButton
from pytestqt.qtbot import QtBot

from summula.core.boards.arrangement import aligned, distributed, equalised, grown, moved, put_beside, with_places
from summula.core.boards.board import (
    COLUMNS,
    Board,
    FramePanel,
    KeyFigurePanel,
    LeverPanel,
    NotePanel,
    Panel,
    Place,
    SummaryPanel,
    Underlay,
)
from summula.core.boards.notetext import Block, Run, blocks_of, note_scene
from summula.core.boards.playing import Play
from summula.core.boards.reach import keeping_slicing, sliced_as, slicing_now, with_reach
from summula.core.charts import draw
from summula.core.charts.chart import Canvas, chart_of
from summula.core.charts.gliding import between
from summula.core.charts.places import Bounds, text_bounds
from summula.core.charts.scene import Line, Point, Text
from summula.core.folio.carrying import carried, from_bytes, pasted, to_bytes
from summula.core.folio.model import with_board
from summula.core.folio.offering import LAYOUTS, SLOT, offered_boards, with_field_panel, with_offer
from summula.core.folio.opened import Opened
from summula.core.language.starting import starting_points
from summula.core.reading.readers import table_from_frame
from summula.core.refusal import Refusal
from summula.core.slicing.slicer import ListSlicer, PeriodSlicer
from summula.core.summaries import answer, parse, print_phrase
from summula.core.theme.typefaces import text_width
from summula.demo import company as demo_company
from summula.demo.company import sailings
from summula.desk.board.canvas import guides
from summula.desk.board.leverview import LeverView
from summula.desk.board.periodruler import PeriodRuler
from summula.desk.board.pictureasking import take_picture
from summula.desk.board.reachmatrix import ReachPopover
from summula.desk.board.slicings import SlicingsPopover
from summula.desk.window import Window
from tests.hands import LEFT, drop, margin_of, settled, take_in

CTRL, ALT, SHIFT = Qt.KeyboardModifier.ControlModifier, Qt.KeyboardModifier.AltModifier, Qt.KeyboardModifier.ShiftModifier
Key = Qt.Key


def board_of(window: Window) -> Board:
    return window.session.folio.board(window.session.page_id)


# -- places ---------------------------------------------------------------------------------------------------


@st.composite
def boards(draw: st.DrawFn) -> Board:
    panels: list[Panel] = []
    for at in range(draw(st.integers(2, 9))):
        wide, high = draw(st.integers(3, 12)), draw(st.integers(3, 9))
        place = Place(draw(st.integers(0, COLUMNS - wide)), draw(st.integers(0, 30)), wide, high)
        kind = draw(st.sampled_from(["note", "note", "note", "frame"]))
        locked = draw(st.integers(0, 7)) == 0
        panels.append(NotePanel(f"p{at}", place, locked=locked) if kind == "note" else FramePanel(f"p{at}", place))
    board = Board("b", "B", tuple(panels))
    return with_places(replace(board, panels=tuple(replace(p, locked=False) for p in panels)), {})


@settings(max_examples=150)
@given(boards(), st.data())
def test_many_are_placed_at_once_and_never_lie_on_each_other(board: Board, data: st.DataObject) -> None:
    ids = tuple(data.draw(st.lists(st.sampled_from([p.id for p in board.panels]), min_size=1, unique=True)))
    kind = data.draw(st.sampled_from(["move", "grow", "left", "bottom", "middle", "same", "gaps", "copy"]))
    if kind == "move":
        after = moved(board, ids, data.draw(st.integers(-30, 30)), data.draw(st.integers(-30, 30)))
    elif kind == "grow":
        after = grown(board, ids, data.draw(st.integers(-9, 9)), data.draw(st.integers(-9, 9)))
    elif kind == "same":
        after = equalised(board, ids)
    elif kind == "gaps":
        after = distributed(board, ids, down=data.draw(st.booleans()))
    elif kind == "copy":
        after = put_beside(board, [board.panel(each) for each in ids], [f"n{each}" for each in ids])
        assert len(after.panels) == len(board.panels) + len(ids)
    else:
        after = aligned(board, ids, kind)  # type: ignore[arg-type]
    solid = [p.place for p in after.panels if not isinstance(p, FramePanel)]
    assert not any(a.overlaps(b) for at, a in enumerate(solid) for b in solid[at + 1 :])
    assert all(p.place.column >= 0 and p.place.row >= 0 and p.place.column + p.place.width <= COLUMNS for p in after.panels)
    if kind == "move" and len(ids) > 1:  # they keep standing to each other as they did, unless they are in each other's way
        frames = [each for each in ids if isinstance(board.panel(each), FramePanel)]
        steps = {(after.panel(e).place.column - board.panel(e).place.column, after.panel(e).place.row - board.panel(e).place.row) for e in frames}
        assert len(steps) <= 1


def test_places_are_exact() -> None:
    notes = tuple(NotePanel(f"p{at}", Place(*place)) for at, place in enumerate([(0, 0, 4, 4), (6, 5, 5, 3), (14, 9, 6, 6)]))
    board = Board("b", "B", notes)
    ids = ("p0", "p1", "p2")
    assert [aligned(board, ids, "left").panel(e).place.column for e in ids] == [0, 0, 0]
    assert [aligned(board, ("p2", "p0", "p1"), "right").panel(e).place.column for e in ids] == [16, 15, 14]
    assert {(p.place.width, p.place.height) for p in equalised(board, ids).panels} == {(4, 4)}
    gaps = sorted(p.place.column for p in distributed(board, ids).panels)
    assert gaps == [0, 7, 14]  # five columns between them, three and two: what does not divide goes to the first
    far = with_places(board, {"p1": Place(99, -4, 50, 1)}).panel("p1").place
    assert (far.column, far.row, far.width, far.height) == (0, 0, 24, 2)
    fixed = replace(board, panels=(replace(notes[0], locked=True), *notes[1:]))
    pushed = with_places(fixed, {"p1": Place(0, 0, 4, 4), "p0": Place(9, 9, 4, 4)})
    assert pushed.panel("p0").place == Place(0, 0, 4, 4) and pushed.panel("p1").place.row >= 4


# -- by hand --------------------------------------------------------------------------------------------------


def test_panels_are_arranged_by_mouse_and_keys(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    QTest.keyClick(on_demo, Key.Key_E, CTRL)
    before = session.folio
    QTest.keyClick(page.canvas, Key.Key_A, CTRL)
    assert len(page.arranger.selection) == len(board_of(on_demo).panels)
    first, second = (page.panels[each.id] for each in board_of(on_demo).panels[:2])
    top = page.canvas
    QTest.mousePress(top, LEFT, pos=QPoint(1, first.geometry().bottom() + 4))  # a click beside all: none
    QTest.mouseRelease(top, LEFT, pos=QPoint(1, first.geometry().bottom() + 4))
    assert page.arranger.selection == ()
    band = second.geometry().bottomLeft() + QPoint(20, 5)  # a rubber band from below the second into the first
    QTest.mousePress(top, LEFT, pos=band)
    QTest.mouseMove(top, first.geometry().center())
    QTest.mouseRelease(top, LEFT, pos=first.geometry().center())
    assert set(page.arranger.selection) == {first.panel.id, second.panel.id}
    QTest.mouseClick(first, LEFT, CTRL, pos=QPoint(20, 10))
    assert page.arranger.selection == (second.panel.id,)
    QTest.mouseClick(first, LEFT, CTRL, pos=QPoint(20, 10))
    assert page.arranger.selection == (second.panel.id, first.panel.id)
    QTest.keyClick(first, Key.Key_S, ALT | SHIFT)
    QTest.keyClick(first, Key.Key_T, ALT | SHIFT)
    places = [board_of(on_demo).panel(each).place for each in page.arranger.selection]
    assert places[0].row == places[1].row and places[0].width == places[1].width
    page.arranger.pick(first.panel.id, False)
    page.arranger.select((first.panel.id,))
    QTest.keyClick(first, Key.Key_D, CTRL | ALT)
    assert len(board_of(on_demo).panels) == len(before.board("b8").panels) + 1
    QTest.keyClick(page.panels[page.arranger.selection[0]], Key.Key_L, CTRL)
    copied = board_of(on_demo).panel(page.arranger.selection[0])
    assert copied.locked
    QTest.keyClick(page.panels[copied.id], Key.Key_Down)
    assert board_of(on_demo).panel(copied.id).place == copied.place  # what is locked stays
    # cut here, pasted on another board
    page.arranger.select((first.panel.id, second.panel.id))
    QTest.keyClick(page.panels[first.panel.id], Key.Key_X, CTRL)
    assert first.panel.id not in page.panels
    session.turn_to("b9")
    page.set_arranging(True)
    count = len(board_of(on_demo).panels)
    QTest.keyClick(page.canvas, Key.Key_V, CTRL)
    assert len(board_of(on_demo).panels) == count + 2 and len(page.arranger.selection) == 2
    while session.folio != before:
        assert session.history.undo_name
        session.undo()


def test_a_place_by_number_guides_and_a_sketch(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    page.set_arranging(True)
    panel = board_of(on_demo).panels[0]
    page.arranger.select((panel.id,))
    button = next(b for b in margin_of(on_demo).findChildren(QPushButton) if b.accessibleName().startswith("Size"))
    QTest.mouseClick(button, LEFT)
    from summula.desk.board.placepopover import PlacePopover

    popover = next(each for each in on_demo.findChildren(PlacePopover) if each.isVisible())
    popover.numbers["width"].setValue(9)
    popover.numbers["height"].setValue(5)
    place = board_of(on_demo).panel(panel.id).place
    assert (place.width, place.height) == (9, 5)
    popover.close()
    # while it is dragged, guides show what it lines up with
    view, below = page.panels[panel.id], board_of(on_demo).panels[4]
    start = QPoint(30, 10)
    QTest.mousePress(view, LEFT, pos=start)
    QTest.mouseMove(view, start + QPoint(2, 4))
    target = page.panels[below.id].geometry()
    assert page.canvas.guides and any(upright for upright, _ in page.canvas.guides)
    QTest.mouseRelease(view, LEFT, pos=start)
    assert page.canvas.guides == [] and target.isValid()
    grid = page.canvas.grid
    equal = guides(Place(8, 0, 4, 4), [Place(0, 0, 6, 4), Place(14, 0, 6, 4)], grid)
    assert len([each for each in equal if each[0]]) >= 2  # the middles of two equal gaps
    key = take_picture(session, Path(demo_company.__file__).parent / "sea.png")
    session.set_board(replace(board_of(on_demo), underlay=Underlay(key, 0.3)), "Sketch")
    assert page.canvas.underlay is not None and page.canvas.underlay[1] == 0.3
    page.set_arranging(False)
    assert page.canvas.underlay is None  # it is for arranging by


def test_panels_are_carried_to_another_folio(demo: Opened) -> None:
    board = demo.folio.boards[0]
    value = from_bytes(to_bytes(carried(demo.folio, board.panels)))
    same, ids = pasted(demo.folio, "b9", value)
    assert len(ids) == len(board.panels) and same.summaries == demo.folio.summaries  # they are here already
    other = replace(demo.folio, summaries=(), boards=(Board("b1", "Empty"),))
    made, ids = pasted(other, "b1", value)
    assert {each.name for each in made.summaries} == {demo.folio.summary(p.summary).name for p in board.panels if isinstance(p, SummaryPanel)}
    assert all(made.summary(p.summary) for p in made.board("b1").panels if isinstance(p, SummaryPanel))
    with pytest.raises(Refusal, match="not in this folio"):
        pasted(replace(other, tables=()), "b1", value)
    for data in (b"", b"{}x", b"[" * 100_000, b'{"panels": [{"type": "summary"}]}'):
        with pytest.raises(Refusal, match="no panels"):
            from_bytes(data)


def test_reach_is_one_matrix(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    QTest.keyClick(on_demo, Key.Key_R, CTRL | SHIFT)
    popover = next(each for each in on_demo.findChildren(ReachPopover) if each.isVisible())
    matrix = popover.matrix
    assert len(matrix.slicers) == 3 and len(matrix.panels) == 8 and all(matrix.moves(r, c) for r in range(3) for c in range(8))
    QTest.mouseClick(matrix, LEFT, pos=matrix.centre(1, 2))
    spared = board_of(on_demo).slicers[1].spares
    assert spared == (matrix.panels[2].id,)
    QTest.mousePress(matrix, LEFT, pos=matrix.centre(0, 0))  # a drag over many
    for column in range(1, 4):
        QTest.mouseMove(matrix, matrix.centre(0, column))
    QTest.mouseRelease(matrix, LEFT, pos=matrix.centre(0, 3))
    assert len(board_of(on_demo).slicers[0].spares) == 4
    QTest.mouseClick(matrix, LEFT, pos=QPoint(20, matrix.centre(0, 0).y()))  # its name: the whole line
    assert board_of(on_demo).slicers[0].spares == ()
    QTest.mouseClick(matrix, LEFT, pos=QPoint(matrix.centre(0, 5).x(), 140))  # a panel's name: its whole column
    assert all(matrix.panels[5].id in each.spares for each in board_of(on_demo).slicers)
    matrix.setFocus()
    QTest.keyClick(matrix, Key.Key_Space)
    assert "spares" in matrix.accessibleDescription() or "moves" in matrix.accessibleDescription()
    popover.close()
    assert page.panels


def test_a_slicing_is_kept_under_a_name(on_demo: Window, tmp_path: Path) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    page.slicing.choose("l22", ("Osk – Vaila",))
    page.slicing.choose("l21", ("2024-11", "2025-02"))
    page.slicing.open_kept(page.rails)
    popover = next(each for each in on_demo.findChildren(SlicingsPopover) if each.isVisible())
    QTest.keyClicks(popover.line, "Winter, one route")
    QTest.keyClick(popover.line, Key.Key_Return)
    kept = board_of(on_demo)
    assert [each.name for each in kept.slicings] == ["Winter, one route"] and slicing_now(kept) == "Winter, one route"
    page.slicing.clear()
    assert slicing_now(board_of(on_demo)) == ""
    page.slicing.open_kept(page.rails)
    popover = next(each for each in on_demo.findChildren(SlicingsPopover) if each.isVisible())
    QTest.mouseClick(popover.names["Winter, one route"], LEFT)
    assert board_of(on_demo).slicers == kept.slicers
    session.save(tmp_path / "kept.summula")
    from summula.core.folio.file import open_folio

    assert open_folio(tmp_path / "kept.summula").folio.board("b8").slicings == kept.slicings
    with pytest.raises(Refusal, match="needs a name"):
        keeping_slicing(kept, "  ")
    later = replace(kept, slicers=(*kept.slicers[1:], ListSlicer("l99", "t1", kept.slicers[1].dimension, ("x",))))
    assert [s.narrows for s in sliced_as(later, "Winter, one route").slicers] == [True, False, False]
    assert with_reach(kept, ["l22"], [kept.panels[0].id], moves=False).slicer("l22").spares == (kept.panels[0].id,)


def test_a_board_is_played_and_presented(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    before = session.folio
    page.canvas.setFocus()
    QTest.keyClick(on_demo, Key.Key_Space)
    assert session.board_state.play is not None and page.play_bar.playing and page.play_bar.isVisible()
    assert page.play_bar.words.text() == "Jan 2023"
    QTest.keyClick(on_demo, Key.Key_Space)
    assert not page.play_bar.playing  # paused
    QTest.mouseClick(page.play_bar.on, LEFT)
    assert page.play_bar.words.text() == "Feb 2023"
    rows = [view.answer.chart.grid.rows_used for view in page.panels.values() if view.answer is not None and view.answer.chart is not None]
    expected = sailings().filter((sailings()["Sailed on"].dt.year() == 2023) & (sailings()["Sailed on"].dt.month() == 2)).height
    assert rows and set(rows) == {expected}
    bars = next(view for view in page.panels.values() if view.panel.title == "Where the takings come from")
    assert bars.view.scene is not None
    petrel = next(mark.tag for mark in bars.view.scene.tagged() if mark.tag and "Petrel" in mark.tag.title)
    behind: list[int] = []
    page.acting.rows_found.connect(lambda table, rows, words: behind.append(len(rows)))
    bars.view.asked.emit(petrel)  # the rows behind a mark are those of the month that is shown
    february = (sailings()["Sailed on"].dt.year() == 2023) & (sailings()["Sailed on"].dt.month() == 2)
    assert behind == [sailings().filter(february & (sailings()["Vessel"] == "Petrel")).height]
    on_demo.refresh()
    page.play_bar.up_to.click()
    assert page.play_bar.words.text() == "up to Feb 2023"
    page.play_bar.part.activated.emit(2)
    assert page.play_bar.words.text() == "up to 2023"
    assert session.folio is before  # play is no edit
    QTest.keyClick(on_demo, Key.Key_Escape)
    assert session.board_state.play is None and not page.play_bar.isVisible()
    QTest.keyClick(on_demo, Key.Key_F11)
    assert on_demo.isFullScreen() and not on_demo.header.isVisible() and not on_demo.status.isVisible()
    page.slicing.choose("l22", ("Osk – Vaila",))  # slicers still work
    QTest.keyClick(on_demo, Key.Key_Right)
    assert session.page_id == "b9" and session.board_state.presenting
    QTest.keyClick(on_demo, Key.Key_Escape)
    assert not on_demo.isFullScreen() and on_demo.header.isVisible() and not session.board_state.presenting
    played = Play("t1", "Sailed on", "2023-02", "2025-11", "2023-02", "quarter")
    assert played.steps[0] == "2023-01" and played.step(-1).words == "Q4 2025" and played.step(1).slicer == PeriodSlicer("play", "t1", "Sailed on", "2023-04", "2023-06")


@pytest.mark.parametrize("form", ["scatter", "bubbles"])
def test_points_move_on_scales_that_stay_and_leave_a_trail(on_demo: Window, form: str) -> None:
    session, page = on_demo.session, on_demo.pages.board
    size = "against sum of Passengers" if form == "scatter" else "and rows and sum of Passengers"
    made = session.new_summary("t1", parse(f"show sum of Takings {size} by Vessel drawn as {form}", session.vocabulary("t1")), "Moving")
    board = Board("b99", "Played", (SummaryPanel("p99", Place(0, 0, 24, 16), made.id, "Moving"),))
    session.edit(with_board(session.folio, board), "a board")
    session.turn_to("b99")
    page.playing.begin()
    page.playing.begin()
    view = page.panels["p99"].view

    def shown() -> tuple[list[str], dict[str, Point]]:
        assert view.scene is not None
        axis = [text for text in view.scene.texts() if text[:1] in "£0123456789"]
        return axis, {mark.tag.by[0][1]: mark for mark in view.scene.tagged() if isinstance(mark, Point) and mark.tag}  # type: ignore[misc]

    page.play_bar.trail.click()
    axis, first = shown()
    for _ in range(3):
        QTest.mouseClick(page.play_bar.on, LEFT)
    assert page.play_bar.words.text() == "Apr 2023"
    scene, (later_axis, points) = view.scene, shown()
    assert later_axis == axis and len(axis) > 4  # the scales of all steps together
    assert scene is not None and points["Petrel"].y != first["Petrel"].y
    trails = [mark for mark in scene.marks if isinstance(mark, Line) and mark.width == 1.2]
    own = next(mark for mark in trails if mark.points[-1] == (points["Petrel"].x, points["Petrel"].y))
    assert len(own.points) == 4 and own.points[0] == pytest.approx((first["Petrel"].x, first["Petrel"].y))
    rows = sailings().filter(pl.col("Vessel") == "Petrel").group_by(pl.col("Sailed on").dt.strftime("%Y-%m").alias("month")).agg(pl.col("Takings").sum())
    takings = dict(rows.iter_rows())
    heights = [takings[f"2023-{month:02d}"] for month in range(1, 5)]
    per = (own.points[3][1] - own.points[0][1]) / float(heights[3] - heights[0])
    assert all(y == pytest.approx(own.points[0][1] + per * float(figure - heights[0]), abs=0.01) for (_, y), figure in zip(own.points, heights, strict=True))
    # On the way between two steps a point is between its places; nothing else moves, and what is asked is where it goes.
    QTest.mouseClick(page.play_bar.back, LEFT)
    assert view.scene is not None
    half = between(view.scene, scene, 0.5)
    midway = next(m for m in half.marks if isinstance(m, Point) and m.tag and m.tag.by[0][1] == "Petrel")
    _, back = shown()
    assert (midway.x, midway.y) == pytest.approx(((points["Petrel"].x + back["Petrel"].x) / 2, (points["Petrel"].y + back["Petrel"].y) / 2))
    assert between(view.scene, scene, 1.0) is scene and len(half.marks) == len(scene.marks)
    settled()
    assert view._before is None  # it has arrived
    page.play_bar.trail.click()
    assert not [mark for mark in view.scene.marks if isinstance(mark, Line) and mark.width == 1.2]
    page.playing.show(None)
    assert page.panels["p99"].answer is not None and page.panels["p99"].answer.chart.course is None  # type: ignore[union-attr]


def test_play_is_handed_out_step_by_step(on_demo: Window, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, qtbot: QtBot, capsys: pytest.CaptureFixture[str]) -> None:
    from summula.cli import main

    assert main(["render", "demo", "Season at a glance", "--play", "year", "--to", str(tmp_path / "season.svg")]) == 0
    assert sorted(place.name for place in tmp_path.iterdir()) == [f"season {year}-01.svg" for year in (2023, 2024, 2025)]
    counts = sailings().group_by(pl.col("Sailed on").dt.year()).len().sort("Sailed on")["len"].to_list()
    for year, rows in zip((2023, 2024, 2025), counts, strict=True):
        text = (tmp_path / f"season {year}-01.svg").read_text("utf-8")
        assert f" {rows:,} rows" in text and "24,285" not in text and f"Jan {year} – Dec {year}" in text
    assert main(["render", "demo", "Season at a glance", "--play", "year", "--to", str(tmp_path / "season.svg")]) == 1
    assert "is there already" in capsys.readouterr().err
    assert main(["render", "demo", "Sailings", "--play", "year", "--to", str(tmp_path / "table.svg")]) == 1
    assert "cannot be played" in capsys.readouterr().err
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b9")
    page.playing.begin()
    page.playing.begin()
    page.play_bar.part.activated.emit(1)
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "review.png"), ""))
    on_demo.actions_.run("hand out steps png")
    qtbot.waitUntil(lambda: len(list(tmp_path.glob("review *.png"))) == 12, timeout=30_000)
    assert not (tmp_path / "review.png").exists()


def test_from_a_csv_to_a_board_in_under_ten_clicks(window: Window, qtbot: QtBot, tmp_path: Path) -> None:
    clicks = 0
    source = tmp_path / "sailings.csv"
    sailings().write_csv(source)
    take_in(window, qtbot, source)  # dropped on the window, and Enter
    clicks += 2
    qtbot.waitUntil(lambda: len(window.session.folio.tables) == 1, timeout=20_000)
    QTest.keyClick(window, Key.Key_N, CTRL | SHIFT)
    clicks += 1
    empty = window.pages.board.offers
    qtbot.waitUntil(lambda: empty.isVisible() and all(card.scene is not None for card in empty.cards), timeout=10_000)
    assert [card.name for card in empty.cards] == ["Overview", "Over time", "Compared"] and list(empty.layouts) == list(LAYOUTS)
    QTest.mouseClick(empty.cards[0], LEFT)
    clicks += 1
    made = board_of(window)
    figures = [panel for panel in made.panels if isinstance(panel, KeyFigurePanel)]
    charts = [panel for panel in made.panels if isinstance(panel, SummaryPanel)]
    assert len(figures) == 4 and 4 <= len(charts) <= 6 and 2 <= len(made.slicers) <= 4 and isinstance(made.slicers[0], PeriodSlicer)
    assert all(view.answer is not None and not view.answer.refusal for view in window.pages.board.panels.values())
    assert clicks < 10 and window.session.history.undo_name == "Start with Overview"
    window.session.undo()
    assert empty.isVisible() and not board_of(window).panels
    # empty places, and fields let fall on them
    QTest.mouseClick(empty.layouts["Two halves"], LEFT)
    page = window.pages.board
    assert [panel.title for panel in board_of(window).panels] == [SLOT, SLOT]
    slot = page.panels[board_of(window).panels[0].id]
    drop(page.canvas, slot.geometry().center(), "Vessel")
    board = board_of(window)
    assert [type(panel).__name__ for panel in board.panels] == ["FramePanel", "SummaryPanel"]
    bars = board.panels[1]
    assert isinstance(bars, SummaryPanel) and window.session.folio.summary(bars.summary).phrase.form == "bars"
    drop(page.canvas, page.panels[bars.id].geometry().center() + QPoint(60, 0), "Ticket")  # onto its right half
    assert [h.field for h in window.session.folio.summary(bars.summary).phrase.across] == ["Ticket"]
    drop(page.canvas, page.panels[bars.id].geometry().center(), "Delay (min)")
    assert len(window.session.folio.summary(bars.summary).phrase.measures) == 2
    drop(page.canvas, QPoint(page.canvas.width() - 40, page.canvas.height() - 10), "Takings")
    assert isinstance(board_of(window).panels[-1], KeyFigurePanel)


def test_offers_suit_the_table(demo: Opened) -> None:
    tables = demo.prepared()
    for table in tables.values():
        for offer in offered_boards(table):
            assert 1 <= len(offer.points) <= 6 and len(offer.measures) <= 4 and all(table.has(name) for name in offer.sliced)


@pytest.mark.parametrize("months", [["Jan", "Feb", "Mar", "Apr", "May", "Jun", "Jul", "Aug", "Sep", "Oct", "Nov", "Dec"], list(range(1, 13))])
def test_years_and_months_in_fields_of_their_own_are_the_course_of_time(months: list[str] | list[int], window: Window) -> None:
    """A table without dates is offered over time all the same, its months as in the year."""
    rows = [(year, month, pier, 100.0 + at) for year in range(2021, 2026) for at, month in enumerate(months) for pier in ("Osk", "Vaila")]
    table = table_from_frame("Months", pl.DataFrame(rows, schema=["Year", "Month", "Pier", "Takings"], orient="row"))
    texts = [print_phrase(point.phrase) for point in starting_points(table)]
    in_order = f' ordered "Month" as {", ".join(map(str, months))}' if months[0] == "Jan" else ""
    assert texts[0] == f'show sum of Takings by "Month" across "Year"{in_order} drawn as lines'
    assert 'show sum of Takings by "Year" drawn as columns' in texts
    offers = {offer.name: offer for offer in offered_boards(table)}
    assert list(offers) == ["Overview", "Over time", "Compared"] and offers["Over time"].sliced[0] == "Year"
    for point in (point for offer in offers.values() for point in offer.points):
        assert [mark for mark in draw(chart_of(answer(point.phrase, table), table), Canvas(500, 300)).marks if not isinstance(mark, Text)]
    session = window.session
    session.take_table(table)
    board = session.new_board()
    folio = with_offer(session.folio, "t1", table, offers["Over time"], board)
    lists = {each.heading.field: each for each in folio.board(board.id).slicers if isinstance(each, ListSlicer)}
    assert lists["Year"].order == "own" and ("Month" not in lists or lists["Month"].sequence == tuple(months))
    after, key = with_field_panel(folio, board, "t1", table, "Year", Place(0, 40, 12, 8))
    panel = next(each for each in after.board(board.id).panels if each.id == key)
    assert isinstance(panel, SummaryPanel) and print_phrase(after.summary(panel.summary).phrase) == texts[1]


@pytest.mark.parametrize("takings", ["below nothing", "means alone", "no numbers", "blank"])
def test_what_is_offered_can_be_drawn(takings: str) -> None:
    """Also where figures lie below nothing, or do not add up: no part of an offer says why it cannot be drawn."""
    rows = 400
    frame = pl.DataFrame({
        "Left": [date(2021, 1, 1) + timedelta(days=3 * at) for at in range(rows)],
        "Crossing": [f"Pier {at % 7}" for at in range(rows)], "Boat": ["Tern", "Gull", "Petrel", "Knot"] * (rows // 4),
        "Late": [at % 3 == 0 for at in range(rows)],
    })  # fmt: skip
    figures: dict[str, list[float | None]] = {
        "below nothing": [at % 13 - 8.5 for at in range(rows)], "blank": [None] * rows, "means alone": [at % 9 + 0.5 for at in range(rows)],
    }  # fmt: skip
    if takings in figures:
        frame = frame.with_columns(pl.Series("Average delay" if takings == "means alone" else "Net", figures[takings], pl.Float64))
    table = table_from_frame("Crossings", frame)
    points = [*starting_points(table), *(point for offer in offered_boards(table) for point in offer.points)]
    assert len(points) > 8
    for point in points:
        scene = draw(chart_of(answer(point.phrase, table), table), Canvas(500, 300))
        assert [mark for mark in scene.marks if not isinstance(mark, Text)], (point, scene.marks)


def test_a_lever_moves_the_board_while_the_hand_is_on_it(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    lever = session.folio.levers[0]
    board = next(b for b in session.folio.boards if b.name == "The season in pictures")
    session.turn_to(board.id)
    session.set_board(replace(board, panels=(*board.panels, LeverPanel("p900", Place(0, 60, 6, 3), lever.name, lever.name))), "A lever")
    view = page.panels["p900"].live
    assert isinstance(view, LeverView) and view.slider.accessibleName() == lever.name
    folio = session.folio
    view.slider.setValue(view.slider.value() + 1)
    view.slider.setValue(view.slider.value() + 1)
    assert session.folio.levers[0].value == lever.at(lever.place + 2).value and session.folio.levers[0].start == lever.value
    assert view.back.isVisible() and lever.text() in view.back.text()
    QTest.mouseClick(view.back, LEFT)
    assert session.folio.levers[0].value == lever.value
    session.undo()
    assert session.folio == folio  # one pull, one step
    view.value.setFocus()
    view.value.setText("words")
    QTest.keyClick(view.value, Key.Key_Return)
    assert "no number" in on_demo.status.selection.text()


# -- notes ----------------------------------------------------------------------------------------------------


def test_notes_are_commonmark_with_live_figures(on_demo: Window) -> None:
    text = "# Winter\n\nThe fleet took **{sum of Takings}**:\n\n- one\n- two\n\n1. first\n\n---\n<b>plain</b> [words](http://nowhere.invalid) ![x](y)"
    blocks = blocks_of(text)
    assert blocks[0] == Block((Run("Winter"),), heading=1)
    assert [b.bullet for b in blocks if b.bullet] == ["•", "•", "1."] and any(b.rule for b in blocks)
    last = "".join(run.text for run in blocks[-1].runs)
    assert "<b>plain</b>" in last and "words" in last and "nowhere" not in last
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")
    board = board_of(on_demo)
    session.set_board(replace(board, panels=(*board.panels, NotePanel("p901", Place(0, 60, 8, 8), text, "For {period}", "t1"))), "Note")
    answer = page.panels["p901"].answer
    assert answer is not None and "£7,4" in answer.words and answer.caption == ("For Jan 2023 – Nov 2025", "")
    page.slicing.choose("l22", ("Osk – Vaila",))
    answer = page.panels["p901"].answer
    assert answer is not None and "£330," in answer.words  # it follows the slicers
    assert QApplication.instance() is not None


@settings(max_examples=80)
@given(st.text(st.sampled_from("ab #*_-1.\n`>[]()!<é"), max_size=300), st.integers(60, 500), st.integers(30, 300))
def test_words_of_a_note_stay_in_their_panel(text: str, wide: int, high: int) -> None:
    scene = note_scene(text, Canvas(wide, high))
    areas: list[Bounds] = [text_bounds(mark, text_width) for mark in scene.marks if isinstance(mark, Text)]
    assert all(area.bottom <= high + 4 and area.right <= wide + 12 for area in areas)


def test_the_ruler_zooms_to_weeks_and_days(on_demo: Window) -> None:
    session, page = on_demo.session, on_demo.pages.board
    session.turn_to("b8")

    def ruler() -> PeriodRuler:
        return page.slicers["l21"]  # type: ignore[no-any-return]

    def slicer() -> PeriodSlicer:
        found = board_of(on_demo).slicer("l21")
        assert isinstance(found, PeriodSlicer)
        return found

    QTest.mouseClick(ruler(), LEFT, pos=ruler().place_of("2024-05", 3))
    assert (slicer().first, slicer().last) == ("2024-04", "2024-06")
    ruler().setFocus()
    QTest.keyClick(ruler(), Key.Key_Y)  # the same stretch a year earlier
    assert (slicer().first, slicer().last) == ("2023-04", "2023-06")
    for _ in range(4):  # closer and closer, until days are seen
        QTest.keyClick(ruler(), Key.Key_Plus)
    assert slicer().grain == "day" and ruler().months[0].is_day and len(ruler().months) > 1_000
    assert (slicer().first, slicer().last) == ("2023-04", "2023-06")  # still whole months
    before = sum(month.rows for month in ruler().months)
    QTest.mouseClick(ruler(), LEFT, pos=ruler().place_of("2023-05-17", 3))  # its week
    assert (slicer().first, slicer().last) == ("2023-05-15", "2023-05-21")
    rows = sailings()
    week = rows.filter(rows["Sailed on"].is_between(date(2023, 5, 15), date(2023, 5, 21))).height
    assert on_demo.status.account.text().startswith(f"{week:,} of") and before > week
    assert "15 May 2023 – 21 May 2023" in on_demo.status.account.text()
    QTest.qWait(QApplication.doubleClickInterval() + 50)
    for _ in range(3):
        QTest.keyClick(ruler(), Key.Key_Plus)
    QTest.mouseClick(ruler(), LEFT, pos=ruler().place_of("2023-05-17"))
    assert (slicer().first, slicer().last) == ("2023-05-17", "2023-05-17")
    for _ in range(9):
        QTest.keyClick(ruler(), Key.Key_Minus)
    assert slicer().grain == "month"
    assert ruler().dates == ["Sailed on", "Booked on"]  # which of them it is of is said, and can be changed
    ruler().restyled.emit(replace(slicer(), field="Booked on", first=None, last=None))
    assert slicer().field == "Booked on" and not on_demo.status.account.text().endswith("refused")
