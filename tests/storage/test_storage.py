"""Storage: revisions, undo, restart, killing, two editors, migrations."""

import os
import random
import signal
import sqlite3
import subprocess
import sys
import time
from concurrent.futures import ThreadPoolExecutor

import pytest
from alembic.autogenerate import compare_metadata
from alembic.migration import MigrationContext
from zstandard import ZstdError

from iron_gulp.formats.build_file import write
from iron_gulp.storage import BuildRepository, Conflict, NotFound, open_database
from iron_gulp.storage.differences import told, whole
from iron_gulp.storage.health import check
from iron_gulp.storage.tables import Base
from tests.draws import LONG
from tests.systems import demo


def summarise(body):
    return body.split(":")[0], {"words": len(body)}, float(len(body))


@pytest.fixture
def path(tmp_path):
    return tmp_path / "deep" / "garage.sqlite3"


@pytest.fixture
def builds(path):
    return BuildRepository(open_database(path), summarise)


def test_every_save_keeps_the_former_state(builds):
    one = builds.create("a:1", "new")
    assert builds.save(one, 1, "a:2", "second") == 2
    assert builds.current(one).body == "a:2"
    assert builds.body_at(one, 1) == "a:1"
    assert [(r.number, r.parent, r.current) for r in builds.revisions(one)[0]] == [(2, 1, True), (1, None, False)]


def test_undo_redo_and_a_branch_keep_everything(builds):
    one = builds.create("a:1", "new")
    builds.save(one, 1, "a:2", "")
    assert builds.undo(one)
    assert not builds.undo(one)
    stored = builds.current(one)
    assert (stored.body, stored.can_undo, stored.can_redo) == ("a:1", False, True)
    assert builds.redo(one)
    assert not builds.redo(one)
    builds.undo(one)
    assert builds.save(one, 1, "a:3", "other way") == 3
    assert builds.body_at(one, 2) == "a:2"
    builds.restore(one, 2)
    assert builds.current(one).body == "a:2"
    assert builds.current(one).number == 4


def test_an_edit_costs_little_and_every_revision_is_read_back(path):
    """Three hundred edits of a demo build, some undone and branched: each text exact, under 5 kB a revision."""
    builds, draw = BuildRepository(open_database(path), lambda body: ("a", {}, None)), random.Random(4)
    first = write(demo("saltern"))
    one, kept = builds.create(first, "new"), {1: first}
    before = path.stat().st_size
    for _ in range(300):
        stored = builds.current(one)
        assert stored.body == kept[stored.number]
        lines = stored.body.split("\n")
        lines[draw.randrange(len(lines))] += str(draw.random())
        body = "\n".join(lines)
        kept[builds.save(one, stored.number, body, "changed")] = body
        if draw.random() < 0.2:
            builds.undo(one)
    builds._database.close()
    assert (path.stat().st_size - before) / 300 < 2_500
    again = BuildRepository(open_database(path), lambda body: ("a", {}, None))
    assert {number: again.body_at(one, number) for number in kept} == kept
    with again._database.engine.connect() as connection:
        (wholes,) = connection.exec_driver_sql("SELECT count(*) FROM revision WHERE base_number IS NULL").one()
    assert 1 < wholes < 40


def test_a_text_unlike_the_one_before_is_kept_whole(builds):
    one = builds.create("a:1", "new")
    builds.save(one, 1, write(demo("curlew")), "")
    assert builds.current(one).body == write(demo("curlew"))


def test_a_difference_does_not_make_a_text_of_another():
    kept = told(write(demo("curlew")), 1, write(demo("curlew").model_copy(update={"name": "Other"})))
    assert kept.base == 1
    with pytest.raises(ZstdError):
        whole(kept.difference, write(demo("saltern")))


def test_revisions_are_paged(builds):
    one = builds.create("a:1", "new")
    for number in range(1, 8):
        builds.save(one, number, f"a:{number}", str(number))
    rows, total = builds.revisions(one, 3, 3)
    assert ([row.number for row in rows], total) == ([5, 4, 3], 8)


