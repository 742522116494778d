"""Roads: each is a whole option judged, the cheapest that carries is recommended, and it opens as an option."""

from dataclasses import replace

import pytest

from iron_gulp.core.judge import judge, judge_many
from iron_gulp.core.model import Delivery, InjectorSet, Rates, apply
from iron_gulp.core.plan import (
    bill,
    calibration_of,
    combination_grids,
    grid_blends,
    headroom_of,
    put_right,
    recommended,
    roads,
    within,
)
from iron_gulp.core.plan.design.circuits import most_drawn_a
from iron_gulp.core.plan.roads import _lows, _next_hardware, turned_back
from iron_gulp.shelf import load_shelf
from tests.systems import demo

pytestmark = pytest.mark.xdist_group("roads")

CATALOGUE = load_shelf().catalogue


@pytest.fixture(scope="module")
def dunlin():
    return demo("dunlin")


@pytest.fixture(scope="module")
def found(dunlin):
    return {road.kind: road for road in roads(dunlin, dunlin.option("as-found"), CATALOGUE, Rates())}


def test_every_road_is_there_and_its_own_judgement_says_whether_it_carries(dunlin, found):
    assert set(found) == {"today", "direct", "pump", "port", "plenum", "both", "blend"}
    for kind, road in found.items():
        if kind != "blend":
            again = [judge(dunlin, road.option, target) for target in dunlin.targets]
            assert road.carries == all(within(one) for one in again)
            assert [one.first_out.load for one in road.verdicts] == pytest.approx([one.first_out.load for one in again])
    assert not found["today"].carries
    assert found["direct"].carries
    assert found["port"].carries


def test_todays_feed_is_put_right_first(dunlin, found):
    assert dunlin.option("as-found").high_side.feed == "series"
    for road in found.values():
        assert road.option.high_side.feed == "split"
        assert all(one.load("high-pressure inlet").load <= 1 for one in road.verdicts)


def test_the_cheapest_that_carries_is_recommended_and_the_other_school_is_heard(dunlin, found):
    said = recommended(dunlin, list(found.values()), Rates())
    carrying = [road for road in found.values() if road.carries and road.kind in ("direct", "port", "both")]
    assert said.kind == min(carrying, key=lambda road: road.bill.total).kind
    assert said.other_school
    dear = Rates(port_rail_set=9000.0)
    again = roads(dunlin, dunlin.option("as-found"), CATALOGUE, dear)
    assert recommended(dunlin, again, dear).kind == "direct"


def test_injectors_in_the_plenum_are_a_road_and_taken_where_no_other_carries(dunlin, found):
    road = found["plenum"]
    port = road.option.injectors
    assert (port.count, port.sprays) == (2, "into a shared plenum")
    (mounts,) = [row for row in road.bill.rows if "plenum" in row.what]
    assert mounts.price == pytest.approx(Rates().port_rail_set * 2 / dunlin.engine.cylinders)
    assert not any("rails" in row.what for row in road.bill.rows)
    said = recommended(dunlin, list(found.values()), Rates())
    assert said.kind == "port"
    assert "spared" in said.values
    alone = [one for kind, one in found.items() if kind in ("today", "plenum", "blend")]
    said = recommended(dunlin, alone, Rates())
    assert said.kind == "plenum"
    assert "spared" not in said.values
    ported = roads(dunlin, dunlin.option("port"), CATALOGUE, Rates())
    assert "plenum" not in {one.kind for one in ported}  # its ports have injectors


