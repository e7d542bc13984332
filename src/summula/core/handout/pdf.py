"""A composition as PDF: drawn as vectors, text as text in the shipped faces, with bookmarks, a title and a language.

ReportLab writes the file; where its text would run otherwise than in ours (it does not kern), letters are set apart so
that every text is as wide as it was measured to be.
"""

from __future__ import annotations

import io
from collections.abc import Sequence
from itertools import groupby
from threading import Lock
from typing import TYPE_CHECKING, Any, assert_never

from summula.core.charts.places import slip_bounds, wedge_points
from summula.core.charts.scene import (
    XY,
    Area,
    Box,
    Group,
    Ink,
    Line,
    Mark,
    Mosaic,
    Path,
    Picture,
    Point,
    Text,
    Wedge,
)
from summula.core.refusal import Refusal
from summula.core.theme.palettes import theme_of
from summula.core.theme.typefaces import fallback_file, file_of, knows, text_width

if TYPE_CHECKING:
    from summula.core.composition.composition import Composition, Page
    from summula.core.composition.paper import Paper
    from summula.core.theme.tokens import Theme

LANGUAGE = "en-GB"
_RUNNING = 7.5  # points: the type at the foot of the paper
_ONE_AT_A_TIME = Lock()  # ReportLab numbers the letters of a face in the face itself


def pdf_bytes(composition: Composition, paper: Paper | None = None) -> bytes:
    """One page of paper for each page, scaled to it; without `paper` each is as large as it was composed, a pixel a
    point and a third. Raises Refusal where a picture in it cannot be read."""
    from reportlab.pdfgen.canvas import Canvas

    with _ONE_AT_A_TIME:
        made = io.BytesIO()
        first = file_of(400, serif=False)
        face = _registered(first.stem, str(first))  # else every page would name a face that is not in the file
        canvas = Canvas(made, pageCompression=1, lang=LANGUAGE, initialFontName=face)
        canvas.setTitle(composition.title)
        canvas.setCreator("Summula")
        canvas.setAuthor("")
        canvas.setSubject("")
        writer = _Writer(canvas, theme_of(composition.palette))
        for number, page in enumerate(composition.pages):
            writer.page(page, number, composition, paper)
        canvas.save()
        return made.getvalue()


