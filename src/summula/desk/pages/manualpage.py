"""The manual inside the program: its pages at the left, what was looked for, and the page itself."""

from __future__ import annotations

from PyQt6.QtCore import Qt, QThread, pyqtSignal
from PyQt6.QtGui import QKeyEvent, QTextCharFormat, QTextCursor, QTextDocument
from PyQt6.QtWidgets import (
    QFrame,
    QHBoxLayout,
    QListWidget,
    QListWidgetItem,
    QTextBrowser,
    QVBoxLayout,
    QWidget,
)

from summula.desk.theme import font, worn
from summula.desk.widgets.plaintext import Button, Label, set_tip
from summula.desk.widgets.searchline import SearchLine
from summula.desk.work import Work
from summula.manual.pages import PAGES, ManualPage, Passage, page_about, passages

_MOST_FOUND = 80
_SHORT = 8_000  # letters of a page that is set at once
_PROPORTIONAL = 1  # QTextBlockFormat.LineHeightTypes.ProportionalHeight, whose value the stubs take for itself
_MEASURE = 760  # pixels: lines are not longer than is read well
_HEADINGS = {1: (24.0, 0.0), 2: (17.0, 20.0), 3: (15.0, 14.0)}  # sizes of type, and the room above


class ManualPages(QWidget):
    left = pyqtSignal()

    def __init__(self) -> None:
        super().__init__()
        self.setObjectName("page")
        column = QVBoxLayout(self)
        column.setContentsMargins(20, 16, 20, 12)
        column.setSpacing(10)
        top = QHBoxLayout()
        title = Label("Manual")
        title.setFont(font(22, 600, serif=True))
        top.addWidget(title, 1)
        self.back = Button("Back")
        self.back.setProperty("strong", "true")
        set_tip(self.back, "Escape")
        self.back.clicked.connect(self.left)
        top.addWidget(self.back)
        column.addLayout(top)
        body = QHBoxLayout()
        body.setSpacing(22)
        side = QVBoxLayout()
        side.setSpacing(8)
        self.search = SearchLine("Search the manual")
        self.search.textChanged.connect(self._look)
        self.list = QListWidget()
        self.list.setAccessibleName("Pages of the manual")
        self.list.setFont(font(13))
        self.list.setHorizontalScrollBarPolicy(Qt.ScrollBarPolicy.ScrollBarAlwaysOff)
        self.list.currentItemChanged.connect(lambda item, _: self._turn(item))
        side.addWidget(self.search)
        side.addWidget(self.list, 1)
        holder = QWidget()
        holder.setLayout(side)
        holder.setFixedWidth(270)
        side.setContentsMargins(0, 0, 0, 0)
        body.addWidget(holder)
        self.text = QTextBrowser()
        self.text.setAccessibleName("Page of the manual")
        self.text.setOpenLinks(False)
        self.text.setFont(font(14))
        self.text.setFrameShape(QFrame.Shape.NoFrame)
        self.text.setLineWrapMode(QTextBrowser.LineWrapMode.FixedPixelWidth)
        self.text.setLineWrapColumnOrWidth(_MEASURE)
        body.addWidget(self.text, 1)
        column.addLayout(body, 1)
        self.shown: ManualPage | None = None
        self._document: QTextDocument | None = None
        self._wanted = ""  # the heading that is to stand on top once the page is there
        self.work = Work(self)
        self._look("")

    def open_about(self, kind: str) -> None:
        """Show the page about what is in view: "table", "summary", "board", "hand out", "preview", or nothing."""
        self.search.clear()
        page = page_about(kind)
        self.list.setCurrentRow(PAGES.index(page))
        self._show(page)
        self.search.setFocus()

    def open_at(self, file: str, heading: str) -> None:
        """Show a page with one of its headings on top."""
        self.search.clear()
        page = next(each for each in PAGES if each.file == file)
        self.list.setCurrentRow(PAGES.index(page))
        self._wanted = heading
        self._show(page)
        self._scroll_to(heading)

    def _look(self, words: str) -> None:
        """All pages, or what has these words."""
        self.list.blockSignals(True)
        self.list.clear()
        if not words.strip():
            for page in PAGES:
                self._add(page.title, page)
        else:
            for passage in passages(words)[:_MOST_FOUND]:
                self._add(f"{passage.heading}\n{passage.page.title}", passage, passage.line)
            if not self.list.count():
                item = QListWidgetItem("No page contains these words")
                item.setFlags(Qt.ItemFlag.NoItemFlags)
                self.list.addItem(item)
        self.list.blockSignals(False)

    def _add(self, text: str, value: ManualPage | Passage, tip: str = "") -> None:
        item = QListWidgetItem(text)
        item.setData(Qt.ItemDataRole.UserRole, value)
        set_tip(item, tip or text)
        self.list.addItem(item)

    def _turn(self, item: QListWidgetItem | None) -> None:
        value = item.data(Qt.ItemDataRole.UserRole) if item is not None else None
        match value:
            case ManualPage():
                self._wanted = ""
                self._show(value)
            case Passage():
                self._wanted = value.heading
                self._show(value.page)
                self._scroll_to(value.heading)
            case _:
                pass

    def _show(self, page: ManualPage) -> None:
        if page is self.shown:
            return
        self.shown = page
        if len(page.text) <= _SHORT:
            self._put(_document(page))
        else:  # its tables take a tenth of a second
            here = self.thread()
            self.text.clear()
            self.work.ask(lambda: _document(page, here), self._put, lambda _: None)

    def _put(self, document: QTextDocument) -> None:
        self._document = document
        self.text.setDocument(document)
        if self.shown is not None:
            self.text.setAccessibleDescription(self.shown.title)
        if self._wanted:
            self._scroll_to(self._wanted)

    def _scroll_to(self, heading: str) -> None:
        """The heading on top."""
        document = self.text.document()
        assert document is not None
        block = document.begin()
        while block.isValid():
            if block.blockFormat().headingLevel() and block.text().strip() == heading.replace("`", "").replace("*", ""):
                self.text.setTextCursor(QTextCursor(block))
                bar, layout = self.text.verticalScrollBar(), document.documentLayout()
                if bar is not None and layout is not None:
                    bar.setValue(round(layout.blockBoundingRect(block).top()) - 8)
                return
            block = block.next()

    def keyPressEvent(self, event: QKeyEvent | None) -> None:
        if event is not None and event.key() == Qt.Key.Key_Escape:
            self.left.emit()
        elif event is not None and event.key() in (Qt.Key.Key_Down, Qt.Key.Key_Up) and self.search.hasFocus():
            self.list.setFocus()
            self.list.setCurrentRow(max(self.list.currentRow(), 0))
        else:
            super().keyPressEvent(event)


