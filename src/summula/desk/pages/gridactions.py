"""What a person does on a summary's grid, carried out: folding, ordering, members, widths, the rows behind."""

from __future__ import annotations

from collections.abc import Sequence
from typing import TYPE_CHECKING, Any

from msgspec.structs import replace
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QLineEdit, QMenu

from summula.core.arrays import np
from summula.core.boards.rowsbehind import behind
from summula.core.engine.axis import GridPlace, place_of
from summula.core.fields.figures import plural
from summula.core.fields.labels import label_of
from summula.core.folio.model import with_summary
from summula.core.grids.lines import labels_of_level
from summula.core.phrases.editing import ordered_by
from summula.core.phrases.members import (
    DrillStep,
    deeper,
    looked_back,
    looked_into,
    moved,
    next_way,
    of_members,
    with_members,
)
from summula.core.phrases.phrase import figures_shown
from summula.desk.phrase.phrasewords import heading_words
from summula.desk.theme import font, tint
from summula.desk.widgets.menu import add
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover
from summula.desk.work import QUICK_ROWS

if TYPE_CHECKING:
    from summula.core.charts.scene import Tag
    from summula.core.engine.grid import Grid
    from summula.core.engine.samples import Limits
    from summula.core.fields.heading import Heading, Member
    from summula.core.grids.layout import Labels
    from summula.core.tables.table import Table
    from summula.desk.grid.gridselection import ChosenMembers
    from summula.desk.pages.summarypage import SummaryPage


