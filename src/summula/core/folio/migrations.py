"""From each number of the folio's format to the next, over the decoded JSON.

To change the format: raise `FORMAT` in `model.py`, add the step from the number before in `_STEPS`, keep a folio of the
old number in `tests/folios`, and put the schema's new hash beside the number in `tests/test_folio.py`.
"""

from __future__ import annotations

from collections.abc import Callable
from typing import Any

from summula.core.folio.model import FORMAT

Document = dict[str, Any]


def _with_lengths_of_time(document: Document) -> Document:
    """Format 2 knows lengths of time, units and centuries of fields; what format 1 says means the same in it."""
    return document


def _with_charts(document: Document) -> Document:
    """Format 3 keeps how a measure looks by the measure, not by its place, and what a panel sets off as an emphasis."""
    folio = document.get("folio")
    if not isinstance(folio, dict):
        return document
    for summary in _listed(folio, "summaries"):
        if "ways" in summary:
            summary["drilled"] = summary.pop("ways")
        places = summary.pop("dresses", None)
        phrase = summary.get("phrase")
        if not isinstance(places, list) or not isinstance(phrase, dict):
            continue
        figures = [*_listed(phrase, "measures"), *_listed({"against": [phrase.get("against")]}, "against")]
        settings = []
        for figure, style in zip(figures, places, strict=False):
            if isinstance(style, dict) and style:
                if "course" in style:
                    style["sparkline"] = style.pop("course")
                settings.append({"measure": figure, "style": style})
        if settings:
            summary["measures"] = settings
    for board in _listed(folio, "boards"):
        for panel in _listed(board, "panels"):
            count = panel.pop("strong", 0)
            if isinstance(count, int) and count > 0:
                panel["emphasis"] = {"end": "top", "number": count}
    return document


def _with_labels(document: Document) -> Document:
    """Format 4 tells name, value and share of a label apart, and knows more forms."""
    folio = document.get("folio")
    if isinstance(folio, dict):
        for summary in _listed(folio, "summaries"):
            style = summary.get("style")
            labels = style.get("labels") if isinstance(style, dict) else None
            if isinstance(labels, dict) and labels.get("says") == "both":
                labels["says"] = "value share"
    return document


def _with_papers(document: Document) -> Document:
    """Format 5: a palette has a paper and a face beside its inks."""
    folio = document.get("folio")
    if isinstance(folio, dict) and isinstance(folio.get("palette"), list):
        folio["palette"] = {"inks": folio["palette"]}
    return document


def _with_dots(document: Document) -> Document:
    """Format 6 knows one more form, setting and kind of panel; what format 5 says means the same in it."""
    return document


def _listed(value: Document, name: str) -> list[Document]:
    """The objects of a list; what is none of both is left for whoever checks the shape."""
    found = value.get(name)
    return [each for each in found if isinstance(each, dict)] if isinstance(found, list) else []


_STEPS: dict[int, Callable[[Document], Document]] = {
    1: _with_lengths_of_time,
    2: _with_charts,
    3: _with_labels,
    4: _with_papers,
    5: _with_dots,
}
OLDEST = min(_STEPS)


def migrated(document: Document, version: int) -> Document:
    """What `folio.json` says of a folio in format `version` (from `OLDEST` on), as the present format says it."""
    for number in range(version, FORMAT):
        document = _STEPS[number](document)
    return document
