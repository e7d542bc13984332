"""What is handed out as PDF, as a page that answers, as a workbook: read back by others, and equal to the grid's."""

from __future__ import annotations

import base64
import contextlib
import gzip
import io
import json
import math
import re
import xml.etree.ElementTree as xml
from pathlib import Path
from typing import Any

import polars as pl
import pytest
from msgspec.structs import replace
from openpyxl import load_workbook
from pypdf import PdfReader
from PyQt6.QtCore import Qt
from PyQt6.QtGui import QGuiApplication, QImage
from PyQt6.QtTest import QTest
from PyQt6.QtWidgets import QFileDialog, QMenu
from pytestqt.qtbot import QtBot

from summula.cli import main
from summula.core.boards.board import Board, SummaryPanel
from summula.core.composition.paper import Paper, paper_named
from summula.core.folio.file import open_folio, save_folio
from summula.core.folio.model import with_summary
from summula.core.folio.opened import Opened
from summula.core.handout.boardcontent import BoardContent, as_board, panel_alone
from summula.core.handout.formats import FORMATS
from summula.core.handout.livepage import estimate, live_page
from summula.core.handout.narrowing import months_in, narrowed
from summula.core.handout.order import Order, composed, handed_out
from summula.core.handout.place import put_in_place
from summula.core.refusal import Refusal
from summula.core.summaries import parse
from summula.core.tables.table import Table
from summula.desk.application import application
from summula.desk.pages.handoutpage import HandOutPage
from summula.desk.pictures import scene_png
from summula.desk.window import Window
from tests.browser import CHROMIUM, Browser, browser
from tests.hands import LEFT, margin_of, pick

WAYS = {each.key: each for each in FORMATS}
LETTER = re.compile(r"\s+")


def rows_of(table: Table) -> pl.DataFrame:
    """The demo's rows as somebody else holds them."""
    route, vessel, takings = (table.column(each) for each in ("Route", "Vessel", "Takings"))
    known = lambda column: [column.members[code] if code < len(column.members) else None for code in column.codes]  # noqa: E731
    values = takings.values / 10**takings.decimals
    return pl.DataFrame({"Route": known(route), "Vessel": known(vessel), "Takings": values.astype(float)}).with_columns(
        pl.col("Takings").fill_nan(None)
    )


def squeezed(text: str) -> str:
    return LETTER.sub("", text)


def test_a_pdf_says_what_the_page_says(demo: Opened) -> None:
    tables, folio = demo.prepared(), demo.folio
    order = Order(on=Paper())
    for paper, count in ((Paper(), 4), (Paper("A5", 0.0, lies=False, white=True), 4)):
        made = composed(folio.boards, folio, tables, WAYS["pdf"], replace(order, on=paper))
        read = PdfReader(io.BytesIO(WAYS["pdf"].make(made)))
        assert len(read.pages) == len(made.pages) == count
        assert [each.title for each in read.outline] == [board.name for board in folio.boards]
        assert read.metadata is not None and read.metadata.title == folio.name and not read.metadata.author
        assert read.trailer["/Root"]["/Lang"] == "en-GB"
        for page, shown in zip(made.pages, read.pages, strict=True):
            text = squeezed(shown.extract_text())
            missing = [each for each in page.scene.texts() if squeezed(each) not in text]
            assert not missing, missing
            assert all(descends(font) for font in shown["/Resources"]["/Font"].values())
        wide, high = paper.points(True)
        assert [float(each) for each in read.pages[0].mediabox[2:]] == pytest.approx([wide, high], abs=0.1)
    own = PdfReader(io.BytesIO(WAYS["pdf"].make(composed([folio.summaries[0]], folio, tables, WAYS["pdf"], Order()))))
    assert [float(each) for each in own.pages[0].mediabox[2:]] == [960, 600]  # 1280 x 800 pixels in points


