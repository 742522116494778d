"""Loads elsewhere: in a corner, on another blend, within brackets, under another regulator arrangement."""

from collections.abc import Callable, Sequence

from ...judge import judge_many
from ...physics import M3_S_PER_L_H
from ...study import CORNERS, Arranged, every_arrangement, within_brackets
from .base import Asked, Number, Place


def load(asked: Asked, place: Place) -> Number:
    """The load of a component in a corner; of the first to run out there where none is named."""
    if not 0 <= place.row < len(CORNERS):
        raise KeyError(f"there is no corner {place.row}")
    where, what, change = CORNERS[place.row]
    verdict = judge_many([change(*asked)], ceilings=False)[0]
    load = verdict.first_out if place.component is None else verdict.load(place.component)
    if load.measure == "not fitted":
        raise KeyError(f"there is no {load.title} here")
    component, corner = load.component, f"; {what} than entered" if place.row and "all" not in what else ""
    return Number(
        f"Load of {load.title.lower()}, {where.lower()}, {asked[2].name}" if place.row else f"Load of {load.title}",
        "load_pct",
        f"load = {load.measure}{corner}",
        lambda many: [
            one.load(component).load * 100.0 for one in judge_many([change(*each) for each in many], ceilings=False)
        ],
    )


def load_on(asked: Asked, place: Place) -> Number:
    """The load of what runs out first on another blend."""

    def on(each: Asked) -> Asked:
        build, option, target = each
        return build, option, target.model_copy(update={"ethanol_pct": place.on("ethanol_pct"), "vapour_kpa_abs": None})

    load = judge_many([on(asked)], ceilings=False)[0].first_out
    return Number(
        f"Load of {load.title.lower()} on E{place.at:g}, {asked[2].name}",
        "load_pct",
        f"load = {load.measure}",
        lambda many: [
            one.load(load.component).load * 100.0 for one in judge_many([on(each) for each in many], ceilings=False)
        ],
    )


def bracket(asked: Asked, place: Place) -> Number:
    """The highest load of the target at the best or the worst of what is not known."""
    own, worst = within_brackets(asked[0], asked[1]), place.case == "worst"
    if own is None:
        raise KeyError("everything is known here")

    def read(many: Sequence[Asked]) -> list[float]:
        found = []
        for build, option, target in many:
            brackets = within_brackets(build, option)
            one = next(one for one in brackets.targets if one.best.target.id == target.id) if brackets else None
            found.append(float("nan") if one is None else (one.worst if worst else one.best).first_out.load * 100.0)
        return found

    return Number(
        f"Highest load at {'worst' if worst else 'best'}, {asked[2].name}",
        "load_pct",
        f"{'highest' if worst else 'lowest'} over all ends of the brackets of the load of what runs out first",
        read,
    )


# What the table of arrangements shows: label, the name that gives its unit, and how it is read at idle or at peak.
ARRANGED: dict[str, tuple[str, str, Callable[[Arranged, str], float]]] = {
    "rail": ("Rail", "rail_kpa", lambda one, at: one.rail_kpa[at == "peak"]),
    "across": ("Across the injectors", "differential_kpa", lambda one, at: one.across_kpa[at == "peak"]),
    "open": ("Injector held open", "open_g_s", lambda one, at: one.open_g_s[at == "peak"]),
    "duty": ("Duty at peak", "duty_pct", lambda one, at: one.duty_pct),
    "pulse": ("Pulse at idle", "pulse_ms", lambda one, at: one.idle_pulse_ms),
    "turndown": ("Turndown, pulse at peak over idle", "turndown", lambda one, at: one.turndown),
    "left": ("Pump flow left at peak", "left_l_h", lambda one, at: one.left_m3_s / M3_S_PER_L_H),
    "supply": ("Share of pump supply", "load_pct", lambda one, at: one.pump_load * 100.0),
    "lean": ("Lean factor at peak", "lambda_factor", lambda one, at: one.lambda_factor),
    "current": ("Pump current", "current_a", lambda one, at: one.current_a[at == "peak"]),
    "heat": ("Heat into the fuel", "heat_w", lambda one, at: one.heat_w[at == "peak"]),
}

PAIRS = ("rail", "across", "open", "current", "heat")


def arranged(asked: Asked, place: Place) -> Number:
    """A figure of the system under another regulator arrangement, at idle or at peak."""
    name, _, where = place.case.partition(" ")
    if name not in ARRANGED or where not in ("", "idle", "peak"):
        raise KeyError(place.case)
    label, unit, read_one = ARRANGED[name]

    kinds = every_arrangement(*asked)
    if not 0 <= place.row < len(kinds):
        raise KeyError(f"there is no arrangement {place.row}")
    kind = kinds[place.row].name

    def read(many: Sequence[Asked]) -> list[float]:
        found = [every_arrangement(*each, only=kind) for each in many]
        return [read_one(one[0], where) if one else float("nan") for one in found]

    told = f"{label}{' at ' + where if where else ''}, {kind.lower()}"
    return Number(told, unit, f"{label.lower()}: the whole system solved again with that regulator", read)
