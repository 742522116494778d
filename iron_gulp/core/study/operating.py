"""One operating point of a build away from its targets, judged as a target of its own."""

from dataclasses import dataclass

from ..judge import TargetVerdict, judge
from ..model import Build, Option, Target
from ..physics import floats
from ..solve import demand
from .staging import field_demand_kg_s


@dataclass(frozen=True)
class Conditions:
    """Where the engine is: speed, manifold pressure, blend, system voltage, acceleration along the car."""

    rpm: float
    manifold_kpa: float
    ethanol_pct: float
    supply_v: float
    accel_g: float


def of_target(target: Target) -> Conditions:
    """A target's own point."""
    return Conditions(target.rpm, target.boost_kpa, target.ethanol_pct, target.supply_v, target.accel_g)


def judge_at(build: Build, option: Option, target: Target, at: Conditions) -> TargetVerdict:
    """The option judged at an operating point on a target's terms: fuel wanted follows the operating field's demand."""
    here = target.model_copy(
        update={
            "rpm": at.rpm,
            "boost_kpa": at.manifold_kpa,
            "ethanol_pct": at.ethanol_pct,
            "supply_v": at.supply_v,
            "accel_g": at.accel_g,
            "school": "consumption",
        }
    )
    blended = target.model_copy(update={"ethanol_pct": at.ethanol_pct})
    wanted = float(field_demand_kg_s(build, option, blended, floats(at.rpm), floats(at.manifold_kpa)))
    power = target.power_kw * wanted / demand(build, here, option).consumption_kg_s
    return judge(build, option, here.model_copy(update={"power_kw": max(power, 1e-3)}))