def descends(font: Any) -> bool:
    """Whether a face is in the file."""
    return "/FontFile2" in font.get_object()["/FontDescriptor"].get_object()


def test_a_book_has_a_chapter_for_each_member(demo: Opened) -> None:
    tables, folio = demo.prepared(), demo.folio
    done: list[tuple[int, int]] = []
    order = Order(on=Paper(), each="Route")
    board = folio.boards[0]
    made = composed([board], folio, tables, WAYS["pdf"], order, lambda *each: done.append(each))
    read = PdfReader(io.BytesIO(WAYS["pdf"].make(made)))
    routes = sorted(set(rows_of(tables["t1"])["Route"].drop_nulls()))
    assert [each.title for each in read.outline] == ["Contents", *routes] and done[-1] == (len(routes), len(routes))
    contents = squeezed(read.pages[0].extract_text())
    for at, route in enumerate(routes, start=2):
        assert squeezed(route) + str(at) in contents
        assert read.get_destination_page_number(read.outline[at - 1]) == at - 1
        assert squeezed(f"Route is {route}") in squeezed(read.pages[at - 1].extract_text())
    assert len(read.pages[0]["/Annots"]) == len(routes)
    for wrong, told in (("Rout", "did you mean 'Route'"), ("Sailing no.", "members")):
        with pytest.raises(Refusal, match=told):
            composed([board], folio, tables, WAYS["pdf"], replace(order, each=wrong))
    with pytest.raises(Refusal, match="one board"):
        composed(folio.boards, folio, tables, WAYS["pdf"], order)


def states(page: str) -> dict[str, Any]:
    packed = re.search(r'id="states">([^<]*)<', page)
    assert packed is not None
    return json.loads(gzip.decompress(base64.b64decode(packed[1])))  # type: ignore[no-any-return]


def values_in(fragment: str) -> dict[str, float]:
    """By the innermost member, the figure of each mark."""
    found = {}
    for each in xml.fromstring(fragment).iter():
        if each.get("data-value") and each.get("data-measure") and json.loads(each.get("data-by", "[]")):
            found[json.loads(each.attrib["data-by"])[-1]] = float(each.attrib["data-value"])
    return found


def test_a_live_page_shows_the_figures_of_every_choice(demo: Opened) -> None:
    """Against polars: the takings of each vessel, for every route and ticket and every two of them."""
    tables, folio = demo.prepared(), demo.folio
    summary = replace(folio.summaries[0], phrase=parse("show sum of Takings by Vessel drawn as bars"))
    folio = with_summary(folio, summary)
    content = BoardContent(as_board(summary), folio, tables, (900, 600), ("Route", "Vessel"), pairs=True)
    page = live_page(content)
    frame = rows_of(tables["t1"])
    routes, vessels = (sorted(set(frame[each].drop_nulls())) for each in ("Route", "Vessel"))
    record = states(page)
    assert len(record["states"]) == (len(routes) + 1) * (len(vessels) + 1) == estimate(content).states
    for key, (which,) in record["states"].items():
        route, vessel = map(int, key.split(","))
        kept = frame
        if route:
            kept = kept.filter(pl.col("Route") == routes[route - 1])
        if vessel:
            kept = kept.filter(pl.col("Vessel") == vessels[vessel - 1])
        sums = {name: total for name, total in kept.group_by("Vessel").agg(pl.col("Takings").sum()).rows() if name}
        shown = {name: value for name, value in values_in(record["drawn"][which]).items() if name in sums}
        assert shown.keys() == sums.keys() and all(math.isclose(shown[each], sums[each], abs_tol=0.005) for each in sums)
        listed = record["figures"][which]["rows"] if record["figures"][which] is not None else []
        assert not sums or {row[0] for row in listed} >= sums.keys()
    for forbidden in ("http:", "https:", "//cdn", "@import"):
        assert forbidden not in page.replace("http://www.w3.org", "")
    alone = live_page(BoardContent(panel_alone(demo.folio.boards[0], demo.folio.boards[0].panels[0].id), demo.folio, tables, (900, 600)))
    assert "<script" in alone and 'id="slicers"' not in alone and "£7.41m" in alone
    sliced = narrowed(content.board, folio, tables, [f"Route={routes[0]}", f"Route={routes[1]}"])
    assert isinstance(sliced, Board)  # a page never answers with more than its board shows
    fewer = live_page(replace(content, board=sliced))
    there = frame.filter(pl.col("Route").is_in(routes[:2]))["Vessel"].drop_nulls().n_unique()
    assert there < len(vessels) and len(states(fewer)["states"]) == 3 * (there + 1) and routes[2] not in fewer
    with pytest.raises(Refusal, match="does not answer to slicers"):
        handed_out([summary], folio, tables, WAYS["workbook"], Order(live=("Route",)))
    with pytest.raises(Refusal, match="has no field 'Boat'"):
        live_page(replace(content, live=("Boat",)))
    with pytest.raises(Refusal, match="members"):
        live_page(replace(content, live=("Sailing no.",)))
    with pytest.raises(Refusal, match="is a table"):
        as_board(folio.tables[0])


