"""Handing out with a preview: what goes out, in which format, on which paper; the pages as they will be."""

from __future__ import annotations

from collections.abc import Callable
from functools import partial
from typing import TYPE_CHECKING, NamedTuple

from msgspec.structs import replace
from PyQt6.QtCore import Qt, pyqtSignal
from PyQt6.QtGui import QKeyEvent
from PyQt6.QtWidgets import QFileDialog, QHBoxLayout, QScrollArea, QVBoxLayout, QWidget

from summula.core.boards.board import Board
from summula.core.composition.paper import SIZES, Paper
from summula.core.folio.model import AnyPage, Summary, TableEntry
from summula.core.handout.boardcontent import usual_live
from summula.core.handout.narrowing import table_of
from summula.core.handout.order import Order, composed, handed_out
from summula.core.refusal import sentence
from summula.desk.frame.marginblocks import Block, Note, Pair
from summula.desk.pages.handoutpreview import Preview, Sheets, preview_of
from summula.desk.pages.printing import print_pages
from summula.desk.pictures import ALL_FORMATS, scene_png
from summula.desk.theme import font, tint
from summula.desk.widgets.lastpopover import LastPopover
from summula.desk.widgets.picklist import Pick
from summula.desk.widgets.pickpopover import open_picks
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.work import Work

if TYPE_CHECKING:
    from summula.core.handout.formats import Format
    from summula.core.refusal import Refusal
    from summula.core.tables.table import Table
    from summula.desk.filewriting import FileWriting
    from summula.desk.frame.margin import Margin
    from summula.desk.frame.statusline import StatusLine
    from summula.desk.session import Session
    from summula.desk.widgets.popover import Popover

_PAGES = "pages"
_NOT_LIVE = 60  # members, above which a heading is not offered to stay live
_CHAPTERS = 200
_SCALES = (1.0, 2.0, 3.0, 4.0)
_MARGINS = (0.0, 5.0, 10.0, 15.0, 20.0)


class Subject(NamedTuple):
    """What can go out: a page of the folio, or a panel of a board by itself; `called` says what it is."""

    page: AnyPage
    called: str = "This page"


