"""A folio without the desk: its pages handed out, its sources read again, both by a timer."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.cli.sources import entry_called, folio_at, levers_said, one_line
from summula.core.handout.order import MOST_SCALE, Order
from summula.core.handout.place import check_not_read
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from summula.core.folio.opened import Opened


_LEAST_SIZE, _MOST = (160, 120), 8000  # pixels of a picture


def size_said(text: str) -> tuple[int, int]:
    """Refuses what is no size, or one that nothing can be drawn at."""
    width, cross, height = text.lower().partition("x")
    if not (cross and width.isdecimal() and height.isdecimal() and len(width) + len(height) < 12):
        raise Refusal(f"'{text}' is not a size", "write it as 1280x800: its width and height in pixels")
    size = int(width), int(height)
    if size[0] < _LEAST_SIZE[0] or size[1] < _LEAST_SIZE[1]:
        least = f"{_LEAST_SIZE[0]}x{_LEAST_SIZE[1]}"
        raise Refusal(f"{text} is too small for a picture", f"give it at least {least} pixels")
    if max(size) > _MOST:
        raise Refusal(f"{text} is too large for a picture", f"give it at most {_MOST} pixels each way")
    return size


def page_options(parser: argparse.ArgumentParser) -> None:
    """What can be said of pages that are handed out."""
    said = parser.add_argument
    said("--panel", default="", metavar="TITLE", help="one panel of a board alone")
    said("--size", default="1280x800", help="width x height in pixels (1280x800; at least 160x120), for no paper")
    said("--scale", type=float, default=1.0, help="pixels of a PNG for each of them, 1 to 4")
    said(
        "--paper",
        default="A4",
        help='of a PDF: A3, A4, A5, Letter, Legal, perhaps with "landscape" or "portrait"; none',
    )
    said("--margin", type=float, default=10.0, metavar="MM", help="of the paper, in millimetres (10)")
    said("--no-foot", action="store_true", help="do not say below where the figures come from")
    said("--slice", action="append", default=[], metavar="FIELD=MEMBER", help="only this member; several add up")
    said("--period", default="", help="2025, 2025-Q3, 2025-07 or 2025-01..2025-06")
    said("--lever", action="append", default=[], metavar="NAME=VALUE", help="value of a lever")
    said("--each", default="", metavar="FIELD", help="a chapter for each member, behind a page of contents (PDF)")
    said(
        "--unsliced", choices=("hide", "show"), default="hide",
        help="what there was before slicing, pale behind what there is (hide)",
    )  # fmt: skip
    said("--live", action="append", default=[], metavar="FIELD", help="a slicer that an HTML page answers to")
    said("--pairs", action="store_true", help="... to every two of them together, too")


def render_folio(options: argparse.Namespace) -> int:
    """Hands out pages of a folio."""
    from summula.desk.rendering import render_pages, render_steps

    size = size_said(options.size)
    opened = _opened(options)
    if options.play:
        if len(options.page) != 1:
            raise Refusal("one board is played at a time", "name it")
        count = render_steps(opened, options.page[0], options.to, size, options.play, (options.folio,))
        print(f"{count} files written", file=sys.stderr)
        return 0
    said = render_pages(opened, options.page, options.to, _order(options), options.panel, (options.folio,))
    if said:
        print(said, file=sys.stderr)
    return 0


def _opened(options: argparse.Namespace) -> Opened:
    """The folio, its levers where they are said to stand."""
    if str(options.folio) == "demo":
        from summula.demo.folio import demo_folio

        opened = demo_folio()
    else:
        opened = folio_at(options.folio)
    moved = {each.name: each.value for each in levers_said(options, opened.folio.levers)}
    if options.lever and not opened.folio.levers:
        raise Refusal(f"'{opened.folio.name}' has no levers", "leave --lever out")
    levers = tuple(replace(each, value=moved[each.name]) for each in opened.folio.levers)
    return replace(opened, folio=replace(opened.folio, levers=levers))


def _order(options: argparse.Namespace) -> Order:
    from summula.core.composition.paper import paper_named

    if not 1 <= options.scale <= MOST_SCALE:
        raise Refusal(f"a scale of {options.scale:g} is not possible", f"choose one from 1 to {MOST_SCALE:g}")
    paper = None if options.paper.casefold() == "none" else paper_named(options.paper, options.margin)
    return Order(
        size_said(options.size), options.scale, paper, not options.no_foot, tuple(options.slice), options.period,
        options.each, tuple(options.live), options.pairs, options.unsliced == "show",
    )  # fmt: skip


def refresh_folio(options: argparse.Namespace) -> int:
    """Reads the sources of a folio again, saves it, and hands it out where that is asked. What was handed out before
    stays where anything fails."""
    from summula.core.folio.file import save_folio
    from summula.core.folio.named import places_read
    from summula.core.folio.refreshing import refreshed

    to: Path | None = options.hand_out
    if to is not None:
        from summula.core.handout.formats import format_for
        from summula.desk.pictures import ALL_FORMATS

        format_for(to.name, ALL_FORMATS, "page", "board", "figures")  # before anything is read
    opened = folio_at(options.folio)
    if to is not None:
        check_not_read(to, (options.folio, *opened.folio.places()))
    tables = opened.folio.tables
    entries = [entry_called(tables, options.table, options.folio.name)] if options.table else tables
    before = {each.id: each.rows for each in tables}
    for entry in entries:
        for place in places_read(entry, options.folio):
            print(f"summula: reading '{one_line(place)}' for “{one_line(entry.name)}”", file=sys.stderr)
    after, sentences = refreshed(opened, [entry.id for entry in entries], options.folio)
    save_folio(options.folio, after.folio, after.tables)
    print("\n".join(sentences))
    if to is not None:
        from summula.desk.rendering import render_pages

        replaced = to.exists()
        render_pages(after, options.page, to, _order(options), options.panel, (options.folio,))
        print(f"{to.name} {'was replaced' if replaced else 'was written'}: {_what_changed(before, after)}")
    return 0


def _what_changed(before: dict[str, int], after: Opened) -> str:
    """How many rows each table has, and had."""
    said = []
    for each in after.folio.tables:
        had = before.get(each.id, 0)
        said.append(f"{each.name} has {each.rows:,} rows" + (f" ({each.rows - had:+,})" if each.rows != had else ""))
    return ", ".join(said) or "it has no tables"


def set_timer(options: argparse.Namespace) -> int:
    """A timer of the person's own session that refreshes a folio and hands it out; shown before it is written."""
    from summula.cli.timer import timer_units, write_units

    to: Path = options.to
    from summula.core.handout.formats import format_for
    from summula.desk.pictures import ALL_FORMATS

    format_for(to.name, ALL_FORMATS, "page", "board", "figures")
    if not options.folio.is_file():
        raise Refusal(f"there is no folio '{options.folio}'", "check the name")
    check_not_read(to, (options.folio, *folio_at(options.folio).folio.places()))
    units = timer_units(options.folio, to, options.at, options.page)
    for unit in units:
        print(f"# {unit.place}\n{unit.text}")
    if not options.write:
        print("Nothing is written yet: say --write to put these in place.", file=sys.stderr)
        return 0
    write_units(units)
    print(f"Written. Start it with:  systemctl --user enable --now {units[1].place.name}", file=sys.stderr)
    return 0