def test_hostile_names_stay_names_on_a_live_page(demo: Opened, tmp_path: Path) -> None:
    source = tmp_path / "</script><script>alert(1)</script>.csv".replace("/", "-")
    source.write_text('"</script><b>A",V\n"<img src=x onerror=alert(1)>",1\n"</title></script>",2\n=1+1,3\n')
    from summula.core.folio.model import Folio, with_table
    from summula.core.folio.opened import entry_of
    from summula.core.reading.readers import read_found

    table, _ = read_found(source)
    folio = with_table(Folio("<b>"), entry_of("t1", table, "2025-01-01"))
    summary = replace(demo.folio.summaries[0], id="s1", name="</title><script>", table="t1",
                      phrase=parse('show sum of V by "</script><b>A" drawn as bars'))  # fmt: skip
    folio = with_summary(folio, summary)
    page = live_page(BoardContent(as_board(summary), folio, {"t1": table}, (800, 500), ("</script><b>A",)))
    assert page.count("<script") == 3 and "<img" not in page and "<b>" not in page
    book = load_workbook(io.BytesIO(WAYS["workbook"].make(BoardContent(as_board(summary), folio, {"t1": table}, (800, 500)))))
    cells = [cell for sheet in book for row in sheet.iter_rows() for cell in row if cell.value is not None]
    assert "=1+1" in [each.value for each in cells] and all(each.data_type != "f" for each in cells)


