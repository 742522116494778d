"""No finding and no remedy moved of any fault in the garage of sane cars."""

import pytest

from tests.core.golden.keeping import moved
from tests.core.golden.taking import of_car
from tests.draws import EVERY_DEMO
from tests.garage import CARS


@pytest.mark.parametrize("name", CARS if EVERY_DEMO else list(CARS)[::4])
def test_no_finding_and_no_remedy_moved(name):
    assert moved(f"garage-{name}", of_car(name)) == []
