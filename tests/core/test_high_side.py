"""Direct injection against the check values of physics §7, the scalar reference, and what physics grants."""

import random
from dataclasses import replace
from math import pi
from types import SimpleNamespace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from bench.high_reference import Ask, fed_point, high_side, highest_over_mean
from iron_gulp.core.account import solve_report
from iron_gulp.core.advise.high_base import worst_pump
from iron_gulp.core.judge import judge, judge_all, judge_many
from iron_gulp.core.model import (
    Auxiliary,
    Build,
    Delivery,
    Efficiency,
    HighPump,
    HighPumpPart,
    HighSide,
    Option,
    RailTarget,
    apply,
)
from iron_gulp.core.physics import auxiliary, corrected_air_kg_s, take
from iron_gulp.core.physics import high_pressure as hp
from iron_gulp.core.solve import STATE_WORDS, RailState
from iron_gulp.core.solve.high_side import pump_rows
from iron_gulp.core.solve.settling import _state, explicit, passed_kg_s, settled
from iron_gulp.core.study import sprayed
from tests.draws import EVERY_DEMO, LONG
from tests.garage import car as garage_car
from tests.garage import changed
from tests.high_side import FUELS, KW, asked, car, car_a, injectors_of, twin
from tests.systems import demo, line

FEW = settings(max_examples=60 if LONG else 6 if EVERY_DEMO else 4)
MANY = 40 if LONG else 6 if EVERY_DEMO else 4
LOADS = {"low": "pumps", "pump": "high-pressure pump", "window": "direct injectors", "inlet": "high-pressure inlet"}


def near(value: float, share: float = 0.005) -> object:
    return pytest.approx(value, rel=share)


def peak(build: Build) -> dict:
    return solve_report(build, None, None)["peak"]["high_side"]


def loads(build: Build) -> dict:
    return {one["component"]: one for one in solve_report(build, None, None)["loads"]}


