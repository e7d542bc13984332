"""What is read is never written over, by whatever name it is called."""

from __future__ import annotations

import os
from pathlib import Path

import pytest

from summula.cli import main


@pytest.mark.parametrize("name", ["a.csv", "link.csv", "hard.csv", "../here/a.csv"])
def test_an_answer_never_replaces_its_source(name: str, tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    folder = tmp_path / "here"
    folder.mkdir()
    source = folder / "a.csv"
    source.write_text("Route,Takings\nOsk,1\n")
    (folder / "link.csv").symlink_to("a.csv")
    os.link(source, folder / "hard.csv")
    assert main(["ask", str(source), "show rows by Route", "--to", str(folder / name)]) == 1
    assert "is the file that the figures come from" in capsys.readouterr().err
    assert source.read_text() == "Route,Takings\nOsk,1\n"
    assert main(["ask", str(source), "show rows by Route", "--to", str(folder / "b.csv")]) == 0


def test_a_page_never_replaces_its_folio(tmp_path: Path, capsys: pytest.CaptureFixture[str]) -> None:
    assert main(["demo", "--folio", str(tmp_path / "f.summula")]) == 0
    (tmp_path / "f.summula").rename(tmp_path / "f.svg")
    before = (tmp_path / "f.svg").read_bytes()
    assert main(["render", str(tmp_path / "f.svg"), "--to", str(tmp_path / "f.svg")]) == 1
    assert "come from" in capsys.readouterr().err and (tmp_path / "f.svg").read_bytes() == before
