"""A board as one HTML page that opens anywhere, fetches nothing, and answers to slicers: what it shows for each of
their members is worked out beforehand.

A page's states are written once each, as SVG and figures, packed; panels that stay the same share what they show.
"""

from __future__ import annotations

import base64
import gzip
import time
from collections.abc import Iterator, Sequence
from hashlib import sha256
from itertools import combinations, product
from pathlib import Path
from typing import TYPE_CHECKING, Any

import msgspec
from msgspec.structs import replace

from summula.core.boards.panelkinds import kind_of, panel_title
from summula.core.composition.boardgrid import BoardGrid
from summula.core.composition.card import card_scene
from summula.core.fields.heading import Heading, Member
from summula.core.fields.labels import heading_name, label_of
from summula.core.grids.lines import as_rows
from summula.core.grids.measurestyle import styled
from summula.core.grids.records import laid_out
from summula.core.handout.narrowing import heading_called, members_in_play, members_of, sliced_at, table_of
from summula.core.handout.pages import board_foot
from summula.core.handout.svg import SvgWriter
from summula.core.refusal import Refusal
from summula.core.slicing.slicer import ListSlicer, choice_of
from summula.core.slicing.slicerkinds import cleared, slicer_words
from summula.core.theme.palettes import theme_of
from summula.core.theme.typefaces import FALLBACK, SANS, SERIF

if TYPE_CHECKING:
    from summula.core.boards.board import Board, Panel
    from summula.core.boards.panelanswer import PanelAnswer
    from summula.core.boards.reckoning import Reckoning
    from summula.core.handout.boardcontent import BoardContent

LANGUAGE = "en"
MOST_STATES = 5_000
_ROW = 38.0  # pixels, at least
_MOST_LISTED = 14  # members that stand side by side; more go into a list that opens
_MOST_CELLS = 4_000  # of the figures behind one panel
_ALL = "Everything is shown; choose a member to slice by it."
_PARTS = Path(__file__).with_name("page")

State = tuple[int, ...]  # of each live heading the member chosen, counted from 1; 0 for all


class Live(msgspec.Struct, frozen=True):
    """A heading that the page answers to, and its members."""

    heading: Heading
    members: tuple[Member, ...]

    @property
    def name(self) -> str:
        return heading_name(self.heading)

    @property
    def labels(self) -> list[str]:
        return [label_of(self.heading, each) for each in self.members]


class Estimate(msgspec.Struct, frozen=True):
    """What a page would be: its states, and about how many seconds and bytes."""

    states: int
    seconds: float
    size: int

    @property
    def words(self) -> str:
        size = f"{self.size / 1e6:.1f} MB" if self.size >= 1e5 else f"{max(self.size // 1000, 1)} kB"
        taken = f"about {max(self.seconds, 0.1):.1f} s to make, {size}"
        return f"Answers to {self.states - 1:,} choices; {taken}" if self.states > 1 else f"Answers to nothing; {taken}"


def live_headings(content: BoardContent) -> tuple[Live, ...]:
    """The headings that were asked to stay live, with the members that the board's own slicer lets through: a page
    never answers with more than the board shows. Refuses what the table has not."""
    home = table_of(content.board, content.folio, content.tables)
    table = content.tables[home]
    found = []
    for text in dict.fromkeys(content.live):
        heading = heading_called(table, text)
        lists = [each for each in content.board.slicers if isinstance(each, ListSlicer) and each.narrows]
        own = next((each for each in lists if (each.table, each.heading) == (home, heading)), None)
        members = members_of(table, heading)
        if not content.tells_all:
            in_play = members_in_play(content.board, content.reckoning(), home, heading)
            members = [each for each in members if choice_of(each) in in_play]
        found.append(Live(heading, tuple(m for m in members if own is None or choice_of(m) in own.chosen)))
    return tuple(found)


def states_of(live: Sequence[Live], *, pairs: bool) -> Iterator[State]:
    """All members together, then each by itself; in pairs every two of different headings as well."""
    nothing = (0,) * len(live)
    yield nothing
    for at, each in enumerate(live):
        for member in range(1, len(each.members) + 1):
            yield (*nothing[:at], member, *nothing[at + 1 :])
    if pairs:
        for one, two in combinations(range(len(live)), 2):
            spans = (range(1, len(live[one].members) + 1), range(1, len(live[two].members) + 1))
            for first, second in product(*spans):
                state = list(nothing)
                state[one], state[two] = first, second
                yield tuple(state)


