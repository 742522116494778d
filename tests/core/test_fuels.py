"""Fuels against physics §1 and against the limits a blend must keep."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.interpolate import PchipInterpolator

from iron_gulp.core.physics import ETHANOL, GASOLINE, KPA_PER_PSI, METHANOL, fill_to_blend, fuels, read_ethanol_sensor

TABLE = [  # E, mass fraction, AFR, LHV, density at 15 °C, ratio same air, ratio same energy
    (0.0, 0.0, 14.70, 43.40, 745.0, 1.0, 1.0),
    (0.10, 0.1058, 14.10, 41.64, 749.9, 1.036, 1.035),
    (0.50, 0.5158, 11.76, 34.84, 769.3, 1.2105, 1.2064),
    (0.85, 0.8579, 9.81, 29.16, 786.3, 1.4197, 1.4102),
]
shares = st.floats(0, 1)


@pytest.mark.parametrize("row", TABLE)
def test_blend_table(row):
    ethanol, mass, afr, lhv, density, air, energy = row
    mix = fuels.blend(ethanol, 15.0)
    assert float(mix.mass_fraction) == pytest.approx(mass, rel=1e-3, abs=1e-9)
    assert float(mix.stoich_afr) == pytest.approx(afr, rel=1e-3)
    assert float(mix.lhv_mj_kg) == pytest.approx(lhv, rel=1e-3)
    assert float(mix.density_kg_m3) == pytest.approx(density, rel=1e-4)
    assert float(fuels.volume_ratio_same_air(ethanol)) == pytest.approx(air, rel=1e-3)
    assert float(fuels.volume_ratio_same_energy(ethanol)) == pytest.approx(energy, rel=1e-3)


def test_density_of_e60_at_30_c():
    assert float(fuels.density_kg_m3(0.6, 30.0)) == pytest.approx(762.2, abs=0.05)


@pytest.mark.parametrize(("temp_c", "kpa"), [(20, 37.1), (37.78, 66.0), (50, 94.6), (60, 124.4)])
def test_vapour_pressure_of_rvp_9(temp_c, kpa):
    assert float(fuels.vapour_pressure_kpa_abs(9 * KPA_PER_PSI, temp_c)) == pytest.approx(kpa, rel=5e-3)


@pytest.mark.parametrize(("temp_c", "mpa_s"), [(0, 1.82), (15, 1.32), (20, 1.19), (40, 0.82), (60, 0.58)])
def test_ethanol_viscosity(temp_c, mpa_s):
    assert float(fuels.viscosity_mpa_s(1.0, temp_c)) == pytest.approx(mpa_s, rel=1e-9)
    assert temp_c != 20 or ETHANOL.viscosity_20c_mpa_s == mpa_s


def test_base_viscosities_and_their_fall():
    assert float(fuels.viscosity_mpa_s(0.0, 20.0)) == pytest.approx(0.53)
    assert float(fuels.viscosity_mpa_s(0.0, 20.0, METHANOL)) == pytest.approx(0.59)
    assert float(fuels.viscosity_mpa_s(0.0, 21.0)) / 0.53 == pytest.approx(1 - 0.013, abs=2e-4)


def test_reid_pressure_of_blends():
    base = float(fuels.reid_pressure_kpa(0.0))
    assert float(fuels.reid_pressure_kpa(0.10)) - base == pytest.approx(7.0)
    assert float(fuels.reid_pressure_kpa(0.475)) == pytest.approx(base)
    assert float(fuels.reid_pressure_kpa(0.85)) - base == pytest.approx(-20.0)
    assert float(fuels.reid_pressure_kpa(1.0)) == pytest.approx(16.0)


@pytest.mark.parametrize(
    ("alcohol", "pressures"), [(ETHANOL, (5.88, 15.9, 46.7, 72.0)), (METHANOL, (13.0, 32.0, 84.7, 125.4))]
)
def test_pure_alcohols_follow_their_own_curve(alcohol, pressures):
    assert fuels.saturation_kpa_abs(alcohol, [20, 37.78, 60, 70]) == pytest.approx(pressures, rel=0.01)
    with pytest.raises(ValueError, match="no saturation curve"):
        fuels.saturation_kpa_abs(GASOLINE, 20.0)


@pytest.mark.parametrize(
    ("ethanol", "pressures"),
    [(0.10, (37.5, 72.6, 149.3)), (0.50, (25.9, 62.3, 161.2)), (0.85, (15.9, 42.2, 120.9)), (1.0, (5.9, 16.0, 47.1))],
)
def test_vapour_pressure_of_blends(ethanol, pressures):
    assert fuels.blend(ethanol, [20, 37.78, 60]).vapour_kpa_abs == pytest.approx(pressures, rel=6e-3)


@pytest.mark.parametrize(("ethanol", "rvp"), [(0.70, 52.0), (0.78, 47.1), (0.85, 42.0), (0.90, 33.4)])
def test_reid_pressure_of_strong_blends(ethanol, rvp):
    assert float(fuels.reid_pressure_kpa(ethanol)) == pytest.approx(rvp, rel=5e-3)


def test_other_bases_blend_by_molecules_and_not_by_the_gasoline_table():
    assert float(fuels.reid_pressure_kpa(0.0, METHANOL)) == METHANOL.rvp_kpa
    assert float(fuels.blend(0.0, 60.0, METHANOL).vapour_kpa_abs) == pytest.approx(84.7, rel=0.01)
    race = fuels.BaseFuel("race fuel", 720.0, 1e-3, 14.9, 44.0, 0.5, 40.0)
    half = 0.5 * 793.6 / 46.07 / (0.5 * 793.6 / 46.07 + 0.5 * 720.0 / 105.0)
    assert float(fuels.reid_pressure_kpa(0.5, race)) == pytest.approx(half * 16.0 + (1 - half) * 40.0)


@given(shares, st.floats(-40, 90))
def test_blend_lies_between_its_components(ethanol, temp_c):
    mix = fuels.blend(ethanol, temp_c)
    assert ETHANOL.stoich_afr - 1e-9 <= float(mix.stoich_afr) <= GASOLINE.stoich_afr + 1e-9
    low, high = sorted(float(fuels.density_kg_m3(e, temp_c)) for e in (0.0, 1.0))
    assert low - 1e-9 <= float(mix.density_kg_m3) <= high + 1e-9
    assert np.isfinite(float(mix.vapour_kpa_abs))
    assert float(mix.viscosity_mpa_s) > 0


@given(shares, shares)
def test_more_ethanol_needs_more_volume(one, other):
    low, high = sorted((one, other))
    assert float(fuels.volume_ratio_same_air(low)) <= float(fuels.volume_ratio_same_air(high)) + 1e-12


@pytest.mark.parametrize("ethanol", [-0.01, 1.01])
def test_impossible_blend_is_refused(ethanol):
    with pytest.raises(ValueError, match="between 0 and 1"):
        fuels.blend(ethanol, 20.0)


def test_vectorised_like_scalar():
    grid = np.linspace(0, 1, 7)[:, None], np.array([0.0, 30.0])
    mix = fuels.blend(*grid)
    assert mix.density_kg_m3.shape == (7, 2)
    assert mix.viscosity_mpa_s[3, 1] == pytest.approx(float(fuels.viscosity_mpa_s(0.5, 30.0)))


def test_tank_mixing_check_value():
    fill = fill_to_blend(60, 18, 12, 50, 78, 10)
    assert (fill.strong_l, fill.weak_l) == pytest.approx((34.76, 7.24), abs=0.01)
    assert fill.reachable


def test_unreachable_mix_says_what_can_be_reached():
    fill = fill_to_blend(60, 40, 10, 80, 85, 10)
    assert not fill.reachable
    assert fill.highest_pct == pytest.approx((40 * 10 + 20 * 85) / 60)
    assert (fill.strong_l, fill.reached_pct) == pytest.approx((20.0, fill.highest_pct))


@given(st.floats(0, 60), st.floats(0, 100), st.floats(0, 100))
def test_mixing_conserves_ethanol_and_volume(held_l, held_pct, target):
    fill = fill_to_blend(60, held_l, held_pct, target, 85, 5)
    assert held_l + fill.strong_l + fill.weak_l == pytest.approx(60)
    ethanol = held_l * held_pct + fill.strong_l * 85 + fill.weak_l * 5
    assert ethanol / 60 == pytest.approx(fill.reached_pct, abs=1e-6)


@pytest.mark.parametrize("bad", [(60, 70, 10, 50, 85, 10), (60, 10, 10, 50, 10, 85)])
def test_mixing_refuses_nonsense(bad):
    with pytest.raises(ValueError, match="must"):
        fill_to_blend(*bad)


def test_sensor_reading():
    reading = read_ethanol_sensor(85.0, 1.0)
    assert reading.ethanol_pct == pytest.approx(35.0)
    assert reading.output_v == pytest.approx(1.75)
    assert reading.temp_c == pytest.approx(-40.0)
    assert read_ethanol_sensor(150.0, 5.0, 0.5, 4.5).output_v == pytest.approx(4.5)


@pytest.mark.parametrize(
    ("hertz", "pulse", "fault"),
    [(49.9, 2.0, "below 50"), (150.1, 2.0, "above 150"), (100.0, 5.2, "pulse width")],
)
def test_sensor_faults_are_named(hertz, pulse, fault):
    reading = read_ethanol_sensor(hertz, pulse)
    assert fault in (reading.fault or "")
    assert reading.ethanol_pct is None


def test_reid_pressure_between_the_points_of_the_table_is_a_published_monotone_cubic():
    """SciPy's PCHIP through the table of physics §1, in kPa over per cent."""
    table = {0: 0.0, 5: 6.0, 10: 7.0, 20: 6.2, 30: 4.2, 47.5: 0.0, 60: -5.0, 75: -13.0, 85: -20.0}
    published = PchipInterpolator(list(table), list(table.values()))
    pct = np.linspace(0.0, 85.0, 341)
    shift = fuels.reid_pressure_kpa(pct / 100.0) - fuels.reid_pressure_kpa(0.0)
    assert shift == pytest.approx(published(pct), abs=1e-9)


def test_methanol_is_what_its_data_say():
    """At 35 °C, twenty kelvin above where density is given; blended with ethanol by volume at 15 °C."""
    pure = fuels.blend(0.0, 35.0, METHANOL)
    assert float(pure.density_kg_m3) == pytest.approx(795.6 / (1 + 1.19e-3 * 20), rel=1e-3)
    assert float(pure.stoich_afr) == pytest.approx(6.46)
    assert float(pure.lhv_mj_kg) == pytest.approx(19.9)
    half = fuels.blend(0.5, 15.0, METHANOL)
    mass = 793.6 / (793.6 + 795.6)
    assert float(half.density_kg_m3) == pytest.approx((793.6 + 795.6) / 2)
    assert float(half.stoich_afr) == pytest.approx(mass * 9.0 + (1 - mass) * 6.46)
    assert float(half.lhv_mj_kg) == pytest.approx(mass * 26.8 + (1 - mass) * 19.9)
    moles = mass / 46.07 / (mass / 46.07 + (1 - mass) / 32.04)
    assert float(fuels.reid_pressure_kpa(0.5, METHANOL)) == pytest.approx(moles * 16.0 + (1 - moles) * 32.0)
