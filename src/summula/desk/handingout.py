"""Handing out what a page shows: as a picture, as CSV, as Markdown, as a sheet."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.folio.model import Summary
from summula.core.handout.delimited import csv_text
from summula.core.refusal import Refusal
from summula.core.summaries.grid import Grid
from summula.core.summaries.records import laid_out
from summula.desk.session import Session


class HandingOut:
    """Works for one window; `picture` takes the page in view, `grid` gives the answer of the summary in view."""

    def __init__(
        self, window: QWidget, session: Session, picture: Callable[[], QPixmap], grid: Callable[[], Grid | None]
    ) -> None:
        self.window, self.session, self.picture, self.grid = window, session, picture, grid

    def hand_out_picture(self) -> None:
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Picture of this page", f"{self._page_name()}.png", "PNG (*.png)"
        )
        if name and not self.picture().save(name, "PNG"):
            self.session.refuse(Refusal(f"'{name}' could not be written", "choose another folder"))

    def hand_out_csv(self) -> None:
        grid = self.grid()
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Figures of this summary", f"{self._page_name()}.csv", "CSV (*.csv)"
        )
        if name and grid is not None:
            try:
                rows = laid_out(grid, exact=True, layout=self._summary().layout)
                Path(name).write_text(csv_text(rows), "utf-8", newline="")
            except OSError as fault:
                self.session.refuse(_unwritten(name, fault))

    def hand_out_markdown(self) -> None:
        """The figures as they read on the page, as a Markdown table."""
        from summula.core.handout.markdown import markdown_text
        from summula.core.summaries.dress import dress_of, dressed
        from summula.core.summaries.layout import as_rows

        grid, summary = self.grid(), self._summary()
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Figures of this summary", f"{self._page_name()}.md", "Markdown (*.md)"
        )
        if name and grid is not None:
            styles = tuple(dressed(style, dress_of(summary.dresses, at)) for at, style in enumerate(grid.styles))
            rows = laid_out(grid, exact=False, layout=summary.layout, styles=styles)
            labels = max(grid.rows.depth, 1) + as_rows(grid, summary.layout)
            try:
                Path(name).write_text(markdown_text(rows, labels), "utf-8")
            except OSError as fault:
                self.session.refuse(_unwritten(name, fault))

    def _summary(self) -> Summary:
        page = self.session.page()
        assert page is not None
        summary: Summary = page[1]
        return summary

    def hand_out_xlsx(self) -> None:
        """The figures as a sheet that others can go on with."""
        from summula.core.handout.workbook import fits, workbook_bytes
        from summula.core.summaries.language.printing import print_phrase

        grid, page = self.grid(), self.session.page()
        if grid is None or page is None:
            return
        if not fits(grid):
            self.session.refuse(Refusal("a sheet cannot hold so many rows or columns", "hand it out as CSV"))
            return
        name, _ = QFileDialog.getSaveFileName(
            self.window, "Figures of this summary", f"{self._page_name()}.xlsx", "XLSX (*.xlsx)"
        )
        if name:
            try:
                summary = self._summary()
                Path(name).write_bytes(
                    workbook_bytes(grid, summary.name, print_phrase(summary.phrase), summary.dresses, summary.layout)
                )
            except OSError as fault:
                self.session.refuse(_unwritten(name, fault))

    def _page_name(self) -> str:
        page = self.session.page()
        return str(page[1].name).replace("/", "-") if page is not None else "page"


def _unwritten(name: str, fault: OSError) -> Refusal:
    return Refusal(f"'{name}' could not be written ({fault.strerror or fault})", "choose another folder")
