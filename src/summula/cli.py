"""The command line: open the desk, ask a table a phrase, list its fields, render a page."""

from __future__ import annotations

import argparse
import json
import math
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any, cast

from summula import __version__
from summula.core.engine.grid import Grid
from summula.core.fields.labels import json_member
from summula.core.folio.file import open_folio
from summula.core.folio.model import SUFFIX, TableEntry
from summula.core.folio.opened import Opened
from summula.core.grids.records import json_record
from summula.core.phrases.lever import LeverSetting, with_levers
from summula.core.phrases.phrase import Phrase, is_each_row
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal, nearest
from summula.core.summaries import Vocabulary, answer, parse, print_for
from summula.core.tables.column import CodedColumn, DateColumn, NumberColumn, date_of
from summula.core.tables.field import Kind
from summula.core.tables.table import Table, blanks, distinct

if TYPE_CHECKING:
    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.charts.style import ChartStyle

COMMANDS = ("open", "demo", "fields", "ask", "draw", "render", "refresh")


def main(argv: list[str] | None = None) -> int:
    """The exit code: 0 done, 1 refused, 2 wrong usage."""
    arguments = list(sys.argv[1:] if argv is None else argv)
    if arguments and arguments[0] not in COMMANDS and not arguments[0].startswith("-"):
        arguments.insert(0, "open")  # `summula FILE` opens it
    options = _parser().parse_args(arguments or ["open"])
    try:
        return int(options.run(options))
    except Refusal as refusal:
        print(f"summula: {_one_line(str(refusal))}", file=sys.stderr)
        return 1
    except BrokenPipeError:
        sys.stderr.close()  # the reader of our output has gone; there is nobody to tell
        return 1


def _one_line(text: str) -> str:
    return " ".join(text.split())


def _parser() -> argparse.ArgumentParser:
    parser = argparse.ArgumentParser(
        prog="summula", description="Pivot summaries, charts and sliced boards from flat tables."
    )
    parser.add_argument("--version", action="version", version=f"summula {__version__}")
    commands = parser.add_subparsers(required=True, metavar="|".join(COMMANDS))

    opening = commands.add_parser("open", help="open the desk, with a folio or a table file")
    opening.add_argument("file", nargs="?", type=Path)
    opening.set_defaults(run=_open)

    demo = commands.add_parser("demo", help="open the desk with the demo's folio")
    demo.add_argument("--files", metavar="DIR", type=Path, help="write the demo's tables as CSV and XLSX instead")
    demo.add_argument(
        "--next-month", action="store_true", help="write the next month's rows into the demo's files (or those in DIR)"
    )
    demo.add_argument("--folio", metavar="FILE", type=Path, help="save the demo's folio instead")
    demo.set_defaults(run=_demo)

    fields = commands.add_parser("fields", help="list a table's fields")
    _source_options(fields)
    fields.add_argument("--json", action="store_true")
    fields.set_defaults(run=_fields)

    ask = commands.add_parser("ask", help="answer one phrase about a table")
    _source_options(ask)
    ask.add_argument("phrase")
    ask.add_argument("--format", choices=figure_formats(), default="text")
    ask.add_argument("--to", metavar="FILE", type=Path)
    ask.set_defaults(run=_ask)

    drawing = commands.add_parser("draw", help="draw the answer to a phrase about a table")
    _source_options(drawing)
    drawing.add_argument("phrase", help="with 'drawn as' and a form at its end")
    drawing.add_argument("--style", metavar="FILE.json", type=Path, help="how the chart looks")
    drawing.add_argument("--size", default="900x600", help="width x height in pixels (900x600)")
    drawing.add_argument("--title", default="", help="what stands above it (the table's name)")
    drawing.add_argument("--to", metavar="X.svg", type=Path, required=True, help="an .svg or .png file")
    drawing.set_defaults(run=_draw)

    render = commands.add_parser("render", help="draw a page of a folio as a picture")
    render.add_argument("folio", type=Path, help="a .summula file, or the word demo")
    render.add_argument("page", help="its name or its number in the Contents")
    render.add_argument("--to", metavar="X.svg", type=Path, required=True, help="an .svg or .png file")
    render.add_argument("--size", default="1280x800", help="width x height in pixels (1280x800)")
    render.add_argument(
        "--play", choices=("month", "quarter", "year"), help="a board at each of these, a file each (X 2024-04.svg)"
    )
    render.set_defaults(run=_render)
    refresh = commands.add_parser("refresh", help="read the sources of a folio again, and save it")
    refresh.add_argument("folio", type=Path)
    refresh.add_argument("--table", help="only this table")
    refresh.set_defaults(run=_refresh)
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
    parser.add_argument("--lever", action="append", default=[], metavar="NAME=VALUE", help="where a lever stands")
    parser.add_argument(
        "--link", action="append", default=[], metavar="FILE[:FIELD=FIELD,…]",
        help="another table, whose figures may be asked (sum of X in \"Its name\"); by these fields or any that agree",
    )  # fmt: skip