@pytest.mark.skipif(CHROMIUM is None, reason="no Chromium on this machine")
@pytest.mark.slow
def test_a_live_page_in_a_real_browser(demo: Opened, tmp_path: Path) -> None:
    path = tmp_path / "season.html"
    content = BoardContent(demo.folio.boards[0], demo.folio, demo.prepared(), (1280, 800), ("Route", "Ticket"), pairs=True)
    path.write_text(live_page(content), "utf-8")
    record = states(path.read_text("utf-8"))
    with browser(tmp_path) as tab:
        tab.open(path)
        assert tab.run("document.body.dataset.state") == "0,0"
        tab.click('input[name="s0"][value="9"] + span')  # by mouse
        assert tab.run("document.body.dataset.state") == "9,0"
        shown = tab.run("[...document.querySelectorAll('.drawn')].map((each) => Number(each.dataset.which))")
        assert shown == record["states"]["9,0"]
        assert tab.run("document.getElementById('said').textContent").startswith("Route is ")
        assert " of 24,285 rows" in tab.run("document.querySelector('footer').textContent")
        tab.key("ArrowDown", 40)  # by keys, from where the mouse was
        assert tab.run("document.body.dataset.state") == "10,0"
        tab.run("document.querySelector('[name=s1]').focus()")
        tab.key("ArrowDown", 40)
        assert tab.run("document.body.dataset.state") == "10,1"
        assert tab.run("location.hash").count("=") == 2
        tip = "document.getElementById('tip')"
        tab.click("#p4 svg [data-value]:not([data-value=''])")
        assert tab.run(f"!{tip}.hidden && {tip}.textContent.length > 3")
        tab.key("Escape", 27)
        assert tab.run(f"{tip}.hidden")
        tab.run("new Promise((done) => setTimeout(done, 300))")  # what changes its colour has done so
        assert_accessible(tab)
        printed = tab.call("Page.printToPDF", landscape=True, printBackground=True)["data"]
        text = PdfReader(io.BytesIO(base64.b64decode(printed))).pages[0].extract_text()
        assert "Season at a glance" in text and "Takings" in text
        tab.call("Emulation.setDeviceMetricsOverride", width=360, height=740, deviceScaleFactor=2, mobile=True)
        assert tab.run("document.documentElement.scrollWidth") <= 360
        assert tab.run("[...document.querySelectorAll('.members label')].every((e) => e.getBoundingClientRect().right <= 360)")
        tab.open(path, "#Route=Osk%20%E2%80%93%20Vaila")
        tab.wait("document.body.dataset.state === '9,0'")
        assert tab.messages == [] and {each for each in tab.asked if not each.startswith(("file:", "data:"))} == set()


def assert_accessible(tab: Browser) -> None:
    """As an accessibility checker would: language, names, roles, headings in order, single ids, contrast."""
    assert tab.run("document.documentElement.lang") == "en" and tab.run("document.title")
    assert tab.run("[...document.querySelectorAll('h1')].length === 1 && !!document.querySelector('main')")
    assert tab.run("(() => { const ids = [...document.querySelectorAll('[id]')].map((e) => e.id); return new Set(ids).size === ids.length })()")
    nameless = (
        "[...document.querySelectorAll('input, select, button, summary, [role=img], [role=group], [role=region]')].filter((e) =>"
        "!(e.getAttribute('aria-label') || e.textContent.trim() || (e.labels && e.labels[0] && e.labels[0].textContent.trim()))).length"
    )
    assert tab.run(nameless) == 0
    assert tab.run("[...document.querySelectorAll('fieldset')].every((e) => e.querySelector('legend'))")
    assert tab.run("[...document.querySelectorAll('th')].every((e) => e.scope)")
    contrast = """(() => {
      const channel = (c) => { c /= 255; return c <= 0.03928 ? c / 12.92 : ((c + 0.055) / 1.055) ** 2.4; };
      const luminance = ([r, g, b]) => 0.2126 * channel(r) + 0.7152 * channel(g) + 0.0722 * channel(b);
      const parts = (text) => text.match(/[\\d.]+/g).map(Number);
      const ground = (e) => { for (; e; e = e.parentElement) { const c = parts(getComputedStyle(e).backgroundColor);
        if (c.length < 4 || c[3] > 0) return c; } return [255, 255, 255]; };
      return [...document.querySelectorAll('h1, h2, p, legend, .members span, summary, th, td')].filter((e) => e.checkVisibility() && e.textContent.trim())
        .map((e) => { const a = luminance(parts(getComputedStyle(e).color)), b = luminance(ground(e));
          return (Math.max(a, b) + 0.05) / (Math.min(a, b) + 0.05); }).reduce((a, b) => Math.min(a, b), 21); })()"""
    assert tab.run(contrast) >= 4.5


