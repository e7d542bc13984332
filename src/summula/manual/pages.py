"""The pages of the manual, and what is found in them."""

from __future__ import annotations

import re
from functools import cache
from pathlib import Path

import msgspec

_HERE = Path(__file__).parent
_IMAGE = re.compile(r"!\[[^\]]*\]\([^)]*\)")


class ManualPage(msgspec.Struct, frozen=True):
    """`about`: the kinds of pages of a folio that it is about."""

    file: str
    title: str
    about: tuple[str, ...] = ()

    @property
    def text(self) -> str:
        return _text(self.file)


class Passage(msgspec.Struct, frozen=True):
    """A heading of a page that holds what was looked for, and the line it was found in."""

    page: ManualPage
    heading: str
    line: str


PAGES: tuple[ManualPage, ...] = (
    ManualPage("begin.md", "Getting started", ("",)),
    ManualPage("how.md", "How do I …"),
    ManualPage("tables.page.md", "A table", ("table", "preview")),
    ManualPage("summary.md", "A summary", ("summary", "rows behind")),
    ManualPage("board.md", "A board", ("board",)),
    ManualPage("handing-out.md", "Exporting", ("hand out",)),
    ManualPage("keeping.md", "Saving"),
    ManualPage("phrase.md", "The phrase"),
    ManualPage("charts.md", "Charts"),
    ManualPage("tables.md", "How a table is read"),
    ManualPage("shortcuts.md", "Shortcuts"),
    ManualPage("words.md", "Glossary"),
)


@cache
def _text(file: str) -> str:
    return _IMAGE.sub("", (_HERE / file).read_text("utf-8"))


def page_about(kind: str) -> ManualPage:
    """The page about what is in view."""
    return next((each for each in PAGES if kind in each.about), PAGES[0])


def passages(words: str) -> list[Passage]:
    """Where all of these words stand under one heading: those with them in the heading first."""
    wanted = words.casefold().split()
    if not wanted:
        return []
    found: list[tuple[bool, Passage]] = []
    for page in PAGES:
        for heading, body in sections(page.text):
            whole = f"{heading}\n{body}".casefold()
            if all(word in whole for word in wanted):
                line = next((each for each in body.splitlines() if any(word in each.casefold() for word in wanted)), "")
                named = all(word in heading.casefold() for word in wanted)
                found.append((not named, Passage(page, heading, re.sub(r"[*`|#]", "", line).strip())))
    return [passage for _, passage in sorted(found, key=lambda each: each[0])]


def sections(text: str) -> list[tuple[str, str]]:
    """The headings of a page, each with what stands below it."""
    found: list[tuple[str, list[str]]] = []
    fenced = False
    for line in text.splitlines():
        fenced ^= line.startswith("```")
        if line.startswith("#") and not fenced:
            found.append((line.lstrip("#").strip(), []))
        elif found:
            found[-1][1].append(line)
    return [(heading, "\n".join(lines)) for heading, lines in found]
