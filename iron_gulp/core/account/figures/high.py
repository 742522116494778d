"""Figures of the high side: rail, pumps, their feed and drive, direct injectors; each of the whole car's solution."""

from collections.abc import Callable

from ...judge import TargetVerdict
from ...physics import M3_S_PER_L_H
from ...solve import IDLE, PEAK, DirectPumps, DirectSolution
from .base import AnyFigure, SystemFigure

SOURCE = "coupled solution of low side, high-pressure pumps, rails and injectors; estimates until a log confirms them"
KG_H, L_H = 3600.0, 1.0 / M3_S_PER_L_H
_HIGH = "{option}/high_side"
_ASKED = (
    ("{target}/power_kw", "Power wanted", "power_kw"),
    ("{target}/rpm", "Engine speed", "rpm"),
    ("{target}/fuel_temp_c", "Fuel temperature", "fuel_temp_c"),
)
_PUMP = (
    (_HIGH + "/pumps/0/part/bore_mm", "Plunger, first pump", "bore_mm"),
    (_HIGH + "/pumps/0/part/lift_mm", "Lift, first pump", "lift_mm"),
    (_HIGH + "/pumps/0/drive_factor", "Driven faster by, first pump", "drive_factor"),
    (_HIGH + "/target/kpa/0", "Rail target, first point", "rail_kpa"),
)
_FEED = (
    ("{option}/regulator/base_kpa", "Base pressure", "base_kpa"),
    (_HIGH + "/pumps/0/part/inlet_area_mm2", "Inlet area, first pump", "inlet_area_mm2"),
    (_HIGH + "/fuel_rise_k", "Fuel warmer at the pump by", "fuel_rise_k"),
)
_INJECTOR = (
    (_HIGH + "/injectors/part/rated_flow_cc_min", "Direct injector, rated flow", "rated_flow_cc_min"),
    (_HIGH + "/window_deg", "Injection window", "window_deg"),
    (_HIGH + "/cylinder_kpa", "Cylinder pressure while injecting", "cylinder_kpa"),
    (_HIGH + "/target/kpa/0", "Rail target, first point", "rail_kpa"),
)


def _direct(verdict: TargetVerdict) -> DirectSolution:
    if verdict.points.direct is None:
        raise KeyError("no direct injection")
    return verdict.points.direct


def _of(name: str, scale: float = 1.0, index: int = PEAK) -> Callable[[TargetVerdict], float]:
    return lambda verdict: float(getattr(_direct(verdict), name)[index]) * scale


def _rail(name: str, scale: float = 1.0, index: int = PEAK) -> Callable[[TargetVerdict], float]:
    return lambda verdict: float(getattr(_direct(verdict).worst, name)[index]) * scale


def _pumps(verdict: TargetVerdict) -> tuple[DirectPumps, ...]:
    return _direct(verdict).pumps


def _least(name: str, scale: float = 1.0) -> Callable[[TargetVerdict], float]:
    return lambda verdict: min(float(getattr(pump, name)[PEAK]) for pump in _pumps(verdict)) * scale


def _most(name: str) -> Callable[[TargetVerdict], float]:
    return lambda verdict: max(float(getattr(pump, name)[PEAK]) for pump in _pumps(verdict))


def _sum(name: str, scale: float = 1.0) -> Callable[[TargetVerdict], float]:
    return lambda verdict: sum(float(getattr(pump, name)[PEAK]) for pump in _pumps(verdict)) * scale


def _opens(
    key: str,
    label: str,
    formula: str,
    inputs: tuple[tuple[str, str, str], ...],
    read: Callable[[TargetVerdict], float],
    note: str = "",
) -> SystemFigure:
    return SystemFigure(f"high.{key}", label, formula, (*_ASKED, *inputs), read, SOURCE, note)


def _share(verdict: TargetVerdict) -> float:
    direct = _direct(verdict)
    port = float(direct.port_delivered_kg_s[PEAK])
    delivered = float(direct.delivered_kg_s[PEAK])
    return 100.0 * delivered / (delivered + port) if delivered + port > 0 else 0.0


