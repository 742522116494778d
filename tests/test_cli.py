"""The command line."""

import json
import os
import socket
import sqlite3
from contextlib import closing
from importlib import resources

import pytest
from typer.testing import CliRunner

from iron_gulp import __version__
from iron_gulp.cli import app
from iron_gulp.core.plan import locks_of
from iron_gulp.formats import build_file
from iron_gulp.services.workshop import Workshop

run = CliRunner()


@pytest.fixture
def curlew(tmp_path):
    path = tmp_path / "curlew.json"
    path.write_bytes(resources.files("iron_gulp.demo").joinpath("curlew.json").read_bytes())
    return path


def test_solve_prints_the_complete_solution(curlew):
    result = run.invoke(app, ["solve", str(curlew), "--option", "one-large", "--target", "hill"])
    assert result.exit_code == 0
    told = json.loads(result.stdout)
    assert (told["option"], told["target"]) == ("one-large", "hill")
    assert told["first_to_run_out"] == "regulator"
    assert told["idle"]["state"] == "overrun"


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (["--target", "nope"], "no target 'nope'; there are: pump-fuel, hill, later"),
        (["--option", "nope"], "no option 'nope'"),
    ],
)
def test_unknown_names_exit_2(curlew, arguments, words):
    result = run.invoke(app, ["solve", str(curlew), *arguments])
    assert result.exit_code == 2
    assert words in result.stderr
    assert "Traceback" not in result.stderr


def test_the_version_is_told():
    result = run.invoke(app, ["--version"])
    assert (result.exit_code, result.stdout.strip()) == (0, __version__)


def test_bad_files_exit_2_with_every_problem(curlew, tmp_path):
    curlew.write_text(curlew.read_text().replace('"boost_kpa": 145.0', '"boost_kpa": 9999').replace('"E70"', '"E"'))
    result = run.invoke(app, ["solve", str(curlew)])
    assert result.exit_code == 2
    assert "targets/1/boost_kpa: must be at most 600" in result.stderr
    missing = run.invoke(app, ["solve", str(tmp_path / "none.json")])
    assert missing.exit_code == 2
    assert "No such file" in missing.stderr


def test_import_then_export(curlew, tmp_path):
    data = str(tmp_path / "data")
    result = run.invoke(app, ["import", str(curlew), "--data", data])
    assert result.exit_code == 0
    out = tmp_path / "out.json"
    assert run.invoke(app, ["export", result.stdout.strip(), str(out), "--data", data]).exit_code == 0
    assert out.read_bytes() == curlew.read_bytes()
    assert run.invoke(app, ["export", "99", str(out), "--data", data]).exit_code == 2
    assert Workshop(tmp_path / "data" / "iron_gulp.sqlite3").garage.page().total == 1


def test_schema_is_json():
    assert json.loads(run.invoke(app, ["schema"]).stdout)["title"] == "Iron Gulp build file"


def refused(words, *arguments):
    """A command that ends in a sentence and exit code 2."""
    told = run.invoke(app, [str(one) for one in arguments])
    assert told.exit_code == 2, told.output
    assert words in told.stderr.replace("\n", " "), told.stderr
    assert "Traceback" not in told.output
    assert told.exception is None or isinstance(told.exception, SystemExit)


def test_what_is_no_file_of_bearable_length_is_refused_in_words(curlew, tmp_path):
    for command in ("solve", "ceilings", "chance", "design", "import"):
        extra = ("--data", tmp_path / "data") if command == "import" else ()
        refused("larger than 4 MB", command, "/dev/zero", *extra)
        refused("is a folder", command, tmp_path, *extra)
    assert not (tmp_path / "data").exists()
    refused("is no file", "restore", "/dev/zero", "--data", tmp_path / "new")