class TestCheckTable:
    """Every row of the table in physics §7."""

    @pytest.mark.parametrize(
        ("target_kpa", "rpm", "clearance", "efficiency", "l_h", "kg_h"),
        [
            (20_000, 6500, 3, 0.8848, 162.6, 115.9),
            (35_000, 6500, 3, 0.8576, 157.6, 112.4),
            (20_000, 1500, 3, 0.8760, 37.15, 26.49),
            (20_000, 1500, 6, 0.7963, 33.77, 24.08),
        ],
    )
    def test_a_pump_at_full_inlet(self, target_kpa, rpm, clearance, efficiency, l_h, kg_h):
        pump = HighPump(part=HighPumpPart(clearance_um=clearance, max_rail_kpa=60_000))
        found = peak(car_a(20, target_kpa=target_kpa, rpm=rpm, pumps=(pump,), branches=()))["hp_pumps"][0]
        assert found["hp_fill_factor"] == 1.0
        assert found["hp_efficiency"] == near(efficiency)
        assert found["hp_capacity_l_h"] == near(l_h)
        assert found["hp_capacity_kg_h"] == near(kg_h)

    def test_a_pump_leaks_past_each_of_its_plungers(self):
        """A concentric gap (π d h³ ÷ 12 μ l), half the time under pressure; a camshaft's pump has one plunger."""
        part = HighPumpPart(clearance_um=4.0, plungers=3, max_rail_kpa=60_000)
        several = part.model_copy(update={"driven": "several plungers"})
        for pump, gap_m, count in (
            (HighPump(part=part), 4e-6, 1),
            (HighPump(part=part, worn_um=4.0), 8e-6, 1),
            (HighPump(part=several), 4e-6, 3),
        ):
            bore_m, seal_m = pump.part.plunger_mm * 1e-3, pump.part.seal_mm * 1e-3
            one = 0.5 * np.pi * bore_m * gap_m**3 / (12 * 1e-3 * seal_m) * 1e3
            assert float(pump_rows(pump).leak_m3_s_kpa[0]) == pytest.approx(count * one, rel=1e-9, abs=0)

    @pytest.mark.parametrize(
        ("inlet", "rpm", "ethanol", "fill", "efficiency", "l_h", "kg_h", "needed"),
        [
            (250, 6500, 0, 0.8688, 0.7683, 141.2, 100.7, 314.4),
            (250, 6500, 85, 0.8474, 0.7503, 137.9, 103.5, 331.9),
            (100, 8000, 0, 0.4361, 0.3857, 87.25, 62.20, 476.3),
        ],
    )
    def test_a_pump_that_does_not_fill(self, inlet, rpm, ethanol, fill, efficiency, l_h, kg_h, needed):
        found = peak(car_a(20, ethanol=ethanol, rpm=rpm, base_kpa=inlet, branches=()))["hp_pumps"][0]
        assert found["hp_fill_factor"] == near(fill)
        assert found["hp_efficiency"] == near(efficiency)
        assert found["hp_capacity_l_h"] == near(l_h)
        assert found["hp_capacity_kg_h"] == near(kg_h)
        assert found["hp_head_needed_kpa"] == near(needed)

    def test_drive(self):
        # At full delivery, just on the edge of what the pump brings.
        found = peak(car_a(116.2, injectors=3000, branches=(), pumps_count=3))["hp_pumps"][0]
        share = found["hp_delivered_l_h"] / 162.6
        assert share == near(1.0)
        rail = peak(car_a(116.2, injectors=3000, branches=(), pumps_count=3))["hp_rail_kpa"]
        rise = (rail - 500.0) / 19_500.0
        assert found["hp_drive_power_w"] == near(1036 * share * rise)
        assert found["hp_drive_torque_mean_nm"] == near(3.045 * share * rise)
        assert found["hp_drive_torque_peak_nm"] == near(10.81 * rise)
        assert found["hp_follower_speed_m_s"] == near(2.042)
        assert found["hp_follower_accel_m_s2"] == near(2085)
        assert found["hp_follower_limit_rpm"] == near(7958)

    def test_injector_and_idle(self):
        at_20, at_15 = (peak(car_a(50, target_kpa=kpa))["direct_open_at_target_g_s"] for kpa in (20_000, 15_000))
        assert (at_20, at_15) == (near(24.06), near(20.66))
        report = solve_report(car_a(100, idle_fuel_kg_h=0.75, idle_rpm=850.0), None, None)
        assert report["idle"]["high_side"]["direct_effective_ms"] == near(0.5957)
        assert {one["component"]: one["load"] for one in report["loads"]}["direct injector idle"] == near(0.4197)

    @pytest.mark.parametrize(
        ("build", "expected"),
        [
            (car_a(100), ("holds target", 20_000, 100.0, 1.0, 83.11, {"pump": 0.8626})),
            (car_a(116.8, injectors=1900), ("sags inside the window", 16_290, 116.8, 1.0, 85.42, {"pump": 1.008})),
            (car_a(125), ("window closed, sagging", 18_730, 116.2, 1.076, 100.0, {})),
            (car_a(110, injectors=1300), ("window closed at target", 20_000, 104.3, 1.055, 100.0, {"pump": 0.9489})),
            (car_a(130, injectors=2600, floor=12_000), ("lean at the floor", 12_000, 117.8, 1.103, 74.25, {})),
            (car_a(112, volts=12), ("holds target", 20_000, 112.0, 1.0, 93.09, {})),
            (car_a(112, volts=11), ("window closed, sagging", 16_080, 107.2, 1.045, 100.0, {})),
        ],
    )
    def test_the_rail_in_its_states(self, build, expected):
        state, rail, delivered, lean, window, asked_loads = expected
        found = peak(build)
        assert found["hp_state"] == state
        assert found["hp_rail_kpa"] == near(rail, 0.05 if state.startswith("sags") else 0.005)
        assert found["hp_delivered_kg_h"] == near(delivered)
        assert found["lambda_factor"] == near(lean)
        assert found["direct_window_used_pct"] == near(window)
        for name, load in asked_loads.items():
            assert loads(build)[LOADS[name]]["load"] == near(load)

    @pytest.mark.parametrize(("volts", "node", "fill"), [(12, 352.4, 1.0), (11, 281.5, 0.9179)])
    def test_a_low_side_that_sinks(self, volts, node, fill):
        found = peak(car_a(112, volts=volts))
        assert found["hp_node_kpa"] == near(node)
        assert found["hp_fill_factor"] == near(fill)

    def test_twin_pumps_split(self):
        build = twin("split")
        found = peak(build)
        assert [one["hp_inlet_kpa"] for one in found["hp_pumps"]] == [near(457.8)] * 2
        assert [one["hp_delivered_kg_h"] for one in found["hp_banks"]] == [near(87.0)] * 2
        assert [one["bank_lambda_factor"] for one in found["hp_banks"]] == [near(1.0)] * 2
        told = loads(build)
        assert told["high-pressure pump"]["load"] == near(0.9839)
        assert told["high-pressure inlet"]["load"] == near(0.9974)

    def test_twin_pumps_one_after_the_other(self):
        found = peak(twin("series"))
        assert [one["hp_inlet_kpa"] for one in found["hp_pumps"]] == [near(442.2), near(399.4)]
        assert [one["hp_fill_factor"] for one in found["hp_pumps"]] == [near(0.9858), near(0.9414)]
        assert [one["hp_delivered_kg_h"] for one in found["hp_banks"]] == [near(87.0), near(83.69)]
        assert [one["hp_rail_kpa"] for one in found["hp_banks"]] == [near(20_000), near(17_340)]
        assert [one["bank_lambda_factor"] for one in found["hp_banks"]] == [near(1.0), near(1.040)]
        assert found["worst_bank_lambda_factor"] == near(1.040)

    @pytest.mark.parametrize(
        ("ethanol", "low", "pump", "window", "inlet"),
        [(0, 307.8, 317.6, 329.7, 404.7), (50, 254.8, 263.0, 268.7, 316.2), (85, 217.8, 224.8, 227.2, 280.6)],
    )
    def test_ceilings(self, ethanol, low, pump, window, inlet):
        told = loads(car_a(100, ethanol=ethanol))
        for name, power in (("low", low), ("pump", pump), ("window", window), ("inlet", inlet)):
            assert told[LOADS[name]]["ceiling_crank_kw"] == near(power), name

    @pytest.mark.parametrize(
        ("delivery", "boost", "direct", "port", "duty", "without_port", "lean"),
        [
            (Delivery(mode="ceiling", ceiling_use_pct=100), 150, 115.9, 44.08, 52.23, 1.380, 1.0),
            (Delivery(mode="share", direct_share_pct=60), 150, 96.0, 64.0, 73.64, 1.667, 1.0),
            (Delivery(mode="threshold", port_share_pct=45, start=80, width=60), 110, 116.2, 36.0, None, 1.377, 1.051),
            (Delivery(mode="threshold", port_share_pct=45, start=80, width=60), 150, 88.0, 72.0, 82.23, 1.818, 1.0),
        ],
    )
    def test_direct_and_port(self, delivery, boost, direct, port, duty, without_port, lean):
        """One regulator for both: at 450 kPa, and at 410 for the lower signal."""
        found = peak(both(delivery, boost))
        assert found["hp_delivered_kg_h"] == near(direct)
        assert found["port_delivered_kg_h"] == near(port)
        assert found["lambda_factor_if_port_stops"] == near(without_port)
        assert found["lambda_factor"] == near(lean)
        if duty is not None:
            assert found["port_duty_pct"] == near(duty)

    def test_a_port_rail_with_its_own_regulator(self):
        """The node at 500 kPa, the port rail at 450: as the table has it."""
        own = Delivery(mode="share", direct_share_pct=60, port_base_kpa=300)
        build = car_a(160, ports=550, delivery=own, boost=150, pumps_count=2)
        told, found = loads(build), peak(build)
        assert found["hp_node_kpa"] == near(500)
        assert found["port_duty_pct"] == near(73.64)
        powers = [told[one]["ceiling_crank_kw"] for one in (LOADS["pump"], LOADS["window"], "injectors", "pumps")]
        assert powers == [near(529.4), near(549.4), near(510.8), near(611.5)]

    def test_direct_stops(self):
        found = peak(both(Delivery(mode="ceiling", ceiling_use_pct=100), 150))
        assert found["lambda_factor_if_direct_stops"] == near(3.630)
        assert peak(both(Delivery(mode="share", direct_share_pct=60), 150))["lambda_factor_if_direct_stops"] == near(2.5)


