"""Backups: the whole garage in one file, looked through before it has its name, kept in number; what is refused."""

import hashlib
import json
import os
import random
import shutil
import sqlite3
import threading
import zipfile

import pytest
from typer.testing import CliRunner

from iron_gulp.cli import app
from iron_gulp.services.workshop import Workshop
from iron_gulp.storage import BuildRepository, open_database
from iron_gulp.storage import backup as backups
from iron_gulp.storage.archive import DATABASE, MANIFEST, manifest_of, verify
from iron_gulp.storage.attachments import Attachments, folder_beside
from iron_gulp.storage.backup import KEPT, NoPlace, backups_of, keep_backup, write_backup
from iron_gulp.storage.health import Blank, Damaged, Foreign, NewerDatabase, Unfit, read_only
from iron_gulp.storage.hold import InUse, alone
from iron_gulp.storage.restoring import Itself, restore
from tests.storage.test_starting import stored_before

run = CliRunner()
AWKWARD = ["plain", "with a # in it", "really?", "50%41 off", 'it\'s "quoted"', "Größe Übermaß", "a&b=c;d", "file:x"]


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


def furnish(path, files=3, count=3):
    """A garage at rest with builds that name kept files; gives the files' bodies by where they lie."""
    database, builds = fill(path, count)
    store = Attachments(folder_beside(path))
    kept = [store.keep(f"kPa;L/h\n300;{number}\n".encode(), f"flow {number}.csv") for number in range(files)]
    named = [{"sha256": one.sha256, "name": one.name} for one in kept]
    builds.create(json.dumps({"name": "with files", "files": named}), "")
    database.close()
    return held(path)


def held(path):
    """Everything a garage holds: rows of its builds and revisions, and every kept file byte for byte."""
    with sqlite3.connect(path) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)
        rows = connection.execute("SELECT build_id, number, body, note FROM revision ORDER BY id").fetchall()
    files = folder_beside(path)
    return rows, {str(one.relative_to(files)): one.read_bytes() for one in files.rglob("*") if one.is_file()}


def test_a_backup_is_whole_while_others_write(path, tmp_path):
    database, builds = fill(path)
    stop = threading.Event()

    def write():
        while not stop.is_set():
            builds.create("more", "")

    writer = threading.Thread(target=write)
    writer.start()
    try:
        for number in range(4):
            found = write_backup(path, tmp_path / f"copy{number}")
            assert found == verify(tmp_path / f"copy{number}", tmp_path / "look")
    finally:
        stop.set()
        writer.join()
    database.close()
    assert not list(tmp_path.glob(".*"))
    assert sorted(one.name for one in tmp_path.glob("copy*")) == [f"copy{number}" for number in range(4)]


def test_one_file_holds_everything_with_the_hash_of_each(path, tmp_path):
    files = furnish(path)[1]
    write_backup(path, tmp_path / "all.zip")
    with zipfile.ZipFile(tmp_path / "all.zip") as archive:
        told = json.loads(archive.read(MANIFEST))
        assert set(archive.namelist()) == {MANIFEST, DATABASE, *(f"files/{name}" for name in files)}
        assert {name: archive.read(f"files/{name}") for name in files} == files
    assert (told["format"], told["schema_revision"], told["program"]) == ("iron-gulp-backup", "0005", "0.1.0")
    assert set(told["entries"]) == {DATABASE, *(f"files/{name}" for name in files)}
    assert manifest_of(tmp_path / "all.zip").files == 3


@pytest.mark.parametrize("name", AWKWARD)
def test_a_round_trip_is_the_same_byte_for_byte_whatever_folders_are_called(tmp_path, name):
    source, target = (tmp_path / f"{side} {name}" / "iron_gulp.sqlite3" for side in ("from", "to"))
    whole = furnish(source)
    copy = tmp_path / f"copy {name}.zip"
    assert run.invoke(app, ["backup", str(copy), "--data", str(source.parent)]).exit_code == 0
    furnish(target, files=1, count=1)
    told = run.invoke(app, ["restore", str(copy), "--data", str(target.parent)])
    assert told.exit_code == 0, told.stderr
    assert held(target) == whole == held(source)
    assert len(names(target)) == 4


