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


_STEPS: dict[int, Callable[[Document], Document]] = {1: _with_lengths_of_time}
OLDEST = min(_STEPS)


def migrated(document: Document, version: int) -> Document:
    """What `folio.json` says of a folio in format `version` (from `OLDEST` on), as the present format says it."""
    for number in range(version, FORMAT):
        document = _STEPS[number](document)
    return document
