"""A page as it is handed out: sliced, and at a period, as was said beside it (on the command line, for a chapter)."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping, Sequence
from typing import TYPE_CHECKING

from msgspec.structs import replace

from summula.core.boards.arrangement import with_slicer
from summula.core.boards.board import Board
from summula.core.boards.echoing import sliced_by
from summula.core.boards.panelanswer import Asked
from summula.core.boards.panelkinds import is_known, kind_of
from summula.core.fields.heading import Heading, Member, encode_heading
from summula.core.fields.labels import label_of
from summula.core.folio.model import AnyPage, Folio, Summary, TableEntry
from summula.core.phrases.phrase import Condition
from summula.core.phrases.printing import print_heading
from summula.core.refusal import Refusal, nearest
from summula.core.slicing.slicer import Echo, ListSlicer, PeriodSlicer, choice_of
from summula.core.summaries import Vocabulary, parse

if TYPE_CHECKING:
    from summula.core.boards.reckoning import Reckoning
    from summula.core.slicing.slicer import MemberChoice
    from summula.core.tables.table import Table

MOST_MEMBERS = 400  # of a heading that a page is made for each of
_PERIOD = re.compile(r"(\d{4})(?:-(?:Q([1-4])|H([12])|(0[1-9]|1[0-2])))?$", re.ASCII | re.IGNORECASE)


def narrowed(
    page: AnyPage, folio: Folio, tables: Mapping[str, Table], slices: Sequence[str] = (), period: str = ""
) -> AnyPage:
    """The page under slices ("Route=Osk – Vaila"; those of one field add up) and a period ("2025", "2025-Q3",
    "2025-07", "2025-01..2025-06"). Refuses what there is not, with what is meant."""
    if not slices and not period:
        return page
    match page:
        case TableEntry():
            raise Refusal(f"'{page.name}' is a table, which is not sliced", "name a summary or a board")
        case Summary():
            table = tables[page.table]
            found = _conditions(table, slices)
            if period:
                first, last = months_in(period)
                found.append(Condition(Heading(_date_of(table)), "is from", (first, last)))
            phrase = page.phrase
            return replace(page, phrase=replace(phrase, where=(*phrase.where, *found)))
        case Board():
            home = table_of(page, folio, tables)
            board = page
            for condition in _conditions(tables[home], slices):
                parts = tuple((replace(condition, values=(value,)),) for value in condition.values) or ((condition,),)
                board = sliced_by(board, Echo("", home, parts), _free_id(board))
            return _at_period(board, tables, home, period) if period else board


def table_of(board: Board, folio: Folio, tables: Mapping[str, Table]) -> str:
    """The table that a board is about: its slicers', else its panels'. Refuses where there is none."""
    asked = Asked(folio.phrases())
    shown = [kind_of(each).table_of(each, asked) for each in board.panels if is_known(each, asked)]
    found = [each for each in (*(slicer.table for slicer in board.slicers), *shown, *tables) if each in tables]
    if not found:
        raise Refusal(f"'{board.name}' asks no table", "put a summary on it first")
    return found[0]


def chapters(
    board: Board, folio: Folio, tables: Mapping[str, Table], field: str, reckoning: Reckoning
) -> Iterator[tuple[str, Member, Board]]:
    """The board once for each member of a heading that its slicers let through, in the members' own order: its name,
    itself, the board sliced by it. Refuses a heading of very many."""
    home = table_of(board, folio, tables)
    heading = heading_called(tables[home], field)
    in_play = members_in_play(board, reckoning, home, heading)
    for member in members_of(tables[home], heading):
        if choice_of(member) not in in_play:
            continue
        yield label_of(heading, member), member, sliced_at(board, home, heading, member)


def members_in_play(board: Board, reckoning: Reckoning, home: str, heading: Heading) -> set[MemberChoice]:
    """The members of a heading that have rows under the board's slicers, its own list among them."""
    own = _list_of(board, home, heading)
    slicer = own or ListSlicer(_free_id(board), home, heading)
    if own is None:
        board = with_slicer(board, slicer)
    held = {each.choice for each in reckoning.held(board, slicer) if each.rows}
    return held & set(own.chosen) if own is not None and own.narrows else held


def _list_of(board: Board, home: str, heading: Heading) -> ListSlicer | None:
    """The board's list of a heading's members."""
    lists = (each for each in board.slicers if isinstance(each, ListSlicer))
    return next((each for each in lists if (each.table, each.heading) == (home, heading)), None)


def sliced_at(board: Board, home: str, heading: Heading, member: Member) -> Board:
    """The board, its slicer of a heading set to one member; it gets one where it has none."""
    slicer = _list_of(board, home, heading) or ListSlicer(_free_id(board), home, heading)
    return with_slicer(board, replace(slicer, chosen=(choice_of(member),)))


