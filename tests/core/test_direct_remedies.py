"""What is done first where direct injectors do not fit their window, and a bank that is short beside port injectors."""

from dataclasses import astuple

import numpy as np
import pytest
from scipy.interpolate import RegularGridInterpolator

from iron_gulp.core.account import solve_report
from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Build, Delivery, Efficiency, HighPump, HighPumpPart, apply
from iron_gulp.shelf import load_shelf
from tests.high_side import car_a

SHELF = load_shelf().catalogue


def _offered(one: Build) -> dict[str, tuple]:
    option = one.options[0]
    findings = find(one, option, judge_all(one, option), SHELF)
    (closed,) = [finding for finding in findings if finding.code == "window-closed"]
    return {remedy.label.split(" ")[0]: astuple(remedy) for remedy in closed.remedies}


def _open(one: Build) -> float:
    return judge_all(one, one.options[0])[0].load("direct injectors").load


def _short(cc_min: float, top_kpa: float) -> Build:
    return car_a(100, injectors=cc_min, target_kpa=top_kpa, pumps_count=2, base_kpa=550, vapour=None)


@pytest.mark.parametrize(("cc_min", "top_kpa", "raised_kpa"), [(1250, 18_000, 20_700), (1150, 20_000, 26_000)])
def test_a_rail_raised_by_the_first_step_that_opens_the_window(cc_min, top_kpa, raised_kpa):
    """By 15 % where that does, else by 30; what injectors pass goes by the root of the pressure across them."""
    one = _short(cc_min, top_kpa)
    _, edits, values = _offered(one)["Raise"]
    assert edits == (("options/o1/high_side/target/kpa", [pytest.approx(raised_kpa)]),)
    assert values == {"kpa_kpa": pytest.approx(raised_kpa)}
    cylinder = one.options[0].high_side.cylinder_kpa
    gain = np.sqrt((raised_kpa - cylinder) / (top_kpa - cylinder))
    assert _open(one) > 1
    assert _open(apply(one, edits)) == pytest.approx(_open(one) / gain, rel=0.02)
    assert _open(apply(one, edits)) <= 1


def test_a_rail_as_high_as_its_parts_bear_is_not_raised():
    one = _short(1000, 30_000)
    assert "Raise" in _offered(one)
    borne = one.options[0].high_side.borne_kpa
    bound = apply(one, [("options/o1/high_side/relief_kpa", 31_500)])
    assert borne > 31_500
    assert "Raise" not in _offered(bound)


def test_a_measured_efficiency_is_read_between_all_its_points():
    pressures, speeds = (5_000, 12_000, 18_000, 30_000), (2_000, 4_000, 6_000, 8_000)
    falls = ((92, 94, 90, 84), (88, 91, 85, 80), (81, 86, 78, 70), (60, 66, 64, 55))
    read = RegularGridInterpolator((pressures, speeds), np.array(falls) / 100)
    pump = HighPump(
        part=HighPumpPart(
            max_rail_kpa=60_000,
            efficiency=Efficiency(
                pressure_kpa=pressures,
                rpm=speeds,
                efficiency_pct=falls,
            ),
        )
    )
    for kpa, rpm in ((8_000, 3_000), (15_000, 5_500), (25_000, 7_000), (21_000, 2_500)):
        one = car_a(10, pumps=(pump,), target_kpa=kpa, rpm=rpm, base_kpa=650, branches=())
        found = solve_report(one, None, None)["peak"]["high_side"]["hp_pumps"][0]
        assert found["hp_fill_factor"] == pytest.approx(1.0)
        assert found["hp_efficiency"] == pytest.approx(read((kpa, rpm)).item(), rel=1e-6), (kpa, rpm)


def test_a_bank_that_is_short_gets_its_share_of_the_port_fuel():
    """Two rails of their own, one on a small pump: λ there by what both sides bring to half the cylinders."""
    pumps = tuple(
        HighPump(part=HighPumpPart(bore_mm=bore, max_rail_kpa=60_000), bank=bank) for bank, bore in ((1, 10), (2, 6))
    )
    delivery = Delivery(mode="share", direct_share_pct=70)
    one = car_a(
        200,
        ports=900,
        delivery=delivery,
        pumps=pumps,
        rails="own",
        cylinders=6,
        pumps_count=3,
        base_kpa=500,
        injectors=3000,
    )
    found = solve_report(one, None, None)["peak"]["high_side"]
    wanted = (found["hp_demand_kg_h"] + found["port_demand_kg_h"]) / 2
    factors = []
    for bank in found["hp_banks"]:
        brought = bank["hp_delivered_kg_h"] + found["port_delivered_kg_h"] / 2
        assert bank["bank_lambda_factor"] == pytest.approx(wanted / brought, rel=1e-6)
        factors.append(bank["bank_lambda_factor"])
    assert factors[0] == pytest.approx(1.0, abs=1e-3)
    assert factors[1] > 1.1


ABOUT = {
    "hp-short": ("high-pressure pump", lambda power: car_a(power)),
    "window-closed": ("direct injectors", lambda power: car_a(power, injectors=1250, pumps_count=2, vapour=None)),
    "hp-starved": ("high-pressure inlet", lambda power: car_a(power, base_kpa=200, pumps_count=2, vapour=None)),
}


@pytest.mark.parametrize("code", ABOUT)
def test_a_remedy_of_the_high_side_leaves_the_headroom_wanted_where_one_of_its_kind_does_and_says_what_it_reaches(code):
    about, made = ABOUT[code]
    roomy = []
    for power in range(80, 150, 5):
        one = made(power)
        spare = 1.0 / (1.0 + one.rules.headroom_pct / 100.0)
        option = one.options[0]
        findings = [each for each in find(one, option, judge_all(one, option), SHELF) if each.code == code]
        for remedy in (each for finding in findings for each in finding.remedies if "load_pct" in each.values):
            after = apply(one, remedy.edits)
            load = judge_all(after, after.options[0])[0].load(about).load
            assert remedy.values["load_pct"] == pytest.approx(100 * load, rel=1e-6)
            assert load <= 1.0
            roomy.append(load <= spare + 1e-9)
    assert len(roomy) >= 4
    assert sum(roomy) >= 0.75 * len(roomy)