def both(delivery: Delivery, boost: float) -> Build:
    return car_a(160, ports=550, delivery=delivery, boost=boost, pumps_count=2, base_kpa=300, reference="manifold")


def uneven(banks: tuple[int, ...], lows: int) -> Build:
    """Like pumps on rails of their own, two on one bank and one on the other: the lone one runs short first."""
    part = HighPumpPart(bore_mm=9, lift_mm=3.5, inlet_area_mm2=2.6, max_rail_kpa=60_000)
    pumps = tuple(HighPump(part=part, bank=bank) for bank in banks)
    high = {"pumps": pumps, "rails": "own", "feed": "split", "branches": tuple(line(5, 0.5, 2) for _ in banks)}
    return car(230, rpm=7000, base_kpa=460, cylinders=6, pumps_count=lows, injectors=2500, high=high)


class TestReference:
    """The core against the scalar reference, which goes about it the other way round."""

    @staticmethod
    def agrees(build: Build, at: dict) -> None:
        option, high = build.options[0], build.options[0].high_side
        found = at["high_side"]
        ask = Ask(
            at["rpm"],
            found["hp_demand_kg_h"] / 3600,
            (found["port_demand_kg_h"] or 0.0) / 3600,
            high.injectors.count or build.engine.cylinders,
            found["hp_target_kpa"],
            found["hp_floor_kpa"],
            high.cylinder_kpa,
        )
        target = build.targets[0]
        fuel = replace(FUELS[target.ethanol_pct], vapour_kpa_abs=found["hp_vapour_kpa_abs"])
        node, rails, port = fed_point(option, fuel, ask, target.boost_kpa, target.supply_v)
        assert found["hp_node_kpa"] == pytest.approx(node, rel=2e-3, abs=0.05)
        for bank, (delivered, rail) in zip(found["hp_banks"], rails, strict=True):
            assert bank["hp_delivered_kg_h"] == pytest.approx(delivered * 3600, rel=1e-4)
            assert bank["hp_rail_kpa"] == pytest.approx(rail, rel=5e-3)
        if ask.port:
            assert found["port_delivered_kg_h"] == pytest.approx(port * 3600, rel=2e-3)

    @pytest.mark.parametrize("seed", range(MANY))
    def test_random_systems(self, seed):
        build = random_car(np.random.default_rng(seed))
        self.agrees(build, solve_report(build, None, None)["peak"])

    @pytest.mark.parametrize(
        "build",
        [
            car_a(100),
            car_a(116.8, injectors=1900),
            car_a(125),
            car_a(110, injectors=1300),
            car_a(130, injectors=2600, floor=12_000),
            car_a(112, volts=11),
            twin("split"),
            twin("series"),
            both(Delivery(mode="share", direct_share_pct=60), 150),
            *(uneven(banks, lows) for banks in ((1, 1, 2), (1, 2, 2)) for lows in (1, 2)),
        ],
    )
    def test_every_state(self, build):
        self.agrees(build, solve_report(build, None, None)["peak"])


def random_car(draw: np.random.Generator) -> Build:
    """A direct-injected car with numbers drawn wide enough for every state."""
    twins = draw.random() < 0.5
    pumps = tuple(
        HighPump(
            part=HighPumpPart(
                bore_mm=draw.uniform(7, 12),
                lift_mm=draw.uniform(3, 6),
                lobes=int(draw.integers(2, 5)),
                inlet_area_mm2=draw.uniform(1.5, 6),
                clearance_um=draw.uniform(1, 6),
                efficiency=_table(draw) if draw.random() < 0.25 else None,
            ),
            bank=number + 1,
            drive_factor=draw.uniform(0.8, 1.5),
        )
        for number in range(2 if twins else 1)
    )
    high = {
        "pumps": pumps,
        "rails": "own" if draw.random() < 0.5 else "common",
        "feed": "series" if draw.random() < 0.5 else "split",
        "branches": tuple(line(draw.uniform(3.5, 9), draw.uniform(0.2, 1.2), draw.uniform(0, 6)) for _ in pumps),
    }
    port = draw.random() < 0.4
    # The reference knows no cap of the port side: its set pressure stays above the manifold.
    return car(
        draw.uniform(60, 260) * (1.6 if twins else 1.0),
        ethanol=int(draw.choice([0, 50, 85])),
        injectors=draw.uniform(900, 3500),
        rpm=draw.uniform(2500, 7500),
        volts=draw.uniform(10.5, 14.0),
        base_kpa=draw.uniform(300, 600),
        floor=draw.uniform(6_000, 14_000),
        target_kpa=draw.uniform(15_000, 30_000),
        pumps_count=int(draw.integers(1, 4)),
        cylinders=6,
        boost=100.0,
        ports=2500 if port else None,
        delivery=Delivery(mode="share", direct_share_pct=draw.uniform(40, 90)) if port else None,
        high=high,
    )


