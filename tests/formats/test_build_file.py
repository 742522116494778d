"""The build file: exact round trip, published schema, and every problem of a bad file at its path."""

import json
from importlib import resources
from pathlib import Path

import jsonschema
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.model import dump
from iron_gulp.formats.build_file import LARGEST_BYTES, BuildFileError, read, schema, write
from tests.systems import a_target, build, check_option

ROOT = Path(__file__).parents[2]
DEMOS = sorted(
    file.read_text(encoding="utf-8")
    for file in resources.files("iron_gulp.demo").iterdir()
    if file.name.endswith(".json")
)


@pytest.mark.parametrize("text", DEMOS)
def test_demo_files_round_trip_to_the_byte(text):
    assert write(read(text)) == text


@given(
    st.floats(1, 5000),
    st.floats(-95, 600),
    st.text(st.characters(exclude_categories=["Cs"]), min_size=1, max_size=80),
)
def test_round_trip_is_exact(power, boost, name):
    before = build(check_option(), a_target(power_kw=power, boost_kpa=boost, name=name))
    assert read(write(before)) == before
    assert read(write(before).encode("utf-8-sig")) == before


@pytest.mark.parametrize("text", DEMOS)
def test_a_file_of_version_1_is_read_as_todays(text):
    data = json.loads(text)
    former = {"duties" if key == "targets" else key: value for key, value in data.items()} | {"schema_version": 1}
    assert write(read(json.dumps(former))) == text
    former["duties"][0]["ethanol_pct"] = 130
    assert list(problems(json.dumps(former))) == ["targets/0/ethanol_pct"]
    former["targets"] = former["duties"]
    assert "duties" in problems(json.dumps(former))


@pytest.mark.parametrize("version", [0, 4, True, "1", 1.0, None, [1]])
def test_other_versions_are_refused(version):
    told = problems(json.dumps(dump(build()) | {"schema_version": version}))
    assert "versions 1 to 3" in told["schema_version"]


def test_published_schema_is_current_and_true():
    published = json.loads((ROOT / "docs/build-file.schema.json").read_text(encoding="utf-8"))
    assert published == schema(), "run `make schema`"
    jsonschema.Draft202012Validator.check_schema(published)
    for text in DEMOS:
        jsonschema.validate(json.loads(text), published)


def problems(text) -> dict[str, str]:
    with pytest.raises(BuildFileError) as caught:
        read(text)
    return {problem.path: problem.message for problem in caught.value.problems}


def test_every_problem_is_listed_at_its_path():
    data = dump(build())
    data["targets"][0]["boost_kpa"] = "150"
    data["targets"][0]["ethanol_pct"] = 130
    data["engine"].pop("cylinders")
    data["options"][0]["pumps"][0]["part"]["colour"] = "red"
    found = problems(json.dumps(data))
    assert set(found) == {
        "targets/0/boost_kpa",
        "targets/0/ethanol_pct",
        "engine/cylinders",
        "options/0/pumps/0/part/colour",
    }
    assert "100" in found["targets/0/ethanol_pct"]


@pytest.mark.parametrize(
    ("text", "path", "words"),
    [
        ("", "", "not JSON"),
        ("[1, 2]", "", "not a build file"),
        ("{}", "", "schema_version is missing"),
        ('{"schema_version": 99}', "schema_version", "not known here"),
        ('{"schema_version": NaN}', "", "NaN"),
        ("[" * 100_000, "", "not JSON"),
        (b"\xff\xfe\x00", "", "not UTF-8"),
        pytest.param(" " * (LARGEST_BYTES + 1), "", "larger than 4 MB", id="too large"),
    ],
)
def test_files_that_are_no_build_files(text, path, words):
    assert words in problems(text)[path]


def test_numbers_beyond_number_are_refused():
    text = write(build()).replace('"boost_kpa": 100.0', '"boost_kpa": 1e999')
    assert "targets/0/boost_kpa" in problems(text)


def test_the_same_id_twice_is_refused():
    data = dump(build())
    data["targets"] *= 2
    assert "used twice" in problems(json.dumps(data))[""]