class HandOutPage(QWidget):
    left = pyqtSignal()
    popover: LastPopover[Popover] = LastPopover()

    def __init__(self, session: Session, margin: Margin, status: StatusLine, writing: FileWriting) -> None:
        super().__init__()
        self.session, self.margin, self.status, self.writing = session, margin, status, writing
        self.setObjectName("page")
        self.subject: Subject | None = None
        self.way = next(each for each in ALL_FORMATS if each.key == "pdf")
        self.order = Order(on=Paper())
        self.what = ""  # "" the subject itself; "pages" all boards; else the heading of a book
        self.preview: Preview | None = None
        self.work = Work(self)
        status.attend(self.work, "preparing the pages …")
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 0, 0)
        column.setSpacing(10)
        self.title = Label()
        self.title.setFont(font(22, 600, serif=True))
        self.about = Label()
        tint(self.about, "muted")
        top = QHBoxLayout()
        top.setContentsMargins(0, 0, 20, 0)
        top.addWidget(self.title, 1)
        self.write_button = Button("Save file …")
        self.write_button.setProperty("strong", "true")
        self.write_button.clicked.connect(self.write)
        self.print_button = Button("Print …")
        self.print_button.clicked.connect(self.print)
        self.back = Button("Back")
        set_tip(self.back, "Escape")
        self.back.clicked.connect(self.left)
        for button in (self.write_button, self.print_button, self.back):
            top.addWidget(button)
        column.addLayout(top)
        column.addWidget(self.about)
        self.sheets = Sheets()
        self.area = QScrollArea()
        self.area.setWidgetResizable(True)
        self.area.setWidget(self.sheets)
        column.addWidget(self.area, 1)

    def let_go(self) -> None:
        """Hold nothing of a folio that has gone."""
        self.work.cancel()
        self.subject = self.preview = None
        self.sheets.show_images([], [])

    # -- what goes out -----------------------------------------------------------------------------------

    def show_subject(self, subject: Subject, size: tuple[float, float], way: Format | None = None) -> None:
        """Show what is handed out of a page (or a panel), which is `size` pixels large in the window."""
        self.subject, self.what = subject, ""
        live = usual_live(subject.page) if isinstance(subject.page, Board) else ()
        self.order = replace(self.order, size=size, each="", live=live)
        self.way = way or (self.way if self.way in self.ways() else next(e for e in ALL_FORMATS if e.key == "pdf"))
        self.refresh()
        self.write_button.setFocus()

    def ways(self) -> list[Format]:
        """The formats that it can go out in."""
        table = self.subject is not None and isinstance(self.subject.page, TableEntry)
        return [each for each in ALL_FORMATS if each.takes == "page" or (each.takes == "board" and not table)]

    def pages(self) -> list[AnyPage]:
        if self.subject is None:
            return []
        return [*self.session.folio.boards] if self.what == _PAGES else [self.subject.page]

    def refresh(self) -> None:
        """Prepare the preview anew; the newest counts."""
        if self.subject is None:
            return
        self.title.setText("Export")
        self.about.setText("preparing the pages …")
        pages, folio, way = self.pages(), self.session.folio, self.way
        order, tables = self._order(), self._tables()

        def prepare() -> Preview:
            return preview_of(pages, folio, tables, way, order)

        self.work.ask(prepare, self._prepared, self._refused)
        self._show_margin()

    def _order(self) -> Order:
        book = self.what not in ("", _PAGES)
        return replace(self.order, each=self.what if book else "", live=self.order.live if self._is_live else ())

    @property
    def _is_live(self) -> bool:
        return self.way.live

    def _tables(self) -> dict[str, Table]:
        return {entry.id: self.session.table(entry.id) for entry in self.session.folio.tables}

    def _prepared(self, preview: Preview) -> None:
        self.preview = preview
        self.sheets.show_images(preview.images, preview.names)
        self.about.setText(preview.said)
        self.write_button.setEnabled(True)
        self.status.say(preview.said)
        self.status.select("")

    def _refused(self, refusal: Refusal) -> None:
        self.preview = None
        self.sheets.show_images([], [])
        self.about.setText(sentence(refusal))
        self.write_button.setEnabled(False)
        self.session.refuse(refusal)

    # -- how --------------------------------------------------------------------------------------------

    def _show_margin(self) -> None:
        self.print_button.setVisible(self.way.pages)
        subject = self.subject
        assert subject is not None
        what = {"": subject.called, _PAGES: "All boards"}.get(self.what, f"A book by {self.what}")
        blocks: list[Block] = [
            "Export",
            Pair("Content", f"{what} ▾", self._choose_what),
            Pair("Format", f"{self.way.name} ▾", self._choose_way),
            Note(sentence(self.way.hint)),
            *self._own_blocks(),
            "Every page",
            Pair("Source line", "yes ▾" if self.order.foot else "no ▾", self._choose_foot),
            Pair("Unsliced values", "show ▾" if self.order.unsliced else "hide ▾", self._choose_unsliced),
        ]
        self.margin.show_blocks(blocks, "hand out")

    def _own_blocks(self) -> list[Block]:
        """What can be said of the format alone."""
        order = self.order
        if self.way.pages:
            paper = order.on or Paper()
            lies = {None: "same as the page", True: "landscape", False: "portrait"}[paper.lies]
            return [
                "Paper",
                Pair("Size", f"{paper.size} ▾", self._choose_paper),
                Pair("Orientation", f"{lies} ▾", self._choose_turn),
                Pair("Margin", f"{paper.edge:g} mm ▾", self._choose_margin),
                Pair("Background", "white ▾" if paper.white else "as on screen ▾", self._choose_ground),
            ]
        if self.way.key == "png":
            return ["Picture", Pair("Pixels per point", f"{order.scale:g} ▾", self._choose_scale)]
        if self._is_live:
            live = ", ".join(order.live) or "none"
            pairs: list[Block] = [Pair("Combinations", "yes ▾" if order.pairs else "no ▾", self._choose_pairs)]
            return ["Interactive", Pair("Slicers", f"{live} ▾", self._choose_live), *(pairs if order.live else [])]
        return []

    def _ask(self, anchor: QWidget, name: str, picks: list[Pick], pick: Callable[[object], None]) -> None:
        self.popover = open_picks(anchor, name, picks, pick)

    def _choose_what(self, anchor: QWidget) -> None:
        subject = self.subject
        assert subject is not None
        picks = [Pick(subject.called, "")]
        if len(self.session.folio.boards) > 1 and self.way.takes == "page":
            picks.append(Pick("All boards", _PAGES, "a chapter each"))
        if isinstance(subject.page, Board) and self.way.takes == "page":
            picks += [Pick(f"A book by {name}", name, "a chapter each") for name in self._headings(_CHAPTERS)]

        def pick(value: object) -> None:
            self.what = str(value)
            self.refresh()

        self._ask(anchor, "Content", picks, pick)

    def _headings(self, most: int) -> list[str]:
        """The fields of the board's table that have few members."""
        from summula.core.tables.column import CodedColumn

        page = self.subject.page if self.subject is not None else None
        tables = self._tables()
        match page:
            case Board():
                table = tables[table_of(page, self.session.folio, tables)]
            case Summary():
                table = tables[page.table]
            case TableEntry() | None:
                return []
        return [
            field.name for field, column in zip(table.fields, table.columns, strict=True)
            if isinstance(column, CodedColumn) and 1 < len(column.members) <= most
        ]  # fmt: skip

    def _choose_way(self, anchor: QWidget) -> None:
        def pick(value: object) -> None:
            self.way = next(each for each in ALL_FORMATS if each.key == value)
            if self.way.takes == "board":
                self.what = ""
            self.refresh()

        self._ask(anchor, "Format", [Pick(each.name, each.key, each.hint) for each in self.ways()], pick)

    def _set(self, order: Order) -> None:
        self.order = order
        self.refresh()

    def _set_paper(self, **changes: object) -> None:
        self._set(replace(self.order, on=replace(self.order.on or Paper(), **changes)))

    def _choose_paper(self, anchor: QWidget) -> None:
        picks = [Pick(name, name, f"{wide:g} × {high:g} mm") for name, (wide, high) in SIZES.items()]
        self._ask(anchor, "Paper", picks, lambda value: self._set_paper(size=value))

    def _choose_turn(self, anchor: QWidget) -> None:
        picks = [Pick("Same as the page", None), Pick("Landscape", True), Pick("Portrait", False)]
        self._ask(anchor, "Orientation", picks, lambda value: self._set_paper(lies=value))

    def _choose_margin(self, anchor: QWidget) -> None:
        picks = [Pick(f"{each:g} mm", each) for each in _MARGINS]
        self._ask(anchor, "Margin", picks, lambda value: self._set_paper(edge=value))

    def _choose_ground(self, anchor: QWidget) -> None:
        picks = [Pick("As on screen", False), Pick("White", True, "saves ink")]
        self._ask(anchor, "Background", picks, lambda value: self._set_paper(white=value))

    def _choose_scale(self, anchor: QWidget) -> None:
        picks = [Pick(f"{each:g}", each, f"{self.order.size[0] * each:,.0f} pixels wide") for each in _SCALES]
        self._ask(anchor, "Pixels per point", picks, lambda value: self._set(replace(self.order, scale=value)))

    def _choose_foot(self, anchor: QWidget) -> None:
        picks = [Pick("Yes", True, "source, date read, slicers, rows"), Pick("No", False)]
        self._ask(anchor, "Source line", picks, lambda value: self._set(replace(self.order, foot=value)))

    def _choose_unsliced(self, anchor: QWidget) -> None:
        picks = [
            Pick("Hide", False, "only values after slicing"),
            Pick("Show", True, "unsliced values, pale behind"),
        ]
        self._ask(anchor, "Unsliced values", picks, lambda value: self._set(replace(self.order, unsliced=value)))

    def _choose_pairs(self, anchor: QWidget) -> None:
        picks = [Pick("No", False, "one slicer at a time"), Pick("Yes", True, "any two of them")]
        self._ask(anchor, "Combinations", picks, lambda value: self._set(replace(self.order, pairs=value)))

    def _choose_live(self, anchor: QWidget) -> None:
        """Headings one after the other; one that is live already is taken out again."""
        live = self.order.live
        picks = [Pick(name, name, "live" if name in live else "") for name in self._headings(_NOT_LIVE)]

        def pick(value: object) -> None:
            name = str(value)
            after = tuple(each for each in live if each != name) if name in live else (*live, name)
            self._set(replace(self.order, live=after))

        self._ask(anchor, "Interactive slicers", picks, pick)

    # -- where to ------------------------------------------------------------------------------------------

    def write(self) -> None:
        """Ask where to, and write it there."""
        subject, way = self.subject, self.way
        if subject is None or not self.write_button.isEnabled():
            return
        folio = self.session.folio
        named = folio.name if self.what == _PAGES else str(subject.page.name)
        suggested = f"{named.replace('/', '-')}.{way.suffix}"
        name, _ = QFileDialog.getSaveFileName(self, "Export", suggested, f"{way.name} (*.{way.suffix})")
        if not name:
            return
        pages, tables, order = self.pages(), self._tables(), self._order()
        picture = partial(scene_png, palette=folio.palette)
        self.writing.write(
            name, lambda: handed_out(pages, folio, tables, way, order, picture, self.writing.work.stepped)
        )

    def print(self) -> None:
        """Print the pages of the preview; asks for a printer."""
        pages, folio, tables, order, way = self.pages(), self.session.folio, self._tables(), self._order(), self.way
        print_pages(self, order.on or Paper(), lambda: composed(pages, folio, tables, way, order), self.writing)

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        else:
            super().keyPressEvent(event)
