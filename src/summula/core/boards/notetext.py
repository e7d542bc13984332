"""Words of a note, in CommonMark: headings, paragraphs, lists, bold and slanted letters. Pictures and pages elsewhere
are not fetched: a link is its words."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

import msgspec

from summula.core.charts.scene import Ink, Line, Mark, Scene, Text
from summula.core.refusal import Refusal

if TYPE_CHECKING:
    from markdown_it.token import Token

    from summula.core.boards.board import NotePanel
    from summula.core.charts.chart import Canvas

_MOST = 20_000  # letters
_SIZES = {1: 19.0, 2: 16.0, 3: 14.0}  # of headings; all others are as large as the words
_SIZE, _LINE, _GAP, _INDENT = 13.0, 1.5, 7.0, 16.0


class Run(msgspec.Struct, frozen=True):
    """Some words in one weight."""

    text: str
    bold: bool = False


class Block(msgspec.Struct, frozen=True):
    """A paragraph, a heading (1 to 6), or an item of a list with its mark, so many lists deep. A rule has no words."""

    runs: tuple[Run, ...] = ()
    heading: int = 0
    bullet: str = ""
    depth: int = 0
    rule: bool = False


def check_note(panel: NotePanel, tables: set[str]) -> None:
    if len(panel.text) > _MOST:
        raise Refusal("a note is longer than anybody reads", f"at most {_MOST:,} letters")
    if panel.table and panel.table not in tables:
        raise Refusal("its table is missing", "choose another")


def plain_words(text: str) -> str:
    """Words as they are, whatever signs of CommonMark they have."""
    return re.sub(r"([!-/:-@\[-`{-~])", r"\\\1", " ".join(text.split()))


@lru_cache(maxsize=256)
def blocks_of(text: str) -> tuple[Block, ...]:
    """The blocks of a text; HTML stands as it is written."""
    from markdown_it import MarkdownIt

    parser = MarkdownIt("commonmark", {"html": False, "linkify": False, "maxNesting": 12})
    return tuple(_blocks(parser.parse(text)))


def _blocks(tokens: Sequence[Token]) -> Iterator[Block]:
    lists: list[int] = []  # the next number of each list that is open, 0 of one with bullets
    bullet, heading = "", 0
    for token in tokens:
        match token.type:
            case "bullet_list_open":
                lists.append(0)
            case "ordered_list_open":
                lists.append(int(token.attrs.get("start", 1) or 1))
            case "bullet_list_close" | "ordered_list_close":
                lists.pop()
            case "list_item_open":
                bullet = f"{lists[-1]}." if lists[-1] else "•"
                lists[-1] += 1 if lists[-1] else 0
            case "heading_open":
                heading = int(token.tag[1:])
            case "heading_close":
                heading = 0
            case "inline":
                for at, runs in enumerate(_lines(token.children or [])):
                    yield Block(runs, heading, bullet if at == 0 else "", len(lists))
                bullet = ""
            case "code_block" | "fence":
                for line in token.content.splitlines():
                    yield Block((Run(line),), depth=len(lists))
            case "hr":
                yield Block(rule=True)
            case _:
                pass


def _lines(children: Sequence[Token]) -> list[tuple[Run, ...]]:
    """The words of a block, in the lines that were broken by hand."""
    lines: list[list[Run]] = [[]]
    bold = 0
    for token in children:
        match token.type:
            case "strong_open":
                bold += 1
            case "strong_close":
                bold -= 1
            case "hardbreak":
                lines.append([])
            case "softbreak":
                lines[-1].append(Run(" ", bold > 0))
            case "image":
                lines[-1].append(Run(token.content, bold > 0))
            case "text" | "code_inline" | "html_inline":
                lines[-1].append(Run(token.content, bold > 0))
            case _:
                pass
    return [tuple(line) for line in lines]


def note_scene(text: str, canvas: Canvas) -> Scene:
    """The blocks below each other in lines as wide as the panel; what has no room ends in an ellipsis."""
    marks: list[Mark] = []
    y = 0.0
    for at, block in enumerate(blocks_of(text)):
        y += _GAP if at and not (block.bullet and block.depth) else 0.0
        if block.rule:
            y += 6
            marks.append(Line(((0, y), (canvas.width, y)), Ink("hairline"), 1))
            continue
        size = _SIZES.get(block.heading, _SIZE) if block.heading else _SIZE
        left = _INDENT * block.depth
        for nth, line in enumerate(_wrapped(block, canvas.width - left, size, canvas)):
            if y + size * 1.25 > canvas.height:
                return Scene(canvas.width, canvas.height, (*marks[:-1], *_cut(marks[-1:], text, canvas)))
            baseline = y + size * 1.1
            if nth == 0 and block.bullet:
                marks.append(Text(left - 5, baseline, block.bullet, Ink("muted"), size, 400, "right"))
            for run, x in line:
                weight = 600 if run.bold or block.heading else 400
                marks.append(Text(left + x, baseline, run.text, Ink("text"), size, weight, serif=bool(block.heading)))
            y += size * _LINE
    return Scene(canvas.width, canvas.height, tuple(marks))


def _cut(last: list[Mark], text: str, canvas: Canvas) -> list[Mark]:
    """The last words that have room, with an ellipsis that tells all of them."""
    found: list[Mark] = []
    for mark in last:
        if isinstance(mark, Text):
            words = mark.text
            while words and mark.x + canvas.text_width(f"{words} …", mark.size, mark.weight) > canvas.width:
                words = words[:-1]
            found.append(Text(mark.x, mark.y, f"{words.rstrip()} …", mark.ink, mark.size, mark.weight, full=text))
        else:
            found.append(mark)
    return found


def _wrapped(block: Block, room: float, size: float, canvas: Canvas) -> list[list[tuple[Run, float]]]:
    """The words of a block in lines: each run with its place along the line."""
    lines: list[list[tuple[Run, float]]] = [[]]
    x = 0.0
    for run in block.runs:
        bold = run.bold or bool(block.heading)
        weight, grown = 600 if bold else 400, 1.06 if block.heading else 1.0
        space = canvas.text_width(" ", size, weight) * grown
        starts_apart = run.text[:1].isspace()
        for at, word in enumerate(run.text.split()):
            wide = canvas.text_width(word, size, weight) * grown
            gap = space if lines[-1] and (at or starts_apart or _ends_apart(lines[-1])) else 0.0
            if lines[-1] and x + gap + wide > room:
                lines.append([])
                x, gap = 0.0, 0.0
            while wide > room and len(word) > 1:  # a word longer than a line is broken
                keep = max(1, int(len(word) * room / wide) - 1)
                lines[-1].append((Run(word[:keep], bold), x))
                lines.append([])
                word, x, gap = word[keep:], 0.0, 0.0
                wide = canvas.text_width(word, size, weight) * grown
            last = lines[-1][-1] if lines[-1] else None
            if last is not None and last[0].bold == bold and gap:
                lines[-1][-1] = (Run(f"{last[0].text} {word}", bold), last[1])
            else:
                lines[-1].append((Run(word, bold), x + gap))
            x += gap + wide
        if run.text[-1:].isspace() and lines[-1]:
            lines[-1][-1] = (Run(lines[-1][-1][0].text + " ", lines[-1][-1][0].bold), lines[-1][-1][1])
    return [[(Run(run.text.rstrip(), run.bold), at) for run, at in line] for line in lines if line]


def _ends_apart(line: list[tuple[Run, float]]) -> bool:
    return line[-1][0].text.endswith(" ")