def _document(page: ManualPage, thread: QThread | None = None) -> QTextDocument:
    """The page set; made in a worker, it is handed over to `thread`."""
    document = QTextDocument()
    document.setDefaultFont(font(14))
    document.setDefaultStyleSheet(f"a {{ color: {worn().tokens['plum']}; }}")
    document.setDocumentMargin(18)
    document.setMarkdown(page.text, QTextDocument.MarkdownFeature.MarkdownDialectGitHub)
    _set_type(document)
    if thread is not None:
        document.setTextWidth(_MEASURE)
        document.size()  # lays it out here
        document.moveToThread(thread)
    return document


def _set_type(document: QTextDocument) -> None:
    """Headings in the serif face, with room above them; lines a little apart."""
    block = document.begin()
    while block.isValid():
        cursor, shape = QTextCursor(block), block.blockFormat()
        size, above = _HEADINGS.get(block.blockFormat().headingLevel(), (0.0, 0.0))
        if size:
            # Its text alone: with the break before it the block above would be formed, too.
            cursor.movePosition(QTextCursor.MoveOperation.EndOfBlock, QTextCursor.MoveMode.KeepAnchor)
            face = QTextCharFormat()
            face.setFont(font(size, 600, serif=True))
            cursor.mergeCharFormat(face)
            shape.setTopMargin(above)
            shape.setBottomMargin(5)
        else:
            shape.setLineHeight(118, _PROPORTIONAL)
        cursor.setBlockFormat(shape)
        block = block.next()
