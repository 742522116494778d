"""The command line."""

import json
from importlib import resources

import pytest
from typer.testing import CliRunner

from iron_gulp import __version__
from iron_gulp.cli import app
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