def test_backups_are_kept_by_age_and_one_a_month(path, monkeypatch):
    database, builds = fill(path)
    months = ["20260105", "20260131", "20260210", *(f"202603{day:02d}" for day in range(1, 9))]
    for number, day in enumerate(months):
        monkeypatch.setattr(backups, "stamp", lambda day=day: f"{day}-120000-000000")
        builds.create(f"later{number}", "")
        last = keep_backup(path, "by-hand")
    keep_backup(path, "before-migration")
    left = sorted(one.name.split("-")[2] for one in last.parent.glob("by-hand-*"))
    assert left == ["20260131", "20260210", *(f"202603{day:02d}" for day in range(9 - KEPT, 9))]
    assert len(list(last.parent.glob("before-migration-*"))) == 1
    database.close()


def test_backups_of_earlier_versions_count_among_those_kept(path):
    furnish(path)
    folder = path.parent / "backups"
    folder.mkdir()
    for day in range(1, 8):
        shutil.copy(path, folder / f"by-hand-202501{day:02d}-120000-000000.sqlite3")
    keep_backup(path, "by-hand")
    assert len(list(folder.glob("by-hand-202501*"))) == KEPT - 1


def test_a_migration_is_preceded_by_a_backup(path):
    stored_before(path, "0002")
    open_database(path).close()
    (copy,) = (path.parent / "backups").glob("before-migration-*")
    assert manifest_of(copy).schema_revision == "0002"
    open_database(path).close()
    assert len(list((path.parent / "backups").iterdir())) == 1


def test_a_damaged_database_is_refused_and_the_last_whole_backup_offered(path):
    workshop = Workshop(path)
    workshop.garage.load_demo()
    good = workshop.backup()
    workshop.close()
    torn = path.read_bytes()
    path.write_bytes(torn[:8192] + b"\xff" * (len(torn) - 8192))
    with pytest.raises(Damaged):
        open_database(path)
    (path.parent / "backups" / "by-hand-99999999.sqlite3").write_bytes(b"no database")
    told = run.invoke(app, ["export", "1", str(path.parent / "x.json"), "--data", str(path.parent)])
    assert told.exit_code == 2
    assert f"iron-gulp restore {good}" in told.stderr
    back = run.invoke(app, ["restore", str(good), "--data", str(path.parent)])
    assert back.exit_code == 0, back.stderr
    workshop = Workshop(path)
    assert workshop.garage.page().total == 4
    workshop.close()
    (aside,) = path.parent.glob("garage-before-*/iron_gulp.sqlite3")
    assert aside.read_bytes() == torn[:8192] + b"\xff" * (len(torn) - 8192)


def test_backup_and_restore_at_the_command_line(path, tmp_path):
    nothing = run.invoke(app, ["backup", "--data", str(path.parent)])
    assert (nothing.exit_code, "no database yet" in nothing.stderr) == (2, True)
    fill(path)[0].close()
    copy = tmp_path / "kept.zip"
    assert run.invoke(app, ["backup", str(copy), "--data", str(path.parent)]).exit_code == 0
    assert run.invoke(app, ["backup", str(copy), "--data", str(path.parent)]).exit_code == 0  # in place of an earlier one
    fill(path, 1)[0].close()
    assert run.invoke(app, ["restore", str(copy), "--data", str(path.parent)]).exit_code == 0
    assert names(path) == ["b0", "b1", "b2"]


def refused(words, call, *given):
    with pytest.raises((Unfit, NoPlace, Itself), match=words):
        call(*given)


def test_a_backup_takes_nothings_place(path, tmp_path):
    furnish(path)
    before = held(path)
    (tmp_path / "letter.txt").write_text("dear client")
    os.symlink(path, tmp_path / "link")
    os.link(path, tmp_path / "hard link")
    for name in ("iron_gulp.sqlite3", "link", "hard link"):
        refused("the garage itself", write_backup, path, tmp_path / name)
    refused("the garage itself", write_backup, path, tmp_path / "iron_gulp.sqlite3-wal")
    refused("no backup of Iron Gulp; it was left", write_backup, path, tmp_path / "letter.txt")
    refused("is a folder", write_backup, path, tmp_path)
    refused(str(tmp_path / "no" / "such"), write_backup, path, tmp_path / "no" / "such" / "copy.zip")
    assert (tmp_path / "letter.txt").read_text() == "dear client"
    assert held(path) == before


