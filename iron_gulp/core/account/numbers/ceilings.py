"""Ceilings: of a component, along an axis, on other fuels, and the boost permitted on a blend."""

from collections.abc import Sequence

import numpy as np

from ...judge import TargetVerdict, boost_at_share, judge_many
from ...model import TITLES
from ...physics import M3_S_PER_L_H, floats
from ...study import WRONG_PCT, Axis, envelope, limits_of, runs_on, targets_boost_kpa, worth
from .base import Asked, Number, Place, or_none


def ceiling(asked: Asked, place: Place) -> Number:
    """The power at which a component of the target runs out; of the first where none is named."""
    verdict = judge_many([asked])[0]
    load = verdict.power_limit if place.component is None else verdict.load(place.component)
    if load.ceiling_kw is None:
        raise KeyError(f"no power ends {load.title}")
    component = load.component

    def read(many: Sequence[Asked]) -> list[float]:
        return [or_none(one.load(component).ceiling_kw) for one in judge_many(many)]

    return Number(
        f"Power at which {load.title.lower()} run out" if load.title.endswith("s") else f"Ceiling of {load.title}",
        "power_kw",
        f"ceiling: the power at which ({load.measure}) comes to 1, solved at each power anew",
        read,
    )


def headroom(asked: Asked, place: Place) -> Number:
    """Power left to the first component that ends it."""

    def read(many: Sequence[Asked]) -> list[float]:
        judged = judge_many(many)
        return [(or_none(one.power_limit.ceiling_kw) / one.target.power_kw - 1.0) * 100.0 for one in judged]

    label = f"Headroom of {asked[2].name}"
    return Number(label, "headroom_pct", "headroom = lowest ceiling ÷ power wanted − 1", read)


def gain(asked: Asked, place: Place) -> Number:
    """What replacing the weakest component is worth before the next one ends the power."""

    def read(many: Sequence[Asked]) -> list[float]:
        return [float("nan") if one is None else one.gain_kw for one in (worth(each) for each in judge_many(many))]

    return Number(
        f"What replacing the weakest is worth, {asked[2].name}",
        "power_kw",
        "gain = second lowest of all ceilings − lowest",
        read,
    )


def runs(asked: Asked, place: Place) -> Number:
    """An end of the stretch of blends at `row` on which the target stays within every limit."""
    last = place.case == "to"

    def read(many: Sequence[Asked]) -> list[float]:
        found = [runs_on(envelope(*one)) for one in many]
        return [one[place.row][last] if place.row < len(one) else float("nan") for one in found]

    if np.isnan(read([asked])[0]):
        raise KeyError(f"there is no stretch {place.row}")
    return Number(
        f"{'Strongest' if last else 'Weakest'} blend {asked[2].name} runs on",
        "ethanol_pct",
        f"{'last' if last else 'first'} of the blends, a whole per cent each, on which no load at its power is past 1",
        read,
    )


_AXES: dict[Axis, tuple[str, str]] = {
    "ethanol_pct": ("ethanol content", "%"),
    "rpm": ("engine speed", "1/min"),
    "base_kpa": ("base pressure", "kPa"),
}


def limit(asked: Asked, place: Place) -> Number:
    """What the fuel system carries at a place of an axis: the lower edge of all ceilings."""
    first = limits_of([asked], place.axis, place.on(place.axis), place.rising)
    component = first.limiting[0]
    title = "nothing" if component is None else TITLES[component].lower()
    axis, unit = _AXES[place.axis]
    rising = ", boost rising with power" if place.rising else ""
    return Number(
        f"What the fuel system carries at {axis} {place.at:g} {unit}",
        "power_kw",
        f"carried = lowest of all ceilings at that {axis}{rising}; here: {title}",
        lambda many: [float(one) for one in limits_of(many, place.axis, place.at, place.rising).limit_kw],
    )


def _permitted_kw(many: Sequence[Asked], place: Place) -> list[float]:
    blend = place.on("ethanol_pct")
    at = min(blend + WRONG_PCT, 100.0) if place.case == "wrong" else blend
    found = limits_of(many, "ethanol_pct", at, True)
    by_air = np.where(np.isnan(found.compressor_kw), np.inf, found.compressor_kw)
    margins = np.array([build.rules.headroom_pct / 100.0 for build, _, _ in many])
    own = np.minimum(found.limit_kw, by_air) / (1.0 + margins)
    return [min(float(kw), _targets_kw(one, blend)) for kw, one in zip(own, many, strict=True)]


def _targets_kw(asked: Asked, blend: float) -> float:
    """Power at the targets' own boost on a blend, kW; NaN where none says what that fuel bears."""
    build, _, target = asked
    kpa, bar = targets_boost_kpa(build, target, blend), build.car.barometer_kpa
    return float("nan") if kpa is None else target.power_kw * (kpa + bar) / (target.boost_kpa + bar)


def permitted_power(asked: Asked, place: Place) -> Number:
    """Power permitted on a blend, the shop's headroom below what sets it."""
    return Number(
        f"Power permitted on E{place.at:g}",
        "power_kw",
        "permitted = lower of (fuel's and compressor's ceiling, boost rising with power) ÷ (1 + headroom wanted) and the "
        "power at the targets' own boost",
        lambda many: _permitted_kw(many, place),
    )


def permitted_boost(asked: Asked, place: Place) -> Number:
    """Boost permitted on a blend: absolute manifold pressure goes with the power permitted."""

    def read(many: Sequence[Asked]) -> list[float]:
        return [
            float(
                boost_at_share(floats(target.boost_kpa), floats(build.car.barometer_kpa), floats(power / target.power_kw))
            )
            for (build, _, target), power in zip(many, _permitted_kw(many, place), strict=True)
        ]

    wrong = f", fuel {WRONG_PCT:g} points stronger than read" if place.case == "wrong" else ""
    return Number(
        f"Boost permitted on E{place.at:g}{wrong}",
        "boost_kpa",
        "boost = (boost of the target + barometer) · power permitted ÷ power wanted − barometer",
        read,
    )


def on_fuel(asked: Asked, place: Place) -> Number:
    """The ceiling on a fuel that is no blend."""
    return Number(
        f"What the system carries on {_fuel_name(asked, place)}",
        "power_kw",
        "carried = lowest of all ceilings on that fuel, mixture and efficiency credit as the target's",
        lambda many: [or_none(one.power_limit.ceiling_kw) for one in judge_many([_fuelled(one, place) for one in many])],
    )


def fuel_hour(asked: Asked, place: Place) -> Number:
    """Fuel burnt in an hour at the target's power."""

    def litres(one: TargetVerdict) -> float:
        return float(one.demand.chosen_kg_s / one.fuel.density_kg_m3 / M3_S_PER_L_H)

    return Number(
        f"{_fuel_name(asked, place)} in an hour at the target's power",
        "fuel_l_h",
        "litres = fuel by mass of the target's demand ÷ density at its temperature",
        lambda many: [litres(one) for one in judge_many([_fuelled(each, place) for each in many], ceilings=False)],
    )


def _fuelled(asked: Asked, place: Place) -> Asked:
    build, option, target = asked
    changes = {"base_fuel": place.fuel, "ethanol_pct": 0.0, "vapour_kpa_abs": None}
    return build, option, target.model_copy(update=changes)


def _fuel_name(asked: Asked, place: Place) -> str:
    names = {"gasoline": "gasoline", "methanol": "methanol"} | {fuel.id: fuel.name for fuel in asked[0].fuels}
    return names[place.fuel]
