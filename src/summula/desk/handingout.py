"""Handing out what a page shows: as a picture, as CSV, as Markdown, as a sheet."""

from __future__ import annotations

from collections.abc import Callable

from PyQt6.QtGui import QPixmap
from PyQt6.QtWidgets import QFileDialog, QWidget

from summula.core.folio.model import Summary
from summula.core.handout.delimited import csv_text
from summula.core.refusal import Refusal
from summula.core.summaries.grid import Grid
from summula.core.summaries.records import laid_out
from summula.desk.session import Session
from summula.desk.writing import Writing


class HandingOut:
    """Works for one window; `picture` takes the page in view, `grid` gives the answer of the summary in view."""

    def __init__(
        self,
        window: QWidget,
        session: Session,
        writing: Writing,
        picture: Callable[[], QPixmap],
        grid: Callable[[], Grid | None],
    ) -> None:
        self.window, self.session, self.writing, self.picture, self.grid = window, session, writing, picture, grid

    def hand_out_picture(self) -> None:
        name = self._ask_place("Picture of this page", "png")
        if name and not self.picture().save(name, "PNG"):
            self.session.refuse(Refusal(f"'{name}' could not be written", "choose another folder"))

    def hand_out_csv(self) -> None:
        grid, layout = self.grid(), self._summary().layout
        name = self._ask_place("Figures of this summary", "csv")
        if name and grid is not None:
            self.writing.write(name, lambda: csv_text(laid_out(grid, exact=True, layout=layout)))

    def hand_out_markdown(self) -> None:
        """The figures as they read on the page, as a Markdown table."""
        from summula.core.handout.markdown import markdown_text
        from summula.core.summaries.layout import as_rows
        from summula.core.summaries.measurestyle import measure_styles, styled

        grid, summary = self.grid(), self._summary()
        name = self._ask_place("Figures of this summary", "md")
        if name and grid is not None:
            own = measure_styles(summary.measures, summary.phrase)
            styles = tuple(map(styled, grid.styles, own))
            labels = max(grid.rows.depth, 1) + as_rows(grid, summary.layout)
            self.writing.write(
                name,
                lambda: markdown_text(laid_out(grid, exact=False, layout=summary.layout, styles=styles), labels),
            )

    def hand_out_xlsx(self) -> None:
        """The figures as a sheet that others can go on with."""
        from summula.core.handout.workbook import fits, workbook_bytes
        from summula.core.summaries.language.printing import print_phrase
        from summula.core.summaries.measurestyle import measure_styles

        grid, summary = self.grid(), self._summary()
        if grid is None:
            return
        if not fits(grid):
            self.session.refuse(Refusal("a sheet cannot hold so many rows or columns", "hand it out as CSV"))
            return
        name = self._ask_place("Figures of this summary", "xlsx")
        if name:
            phrase = print_phrase(summary.phrase)
            own = measure_styles(summary.measures, summary.phrase)
            self.writing.write(name, lambda: workbook_bytes(grid, summary.name, phrase, own, summary.layout))

    def _ask_place(self, title: str, ending: str) -> str:
        page = self.session.page()
        suggested = str(page[1].name).replace("/", "-") if page is not None else "page"
        kinds = {"png": "PNG", "csv": "CSV", "md": "Markdown", "xlsx": "XLSX"}
        name, _ = QFileDialog.getSaveFileName(
            self.window, title, f"{suggested}.{ending}", f"{kinds[ending]} (*.{ending})"
        )
        return name

    def _summary(self) -> Summary:
        page = self.session.page()
        assert page is not None
        summary: Summary = page[1]
        return summary
