"""The demo's board in every format, a book, a live page; what an edit costs the window's thread to be journalled."""

from __future__ import annotations

import os
import tempfile
from collections.abc import Callable
from pathlib import Path
from statistics import median

os.environ.setdefault("QT_QPA_PLATFORM", "offscreen")

from msgspec.structs import replace

from benchmarks.data import encoded, frame
from benchmarks.drawing import by_matplotlib, eight_charts
from benchmarks.timing import in_turn, once
from summula.core.composition.boardpages import compose_board
from summula.core.composition.composition import Composition
from summula.core.composition.paper import Paper
from summula.core.folio.model import Folio, with_table
from summula.core.folio.opened import Opened, entry_of
from summula.core.handout.boardcontent import BoardContent
from summula.core.handout.livepage import live_page, states_of
from summula.core.handout.order import Order, composed, handed_out
from summula.demo.folio import demo_folio
from summula.desk.application import application
from summula.desk.pictures import ALL_FORMATS, scene_png
from summula.desk.window import Window

WAYS = {each.key: each for each in ALL_FORMATS}


def handout(report: Callable[..., None]) -> None:
    import matplotlib

    matplotlib.use("Agg")
    application()
    opened = demo_folio()
    folio, tables = opened.folio, opened.prepared()
    table = tables["t1"]
    board, reckoning = eight_charts(table)
    grids = [reckoning.panel(board, panel).grid for panel in board.panels]

    def ours() -> None:
        page = compose_board(board, reckoning, (1280, 800))
        WAYS["pdf"].make(replace(page, on=Paper()))

    report("Eight charts of a board to PDF", *in_turn(ours, {"matplotlib": lambda: by_matplotlib(grids, "pdf")}, 7, lambda: None), "under 0.3")

    season = folio.boards[0]
    print("The demo's board, handed out")
    order = Order(on=Paper())
    for key in ("png", "svg", "pdf", "workbook", "html"):
        made = [b""]

        def make(key: str = key, made: list[bytes] = made) -> None:
            made[0] = handed_out([season], folio, tables, WAYS[key], order, lambda scene: scene_png(scene, folio.palette))

        taken = min(once(make) for _ in range(3))
        print(f"    {WAYS[key].name:5} {taken:8.1f} ms   {len(made[0]) / 1e3:8,.0f} kB")
    book: list[Composition] = []
    taken = once(lambda: book.append(composed([season], folio, tables, WAYS["pdf"], Order(on=Paper(), each="Route"))))
    written = once(lambda: WAYS["pdf"].make(book[0]))
    print(f"    book of {len(book[0].pages) - 1} routes as PDF {taken + written:8.1f} ms")

    content = BoardContent(season, folio, tables, (1280, 800), ("Route", "Ticket"), pairs=True)
    size = [0]
    taken = once(lambda: size.__setitem__(0, len(live_page(content).encode("utf-8"))))
    from summula.core.handout.livepage import live_headings

    live = live_headings(content)
    count = sum(1 for _ in states_of(live, pairs=True))
    members = " x ".join(str(len(each.members)) for each in live)
    print(f"A live page of {members} members ({count} states): {taken / 1e3:.2f} s (goal: 3), {size[0] / 1e6:.2f} MB (goal: 4)")
    _journal(1_000_000)


def _journal(rows: int) -> None:
    """An edit of a folio with many rows: what handing it to the journal costs the window's thread."""
    with tempfile.TemporaryDirectory() as folder:
        os.environ["XDG_STATE_HOME"] = str(Path(folder) / "state")
        table = encoded(frame(rows))
        folio = with_table(Folio("Many rows"), entry_of("t1", table))
        window = Window()
        window.session.adopt(Opened(folio, {"t1": table}))
        journal = window.keeping.journal
        window.session.edit(replace(folio, name="first"), "Rename")
        journal.settle()
        costs = []
        for at in range(60):
            window.session.history = window.session.history.did(replace(window.session.folio, name=f"name {at}"), "Rename")
            costs.append(once(journal.write))
        journal.settle()
        window.keeping.end()
    print(f"An edit handed to the journal, {rows:,} rows: median {median(costs):.3f} ms, worst {max(costs):.3f} ms (goal: 2)")
