"""Pasted cells, put into a file that a reader can take."""

from __future__ import annotations

import tempfile
from pathlib import Path

from summula.core.refusal import Refusal

_MOST = 256 * 1024**2


def pasted_file(text: str) -> Path:
    """The cells as a file of tab-separated text, in the folder for passing files."""
    if not text.strip():
        raise Refusal("the clipboard holds no cells", "copy cells in a spreadsheet or web page first")
    if len(text) > _MOST:
        raise Refusal("the clipboard holds too much", "save it as a file and open the file")
    with tempfile.NamedTemporaryFile("w", suffix=".tsv", prefix="pasted-", delete=False, encoding="utf-8") as file:
        file.write(text)
    return Path(file.name)
