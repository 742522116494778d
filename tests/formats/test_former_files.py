"""Files as former versions wrote them: what they were judged to be they still are, whatever way they came."""

import json
from pathlib import Path

import pytest
from sqlalchemy import create_engine

from iron_gulp.core import advise
from iron_gulp.core.judge import judge_many
from iron_gulp.core.model import SCHEMA_VERSION, completed, upgraded
from iron_gulp.formats.build_file import read, write
from iron_gulp.services.judging import summarise
from iron_gulp.shelf import load_shelf
from iron_gulp.storage import BuildRepository, open_database
from iron_gulp.storage.database import migrate

FORMER = sorted(Path(__file__).with_name("former").glob("*.json"))
# Troubles each was known by when it was kept; a rule that changes on purpose changes this, and says so.
KNOWN = json.loads(Path(__file__).with_name("former").joinpath("known", "troubles.json").read_text())


def verdict(build):
    """Loads and troubles of every option, by what a specialist reads first."""
    found = {}
    for option in build.options:
        judged = judge_many([(build, option, target) for target in build.targets], ceilings=False)
        troubles = advise.find_troubles(build, option, judged, load_shelf().catalogue)
        loads = [[one.component, round(one.load, 9)] for each in judged for one in each.loads]
        found[option.id] = (loads, sorted(f"{one.severity} {one.code}" for one in troubles))
    return found


@pytest.mark.parametrize("file", FORMER, ids=lambda one: one.stem)
def test_a_former_file_has_the_troubles_it_was_known_by_and_no_others(file):
    assert {name: troubles for name, (_, troubles) in verdict(read(file.read_text())).items()} == KNOWN[file.stem]


@pytest.mark.parametrize("file", FORMER, ids=lambda one: one.stem)
def test_no_step_of_a_migration_changes_a_verdict(file, tmp_path):
    text = file.read_text()
    expected = verdict(read(text))
    assert verdict(read(write(read(text)))) == expected  # written as a file of today
    data = json.loads(text)
    for version in range(data["schema_version"], SCHEMA_VERSION + 1):
        assert verdict(read(json.dumps(upgraded(data, version)))) == expected
    for revision in ("0001", "0002", "0003"):
        path = tmp_path / f"{revision}.sqlite3"
        engine = create_engine(f"sqlite:///{path}")
        migrate(engine, revision)
        with engine.begin() as connection:
            row = "INSERT INTO build VALUES (1, 'A', 0, '2026-01-01 00:00:00', '2026-01-02 00:00:00', 1, '{}', 0.9)"
            connection.exec_driver_sql(row)
            connection.exec_driver_sql(
                "INSERT INTO revision VALUES (1, 1, 1, NULL, '2026-01-01 00:00:00', 'kept', ?)", (text,)
            )
        engine.dispose()
        database = open_database(path)
        stored = BuildRepository(database, summarise).current(1).body
        database.close()
        assert verdict(read(stored)) == expected


def test_a_regulator_of_a_former_file_is_of_the_kind_it_is_plumbed_as():
    (old,) = (one for one in FORMER if one.stem.startswith("fieldfare-1"))
    data = json.loads(old.read_text())
    assert all("works" not in one["regulator"]["part"] for one in data["options"])
    build = read(old.read_text())
    kinds = {one.regulator.arrangement: one.regulator.part.works for one in build.options}
    assert kinds == {"carburettor, deadhead": "deadhead", "carburettor, bypass": "by bypass"}


def test_what_a_file_says_stays_as_it_says_it():
    data = json.loads(FORMER[0].read_text())
    assert completed(data) == data
    told = {"options": [{"regulator": {"arrangement": "carburettor, deadhead", "part": {"works": "by bypass"}}}]}
    assert completed(told) is told
    for nonsense in ({}, {"options": 3}, {"options": [3, None]}, {"options": [{"regulator": 3, "lift": []}]}):
        assert completed(nonsense) is nonsense
