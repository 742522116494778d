"""Direct injection at a solved point as plain data (the part `high_side` of what the command line prints)."""

from typing import Any

from ..judge import TargetVerdict
from ..model import Build
from ..physics import M3_S_PER_L_H, Floats
from ..physics import high_pressure as hp
from ..solve import PEAK, STATE_WORDS, DirectRails, RailState, high_fuel, stopped_sides
from .plain import plain

KG_H, L_H = 3600.0, 1.0 / M3_S_PER_L_H


def high_side(build: Build, verdict: TargetVerdict, index: int) -> dict[str, Any] | None:
    """The high side of a target at its peak or idle; None for an option without direct injection at work."""
    direct, high = verdict.points.direct, verdict.option.high_side
    if direct is None or high is None:
        return None
    points, target = verdict.points, verdict.target
    stopped = stopped_sides(build, verdict.option, target, points)
    assert stopped is not None

    def at(values: Floats, scale: float = 1.0) -> float | None:
        return plain(float(values[index]) * scale)

    worst = direct.worst
    ported = points.metered_kg_s[index] > 0
    two = verdict.option.injectors is not None and verdict.option.mode != "direct only"
    total = float(points.demand_kg_s[index])
    lean = float(points.hydraulics.lambda_factor[index])
    delivered, port = float(direct.delivered_kg_s[index]), float(direct.port_delivered_kg_s[index])
    without_port = _factor(total, float(stopped.without_port_kg_s[index]))
    without_direct = _factor(total, float(stopped.without_direct_kg_s[index]))
    mixture = target.lambda_ if index == PEAK else build.engine.idle_lambda
    injected = float(worst.effective_ms[index])
    warm = high_fuel(build, high, target)
    vapour = warm.vapour_kpa_abs if target.vapour_kpa_abs is None else target.vapour_kpa_abs
    count = high.injectors.count or build.engine.cylinders
    # On rails of their own the bank that takes most swings most.
    most = max(float(rail.delivered_kg_s[index]) for rail in direct.rails) * len(direct.rails)
    shot_kg = most / count * 120.0 / float(points.rpm[index])
    return {
        "hp_state": _words(worst, index),
        "hp_rail_kpa": at(worst.rail_kpa),
        "hp_target_kpa": at(direct.target_kpa),
        "hp_floor_kpa": at(direct.floor_kpa),
        "hp_node_kpa": at(direct.node_kpa),
        "hp_fuel_temp_c": target.fuel_temp_c + high.fuel_rise_k,
        "hp_density_kg_m3": at(direct.density_kg_m3),
        "hp_viscosity_mpa_s": at(direct.viscosity_mpa_s),
        "hp_vapour_kpa_abs": plain(vapour),
        "hp_demand_kg_h": at(direct.direct_kg_s, KG_H),
        "hp_delivered_kg_h": plain(delivered * KG_H),
        "hp_capacity_kg_h": plain(sum(float(pump.capacity_kg_s[index]) for pump in direct.pumps) * KG_H),
        "hp_capacity_l_h": plain(sum(float(pump.capacity_m3_s[index]) for pump in direct.pumps) * L_H),
        "hp_inlet_kpa": plain(min(float(pump.inlet_kpa[index]) for pump in direct.pumps)),
        "hp_fill_factor": plain(min(float(pump.fill[index]) for pump in direct.pumps)),
        "direct_open_g_s": at(worst.open_kg_s, 1e3),
        "direct_open_at_target_g_s": at(direct.open_at_target_kg_s, 1e3),
        "direct_window_ms": at(direct.window_ms),
        "direct_window_rate_kg_h": at(direct.window_kg_s, KG_H),
        "direct_effective_ms": plain(injected),
        "direct_pulse_ms": plain(injected + float(direct.dead_ms[index]) if injected > 0 else 0.0),
        "direct_window_used_pct": at(worst.window_used, 100.0),
        "direct_min_pulse_ms": at(direct.min_pulse_ms),
        "direct_share_pct": plain(100.0 * delivered / (delivered + port)) if delivered + port > 0 else None,
        "direct_ceiling_kg_h": at(stopped.direct_ceiling_kg_s, KG_H),
        "port_demand_kg_h": at(direct.port_kg_s, KG_H) if two else None,
        "port_delivered_kg_h": plain(port * KG_H) if two else None,
        "port_duty_pct": (at(points.duty, 100.0) if ported else 0.0) if two else None,
        "lambda_factor": plain(lean),
        "worst_bank_lambda_factor": plain(max(float(rail.lambda_factor[index]) for rail in direct.rails)),
        "lambda_factor_if_port_stops": plain(without_port) if two else None,
        "lambda_factor_if_direct_stops": plain(without_direct) if two else None,
        "heat_left_if_port_stops": plain(float(hp.heat_left(mixture * without_port, mixture * lean))) if two else None,
        "hp_damper_mm3": max(
            float(hp.damper_mm3(hp.stroke_m3(pump.part.plunger_mm, pump.part.stroke_mm))) for pump in high.pumps
        ),
        "hp_rail_ripple_kpa": plain(
            float(hp.ripple_kpa(shot_kg, direct.density_kg_m3[index], high.bulk_modulus_mpa, high.rail_volume_cc))
        ),
        "hp_pulsation_hz": plain(max(float(pump.stroke_hz[index]) for pump in direct.pumps)),
        "hp_pumps": [
            {
                "hp_inlet_kpa": at(pump.inlet_kpa),
                "hp_head_kpa": at(pump.head_kpa),
                "hp_head_needed_kpa": at(pump.head_needed_kpa),
                "hp_fill_factor": at(pump.fill),
                "hp_efficiency": at(pump.efficiency),
                "hp_capacity_kg_h": at(pump.capacity_kg_s, KG_H),
                "hp_capacity_l_h": at(pump.capacity_m3_s, L_H),
                "hp_delivered_kg_h": at(pump.delivered_kg_s, KG_H),
                "hp_delivered_l_h": at(pump.delivered_m3_s, L_H),
                "hp_drive_power_w": at(pump.power_w),
                "hp_drive_torque_mean_nm": at(pump.mean_torque_nm),
                "hp_drive_torque_peak_nm": at(pump.peak_torque_nm),
                "hp_stroke_hz": at(pump.stroke_hz),
                "hp_follower_speed_m_s": at(pump.speed_m_s),
                "hp_follower_accel_m_s2": at(pump.acceleration_m_s2),
                "hp_follower_limit_rpm": at(pump.limit_rpm),
            }
            for pump in direct.pumps
        ],
        "hp_banks": [
            {
                "hp_state": _words(rail, index),
                "hp_rail_kpa": at(rail.rail_kpa),
                "hp_delivered_kg_h": at(rail.delivered_kg_s, KG_H),
                "bank_lambda_factor": at(rail.lambda_factor),
                "direct_window_used_pct": at(rail.window_used, 100.0),
                "direct_effective_ms": at(rail.effective_ms),
            }
            for rail in direct.rails
        ],
    }


def _words(rail: DirectRails, index: int) -> str:
    return STATE_WORDS[RailState(int(rail.state[index]))]


def _factor(wanted: float, left: float) -> float:
    return wanted / left if left > 0 else float("inf")