def _table(draw: np.random.Generator) -> Efficiency:
    falls = np.sort(draw.uniform(55, 95, (3, 2)), axis=0)[::-1]
    return Efficiency(pressure_kpa=(5_000, 15_000, 30_000), rpm=(2_000, 7_000), efficiency_pct=falls.tolist())


class TestInvariants:
    """A state never contradicts its numbers."""

    @pytest.mark.parametrize("seed", range(MANY))
    def test_states_and_balance(self, seed):
        build = random_car(np.random.default_rng(1000 + seed))
        report = solve_report(build, None, None)
        for name in ("peak", "idle"):
            at = report[name]
            found = at["high_side"]
            for bank in found["hp_banks"]:
                self.consistent(bank, found, len(found["hp_banks"]))
            taken = found["hp_delivered_kg_h"] + (found["port_delivered_kg_h"] or 0.0)
            low = at["supply_l_h"] - at["bypass_l_h"]
            assert taken == pytest.approx(low * report["fuel"]["density_kg_m3"] / 1000, rel=1e-6)
            pumps = sum(one["hp_delivered_kg_h"] for one in found["hp_pumps"])
            assert pumps == pytest.approx(found["hp_delivered_kg_h"], rel=1e-9)
            assert at["lambda_factor"] == pytest.approx(max(at["demand_kg_h"] / taken, 1.0), rel=1e-6)

    @staticmethod
    def consistent(bank: dict, found: dict, count: int) -> None:
        state, rail, target = bank["hp_state"], bank["hp_rail_kpa"], found["hp_target_kpa"]
        satisfied = bank["hp_delivered_kg_h"] >= found["hp_demand_kg_h"] / count * (1 - 1e-6)
        assert satisfied == (state in ("holds target", "sags inside the window"))
        assert (rail >= target * (1 - 1e-9)) == (state in ("holds target", "window closed at target"))
        assert found["hp_floor_kpa"] * (1 - 1e-9) <= rail <= target * (1 + 1e-9)
        assert bank["direct_window_used_pct"] <= 100.0 + 1e-4
        if state.startswith("window closed"):
            assert bank["direct_window_used_pct"] == pytest.approx(100.0, abs=1e-3)
        if state == "lean at the floor":
            assert rail == pytest.approx(found["hp_floor_kpa"])

    @FEW
    @given(st.floats(8.0, 13.0), st.floats(1.01, 1.3))
    def test_more_plunger_never_lowers_the_rail(self, bore, more):
        small, large = (
            peak(car_a(130, pumps=(_bored(one),), injectors=2600, branches=())) for one in (bore, bore * more)
        )
        assert large["hp_delivered_kg_h"] >= small["hp_delivered_kg_h"] * (1 - 1e-9) or large["hp_fill_factor"] < 1.0
        if large["hp_fill_factor"] == 1.0:
            assert large["hp_rail_kpa"] >= small["hp_rail_kpa"] * (1 - 1e-9)

    @FEW
    @given(st.floats(60.0, 118.0))
    def test_a_stronger_blend_never_eases_what_carries_more(self, kg_h):
        power = kg_h / KW
        each = [loads(car(None, power_kw=power, ethanol=one)) for one in (0, 50, 85)]
        for component in ("direct injectors", "pumps", "feed"):
            told = [one[component]["load"] for one in each]
            assert told == sorted(told), component
        if all(one["high-pressure inlet"]["load"] < 1 for one in each):
            told = [one["high-pressure pump"]["load"] for one in each]
            assert told == sorted(told)

    @FEW
    @given(st.floats(20.0, 60.0), st.floats(1.0, 20.0))
    def test_hotter_fuel_never_helps_the_inlet(self, temp, more):
        cool, hot = (
            peak(car(80, fuel_temp_c=one, vapour=None))["hp_pumps"][0]["hp_head_kpa"] for one in (temp, temp + more)
        )
        assert hot <= cool + 1e-6

    def test_where_neither_limits_the_other_both_are_as_alone(self):
        build = car_a(80, pumps_count=2)
        found = peak(build)
        fuel, high = FUELS[0], build.options[0].high_side
        ask = Ask(6500, 80 / 3600, 0.0, 4, 20_000, 8_000, 1_000)
        alone = high_side(high, fuel, ask, 500.0)
        assert found["hp_banks"][0]["hp_delivered_kg_h"] == pytest.approx(alone[0][0] * 3600, rel=1e-9)
        assert found["hp_node_kpa"] == pytest.approx(500.0, abs=1e-6)

    @pytest.mark.parametrize("seed", (0, 1, 2, 4) if not LONG else range(24))
    def test_a_ceiling_loads_its_component_to_one(self, seed):
        build = random_car(np.random.default_rng(2000 + seed))
        target = build.targets[0]
        for load in judge(build, build.options[0], target).loads:
            if load.ceiling_kw is None or load.component == "engine" or not np.isfinite(load.ceiling_kw):
                continue
            there = target.model_copy(update={"power_kw": load.ceiling_kw})
            asked = (build.model_copy(update={"targets": (there,)}), build.options[0], there)
            (again,) = judge_many([asked], ceilings=False)
            assert again.load(load.component).load == pytest.approx(1.0, abs=0.01), load.component

    def test_many_at_once_are_as_each_alone(self):
        builds = [random_car(np.random.default_rng(3000 + seed)) for seed in range(12)]
        asked = [(one, one.options[0], one.targets[0]) for one in builds]
        for one, verdict in zip(asked, judge_many(asked, ceilings=False), strict=True):
            (alone,) = judge_many([one], ceilings=False)
            for a, b in zip(alone.loads, verdict.loads, strict=True):
                assert a.load == pytest.approx(b.load, rel=1e-6), a.component


