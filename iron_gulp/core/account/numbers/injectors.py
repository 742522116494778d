"""Port injectors: idle pulses, and loads of other sizes."""

from collections.abc import Callable, Sequence

from ...judge import TargetVerdict, judge_many
from ...model import Component
from ...physics import floats
from ...solve import PEAK
from ...study import Matched, idle_pulses, matched, size_loads, window_at
from ..figures import Input
from .base import PATHS, Asked, Number, Path, Place, or_none

_OPEN = "pulse = fuel of one pulse at idle ÷ flow of the open injector at idle's pressure"
# Of idle pulses: label, formula, and the field of each, which ends in its unit.
_PULSES = {
    "cold": ("Idle pulse, cold", _OPEN, "cold_ms"),
    "entered": ("Idle pulse, as entered", _OPEN, "entered_ms"),
    "hot": ("Idle pulse, hot", _OPEN, "hot_ms"),
    "least": ("Smallest pulse it repeats", "as published for the part; else a class figure by its size", "least_ms"),
    "fuel": (
        "Fuel of the smallest pulse",
        "fuel = smallest pulse · flow of the open injector at idle's pressure",
        "least_mg",
    ),
    "unsure": (
        "What dead time leaves unsure, as fuel of a pulse",
        "unsure = 5 % of the dead time · flow of the open injector at idle's pressure",
        "unsure_mg",
    ),
}


def pulse(asked: Asked, place: Place) -> Number:
    """Open time of one idle pulse, without dead time; the smallest one, its fuel, and what dead time leaves unsure."""
    label, formula, field = _PULSES[place.case]

    def read(many: Sequence[Asked]) -> list[float]:
        return [
            float(getattr(idle_pulses(build, option)[build.targets.index(target)], field))
            for build, option, target in many
        ]

    if not idle_pulses(asked[0], asked[1]):
        raise KeyError("there are no port injectors")
    return Number(
        f"{label}, {asked[2].name}",
        field,
        formula,
        read,
        paths=(*PATHS, ("{option}/injectors/part/min_pulse_ms", "Smallest pulse", "min_pulse_ms")),
    )


def size(what: str, component: Component, asks: str) -> Callable[[Asked, Place], Number]:
    """The highest load of injectors of another size over all targets."""

    def number(asked: Asked, place: Place) -> Number:
        if asked[1].injectors is None or place.at <= 0:
            raise KeyError("there are no port injectors of that size")
        size, pulse = floats([place.at]), None if place.pulse_ms is None else floats([place.pulse_ms])

        def read(many: Sequence[Asked]) -> list[float]:
            found = []
            for build, option, _ in many:
                loads = size_loads(build, option, size, option.regulator.base_kpa, pulse)
                found.append(float(loads[component][0]) * 100.0)
            return found

        label = f"{what} at {place.at:g} cc/min, over all targets"
        return Number(label, "load_pct", f"load = {asks}, highest of all targets", read)

    return number


def window(asked: Asked, place: Place) -> Number:
    """An end of the window of sizes at the base pressure fitted: the smallest that carries, the largest that idles."""
    if asked[1].injectors is None:
        raise KeyError("there are no port injectors")
    largest = place.case == "largest"

    def read(many: Sequence[Asked]) -> list[float]:
        found = [window_at(build, option, option.regulator.base_kpa) for build, option, _ in many]
        return [or_none(one.largest if largest else one.smallest) for one in found]

    return Number(
        "Largest injector that idles on every target" if largest else "Smallest injector that carries every target",
        "size_cc_min",
        "size whose smallest repeatable pulse is the one idle needs, least of all targets"
        if largest
        else "size whose load comes to 1 at the duty limit, highest of all targets",
        read,
        "loads of sizes 100 to 4 000 cc/min at 300 kPa, on n-heptane; smallest pulses by size",
    )


