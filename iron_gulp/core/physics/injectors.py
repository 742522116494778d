"""Port injectors: flow at the pressure really seen, pulse width, duty, idle, and swaps.

Rated flow is volume flow of n-heptane (684 kg/m³, 20 °C) at a rated pressure (SAE J1832).
"""

import numpy as np

from .arrays import ATM_KPA, Floats, Number, floats
from .demand import air_kg_s

TEST_FLUID_KG_M3 = 684.0
REQUIRED_FUEL_TEMP_C = 21.1


def open_flow_kg_s(rated_cc_min: Number, rated_kpa: Number, differential_kpa: Number, density_kg_m3: Number) -> Floats:
    """Mass flow of an injector held open: orifice law in pressure and density; zero without forward pressure."""
    rated_kg_s = floats(rated_cc_min) * 1e-6 / 60.0 * TEST_FLUID_KG_M3
    pressure = np.maximum(floats(differential_kpa), 0.0) / floats(rated_kpa)
    return floats(rated_kg_s * np.sqrt(pressure) * np.sqrt(floats(density_kg_m3) / TEST_FLUID_KG_M3))


def rated_from_catch_cc_min(caught_cc: Number, seconds: Number, held_kpa: Number, density_kg_m3: Number) -> Floats:
    """Rated flow at 300 kPa of n-heptane [cc/min] of an injector held open on a bench: the inverse of `open_flow_kg_s`.

    Caught [cc] in `seconds` [s] at `held_kpa` [kPa across it], of a fluid of `density_kg_m3` [kg/m³]."""
    caught_kg_s = floats(caught_cc) * 1e-6 / floats(seconds) * floats(density_kg_m3)
    return floats(caught_kg_s / open_flow_kg_s(1.0, 300.0, held_kpa, density_kg_m3))


def cycle_ms(rpm: Number) -> Floats:
    """Length of a four-stroke cycle, ms."""
    return floats(120_000.0 / floats(rpm))


def dead_time_ms(
    table_v: Number,
    table_ms: Number,
    voltage_v: Number,
    differential_kpa: Number = 300.0,
    table_kpa: float = 300.0,
    ms_per_100_kpa: float = 0.0,
) -> Floats:
    """Dead time at a voltage (linear in the part's table, held at its ends) and differential pressure."""
    base = np.interp(floats(voltage_v), floats(table_v), floats(table_ms))
    return dead_time_shifted_ms(base, differential_kpa, table_kpa, ms_per_100_kpa)


def dead_time_shifted_ms(base_ms: Number, differential_kpa: Number, table_kpa: Number, ms_per_100_kpa: Number) -> Floats:
    """Dead time brought from its table's pressure to a differential pressure, ms; never negative."""
    shift = (np.maximum(floats(differential_kpa), 0.0) - floats(table_kpa)) / 100.0 * floats(ms_per_100_kpa)
    return floats(np.maximum(floats(base_ms) + shift, 0.0))


def dead_time_bent_ms(
    base_ms: Number, differential_kpa: Number, table_kpa: Number, ms_per_100_kpa: Number, cuts_kpa: Floats, bends: Floats
) -> Floats:
    """Dead time of a two-way table at a differential pressure, ms; never negative.

    `base_ms` is the table's at `table_kpa` and the voltage. Pressures of its rows are `cuts_kpa` (rows, systems), where
    the slope changes by `bends` [ms/kPa]; held at its ends. Without rows the change a hundred kPa counts. Shapes
    broadcast, systems last.
    """
    shifted = dead_time_shifted_ms(base_ms, differential_kpa, table_kpa, ms_per_100_kpa)
    if not len(cuts_kpa):
        return shifted
    across = np.maximum(floats(differential_kpa), 0.0)
    for cut, bend in zip(cuts_kpa, bends, strict=True):
        shifted = shifted + bend * (np.maximum(across - cut, 0.0) - np.maximum(floats(table_kpa) - cut, 0.0))
    return floats(np.maximum(shifted, 0.0))


def bends_between(rows_kpa: Floats, rows_ms: Floats) -> Floats:
    """Changes of slope [ms/kPa] of lines through rising rows, level beyond their ends; of the shape (rows, …) of them."""
    ms = floats(rows_ms)
    slopes = np.diff(ms, axis=0) / np.diff(rows_kpa).reshape(-1, *(1 for _ in ms.shape[1:]))
    level = np.zeros((1, *ms.shape[1:]))
    return floats(np.diff(np.concatenate([level, slopes, level]), axis=0))


def effective_pulse_ms(fuel_kg_s: Number, count: Number, rpm: Number, open_kg_s: Number) -> Floats:
    """Open time each injector needs per cycle, without dead time; infinite when the injector cannot flow."""
    per_cycle_kg = floats(fuel_kg_s) / floats(count) * 120.0 / floats(rpm)
    flow = floats(open_kg_s)
    need, flow = np.broadcast_arrays(per_cycle_kg, flow)
    out = np.where(need > 0, np.inf, 0.0)
    return floats(np.divide(need * 1000.0, flow, out=out, where=flow > 0))


