"""Systems and targets with every uncertain input drawn: many draws as one set of cases (physics §8).

An input is one line of the build's tolerances. It has as many members as the car has of it (a pump group, a line, a
fill), each with a deviate of its own; all targets share the hardware, and targets on one blend share the fill.
"""

from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from typing import Any

import numpy as np

from ..judge import Cases, case_of
from ..model import Build, InjectorPart, Option, Target, Tolerances, base_fuel
from ..physics import Floats, Rows, blend, floats, join, mapped
from ..solve import Group, Meter, Pipe, Systems
from .measured import Use, uses

INPUTS: tuple[str, ...] = tuple(Tolerances.model_fields)
UNIFORM = ("pump_wear",)
LOWEST_V, LEAST = 4.0, 0.05  # no draw goes below these: volts, and share of what is entered
COLDEST_C, HOTTEST_C = -40.0, 90.0
Deviates = Mapping[str, Floats]


def fills(build: Build) -> list[tuple[str, float]]:
    """The fuels that stand in the tank one at a time: targets on one blend are on one fill."""
    return list(dict.fromkeys((target.base_fuel, target.ethanol_pct) for target in build.targets))


def members(build: Build, option: Option) -> dict[str, int]:
    """How many deviates each input has on this car."""
    pipes, sets = len(_pipes(case_of(build, option, build.targets[0]).systems)), _sets(option)
    pumps = (
        len(option.pumps) + (option.lift is not None) + (0 if option.high_side is None else len(option.high_side.pumps))
    )
    assumed = option.calibration.blend != "measured by a sensor"
    count = dict.fromkeys(INPUTS, 1)
    count |= {"injector_set": sets, "injector_each": sets, "dead_time": sets, "pump_flow": pumps, "pump_wear": pumps}
    count |= {"bores": pipes, "fittings": pipes}
    return count | {"blend_measured": 0 if assumed else len(fills(build)), "blend_assumed": len(fills(build)) * assumed}


def _sets(option: Option) -> int:
    """Sets of injectors: port, a second of them, direct."""
    second = option.injectors is not None and option.injectors.second is not None
    return (option.injectors is not None) + second + (option.high_side is not None)


def drawn(build: Build, option: Option, count: int, seed: int) -> dict[str, Floats]:
    """Deviates of every input, (members, draws): standard normal, uniform 0…1 for wear; the same for the same seed."""
    generator, found = np.random.default_rng(seed), {}
    for name, many in members(build, option).items():
        shape = (many, count)
        found[name] = generator.uniform(size=shape) if name in UNIFORM else generator.standard_normal(shape)
    return found


@dataclass(frozen=True)
class _Draws:
    """Deviates scaled by their tolerances, or by what was measured."""

    tolerances: Tolerances
    deviates: Deviates
    uses: tuple[Use, ...] = ()

    def of(self, name: str) -> Floats:
        """How far each member is off, in the tolerance's own unit: shares, V, K, kPa. Wear is a loss, never a gain."""
        spread, offset = (np.full((len(self.deviates[name]), 1), one) for one in getattr(self.tolerances, name).both)
        for use in self.uses:
            if use.name == name and use.member < len(spread):
                spread[use.member], offset[use.member] = use.spread, use.offset
        if name in UNIFORM:
            return floats(-spread * self.deviates[name] + offset)
        return floats(spread * self.deviates[name] + offset)

    def factor(self, name: str, member: int) -> Floats:
        """One member's factor, kept above nothing."""
        return floats(np.maximum(1.0 + self.of(name)[member], LEAST))


def uncertain_cases(build: Build, option: Option, targets: tuple[Target, ...], deviates: Deviates) -> Cases:
    """Every target with every draw, target by target: cases of shape (targets × draws,)."""
    count = next(one.shape[-1] for one in deviates.values())
    tolerances = build.tolerances
    return join(
        [_one(build, option, one, _Draws(tolerances, deviates, uses(build, option, one)), count) for one in targets]
    )