def test_a_workbook_holds_the_figures_of_every_panel(demo: Opened) -> None:
    tables, folio = demo.prepared(), demo.folio
    frame = rows_of(tables["t1"])
    for board in folio.boards:
        sliced = narrowed(board, folio, tables, ["Route=Osk – Vaila"])
        assert isinstance(sliced, Board)
        book = load_workbook(io.BytesIO(handed_out([sliced], folio, tables, WAYS["workbook"], Order())))
        asked = {row[2] for row in book["About"].iter_rows(values_only=True) if row[2] and row[2] != "Sheet"}
        assert asked == set(book.sheetnames) - {"About"}
        assert any("Osk – Vaila" in str(cell.value) for row in book["About"].iter_rows() for cell in row)
    book = load_workbook(io.BytesIO(handed_out([folio.boards[0]], folio, tables, WAYS["workbook"], Order())))
    sheet = book["Where the takings come from"]
    figures = {row[0]: row[1] for row in sheet.iter_rows(min_row=5, values_only=True) if isinstance(row[1], int | float)}
    sums = dict(frame.group_by("Vessel").agg(pl.col("Takings").sum()).rows())
    assert figures and all(figures[name] == pytest.approx(sums[name]) for name in figures)
    assert sheet.freeze_panes == "B5" and sheet["B5"].number_format.startswith('"£"#,##0')
    (chart,) = sheet._charts
    assert chart.series[0].val.numRef.f.endswith(f"!$B$5:$B${4 + len(figures)}")
    with pytest.raises(Refusal, match="one board or summary"):
        handed_out(folio.boards, folio, tables, WAYS["workbook"], Order())
    application()
    pictured = handed_out([folio.boards[2]], folio, tables, WAYS["workbook"], Order(), lambda scene: scene_png(scene, folio.palette))
    book = load_workbook(io.BytesIO(pictured))
    assert len(book["Delay by weather"]._images) == 1 and len(book["Routes"]._images) == 0  # a form that no workbook knows
    both = book["Short trips and long ones"]._charts[0]
    assert len(both._charts) == 2 and both._charts[1].series[0].val.numRef.f.split("!")[1].startswith("$C$5")


def test_a_page_is_narrowed_by_words(demo: Opened) -> None:
    tables, folio = demo.prepared(), demo.folio
    board, summary = folio.boards[0], folio.summaries[0]
    both = narrowed(board, folio, tables, ["Route=osk – vaila", "Route=Osk – Brannay", "year of Sailed on=2025"], "2025-Q3")
    assert isinstance(both, Board)
    from summula.core.slicing.slicerkinds import slicer_words

    assert {slicer_words(each) for each in both.slicers if each.narrows} == {
        "Route is Osk – Vaila or Osk – Brannay", "Sailed on is 2025", "Jul 2025 – Sep 2025",
    }  # fmt: skip
    asked = narrowed(summary, folio, tables, ["Vessel=Tern"], "2024")
    assert len(asked.phrase.where) == len(summary.phrase.where) + 2  # type: ignore[union-attr]
    for text, months in (("2025", ("2025-01", "2025-12")), ("2025-h2", ("2025-07", "2025-12")), ("2024-11..2025-Q1", ("2024-11", "2025-03"))):
        assert months_in(text) == months
    for slices, period, told in (
        (["Vessel=Turn"], "", "did you mean 'Tern'"), (["Vessel"], "", "FIELD=MEMBER"), (["Boat=x"], "", "no field 'Boat'"),
        ([], "2025-13", "not a period"), ([], "2025-Q3..2025-Q1", "ends before"),
    ):  # fmt: skip
        with pytest.raises(Refusal, match=told):
            narrowed(board, folio, tables, slices, period)
    with pytest.raises(Refusal, match="is a table"):
        narrowed(folio.tables[0], folio, tables, ["Vessel=Tern"])
    for text in ("B4", "A4 sideways"):
        with pytest.raises(Refusal, match="not a paper size"):
            paper_named(text)


