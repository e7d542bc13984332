"""Asking a table: its fields, an answer as figures, a chart."""

from __future__ import annotations

import argparse
import json
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from summula.cli.handing import size_said
from summula.cli.sources import files_read, linked, table_asked
from summula.core.fields.labels import json_member
from summula.core.folio.model import SUFFIX
from summula.core.grids.records import json_record
from summula.core.phrases.lever import LeverSetting, levers_in, with_levers
from summula.core.phrases.phrase import Phrase, is_each_row
from summula.core.phrases.printing import print_phrase
from summula.core.refusal import Refusal
from summula.core.summaries import Vocabulary, answer, parse, print_for
from summula.core.tables.column import CodedColumn, DateColumn, NumberColumn, date_of
from summula.core.tables.table import Table, blanks, distinct

if TYPE_CHECKING:
    from summula.core.charts.style import ChartStyle
    from summula.core.engine.grid import Grid


_MOST_TOLD = 80  # letters of a phrase that a refusal repeats


def list_fields(options: argparse.Namespace) -> int:
    table, _ = table_asked(options)
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


def answered(
    options: argparse.Namespace, table: Table, levers: tuple[LeverSetting, ...]
) -> tuple[Phrase, Grid, Vocabulary]:
    """The phrase that is asked, and its answer. A refusal says at which sign."""
    notes: list[str] = []
    own = options.source.suffix.lower() != SUFFIX and getattr(options, "style", None) is None
    others = linked(options, table)
    words = Vocabulary(table, tuple(each.name for each in levers), notes, tuple(others.tables.values()))
    try:
        phrase_said = parse(options.phrase, words)
        phrase = with_levers(phrase_said, levers)
        grid = answer(phrase, table, others=others)
    except Refusal as refusal:
        start, stop = refusal.span or (0, len(options.phrase))
        stated = options.phrase[start:stop]
        place = f" (at '{stated if len(stated) <= _MOST_TOLD else stated[:_MOST_TOLD] + '…'}', sign {start + 1})"
        raise Refusal(refusal.wrong + place, refusal.remedy) from None
    unused = [each.name for each in levers if each.name not in levers_in(phrase_said)] if own else []
    if unused:
        raise Refusal(f"no lever '{unused[0]}' in the phrase", "name it there, or leave --lever out")
    for note in dict.fromkeys(notes):
        print(f"summula: {note}", file=sys.stderr)
    return phrase, grid, words


def ask_table(options: argparse.Namespace) -> int:
    from summula.core.handout.formats import FORMATS, Figures, format_for
    from summula.core.handout.place import check_not_read, put_in_place

    if options.to is not None:
        check_not_read(options.to, files_read(options))
    if options.format is None and options.to is not None:
        way = format_for(options.to.name, FORMATS, "figures")  # before anything is worked out
    else:
        way = next(each for each in FORMATS if each.key == (options.format or "text"))
    table, levers = table_asked(options)
    phrase, grid, words = answered(options, table, levers)
    if any(is_each_row(measure.calculation) for measure in grid.phrase.measures):
        raise Refusal("'each row' gives many values, which a list cannot hold", "draw it, or use the median")

    def record() -> dict[str, Any]:
        found = json_record(grid, phrase, print_for(phrase, words))
        notice = [each.sentence for each in getattr(options, "findings", ())]
        return found | ({"findings": notice} if notice else {})

    if options.to is None and not way.shown:
        raise Refusal(f"{way.name} is not shown here", f"say where it goes, with --to FILE.{way.suffix}")
    made = way.make(Figures(grid, table.name, print_phrase(grid.phrase), record=record))
    if options.to is None:
        sys.stdout.write(made.decode("utf-8"))
        return 0
    put_in_place(options.to, made, files_read(options))
    return 0


def style_in(path: Path) -> ChartStyle:
    """A chart's style from a JSON file, in the groups that a folio holds it in."""
    from summula.core.charts.settings import style_from

    try:
        document = json.loads(path.read_text("utf-8"))
    except OSError as fault:
        raise Refusal(f"'{path}' could not be read ({fault.strerror or fault})", "check the name") from None
    except (ValueError, RecursionError) as fault:
        raise Refusal(f"'{path.name}' is not JSON ({fault})", 'write it like {"legend": {"place": "right"}}') from None
    return style_from(document)


def draw_chart(options: argparse.Namespace) -> int:
    from summula.core.boards.livefigures import LiveRows, with_live_words
    from summula.core.charts.chart import SummaryLook, chart_of
    from summula.core.charts.style import PLAIN_STYLE, with_levers
    from summula.core.composition.composition import Foot
    from summula.core.composition.summarypages import compose_bare, compose_summary
    from summula.core.handout.formats import format_for
    from summula.core.handout.place import check_not_read
    from summula.core.phrases.fitting import why_not
    from summula.desk.pictures import ALL_FORMATS
    from summula.desk.rendering import put

    size = size_said(options.size)
    check_not_read(options.to, files_read(options))
    format_for(options.to.name, ALL_FORMATS, "page")  # before anything is worked out
    style = style_in(options.style) if options.style is not None else PLAIN_STYLE
    table, levers = table_asked(options)
    phrase, grid, _ = answered(options, table, levers)
    look = SummaryLook(style=with_levers(style, levers))
    why = why_not(phrase, phrase.form)
    if why:  # it is drawn in the picture, too
        print(f"summula: {why}", file=sys.stderr)
    stated = Foot(options.source.name, "", f"{grid.rows_used:,} of {grid.rows_read:,} rows")
    chart = with_live_words(chart_of(grid, table, look), LiveRows(table, None, (), phrase.where, tuple(levers)))
    title = options.title or table.name
    if options.bare:
        composition = compose_bare(title, chart, size)
    else:
        composition = compose_summary(title, print_phrase(phrase), chart, size, stated)
    put(composition, options.to, files_read(options))
    return 0
