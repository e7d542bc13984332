"""Markdown tables from laid-out rows."""

from __future__ import annotations


def markdown_text(rows: list[list[str]], labels: int) -> str:
    """The first row is the head; the first `labels` columns stand left, figures right."""
    head, *body = [[text.replace("\\", "\\\\").replace("|", "\\|") for text in row] for row in rows]
    rule = [":---" if at < labels else "---:" for at in range(len(head))]
    return "".join("| " + " | ".join(line) + " |\n" for line in (head, rule, *body))
