"""Nothing moved of what is studied and planned for the demo builds."""

import pytest

from tests.core.golden.further import NAMES, further
from tests.core.golden.keeping import moved, read
from tests.draws import EVERY_DEMO


@pytest.fixture(scope="module")
def kept():
    return read("further")


@pytest.mark.parametrize("name", NAMES if EVERY_DEMO else ["fieldfare"])
def test_nothing_studied_or_planned_moved(kept, name):
    assert moved(kept[name], further(name)) == []