def _one(build: Build, option: Option, target: Target, draws: _Draws, count: int) -> Cases:
    case = case_of(build, option, target)
    case = replace(
        case,
        targets=_wide(case.targets, count),
        meters=_wide(case.meters, count),
        hold_kpa=_wide(case.hold_kpa, count),
        drift_kpa=_wide(case.drift_kpa, count),
    )
    case = _fuel(build, option, target, case, draws)
    case = _engine(case, draws)
    case = _metering(build, option, case, draws)
    return replace(case, systems=_hardware(case.systems, draws))


def _wide(rows: Rows, count: int) -> Rows:
    """Every array with all draws."""
    return mapped(rows, lambda one: np.broadcast_to(one, (*one.shape[:-1], count)).copy())


def _fuel(build: Build, option: Option, target: Target, case: Cases, draws: _Draws) -> Cases:
    """Blend of this target's fill, and fuel temperature."""
    fill = fills(build).index((target.base_fuel, target.ethanol_pct))
    name = "blend_measured" if option.calibration.blend == "measured by a sensor" else "blend_assumed"
    ethanol = floats(np.clip(target.ethanol_pct / 100.0 + draws.of(name)[fill], 0.0, 1.0))
    if target.base_fuel != "gasoline" and target.ethanol_pct == 0:
        ethanol = floats(np.zeros_like(ethanol))  # a fuel bought pure is that fuel
    off = draws.of("fuel_temperature")[0]
    base = base_fuel(build, target.base_fuel)
    mix = blend(ethanol, np.clip(target.fuel_temp_c + off, COLDEST_C, HOTTEST_C), base)
    told = target.vapour_kpa_abs
    targets = replace(
        case.targets,
        stoich_afr=mix.stoich_afr,
        lhv_mj_kg=mix.lhv_mj_kg,
        density_kg_m3=mix.density_kg_m3,
        viscosity_mpa_s=mix.viscosity_mpa_s,
        vapour_kpa_abs=mix.vapour_kpa_abs if told is None else case.targets.vapour_kpa_abs,
        ethanol_share=mix.mass_fraction,
    )
    meters = case.meters
    if meters.direct is not None and option.high_side is not None:
        at = np.clip(target.fuel_temp_c + off, COLDEST_C, HOTTEST_C) + option.high_side.fuel_rise_k
        warm = blend(ethanol, at, base)
        direct = replace(
            meters.direct,
            density_kg_m3=warm.density_kg_m3,
            viscosity_mpa_s=warm.viscosity_mpa_s,
            density_15c_kg_m3=warm.density_15c_kg_m3,
            vapour_kpa_abs=warm.vapour_kpa_abs if told is None else meters.direct.vapour_kpa_abs,
        )
        meters = replace(meters, direct=direct)
    return replace(case, targets=targets, meters=meters)


def _engine(case: Cases, draws: _Draws) -> Cases:
    """Consumption around the expected one (sizing holds its reserve on purpose), breathing, driveline loss, voltage."""
    burnt, one = draws.factor("consumption", 0), case.targets
    logged = sum(use.offset for use in draws.uses if use.name == "consumption")  # of the fuel alone, not of breathing
    burnt = floats(np.maximum(burnt - logged, LEAST))
    targets = replace(
        one,
        bsfc_kg_kwh=floats(one.expected_kg_kwh * (burnt + logged)),
        ve=floats(one.ve * burnt),
        logged_mj_s=floats(one.logged_mj_s * burnt),
        loss=floats(np.clip(one.loss + draws.of("driveline")[0], 0.0, 0.8)),
        supply_v=floats(np.maximum(one.supply_v + draws.of("voltage")[0], LOWEST_V)),
    )
    return replace(case, targets=targets)


