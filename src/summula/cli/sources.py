"""What a command asks: a table of a file or of a folio, with its levers and the tables linked to it."""

from __future__ import annotations

import math
import sys
from pathlib import Path
from typing import TYPE_CHECKING, cast

from summula.core.folio.file import open_folio
from summula.core.folio.model import SUFFIX, TableEntry
from summula.core.phrases.lever import LeverSetting
from summula.core.refusal import Refusal, nearest

if TYPE_CHECKING:
    import argparse

    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.folio.opened import Opened
    from summula.core.tables.field import Kind
    from summula.core.tables.table import Table


def one_line(text: str) -> str:
    return " ".join(text.split())


def levers_said(options: argparse.Namespace, known: tuple[LeverSetting, ...]) -> tuple[LeverSetting, ...]:
    """The folio's levers, those that are said here moved; a table file has no others than these."""
    levers = {each.name: each for each in known}
    for stated in options.lever:
        name, _, value = stated.rpartition("=")
        try:
            number = float(value)
        except ValueError:
            number = math.nan
        if not name or not math.isfinite(number):
            raise Refusal(f"'{stated}' does not set a lever", 'write it as --lever "NAME=0.1"')
        if known and name not in levers:
            guess = nearest(name, levers)
            raise Refusal(f"no lever '{name}'", f"did you mean '{guess}'?" if guess else "see the folio's levers")
        levers[name] = LeverSetting(name, number, number, number, 1)
    return tuple(levers.values())


def folio_at(path: Path) -> Opened:
    """The folio; what was set aside in it is told."""
    opened = open_folio(path)
    for problem in opened.problems:
        print(f"summula: {Refusal(problem.sentence)}", file=sys.stderr)
    return opened


def table_asked(options: argparse.Namespace) -> tuple[Table, tuple[LeverSetting, ...]]:
    """The table that is asked, and the levers that may be named."""
    kinds = {}
    for stated in options.kind:
        name, equals, kind = stated.rpartition("=")
        if not equals:
            raise Refusal(f"'{stated}' does not say a kind", 'write it as --kind "FIELD=KIND"')
        kinds[name] = cast("Kind", kind)
    from summula.core.reading.findings import findings
    from summula.core.reading.readas import ReadAs
    from summula.core.reading.sandboxed import read_found
    from summula.core.tables.table import check_kinds

    source: Path = options.source
    if source.suffix.lower() != SUFFIX:
        if options.table is not None:
            raise Refusal(f"'{source.name}' is not a folio, so it has no table '{options.table}'", "leave --table out")
        read_as = ReadAs(sheet=options.sheet or "", leave_totals=options.totals == "leave")
        table, settings = read_found(source, read_as, kinds)
        check_kinds(table, kinds)
        options.findings = findings(table, settings)
        for finding in options.findings:
            print(f"summula: {one_line(finding.sentence)}", file=sys.stderr)
        return table.with_year(options.year_begins or 1), levers_said(options, ())
    if kinds:
        raise Refusal("the kinds of a folio's fields are said in the folio", "leave --kind out")
    opened = folio_at(source)
    options.places = opened.folio.places()
    entries = opened.folio.tables
    entry = entry_called(
        entries, options.table if options.table is not None else entries[0].name if entries else "", source.name
    )
    table = opened.prepared()[entry.id]
    return table.with_year(options.year_begins or table.year_begins), levers_said(options, opened.folio.levers)


def files_read(options: argparse.Namespace) -> tuple[Path, ...]:
    """The files that a question names, and those that a folio's rows came from: none of them is written over."""
    links = tuple(Path(stated.partition(":")[0]) for stated in options.link)
    style = (options.style,) if getattr(options, "style", None) is not None else ()
    return (options.source, *links, *style, *getattr(options, "places", ()))


def linked(options: argparse.Namespace, table: Table) -> LinkedTables:
    """The tables linked to the one that is asked: those of its folio, and the files that are named."""
    from summula.core.boards.linkedtables import LinkedTables
    from summula.core.reading.sandboxed import read_found
    from summula.core.slicing.linking import FieldOf, Link, linked_ids, offered_links

    if options.source.suffix.lower() == SUFFIX:
        if options.link:
            raise Refusal("the tables of a folio are linked in the folio", "leave --link out")
        opened = folio_at(options.source)
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


def entry_called(entries: tuple[TableEntry, ...], wanted: str, folio: str) -> TableEntry:
    for entry in entries:
        if entry.name.casefold() == wanted.casefold():
            return entry
    guess = nearest(wanted, [entry.name for entry in entries])
    raise Refusal(
        f"no table '{wanted}' in '{folio}'", f"did you mean '{guess}'?" if guess else "add a table to it first"
    )