FIGURES: tuple[AnyFigure, ...] = (
    _opens("rail_kpa", "Rail pressure", "pumps(p) = injectors(p), at most the target", _PUMP, _rail("rail_kpa")),
    _opens("target_kpa", "Rail target", "from the controller's table over engine speed", _PUMP[-1:], _of("target_kpa")),
    _opens(
        "floor_kpa",
        "Lowest rail allowed",
        "as told, or half the target and 1 MPa above the cylinder",
        _PUMP[-1:],
        _of("floor_kpa"),
        "Below it the spray coarsens; a controller cuts the pulse to keep it, and the mixture goes lean.",
    ),
    _opens("demand_kg_h", "Direct fuel asked", "share of the engine's fuel", (), _of("direct_kg_s", KG_H)),
    _opens("delivered_kg_h", "delivered", "least of asked, pumps and window", _PUMP, _of("delivered_kg_s", KG_H)),
    _opens(
        "capacity_kg_h",
        "Pumps bring at the target",
        "V_s × f × η × ρ, all pumps",
        (*_PUMP, *_FEED),
        _sum("capacity_kg_s", KG_H),
        "Counted with the fuel's density at ambient pressure: some 2 % low, on the safe side.",
    ),
    _opens("capacity_l_h", "the same by volume", "V_s × f × η, all pumps", _PUMP, _sum("capacity_m3_s", L_H)),
    _opens(
        "efficiency_pct",
        "Volumetric efficiency",
        "φ × κ × (1 − (1 + r) × Δp ÷ K − leak)",
        (*_PUMP, *_FEED),
        _least("efficiency", 100.0),
        "Spill valves limited at high speed are not in it: a measured table replaces it where there is one.",
    ),
    _opens("fill_pct", "Stroke filled", "plunger against inlet as an orifice", (*_PUMP, *_FEED), _least("fill", 100.0)),
    _opens("inlet_kpa", "Pressure at the inlet", "node − lines at mean flow", _FEED, _least("inlet_kpa")),
    _opens("head_kpa", "Head above vapour", "inlet + barometer − vapour pressure", _FEED, _least("head_kpa")),
    _opens(
        "head_needed_kpa",
        "Head a full stroke needs",
        "ρ₁₅ ÷ 2 × (0.7246 × π × f × V_s ÷ A_e)²; three plungers and more: ρ₁₅ ÷ 2 × (k × N × V_s × f ÷ A_e)²",
        (*_PUMP, *_FEED),
        _most("head_needed_kpa"),
    ),
    _opens("node_kpa", "Where it is fed", "set pressure, or what the low pumps stand at", _FEED, _of("node_kpa")),
    _opens("drive_power_w", "Drive power, all pumps", "Δp × delivered ÷ η_mech", _PUMP, _sum("power_w")),
    _opens("drive_mean_nm", "Torque on the cam, mean", "P ÷ (2π × cam turns)", _PUMP, _most("mean_torque_nm")),
    _opens(
        "drive_peak_nm",
        "peak",
        "Δp × π ÷ 4 × d² × lift ÷ 2 × lobes ÷ η_mech; several plungers: k × mean of full stroke",
        _PUMP,
        _most("peak_torque_nm"),
    ),
    _opens("follower_m_s", "Follower speed", "π × f × lift", _PUMP, _most("speed_m_s")),
    _opens(
        "follower_limit_rpm",
        "Follower leaves the lobe at",
        "follower mass × 2π² f² lift = spring at full lift",
        _PUMP,
        _least("limit_rpm"),
        "An estimate: pressure on the plunger helps and is not counted.",
    ),
    _opens("window_used_pct", "Window used", "delivered ÷ what passes in it", _INJECTOR, _rail("window_used", 100.0)),
    _opens("window_ms", "Window", "degrees ÷ (6 × rpm)", _INJECTOR, _of("window_ms")),
    _opens("effective_ms", "Injection without dead time", "fuel ÷ held open", _INJECTOR, _rail("effective_ms")),
    _opens("open_g_s", "Held open, each", "Q × 684 × √(Δp ÷ rated) × √(ρ ÷ 684)", _INJECTOR, _rail("open_kg_s", 1e3)),
    _opens("idle_effective_ms", "Injection at idle", "fuel ÷ held open", _INJECTOR, _rail("effective_ms", 1.0, IDLE)),
    _opens("share_pct", "Direct share", "direct ÷ all that is delivered", (), _share),
    _opens("port_kg_h", "Port fuel delivered", "at the pulse meant", (), _of("port_delivered_kg_s", KG_H)),
)
