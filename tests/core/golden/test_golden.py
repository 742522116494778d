"""No figure of any demo build moved when the core was rebuilt. Values change on purpose only, by taking them anew."""

import pytest

from tests.core.golden.keeping import moved, read
from tests.core.golden.taking import DEMOS, snapshot
from tests.draws import EVERY_DEMO
from tests.systems import demo


@pytest.fixture(scope="module")
def kept():
    return read("demo")


@pytest.mark.parametrize("name", DEMOS if EVERY_DEMO else DEMOS[2:3])
def test_no_figure_moved(kept, name):
    build = demo(name).model_copy(update={"pulls": ()})  # measured later than the figures were taken
    assert moved(kept[name], snapshot(build)) == []