def test_without_the_desk(demo: Opened, tmp_path: Path, capsys: pytest.CaptureFixture[str], monkeypatch: pytest.MonkeyPatch) -> None:
    path = tmp_path / "Ferry folio.summula"
    save_folio(path, demo.folio, demo.tables)
    out = tmp_path / "out.pdf"
    told = ["render", str(path), "--to", str(out), "--paper", "A3 portrait", "--margin", "5", "--no-foot"]
    assert main(told) == 0 and len(PdfReader(out).pages) == len(demo.folio.boards)
    assert "24,285 rows" not in PdfReader(out).pages[0].extract_text()
    assert main(["render", str(path), "Season at a glance", "--to", str(out), "--slice", "Route=Osk – Vaila", "--period", "2025-07"]) == 0
    text = PdfReader(out).pages[0].extract_text()
    assert "Route is Osk – Vaila" in text and "Jul 2025" in text
    fares = ["render", str(path), "Against the goals", "--to", str(tmp_path / "f.svg"), "--lever"]
    assert main([*fares, "Fare change=0.1"]) == 0 and main([*fares, "Fares=0.1"]) == 1
    assert "no lever 'Fares'" in capsys.readouterr().err
    picture = ["render", str(path), "Vessel review", "--to", str(tmp_path / "p.png"), "--size", "600x400", "--scale"]
    assert main([*picture, "2"]) == 0 and QImage(str(tmp_path / "p.png")).width() == 1200 and main([*picture, "9"]) == 1
    assert main(["render", str(path), "Season at a glance", "--to", str(tmp_path / "a.html"), "--live", "Route"]) == 0
    assert "Answers to 11 choices" in capsys.readouterr().err
    figures = ["render", str(path), "Takings by route", "--slice", "Route=Osk – Vaila", "--to"]
    assert main([*figures, str(tmp_path / "f.csv")]) == 0 and main([*figures, str(tmp_path / "f.parquet")]) == 0
    assert "Osk – Vaila" in (tmp_path / "f.csv").read_text("utf-8") and "Osk – Brannay" not in (tmp_path / "f.csv").read_text("utf-8")
    assert set(pl.read_parquet(tmp_path / "f.parquet")["Route"]) == {"Osk – Vaila"}
    assert main(["render", str(path), "Season at a glance", "--to", str(tmp_path / "no.csv")]) == 1
    assert "figures of one summary" in capsys.readouterr().err
    panel = ["render", str(path), "Season at a glance", "--to", str(tmp_path / "p.svg"), "--panel"]
    assert main([*panel, "net result by month"]) == 0
    alone = (tmp_path / "p.svg").read_text("utf-8")
    assert "Net result by month" in alone and "Passengers by ticket" not in alone and main([*panel, "Net result by moon"]) == 1
    assert "did you mean 'Net result by month'" in capsys.readouterr().err
    before = out.read_bytes()
    assert main(["render", str(path), "No such page", "--to", str(out)]) == 1 and out.read_bytes() == before

    assert main(["timer", str(path), "--at", "06:00", "--to", str(out), "--page", "Vessel review"]) == 0
    shown = capsys.readouterr().out
    assert "OnCalendar=*-*-* 06:00:00" in shown and '"refresh"' in shown and '"Vessel review"' in shown
    monkeypatch.setenv("XDG_CONFIG_HOME", str(tmp_path / "config"))
    assert main(["timer", str(path), "--at", "06:00", "--to", str(out), "--write"]) == 0
    units = sorted(each.name for each in (tmp_path / "config/systemd/user").iterdir())
    assert units == ["summula-ferry-folio.service", "summula-ferry-folio.timer"]
    for wrong in (["--at", "25:00", "--to", str(out)], ["--at", "06:00", "--to", "x.doc"]):
        assert main(["timer", str(path), *wrong]) == 1


