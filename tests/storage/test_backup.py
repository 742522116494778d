"""Copies: whole, checked, kept in number; put back with what stood there moved aside; one server a folder."""

import sqlite3
import threading

import pytest
from typer.testing import CliRunner

from iron_gulp.cli import app
from iron_gulp.services.workshop import Workshop
from iron_gulp.storage import BuildRepository, open_database
from iron_gulp.storage.backup import KEPT, Damaged, InUse, alone, check, keep_copy, latest_copy, put_back, write_copy
from tests.storage.test_starting import stored_before

run = CliRunner()


@pytest.fixture
def path(tmp_path):
    return tmp_path / "iron_gulp.sqlite3"


def fill(path, count=3):
    database = open_database(path)
    builds = BuildRepository(database, lambda body: (body, {}, None))
    for number in range(count):
        builds.create(f"b{number}", "")
    return database, builds


def names(path):
    with sqlite3.connect(path) as connection:
        return [name for (name,) in connection.execute("SELECT name FROM build ORDER BY id")]


def test_a_copy_is_whole_while_others_write(path, tmp_path):
    database, builds = fill(path)
    stop = threading.Event()

    def write():
        while not stop.is_set():
            builds.create("more", "")

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for number in range(5):
            copy = tmp_path / f"copy{number}"
            write_copy(path, copy)
            check(copy)
            assert names(copy)[:3] == ["b0", "b1", "b2"]
    finally:
        stop.set()
        writer.join()
    assert not list(tmp_path.glob("*.part"))
    database.close()


def test_copies_are_kept_in_number(path):
    database, builds = fill(path)
    for number in range(KEPT + 3):
        builds.create(f"later{number}", "")
        last = keep_copy(path, "by-hand")
    keep_copy(path, "before-migration")
    assert len(list(last.parent.glob("by-hand-*"))) == KEPT
    assert names(last)[-1] == f"later{KEPT + 2}"
    database.close()


def test_a_migration_is_preceded_by_a_copy(path):
    stored_before(path, "0002")
    open_database(path).close()
    (copy,) = (path.parent / "backups").glob("before-migration-*")
    with sqlite3.connect(copy) as connection:
        assert connection.execute("SELECT version_num FROM alembic_version").fetchone() == ("0002",)
    open_database(path).close()
    assert len(list((path.parent / "backups").iterdir())) == 1


def test_a_damaged_database_is_refused_and_the_last_whole_copy_offered(path):
    workshop = Workshop(path)
    workshop.garage.load_demo()
    good = workshop.backup()
    workshop.close()
    torn = path.read_bytes()
    path.write_bytes(torn[:8192] + b"\xff" * (len(torn) - 8192))
    with pytest.raises(Damaged):
        open_database(path)
    (path.parent / "backups" / "by-hand-99999999.sqlite3").write_bytes(b"no database")
    assert latest_copy(path) == good
    told = run.invoke(app, ["export", "1", str(path.parent / "x.json"), "--data", str(path.parent)])
    assert told.exit_code == 2
    assert f"iron-gulp restore {good}" in told.stderr
    back = run.invoke(app, ["restore", str(good), "--data", str(path.parent)])
    assert back.exit_code == 0, back.stderr
    workshop = Workshop(path)
    assert workshop.garage.page().total == 4
    workshop.close()
    (aside,) = path.parent.glob("iron_gulp.sqlite3.before-*")
    assert aside.read_bytes() == torn[:8192] + b"\xff" * (len(torn) - 8192)


def test_backup_and_restore_at_the_command_line(path, tmp_path):
    nothing = run.invoke(app, ["backup", "--data", str(path.parent)])
    assert (nothing.exit_code, "no database yet" in nothing.stderr) == (2, True)
    fill(path)[0].close()
    copy = tmp_path / "kept.sqlite3"
    assert run.invoke(app, ["backup", str(copy), "--data", str(path.parent)]).exit_code == 0
    fill(path, 1)[0].close()
    assert run.invoke(app, ["restore", str(copy), "--data", str(path.parent)]).exit_code == 0
    assert names(path) == ["b0", "b1", "b2"]
    bad = tmp_path / "bad"
    bad.write_text("not a database at all, but long enough to be looked at as one" * 40)
    told = run.invoke(app, ["restore", str(bad), "--data", str(path.parent)])
    assert (told.exit_code, "nothing was restored" in told.stderr) == (2, True)
    assert names(path) == ["b0", "b1", "b2"]
    into_nowhere = run.invoke(app, ["backup", str(tmp_path / "no" / "such" / "folder"), "--data", str(path.parent)])
    assert (into_nowhere.exit_code, "no backup was written" in into_nowhere.stderr) == (2, True)


def test_a_folder_is_for_one_server(tmp_path, path):
    with alone(tmp_path):
        with pytest.raises(InUse, match="in use by another"), alone(tmp_path):
            pass
        told = run.invoke(app, ["restore", str(path), "--data", str(tmp_path)])
        assert (told.exit_code, "in use" in told.stderr) == (2, True)
    with alone(tmp_path):
        pass


def test_nothing_is_moved_for_a_copy_that_is_not_whole(path, tmp_path):
    fill(path)[0].close()
    with pytest.raises(Damaged):
        put_back(path, tmp_path / "none")
    assert names(path) == ["b0", "b1", "b2"]
