"""What calibrating both sides together involves, by who runs the port side and how the fuel is parted."""

import pytest

from iron_gulp.core.model import apply
from iron_gulp.core.plan import calibration_of
from tests.systems import demo

SMALLEST, FADES, AT_ONCE = "Prove the smallest pulses of both sides", "fades in", "joins all at once"


def tasks(**told):
    build = demo("dunlin")
    both = next(one.id for one in build.options if one.delivery is not None)
    build = apply(build, [(f"options/{both}/delivery/{name}", value) for name, value in told.items()])
    return calibration_of(build, build.option(both))


@pytest.mark.parametrize(
    ("told", "said", "silent"),
    [
        ({"mode": "share"}, (SMALLEST, "a fixed share of the fuel"), (FADES, AT_ONCE)),
        ({"mode": "ceiling"}, (FADES, "above the direct side's ceiling"), (SMALLEST, AT_ONCE)),
        ({"mode": "threshold", "width": 40.0, "signal": "rpm"}, (FADES, "joins on engine speed"), (SMALLEST, AT_ONCE)),
        ({"mode": "threshold", "width": 0.0, "signal": "flow_l_h"}, (AT_ONCE, "joins on fuel flow"), (SMALLEST, FADES)),
    ],
)
def test_each_way_of_parting_the_fuel_is_proven_its_own_way(told, said, silent):
    found = " ".join(tasks(**told))
    assert [one for one in said if one not in found] == []
    assert [one for one in silent if one in found] == []


def test_who_runs_the_port_side_decides_what_is_told_to_whom():
    own, engine = (" ".join(tasks(runs=who)) for who in ("a controller of its own", "the engine controller"))
    assert "Give the port controller engine speed" in own
    assert "count them first" not in own
    assert "count them first" in engine
    assert "port controller" not in engine
    assert "Set the port rail's own regulator" not in " ".join(tasks(port_base_kpa=None))
    assert "Set the port rail's own regulator" in " ".join(tasks(port_base_kpa=400.0))


@pytest.mark.parametrize("mode", ["direct only", "port only"])
def test_one_side_alone_has_nothing_to_part(mode):
    assert tasks(mode=mode) == ()


def test_a_port_car_has_nothing_to_part():
    build = demo("curlew")
    assert calibration_of(build, build.options[0]) == ()