def _bored(bore_mm: float) -> HighPump:
    return HighPump(part=HighPumpPart(bore_mm=bore_mm))


class TestCases:
    """Particular pumps and rails."""

    @pytest.mark.parametrize("feed", ["split", "series"])
    def test_the_worst_rail_and_the_worst_pump_are_those_that_stand_worst(self, feed):
        build = twin(feed)
        (verdict,) = judge_many([(build, build.options[0], build.targets[0])], ceilings=False)
        direct = verdict.points.direct
        shares = [float(one.head_needed_kpa[0] / one.head_kpa[0]) for one in direct.pumps]
        density = verdict.fuel.density_kg_m3
        own = [float(one.delivered_kg_s[0]) / density for one in direct.pumps]
        carried = [sum(own[at:]) if feed == "series" else own[at] for at in (0, 1)]
        assert [float(one.branch_m3_s[0]) for one in direct.pumps] == pytest.approx(carried, rel=0.02)
        number, pump = worst_pump(verdict)
        assert number == 1 + int(np.argmax(shares))
        assert pump is direct.pumps[number - 1]
        lean = [float(one.lambda_factor[0]) for one in direct.rails]
        assert float(direct.worst.lambda_factor[0]) == max(lean)
        if lean[0] == lean[1]:
            assert float(direct.worst.rail_kpa[0]) == min(float(one.rail_kpa[0]) for one in direct.rails)

    @pytest.mark.parametrize("kg_h", [173, 185])
    def test_of_two_rails_the_one_that_sags_stands_worse_wherever_it_is(self, kg_h):
        strong, weak = _bored(11.0), _bored(8.6).model_copy(update={"bank": 2})
        for first, second in ((strong, weak), (weak, strong)):
            pumps = (first.model_copy(update={"bank": 1}), second.model_copy(update={"bank": 2}))
            build = car_a(kg_h, pumps=pumps, rails="own", injectors=3000, pumps_count=3, branches=())
            (verdict,) = judge_many([(build, build.options[0], build.targets[0])], ceilings=False)
            rails = verdict.points.direct.rails
            keys = [(float(one.lambda_factor[0]), int(one.state[0]), -float(one.rail_kpa[0])) for one in rails]
            assert keys[0] != keys[1]
            worst = rails[keys.index(max(keys))]
            assert float(verdict.points.direct.worst.rail_kpa[0]) == float(worst.rail_kpa[0])

    def test_what_rails_pass_is_the_same_with_and_without_how_high_they_stand(self, monkeypatch):
        """Unlike pumps on a common rail and pumps known by a table, short of fuel: both are sought in turns."""
        looked = []

        def both_ways(at, node_kpa):
            total = passed_kg_s(at, node_kpa)
            assert total == pytest.approx(settled(at, node_kpa).total_kg_s, rel=1e-12)
            looked.append(explicit(at))
            return total

        monkeypatch.setattr("iron_gulp.core.solve.feeding.passed_kg_s", both_ways)
        table = Efficiency(pressure_kpa=(10_000, 30_000), rpm=(6_000,), efficiency_pct=((90,), (80,)))
        measured = HighPump(part=HighPumpPart(efficiency=table, max_rail_kpa=60_000))
        for pumps in ((_bored(8.0), _bored(10.0)), (measured,), (_bored(9.0),)):
            one = car_a(130 * len(pumps), pumps=pumps, injectors=3000, base_kpa=420, branches=())
            judge_many([(one, one.options[0], one.targets[0])], ceilings=False)
        assert {True, False} == set(looked)

    def test_a_share_over_stock_is_a_larger_plunger_at_the_same_lift(self):
        stock = HighPumpPart()
        more = HighPumpPart(over_stock_pct=44.0)
        assert more.plunger_mm == pytest.approx(stock.bore_mm * 1.2)
        implied = HighPumpPart(bore_mm=12.0)
        found = [peak(car_a(50, pumps=(HighPump(part=one),)))["hp_capacity_kg_h"] for one in (more, implied)]
        assert found[0] == pytest.approx(found[1], rel=1e-9)

    def test_several_plungers_move_their_displacement(self):
        part = HighPumpPart(driven="several plungers", displacement_cc=1.2, plungers=3, inlet_area_mm2=50)
        found = peak(car_a(50, pumps=(HighPump(part=part, cam_ratio=1.0),), branches=()))
        swept_l_h = 1.2e-3 * 6500 * 60
        assert found["hp_pumps"][0]["hp_stroke_hz"] == pytest.approx(3 * 6500 / 60)
        assert found["hp_capacity_l_h"] == near(swept_l_h * found["hp_pumps"][0]["hp_efficiency"])

    @pytest.mark.parametrize(
        ("plungers", "ratio", "need", "full_l_h", "cases"),
        [
            (2, 1.0, 127.4, 234.0, {500: (1.0, 0.8844, 206.9), 50: (0.4952, 0.4375, 102.4)}),
            (3, 1.0, 107.9, 234.0, {500: (1.0, 0.8835, 206.7), 50: (0.4996, 0.4410, 103.2)}),
            (6, 1.0, 107.9, 234.0, {500: (1.0, 0.8812, 206.2), 50: (0.4996, 0.4398, 102.9)}),
            (3, 1.5, 242.7, 351.0, {200: (0.8538, 0.7550, 265.0)}),
        ],
    )
    def test_several_plungers_share_an_inlet_whose_flow_is_nearly_steady(self, plungers, ratio, need, full_l_h, cases):
        """Check values of physics §7: 0.6 cc a turn, 6500 rpm, 4 mm², E0."""
        part = HighPumpPart(driven="several plungers", displacement_cc=0.6, plungers=plungers, inlet_area_mm2=4.0)
        rows = pump_rows(HighPump(part=part, cam_ratio=1.0, drive_factor=ratio))
        swept = float((rows.stroke_m3 * rows.strokes)[0]) * 6500 / 60
        assert swept * 3.6e6 == near(full_l_h)
        assert float(hp.head_needed_kpa(4.0, 745.0, swept, plungers)) == near(need)
        follows, whole = hp.inlet_share(4.0, 745.0, swept, plungers)
        for inlet, (fill, efficiency, l_h) in cases.items():
            head = inlet + 101.325 - 124.4
            found = float(hp.filled(follows * head**0.5, whole))
            leak = hp.leak_m3_s_per_kpa(part.plunger_mm, 3.0, 15.0, plungers)
            loss = float(hp.loss_per_kpa(1.0, 1100.0, leak, 0.3151, swept))
            share = found * 0.92 * (1.0 - loss * (20_000 - inlet))
            assert (found, share, share * swept * 3.6e6) == (near(fill), near(efficiency), near(l_h))

    def test_each_of_several_plungers_has_its_own_follower_and_they_pull_together(self):
        part = HighPumpPart(driven="several plungers", displacement_cc=0.6, plungers=3)
        found = peak(car_a(50, pumps=(HighPump(part=part, cam_ratio=1.0),), branches=()))["hp_pumps"][0]
        assert found["hp_stroke_hz"] == near(325)
        assert found["hp_follower_accel_m_s2"] == near(1468)
        rise = 20_000 - found["hp_inlet_kpa"]
        assert found["hp_drive_torque_peak_nm"] == near(2.294 * rise / (20_000 - 500))
        told = part.model_copy(update={"plunger_lift_mm": 3.0})
        assert (told.stroke_mm, told.plunger_mm**2 * pi / 4 * 3 * 3) == (3.0, near(600.0))
        # Three like one at a third of the displacement: the sweep is that of all, the follower is one's own.
        one = HighPumpPart(bore_mm=part.plunger_mm, lift_mm=part.stroke_mm, lobes=1)
        alone = peak(car_a(50, pumps=(HighPump(part=one, cam_ratio=1.0),), branches=()))["hp_pumps"][0]
        assert found["hp_follower_limit_rpm"] == near(alone["hp_follower_limit_rpm"])

    def test_peaks_of_several_are_those_of_going_round(self):
        for plungers in range(1, 13):
            assert float(hp.peak_over_mean(plungers)) == pytest.approx(highest_over_mean(plungers), rel=1e-6)
        assert [round(float(hp.peak_over_mean(n)), 3) for n in (3, 4, 5, 6)] == [1.047, 1.111, 1.017, 1.047]

    def test_a_faster_drive_of_several_plungers_keeps_its_followers_on_the_lobe(self):
        """It was three times too fast for each of three, and asked for springs of thousands of newtons."""
        part = HighPumpPart(driven="several plungers", displacement_cc=0.6, plungers=3)
        for ratio in (1.0, 1.5):
            found = peak(car_a(50, pumps=(HighPump(part=part, cam_ratio=1.0, drive_factor=ratio),), branches=()))
            assert found["hp_pumps"][0]["hp_follower_limit_rpm"] * ratio == near(9482)

    def test_a_measured_table_replaces_the_model_but_not_the_filling(self):
        table = Efficiency(pressure_kpa=(10_000, 30_000), rpm=(6_000,), efficiency_pct=((90,), (80,)))
        pump = HighPump(part=HighPumpPart(efficiency=table))
        full = peak(car_a(50, pumps=(pump,)))["hp_pumps"][0]
        assert full["hp_efficiency"] == pytest.approx(0.85)
        starved = peak(car_a(50, pumps=(pump,), base_kpa=250, branches=()))["hp_pumps"][0]
        assert starved["hp_efficiency"] == near(0.85 * 0.8688)

    def test_the_target_follows_the_table_and_is_level_beyond_it(self):
        table = RailTarget(rpm=(2_000, 6_000), kpa=(10_000, 20_000))
        for rpm, kpa in ((1_000, 10_000), (4_000, 15_000), (6_500, 20_000)):
            assert peak(car_a(20, rpm=rpm, target=table))["hp_target_kpa"] == pytest.approx(kpa)

    def test_the_floor_is_half_the_target_unless_told(self):
        assert peak(car_a(50, floor=None))["hp_floor_kpa"] == pytest.approx(10_000)
        idle = solve_report(car_a(50), None, None)["idle"]["high_side"]
        assert idle["hp_floor_kpa"] == idle["hp_target_kpa"] == pytest.approx(5_000)

    def test_pumps_on_a_common_rail_share_by_what_each_could_bring(self):
        pumps = (_bored(8.0), _bored(11.0))
        found = peak(car_a(120, pumps=pumps, injectors=3000, pumps_count=3, branches=()))["hp_pumps"]
        shares = [one["hp_delivered_kg_h"] / one["hp_capacity_kg_h"] for one in found]
        assert shares[0] == pytest.approx(shares[1], rel=1e-9)

    def test_states_have_words(self):
        assert set(STATE_WORDS) == set(RailState)

    def test_points_can_be_taken_apart(self):
        rows = take(np.arange(4.0), np.array([1, 2]))
        assert rows.tolist() == [1.0, 2.0]