# What the table of both sets shows at the peak, each read from the target judged.
_BOTH: dict[str, tuple[str, str, Callable[[TargetVerdict], float]]] = {
    "first": (
        "Duty of the first set",
        "duty = (pulse + dead time) of each squirt ÷ time of one; it stays at its duty of hand-over once both run",
        lambda one: float(one.points.duty[PEAK]),
    ),
    "second": (
        "Duty of the second set",
        "duty = (pulse for the fuel above what the first carries + dead time) ÷ time of one cycle",
        lambda one: float("nan") if one.points.second is None else float(one.points.second.duty[PEAK]),
    ),
    "share": (
        "Share of the second set",
        "share = fuel of the second set ÷ fuel of both",
        lambda one: (
            float("nan")
            if one.points.second is None
            else float(one.points.second.metered_kg_s[PEAK] / one.points.metered_kg_s[PEAK])
        ),
    ),
    "step": (
        "Mixture step as the second set joins",
        "step = fuel of its smallest pulses ÷ all fuel there × 5 % of its dead time ÷ its smallest pulse",
        lambda one: float("nan") if one.points.second is None else float(one.points.second.step[PEAK]),
    ),
}
_SECOND: tuple[Path, ...] = (
    ("{option}/injectors/second/part/rated_flow_cc_min", "Size of the second set", "rated_flow_cc_min"),
    ("{option}/injectors/second/joins_pct", "Duty at which it joins", "joins_pct"),
    ("{option}/injectors/second/part/min_pulse_ms", "Smallest pulse of the second set", "min_pulse_ms"),
)


def both_sets(asked: Asked, place: Place) -> Number:
    """Duty, share and step of two sets at the target's peak."""
    if asked[1].injectors is None or asked[1].injectors.second is None:
        raise KeyError("there is no second set")
    label, formula, read_one = _BOTH[place.case]
    return Number(
        f"{label}, {asked[2].name}",
        "share_pct",
        formula,
        lambda many: [read_one(one) * 100.0 for one in judge_many(many, ceilings=False)],
        paths=(*PATHS, *_SECOND),
    )


# What the measured set says: label, unit's name, formula, and how it is read at a place of the set.
_MEASURED: dict[str, tuple[str, str, str, Callable[[Matched, int], float]]] = {
    "error": (
        "Mixture against the mean",
        "error_pct",
        "error = mean flow ÷ own flow − 1",
        lambda one, at: one.errors[at],
    ),
    "spread": ("Spread of the set", "spread_pct", "spread = (highest − lowest flow) ÷ mean", lambda one, _: one.spread),
    "after": (
        "Spread once one is replaced",
        "spread_pct",
        "spread of the others, with one at their mean in its place",
        lambda one, _: one.after,
    ),
    "apart": (
        "Banks apart",
        "apart_pct",
        "apart = difference of the banks' means ÷ mean, least over every way to share them out",
        lambda one, _: one.apart,
    ),
    "mean": ("Mean of the set", "mean_cc_min", "mean = sum of the flows ÷ how many", lambda one, _: one.mean / 100.0),
}


def measured(asked: Asked, place: Place) -> Number:
    """A number of the measured set: of the cylinder at `row`, or of the whole set."""
    fitted = asked[1].injectors
    if fitted is None or not fitted.flows_cc_min or place.row >= len(fitted.flows_cc_min):
        raise KeyError("it was not measured")
    label, name, formula, read_one = _MEASURED[place.case]

    flows, banks = fitted.flows_cc_min, asked[1].rail.count

    def at(which: int, factor: float) -> float:
        changed = [flow * (factor if number == which else 1.0) for number, flow in enumerate(flows)]
        return read_one(matched(changed, banks), place.row) * 100.0

    rows = tuple(
        Input("", f"Flow of number {which + 1}", "flow_cc_min", flow, at(which, 0.9), at(which, 1.1))
        for which, flow in enumerate(flows)
    )
    whose = f", cylinder {place.row + 1}" if place.case == "error" else ""
    now = read_one(matched(flows, banks), place.row) * 100.0
    return Number(f"{label}{whose}", name, formula, lambda many: [now], "flows measured, entered in the build", rows=rows)
