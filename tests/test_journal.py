"""The journal's log: every whole record is found again, whatever has happened to the others or to the disk."""

from __future__ import annotations

import contextlib
import errno
import os
import random
import shutil
from pathlib import Path

import pytest
from msgspec.structs import replace

from summula.core.folio import journal as journalling
from summula.core.folio import journallog
from summula.core.folio.basefile import Base
from summula.core.folio.file import save_folio
from summula.core.folio.journal import Journal, Reading
from summula.core.folio.model import Folio, with_table
from summula.core.folio.opened import Opened, entry_of
from summula.core.folio.unsaved import over_limit, put_aside, remove, take_up, unsaved
from summula.core.reading.readers import read_found
from summula.core.tables.table import Table

HARMS = int(os.environ.get("SUMMULA_HARMS", "60"))


@pytest.fixture
def small(tmp_path: Path) -> tuple[Folio, dict[Reading, Table]]:
    (tmp_path / "a.csv").write_text("Route,Takings\nOsk,5\nVaila,7\n")
    table, _ = read_found(tmp_path / "a.csv")
    return with_table(Folio("begun"), entry_of("t1", table, "2025-01-01")), {("t1", 0): table}


def _written(root: Path, small: tuple[Folio, dict[Reading, Table]], records: int, base: Base | None = None) -> Path:
    """The folder of a desk that has ended, with so many records."""
    folio, rows = small
    journal = Journal(root)
    for number in range(records):
        journal.write(replace(folio, name=f"state {number}"), rows, base or Base(), f"Edit {number}")
    journal._lock.close()
    return journal.folder


def test_every_harm_leaves_the_last_whole_record(small: tuple[Folio, dict[Reading, Table]], tmp_path: Path) -> None:
    """Bytes changed, cut out, put in, zeroed, records torn: the newest record that is whole is offered, with its rows."""
    dice = random.Random(34)
    folder = _written(tmp_path / "j", small, 30)
    log = folder / "log"
    whole = log.read_bytes()
    starts = [at for at in range(len(whole)) if whole.startswith(b"SmJ1", at)]
    assert len(starts) == 30
    ends = [*starts[1:], len(whole)]
    for harm in range(HARMS):
        first = dice.choice([0, 29, dice.randrange(30)])
        at = dice.randrange(starts[first], ends[first])
        length = dice.choice([1, 4, 40, ends[first] - at])
        put = dice.choice([b"", bytes(length), dice.randbytes(length), b"SmJ1" + dice.randbytes(9)])
        log.write_bytes(whole[:at] + put + whole[min(at + length, ends[first]) :])
        (left,) = unsaved(tmp_path / "j")
        unhurt = [number for number in range(30) if whole[starts[number] : ends[number]] in log.read_bytes()]
        assert left.name == f"state {unhurt[-1]}" and left.harmed == (unhurt[-1] != 29 or not log.read_bytes().endswith(whole[starts[29] :])), harm
        opened, _ = take_up(left)
        assert opened.tables["t1"].rows == 2 and not opened.problems


def test_what_cannot_be_read_is_told_and_stays(small: tuple[Folio, dict[Reading, Table]], tmp_path: Path) -> None:
    folder = _written(tmp_path / "j", small, 1)
    (folder / "log").write_bytes(bytes(5_000))
    (left,) = unsaved(tmp_path / "j")
    assert str(folder) in left.words and "damaged" in left.words and (folder / "log").exists()
    remove(left)
    assert not unsaved(tmp_path / "j") and not folder.exists()


def _full(descriptor: int, *_: object) -> None:
    """The disk takes a part of the record, and no more."""
    if Path(f"/proc/self/fd/{descriptor}").resolve().name.startswith("log"):
        os.truncate(f"/proc/self/fd/{descriptor}", max(0, os.fstat(descriptor).st_size - 40))
        raise OSError(errno.ENOSPC, "No space left on device")


