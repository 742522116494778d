"""Nothing moved of what is studied and planned for the demo builds."""

import pytest

from tests.core.golden.further import NAMES, further
from tests.core.golden.keeping import moved
from tests.draws import EVERY_DEMO


@pytest.mark.parametrize("name", NAMES if EVERY_DEMO else ["fieldfare"])
def test_nothing_studied_or_planned_moved(name):
    assert moved(f"further-{name}", further(name)) == []
