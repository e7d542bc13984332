"""Telling what a file is takes no longer than reading its beginning, whatever it holds."""

from __future__ import annotations

import subprocess
import sys
from pathlib import Path

import pytest

from summula.core.reading.contents import content_of

_HARD = {
    "comments": b"<!---->" * 40 + b"x,y\n1,2\n",
    "comments and spaces": b"<!-- --> \n" * 6_000 + b"x,y\n1,2\n",
    "open comments": b"<!--" * 16_000,
    "objects": b"{}" * 32_000 + b"\n",
    "objects apart": b"{} " * 20_000 + b"x",
    "newlines": b"\n" * 65_000 + b"x",
    "braces and newlines": b"{" + b"}\n" * 30_000 + b"x",
    "spaces": b"{}" + b" " * 65_000,
    "declarations": b"<?xml" * 13_000,
}


@pytest.mark.parametrize("kind", _HARD)
def test_no_beginning_of_a_file_holds_up(kind: str, tmp_path: Path) -> None:
    """In a child with a few seconds of processor: one that tries every way there is is ended by the system."""
    (tmp_path / "t.csv").write_bytes(_HARD[kind])
    code = "import resource, sys; from pathlib import Path; from summula.core.reading.contents import content_of; resource.setrlimit(resource.RLIMIT_CPU, (3, 3)); print(content_of(Path(sys.argv[1])))"
    done = subprocess.run([sys.executable, "-c", code, str(tmp_path / "t.csv")], capture_output=True, text=True, check=False)
    assert done.returncode == 0 and done.stdout.strip()


@pytest.mark.parametrize(
    ("name", "text", "content"),
    [
        ("a.csv", "<!-- made --><!-- by hand -->\n<table><tr>", "html"), ("a.xls", "<html><body>", "html"),
        ("a.csv", "<?xml version='1.0'?>\n<!DOCTYPE html>", "html"), ("a.csv", "<!-- x -->a,b\n", "text"),
        ("a.txt", '{"a": 1}\n{"a": 2}\n', "json lines"), ("a.txt", '{"a": 1}', "json lines"),
        ("a.json", '{"a": 1}\n{"a": 2}', "json lines"), ("a.json", '{"a": [1]}', "json"), ("a.txt", '[{"a": 1}]', "json"),
    ],
)  # fmt: skip
def test_what_a_text_is(name: str, text: str, content: str, tmp_path: Path) -> None:
    (tmp_path / name).write_text(text)
    assert content_of(tmp_path / name) == content