def changed(copy, to, change):
    """A backup with its entries changed: name → body, None to leave one out."""
    with zipfile.ZipFile(copy) as old, zipfile.ZipFile(to, "w") as new:
        bodies = {one.filename: old.read(one) for one in old.infolist()}
        for name, body in {**bodies, **change(bodies)}.items():
            if body is not None:
                new.writestr(name, body)
    return to


def relisted(bodies, name, body):
    """An entry added, and the manifest telling of it."""
    told = json.loads(bodies[MANIFEST])
    told["entries"][name] = {"sha256": hashlib.sha256(body).hexdigest(), "bytes": len(body)}
    return {name: body, MANIFEST: json.dumps(told)}


STRANGE = [
    "../out.txt",
    "/tmp/out.txt",
    "files/../../out.txt",
    "iron_gulp.log",
    "files/ab/x.jpg",
    "C:\\out.txt",
    "files/aa/" + "b" * 64 + ".jpg",
]


def test_what_is_no_whole_backup_is_refused_in_words_and_changes_nothing(path, tmp_path):
    furnish(path)
    before = held(path)
    good, bad = tmp_path / "good.zip", tmp_path / "bad"
    write_backup(path, good)
    body = good.read_bytes()
    refused("is the garage itself", restore, path, path)
    os.link(path, tmp_path / "hard")
    refused("is the garage itself", restore, path, tmp_path / "hard")
    refused("no such file", restore, path, tmp_path / "none")
    refused("is no file", restore, path, tmp_path)
    for content, words in (
        (b"", "is empty"),
        (b"not a backup at all" * 400, "no backup of Iron Gulp"),
        (body[:-100], "damaged or cut off"),
        (body[: len(body) // 2], "damaged or cut off"),
        (body[:3000] + b"\xff" * 50 + body[3050:], "damaged"),
    ):
        bad.write_bytes(content)
        refused(words, restore, path, bad)
    with zipfile.ZipFile(bad, "w") as archive:
        archive.writestr("a.txt", "a")
    refused("no backup of Iron Gulp", restore, path, bad)
    for name in STRANGE:
        refused("has no place in a garage", restore, path, changed(good, bad, lambda old, n=name: relisted(old, n, b"x")))
    newer = {"version": 2}
    refused(
        "newer version",
        restore,
        path,
        changed(good, bad, lambda old: {MANIFEST: json.dumps(json.loads(old[MANIFEST]) | newer)}),
    )
    refused("damaged", restore, path, changed(good, bad, lambda old: {DATABASE: None}))
    refused("damaged", restore, path, changed(good, bad, lambda old: {MANIFEST: "{"}))
    refused("bad: its end", restore, path, changed(good, bad, lambda old: relisted(old, DATABASE, old[DATABASE][:-4096])))
    refused("empty", restore, path, changed(good, bad, lambda old: relisted(old, DATABASE, b"")))
    assert held(path) == before
    assert not (tmp_path.parent / "out.txt").exists()
    assert not list(tmp_path.glob("restore-*"))


def test_copies_of_the_database_are_looked_at_as_hard(path, tmp_path):
    fill(path)[0].close()
    whole, bad = path.read_bytes(), tmp_path / "bad.sqlite3"
    bad.write_bytes(whole[:-100])
    refused("its end is missing", restore, path, bad)
    bad.write_bytes(whole[:-4096])
    with pytest.raises(Damaged):
        restore(path, bad)
    for statements, error in (
        (["CREATE TABLE account (id)"], Foreign),
        (
            [
                "CREATE TABLE alembic_version (version_num)",
                "INSERT INTO alembic_version VALUES ('0003')",
                "CREATE TABLE build (id)",
            ],
            Foreign,
        ),
        ([], Blank),
    ):
        bad.unlink(missing_ok=True)
        with sqlite3.connect(bad) as connection:
            connection.execute("PRAGMA user_version = 3")
            for one in statements:
                connection.execute(one)
        with pytest.raises(error):
            restore(path, bad)
    shutil.copy(path, bad)
    with sqlite3.connect(bad) as connection:
        connection.execute("UPDATE alembic_version SET version_num = '9999'")
    with pytest.raises(NewerDatabase):
        restore(path, bad)
    assert path.read_bytes() == whole


def test_a_copy_of_an_earlier_version_comes_back_and_says_what_it_lacks(path, tmp_path):
    rows, files = furnish(path, files=4)
    old, elsewhere = tmp_path / "old", tmp_path / "elsewhere"
    for folder in (old, elsewhere):
        folder.mkdir()
        shutil.copy(path, folder / "copy.sqlite3")
    for name in list(files)[:2]:
        (old / "files" / name).parent.mkdir(parents=True, exist_ok=True)
        (old / "files" / name).write_bytes(files[name])
    (old / "files" / next(iter(files))).write_bytes(b"rotten")
    empty = tmp_path / "new" / "iron_gulp.sqlite3"
    told = run.invoke(app, ["restore", str(old / "copy.sqlite3"), "--data", str(empty.parent)])
    assert (told.exit_code, "3 kept files are not in this backup" in told.stderr) == (0, True)
    assert "flow 3.csv" in told.stderr or "flow 2.csv" in told.stderr
    assert held(empty) == (rows, {list(files)[1]: files[list(files)[1]]})
    # What the garage itself still has of them is not lost.
    again = run.invoke(app, ["restore", str(elsewhere / "copy.sqlite3"), "--data", str(path.parent)])
    assert (again.exit_code, "are not in this backup" in again.stderr) == (0, False)
    assert held(path) == (rows, files)


def test_the_log_of_writes_of_a_crashed_garage_is_kept(path, tmp_path):
    fill(path)[0].close()
    write_backup(path, tmp_path / "early.zip")
    crashed = os.fork()
    if crashed == 0:
        _, builds = fill(path, 0)
        for number in range(10):
            builds.create(f"crash{number}", "")
        os._exit(0)
    os.waitpid(crashed, 0)
    assert path.with_name(path.name + "-wal").stat().st_size > 0
    done = restore(path, tmp_path / "early.zip")
    assert names(path) == ["b0", "b1", "b2"]
    assert names(done.aside / path.name) == ["b0", "b1", "b2", *(f"crash{number}" for number in range(10))]
    assert restore(path, done.aside / path.name).missing == ()
    assert len(names(path)) == 13


def test_a_folder_is_for_one_server(tmp_path, path):
    with alone(tmp_path):
        with pytest.raises(InUse, match="in use by another"), alone(tmp_path):
            pass
        told = run.invoke(app, ["restore", str(path), "--data", str(tmp_path)])
        assert (told.exit_code, "in use" in told.stderr) == (2, True)
    with alone(tmp_path):
        pass


def test_a_foreign_database_in_the_data_folder_is_left_alone(path):
    with sqlite3.connect(path) as connection:
        connection.execute("CREATE TABLE account (id, owner)")
    before = path.read_bytes()
    for command in (["serve"], ["import", "x.json"], ["backup"]):
        told = run.invoke(app, [*command, "--data", str(path.parent)])
        assert told.exit_code == 2
    assert "of something else" in told.stderr
    assert path.read_bytes() == before


def test_any_byte_changed_is_noticed(path, tmp_path):
    furnish(path)
    write_backup(path, tmp_path / "good.zip")
    body, pick = bytearray((tmp_path / "good.zip").read_bytes()), random.Random(5)
    with zipfile.ZipFile(tmp_path / "good.zip") as archive:
        spans = [(one.header_offset + 60 + len(one.filename), one.compress_size) for one in archive.infolist()]
    for start, size in spans:
        at = start + pick.randrange(max(size - 60, 1))
        torn = bytearray(body)
        torn[at] ^= 0x40
        (tmp_path / "torn.zip").write_bytes(torn)
        with pytest.raises(Unfit):
            verify(tmp_path / "torn.zip", tmp_path / "look")


def test_backups_are_listed_newest_first(path):
    furnish(path)
    first, second = keep_backup(path, "by-hand"), keep_backup(path, "by-hand")
    os.utime(first, (1, 1))
    assert backups_of(path) == [second, first]


def test_what_fails_within_a_connection_that_only_reads_is_told_as_it_is(path):
    fill(path)[0].close()
    path.with_name(path.name + "-journal").write_bytes(b"")
    with pytest.raises(sqlite3.OperationalError, match="no such table"), read_only(path) as connection:
        connection.execute("SELECT * FROM builds_of_nobody")