def test_a_refresh_hands_out_and_keeps_the_old_where_it_fails(
    tmp_path: Path, capsys: pytest.CaptureFixture[str]
) -> None:
    folder, path, out = tmp_path / "files", tmp_path / "f.summula", tmp_path / "season.pdf"
    assert main(["demo", "--files", str(tmp_path)]) == 0 and main(["demo", "--folio", str(path)]) == 0
    assert main(["refresh", str(path), "--hand-out", str(out), "--page", "Season at a glance"]) == 0
    assert "season.pdf was written" in capsys.readouterr().out and len(PdfReader(out).pages) == 1
    rows = open_folio(path).folio.tables[0].rows
    assert main(["demo", "--feed", str(tmp_path), "--times", "1"]) == 0
    assert main(["refresh", str(path), "--hand-out", str(out), "--page", "Season at a glance"]) == 0
    said = capsys.readouterr().out
    assert "season.pdf was replaced" in said and f"(+{open_folio(path).folio.tables[0].rows - rows:,})" in said
    kept = out.read_bytes()
    assert main(["refresh", str(path), "--hand-out", str(out), "--page", "Nothing"]) == 1 and out.read_bytes() == kept
    assert not [each for each in tmp_path.iterdir() if each.name.endswith(".part")] and not folder.exists()


def test_files_are_put_in_place_in_one_step(tmp_path: Path) -> None:
    to, link = tmp_path / "a[1].bin", tmp_path / "link"
    (tmp_path / ".a[1].bin.0123456789ab.part").write_bytes(b"left by a write that was killed")
    put_in_place(to, b"one")
    to.chmod(0o640)
    link.symlink_to(to)
    put_in_place(link, b"two")
    assert to.read_bytes() == b"two" and link.is_symlink() and to.stat().st_mode & 0o777 == 0o640
    assert sorted(each.name for each in tmp_path.iterdir()) == ["a[1].bin", "link"]
    for place in (tmp_path / "none" / "x", tmp_path):
        with pytest.raises(Refusal, match="could not be written"):
            put_in_place(place, b"x")


