"""The margin of a table's page: the selected field, what can be said of it, what can be made from it, how it looks."""

from __future__ import annotations

from collections.abc import Callable
from typing import TYPE_CHECKING, Literal

from msgspec.structs import replace
from PyQt6.QtCore import QObject
from PyQt6.QtWidgets import QLineEdit, QPlainTextEdit, QWidget

from summula.core.fields.figures import FigureStyle, checked_pattern, decimals_for, plain_pattern
from summula.core.preparation import steps as step_types
from summula.core.refusal import Refusal, sentence, shortened
from summula.core.secondlook.fields import field_looks, table_looks
from summula.core.statistics.distribution import distribution
from summula.core.tables.field import MEASURED, Field, Kind
from summula.desk.frame.marginblocks import Block, LookBlock, Note, Offer, Pair, Shape
from summula.desk.grid.rowsview import date_of_any, style_of
from summula.desk.theme import font, tint
from summula.desk.widgets.glyphs import KIND_WORDS
from summula.desk.widgets.picklist import Pick, PickList
from summula.desk.widgets.plaintext import Button, Label
from summula.desk.widgets.popover import Popover

if TYPE_CHECKING:
    from summula.core.secondlook.look import SecondLook
    from summula.core.tables.table import Table

PATTERNS = (
    ("plain", ""), ("1,235", "#,##0"), ("1,234.57", "#,##0.00"), ("£1,235", "£#,##0"), ("£1,234.57", "£#,##0.00"),
    ("€1,235", "€#,##0"), ("$1,235", "$#,##0"), ("12 %", "0%"), ("12.3 %", "0.0%"),
)  # fmt: skip


_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip


