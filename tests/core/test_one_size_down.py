"""What the next smaller part is: of the same kind and construction, sold for the fuel, and the largest of those below."""

from dataclasses import replace

import pytest

from iron_gulp.core.model import Option, flow_at
from iron_gulp.core.plan.sizing import smaller
from iron_gulp.shelf import load_shelf
from tests.systems import demo

SHELF = load_shelf().catalogue


def _below(option: Option, alcohol: bool = True) -> dict[str, tuple]:
    return {what: (part, changed) for what, part, changed in smaller(option, SHELF, alcohol)}


def _with_pump(option: Option, part) -> Option:
    return option.model_copy(update={"pumps": (option.pumps[0].model_copy(update={"part": part}), *option.pumps[1:])})


@pytest.mark.parametrize("part", SHELF.pumps, ids=lambda part: part.name)
def test_a_pump_goes_down_to_the_next_of_its_own_kind_that_flows_at_the_base(part):
    option = _with_pump(demo("curlew").options[0], part)
    base = option.regulator.base_kpa
    own = flow_at(part, 400.0) or flow_at(part, 30.0)
    # One for floats or for a surge tank is no size down of one for a rail, nor the other way round.
    work = part.name.split(" pump")[0]
    fit = {
        one.name: flow_at(one, 400.0) or flow_at(one, 30.0)
        for one in SHELF.pumps
        if one.kind == part.kind and one.alcohol_ok and one.name.split(" pump")[0] == work and flow_at(one, base) > 0
    }
    less = {name: size for name, size in fit.items() if size < own * 0.9999}
    found = _below(option).get("pumps 1")
    next_down = max(less, key=less.__getitem__, default=None)
    if next_down is None:
        assert found is None
        return
    assert found[0].name == next_down
    assert found[1].pumps[0].part == found[0]
    assert found[1].pumps[1:] == option.pumps[1:]


def _sized(part, share: float):
    curves = tuple(one.model_copy(update={"flow_l_h": tuple(q * share for q in one.flow_l_h)}) for one in part.curves)
    return part.model_copy(update={"name": f"{share}", "curves": curves})


def test_a_part_just_below_in_size_is_the_next_one():
    """Ten per cent less is a size down; a ten-thousandth less is the same size under another name."""
    option = demo("curlew").options[0]
    part = option.pumps[0].part
    shelf = replace(SHELF, pumps=(*SHELF.pumps, _sized(part, 0.9), _sized(part, 0.9999)))
    found = {what: part for what, part, _ in smaller(option, shelf, alcohol=True)}
    assert found["pumps 1"].name == "0.9"


def test_a_pump_for_floats_is_no_size_down_for_one_that_feeds_a_rail():
    """Its flow is listed at 30 kPa; at the base it moves nothing, and the next that moves fuel there is found."""
    option = demo("curlew").options[0]
    floats = next(one for one in SHELF.pumps if one.name.startswith("Electric carburettor pump, 500"))
    rail = next(one for one in SHELF.pumps if one.name.startswith("Turbine pump, 400"))
    larger = _sized(rail, 1.3)
    assert flow_at(floats, 30.0) > flow_at(rail, 400.0)
    assert _below(_with_pump(option, larger))["pumps 1"][0] == rail