def estimate(content: BoardContent) -> Estimate:
    """What a page would be, judged by its first states. Refuses one of very many."""
    live = live_headings(content)
    every = list(states_of(live, pairs=content.pairs))
    _check(len(every))
    started = time.perf_counter()
    page = _Page(content, live)
    tried = every[:: max(1, len(every) // 4)][:4]
    for state in tried:
        page.add(state)
    taken = time.perf_counter() - started
    packed = len(page.packed())
    return Estimate(len(every), 0.3 + taken / len(tried) * len(every), 150_000 + packed // len(tried) * len(every))


def _check(states: int) -> None:
    if states > MOST_STATES:
        raise Refusal(
            f"a page of {states:,} states would be too large", "choose fewer interactive slicers, or no combinations"
        )


def live_page(content: BoardContent) -> str:
    """The page as HTML. Raises Refusal where it would be too large, or what should stay live is not there."""
    live = live_headings(content)
    every = list(states_of(live, pairs=content.pairs))
    _check(len(every))
    page = _Page(content, live)
    for done, state in enumerate(every, start=1):
        page.add(state)
        content.watch(done, len(every))
    return page.written()


class _Page:
    """What the page shows, state by state."""

    def __init__(self, content: BoardContent, live: tuple[Live, ...]) -> None:
        self.content, self.live = content, live
        self.theme = theme_of(content.folio.palette)
        self.writer = SvgWriter(self.theme)
        # What stands behind a choice is the page as it is before one: nothing else than the page tells anyway.
        self.reckoning: Reckoning = replace(content.reckoning(), unsliced=content.tells_all)
        board = content.board
        self.home = table_of(board, content.folio, content.tables) if live else ""
        known = {each.id for each in board.slicers}
        for each in live:  # they are part of what the rows are folded by, from the first state on
            board = sliced_at(board, self.home, each.heading, each.members[0]) if each.members else board
        added = tuple(cleared(each) for each in board.slicers if each.id not in known)
        self.board: Board = replace(content.board, slicers=(*content.board.slicers, *added))
        self.panels: list[Panel] = sorted(board.panels, key=lambda each: not kind_of(each).behind)
        # A page may be as tall as it likes: rows are never as low as on a screen.
        self.grid = BoardGrid.of(content.size[0], max(content.size[1], board.rows * _ROW), board.rows)
        self.drawn: dict[str, int] = {}
        self.figures: list[dict[str, Any] | None] = []
        self.states: dict[State, list[int]] = {}
        self.feet: dict[State, str] = {}
        self._last: dict[str, tuple[PanelAnswer, int]] = {}

    def add(self, state: State) -> None:
        board = self.board
        for each, member in zip(self.live, state, strict=True):
            if member:
                board = sliced_at(board, self.home, each.heading, each.members[member - 1])
        self.states[state] = [self._panel(board, panel) for panel in self.panels]
        self.feet[state] = self._foot(board)

    def _foot(self, board: Board) -> str:
        """Where its figures come from, and how many rows they are of."""
        return board_foot(self.content.folio, board, self.reckoning).words() if self.content.foot else ""

    def _panel(self, board: Board, panel: Panel) -> int:
        """Where in `drawn` what it shows is."""
        answer = self.reckoning.panel(board, panel)
        last = self._last.get(panel.id)
        if last is not None and last[0] is answer:
            return last[1]
        _, _, wide, high = self.grid.area(panel.place)
        text = self.writer.fragment(card_scene(panel, answer, (wide, high), board.frames), name_of(panel, answer))
        which = self.drawn.setdefault(text, len(self.drawn))
        if which == len(self.figures):
            self.figures.append(figures_of(answer))
        self._last[panel.id] = (answer, which)
        return which

    def packed(self) -> bytes:
        """All states, as the page unpacks them."""
        record = {
            "drawn": list(self.drawn),
            "figures": self.figures,
            "states": {",".join(map(str, state)): which for state, which in self.states.items()},
            "feet": {",".join(map(str, state)): words for state, words in self.feet.items()},
        }
        return base64.b64encode(gzip.compress(msgspec.json.encode(record), 5, mtime=0))

    def written(self) -> str:
        from jinja2 import Environment, FileSystemLoader
        from markupsafe import Markup

        rooms = Environment(loader=FileSystemLoader(_PARTS), autoescape=True, trim_blocks=True, lstrip_blocks=True)
        first = self.states[(0,) * len(self.live)]
        shown, tokens = list(self.drawn), self.theme.tokens
        high = self.grid.down * self.board.rows
        panels, tables = [], []
        for at, (panel, which) in enumerate(zip(self.panels, first, strict=True)):
            left, top, wide, tall = self.grid.area(panel.place)
            name = name_of(panel, self.reckoning.panel(self.board, panel))
            panels.append({
                "left": _share(left, self.content.size[0]), "top": _share(top, high),
                "width": _share(wide, self.content.size[0]), "height": _share(tall, high),
                "natural": round(wide), "svg": Markup(shown[which]),
                "name": "",
            })  # fmt: skip
            figures = self.figures[which]
            if figures is not None:
                tables.append({"panel": at, "name": name or "Figures", "html": Markup(_table(figures))})
        fixed = [slicer_words(each) for each in self.board.slicers if each.narrows]
        style = rooms.get_template("page.css").render(
            **{key: tokens[key] for key in ("ink", "text", "muted", "paper", "sheet", "hairline", "plum")},
            wash=tokens["plum wash"], sans=SANS, serif=SERIF, fallback=FALLBACK,
            serif_headings=self.theme.serif_headings,
        )  # fmt: skip
        self.writer.needs(self._page_words())
        script = (_PARTS / "page.js").read_text("utf-8")
        return rooms.get_template("page.html").render(
            language=LANGUAGE, title=self.board.name, fixed=" · ".join(fixed), faces=Markup(self.writer.faces()),
            style=Markup(style), script=Markup(script), script_hash=_hash_of(script),
            slicers=[{"name": each.name, "members": each.labels} for each in self.live], most_listed=_MOST_LISTED,
            panels=panels, tables=tables, wide=round(self.content.size[0], 2), high=round(high, 2),
            foot=self.feet[(0,) * len(self.live)],
            about={
                "slicers": [{"name": each.name, "members": each.labels} for each in self.live],
                "together": 2 if self.content.pairs else 1, "all": _ALL,
            },
            states=Markup(self.packed().decode("ascii")),
        )  # fmt: skip

    def _page_words(self) -> str:
        """The words of the page outside its pictures, whose letters the faces need too."""
        words = [self.board.name, *(label for each in self.live for label in (each.name, *each.labels))]
        cells = [cell for table in self.figures if table is not None for row in table["rows"] for cell in row]
        plain = "".join(map(chr, range(32, 127))) + "–—·…▾▸“”’"
        return "".join(sorted(set("".join([*words, *cells, plain]))))


def _hash_of(script: str) -> str:
    """By which the page's policy knows the one script that may run."""
    return base64.b64encode(sha256(script.encode("utf-8")).digest()).decode("ascii")


def _share(part: float, whole: float) -> float:
    """In percent, to a thousandth."""
    return round(part / whole * 100, 3) if whole else 0.0


def name_of(panel: Panel, answer: PanelAnswer) -> str:
    """What a panel is called, for whoever hears the page; empty for what says nothing."""
    title = panel_title(panel, answer)
    if answer.refusal:
        return f"{title}: {answer.refusal}".strip(": ")
    if answer.key_figure is not None:
        return f"{title}: {answer.key_figure.style.text(answer.key_figure.value, unit=True)}"
    if answer.chart is not None:
        return f"{title or ', '.join(answer.chart.grid.names)}, drawn as {answer.chart.form}"
    return answer.words.replace("\n", " ").strip() or title


def figures_of(answer: PanelAnswer) -> dict[str, Any] | None:
    """The figures behind a panel as they are written; None where there are none, or they are values row by row."""
    chart = answer.chart
    if chart is None or chart.grid.empty or chart.grid.samples is not None:
        return None
    grid, look = chart.grid, chart.look.grid
    styles = tuple(styled(own, look.style_of(at)) for at, own in enumerate(grid.styles))
    rows = laid_out(grid, exact=False, layout=look.layout, styles=styles)
    below = as_rows(grid, look.layout)
    labels = max(grid.rows.depth, 1) + below
    named = int(bool(below) or len(grid.names) > 1 or not grid.columns.depth)
    wide = max(map(len, rows), default=1)
    most = max(_MOST_CELLS // max(wide, 1), 20)
    if len(rows) > most:
        rows = [*rows[:most], [f"{len(rows) - most:,} rows more", *[""] * (wide - 1)]]
    return {"rows": rows, "labels": labels, "heads": grid.columns.depth + named}


def _table(figures: dict[str, Any]) -> str:
    """The figures as a table, for where no script runs."""
    from html import escape

    lines = []
    for at, row in enumerate(figures["rows"]):
        head = at < figures["heads"]
        cells = []
        for place, text in enumerate(row):
            named = head or place < figures["labels"]
            kind = ' class="n"' if place >= figures["labels"] else ""
            scope = f' scope="{"col" if head else "row"}"' if named else ""
            name = "th" if named else "td"
            cells.append(f"<{name}{scope}{kind}>{escape(text)}</{name}>")
        lines.append(f"<tr>{''.join(cells)}</tr>")
    heads = figures["heads"]
    return f"<table><thead>{''.join(lines[:heads])}</thead><tbody>{''.join(lines[heads:])}</tbody></table>"