def test_the_pumps_of_larger_direct_hardware_are_a_step_of_their_own(dunlin, found):
    direct, pump, had = (
        found["direct"].option.high_side,
        found["pump"].option.high_side,
        dunlin.option("as-found").high_side,
    )
    assert pump.pumps == direct.pumps
    assert pump.injectors.part == had.injectors.part != direct.injectors.part
    assert found["pump"].bill.total < found["direct"].bill.total
    said = recommended(dunlin, list(found.values()), Rates())
    # It carries for less, and leaves less in hand than is wanted: that is said, not recommended.
    assert said.kind == "port"
    assert said.values["pumps_left_pct"] == pytest.approx(headroom_of(found["pump"].verdicts) * 100.0)
    assert said.values["pumps_left_pct"] < dunlin.rules.headroom_pct <= 100.0 * headroom_of(found["port"].verdicts)
    assert "headroom wanted" in said.reason
    direct_first = recommended(dunlin, [one for kind, one in found.items() if kind not in ("port", "both")], Rates())
    assert direct_first.kind == "direct"
    assert any("{first_cost}" in step for step in direct_first.steps)
    same = roads(dunlin, dunlin.option("direct"), CATALOGUE, Rates())
    kinds = {one.kind: one for one in same}
    assert ("pump" in kinds) == (
        kinds["direct"].option.high_side.injectors.part != dunlin.option("direct").high_side.injectors.part
        and kinds["direct"].option.high_side.pumps[0].part != dunlin.option("direct").high_side.pumps[0].part
    )


def test_what_ages_is_counted_and_weighs_by_use(dunlin, found):
    assert found["direct"].ages.connectors == found["direct"].ages.joints == 0
    assert found["port"].ages.connectors == dunlin.engine.cylinders + 1  # and its controller
    assert found["plenum"].ages.connectors == 3
    for use, told in (("rally", True), ("street", False)):
        build = apply(dunlin, [("car/use", use)])
        each = roads(build, build.option("as-found"), CATALOGUE, Rates())
        said = recommended(build, each, Rates())
        assert said.kind == "port"
        assert ("ages_by" in said.values) is told
        assert "fewer" not in said.values or said.values["fewer"] == str(dunlin.engine.cylinders + 1)


def test_a_rebuilt_pump_that_is_there_sooner_is_for_now_and_the_new_one_for_later(dunlin, found):
    direct = [one for kind, one in found.items() if kind in ("today", "direct")]
    bought = direct[1].option.high_side.pumps[0].part
    new = bought.model_copy(update={"lead_days": 30})
    high = direct[1].option.high_side
    pumps = tuple(one.model_copy(update={"part": new}) for one in high.pumps)
    option = direct[1].option.model_copy(update={"high_side": high.model_copy(update={"pumps": pumps})})
    road = replace(direct[1], option=option)
    rebuilt = {"name": "Rebuilt pump", "exchange": "rebuilt", "shelf_id": "own"}
    for days, other, told in ((4, {}, True), (40, {}, False), (None, {}, False), (4, {"bore_mm": 9.1}, False)):
        part = new.model_copy(update={**rebuilt, "lead_days": days, **other})
        shelf = replace(CATALOGUE, high_pumps=(*CATALOGUE.high_pumps, part))
        said = recommended(dunlin, [direct[0], road], Rates(), shelf)
        assert ("sooner" in said.values) is told
        if told:
            assert (said.values["sooner_in"], said.values["new_in"]) == ("4 days", "30 days")
            assert any("{sooner}" in step and "{new}" in step for step in said.steps)


def test_a_port_rail_tells_what_its_silence_would_do(found):
    assert found["port"].silent_factor > 1.05
    assert found["direct"].silent_factor is None
    assert found["port"].complexity.calibrated_sides == 2


def test_ceilings_fall_with_the_blend(found):
    for road in found.values():
        powers = [one.power_kw for one in road.ceilings]
        assert powers == sorted(powers, reverse=True)


