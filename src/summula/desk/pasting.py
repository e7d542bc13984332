"""Pasted cells, put into a file that a reader can take."""

from __future__ import annotations

import tempfile
from pathlib import Path

from summula.core.refusal import Refusal

_MOST = 256 * 1024**2


def pasted_file(text: str) -> Path:
    """The cells as a file of tab-separated text, in the folder for passing files."""
    if not text.strip():
        raise Refusal("there are no cells to paste", "copy some in a spreadsheet or a page first")
    if len(text) > _MOST:
        raise Refusal("there is too much to paste", "save it as a file and open that")
    with tempfile.NamedTemporaryFile("w", suffix=".tsv", prefix="pasted-", delete=False, encoding="utf-8") as file:
        file.write(text)
    return Path(file.name)
