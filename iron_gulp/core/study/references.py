"""The same system under every regulator arrangement: what each does to injectors, pumps, current and heat."""

from dataclasses import dataclass

import numpy as np

from ..judge import Status, TargetVerdict, judge_many
from ..model import Build, EditError, Option, Target, apply
from ..physics import Floats
from ..solve import IDLE, PEAK, motor_power_w

DEFAULT_RISE = 1.7
# Name, arrangement, reference.
KINDS = (
    ("Atmosphere", "bypass after the rail", "atmosphere"),
    ("Manifold", "bypass after the rail", "manifold"),
    ("Rising rate", "bypass after the rail", "rising rate"),
    ("Near the tank", "bypass near the tank", "atmosphere"),
    ("By pump speed", "returnless, speed-controlled", "manifold"),
)


@dataclass(frozen=True)
class Arranged:
    """One arrangement on one target; pairs are (idle, peak). `fitted` marks the system as it is.

    `turndown` is the effective pulse at peak over that at idle; `left_m3_s` what the pumps bring at the
    set pressure beyond what the peak asks, negative where it is missing.
    """

    name: str
    fitted: bool
    rail_kpa: tuple[float, float]
    across_kpa: tuple[float, float]
    open_g_s: tuple[float, float]
    current_a: tuple[float, float]
    heat_w: tuple[float, float]
    duty_pct: float
    idle_pulse_ms: float
    turndown: float
    left_m3_s: float
    pump_load: float
    lambda_factor: float
    status: Status


def every_arrangement(build: Build, option: Option, target: Target, only: str | None = None) -> list[Arranged]:
    """Each arrangement judged on a target, all else as it is, or one by its name; none for a carburettor."""
    kinds = [one for one in arrangements(build, option) if only is None or one[0] == only]
    judged = judge_many([(build, changed, target) for _, changed, _ in kinds], ceilings=False)
    return [_arranged(name, fitted, one) for (name, _, fitted), one in zip(kinds, judged, strict=True)]


def arrangements(build: Build, option: Option) -> list[tuple[str, Option, bool]]:
    """(name, the option so arranged, whether that is as it is), all else as it is; none for a carburettor."""
    if option.carburettor is not None:
        return []
    found = []
    regulator = option.regulator
    for name, arrangement, reference in KINDS:
        place = f"options/{option.id}/regulator"
        edits: list[tuple[str, object]] = [(f"{place}/arrangement", arrangement), (f"{place}/reference", reference)]
        if reference == "rising rate" and regulator.rising_ratio <= 1.0:
            edits.append((f"{place}/rising_ratio", DEFAULT_RISE))
        try:
            changed = apply(build, edits)
        except EditError:
            continue
        fitted = (regulator.arrangement, regulator.reference) == (arrangement, reference)
        found.append((name, changed.option(option.id), fitted))
    return found


def _over(top: float, least: float) -> float:
    return top / least if least > 0 else float("nan")


def _arranged(name: str, fitted: bool, verdict: TargetVerdict) -> Arranged:
    points = verdict.points
    hyd = points.hydraulics
    counts = [group.count for group in verdict.option.pumps]

    def both(values: Floats) -> tuple[float, float]:
        return float(values[IDLE]), float(values[PEAK])

    amps = hyd.amps * np.array(counts)[:, None]
    heat = motor_power_w(verdict.option, hyd).sum(axis=0)
    return Arranged(
        name,
        fitted,
        both(hyd.rail_kpa),
        both(hyd.differential_kpa),
        both(points.open_kg_s * 1e3),
        both(amps.sum(axis=0)),
        both(heat),
        float(points.duty[PEAK]) * 100.0,
        float(points.effective_ms[IDLE]),
        _over(float(points.effective_ms[PEAK]), float(points.effective_ms[IDLE])),
        float(hyd.supply_at_set_m3_s[PEAK]) - verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3,
        verdict.load("pumps").load,
        float(hyd.lambda_factor[PEAK]),
        verdict.status,
    )