def test_a_bill_counts_what_is_bought_and_its_hours(dunlin):
    rates, before = Rates(), dunlin.option("split")
    after = dunlin.option("direct")
    paid = bill(dunlin, before, after, rates)
    pumps = sum(row.count for row in paid.rows if row.what.startswith("Cam pump"))
    injectors = sum(row.count for row in paid.rows if row.what.startswith("Direct injector"))
    assert (pumps, injectors) == (2, 6)
    pump, injector = after.high_side.pumps[0].part, after.high_side.injectors.part
    # The shop's price of a kind is that of its usual size; price goes with the root of size.
    larger = (pump.plunger_mm**2 * pump.stroke_mm * pump.strokes_a_turn / 923.0) ** 0.5
    more = (injector.rated_flow_cc_min * (10_000 / injector.rated_pressure_kpa) ** 0.5 / 1250.0) ** 0.5
    usual = 2 * rates.high_pump * larger + 6 * rates.direct_injector * more
    assert paid.parts == pytest.approx(usual, rel=1e-4)
    assert paid.fittings == pytest.approx(paid.parts * rates.fittings_pct / 100)
    assert paid.hours == pytest.approx(2 * rates.high_pump_h + rates.direct_injectors_h)
    assert paid.calibration == pytest.approx(rates.direct_calibration_h * rates.calibration)
    assert paid.total == pytest.approx(paid.parts + paid.fittings + paid.labour + paid.calibration)
    assert paid.known
    assert bill(dunlin, before, before, rates).total == 0


def test_a_price_of_the_parts_own_comes_first_and_a_missing_one_is_said(dunlin):
    before, after = dunlin.option("split"), dunlin.option("direct")
    high = after.high_side
    own = high.injectors.part.model_copy(update={"price": 200.0, "fit_h": 1.0})
    priced = after.model_copy(
        update={"high_side": high.model_copy(update={"injectors": high.injectors.model_copy(update={"part": own})})}
    )
    rows = bill(dunlin, before, priced, Rates(high_pump=None)).rows
    injector = next(row for row in rows if row.what == own.name)
    assert (injector.price, injector.generic, injector.hours) == (1200.0, False, 1.0)
    assert not bill(dunlin, before, priced, Rates(high_pump=None)).known


def test_the_grid_says_where_a_larger_part_adds_nothing(dunlin):
    grids = combination_grids(dunlin, dunlin.option("split"), dunlin.target("blend"), CATALOGUE)
    assert len(grids) == 2
    for grid in grids:
        powers = [[cell.power_kw for cell in row] for row in grid.cells]
        for y, row in enumerate(grid.cells):
            for x, cell in enumerate(row):
                smaller = ([powers[y - 1][x]] if y else []) + ([powers[y][x - 1]] if x else [])
                alike = bool(smaller) and all(cell.power_kw <= one * 1.005 for one in smaller)
                assert cell.adds_nothing == alike
        assert any(cell.adds_nothing for row in grid.cells for cell in row)
    fitted = put_right(dunlin, dunlin.option("split"))
    own = judge(dunlin, fitted, dunlin.target("blend")).power_limit
    assert grids[0].cells[0][0].power_kw == pytest.approx(own.ceiling_kw, rel=1e-6)


def test_the_grid_ends_where_the_air_does_and_says_what_there_is_fuel_for(dunlin):
    target = dunlin.target("road")
    less = target.model_copy(update={"boost_kpa": 60.0, "power_kw": 250.0})
    build = dunlin.model_copy(update={"targets": (less,)})
    option = build.option("split")
    air = judge(build, put_right(build, option), less).demand.air_limited_power_kw
    cells = [cell for grid in combination_grids(build, option, less, CATALOGUE) for row in grid.cells for cell in row]
    ended = [one for one in cells if one.fuel_kw is not None]
    assert ended
    for one in ended:
        assert (one.power_kw, one.component) == (air, "engine")
        assert one.fuel_kw > air
    assert all(one.power_kw <= air for one in cells)


def with_told(dunlin, **told):
    """Dunlin's first option with both sides, and something told of the split."""
    option = dunlin.option("as-found")
    both = option.model_copy(
        update={
            "injectors": InjectorSet(part=CATALOGUE.port_sets[0].injector()),
            "delivery": Delivery(**told),
        }
    )
    return option, both