def members_of(table: Table, heading: Heading) -> list[Member]:
    """The members that a heading has rows of, in their own order."""
    import numpy as np

    encoded = encode_heading(table, heading)
    held = np.flatnonzero(np.bincount(encoded.codes, minlength=encoded.size))
    if len(held) > MOST_MEMBERS:
        raise Refusal(
            f"'{print_heading(heading)}' has {len(held):,} members", f"choose a heading of {MOST_MEMBERS} or fewer"
        )
    return [encoded.member(int(code)) for code in held]


def heading_called(table: Table, text: str) -> Heading:
    """A field, or a part of one: "Route", "month of Sailed on". Refuses what there is not."""
    if table.has(text):
        return Heading(text)
    try:
        phrase = parse(f"show rows by {text}", Vocabulary(table))
    except Refusal:
        phrase = None
    if phrase is None or len(phrase.by) != 1:
        guess = nearest(text, [each.name for each in table.fields])
        raise Refusal(
            f"'{table.name}' has no field '{text}'", f"did you mean '{guess}'?" if guess else "see its fields"
        )
    return phrase.by[0]


def _conditions(table: Table, slices: Sequence[str]) -> list[Condition]:
    """One condition a heading, of all members that are said of it."""
    chosen: dict[Heading, list[str | float]] = {}
    blank: set[Heading] = set()
    for stated in slices:
        name, equals, member = stated.partition("=")
        if not equals:
            raise Refusal(f"'{stated}' does not say a member", 'enter it as "FIELD=MEMBER"')
        heading = heading_called(table, name.strip())
        found = _member(table, heading, member.strip())
        if found is None:
            blank.add(heading)
        else:
            chosen.setdefault(heading, []).append(found)
    if blank & set(chosen):
        raise Refusal("blank rows and others of one field cannot be let through together here", "say one of them")
    return [
        *(Condition(heading, "is", tuple(dict.fromkeys(values))) for heading, values in chosen.items()),
        *(Condition(heading, "is blank") for heading in blank),
    ]


def _member(table: Table, heading: Heading, text: str) -> str | float | None:
    """The member that is written so: exactly, else but for capitals. "blank" is the blank one, where none is called
    so."""
    members = members_of(table, heading) if heading.part or heading.bands else None
    if members is None:
        encoded = encode_heading(table, heading)
        members = [*encoded.members, None]
    labels = {label_of(heading, each): each for each in reversed(members) if each is not None}
    labels |= {str(choice_of(each)): each for each in reversed(members) if each is not None}
    folded = {name.casefold(): each for name, each in labels.items()}
    member = labels.get(text, folded.get(text.casefold()))
    if member is not None:
        return choice_of(member)
    if text.casefold() in ("blank", "", "(blank)") and None in members:
        return None
    guess = nearest(text, list(labels))
    remedy = f"did you mean '{guess}'?" if guess else "enter a member as it stands in the table"
    raise Refusal(f"'{print_heading(heading)}' has no member '{text}'", remedy)


def months_in(text: str) -> tuple[str, str]:
    """The first and the last month of a period as it is written."""
    first, dots, last = text.partition("..")
    begin = _PERIOD.match(first.strip())
    end = _PERIOD.match(last.strip()) if dots else begin
    if begin is None or end is None:
        raise Refusal(f"'{text}' is not a period", "enter it as 2025, 2025-Q3, 2025-07 or 2025-01..2025-06")
    months = _span(begin)[0], _span(end)[1]
    if months[0] > months[1]:
        raise Refusal(f"'{text}' ends before it starts", "enter the earlier one first")
    return months


def _span(match: re.Match[str]) -> tuple[str, str]:
    year, quarter, half, month = match.groups()
    if quarter:
        return f"{year}-{int(quarter) * 3 - 2:02d}", f"{year}-{int(quarter) * 3:02d}"
    if half:
        return f"{year}-{int(half) * 6 - 5:02d}", f"{year}-{int(half) * 6:02d}"
    return (f"{year}-{month}",) * 2 if month else (f"{year}-01", f"{year}-12")


def _at_period(board: Board, tables: Mapping[str, Table], home: str, period: str) -> Board:
    first, last = months_in(period)
    ruler = next((each for each in board.slicers if isinstance(each, PeriodSlicer)), None)
    if ruler is None:
        ruler = PeriodSlicer(_free_id(board), home, _date_of(tables[home]))
    return with_slicer(board, replace(ruler, grain="month", first=first, last=last))


def _date_of(table: Table) -> str:
    found = next((each.name for each in table.fields if each.kind == "date"), None)
    if found is None:
        raise Refusal(f"'{table.name}' has no dates", "leave the period out")
    return found


def _free_id(board: Board) -> str:
    taken = {each.id for each in board.slicers}
    return next(key for key in (f"handed out {n}" for n in range(len(taken) + 1)) if key not in taken)


def folio_of(folio: Folio, page: AnyPage) -> Folio:
    """The folio with the page as it is handed out, where a page stands for itself."""
    match page:
        case TableEntry():
            return folio
        case Summary():
            return replace(folio, summaries=tuple(page if each.id == page.id else each for each in folio.summaries))
        case Board():
            return replace(folio, boards=tuple(page if each.id == page.id else each for each in folio.boards))
