"""Demand and injectors against physics §2 and §3."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import InjectorSet
from iron_gulp.core.physics import blend
from iron_gulp.core.physics import demand as dem
from iron_gulp.core.physics import injectors as inj
from tests.systems import build, check_option, injectors

E60 = blend(0.6, 15.0)
HP_KW = 0.74569987


def test_consumption_school_check_value():
    crank = dem.crank_power_kw(480 * HP_KW, 0.22)
    assert float(crank) / HP_KW == pytest.approx(615.4, abs=0.05)
    bsfc = dem.blend_bsfc_kg_kwh(0.58 * dem.KG_KWH_PER_LB_HPH, 43.4, E60.lhv_mj_kg)
    assert float(bsfc) / dem.KG_KWH_PER_LB_HPH == pytest.approx(0.7584, rel=1e-3)
    fuel = float(dem.fuel_from_power_kg_s(crank, bsfc)) * 3600
    assert fuel == pytest.approx(211.7, rel=1e-3)
    assert fuel / float(E60.density_kg_m3) * 1000 == pytest.approx(273.5, rel=1e-3)


def test_air_school_check_value():
    air = float(dem.air_kg_s(2.5, 6800, 0.98, 250, 48))
    assert air == pytest.approx(0.3765, rel=1e-3)
    assert air / 0.45359237 * 60 == pytest.approx(49.8, rel=2e-3)
    fuel = float(dem.fuel_from_air_kg_s(air, 0.80, E60.stoich_afr)) * 3600
    assert fuel == pytest.approx(151.4, rel=1e-3)
    assert fuel / 211.7 - 1 == pytest.approx(-0.28, abs=0.01)


def test_credit_reproduces_the_shop_rule():
    e85 = blend(0.85, 15.0)
    base = blend(0.0, 15.0)
    ratio = dem.blend_bsfc_kg_kwh(1.0, 43.4, e85.lhv_mj_kg, 0.08) * base.density_kg_m3 / e85.density_kg_m3
    assert float(ratio) == pytest.approx(1.30, abs=0.01)


def test_measured_school_is_the_identity_on_its_own_run():
    flow = float(inj.open_flow_kg_s(1000, 300, 400, 762.2))
    same = dem.fuel_from_measured_kg_s(flow, 0.80, 0.05, 5, 1.0)
    assert float(same) == pytest.approx(flow * 0.75 * 5)
    assert float(dem.fuel_from_measured_kg_s(flow, 0.80, 0.05, 5, 1.2, 1.1)) == pytest.approx(float(same) * 1.32)


@pytest.mark.parametrize("loss", [-0.1, 1.0])
def test_impossible_driveline_loss_is_refused(loss):
    with pytest.raises(ValueError, match="driveline"):
        dem.crank_power_kw(100, loss)


def test_injector_flow_check_values():
    at_400 = float(inj.open_flow_kg_s(1000, 300, 400, 762.2))
    assert at_400 * 1e3 == pytest.approx(13.90, rel=1e-3)
    assert at_400 / 762.2 * 6e7 == pytest.approx(1093.9, rel=1e-3)
    assert float(inj.open_flow_kg_s(1000, 300, 300, 762.2)) * 1e3 == pytest.approx(12.03, rel=1e-3)


def test_duty_check_value():
    flow = inj.open_flow_kg_s(1000, 300, 300, 762.2)
    pulse = inj.effective_pulse_ms(211.7 / 3600, 5, 6800, flow)
    assert float(pulse) == pytest.approx(17.25, rel=1e-3)
    assert float(inj.cycle_ms(6800)) == pytest.approx(17.65, abs=0.005)
    assert float(inj.duty(pulse, 0.90, 6800)) == pytest.approx(1.028, rel=1e-3)


def test_fixed_reference_square_root_law():
    base = inj.open_flow_kg_s(1000, 300, 400, 750)
    assert float(inj.open_flow_kg_s(1000, 300, 400 - 160, 750) / base) == pytest.approx(0.7746, rel=1e-4)
    assert float(inj.open_flow_kg_s(1000, 300, 400 + 65, 750) / base) == pytest.approx(1.0782, rel=1e-4)


def test_no_flow_without_forward_pressure():
    assert inj.open_flow_kg_s(1000, 300, [-50.0, 0.0], 750).tolist() == [0.0, 0.0]
    assert np.isinf(inj.effective_pulse_ms(0.01, 4, 6000, 0.0))
    assert float(inj.effective_pulse_ms(0.0, 4, 6000, 0.0)) == 0.0


def test_required_fuel_check_value():
    flow = inj.open_flow_kg_s(1000, 300, 300, 745.0)
    assert float(inj.required_fuel_ms(0.5, flow, 14.7)) == pytest.approx(3.43, rel=5e-3)


def test_flow_at_duty_limit_inverts_duty():
    flow = inj.open_flow_kg_s(850, 300, 300, 760)
    passes = inj.flow_at_duty_kg_s(flow, 5, 6800, 0.9, 0.85)
    assert float(inj.duty(inj.effective_pulse_ms(passes, 5, 6800, flow), 0.9, 6800)) == pytest.approx(0.85)


def test_dead_time_between_and_beyond_its_table():
    table = ([10.0, 12.0, 14.0], [1.6, 1.2, 0.9])
    assert inj.dead_time_ms(*table, [8.0, 11.0, 14.0, 16.0]).tolist() == pytest.approx([1.6, 1.4, 0.9, 0.9])
    assert float(inj.dead_time_ms(*table, 14.0, 400.0, 300.0, 0.1)) == pytest.approx(1.0)


def test_swap_error_at_load_and_idle():
    assert float(inj.swap_lambda(0.85, 550, 850)) == pytest.approx(0.85 * 550 / 850)
    # At idle the longer dead time of the new injector eats the pulse: lean against the flow error alone.
    idle = float(inj.swap_lambda(1.0, 550, 850, 1.5, 0.8, 1.1))
    assert idle == pytest.approx(550 / 850 * 1.5 / 1.2)


@given(st.floats(50, 900), st.floats(50, 900), st.floats(600, 900))
def test_flow_rises_with_pressure(one, other, density):
    low, high = sorted((one, other))
    flows = inj.open_flow_kg_s(1000, 300, [low, high], density)
    assert flows[0] <= flows[1]


@pytest.mark.parametrize(
    ("fluid", "share"), [("n-heptane", 1.0), ("not said", 1.0), ("gasoline", 1.0408), ("calibration fluid", 1.0982)]
)
def test_a_rating_on_another_fluid_is_brought_to_n_heptane(fluid, share):
    part = injectors(1000.0, rated_on=fluid)
    assert part.heptane_cc_min == pytest.approx(1000.0 * share, rel=1e-4)
    passes = [
        judge_all(one, one.options[0])[0].load("injectors").load
        for one in (build(check_option(injectors=InjectorSet(part=each))) for each in (injectors(1000.0 * share), part))
    ]
    assert passes[0] == pytest.approx(passes[1], rel=1e-4)