def _metering(build: Build, option: Option, case: Cases, draws: _Draws) -> Cases:
    """Static flow and dead time of each set; one injector off by itself counts for its share of the set."""
    meters, high, member = case.meters, case.systems.high, 0

    def flow(number: int, count: int) -> Floats:
        each = 1.0 + draws.of("injector_each")[number] / np.sqrt(count)
        return floats(draws.factor("injector_set", number) * each)

    if option.injectors is not None:
        if meters.port is not None:
            rated = floats(meters.port.rated_cc_min * flow(member, option.injectors.count or build.engine.cylinders))
            port = _dead(meters.port, option.injectors.part, case.targets.supply_v, draws.factor("dead_time", member))
            meters = replace(meters, port=replace(port, rated_cc_min=rated))
        member += 1
    fitted = option.injectors
    if fitted is not None and fitted.second is not None:
        if meters.port is not None and meters.port.second is not None:
            own, count = meters.port.second, fitted.second.count or build.engine.cylinders
            rated = floats(own.set.rated_cc_min * flow(member, count))
            other = _dead(own.set, fitted.second.part, case.targets.supply_v, draws.factor("dead_time", member))
            second = replace(own, set=replace(other, rated_cc_min=rated))
            meters = replace(meters, port=replace(meters.port, second=second))
        member += 1
    if high is not None and option.high_side is not None:
        count = option.high_side.injectors.count or build.engine.cylinders
        high = replace(
            high,
            rated_cc_min=floats(high.rated_cc_min * flow(member, count)),
            dead_ms=floats(high.dead_ms * draws.factor("dead_time", member)),
        )
    return replace(case, meters=meters, systems=replace(case.systems, high=high))


def _dead(meter: Meter, part: InjectorPart, volts: Floats, factor: Floats) -> Meter:
    """A set's dead times at the volts drawn, each times its own factor."""
    cuts, bends = part.dead_rows_at(volts)
    dead = floats(np.interp(volts, part.dead_time_v, part.dead_time_ms) * factor)
    rows = floats(np.broadcast_to(cuts[:, None] if cuts.ndim == 1 else cuts, (len(cuts), volts.size)).copy())
    return replace(meter, dead_ms=dead, dead_cuts_kpa=rows, dead_bends=floats(np.reshape(bends, rows.shape) * factor))


def _hardware(systems: Systems, draws: _Draws) -> Systems:
    """Pumps, bores, fittings, base pressure."""
    numbers = iter(range(10_000))

    def brings() -> Floats:
        number = next(numbers)
        return floats(draws.factor("pump_flow", number) * draws.factor("pump_wear", number))

    def pumped(group: Group) -> Group:
        return replace(group, share=floats(group.share * brings()))

    groups = tuple(pumped(group) for group in systems.groups)
    lift = None if systems.lift is None else replace(systems.lift, share=floats(systems.lift.share * brings()))
    high = systems.high
    if high is not None:
        pumps = tuple(replace(one, valve_factor=floats(one.valve_factor * brings())) for one in high.pumps)
        high = replace(high, pumps=pumps)
    base = floats(systems.base_kpa + draws.of("base_pressure")[0])
    systems = replace(systems, groups=groups, lift=lift, high=high, base_kpa=floats(np.maximum(base, 1.0)))
    places = iter(range(10_000))

    def piped(pipe: Pipe) -> Pipe:
        number = next(places)
        lost = draws.factor("fittings", number)
        return replace(
            pipe,
            bore_mm=floats(pipe.bore_mm * draws.factor("bores", number)),
            k_sum=floats(pipe.k_sum * lost),
            k_per_re=floats(pipe.k_per_re * lost),
        )

    found: Systems = _with_pipes(systems, piped)
    return found


def _with_pipes(rows: Any, change: Callable[[Pipe], Pipe]) -> Any:
    """The same structure with every pipe changed, in its order."""
    if isinstance(rows, Pipe):
        return change(rows)
    if isinstance(rows, tuple):
        return tuple(_with_pipes(one, change) for one in rows)
    names = getattr(type(rows), "__dataclass_fields__", None)
    if names is None or isinstance(rows, np.ndarray):
        return rows
    return replace(rows, **{name: _with_pipes(getattr(rows, name), change) for name in names})


def _pipes(systems: Systems) -> list[Pipe]:
    """Every pipe of the systems, in the order in which they are changed."""
    found: list[Pipe] = []

    def seen(pipe: Pipe) -> Pipe:
        found.append(pipe)
        return pipe

    _with_pipes(systems, seen)
    return found


__all__ = ["INPUTS", "drawn", "fills", "members", "uncertain_cases"]