def refused(**changes: object) -> str:
    with pytest.raises(ValueError, match=r".") as caught:
        HighSide(pumps=(HighPump(),), injectors=injectors_of(1500), **changes)
    return str(caught.value)


class TestRefusals:
    """Wrong input is refused clearly."""

    @pytest.mark.parametrize(
        ("make", "word"),
        [
            (lambda: HighPump(cam_ratio=0), "cam_ratio"),
            (lambda: HighPumpPart(lobes=0), "lobes"),
            (lambda: HighPumpPart(valve_factor=1.2), "valve_factor"),
            (lambda: HighPumpPart(mech_efficiency_pct=120), "mech_efficiency_pct"),
            (lambda: Efficiency(pressure_kpa=(1,), rpm=(1,), efficiency_pct=((120,),)), "efficiency_pct"),
            (lambda: Efficiency(pressure_kpa=(1, 2), rpm=(1,), efficiency_pct=((50,), (60,))), "must not rise"),
            (lambda: RailTarget(rpm=(1, 2), kpa=(5_000,)), "one pressure for each"),
        ],
    )
    def test_parts(self, make, word):
        with pytest.raises(ValueError, match=word):
            make()

    def test_plumbing(self):
        assert "window_deg" in refused(window_deg=721)
        assert "feed lines" in refused(branches=(line(8, 1, 1), line(8, 1, 1)))
        option = asked(car_a(50)).model_dump()
        with pytest.raises(ValueError, match="needs port injectors"):
            Option.model_validate({**option, "delivery": {"mode": "share"}})
        with pytest.raises(ValueError, match="needs direct injection"):
            Option.model_validate({**option, "high_side": None, "injectors": None, "delivery": {"mode": "share"}})


