"""A scene as SVG: text stays text in the shipped faces, which are embedded; marks that stand for figures say so.

Nothing is fetched, and nothing runs. Marks with a tag carry a `<title>` (their tooltip) and `data-by`, `data-across`,
`data-measure`, `data-value`.
"""

from __future__ import annotations

import base64
import json
import math
from functools import lru_cache
from hashlib import sha256
from pathlib import Path as File
from typing import assert_never
from xml.sax.saxutils import escape, quoteattr

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
    Pair,
    Path,
    Picture,
    Point,
    Scene,
    Tag,
    Text,
    Wedge,
)
from summula.core.fields.labels import json_member
from summula.core.handout.cleantext import printable
from summula.core.theme.shaping import subset_of
from summula.core.theme.tokens import LIGHT, Theme
from summula.core.theme.typefaces import FALLBACK, SANS, SERIF, file_of, text_width


def svg_text(scene: Scene, title: str, *, ground: str = "paper", theme: Theme = LIGHT) -> str:
    """The scene as one SVG document."""
    writer = SvgWriter(theme)
    body = "".join(writer.mark(mark, "sheet") for mark in scene.marks)
    wide, high = _number(scene.width), _number(scene.height)
    return (
        f'<svg xmlns="http://www.w3.org/2000/svg" width="{wide}" height="{high}" viewBox="0 0 {wide} {high}" '
        f'role="img" aria-label={quoteattr(printable(title))}>\n<title>{_escaped(title)}</title>\n'
        f"<style>{writer.faces()}</style>\n"
        f'<rect width="{wide}" height="{high}" fill="{theme.hex(ground)}"/>\n{body}</svg>\n'
    )