def test_export_takes_nothings_place_and_makes_no_folder(curlew, tmp_path):
    data, out = tmp_path / "data", tmp_path / "out.json"
    refused("there is no database yet", "export", "1", out, "--data", data)
    assert not data.exists()
    run.invoke(app, ["import", str(curlew), "--data", str(data)])
    out.write_text("somebody's own")
    refused("left as it is; --overwrite replaces it", "export", "1", out, "--data", data)
    assert out.read_text() == "somebody's own"
    link = tmp_path / "link.json"
    link.symlink_to(out)
    assert run.invoke(app, ["export", "1", str(link), "--data", str(data), "--overwrite"]).exit_code == 0
    assert link.is_symlink()
    assert out.read_bytes() == curlew.read_bytes()
    fifo = tmp_path / "fifo"
    os.mkfifo(fifo)
    refused("no plain file", "export", "1", fifo, "--data", data, "--overwrite")
    refused("no plain file", "pack", fifo, "--data", data)
    assert fifo.is_fifo()
    for number in ("0", "-1", "9" * 30):
        told = run.invoke(app, ["export", "--data", str(data), "--", number, str(out)])
        assert told.exit_code == 2
        assert "Traceback" not in told.output


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--port", "99999"), "port: must be at most 65535"),
        (("--port", "-4"), "port: must be at least 0"),
        (("--host", "192.0.2.7"), "cannot be served on"),
        (("--host", "no.such.host.invalid"), "cannot be served on"),
    ],
)
def test_an_address_that_cannot_be_had_is_told_before_anything_is_made(tmp_path, arguments, words):
    refused(words, "serve", "--data", tmp_path / "data", *arguments)
    assert not (tmp_path / "data" / "iron_gulp.sqlite3").exists()


def test_a_port_that_is_taken_is_told_and_no_address_with_it(tmp_path):
    with socket.socket() as taken:
        taken.bind(("127.0.0.1", 0))
        taken.listen()
        port = str(taken.getsockname()[1])
        told = run.invoke(app, ["serve", "--data", str(tmp_path), "--port", port])
        assert (told.exit_code, "Address already in use" in told.stderr) == (2, True)
        assert "Iron Gulp is at" not in told.output


def test_a_data_folder_that_is_none_and_settings_that_are_none_are_told(curlew, tmp_path, monkeypatch):
    refused("File exists", "serve", "--data", curlew)
    refused("Not a directory", "import", curlew, "--data", curlew / "inside")
    monkeypatch.setenv("IRON_GULP_PORT", "many")
    refused("port: must be a whole number", "serve", "--data", tmp_path)


def test_a_database_that_others_hold_is_told(curlew, tmp_path, monkeypatch):
    monkeypatch.setattr("iron_gulp.storage.database.WAIT_MS", 50)
    assert run.invoke(app, ["import", str(curlew), "--data", str(tmp_path)]).exit_code == 0
    with closing(sqlite3.connect(tmp_path / "iron_gulp.sqlite3", isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        refused("database is locked", "import", curlew, "--data", tmp_path)


V8 = {"displacement_l": 4.9, "cylinders": 8, "induction": "naturally aspirated", "feeding": "carburettor"}


def sized(tmp_path, answers, *more):
    file = tmp_path / "answers.json"
    file.write_text(json.dumps(answers))
    return run.invoke(app, ["size", str(file), *more])


def test_answers_are_sized_to_a_build_with_its_account(tmp_path):
    told = sized(tmp_path, V8 | {"power_kw": 160.0})
    assert told.exit_code == 0, told.output
    found = json.loads(told.stdout)
    build = build_file.read(json.dumps(found["build"]))
    assert found["carries"]
    assert build.targets[0].power_kw == 160.0
    assert len(found["account"]) >= 4
    assert found["assumed"]
    assert "\n".join(found["account"]) == build.options[0].why


def test_what_nothing_carries_is_told_with_exit_code_three(tmp_path):
    assert sized(tmp_path, V8 | {"power_kw": 160.0}, "--shelf", "own parts alone").exit_code == 3
    short = sized(tmp_path, V8 | {"power_kw": 500.0})  # more than its air
    assert short.exit_code == 3
    assert not json.loads(short.stdout)["carries"]


def test_answers_and_locks_that_cannot_be_are_refused_by_name(tmp_path):
    refused("displacement_l", "size", write(tmp_path, {"power_kw": 100.0, "displacement_l": -1.0}))
    refused("power_kw", "size", write(tmp_path, {}))
    refused("--idle: must be", "size", write(tmp_path, V8 | {"power_kw": 160.0}), "--idle", "never")
    refused("is a folder", "size", tmp_path)


def write(tmp_path, answers):
    file = tmp_path / "wrong.json"
    file.write_text(json.dumps(answers))
    return file


def test_every_lock_of_the_list_is_an_option_of_the_command_with_its_values_in_the_help():
    told = run.invoke(app, ["design", "--help"], env={"COLUMNS": "200"}).stdout
    for one in locks_of():
        assert "--" + one.name.removesuffix("_pct").replace("_", "-") in told
        for choice in one.choices:
            assert choice in told
