"""No figure of any demo build moved when the core was rebuilt. Values change on purpose only, by taking them anew."""

import gzip
import json
from pathlib import Path

import pytest

from tests.core.golden.comparing import departures
from tests.core.golden.taking import DEMOS, snapshot
from tests.draws import EVERY_DEMO
from tests.systems import demo

KEPT = Path(__file__).parent / "demo.json.gz"
RELATIVE = 1e-6


@pytest.fixture(scope="module")
def kept():
    with gzip.open(KEPT) as file:
        return json.load(file)


@pytest.mark.parametrize("name", DEMOS if EVERY_DEMO else DEMOS[2:3])
def test_no_figure_moved(kept, name):
    build = demo(name).model_copy(update={"pulls": ()})  # measured later than the figures were taken
    now = json.loads(json.dumps(snapshot(build)))
    assert list(departures(kept[name], now, RELATIVE)) == []