class SvgWriter:
    """Marks as elements; remembers the letters of each face, so that only those are embedded."""

    def __init__(self, theme: Theme) -> None:
        self.theme = theme
        self.measures: tuple[str, ...] = ()  # of the group that is being written
        self.letters: dict[tuple[File, bool, int], set[str]] = {}
        self._known: dict[tuple[int, bool], tuple[int, set[str]]] = {}
        self.clips = 0
        self.by: tuple[Pair, ...] = ()  # what the group stands for that is written
        self.pictures: dict[bytes, str] = {}  # their names in the document

    def faces(self) -> str:
        """The faces in use, with the letters in use."""
        rules = []
        for (file, serif, weight), letters in sorted(self.letters.items(), key=lambda each: str(each[0])):
            data = base64.b64encode(subset_of(file, frozenset(letters))).decode("ascii")
            name = SERIF if serif else SANS
            source = f"url(data:font/ttf;base64,{data})"
            rules.append(f"@font-face{{font-family:'{name}';font-weight:{weight};src:{source}}}")
        return "".join(rules) + f"text{{font-family:'{SANS}','{FALLBACK}',sans-serif;white-space:pre}}"

    def needs(self, letters: str) -> None:
        """Letters that are set outside of the marks: in every weight of a page's own words."""
        for serif, weight in ((False, 400), (False, 500), (True, 600)):
            own = serif and self.theme.serif_headings
            file = file_of(weight, serif=own)
            self.letters.setdefault((file, own, int(file.stem.rpartition("-")[2])), set()).update(letters)

    def fragment(self, scene: Scene, title: str) -> str:
        """A scene as an element within a page, which has the faces."""
        self.pictures = {}  # each stands by itself
        body = "".join(self.mark(mark, "sheet") for mark in scene.marks)
        wide, high = _number(scene.width), _number(scene.height)
        name = f'role="img" aria-label={quoteattr(printable(title))}' if title else 'aria-hidden="true"'
        return f'<svg viewBox="0 0 {wide} {high}" {name}>{body}</svg>'

    def mark(self, mark: Mark, ground: str) -> str:
        match mark:
            case Box():
                edge = f' stroke="{self._ink(mark.edge, ground)}"' if mark.edge is not None else ""
                round_ = f' rx="{_number(mark.radius)}"' if mark.radius else ""
                place = f'x="{_number(mark.x)}" y="{_number(mark.y)}"'
                size = f'width="{_number(mark.width)}" height="{_number(mark.height)}"'
                return self._element(
                    "rect", f'{place} {size}{round_} fill="{self._ink(mark.ink, ground)}"{edge}', mark.tag
                )
            case Line():
                dashes = f' stroke-dasharray="{_number(1.6 * mark.width)}"' if mark.dashed else ""
                stroke = f'stroke="{self._ink(mark.ink, ground)}" stroke-width="{_number(mark.width)}"{dashes}'
                joins = 'fill="none" stroke-linejoin="round"'
                return self._element("polyline", f'points="{_points(mark.points)}" {joins} {stroke}', mark.tag)
            case Area():
                fill = f'fill="{self._ink(mark.ink, ground)}"'
                return self._element("polygon", f'points="{_points(mark.points)}" {fill}', mark.tag)
            case Wedge():
                points = _points(wedge_points(mark, every=1 / 360))
                return self._element("polygon", f'points="{points}" fill="{self._ink(mark.ink, ground)}"', mark.tag)
            case Path():
                pieces = " ".join(
                    "C" + " ".join(f"{_number(x)},{_number(y)}" for x, y in piece) for piece in mark.pieces
                )
                start = f"M{_number(mark.start[0])},{_number(mark.start[1])}"
                stroke = f'stroke="{self._ink(mark.ink, ground)}" stroke-width="{_number(mark.width)}"'
                return self._element("path", f'd="{start} {pieces}" fill="none" {stroke}', mark.tag)
            case Point():
                return self._point(mark, ground)
            case Text():
                return self._text(mark, ground)
            case Picture():
                return self._picture(mark)
            case Mosaic():
                inner = "".join(self.mark(each, ground) for each in mark.squares())
                return f'<g shape-rendering="crispEdges">{inner}</g>\n'
            case Group():
                return self._group(mark, ground)
            case _:
                assert_never(mark)

    def _picture(self, mark: Picture) -> str:
        """A picture's bytes stand once in the document, however often it is seen."""
        first = mark.data not in self.pictures
        name = self.pictures.setdefault(mark.data, f"picture-{sha256(mark.data).hexdigest()[:12]}")
        defined = ""
        if first:
            data = base64.b64encode(mark.data).decode("ascii")
            kind = "png" if mark.data.startswith(b"\x89PNG") else "jpeg"
            source = f'href="data:image/{kind};base64,{data}" preserveAspectRatio="none"'
            defined = f'<defs><image id="{name}" width="1" height="1" {source}/></defs>'
        place = f"translate({_number(mark.x)} {_number(mark.y)}) scale({_number(mark.width)} {_number(mark.height)})"
        return defined + self._element(
            "use", f'href="#{name}" transform="{place}" opacity="{_number(mark.strength)}"', mark.tag
        )

    def _group(self, mark: Group, ground: str) -> str:
        around, by = self.measures, self.by
        self.measures, self.by = mark.measures or around, (*by, *mark.by)
        inner = "".join(self.mark(each, ground) for each in mark.marks)
        self.measures, self.by = around, by
        moved = f'transform="translate({_number(mark.x)} {_number(mark.y)})"'
        if mark.clip is None:
            return f"<g {moved}>{inner}</g>\n"
        self.clips += 1
        wide, high = _number(mark.clip[0]), _number(mark.clip[1])
        clip = f'<defs><clipPath id="c{self.clips}"><rect width="{wide}" height="{high}"/></clipPath></defs>'
        return f'{clip}<g {moved}><g clip-path="url(#c{self.clips})">{inner}</g></g>\n'

    def _point(self, mark: Point, ground: str) -> str:
        place = f'cx="{_number(mark.x)}" cy="{_number(mark.y)}" r="{_number(max(mark.radius, 0.01))}"'
        ink = self._ink(mark.ink, ground)
        look = f'fill="{self.theme.hex("sheet")}" stroke="{ink}" stroke-width="1.8"' if mark.hollow else f'fill="{ink}"'
        if not mark.radius:  # there to be asked, not to be seen
            look = 'fill="none" stroke="none"'
        return self._element("circle", f"{place} {look}", mark.tag)

    def _text(self, mark: Text, ground: str) -> str:
        serif = mark.serif and self.theme.serif_headings
        weight, letters = self._face(mark.weight, serif)
        letters.update(mark.text)
        anchor = {"left": "", "right": ' text-anchor="end"', "centre": ' text-anchor="middle"'}[mark.align]
        family = f" style=\"font-family:'{SERIF}',serif\"" if serif else ""  # a rule would win over an attribute
        look = f'font-size="{max(1, round(mark.size))}" font-weight="{weight}" fill="{self._ink(mark.ink, ground)}"'
        attributes = f'x="{_number(mark.x)}" y="{_number(mark.y)}" {look}{anchor}{family}'
        notice = (
            f"<title>{_escaped(mark.full)}</title>" if mark.tag is None and mark.full not in ("", mark.text) else ""
        )
        written = self._element("text", attributes, mark.tag, f"{notice}{_escaped(mark.text)}")
        if not mark.slip:
            return written
        area = slip_bounds(mark, text_width)
        place = f'x="{_number(area.left)}" y="{_number(area.top)}" rx="2"'
        size = f'width="{_number(area.right - area.left)}" height="{_number(area.bottom - area.top)}"'
        return self._element("rect", f'{place} {size} fill="{self.theme.hex(ground)}"', None) + written

    def _face(self, weight: int, serif: bool) -> tuple[int, set[str]]:
        """The weight of the shipped face that is nearest, and the letters of it that are in use."""
        found = self._known.get((weight, serif))
        if found is None:
            file = file_of(weight, serif=serif)
            own = int(file.stem.rpartition("-")[2])
            found = self._known[weight, serif] = (own, self.letters.setdefault((file, serif, own), set()))
        return found

    def _element(self, name: str, attributes: str, tag: Tag | None, inner: str = "") -> str:
        if tag is not None:
            measure = self.measures[tag.measure] if 0 <= tag.measure < len(self.measures) else ""
            value = "" if not math.isfinite(tag.value) else repr(tag.value)
            attributes += (
                f" data-by={_members((*self.by, *tag.by))} data-across={_members(tag.across)} "
                f'data-measure={_quoted(measure)} data-value="{value}"'
            )
            words = f"{tag.title}\n{tag.text}" if tag.title else tag.text
            inner = f"<title>{_escaped(words)}</title>{inner}"
        return f"<{name} {attributes}>{inner}</{name}>\n" if inner else f"<{name} {attributes}/>\n"

    def _ink(self, ink: Ink, ground: str) -> str:
        return self.theme.hex(ink.token, ink.strength, ground)


@lru_cache(maxsize=16_384)
def _members(pairs: tuple[Pair, ...]) -> str:
    members = [json_member(member) for _, member in pairs]
    return _quoted(json.dumps(members, ensure_ascii=False))


def _points(points: tuple[XY, ...]) -> str:
    return " ".join(f"{_number(x)},{_number(y)}" for x, y in points)


def _number(value: float) -> str:
    """To a hundredth of a pixel, without a tail of zeros."""
    text = f"{value:.2f}"
    if text[-1] != "0":
        return text if value == value else "0"
    return text[:-1] if text[-2] != "0" else text[:-3]




@lru_cache(maxsize=65_536)
def _escaped(text: str) -> str:
    return escape(printable(text))


@lru_cache(maxsize=16_384)
def _quoted(text: str) -> str:
    return quoteattr(printable(text))