class _Writer:
    """Marks as PDF's own operations, in a system of pixels whose first line is on top."""

    def __init__(self, canvas: Any, theme: Theme) -> None:
        self.canvas, self.theme = canvas, theme
        self.images: dict[bytes, Any] = {}

    def page(self, page: Page, number: int, composition: Composition, paper: Paper | None) -> None:
        canvas, scene = self.canvas, page.scene
        if paper is None:
            scale, left, top = 0.75, 0.0, 0.0
            wide, high = scene.width * scale, scene.height * scale
        else:
            wide, high = paper.points(scene.width > scene.height)
            room = (wide - 2 * paper.margin, high - 2 * paper.margin)
            scale = min(room[0] / scene.width, room[1] / scene.height)
            left, top = paper.margin + (room[0] - scene.width * scale) / 2, paper.margin
        canvas.setPageSize((wide, high))
        canvas.bookmarkPage(f"page {number}")
        if page.chapter:
            canvas.addOutlineEntry(page.chapter, f"page {number}", level=page.depth)
        ground = self.theme.hex(page.ground)
        canvas.setFillColor(_colour(ground))
        if paper is None or not paper.white:
            canvas.rect(0, 0, wide, high, stroke=0, fill=1)
        canvas.saveState()
        canvas.translate(left, high - top)
        canvas.scale(scale, -scale)
        for mark in scene.marks:
            self.mark(mark, "sheet")
        canvas.restoreState()
        for link in page.links:
            x0, y1 = left + link.x * scale, high - top - link.y * scale
            area = (x0, y1 - link.height * scale, x0 + link.width * scale, y1)
            canvas.linkAbsolute("", f"page {link.page}", area, thickness=0)
        if paper is not None and len(composition.pages) > 1:
            self._running_foot(composition, number, wide, paper.margin)
        canvas.showPage()

    def _running_foot(self, composition: Composition, number: int, wide: float, margin: float) -> None:
        """The document's title and the page's number, in the margin."""
        canvas, y = self.canvas, margin * 0.45
        canvas.setFillColor(_colour(self.theme.hex("muted")))
        said = f"{number + 1} / {len(composition.pages)}"
        edge = max(margin, 24.0)
        self._runs(composition.title, edge, y, _RUNNING, 400, serif=False)
        self._runs(said, wide - edge - text_width(said, 10, 400) * _RUNNING / 10, y, _RUNNING, 400, serif=False)

    def mark(self, mark: Mark, ground: str) -> None:
        canvas = self.canvas
        match mark:
            case Box():
                self._fill(mark.ink, ground)
                if mark.edge is not None:
                    self._stroke(mark.edge, 1.0, ground)
                edge = int(mark.edge is not None)
                if mark.radius and min(mark.width, mark.height) > 0:
                    radius = min(mark.radius, mark.width / 2, mark.height / 2)
                    canvas.roundRect(mark.x, mark.y, mark.width, mark.height, radius, stroke=edge, fill=1)
                else:
                    canvas.rect(mark.x, mark.y, mark.width, mark.height, stroke=edge, fill=1)
            case Line():
                self._stroke(mark.ink, mark.width, ground)
                canvas.setDash([1.6 * mark.width] * 2 if mark.dashed else [])
                self._path(mark.points, closed=False, fill=0, stroke=1)
                canvas.setDash([])
            case Area():
                self._fill(mark.ink, ground)
                self._path(mark.points, closed=True, fill=1, stroke=0)
            case Wedge():
                self._fill(mark.ink, ground)
                self._path(wedge_points(mark, every=1 / 360), closed=True, fill=1, stroke=0)
            case Path():
                self._stroke(mark.ink, mark.width, ground)
                path = canvas.beginPath()
                path.moveTo(*mark.start)
                for first, second, end in mark.pieces:
                    path.curveTo(*first, *second, *end)
                canvas.drawPath(path, stroke=1, fill=0)
            case Point():
                if mark.radius:  # else it is there to be asked, not to be seen
                    self._fill(Ink("sheet") if mark.hollow else mark.ink, ground)
                    self._stroke(mark.ink, 1.8, ground)
                    canvas.circle(mark.x, mark.y, mark.radius, stroke=int(mark.hollow), fill=1)
            case Text():
                self._text(mark, ground)
            case Picture():
                self._picture(mark)
            case Mosaic():
                for square in mark.squares():
                    self.mark(square, ground)
            case Group():
                canvas.saveState()
                canvas.translate(mark.x, mark.y)
                if mark.clip is not None:
                    path = canvas.beginPath()
                    path.rect(0, 0, *mark.clip)
                    canvas.clipPath(path, stroke=0, fill=0)
                for each in mark.marks:
                    self.mark(each, ground)
                canvas.restoreState()
            case _:
                assert_never(mark)

    def _path(self, points: Sequence[XY], *, closed: bool, fill: int, stroke: int) -> None:
        if len(points) < 2:
            return
        path = self.canvas.beginPath()
        path.moveTo(*points[0])
        for point in points[1:]:
            path.lineTo(*point)
        if closed:
            path.close()
        self.canvas.drawPath(path, stroke=stroke, fill=fill)

    def _text(self, mark: Text, ground: str) -> None:
        if not mark.text:
            return
        if mark.slip:
            area = slip_bounds(mark, text_width)
            self._fill(Ink(ground), ground)
            self.canvas.rect(area.left, area.top, area.right - area.left, area.bottom - area.top, stroke=0, fill=1)
        self._fill(mark.ink, ground)
        serif = mark.serif and self.theme.serif_headings
        wide = text_width(mark.text, mark.size, mark.weight, serif)
        left = mark.x - {"left": 0.0, "centre": wide / 2, "right": wide}[mark.align]
        canvas = self.canvas
        canvas.saveState()
        canvas.translate(left, mark.y)
        canvas.scale(1, -1)
        self._runs(mark.text, 0, 0, max(1, round(mark.size)), mark.weight, serif=serif)
        canvas.restoreState()

    def _runs(self, text: str, x: float, y: float, size: float, weight: int, *, serif: bool) -> None:
        """A line of text, letters that the face lacks in the fallback's."""
        from reportlab.pdfbase.pdfmetrics import stringWidth

        file = file_of(weight, serif=serif)
        for own, letters in groupby(text, key=lambda letter: knows(file, letter)):
            run = "".join(letters)
            face = file if own else fallback_file()
            name = _registered(face.stem, str(face))
            ours = text_width(run, 100, weight, serif) * size / 100
            apart = (ours - stringWidth(run, name, size)) / max(len(run), 1)
            written = self.canvas.beginText(x, y)
            written.setFont(name, size)
            written.setCharSpace(apart)
            written.textOut(run)
            written.setCharSpace(0)
            self.canvas.drawText(written)
            x += ours

    def _picture(self, mark: Picture) -> None:
        from reportlab.lib.utils import ImageReader

        canvas = self.canvas
        if mark.data not in self.images:
            try:
                self.images[mark.data] = ImageReader(io.BytesIO(mark.data))
            except Exception as fault:  # what Pillow raises has no common root
                raise Refusal(f"a picture could not be read ({fault})", "choose it again, as PNG or JPEG") from None
        canvas.saveState()
        canvas.setFillAlpha(mark.strength)
        canvas.translate(mark.x, mark.y + mark.height)
        canvas.scale(1, -1)
        canvas.drawImage(self.images[mark.data], 0, 0, mark.width, mark.height, mask="auto")
        canvas.restoreState()

    def _fill(self, ink: Ink, ground: str) -> None:
        self.canvas.setFillColor(_colour(self.theme.hex(ink.token, ink.strength, ground)))

    def _stroke(self, ink: Ink, width: float, ground: str) -> None:
        self.canvas.setStrokeColor(_colour(self.theme.hex(ink.token, ink.strength, ground)))
        self.canvas.setLineWidth(width)
        self.canvas.setLineJoin(1)


def _registered(name: str, file: str) -> str:
    """A shipped face, known to ReportLab under its name."""
    from reportlab.pdfbase import pdfmetrics
    from reportlab.pdfbase.ttfonts import TTFont

    if name not in pdfmetrics.getRegisteredFontNames():
        pdfmetrics.registerFont(TTFont(name, file))
    return name


def _colour(text: str) -> Any:
    from reportlab.lib.colors import HexColor

    return HexColor(text)
