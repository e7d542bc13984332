"""Markdown tables from laid-out rows."""

from __future__ import annotations

import re

from summula.core.handout.cleantext import printable

_MARKUP = re.compile(r"[\\`*_\[\]<>|~]|&(?=#|\w+;)|(?<=[A-Za-z]):(?=\S)|(?<=www)\.", re.IGNORECASE)


def markdown_text(rows: list[list[str]], labels: int) -> str:
    """The first row is the head; the first `labels` columns stand left, figures right."""
    head, *body = [[plain_cell(text) for text in row] for row in rows]
    rule = [":---" if at < labels else "---:" for at in range(len(head))]
    return "".join("| " + " | ".join(line) + " |\n" for line in (head, rule, *body))


def plain_cell(text: str) -> str:
    """The text as a cell shows it as it is: no markup, no link, in one line."""
    return _MARKUP.sub(lambda found: "\\" + found.group(), " ".join(printable(text).split("\n")).replace("\r", " "))