def duty(effective_ms: Number, dead_ms: Number, rpm: Number) -> Floats:
    """Share of the cycle used, dead time included; above 1 the pulse no longer fits."""
    return floats((floats(effective_ms) + floats(dead_ms)) / cycle_ms(rpm))


def flow_at_duty_kg_s(open_kg_s: Number, count: Number, rpm: Number, dead_ms: Number, limit: Number) -> Floats:
    """Fuel flow of all injectors at a duty limit with the dead time in it, kg/s; never negative."""
    share = np.maximum(floats(limit) - floats(dead_ms) / cycle_ms(rpm), 0.0)
    return floats(floats(open_kg_s) * floats(count) * share)


def second_set_kg_s(
    fuel_kg_s: Number,
    first_kg_s: Number,
    second_kg_s: Number,
    first_dead_ms: Number,
    second_dead_ms: Number,
    second_least_ms: Number,
    rpm: Number,
    joins_at: Number,
    limit: Number,
) -> Floats:
    """What a second set of injectors carries of the fuel, kg/s; flows are those of each whole set held open.

    Up to the first set's duty `joins_at` (dead time in it) nothing. Above it what the first set would have to carry
    beyond, but never less than its own smallest pulse lets through, and never more than its duty `limit` does: what is
    left is the first set's again. Dead times and the smallest pulse are those of a whole cycle. Shapes broadcast.
    """
    fuel, cycle = floats(fuel_kg_s), cycle_ms(rpm)
    held = flow_at_duty_kg_s(first_kg_s, 1.0, rpm, first_dead_ms, joins_at)
    most = flow_at_duty_kg_s(second_kg_s, 1.0, rpm, second_dead_ms, limit)
    least = np.minimum(floats(second_kg_s) * floats(second_least_ms) / cycle, most)
    carried = np.clip(fuel - held, least, most)
    return floats(np.where(fuel > held, np.minimum(carried, fuel), 0.0))


def hand_over_step(least_kg_s: Number, fuel_kg_s: Number, dead_ms: Number, least_ms: Number, error: Number) -> Floats:
    """Mixture step as a second set joins, as a share: its smallest pulses are off by its dead time's error.

    An estimate: fuel of the smallest pulses, of all fuel there, times dead time × error ÷ smallest pulse.
    """
    off = floats(dead_ms) * floats(error) / np.maximum(floats(least_ms), 1e-9)
    return floats(floats(least_kg_s) / np.maximum(floats(fuel_kg_s), 1e-30) * off)


def required_fuel_ms(cylinder_l: Number, open_kg_s: Number, stoich_afr: Number, lambda_: Number = 1.0) -> Floats:
    """Speed–density required-fuel scalar: injector time, ms, for one filling of air at 100 % VE, 101.325 kPa, 21.1 °C."""
    air_per_cycle_kg = air_kg_s(cylinder_l, 120.0, 1.0, ATM_KPA, REQUIRED_FUEL_TEMP_C)
    return floats(air_per_cycle_kg / (floats(stoich_afr) * floats(lambda_)) / floats(open_kg_s) * 1000.0)


def swap_lambda(
    target_lambda: Number,
    assumed_flow: Number,
    fitted_flow: Number,
    pulse_ms: Number = np.inf,
    assumed_dead_ms: Number = 0.0,
    fitted_dead_ms: Number = 0.0,
) -> Floats:
    """λ after an injector swap the controller was not told of, at the commanded effective `pulse_ms`.

    The commanded total pulse keeps the old dead time, so a dead-time difference shows most at idle.
    """
    command = floats(pulse_ms)
    opened = np.maximum(command + floats(assumed_dead_ms) - floats(fitted_dead_ms), 0.0)
    with np.errstate(divide="ignore", invalid="ignore"):
        pulse_ratio = np.where(np.isinf(command), 1.0, command / opened)
    return floats(floats(target_lambda) * floats(assumed_flow) / floats(fitted_flow) * pulse_ratio)


def blend_lambda(
    target_lambda: Number,
    assumed_afr: Number,
    assumed_kg_m3: Number,
    real_afr: Number,
    real_kg_m3: Number,
) -> Floats:
    """λ at an unchanged pulse when the tank holds another blend than assumed: its stoichiometry and density count.

    Injector mass flow goes with the root of density, so `λ × AFR / AFR' × √(ρ / ρ')`.
    """
    ratio = floats(assumed_afr) / floats(real_afr) * np.sqrt(floats(assumed_kg_m3) / floats(real_kg_m3))
    return floats(floats(target_lambda) * ratio)