def test_two_editors_cannot_lose_each_others_work(builds):
    one = builds.create("a:1", "new")
    builds.save(one, 1, "a:mine", "")
    with pytest.raises(Conflict):
        builds.save(one, 1, "a:theirs", "")
    assert builds.current(one).body == "a:mine"


def test_racing_editors_get_one_winner(builds):
    one = builds.create("a:0", "new")

    def race(number):
        try:
            return builds.save(one, 1, f"a:{number}", "")
        except Conflict:
            return None

    with ThreadPoolExecutor(8) as pool:
        won = [number for number in pool.map(race, range(16)) if number]
    assert won == [2]


def test_a_restart_brings_everything_back(path, builds):
    one = builds.create("a:1", "new")
    builds.save(one, 1, "a:2", "second")
    again = BuildRepository(open_database(path), summarise)
    assert again.current(one).body == "a:2"
    assert again.page().rows[0].summary == {"words": 3}


@pytest.mark.parametrize("kill", range(100 if LONG else 1))
def test_a_killed_process_loses_nothing_it_reported(path, kill):
    """Killed after some saves and some moment into the next; in the long run a hundred times, each elsewhere."""
    pick = random.Random(kill)
    saves, moment_s = pick.randint(1, 40), pick.uniform(0.0, 0.004)
    script = (
        "import sys; from pathlib import Path\n"
        "from iron_gulp.storage import BuildRepository, open_database\n"
        "builds = BuildRepository(open_database(Path(sys.argv[1])), lambda body: (body, {}, None))\n"
        "one = builds.create('b0', '')\n"
        "for number in range(1, 10000):\n"
        "    builds.save(one, number, f'b{number}', '')\n"
        "    print(number, flush=True)\n"
    )
    process = subprocess.Popen([sys.executable, "-c", script, str(path)], stdout=subprocess.PIPE, text=True)
    assert process.stdout is not None
    reported = 0
    for text in process.stdout:
        reported = int(text)
        if reported >= saves:
            time.sleep(moment_s)
            os.kill(process.pid, signal.SIGKILL)
            break
    reported = max([reported, *(int(text) for text in process.stdout if text.endswith("\n"))])
    process.wait()
    check(path)
    stored = BuildRepository(open_database(path), lambda body: (body, {}, None)).current(1)
    assert int(stored.body[1:]) >= reported
    assert stored.number == int(stored.body[1:]) + 1


def test_listing_filters_sorts_and_pages_a_thousand(builds):
    for number in range(1000):
        builds.create(f"Build {number:04}:" + "x" * (number % 7), "")
    builds.set_archived(1, True)
    page = builds.page("build 09", "name", limit=20, offset=20)
    assert (page.total, len(page.rows), page.rows[0].name) == (100, 20, "Build 0920")
    assert builds.page(archived=True).total == 1
    assert len(builds.page(sort="load").rows[0].name) == len("Build 0006")
    assert builds.page("%").total == 0


@pytest.mark.parametrize("call", [lambda b: b.current(7), lambda b: b.undo(7), lambda b: b.save(7, 1, "a", "")])
def test_unknown_builds_are_not_found(builds, call):
    with pytest.raises(NotFound):
        call(builds)


def test_migrations_make_the_tables_the_code_means(path):
    database = open_database(path)
    with database.engine.connect() as connection:
        assert compare_metadata(MigrationContext.configure(connection), Base.metadata) == []


def test_pragmas_are_set(path):
    database = open_database(path)
    with database.engine.connect() as connection:
        told = {
            name: connection.exec_driver_sql(f"PRAGMA {name}").scalar()
            for name in ("journal_mode", "foreign_keys", "synchronous")
        }
    assert told == {"journal_mode": "wal", "foreign_keys": 1, "synchronous": 2}


def test_foreign_keys_hold(path, builds):
    builds.create("a", "")
    with sqlite3.connect(path) as connection:
        connection.execute("PRAGMA foreign_keys=ON")
        with pytest.raises(sqlite3.IntegrityError):
            connection.execute("DELETE FROM build")