def test_handing_out_with_a_preview(on_demo: Window, qtbot: QtBot, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    window, session = on_demo, on_demo.session
    session.turn_to(session.folio.boards[0].id)
    QTest.keyClick(window, Qt.Key.Key_P, Qt.KeyboardModifier.ControlModifier)
    page = window.asides.handing_out

    def ready() -> HandOutPage:
        qtbot.waitUntil(lambda: not page.work.waits and page.preview is not None, timeout=20_000)
        return page

    def choose(label: str, words: str) -> None:
        from PyQt6.QtWidgets import QPushButton

        button = next(b for b in margin_of(window).findChildren(QPushButton) if b.accessibleName().startswith(f"{label}:"))
        QTest.mouseClick(button, LEFT)
        assert page.popover is not None
        pick(page.popover, words)

    assert window.pages.currentWidget() is page and ready().about.text() == "1 page on A4"
    choose("Content", "A book by Route")
    assert ready().about.text() == "12 pages on A4" and len(page.sheets.images) == 12
    monkeypatch.setattr(QFileDialog, "getSaveFileName", lambda *_: (str(tmp_path / "book.pdf"), ""))
    QTest.mouseClick(page.write_button, LEFT)
    qtbot.waitUntil(lambda: (tmp_path / "book.pdf").exists() and not window.writing.work.waits, timeout=20_000)
    assert len(PdfReader(tmp_path / "book.pdf").pages) == 12
    choose("Content", "This page")
    choose("Format", "HTML")
    assert ready().about.text().startswith("Answers to 19 choices; about")
    choose("Slicers", "Ticket")  # out of those that stay live
    assert ready().about.text().startswith("Answers to 11 choices")
    QTest.keyClick(page, Qt.Key.Key_Escape)
    assert window.pages.currentWidget() is window.pages.board

    board = window.pages.board
    panel = next(each for each in session.folio.boards[0].panels if isinstance(each, SummaryPanel))
    menus: list[QMenu] = []
    monkeypatch.setattr(QMenu, "exec", lambda menu, *_: menus.append(menu))
    board.acting.open_menu(panel.id, board.mapToGlobal(board.rect().center()))
    entries = {action.text(): action for action in menus[-1].actions()}
    entries["Copy panel"].trigger()
    clipboard = QGuiApplication.clipboard()
    assert clipboard is not None
    data = clipboard.mimeData()
    assert data is not None and data.hasImage() and data.hasFormat("image/svg+xml")
    assert panel.title in bytes(data.data("image/svg+xml").data()).decode("utf-8")
    clipboard.clear()
    board.panels[panel.id].view.setFocus()
    QTest.keyClick(board.panels[panel.id].view, Qt.Key.Key_C, Qt.KeyboardModifier.ControlModifier)
    assert clipboard.mimeData().hasImage()  # type: ignore[union-attr]
    entries["Export panel …"].trigger()
    assert window.pages.currentWidget() is page and ready().subject is not None and page.subject.called == "This panel"  # type: ignore[union-attr]


def test_nothing_that_goes_out_names_person_or_machine(demo: Opened) -> None:
    import getpass
    import socket
    import zipfile
    import zlib

    from summula.core.engine.grid import Grid
    from summula.core.handout.formats import Figures
    from summula.core.summaries import answer
    from summula.desk.pictures import ALL_FORMATS

    names = {each.encode() for each in (getpass.getuser(), socket.gethostname(), str(Path.home()), str(Path.cwd())) if len(each) > 2}
    names -= {b"root"}  # a word of other meanings: "rootfile", "root" of a tree
    tables, folio = demo.prepared(), demo.folio
    grid: Grid = answer(folio.summaries[0].phrase, tables["t1"])
    for way in ALL_FORMATS:
        if way.takes == "figures":
            made = way.make(Figures(grid, "Takings", "show sum of Takings"))
        else:
            made = handed_out([folio.boards[0]], folio, tables, way, Order(on=Paper()))
        parts = [made]
        if made[:2] == b"PK":
            with zipfile.ZipFile(io.BytesIO(made)) as archive:
                parts += [archive.read(each) for each in archive.namelist()]
        for found in re.finditer(rb"stream\r?\n(.*?)endstream", made, re.DOTALL):
            with contextlib.suppress(zlib.error):
                parts.append(zlib.decompress(found[1]))
        assert not [name for name in names for part in parts if name in part], way.key


def test_pages_are_printed_as_they_are_previewed(demo: Opened, tmp_path: Path) -> None:
    """On a printer that writes PDF: each page once, its texts on it, its size that of the paper."""
    from PyQt6.QtCore import QMarginsF
    from PyQt6.QtGui import QPageLayout, QPageSize
    from PyQt6.QtPrintSupport import QPrinter

    from summula.desk.pages.printing import put_on

    application()
    tables, folio = demo.prepared(), demo.folio
    made = composed([folio.boards[0], folio.boards[3]], folio, tables, WAYS["pdf"], Order(on=Paper(white=True)))
    printer = QPrinter(QPrinter.PrinterMode.HighResolution)
    printer.setOutputFormat(QPrinter.OutputFormat.PdfFormat)
    printer.setOutputFileName(str(tmp_path / "printed.pdf"))
    landscape = QPageLayout(QPageSize(QPageSize.PageSizeId.A4), QPageLayout.Orientation.Landscape, QMarginsF(10, 10, 10, 10), QPageLayout.Unit.Millimeter)
    printer.setPageLayout(landscape)
    done: list[tuple[int, int]] = []
    assert put_on(printer, made, Paper(white=True), lambda *each: done.append(each)) == "2 pages printed" and done == [(1, 2), (2, 2)]
    read = PdfReader(tmp_path / "printed.pdf")
    assert len(read.pages) == 2 and [round(float(each)) for each in read.pages[0].mediabox[2:]] == [842, 595]
    assert all(word in read.pages[0].extract_text() for word in ("Season", "Takings", "£7.41m"))