def test_an_engine_controller_that_runs_the_port_side_saves_a_controller_and_asks_for_drivers(dunlin):
    option, own = with_told(dunlin)
    _, engine = with_told(dunlin, runs="the engine controller")
    rates = Rates(port_controller=1000.0, port_loom=100.0)
    saved = bill(dunlin, option, own, rates).total - bill(dunlin, option, engine, rates).total
    assert saved == pytest.approx(900.0 * (1 + rates.fittings_pct / 100))
    assert any("driver" in task for task in calibration_of(dunlin, engine))
    assert not any("driver" in task for task in calibration_of(dunlin, own))
    assert any("ethanol signal" in task for task in calibration_of(dunlin, own))
    assert calibration_of(dunlin, option) == ()


@pytest.mark.parametrize(
    ("told", "words"),
    [
        ({"mode": "share"}, "fixed share"),
        ({"mode": "ceiling"}, "direct side's ceiling"),
        ({"mode": "threshold", "signal": "rpm", "width": 0}, "all at once"),
        ({"mode": "ceiling", "port_base_kpa": 400.0}, "own regulator"),
    ],
)
def test_calibration_follows_how_the_fuel_is_parted(dunlin, told, words):
    _, both = with_told(dunlin, **told)
    said = calibration_of(dunlin, both)
    _, other = with_told(dunlin, mode="threshold", signal="flow_l_h", width=40)
    assert any(words in task for task in said)
    assert not any(words in task for task in calibration_of(dunlin, other))


def test_the_grid_is_there_for_every_blend_and_a_stronger_one_carries_less(dunlin):
    option, target = dunlin.option("as-found"), dunlin.targets[0]
    assert {target.ethanol_pct for target in dunlin.targets} <= set(grid_blends(dunlin))
    weak, strong = (combination_grids(dunlin, option, target, CATALOGUE, blend)[0] for blend in (0.0, 85.0))
    for row, other in zip(weak.cells, strong.cells, strict=True):
        # What the air ends is as it is on every blend.
        assert all((a.fuel_kw or a.power_kw) > (b.fuel_kw or b.power_kw) for a, b in zip(row, other, strict=True))
    same = combination_grids(dunlin, option, target, CATALOGUE, target.ethanol_pct)
    assert same == combination_grids(dunlin, option, target, CATALOGUE)


def test_a_quote_marks_parts_up_and_taxes_all_and_waits_for_the_last_part(dunlin):
    before, after = dunlin.option("split"), dunlin.option("direct")
    plain = bill(dunlin, before, after, Rates())
    assert plain.quoted == pytest.approx(plain.total)
    assert plain.lead_days is None
    marked = bill(dunlin, before, after, Rates(markup_pct=20.0, tax_pct=10.0))
    parts = (marked.parts + marked.fittings) * 1.2
    assert marked.quoted == pytest.approx((parts + marked.labour + marked.calibration) * 1.1)
    assert marked.total == pytest.approx(plain.total)
    high = after.high_side
    soon = [one.model_copy(update={"part": one.part.model_copy(update={"lead_days": 12})}) for one in high.pumps]
    late = high.injectors.model_copy(update={"part": high.injectors.part.model_copy(update={"lead_days": 30})})
    told = after.model_copy(update={"high_side": high.model_copy(update={"pumps": tuple(soon), "injectors": late})})
    assert bill(dunlin, before, told, Rates()).lead_days == 30
    assert bill(dunlin, before, before, Rates()).lead_days == 0


def test_one_pump_alone_has_no_lines_to_part(dunlin):
    option = dunlin.option("as-found")
    high = option.high_side
    alone = high.model_copy(update={"pumps": high.pumps[:1], "branches": high.branches[:1]})
    assert high.feed == "series"
    assert put_right(dunlin, option.model_copy(update={"high_side": alone})).high_side.feed == "series"