@pytest.mark.parametrize("cut", [False, True], ids=["cannot be cut off", "cut off"])
def test_a_disk_that_is_full_for_a_moment(cut: bool, small: tuple[Folio, dict[Reading, Table]], tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folio, rows = small
    journal = Journal(tmp_path / "j")
    for number in range(18):
        with monkeypatch.context() as disk, contextlib.ExitStack() as full:
            if number % 5 == 2 or number == 0:
                disk.setattr(journallog.os, "fsync", _full)
                if not cut:
                    disk.setattr(journallog.os, "ftruncate", _full)
                full.enter_context(pytest.raises(OSError))
            journal.write(replace(folio, name=f"state {number}"), rows, Base(), "Edit")
    journal._lock.close()
    (left,) = unsaved(tmp_path / "j")
    assert left.name == "state 16"  # 17 found the disk full
    assert not left.harmed or not cut


def test_rows_are_on_disk_before_the_record_that_names_them(small: tuple[Folio, dict[Reading, Table]], tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    """Killed anywhere between: what is offered has its rows."""
    folio, rows = small
    journal = Journal(tmp_path / "j")
    journal.write(folio, rows, Base(), "Begin")
    (tmp_path / "b.csv").write_text("A,B\nx,1\n")
    more, _ = read_found(tmp_path / "b.csv")
    grown = with_table(folio, entry_of("t2", more, "2025-01-02"))

    def killed(*_: object, **__: object) -> None:
        raise KeyboardInterrupt

    for where in ("save_folio", "sync_folder"):
        with monkeypatch.context() as power, pytest.raises(KeyboardInterrupt):
            power.setattr(journalling, where, killed)
            journal.write(grown, rows | {("t2", 0): more}, Base(), "Read b")
    with monkeypatch.context() as power, pytest.raises(KeyboardInterrupt):
        power.setattr(journal._log, "append", killed)
        journal.write(grown, rows | {("t2", 0): more}, Base(), "Read b")
    journal._lock.close()
    (left,) = unsaved(tmp_path / "j")
    opened, _ = take_up(left)
    assert not opened.problems and [each.id for each in opened.folio.tables] == ["t1"]


def test_the_log_begins_anew_and_keeps_only_rows_in_use(small: tuple[Folio, dict[Reading, Table]], tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    folio, rows = small
    monkeypatch.setattr(journalling, "MAX_SPARE_ROWS", 2_000)
    journal = Journal(tmp_path / "j")
    table = rows["t1", 0]
    for reading in range(8):
        entry = folio.tables[0]
        again = replace(entry, source=replace(entry.source, reading=reading))
        journal.write(with_table(replace(folio, name=f"reading {reading}"), again), {("t1", reading): table}, Base(), "Refresh")
    assert len(list(journal.folder.glob("*.rows"))) < 5
    journal._lock.close()
    (left,) = unsaved(tmp_path / "j")
    assert left.name == "reading 7" and not take_up(left)[0].problems


def test_rows_of_the_saved_folio_outlive_its_file(demo: Opened, tmp_path: Path) -> None:
    """What was saved is replaced or goes: the journal has the file by a second name."""
    path = tmp_path / "f.summula"
    save_folio(path, demo.folio, demo.tables)
    rows = {(source.id, source.reading): demo.tables[source.id] for entry in demo.folio.tables for source in entry.sources()}
    folder = _written(tmp_path / "j", (demo.folio, rows), 2, Base.of(path))
    assert not list(folder.glob("*.rows"))  # the saved folio has them
    save_folio(path, Folio("Somebody else's"), {})
    (left,) = unsaved(tmp_path / "j")
    opened, base = take_up(left)
    assert not opened.problems and opened.tables["t1"].rows == demo.tables["t1"].rows
    assert base.path == str(path) and not base.stands


def test_only_what_is_over_the_limit_goes_the_dismissed_first(small: tuple[Folio, dict[Reading, Table]], tmp_path: Path) -> None:
    for _ in range(4):
        _written(tmp_path / "j", small, 1)
    found = unsaved(tmp_path / "j")
    put_aside(found[1])
    size = sum(each.stat().st_size for each in found[0].folder.iterdir())
    assert over_limit(found) == []
    assert over_limit(found, 3 * size + 100) == [found[1]]
    assert over_limit(found, 1) == [found[1], found[3], found[2]]  # never the newest


def test_a_journal_in_the_making_is_nobodys(tmp_path: Path) -> None:
    (tmp_path / "j/making.20250101T000000-aa").mkdir(parents=True)
    assert unsaved(tmp_path / "j") == [] and (tmp_path / "j/making.20250101T000000-aa").exists()
    shutil.rmtree(tmp_path / "j")
    assert unsaved(tmp_path / "j") == []