class FieldMargin(QObject):
    """Builds the blocks of a field and carries out what is asked there.

    `put` takes a field described otherwise, `rename` a new name; `show_bar` and `show_row` show rows, `make` begins a
    step, `remedy` does the deed of a second look.
    """

    def __init__(
        self,
        page: QWidget,
        put: Callable[[Field, str], None],
        rename: Callable[[str, str], None],
        show_bar: Callable[[str, int], None],
        show_row: Callable[[str, bool], None],
        make: Callable[[type[step_types.Step], QWidget, str], None],
        remedy: Callable[[str, str], None],
        order: Callable[[str, str], None],
        year: Callable[[int], None],
    ) -> None:
        super().__init__(page)
        self.page, self.put, self.rename = page, put, rename
        self.show_bar, self.show_row, self.make, self.remedy, self.order = show_bar, show_row, make, remedy, order
        self.year = year

    def blocks(self, table: Table, at: int) -> list[Block]:
        field = table.fields[at]
        name = field.name
        shape = distribution(table, name)
        style = style_of(table, at)
        kind = KIND_WORDS[field.kind].split(":")[0].capitalize()
        blocks: list[Block] = [
            f"Selected · {name}",
            Pair("Type", f"{kind} ▾", lambda anchor: self._kind(field, anchor)),
            Pair(
                "Name", f"{name if len(name) <= 20 else name[:19] + '…'} ▾", lambda anchor: self._name(field, anchor)
            ),
        ]
        if field.kind in MEASURED:
            total = {"sum": "sum ▾", "mean": "mean ▾"}[field.total]
            blocks.append(Pair("Default", total, lambda anchor: self._total(field, anchor)))
        else:
            blocks.append(Pair("Default", "count"))
        if field.kind == "number":  # lengths of time are always hours and minutes
            pattern = next((text for text, each in PATTERNS if each == field.pattern), field.pattern)
            blocks.append(Pair("Pattern", f"{pattern} ▾", lambda anchor: self._pattern(field, anchor)))
        if field.kind == "date":
            month = _MONTHS[table.year_begins - 1]
            blocks.append(Pair("Fiscal year starts", f"{month} ▾", self._year))
        blocks.append(Pair("Shown in lists", "no ▾" if field.hidden else "yes ▾", lambda _: self._hide(field)))
        blocks.append(Pair("Sort rows", "choose ▾", lambda anchor: self._order(field, anchor)))
        describe = "change ▾" if field.description else "write ▾"
        blocks.append(Pair("Description", describe, lambda anchor: self._meaning(field, anchor)))
        if field.description:
            blocks.append(Note(field.description))
        blocks += ["New field from this one", *self._offers(field)]
        looks = [*field_looks(table, name), *table_looks(table)]
        if looks:
            blocks += ["Second looks", *(self._look(look, name) for look in looks)]
        blocks += ["Distribution"]
        if shape.heights and field.kind != "code":
            blocks.append(Shape(shape, lambda bar: self.show_bar(name, bar)))
        blocks += [Pair("Distinct", f"{shape.distinct:,}"), Pair("Blank", f"{shape.blank:,}")]
        if shape.median is not None and shape.mean is not None:
            places = max(2, decimals_for(abs(shape.mean)))
            plain = style if style.clock or style.percent else FigureStyle(plain_pattern(places), style.unit)
            blocks += [
                Pair("Median", style.text(shape.median, unit=True)),
                Pair("Mean", plain.text(shape.mean, unit=True)),
                Pair("Minimum", style.text(float(str(shape.least)), unit=True), lambda _: self.show_row(name, False)),
                Pair("Maximum", style.text(float(str(shape.most)), unit=True), lambda _: self.show_row(name, True)),
            ]
        elif field.kind == "date" and shape.least is not None:
            blocks += [Pair("First", date_of_any(shape.least)), Pair("Last", date_of_any(shape.most))]
        elif field.kind in ("category", "flag"):
            blocks += [
                Pair(shortened(label), f"{height:,}", self._bar_shower(name, bar))
                for bar, (label, height) in enumerate(zip(shape.labels[:5], shape.heights, strict=False))
            ]
        return blocks

    def _bar_shower(self, name: str, bar: int) -> Callable[[QWidget], None]:
        return lambda _: self.show_bar(name, bar)

    def _look(self, look: SecondLook, name: str) -> Block:
        return LookBlock(look, lambda: self.remedy(look.edit_name, name))

    def _offers(self, field: Field) -> list[Block]:
        def offer(text: str, glyph: Kind, step: type[step_types.Step], hint: str) -> Offer:
            return Offer(text, glyph, lambda anchor: self.make(step, anchor, field.name), hint)

        offers: list[Block] = []
        if field.kind == "date":
            offers.append(offer("Date part", "date", step_types.AddPart, "a year, quarter, month … as a field"))
        if field.kind in MEASURED:
            offers.append(offer("Bands or labels by limits", "number", step_types.AddBands, "ranges of this number"))
        if field.kind in ("category", "code"):
            offers.append(offer("Groups of values", "category", step_types.AddBundles, "group values by hand"))
            offers.append(offer("Split its text", "category", step_types.Split, "split at a separator"))
        offers.append(offer("Formula", "number", step_types.AddFormula, "calculated for each row"))
        offers.append(offer("Look up from another table", "code", step_types.AddLookup, "by key fields"))
        return offers

    # -- what can be said of it ----------------------------------------------------------------------

    def _pick(self, title: str, choices: list[Pick], anchor: QWidget, chosen: Callable[[object], None]) -> None:
        popover = Popover(self.page, title, 250)
        picks = PickList(choices, name=title.lower(), search=False)

        def pick(value: object) -> None:
            popover.close()
            chosen(value)

        picks.picked.connect(pick)
        popover.column.addWidget(picks)
        popover.open_below(anchor)
        picks.focus_in()

    def _kind(self, field: Field, anchor: QWidget) -> None:
        choices = [Pick(("✓ " if kind == field.kind else "    ") + words, kind) for kind, words in KIND_WORDS.items()]

        def change(kind: Kind) -> None:
            self.put(replace(field, kind=kind), f"{field.name} is a {kind}")

        self._pick("Type", choices, anchor, change)  # type: ignore[arg-type]

    def _total(self, field: Field, anchor: QWidget) -> None:
        choices = [Pick("Sum", "sum", "its name means its sum"), Pick("Mean", "mean", "its name means its mean")]

        def change(total: Literal["sum", "mean"]) -> None:
            self.put(replace(field, total=total), f"{field.name}: {total} by default")

        self._pick("Default", choices, anchor, change)  # type: ignore[arg-type]

    def _order(self, field: Field, anchor: QWidget) -> None:
        choices = [
            Pick("Original order", "", ""), Pick("Smallest first", "smallest", "or A to Z, or earliest"),
            Pick("Largest first", "largest", "or Z to A, or latest"),
        ]  # fmt: skip
        self._pick("Sort rows", choices, anchor, lambda how: self.order(field.name, str(how)))

    def _year(self, anchor: QWidget) -> None:
        choices = [Pick(month, at, "" if at > 1 else "the calendar year") for at, month in enumerate(_MONTHS, start=1)]
        self._pick("Fiscal year starts in", choices, anchor, lambda month: self.year(int(str(month))))

    def _hide(self, field: Field) -> None:
        edit_name = f"{'Show' if field.hidden else 'Hide'} {field.name}"
        self.put(replace(field, hidden=not field.hidden), edit_name)

    def _line(
        self, title: str, text: str, hint: str, anchor: QWidget, take: Callable[[str], str | None], below: str = ""
    ) -> Popover:
        """A line to write in; `take` gives a sentence where it refuses."""
        popover = Popover(self.page, title, 320)
        line = QLineEdit(text)
        line.setAccessibleName(title.lower())
        line.setPlaceholderText(hint)
        notice = Label(below)
        notice.setWordWrap(True)
        notice.setFont(font(12))
        tint(notice, "muted")

        def done() -> None:
            refused = take(" ".join(line.text().split()))
            if refused is None:
                popover.close()
            else:
                notice.setText(refused)
                tint(notice, "loss")
                popover.adjustSize()

        line.returnPressed.connect(done)
        popover.column.addWidget(line)
        popover.column.addWidget(notice)
        popover.open_below(anchor)
        line.setFocus()
        line.selectAll()
        return popover

    def _name(self, field: Field, anchor: QWidget) -> None:
        def take(name: str) -> str | None:
            if not name:
                return "Enter a name for the field."
            if name != field.name:
                try:
                    self.rename(field.name, name)
                except Refusal as refusal:
                    return sentence(refusal)
            return None

        self._line("Name", field.name, "", anchor, take, "Summaries, boards and slicers follow.")

    def _pattern(self, field: Field, anchor: QWidget) -> None:
        popover = Popover(self.page, "Pattern", 270)
        picks = PickList([Pick(text, each, each) for text, each in PATTERNS], name="patterns", search=False)

        def take(pattern: str) -> None:
            popover.close()
            self.put(replace(field, pattern=pattern), f"Pattern of {field.name}")

        picks.picked.connect(take)
        popover.column.addWidget(picks)
        line = QLineEdit(field.pattern)
        line.setPlaceholderText("or write one: #,##0.0;(#,##0.0)")
        line.setAccessibleName("pattern as text")
        notice = Label("A Unicode (CLDR) number pattern.")
        notice.setFont(font(12))
        notice.setWordWrap(True)

        def written() -> None:
            try:
                checked_pattern(line.text().strip())
            except Refusal:
                notice.setText("This is not a number pattern: it has # and 0 for figures, as #,##0.00 has.")
                tint(notice, "loss")
                return
            take(line.text().strip())

        line.returnPressed.connect(written)
        popover.column.addWidget(line)
        popover.column.addWidget(notice)
        popover.open_below(anchor)
        picks.focus_in()

    def _meaning(self, field: Field, anchor: QWidget) -> None:
        popover = Popover(self.page, "Description", 320)
        text = QPlainTextEdit(field.description)
        text.setAccessibleName("what the field means")
        text.setFixedHeight(84)
        text.setTabChangesFocus(True)
        popover.column.addWidget(text)
        take = Button("Save")
        take.setProperty("strong", "true")

        def keep() -> None:
            popover.close()
            words = " ".join(text.toPlainText().split())
            self.put(replace(field, description=words), f"Describe {field.name}")

        take.clicked.connect(keep)
        popover.column.addWidget(take)
        popover.open_below(anchor)
        text.setFocus()
