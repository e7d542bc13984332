"""What one folio has that another has not: what a change of the folio concerns."""

from __future__ import annotations

from collections.abc import Iterable
from typing import TYPE_CHECKING, Protocol

import msgspec

from summula.core.boards.board import Board

if TYPE_CHECKING:
    from summula.core.folio.model import Folio, Summary, TableEntry


class Page(Protocol):
    @property
    def id(self) -> str: ...
    @property
    def name(self) -> str: ...


class Change(msgspec.Struct, frozen=True):
    """The ids of what came, went or became another. `everywhere`: what every page depends on (levers, the fiscal year);
    `pages`: their names or their order."""

    tables: frozenset[str] = frozenset()
    summaries: frozenset[str] = frozenset()
    boards: frozenset[str] = frozenset()
    everywhere: bool = False
    pages: bool = False

    def concerns(self, page: TableEntry | Summary | Board | None) -> bool:
        """Whether the page may be shown otherwise. Tables look things up in each other, boards show summaries."""
        if page is None or self.everywhere or self.tables:
            return True
        if isinstance(page, Board):
            return page.id in self.boards or bool(self.summaries)
        return page.id in self.summaries


def change_between(before: Folio, after: Folio) -> Change:
    """Folios share what an edit leaves alone, so that comparing them costs next to nothing."""
    if before is after:
        return Change()
    return Change(
        _others(before.tables, after.tables),
        _others(before.summaries, after.summaries),
        _others(before.boards, after.boards),
        (before.levers, before.year_begins, before.inks, before.palette, before.pictures, before.links)
        != (after.levers, after.year_begins, after.inks, after.palette, after.pictures, after.links),
        [(kind, each.id, each.name) for kind, each in before.pages()]
        != [(kind, each.id, each.name) for kind, each in after.pages()],
    )


def _others(before: Iterable[Page], after: Iterable[Page]) -> frozenset[str]:
    old, new = {each.id: each for each in before}, {each.id: each for each in after}
    changed = {key for key in old.keys() & new.keys() if old[key] is not new[key] and old[key] != new[key]}
    return frozenset(changed | (old.keys() ^ new.keys()))
