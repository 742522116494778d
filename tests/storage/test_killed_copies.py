"""Backup and restore killed at every line, on a full disk, with a folder taken away: the old garage or the new, said."""

import errno
import os
import random
import shutil
import signal
import sqlite3
import sys
import time
from functools import partial
from pathlib import Path

import pytest
from typer.testing import CliRunner

from iron_gulp import storage
from iron_gulp.cli import app
from iron_gulp.storage import open_database, restoring
from iron_gulp.storage.archive import verify
from iron_gulp.storage.attachments import folder_beside
from iron_gulp.storage.backup import keep_backup, write_backup
from iron_gulp.storage.restoring import INCOMING, JOURNAL, Displaced, UnderWay, must_stand, restore, settle
from iron_gulp.storage.whole import sweep
from tests.draws import LONG
from tests.storage.test_backup import fill, furnish, held

LINES_OF = {
    str(Path(storage.__file__).parent / f"{one}.py") for one in ("archive", "backup", "health", "restoring", "whole")
}
run = CliRunner()


def killed_at(work, line):
    """Run `work` in a child that is killed before the `line`th line of backup and restore; True when it ended before."""
    child = os.fork()
    if child == 0:
        left = iter(range(line))

        def each(_frame, event, _told):
            if event == "line" and next(left, None) is None:
                os.kill(os.getpid(), signal.SIGKILL)
            return each

        sys.settrace(lambda frame, _event, _told: each if frame.f_code.co_filename in LINES_OF else None)
        try:
            work()
        finally:
            os._exit(0)
    return os.WIFEXITED(os.waitpid(child, 0)[1])


def points(work):
    """How many lines `work` runs through."""
    seen = [0]

    def each(_frame, event, _told):
        seen[0] += event == "line"
        return each

    sys.settrace(lambda frame, _event, _told: each if frame.f_code.co_filename in LINES_OF else None)
    try:
        work()
    finally:
        sys.settrace(None)
    return seen[0]


def walked(count):
    """Every line in the long run; each twentieth, from another one each time, in the quick one."""
    assert count > 200
    return range(count) if LONG else range(random.Random(count).randrange(20), count, 20)


def two_garages(folder):
    """A garage as a crash left it and a backup of another one; what each of them holds."""
    (folder / "new").mkdir(parents=True)
    (folder / "old").mkdir()
    new = furnish(folder / "new" / "iron_gulp.sqlite3", files=2, count=1)
    write_backup(folder / "new" / "iron_gulp.sqlite3", folder / "copy.zip")
    path = folder / "old" / "iron_gulp.sqlite3"
    rows, files = furnish(path, files=2, count=3)
    child = os.fork()
    if child == 0:
        fill(path, 4)
        os._exit(0)  # what it wrote stands in the log of writes alone
    os.waitpid(child, 0)
    assert path.with_name(path.name + "-wal").stat().st_size
    shutil.copytree(path.parent, folder / "looked at")
    old = held(folder / "looked at" / path.name)
    assert (len(old[0]), old[1]) == (len(rows) + 4, files)
    return old, new


def test_a_restore_killed_at_any_line_leaves_the_old_garage_or_the_new(tmp_path):
    old, new = two_garages(tmp_path / "first")
    shutil.copytree(tmp_path / "first", tmp_path / "whole")
    whole, copy = tmp_path / "whole" / "old" / "iron_gulp.sqlite3", tmp_path / "first" / "copy.zip"
    seen = set()
    for line in walked(points(lambda: restore(whole, copy))):
        folder = tmp_path / f"killed at {line}"
        shutil.copytree(tmp_path / "first" / "old", folder)
        path = folder / "iron_gulp.sqlite3"
        assert not killed_at(partial(restore, path, copy), line)
        under_way = (folder / JOURNAL).exists() or (folder / INCOMING).exists()
        try:
            assert must_stand(path) is not None  # never empty without a word
        except UnderWay:
            assert under_way
        said = settle(path)
        assert bool(said) is under_way
        found = held(path)
        assert found in (old, new), line
        seen.add(found == new)
        if found == new:
            (aside,) = folder.glob("garage-before-*")
            assert held(aside / "iron_gulp.sqlite3") == old
        sweep(folder)
        kept = {"iron_gulp.sqlite3", "files", *(one.name for one in folder.glob("garage-before-*"))}
        assert {one.name.removesuffix("-wal").removesuffix("-shm") for one in folder.iterdir()} == kept
        shutil.rmtree(folder)
    assert seen == {False, True}


def test_a_backup_killed_at_any_line_is_whole_or_not_there(tmp_path):
    path, copy = tmp_path / "iron_gulp.sqlite3", tmp_path / "kept" / "copy.zip"
    copy.parent.mkdir()
    old = furnish(path, files=2)
    for line in walked(points(lambda: write_backup(path, tmp_path / "whole.zip"))):
        assert not killed_at(lambda: write_backup(path, copy), line)
        assert held(path) == old
        if copy.exists():
            verify(copy, tmp_path / "look")
            copy.unlink()
        sweep(copy.parent)
        assert not list(copy.parent.iterdir()), line


def full(*_given, **_told):
    raise OSError(errno.ENOSPC, "No space left on device")


