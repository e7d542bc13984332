"""The command line: open the desk, ask a table a phrase, list its fields, render a page."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path

from summula import __version__
from summula.cli.asking import ask_table, draw_chart, list_fields
from summula.cli.demo import open_demo, open_desk
from summula.cli.finding import find_words
from summula.cli.handing import page_options, refresh_folio, render_folio, set_timer
from summula.cli.integrating import integrate_desktop
from summula.cli.sources import one_line
from summula.core.refusal import Refusal

COMMANDS = ("open", "demo", "fields", "ask", "draw", "render", "refresh", "find", "timer", "integrate")


def main(argv: list[str] | None = None) -> int:
    """The exit code: 0 done, 1 refused, 2 wrong usage."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    if arguments and arguments[0] not in COMMANDS and not arguments[0].startswith("-"):
        arguments.insert(0, "open")  # `summula FILE` opens it
    options = _parser().parse_args(arguments or ["open"])
    try:
        return int(options.run(options))
    except Refusal as refusal:
        print(f"summula: {one_line(str(refusal))}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        sys.stderr.close()  # the reader of our output has gone; there is nobody to tell
        return 1


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="summula", description="Pivot summaries, charts and sliced boards from flat tables."
    )
    parser.add_argument("--version", action="version", version=f"summula {__version__}")
    commands = parser.add_subparsers(required=True, metavar="|".join(COMMANDS))

    opening = commands.add_parser("open", help="open the window, with a folio or table files")
    opening.add_argument("file", nargs="*", type=Path)
    opening.set_defaults(run=open_desk)

    demo = commands.add_parser("demo", help="open the window with the demo")
    demo.add_argument("--files", metavar="DIR", type=Path, help="write the demo's tables as CSV and XLSX instead")
    demo.add_argument(
        "--next-month", action="store_true", help="write the next month's rows into the demo's files (or those in DIR)"
    )
    demo.add_argument(
        "--feed", metavar="DIR", type=Path, help="write the next sailings into a file there, some at a time"
    )
    demo.add_argument("--every", type=float, default=3.0, metavar="SECONDS", help="interval of --feed (3)")
    demo.add_argument("--times", type=int, metavar="N", help="number of times for --feed (until stopped)")
    demo.add_argument("--folio", metavar="FILE", type=Path, help="save the demo's folio instead")
    demo.set_defaults(run=open_demo)

    fields = commands.add_parser("fields", help="list a table's fields")
    _source_options(fields)
    fields.add_argument("--json", action="store_true")
    fields.set_defaults(run=list_fields)

    ask = commands.add_parser("ask", help="answer one phrase about a table")
    _source_options(ask)
    ask.add_argument("phrase")
    ask.add_argument("--format", choices=figure_formats(), help="output format (from the ending of --to, else text)")
    ask.add_argument("--to", metavar="FILE", type=Path)
    ask.set_defaults(run=ask_table)

    drawing = commands.add_parser("draw", help="draw the answer to a phrase about a table")
    _source_options(drawing)
    drawing.add_argument("phrase", help="with 'drawn as' and a form at its end")
    drawing.add_argument("--style", metavar="FILE.json", type=Path, help="how the chart looks")
    size_help = "width x height in pixels (900x600; at least 160x120)"
    drawing.add_argument("--size", default="900x600", help=size_help)
    drawing.add_argument("--title", default="", help="what stands above it (the table's name), where there is room")
    drawing.add_argument("--bare", action="store_true", help="the chart alone, without title, phrase and foot")
    drawing.add_argument("--to", metavar="X.svg", type=Path, required=True, help="an .svg or .png file")
    drawing.set_defaults(run=draw_chart)

    render = commands.add_parser("render", help="export pages of a folio")
    render.add_argument("folio", type=Path, help="a .summula file, or the word demo")
    render.add_argument(
        "page", nargs="*", help="its name or its number in the Contents; all boards where none is named"
    )
    render.add_argument(
        "--to", metavar="X.pdf", type=Path, required=True, help="a .pdf, .png, .svg, .html, .xlsx, .csv … file"
    )
    page_options(render)
    render.add_argument(
        "--play", choices=("month", "quarter", "year"), help="one file for each period (X 2024-04.svg)"
    )
    render.set_defaults(run=render_folio)

    refresh = commands.add_parser("refresh", help="read the sources of a folio again and save it")
    refresh.add_argument("folio", type=Path)
    refresh.add_argument("--table", help="only this table")
    refresh.add_argument(
        "--export", "--hand-out", dest="hand_out", metavar="X.pdf", type=Path,
        help="export it too, replacing this file in one step",
    )
    refresh.add_argument("--page", action="append", default=[], help="which page (all boards)")
    page_options(refresh)
    refresh.set_defaults(run=refresh_folio)

    finding = commands.add_parser("find", help="find actions, settings, fields and pages by any word")
    finding.add_argument("query", help="what you look for, such as 'percent of total'")
    finding.add_argument("folio", nargs="?", type=Path, help="a .summula file (the demo)")
    finding.add_argument("--most", type=int, default=10, metavar="N", help="how many lines (10)")
    finding.set_defaults(run=find_words)

    integrate = commands.add_parser("integrate", help="add Summula to the application menu and open folios with it")
    integrate.add_argument("--remove", action="store_true", help="remove it again")
    integrate.set_defaults(run=integrate_desktop)

    timer = commands.add_parser("timer", help="refresh and export a folio every day (a systemd user timer)")
    timer.add_argument("folio", type=Path)
    timer.add_argument("--at", required=True, metavar="06:00", help="the time of day")
    timer.add_argument("--to", metavar="X.pdf", type=Path, required=True)
    timer.add_argument("--page", action="append", default=[], help="which page (all boards)")
    timer.add_argument("--write", action="store_true", help="install it (otherwise it is only printed)")
    timer.set_defaults(run=set_timer)
    return parser


def figure_formats() -> tuple[str, ...]:
    """The formats of figures, plain text first."""
    from summula.core.handout.formats import FORMATS

    return tuple(sorted((each.key for each in FORMATS if each.takes == "figures"), key=lambda key: key != "text"))


def _source_options(parser: argparse.ArgumentParser) -> None:
    parser.add_argument("source", type=Path, help="a table file or a folio")
    which = parser.add_mutually_exclusive_group()
    which.add_argument("--sheet", help="the sheet of a workbook")
    which.add_argument("--table", help="the table of a folio")
    parser.add_argument("--kind", action="append", default=[], metavar="FIELD=KIND", help="say what a field holds")
    months = range(1, 13)
    parser.add_argument(
        "--year-begins", type=int, choices=months, metavar="MONTH", help="the fiscal year's first month, 1-12"
    )
    parser.add_argument(
        "--totals",
        choices=("leave", "keep"),
        default="leave",
        help="rows that are totals, subtotals, balances or notes: leave them out (told), or keep them",
    )
    parser.add_argument("--lever", action="append", default=[], metavar="NAME=VALUE", help="value of a lever")
    parser.add_argument(
        "--link", action="append", default=[], metavar="FILE[:FIELD=FIELD,…]",
        help="another table, whose figures may be asked (sum of X in \"Its name\"); by these fields or any that agree",
    )  # fmt: skip