class GridActions(QObject):
    """Listens to the grid of a summary's page; every change goes through the session."""

    def __init__(self, page: SummaryPage) -> None:
        super().__init__(page)
        self.page, self.session = page, page.session
        pivot = page.pivot
        pivot.folded.connect(self.fold)
        pivot.level_folded.connect(self.fold_level)
        pivot.rows_asked.connect(self.show_rows_behind)
        pivot.member_asked.connect(self.ask_member)
        pivot.member_moved.connect(self.move_member)
        pivot.order_asked.connect(self.order_by)
        pivot.width_set.connect(self.set_width)
        pivot.menu_asked.connect(self.add_ways_in)

    def _change(self, edit_name: str, **what: object) -> None:
        if self.page.summary is not None:
            changed = replace(self.page.summary, **what)
            self.session.edit(with_summary(self.session.folio, changed), edit_name)

    # -- folding -----------------------------------------------------------------------------------------

    def fold(self, path: Labels, across: bool) -> None:
        assert self.page.summary is not None
        name = "folded_across" if across else "folded"
        folded = getattr(self.page.summary, name)
        if path in folded:
            self._change(f"Expand {path[-1]}", **{name: tuple(each for each in folded if each != path)})
        else:
            self._change(f"Collapse {path[-1]}", **{name: (*folded, path)})

    def fold_level(self, level: int, across: bool, fold: bool) -> None:
        """Fold every member of a level, or unfold them all."""
        grid, summary = self.page.grid, self.page.summary
        if grid is None or summary is None:
            return
        axis = grid.columns if across else grid.rows
        paths = dict.fromkeys(labels_of_level(axis, level))
        name = "folded_across" if across else "folded"
        others = [each for each in getattr(summary, name) if each not in paths]
        edit_name = f"{'Fold' if fold else 'Unfold'} every {axis.headings[level - 1].field}"
        self._change(edit_name, **{name: (*others, *paths) if fold else tuple(others)})

    def fold_all(self) -> None:
        """Only the outermost members, on both axes."""
        grid = self.page.grid
        if grid is None:
            return
        folded: dict[str, tuple[Labels, ...]] = {}
        for name, axis in (("folded", grid.rows), ("folded_across", grid.columns)):
            if axis.depth > 1:
                folded[name] = tuple(dict.fromkeys(labels_of_level(axis, 1)))
        self._change("Collapse all", **folded)

    def unfold_all(self) -> None:
        self._change("Expand all", folded=(), folded_across=())

    # -- order and width ---------------------------------------------------------------------------------

    def order_by(self, column: int, how: str) -> None:
        """The lines by the figures of a column: of its members, where it has some."""
        phrase, layout = self.page.phrase_now(), self.page.pivot.layout_
        if layout is None:
            return
        if not how:
            self.page.say(replace(phrase, order=None), "Original order")
            return
        place = layout.columns[column]
        members = layout.grid.columns.path(*place.place)
        measure = of_members(figures_shown(phrase)[place.measure or 0], layout.grid.columns.headings, members)
        if measure is not None:
            by = f" by {' › '.join(place.path)}" if place.path else ""
            self.page.say(ordered_by(phrase, measure, largest=how == "largest"), f"{how.capitalize()} first{by}")

    def largest_first(self) -> None:
        phrase = self.page.phrase_now()
        self.page.say(ordered_by(phrase, phrase.measures[0], largest=True), "Largest first")

    def move_member(self, across: bool, level: int, node: int, anchor: int, after: bool) -> None:
        """Another order of a heading's members, made by hand."""
        grid = self.page.grid
        if grid is None:
            return
        axis = grid.columns if across else grid.rows
        heading = axis.headings[level - 1]
        codes, parents = axis.levels[level].codes[:, level - 1], axis.levels[level].parent
        siblings = codes[parents == parents[node]]  # as they stand here; members that stand only elsewhere follow
        shown = [
            axis.members[level - 1][code] for code in dict.fromkeys([*siblings.tolist(), *np.unique(codes).tolist()])
        ]
        member, other = axis.path(level, node)[-1], axis.path(level, anchor)[-1]
        changed = moved(self.page.phrase_now(), heading, axis.members[level - 1], shown, member, other, after=after)
        if changed is None:
            self.session.notice.emit(
                "Blank and other members stay last; bands and very long lists keep their order.", True
            )
            return
        self.page.say(changed, f"Move {label_of(heading, member)}")

    def set_width(self, column: int, width: int) -> None:
        layout, summary = self.page.pivot.layout_, self.page.summary
        if layout is None or summary is None:
            return
        if column < 0:
            changed = replace(summary.layout, head_width=width)
        else:
            key, measure = layout.width_key(column), layout.columns[column].measure or 0
            changed = summary.layout.with_width(key, measure, width)
        self._change("Width of a column", layout=changed)

    # -- members -----------------------------------------------------------------------------------------

    def _members(self, chosen: ChosenMembers) -> tuple[Heading, list[Member]]:
        assert self.page.grid is not None
        axis = self.page.grid.columns if chosen.across else self.page.grid.rows
        return axis.headings[chosen.level - 1], [axis.path(chosen.level, node)[-1] for node in chosen.nodes]

    def ask_member(self, which: str) -> None:
        """Keep only, leave out, bundle or look into the chosen members."""
        chosen = self.page.pivot.chosen()
        if self.page.grid is None or chosen is None:
            return
        heading, members = self._members(chosen)
        members = list(dict.fromkeys(members))
        if which == "into":
            self.look_into(heading, members[0])
        elif which == "bundle":
            self._ask_bundle(heading, members)
        else:
            name = label_of(heading, members[0]) if len(members) == 1 else plural(len(members), "member")
            changed = with_members(self.page.phrase_now(), heading, members, only=which == "only")
            if changed is None:
                self.session.notice.emit(
                    "These members cannot be filtered together: grouped members, blanks, separate bands.",
                    True,
                )
                return
            self.page.say(changed, f"{'Only' if which == 'only' else 'Without'} {name}")

    def look_into(self, heading: Heading, member: Member, by: Heading | None = None) -> None:
        """One member alone, a heading deeper: by the heading chosen, or the next of the path."""
        summary = self.page.summary
        assert summary is not None
        by = by or next_way(summary.phrase, self.session.table(summary.table), heading, summary.path)
        label = label_of(heading, member)
        found = looked_into(summary.phrase, heading, member, label, by) if by is not None else None
        if found is None or by is None:
            end = "Nothing further to drill into." if summary.path else "No further field to drill into."
            self.session.notice.emit(end, True)
            return
        phrase, way = found
        self._change(f"Drill into {label} by {heading_words(by)}", phrase=phrase, drilled=(*summary.drilled, way))

    def back(self, to: int = -1) -> None:
        """Out of the member that was looked into last, or of all from the step `to` on."""
        summary = self.page.summary
        if summary is None or not summary.drilled:
            return
        to = to % len(summary.drilled)
        phrase = summary.phrase
        for way in reversed(summary.drilled[to:]):
            phrase = looked_back(phrase, way)
        self._change(f"Drill up from {summary.drilled[to].label}", phrase=phrase, drilled=summary.drilled[:to])

    def add_ways_in(self, menu: QMenu) -> None:
        """The headings that the chosen member can be looked into by."""
        chosen, summary = self.page.pivot.chosen(), self.page.summary
        if chosen is None or summary is None:
            return
        heading, (member, *_) = self._members(chosen)
        inner = menu.addMenu(f"Drill into {label_of(heading, member)} by")
        assert inner is not None
        for by in deeper(summary.phrase, self.session.table(summary.table), heading):
            add(inner, heading_words(by), lambda by=by: self.look_into(heading, member, by))  # type: ignore[misc]

    def _ask_bundle(self, heading: Heading, members: Sequence[Member]) -> None:
        """A name for a bundle of the chosen members; the bundles' field takes the heading's place."""
        texts = [member for member in members if isinstance(member, str)]
        if heading.part is not None or heading.bands is not None or len(texts) != len(members):
            self.session.notice.emit("Only text values of a category can be grouped, without blanks.", True)
            return
        popover = Popover(self.page, f"Group of {plural(len(texts), 'member')}", 300)
        who = Label(", ".join(texts[:6]) + (" …" if len(texts) > 6 else ""))
        who.setWordWrap(True)
        who.setFont(font(12))
        tint(who, "muted")
        name = QLineEdit()
        name.setPlaceholderText("Group name")
        name.setAccessibleName("group name")
        make = Button("Group")
        make.setProperty("strong", "true")
        make.setEnabled(False)
        name.textChanged.connect(lambda text: make.setEnabled(bool(text.strip())))

        def bundle() -> None:
            if name.text().strip():
                popover.close()
                self._bundle(heading, " ".join(name.text().split()), texts)

        name.returnPressed.connect(bundle)
        make.clicked.connect(bundle)
        for widget in (who, name, make):
            popover.column.addWidget(widget)
        popover.open_at(self.page.pivot.mapToGlobal(self.page.pivot.rect().topLeft()), self.page.pivot)
        name.setFocus()
        self.page.popover = popover

    def _bundle(self, heading: Heading, name: str, members: Sequence[str]) -> None:
        assert self.page.summary is not None
        work = self.session.tables.bundling(self.page.summary, heading, name, members)
        few = self.session.table(self.page.summary.table).rows <= QUICK_ROWS
        self.page.side_work.ask(work, lambda take: take(), self.session.refuse, soon=few)

    # -- behind a figure -----------------------------------------------------------------------------------

    def show_rows_behind(self) -> None:
        """Ask for the rows behind the figure under the cursor (without one: behind the bottom line)."""
        grid, summary = self.page.grid, self.page.summary
        if grid is None or summary is None:
            return
        self._show_rows(grid, *(self.page.pivot.current() or (0, (0, 0), (0, 0))))

    def show_rows_of(self, tag: Tag) -> None:
        """The rows behind a mark of the chart."""
        grid = self.page.grid
        row = place_of(grid.rows, tag.members) if grid is not None else None
        column = place_of(grid.columns, tag.members_across) if grid is not None else None
        if grid is not None and row is not None and column is not None and tag.has_rows:
            self._show_rows(grid, max(tag.measure, 0), row, column, tag.within)

    def _show_rows(
        self, grid: Grid, measure: int, row: GridPlace, column: GridPlace, within: Sequence[Limits] = ()
    ) -> None:
        summary = self.page.summary
        assert summary is not None
        table = self.session.table(summary.table)

        others = self.session.others(summary.table)

        def work() -> tuple[Table, Any, list[str]]:
            return behind(grid, table, measure, row, column, others, within=within)

        def shown(found: tuple[Table, Any, list[str]]) -> None:
            now = self.page.summary
            if not self.page.isHidden() and now is not None and now.id == summary.id:  # else one has gone on
                self.page.rows_found.emit(*found)

        self.page.side_work.ask(work, shown, self.session.refuse, soon=table.rows <= QUICK_ROWS)

    # -- where one has looked into -------------------------------------------------------------------------

    def drilled(self) -> tuple[DrillStep, ...]:
        return self.page.summary.drilled if self.page.summary is not None else ()