@pytest.mark.parametrize("where", ["os.fsync", "pathlib.Path.mkdir", "zipfile.ZipFile.open", "pathlib.Path.replace"])
def test_a_full_disk_leaves_the_garage_and_the_earlier_backup(tmp_path, monkeypatch, where):
    two_garages(tmp_path)
    path, copy = tmp_path / "old" / "iron_gulp.sqlite3", tmp_path / "copy.zip"
    before, backup = held(path), copy.read_bytes()
    with monkeypatch.context() as patched:
        patched.setattr(where, full)
        for command in (["restore", str(copy)], ["backup", str(copy)]):
            if command[0] == "backup" and where == "pathlib.Path.mkdir":
                continue  # makes no folder
            told = run.invoke(app, [*command, "--data", str(path.parent)])
            assert (told.exit_code, "No space left" in told.stderr) == (2, True), told.stderr
    assert held(path) == before
    assert copy.read_bytes() == backup
    assert not [one for one in tmp_path.rglob("*") if one.name == INCOMING or one.suffix == ".part"]
    assert settle(path) == []


def test_renames_that_fail_are_done_at_the_next_start(tmp_path, monkeypatch):
    old, new = two_garages(tmp_path)
    path, copy = tmp_path / "old" / "iron_gulp.sqlite3", tmp_path / "copy.zip"
    for call in range(4):
        with monkeypatch.context() as patched:
            turns = iter(range(call))

            def few(one, to, turns=turns, rename=Path.rename):
                return rename(one, to) if next(turns, None) is not None else full()

            patched.setattr(Path, "rename", few)
            with pytest.raises(UnderWay, match="the next start does it"):
                restore(path, copy)
        assert len(settle(path)) == 1
        assert held(path) == new
        (aside,) = path.parent.glob("garage-before-*/iron_gulp.sqlite3")
        assert held(aside) == old
        restore(path, aside)
        for one in path.parent.glob("garage-before-*"):
            shutil.rmtree(one)
    assert restoring.settle(path) == []


def test_a_start_without_the_garage_that_stood_there_says_so_and_how_it_comes_back(tmp_path):
    path = tmp_path / "data" / "iron_gulp.sqlite3"
    path.parent.mkdir()
    old = furnish(path)
    good = keep_backup(path, "by-hand")
    for how in ("removed", "emptied", "moved aside", "only its files are left"):
        path.unlink()
        if how == "emptied":
            path.touch()
        if how == "only its files are left":
            shutil.move(path.parent / "backups", tmp_path / "backups")
        if how == "moved aside":
            shutil.copy(good, tmp_path / "good.zip")
            (path.parent / "garage-before-20260101-000000-000000").mkdir()
            shutil.copytree(folder_beside(path), path.parent / "garage-before-20260101-000000-000000" / "files")
        for command in (["serve"], ["import", str(good)], ["demo"]):
            if command[0] == "import":
                continue
            told = run.invoke(app, [*command, "--data", str(path.parent), "--port", "0"])
            assert told.exit_code == 2
            assert "though one stood there" in told.stderr
        if how == "only its files are left":
            assert "no whole backup of it" in told.stderr
            shutil.move(tmp_path / "backups", path.parent / "backups")
        else:
            assert f"iron-gulp restore {good}" in told.stderr
        path.unlink(missing_ok=True)
        assert run.invoke(app, ["restore", str(good), "--data", str(path.parent)]).exit_code == 0
        assert held(path) == old
        for one in path.parent.glob("garage-before-*"):
            shutil.rmtree(one)
    shutil.move(path, path.with_name("iron_gulp.sqlite3.before-20250101-000000-000000"))
    with pytest.raises(Displaced):
        open_database(path)


def test_an_unfinished_restore_is_ended_and_told_by_whoever_comes_next(tmp_path):
    old, new = two_garages(tmp_path)
    path, copy = tmp_path / "old" / "iron_gulp.sqlite3", tmp_path / "copy.zip"
    ends = points(lambda: restore(path, copy))
    (aside,) = path.parent.glob("garage-before-*/iron_gulp.sqlite3")
    restore(path, aside)
    for line in range(ends - 12, 0, -3):
        if not killed_at(lambda: restore(path, copy), line) and (path.parent / JOURNAL).exists():
            break
    told = run.invoke(app, ["export", "1", str(tmp_path / "out.json"), "--data", str(path.parent)])
    assert "A restore was broken off and has been finished" in told.stderr
    assert held(path) == new != old


def test_files_copied_in_the_middle_of_a_write_are_a_whole_garage(tmp_path):
    """What a power cut leaves: the process stopped, its files as they are, the last of the log torn at any byte."""
    path, pick = tmp_path / "iron_gulp.sqlite3", random.Random(7)
    open_database(path).close()
    for turn in range(25 if LONG else 4):
        child = os.fork()
        if child == 0:
            builds, number = fill(path, 0)[1], 0
            while True:
                builds.create(f"turn{turn} {number}" * 40, "")
                number += 1
        time.sleep(0.05 + 0.1 * pick.random())
        os.kill(child, signal.SIGSTOP)
        cut = tmp_path / f"cut {turn}"
        cut.mkdir()
        for rest in ("", "-wal"):
            part = path.with_name(path.name + rest)
            if part.exists():
                shutil.copy(part, cut / part.name)
        wal = cut / "iron_gulp.sqlite3-wal"
        if wal.exists() and turn % 2:
            os.truncate(wal, int(wal.stat().st_size * (0.5 + 0.5 * pick.random())))
        os.kill(child, signal.SIGKILL)
        os.waitpid(child, 0)
        open_database(cut / path.name).close()
        with sqlite3.connect(cut / path.name) as connection:
            assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
            builds = connection.execute("SELECT count(*) FROM build").fetchone()
            assert connection.execute("SELECT count(DISTINCT build_id) FROM revision").fetchone() == builds