def test_the_weaker_blend_is_the_strongest_of_each_five_per_cent_that_carries(dunlin):
    found = next(one for one in roads(dunlin, dunlin.option("as-found"), CATALOGUE, Rates()) if one.kind == "blend")

    def carries(ethanol_pct):
        asked = [(dunlin, found.option, turned_back(dunlin, one, ethanol_pct)) for one in dunlin.targets]
        return all(within(verdict) for verdict in judge_many(asked, ceilings=False))

    assert 0 < found.ethanol_pct < max(one.ethanol_pct for one in dunlin.targets)
    assert carries(found.ethanol_pct)
    assert found.ethanol_pct == max(five for five in range(0, 90, 5) if carries(five))
    assert found.left_kw == max(turned_back(dunlin, one, found.ethanol_pct).power_kw for one in dunlin.targets)
    assert found.left_kw < max(one.power_kw for one in dunlin.targets)


def test_a_weaker_blend_has_the_boost_that_fuel_bears_and_the_power_that_is_left(dunlin):
    """Gasoline at 60 kPa and E60 at 120: half-way between them 90 kPa, and air in the ratio of absolute pressures."""
    weak, strong = dunlin.targets[0], dunlin.targets[-1]
    same = {"base_fuel": "gasoline", "power_kw": 300.0}
    weak = weak.model_copy(update={"id": "weak", "ethanol_pct": 0.0, "boost_kpa": 60.0, **same})
    strong = strong.model_copy(update={"id": "strong", "ethanol_pct": 60.0, "boost_kpa": 120.0, **same})
    build = dunlin.model_copy(update={"targets": (weak, strong)})
    half = turned_back(build, strong, 30.0)
    assert half.boost_kpa == pytest.approx(90.0)
    assert half.power_kw == pytest.approx(300.0 * (101.325 + 90.0) / (101.325 + 120.0))
    assert turned_back(build, weak, 30.0) == weak
    assert turned_back(build, strong, 60.0) == strong


def test_a_road_that_is_bought_leaves_the_headroom_wanted_where_one_of_its_parts_does(dunlin, found):
    """The feed of Dunlin's larger pumps was taken with 1.4 % left to starve, where more base pressure leaves a sixth."""
    for kind in ("direct", "port", "both"):
        assert headroom_of(found[kind].verdicts) >= dunlin.rules.headroom_pct / 100.0
    wiring = found["direct"].option.pumps[0].wiring
    assert wiring == dunlin.option("as-found").pumps[0].wiring  # the same pump: nothing of its circuit is another


def test_a_larger_low_pump_comes_with_its_fuse_and_wire(dunlin):
    option = dunlin.option("as-found")
    weak = option.pumps[0].wiring.model_copy(update={"fuse_a": 10.0, "area_mm2": 1.5})
    poor = option.model_copy(update={"pumps": (option.pumps[0].model_copy(update={"wiring": weak}), *option.pumps[1:])})
    larger = [one.pumps[0] for one in _lows(dunlin, poor, CATALOGUE) if one.pumps[0].part != option.pumps[0].part]
    assert larger
    for group in larger:
        most = most_drawn_a(group.part, 0.0)
        assert group.wiring.fuse_a >= 1.25 * most
        assert group.wiring.area_mm2 > 1.5


def test_the_next_hardware_is_one_size_up_of_each_and_of_both(dunlin):
    option = dunlin.options[0]
    high = option.high_side
    pumps = CATALOGUE.high_pumps_above(high.pumps[0].part)
    injectors = CATALOGUE.direct_injectors_above(high.injectors.part)
    assert min(len(pumps), len(injectors)) >= 1
    worn = option.model_copy(
        update={
            "high_side": high.model_copy(
                update={"pumps": tuple(p.model_copy(update={"worn_um": 2.0}) for p in high.pumps)}
            )
        }
    )
    found = list(_next_hardware(worn, CATALOGUE))
    assert [(one.high_side.pumps[0].part, one.high_side.injectors.part) for one in found] == [
        (pumps[0], high.injectors.part),
        (pumps[0], injectors[0]),
    ]
    assert all(pump.part == pumps[0] and pump.worn_um == 0.0 for one in found for pump in one.high_side.pumps)
    assert all(len(one.high_side.pumps) == len(high.pumps) for one in found)