def _open(options: argparse.Namespace) -> int:
    from summula.desk.app import run

    return run(options.file)


def _refresh(options: argparse.Namespace) -> int:
    from summula.core.folio.refreshing import refreshed

    opened = _opened(options.folio)
    entries = [_entry(opened.folio.tables, options.table, options.folio.name)] if options.table else opened.folio.tables
    after, sentences = refreshed(opened, [entry.id for entry in entries], options.folio)
    from summula.core.folio.file import save_folio

    save_folio(options.folio, after.folio, after.tables)
    print("\n".join(sentences))
    return 0


def _next_month(folder: Path | None) -> int:
    from summula.demo.files import add_next_month
    from summula.demo.ready import demo_folder

    folder = folder or demo_folder()
    try:
        rows, last = add_next_month(folder)
    except OSError as fault:
        raise Refusal(f"'{folder}' could not be written ({fault.strerror or fault})", "choose another folder") from None
    print(f"{rows:,} rows up to {last:%d %B %Y} are in {folder / 'sailings.csv'} now")
    return 0


def _demo(options: argparse.Namespace) -> int:
    if options.next_month:
        return _next_month(options.files)
    if options.files is not None:
        from summula.demo.files import write_files

        try:
            written = write_files(options.files)
        except OSError as fault:
            raise Refusal(
                f"'{options.files}' could not be written ({fault.strerror or fault})", "choose another folder"
            ) from None
        print("\n".join(str(path) for path in written))
        return 0
    if options.folio is not None:
        from summula.core.folio.file import save_folio
        from summula.demo.folio import demo_folio

        beside = options.folio.resolve().parent
        opened = demo_folio(beside if (beside / "sailings.csv").exists() else None)
        save_folio(options.folio, opened.folio, opened.tables)
        return 0
    from summula.desk.app import run_demo

    return run_demo()


def _levers(options: argparse.Namespace, known: tuple[LeverSetting, ...]) -> tuple[LeverSetting, ...]:
    """The folio's levers, those that are said here moved; a table file has no others than these."""
    levers = {each.name: each for each in known}
    for stated in options.lever:
        name, _, value = stated.rpartition("=")
        try:
            number = float(value)
        except ValueError:
            number = math.nan
        if not name or not math.isfinite(number):
            raise Refusal(f"'{stated}' does not say where a lever stands", 'write it as --lever "NAME=0.1"')
        if known and name not in levers:
            guess = nearest(name, levers)
            raise Refusal(f"no lever '{name}'", f"did you mean '{guess}'?" if guess else "see the folio's levers")
        levers[name] = LeverSetting(name, number, number, number, 1)
    return tuple(levers.values())


def _opened(path: Path) -> Opened:
    """The folio; what was set aside in it is told."""
    opened = open_folio(path)
    for problem in opened.problems:
        print(f"summula: {Refusal(problem.sentence)}", file=sys.stderr)
    return opened


def _table(options: argparse.Namespace) -> tuple[Table, tuple[LeverSetting, ...]]:
    """The table that is asked, and the levers that may be named."""
    kinds = {}
    for stated in options.kind:
        name, equals, kind = stated.rpartition("=")
        if not equals:
            raise Refusal(f"'{stated}' does not say a kind", 'write it as --kind "FIELD=KIND"')
        kinds[name] = cast(Kind, kind)
    from summula.core.reading.findings import findings
    from summula.core.reading.readas import ReadAs
    from summula.core.reading.readers import check_kinds, read_found

    source: Path = options.source
    if source.suffix.lower() != SUFFIX:
        if options.table is not None:
            raise Refusal(f"'{source.name}' is not a folio, so it has no table '{options.table}'", "leave --table out")
        read_as = ReadAs(sheet=options.sheet or "", leave_totals=options.totals == "leave")
        table, settings = read_found(source, read_as, kinds)
        check_kinds(table, kinds)
        options.findings = findings(table, settings)
        for finding in options.findings:
            print(f"summula: {_one_line(finding.sentence)}", file=sys.stderr)
        return table.with_year(options.year_begins or 1), _levers(options, ())
    if kinds:
        raise Refusal("the kinds of a folio's fields are said in the folio", "leave --kind out")
    opened = _opened(source)
    entries = opened.folio.tables
    entry = _entry(
        entries, options.table if options.table is not None else entries[0].name if entries else "", source.name
    )
    table = opened.prepared()[entry.id]
    return table.with_year(options.year_begins or table.year_begins), _levers(options, opened.folio.levers)


