"""Worst corners: each changes what it says and nothing else."""

import pytest

from iron_gulp.core.judge import judge
from iron_gulp.core.study import worst_corners
from tests.garage import CARS, car


@pytest.mark.parametrize("name", list(CARS)[::6])
def test_each_corner_is_the_car_with_one_thing_changed(name):
    build = car(name)
    option, target = build.options[0], build.targets[0]
    found = {corner.name: corner.verdicts[0] for corner in worst_corners(build, option)}
    assert found["As entered"].first_out.load == pytest.approx(judge(build, option, target).first_out.load)
    assert found["Hot day"].target.fuel_temp_c == pytest.approx(target.fuel_temp_c + 15)
    assert found["Low volts"].target.supply_v == pytest.approx(target.supply_v - 1)
    assert found["Low tank, pulling"].target.accel_g >= 1.0
    for before, after in zip(option.pumps, found["Worn pumps"].option.pumps, strict=True):
        assert 1 - after.derate_pct / 100 == pytest.approx(0.9 * (1 - before.derate_pct / 100))
    if target.base_fuel == "gasoline":
        assert found["Strongest blend"].target.ethanol_pct == pytest.approx(min(target.ethanol_pct + 10, 100))


@pytest.mark.parametrize("name", list(CARS)[::6])
def test_less_pump_less_volts_and_more_ethanol_never_help_the_pumps(name):
    build = car(name)
    found = {corner.name: corner.verdicts[0] for corner in worst_corners(build, build.options[0])}
    own = found["As entered"].load("pumps").load
    for corner in ("Low volts", "Worn pumps", "Strongest blend"):
        assert found[corner].load("pumps").load >= own * (1 - 1e-9)
    assert found["Weakest blend"].load("pumps").load <= own * (1 + 1e-9)
