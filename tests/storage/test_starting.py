"""A start that cannot break: migrations and the demo load have everything or nothing, whatever happens to them."""

import json
import os
import random
import signal
import sqlite3

import pytest
from sqlalchemy import Engine, create_engine, event
from sqlalchemy.exc import OperationalError
from typer.testing import CliRunner

from iron_gulp.cli import app
from iron_gulp.formats.build_file import read, write
from iron_gulp.services.judging import summarise
from iron_gulp.services.workshop import Workshop
from iron_gulp.storage import BuildRepository, NewerDatabase, open_database
from iron_gulp.storage.database import migrate
from tests.draws import LONG
from tests.systems import demo

FORMER = ("0001", "0002", "0003")
DEMOS = 4


def without_evidence(name):
    """A demo build as one of former versions: nothing measured was kept with it."""
    return demo(name).model_copy(update={"readings": (), "pulls": ()})


def of_version_1(name):
    """A demo build as a file of the first version of the schema."""
    data = json.loads(write(without_evidence(name)))
    data = {"duties" if key == "targets" else key: value for key, value in data.items()} | {"schema_version": 1}
    return json.dumps(data, indent=2, ensure_ascii=False) + "\n"


def stored_before(path, revision):
    """A database as a former version left it: one build with three revisions, the last two nearly alike."""
    engine = create_engine(f"sqlite:///{path}")
    migrate(engine, revision)
    last = of_version_1("saltern")
    bodies = [of_version_1("curlew"), last.replace('"Saltern"', '"Saltern before"', 1), last]
    with engine.begin() as connection:
        connection.exec_driver_sql(
            "INSERT INTO build VALUES (1, 'Curlew', 0, '2026-01-01 00:00:00', '2026-01-02 00:00:00', 3, ?, 0.9)",
            (json.dumps({"duty": "Hill", "duties": 3, "load": 0.9}),),
        )
        for number, body in enumerate(bodies, 1):
            connection.exec_driver_sql(
                "INSERT INTO revision VALUES (?, 1, ?, NULL, '2026-01-01 00:00:00', 'kept', ?)", (number, number, body)
            )
    engine.dispose()


def bodies(path):
    database = open_database(path)
    kept = BuildRepository(database, summarise)
    with database.engine.connect() as connection:
        numbers = connection.exec_driver_sql("SELECT build_id, number FROM revision ORDER BY build_id, number").all()
        found = [kept.body_at(*each) for each in numbers]
        assert connection.exec_driver_sql("PRAGMA integrity_check").scalar() == "ok"
    database.close()
    return found


def in_a_child(work, kill_at=None):
    """Run `work` in a forked child, killed before its statement `kill_at`; True when it ended by itself."""
    child = os.fork()
    if child == 0:
        try:
            if kill_at is not None:
                seen = iter(range(kill_at))

                def count(*_told):
                    if next(seen, None) is None:
                        os.kill(os.getpid(), signal.SIGKILL)

                event.listen(Engine, "before_cursor_execute", count)
                event.listen(Engine, "commit", count)
            work()
        finally:
            os._exit(0)
    return os.WIFEXITED(os.waitpid(child, 0)[1])


def statements(work):
    seen = []
    hooks = [("before_cursor_execute", lambda *_told: seen.append(1)), ("commit", lambda *_told: seen.append(1))]
    for hook in hooks:
        event.listen(Engine, *hook)
    try:
        work()
    finally:
        for hook in hooks:
            event.remove(Engine, *hook)
    return len(seen)


@pytest.mark.parametrize("revision", FORMER)
def test_builds_of_every_former_revision_come_along(tmp_path, revision):
    stored_before(tmp_path / "a.sqlite3", revision)
    first, before, last = bodies(tmp_path / "a.sqlite3")
    assert (read(first), read(last), read(before).name) == (demo("curlew"), without_evidence("saltern"), "Saltern before")
    with sqlite3.connect(tmp_path / "a.sqlite3") as connection:
        sizes = connection.execute("SELECT base_number, length(body), length(difference) FROM revision").fetchall()
    assert [size[:2] for size in sizes[1:]] == [(1, 0), (1, 0)]
    assert all(0 < size[2] < 2048 for size in sizes[1:])
    workshop = Workshop(tmp_path / "a.sqlite3")
    workshop.rejudging.wait()
    (row,) = workshop.garage.page().rows
    assert row.summary["target"] in {one.name for one in demo("saltern").targets}
    workshop.close()