def _linked(options: argparse.Namespace, table: Table) -> LinkedTables:
    """The tables linked to the one that is asked: those of its folio, and the files that are named."""
    from summula.core.boards.linkedtables import LinkedTables, linked_ids
    from summula.core.reading.readers import read_found
    from summula.core.slicing.linking import FieldOf, Link, offered_links

    if options.source.suffix.lower() == SUFFIX:
        if options.link:
            raise Refusal("the tables of a folio are linked in the folio", "leave --link out")
        opened = _opened(options.source)
        prepared, home = (
            opened.prepared(),
            next(key for key, each in opened.prepared().items() if each.name == table.name),
        )
        links = opened.folio.links
        return LinkedTables(home, {key: prepared[key] for key in linked_ids(links, home) if key in prepared}, links)
    tables: dict[str, Table] = {}
    links = ()
    for at, stated in enumerate(options.link):
        place, _, fields = stated.partition(":")
        other, _ = read_found(Path(place))
        key = f"other {at}"
        tables[key] = other
        found = offered_links(("home", table), (key, other))
        if fields:
            found = []
            for pair in fields.split(","):
                one, equals, two = pair.partition("=")
                if not equals or not table.has(one.strip()) or not other.has(two.strip()):
                    raise Refusal(f"'{pair}' links no two fields", "write FIELD=FIELD, first that of the source")
                both = (FieldOf("home", one.strip()), FieldOf(key, two.strip()))
                dated = table.field(one.strip()).kind == "date"
                found.append(Link(*both, by="month" if dated else "member"))
        if not found:
            raise Refusal(
                f"no fields of '{other.name}' agree with those of '{table.name}'", "say which: FILE:FIELD=FIELD"
            )
        links = (*links, *found)
    return LinkedTables("home", tables, links)


def _entry(entries: tuple[TableEntry, ...], wanted: str, folio: str) -> TableEntry:
    for entry in entries:
        if entry.name.casefold() == wanted.casefold():
            return entry
    guess = nearest(wanted, [entry.name for entry in entries])
    raise Refusal(
        f"no table '{wanted}' in '{folio}'", f"did you mean '{guess}'?" if guess else "add a table to it first"
    )


def _fields(options: argparse.Namespace) -> int:
    table, _ = _table(options)
    records = []
    for field, column in zip(table.fields, table.columns, strict=True):
        least, most = _extremes(column)
        records.append(
            {
                "name": field.name,
                "kind": field.kind,
                "rows": table.rows,
                "blanks": blanks(column),
                "distinct": distinct(column),
                "min": least,
                "max": most,
                **_found_of(options, field.name),
            }
        )
    if options.json:
        print(json.dumps(records, ensure_ascii=False, indent=1))
        return 0
    heads = ["name", "kind", "rows", "blanks", "distinct", "min", "max"]
    rows = [["" if record[head] is None else str(record[head]) for head in heads] for record in records]
    from summula.core.handout.plain import aligned

    print(aligned([heads, *rows], left=2), end="")
    return 0


def _found_of(options: argparse.Namespace, field: str) -> dict[str, object]:
    """What was found out about a field as the file was read, and about the file itself."""
    found = getattr(options, "findings", ())
    own = [each.sentence for each in found if each.field == field]
    whole = [each.sentence for each in found if not each.field]
    return ({"findings": own} if own else {}) | ({"table_findings": whole} if whole else {})


def _extremes(column: CodedColumn | NumberColumn | DateColumn) -> tuple[object, object]:
    if isinstance(column, CodedColumn):
        return (column.members[0], column.members[-1]) if column.members else (None, None)
    values = (
        column.present()
        if isinstance(column, NumberColumn)
        else column.days
        if column.blank is None
        else column.days[~column.blank]
    )
    if len(values) == 0:
        return None, None
    if isinstance(column, DateColumn):
        return json_member(date_of(int(values.min()))), json_member(date_of(int(values.max())))
    low, high = float(values.min()), float(values.max())
    return (int(low) if low == int(low) else low), (int(high) if high == int(high) else high)


_MOST_TOLD = 80  # letters of a phrase that a refusal repeats