class TestAir:
    """The compressor's ceiling, against numbers worked out by hand."""

    def test_air_is_corrected_to_15_degrees_and_one_atmosphere(self):
        # 0.4 kg/s at 30 °C and 90 kPa: × √(303.15 ÷ 288.15) × 101.325 ÷ 90.
        assert float(corrected_air_kg_s(0.4, 30.0, 90.0)) == pytest.approx(0.46191, rel=1e-4)
        assert float(corrected_air_kg_s(0.4, 15.0, 101.325)) == pytest.approx(0.4)

    def test_its_ceiling_is_the_power_at_which_it_is_full(self):
        one = car_a(80, compressor_kg_s=0.3, intake_c=30.0)
        verdict = judge(one, one.options[0], one.targets[0])
        load = verdict.load("compressor")
        there = one.targets[0].model_copy(update={"power_kw": load.ceiling_kw})
        again = one.model_copy(update={"targets": (there,)})
        assert judge(again, again.options[0], there).load("compressor").load == pytest.approx(1.0, rel=1e-9)
        assert not [
            one for one in judge(car_a(80), asked(car_a(80)), car_a(80).targets[0]).loads if one.title == "Compressor"
        ]

    def test_a_ceiling_below_air_already_logged_is_refused_with_both_numbers(self):
        with pytest.raises(ValueError, match=r"0\.02 kg/s lies below the 30 g/s"):
            car_a(80, compressor_kg_s=0.02, idle_air_g_s=30.0)


class TestSecondLiquid:
    """Water and alcohol sprayed into the charge."""

    def test_water_counts_for_nothing_and_methanol_for_its_air(self):
        assert float(auxiliary.air_burnt_kg_kg(0.0, 0.0)) == 0.0
        assert float(auxiliary.air_burnt_kg_kg(1.0, 0.0)) == pytest.approx(6.46)
        assert float(auxiliary.mixture_kg_m3(0.5, 0.0)) == pytest.approx((795.6 + 998.0) / 2)

    def test_a_nozzle_sprays_by_the_root_of_pressure_above_its_opening(self):
        flow = [float(auxiliary.nozzle_kg_s(600, 700, across, 150, 998.0)) for across in (150, 175, 700)]
        assert flow[0] == 0.0
        assert flow[2] == pytest.approx(600e-6 / 60 * 998)
        assert flow[1] == pytest.approx(flow[2] / 2)

    @pytest.mark.parametrize(("methanol", "ethanol"), [(0.0, 0.0), (1.0, 0.0), (0.0, 1.0), (0.5, 0.0), (0.3, 0.25)])
    def test_the_charge_cools_by_the_latent_heat_of_each_by_mass(self, methanol, ethanol):
        """Heats of vaporisation by mole at 25 °C (37.34, 42.32 and 43.99 kJ), molar masses, and air's 1.005 kJ/(kg K)."""
        litres = {"methanol": methanol, "ethanol": ethanol, "water": 1.0 - methanol - ethanol}
        heavy = {"methanol": 0.7956, "ethanol": 0.7936, "water": 0.998}
        per_kg = {"methanol": 37.34 / 32.04e-3, "ethanol": 42.32 / 46.07e-3, "water": 43.99 / 18.015e-3}
        kg = {one: litres[one] * heavy[one] for one in litres}
        heat = sum(kg[one] * per_kg[one] for one in kg) / sum(kg.values())
        found = float(auxiliary.charge_cooling_k(0.02, methanol, ethanol, 0.5))
        assert found == pytest.approx(0.02 * heat / (0.5 * 1.005), rel=2e-3)

    @pytest.mark.parametrize(
        ("place", "share"), [("before the throttle", 0.6), ("in the plenum", 0.4), ("in each runner", 0.2)]
    )
    def test_it_cools_by_what_has_evaporated_where_it_is_sprayed(self, place, share):
        one = car_a(100, boost=150.0)
        verdict = judge(one, one.options[0], one.targets[0])
        told = Auxiliary(methanol_pct=30, ethanol_pct=25, nozzle_cc_min=300, full_kpa=120, opening_kpa=50, place=place)
        found = sprayed(told, verdict)
        most = float(auxiliary.charge_cooling_k(found.flow_kg_s, 0.3, 0.25, verdict.demand.air_kg_s))
        assert found.cooling_k == pytest.approx(share * most)
        # Water and alcohols by volume: what a litre of the mixture weighs.
        litre = 0.3 * 0.7956 + 0.25 * 0.7936 + 0.45 * 0.998
        assert found.minutes == pytest.approx(told.tank_l * litre / found.flow_kg_s / 60, rel=1e-3)

    def test_without_it_the_mixture_is_leaner_by_its_share(self):
        one = car_a(100, boost=150.0)
        verdict = judge(one, one.options[0], one.targets[0])
        told = Auxiliary(methanol_pct=100, nozzle_cc_min=300, full_kpa=120, opening_kpa=50)
        found = sprayed(told, verdict)
        fuel_air = verdict.demand.chosen_kg_s * verdict.fuel.stoich_afr
        left = fuel_air - found.flow_kg_s * 6.46
        assert found.lambda_without == pytest.approx(found.lambda_with * fuel_air / left)
        assert sprayed(told.model_copy(update={"start_kpa": 160, "full_kpa": 200}), verdict).flow_kg_s == 0.0
        water = sprayed(told.model_copy(update={"methanol_pct": 0.0}), verdict)
        assert water.lambda_without == water.lambda_with
        assert water.minutes == pytest.approx(told.tank_l * 0.998 / water.flow_kg_s / 60)