def test_what_is_no_build_file_is_left_as_it_is(tmp_path):
    stored_before(tmp_path / "a.sqlite3", "0002")
    engine = create_engine(f"sqlite:///{tmp_path / 'a.sqlite3'}")
    with engine.begin() as connection:
        connection.exec_driver_sql("UPDATE revision SET body = 'neither { nor' WHERE number = 1")
    engine.dispose()
    assert bodies(tmp_path / "a.sqlite3")[0] == "neither { nor"


@pytest.mark.parametrize("revision", [None, *FORMER])
def test_a_start_killed_at_a_statement_has_everything_or_nothing(tmp_path, revision):
    def fresh(name):
        path = tmp_path / name
        if revision is not None:
            stored_before(path, revision)
        return path

    whole = fresh("whole")
    length = statements(lambda: open_database(whole).close())
    assert length > 5
    expected = bodies(whole)
    for at in range(length) if LONG else random.Random(3).sample(range(length), 3):
        path = fresh(f"killed at {at}")
        assert not in_a_child(lambda path=path: open_database(path).close(), at)
        assert bodies(path) == expected


def test_a_demo_load_killed_at_a_statement_has_all_builds_or_none(tmp_path):
    def load(path):
        workshop = Workshop(path)
        found = workshop.load_demo()
        workshop.close()
        return found

    length = statements(lambda: load(tmp_path / "whole"))
    for at in range(length) if LONG else random.Random(4).sample(range(length // 2, length), 3):
        path = tmp_path / f"killed at {at}"
        assert not in_a_child(lambda path=path: load(path), at)
        workshop = Workshop(path)
        held = workshop.garage.page().total
        assert held in (0, DEMOS)
        fronts = workshop.designs.kept(workshop.garage.page("curlew").rows[0].id, "as-built") if held else None
        assert (fronts is not None) is (held == DEMOS)  # builds never stand without the front that was searched for them
        assert workshop.load_demo() == DEMOS - held
        workshop.close()


def test_three_starts_at_once_agree(tmp_path):
    path = tmp_path / "new" / "a.sqlite3"
    children = []
    for _ in range(3):
        child = os.fork()
        if child == 0:
            code = 1
            try:
                Workshop(path).garage.load_demo()
                code = 0
            finally:
                os._exit(code)
        children.append(child)
    assert [os.waitpid(child, 0)[1] for child in children] == [0, 0, 0]
    workshop = Workshop(path)
    assert workshop.garage.page().total == DEMOS
    workshop.close()


# From the third on a migration only makes the file smaller.
@pytest.mark.parametrize("revision", [None, *FORMER[:2]])
def test_a_full_disk_leaves_what_was_there(tmp_path, revision):
    path = tmp_path / "a.sqlite3"
    if revision is not None:
        stored_before(path, revision)

    def small(connection, _record):
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
        connection.execute(f"PRAGMA max_page_count={max(pages, 2)}")

    event.listen(Engine, "connect", small)
    try:
        with pytest.raises(OperationalError, match="full"):
            Workshop(path).garage.load_demo()
    finally:
        event.remove(Engine, "connect", small)
    workshop = Workshop(path)
    if revision is None:
        assert workshop.garage.load_demo() == DEMOS
    else:
        assert read(workshop.garage._builds.current(1).body) == without_evidence("saltern")
    workshop.close()


def test_a_newer_database_is_refused_in_words_and_left_alone(tmp_path):
    path = tmp_path / "iron_gulp.sqlite3"
    database = open_database(path)
    with database.engine.begin() as connection:
        connection.exec_driver_sql("UPDATE alembic_version SET version_num = '9999'")
    database.close()
    before = path.read_bytes()
    with pytest.raises(NewerDatabase, match="newer version of Iron Gulp"):
        open_database(path)
    result = CliRunner().invoke(app, ["serve", "--data", str(tmp_path), "--port", "0"])
    assert (result.exit_code, "install that version" in result.stderr) == (2, True)
    assert path.read_bytes() == before
