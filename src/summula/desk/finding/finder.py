"""Find anything (Ctrl+K): what can be found from the page in view, and what is done when it is picked."""

from __future__ import annotations

from typing import TYPE_CHECKING, assert_never

from PyQt6.QtCore import QPoint, QTimer

from summula.core.finding.matching import find
from summula.core.folio.model import Summary, TableEntry
from summula.desk.finding.catalogue import (
    ActionWords,
    action_entries,
    field_entries,
    form_entries,
    manual_entries,
    page_entries,
    phrase_entries,
    setting_entries,
    step_entries,
)
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from collections.abc import Sequence

    from summula.core.finding.entry import Entry
    from summula.desk.window import Window


def entries_of(window: Window) -> list[Entry]:
    """All that can be found and done from the page in view."""
    folio, summary = window.session.folio, window.session.page_of(Summary)
    actions = (ActionWords(each.key, each.name, each.hint, each.keys) for each in window.actions_.possible())
    entries = [*page_entries(folio), *action_entries(actions), *field_entries(folio)]
    if summary is not None:
        entries += [*phrase_entries(), *setting_entries(summary.phrase.form), *form_entries()]
    if folio.tables:
        entries += step_entries()
    return [*entries, *manual_entries()]


def open_finder(window: Window, place: QPoint) -> Popover:
    """Show the finder at a place; what is picked is done when it has closed."""
    entries = entries_of(window)

    def meant(text: str) -> tuple[Sequence[Pick], str]:
        if not text.strip():  # what is written about it is not listed before it is asked for
            return [_pick(each) for each in entries if each.what in ("page", "action", "field")], ""
        found = find(text, entries)
        told = f"Nothing has all of “{text.strip()}”. Near:" if found.near and found.entries else ""
        return [_pick(each) for each in found.entries], told

    popover = Popover(window, "", 520)
    popover.setAccessibleName("Find anything")
    picks = PickList([], name="fields, pages, actions and settings", most_rows=11, search=True, find=meant)
    picks.search.setPlaceholderText("Find a field, a page, an action or a setting")

    def go(entry: Entry) -> None:
        # The closing of one popover must not take the next along.
        popover.destroyed.connect(lambda: QTimer.singleShot(0, lambda: do(window, entry)))
        popover.close()

    picks.picked.connect(go)
    popover.column.addWidget(picks)
    popover.open_at(place, window)
    picks.focus_in()
    return popover


def _pick(entry: Entry) -> Pick:
    return Pick(entry.name, entry, " · ".join(part for part in (entry.hint, entry.keys) if part))


def do(window: Window, entry: Entry) -> None:
    """Go there, or do it."""
    summary = window.pages.summary
    match entry.what:
        case "page":
            window.session.turn_to(entry.key[0])
        case "action":
            window.actions_.run(entry.key[0])
        case "field":
            window.find_field(*entry.key)
        case "setting":
            summary.summary_margin.set_style(entry.key[0], summary.phrase)
        case "form":
            summary.draw_as(entry.key[0])  # type: ignore[arg-type]
        case "step":
            _make_step(window, entry.key[0])
        case "phrase":
            summary.change_part(entry.key[0])  # type: ignore[arg-type]
        case "manual":
            window.asides.open_manual_at(*entry.key)
        case _:
            assert_never(entry.what)


def _make_step(window: Window, name: str) -> None:
    """A new step in the preparation of the table in view, or of the one that the page in view asks."""
    from summula.desk.preparing.stepmaker import step_picks

    session, table = window.session, window.pages.table
    if session.page_of(TableEntry) is None:
        session.turn_to(session.default_table())
    kind = next(each.value for each in step_picks() if each.value.__name__ == name)
    table.step_maker.make(kind, table.strip)
