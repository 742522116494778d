"""No figure of any demo build moved when the core was rebuilt. Values change on purpose only, by taking them anew."""

import gzip
import json
from pathlib import Path

import pytest

from tests.core.golden.comparing import departures
from tests.core.golden.taking import DEMOS, of_car, snapshot
from tests.draws import EVERY_DEMO
from tests.garage import CARS
from tests.systems import demo

FOLDER = Path(__file__).parent
RELATIVE = 1e-6


def read(name):
    with gzip.open(FOLDER / f"{name}.json.gz") as file:
        return json.load(file)


@pytest.fixture(scope="module")
def kept():
    return read("demo")


@pytest.fixture(scope="module")
def kept_garage():
    return read("garage")


@pytest.mark.parametrize("name", DEMOS if EVERY_DEMO else DEMOS[2:3])
def test_no_figure_moved(kept, name):
    build = demo(name).model_copy(update={"pulls": ()})  # measured later than the figures were taken
    now = json.loads(json.dumps(snapshot(build)))
    assert list(departures(kept[name], now, RELATIVE)) == []


@pytest.mark.parametrize("name", CARS if EVERY_DEMO else list(CARS)[::4])
def test_no_finding_and_no_remedy_of_the_garage_moved(kept_garage, name):
    now = json.loads(json.dumps(of_car(name)))
    assert list(departures(kept_garage[name], now, RELATIVE)) == []