def _answered(
    options: argparse.Namespace, table: Table, levers: tuple[LeverSetting, ...]
) -> tuple[Phrase, Grid, Vocabulary]:
    """The phrase that is asked, and its answer. A refusal says at which sign."""
    notes: list[str] = []
    others = _linked(options, table)
    words = Vocabulary(table, tuple(each.name for each in levers), notes, tuple(others.tables.values()))
    try:
        phrase = with_levers(parse(options.phrase, words), levers)
        grid = answer(phrase, table, others=others)
    except Refusal as refusal:
        start, stop = refusal.span or (0, len(options.phrase))
        stated = options.phrase[start:stop]
        place = f" (at '{stated if len(stated) <= _MOST_TOLD else stated[:_MOST_TOLD] + '…'}', sign {start + 1})"
        raise Refusal(refusal.wrong + place, refusal.remedy) from None
    for note in dict.fromkeys(notes):
        print(f"summula: {note}", file=sys.stderr)
    return phrase, grid, words


def _ask(options: argparse.Namespace) -> int:
    from summula.core.handout.formats import FORMATS, Figures

    table, levers = _table(options)
    phrase, grid, words = _answered(options, table, levers)
    if any(is_each_row(measure.calculation) for measure in grid.phrase.measures):
        raise Refusal("'each row' is many values, which no list holds", "draw it, or use median of it")

    def record() -> dict[str, Any]:
        found = json_record(grid, phrase, print_for(phrase, words))
        notice = [each.sentence for each in getattr(options, "findings", ())]
        return found | ({"findings": notice} if notice else {})

    way = next(each for each in FORMATS if each.key == options.format)
    if options.to is None and not way.shown:
        raise Refusal(f"{way.name} is not shown here", f"say where it goes, with --to FILE.{way.suffix}")
    made = way.make(Figures(grid, table.name, print_phrase(grid.phrase), record=record))
    if options.to is None:
        sys.stdout.write(made.decode("utf-8"))
        return 0
    try:
        options.to.write_bytes(made)
    except OSError as fault:
        wrong = f"'{options.to}' could not be written ({fault.strerror or fault})"
        raise Refusal(wrong, "choose another place") from None
    return 0


def _size(text: str) -> tuple[int, int]:
    width, cross, height = text.lower().partition("x")
    if not (
        cross and width.isdecimal() and height.isdecimal() and 100 <= int(width) <= 8000 and 100 <= int(height) <= 8000
    ):
        raise Refusal(f"'{text}' is not a size", "write it as 1280x800, each side from 100 to 8000")
    return int(width), int(height)


def _style(path: Path) -> ChartStyle:
    """A chart's style from a JSON file, in the groups that a folio holds it in."""
    from summula.core.charts.settings import style_from

    try:
        document = json.loads(path.read_text("utf-8"))
    except OSError as fault:
        raise Refusal(f"'{path}' could not be read ({fault.strerror or fault})", "check the name") from None
    except (ValueError, RecursionError) as fault:
        raise Refusal(f"'{path.name}' is no JSON ({fault})", 'write it like {"legend": {"place": "right"}}') from None
    return style_from(document)


def _draw(options: argparse.Namespace) -> int:
    from summula.core.boards.livefigures import LiveRows, with_live_words
    from summula.core.charts import why_not
    from summula.core.charts.chart import SummaryLook, chart_of
    from summula.core.charts.style import PLAIN_STYLE, with_levers
    from summula.core.composition.composition import Foot
    from summula.core.composition.summarypages import compose_summary
    from summula.core.handout.formats import format_for
    from summula.desk.pictures import ALL_FORMATS
    from summula.desk.rendering import put

    size = _size(options.size)
    format_for(options.to.name, ALL_FORMATS, "page")  # before anything is worked out
    style = _style(options.style) if options.style is not None else PLAIN_STYLE
    table, levers = _table(options)
    phrase, grid, _ = _answered(options, table, levers)
    look = SummaryLook(style=with_levers(style, levers))
    why = why_not(phrase, phrase.form)
    if why:  # it is drawn in the picture, too
        print(f"summula: {why}", file=sys.stderr)
    stated = Foot(options.source.name, "", f"{grid.rows_used:,} of {grid.rows_read:,} rows")
    chart = with_live_words(chart_of(grid, table, look), LiveRows(table, None, (), phrase.where, tuple(levers)))
    put(compose_summary(options.title or table.name, print_phrase(phrase), chart, size, stated), options.to)
    return 0


def _render(options: argparse.Namespace) -> int:
    size = _size(options.size)
    from summula.desk.rendering import render_page, render_steps

    if str(options.folio) == "demo":
        from summula.demo.folio import demo_folio

        opened = demo_folio()
    else:
        opened = _opened(options.folio)
    if options.play:
        count = render_steps(opened, options.page, options.to, size, options.play)
        print(f"{count} files written", file=sys.stderr)
    else:
        render_page(opened, options.page, options.to, size)
    return 0
