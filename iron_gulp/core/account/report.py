"""The complete solution of a target as plain data, units in the key names; what the command line prints."""

from typing import Any

from ..judge import TargetVerdict, judge_all
from ..model import Build
from ..physics import M3_S_PER_L_H, Floats
from ..solve import IDLE, PEAK, SecondPoints, State
from ..study import legs
from .high_side import high_side
from .plain import plain


def solve_report(build: Build, option_id: str | None, target_id: str | None) -> dict[str, Any]:
    """Solve one target on one option. Raises KeyError for an unknown option or target."""
    target = build.target(target_id)
    # All targets together, as a page judges them: company changes the last digit.
    return report(build, next(one for one in judge_all(build, build.option(option_id)) if one.target.id == target.id))


def report(build: Build, verdict: TargetVerdict) -> dict[str, Any]:
    """A solved target as JSON-ready data; values that do not exist (an infinite ceiling, no delivery) are null."""
    return {
        "build": build.name,
        "option": verdict.option.id,
        "target": verdict.target.id,
        "fuel": {name: plain(getattr(verdict.fuel, name)) for name in verdict.fuel.__dataclass_fields__},
        "demand": {name: plain(getattr(verdict.demand, name)) for name in verdict.demand.__dataclass_fields__},
        "peak": {**point(verdict, PEAK), "high_side": high_side(build, verdict, PEAK)},
        "idle": {**point(verdict, IDLE), "high_side": high_side(build, verdict, IDLE)},
        "loads": [
            {
                "component": load.component,
                "load": plain(load.load),
                "status": load.status,
                "ceiling_kw": plain(load.ceiling_kw),
                "ceiling_crank_kw": plain(load.ceiling_crank_kw),
                "measure": load.measure,
            }
            for load in verdict.loads
        ],
        "legs": [
            {
                "leg": leg.name,
                "flow_l_h": plain(leg.flow_m3_s / M3_S_PER_L_H),
                "velocity_m_s": plain(leg.velocity_m_s),
                "drop_kpa": plain(leg.drop_kpa),
                "after_kpa": plain(leg.after_kpa),
            }
            for leg in legs(verdict)
        ],
        "first_to_run_out": verdict.first_out.component,
        "status": verdict.status,
    }


def _second(second: SecondPoints, index: int) -> dict[str, Any]:
    """The second set of port injectors at a point."""
    return {
        "delivered_kg_h": plain(float(second.metered_kg_s[index]) * 3600.0),
        "open_g_s": plain(float(second.open_kg_s[index]) * 1e3),
        "dead_ms": plain(float(second.dead_ms[index])),
        "effective_ms": plain(float(second.effective_ms[index])),
        "duty_pct": plain(float(second.duty[index]) * 100.0),
        "mixture_step_pct": plain(float(second.step[index]) * 100.0),
    }


def point(verdict: TargetVerdict, index: int) -> dict[str, Any]:
    """One solved operating point of a target."""
    points, hyd = verdict.points, verdict.points.hydraulics

    def at(array: Floats, scale: float = 1.0) -> float | None:
        return plain(float(array[index]) * scale)

    l_h = 1.0 / M3_S_PER_L_H
    ported = verdict.option.injectors is not None and verdict.option.mode != "direct only"
    metered = ported or verdict.option.carburettor is not None
    return {
        "state": State(int(hyd.state[index])).name.lower().replace("_", " "),
        "rpm": at(points.rpm),
        "manifold_kpa": at(points.manifold_kpa),
        "demand_kg_h": at(points.demand_kg_s, 3600.0),
        "set_kpa": at(hyd.set_kpa),
        "rail_kpa": at(hyd.rail_kpa),
        "differential_kpa": at(hyd.differential_kpa),
        "supply_l_h": at(hyd.supply_m3_s, l_h),
        "supply_at_set_l_h": at(hyd.supply_at_set_m3_s, l_h),
        "delivered_l_h": at(hyd.delivered_m3_s, l_h),
        "bypass_l_h": at(hyd.bypass_m3_s, l_h),
        "lambda_factor": at(hyd.lambda_factor),
        "pump_inlet_kpa": at(hyd.inlet_kpa),
        "pump_rise_kpa": at(hyd.pump_rise_kpa),
        "passages_drop_kpa": at(hyd.passages_kpa),
        "pump_speed_pct": at(hyd.speed, 100.0),
        "feed_drop_kpa": at(hyd.feed_kpa),
        "filter_drop_kpa": at(hyd.filter_kpa),
        "return_drop_kpa": at(hyd.return_kpa),
        "floor_kpa": at(hyd.floor_kpa),
        "injector_open_g_s": at(points.open_kg_s, 1e3) if metered else None,
        "injector_dead_ms": at(points.dead_ms) if metered else None,
        "injector_effective_ms": at(points.effective_ms) if metered else None,
        "injector_pulse_ms": at(points.pulse_ms) if metered else None,
        "injector_duty_pct": at(points.duty, 100.0) if metered else None,
        "second_injectors": None if points.second is None else _second(points.second, index),
        "pumps": [
            {
                "group": group.id,
                "running": bool(hyd.running[number, index]),
                "flow_l_h": at(hyd.group_flow_m3_s[number], l_h),
                "volts_v": at(hyd.volts[number]),
                "current_a": at(hyd.amps[number]),
            }
            for number, group in enumerate(verdict.option.pumps)
        ],
    }