@pytest.mark.parametrize("name", ["dunlin"])
def test_states_of_a_rail_never_contradict_its_numbers(name):
    """Over random changes: no fuel is not a window closed at target, and a rail above its floor is not lean at it."""
    random = np.random.default_rng(29)
    one = demo(name)
    options = [option for option in one.options if option.high_side is not None]
    for _ in range(200 if LONG else 24):
        option = options[int(random.integers(len(options)))]
        high, worn = option.high_side, float(random.uniform(0.0, 50.0)) * float(random.random() < 0.6)
        path = f"options/{option.id}/high_side"
        edits = [(f"{path}/pumps/{n}/worn_um", worn) for n in range(len(high.pumps))]
        edits += [(f"targets/{each.id}/power_kw", float(random.uniform(40.0, 900.0))) for each in one.targets]
        edits += [(f"targets/{each.id}/rpm", float(random.uniform(1200.0, 6800.0))) for each in one.targets]
        changed = apply(one, edits)
        for verdict in judge_all(changed, changed.option(option.id)):
            direct = verdict.points.direct
            if direct is None:
                continue
            for rail in direct.rails:
                state, kpa = int(rail.state[0]), float(rail.rail_kpa[0])
                if float(direct.direct_kg_s[0]) > 0 and float(rail.delivered_kg_s[0]) <= 0:
                    assert state == RailState.LEAN
                if state == RailState.LEAN:
                    assert kpa == pytest.approx(float(direct.floor_kpa[0]), rel=1e-4)
                if state in (RailState.HOLDS, RailState.CLOSED_AT_TARGET):
                    assert kpa == pytest.approx(float(direct.target_kpa[0]), rel=1e-4)


@pytest.mark.parametrize(
    ("rail", "delivered", "state"),
    [
        (20_000.0, 1.0, RailState.HOLDS),
        (20_000.0, 0.5, RailState.CLOSED_AT_TARGET),
        (15_000.0, 1.0, RailState.SAGS),
        (15_000.0, 0.5, RailState.CLOSED_SAGGING),  # above its floor: whatever keeps it there is no floor
        (8_000.0, 0.5, RailState.LEAN),
        (8_000.0, 0.0, RailState.LEAN),  # no fuel is no window closed at its target
    ],
)
def test_the_state_of_a_rail_is_what_its_pressure_and_its_fuel_say(rail, delivered, state):
    at = SimpleNamespace(
        target_kpa=np.array([20_000.0]),
        floor_kpa=np.array([8_000.0]),
        cylinder_kpa=np.array([1_000.0]),
        passes=np.array([1.0]),  # a window that would pass far more
        rails=((0,),),
    )
    found = _state(at, np.array([1.0]), np.array([rail]), np.array([delivered]))
    assert found.tolist() == [int(state)]


@pytest.mark.parametrize("seed", range(4))
def test_pumps_of_one_rail_fed_in_series_share_by_what_each_brings_there(seed):
    """Unequal, with measured tables: settled when both have the same command, whatever turns that takes."""
    rng = random.Random(seed)
    table = {
        "pressure_kpa": [5_000.0, 15_000.0, 25_000.0],
        "rpm": [1_000.0, 8_000.0],
        "efficiency_pct": [[92.0, 88.0], [88.0, 82.0], [82.0, 74.0]],
    }
    edits = {
        "~high_side/feed": "series",
        "~high_side/pumps/0/part/efficiency": table,
        "~high_side/pumps/1/part/efficiency": table,
        "~high_side/pumps/1/part/bore_mm": rng.uniform(7.0, 10.0),
        "~high_side/branches/1/part/bore_mm": rng.uniform(1.8, 3.0),
        "~pumps/g1/derate_pct": rng.uniform(0.0, 50.0),
        "targets/t1/power_kw": rng.uniform(300.0, 500.0),
    }
    one = changed(garage_car("Direct-injected V8, pumps on a common rail"), edits)
    direct = judge(one, one.options[0], one.targets[0]).points.direct
    first, second = (float(pump.delivered_kg_s[0]) / float(pump.capacity_kg_s[0]) for pump in direct.pumps)
    assert first == pytest.approx(second, rel=1e-6)
