"""Power ceilings: the power at which a component's own limit is reached, all else as it is at that power.

Taken at the target's engine speed and boost. Where demand and the limits are in proportion the ceiling is power over
load; where they are not (losses behind a regulator near the tank, stages switched by flow or duty, a lift stage that
feeds what returns, a drooping carburettor regulator) it is sought: coming up from idle, the first power at which the
limit fails, stages that join or drop out on the way included (physics §6).
"""

from collections.abc import Callable
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from ..model import CEILINGS, RISING, Component
from ..physics import M3_S_PER_L_H, Floats, acceleration_head_kpa, floats, mapped, rising_root
from ..solve import AIR_SCHOOL, PEAK, DeliveryRows, branches_kpa, outlet_kpa, pipe_kpa, pipes_kpa
from .cases import Cases
from .direct_ceilings import direct_ceilings
from .lifting import lift_share
from .loads import Share, Solved
from .metering import passes_kg_s

Rows = Callable[[Cases], tuple[Solved, tuple[Share, ...]]]
Ceilings = dict[Component, Floats]
SHARES = floats(np.geomspace(0.02, 12.0, 10))  # powers looked at first, of the target's
INLET: Component = "high-pressure inlet"
HOPELESS = 1.02  # a load at next to no power
_ROUNDS, _MORE_ROUNDS = 5, 8  # powers looked at after them one by one
_NEXT_TO = 1e-7
_SECANTS, _CLOSE = 8, 1e-4
_SHARES_LOOKED_AT = (-6.0, 4.0)  # logarithms of shares of the target's power


def ceilings_kw(solved: Solved, shares: tuple[Share, ...], rows: Rows, rising: bool = False) -> Ceilings:
    """The power, as each target quotes it, at which each component runs out; NaN where its limit does not move with it.

    `rows` solves and loads cases. The engine's air is no ceiling of the fuel system and comes from its demand. With boost
    `rising` the absolute manifold pressure goes with the power from the target's own point: then it is none at all, and
    every component is sought.
    """
    cases, power = solved.cases, floats(solved.cases.targets.power_kw)
    size = solved.demand.chosen_kg_s.shape[-1]
    fixed = np.broadcast_to(cases.targets.school == AIR_SCHOOL, size)
    air = floats(solved.demand.air_limited_power_kw + np.zeros(size))
    found: Ceilings = {"engine": floats(np.full(size, np.nan)) if rising else air}
    compressed = next((one.load for one in shares if one.component == "compressor"), None)
    if compressed is not None:
        found["compressor"] = floats(power / compressed)
    limits = {one.component: one.load for one in shares if one.component in (RISING if rising else CEILINGS)}
    if rising:
        every = _sought(cases, list(limits), size, rows, rising)
        return {**found, **{one: floats(np.where(fixed, np.nan, kw)) for one, kw in every.items()}}
    crooked = {one: where for one in limits if (where := _out_of_proportion(one, cases)).any()}
    sought: Ceilings = {}
    if crooked and not fixed.all():
        direct = cases.systems.high is not None
        known = _of_direct(solved, limits) if direct else {}
        lift = cases.systems.lift
        if "lift" in limits and lift is not None and lift.to_surge.all():
            known["lift"] = floats(power * lift_share(solved))
        looked_along: list[Component] = [
            one for one in crooked if (one in ("pumps", "lift") or direct) and one not in known
        ]
        sought = _sought(cases, looked_along, size, rows) if looked_along else {}
        sought |= known
        if "injectors" in crooked and not direct:
            sought["injectors"] = _behind_the_regulator(solved)
        if "needles" in crooked:
            sought["needles"] = _by_secants(cases, "needles", limits["needles"], rows)
    for component, load in limits.items():
        with np.errstate(divide="ignore", invalid="ignore"):
            value = np.where(load > 0, power / load, np.nan)
        if component in sought:
            value = np.where(crooked[component], sought[component], value)
        found[component] = floats(np.where(fixed, np.nan, value))
    return found


def _out_of_proportion(component: Component, cases: Cases) -> NDArray[np.bool_]:
    """Systems in which a component's limit does not move in proportion with demand."""
    systems = cases.systems
    everywhere, nowhere = np.ones(1, dtype=bool), np.zeros(1, dtype=bool)
    if component in ("high-pressure pump", "high-pressure inlet"):
        return everywhere
    if component in ("injectors", "direct injectors") and systems.delivery is not None and _moves(systems.delivery):
        return everywhere
    if component == "injectors":
        return everywhere if systems.arrangement == "bypass near the tank" else nowhere
    if component == "needles":
        return everywhere
    if component == "lift" and systems.lift is not None:
        return everywhere
    if component != "pumps":
        return nowhere
    switched = nowhere
    for group in systems.groups:
        limits = group.limits
        switched = switched | (np.isfinite(limits.flow_l_h) | np.isfinite(limits.duty_pct)) & limits.staged
    return switched


def _of_direct(solved: Solved, limits: dict[Component, Floats]) -> Ceilings:
    """Ceilings of a direct side and of the port side beside it that need no whole solutions."""
    found = direct_ceilings(solved)
    direct, told = solved.points.direct, solved.cases.systems.delivery
    behind = solved.cases.systems.arrangement == "bypass near the tank"
    if direct is None or told is None or told.mode != "ceiling" or behind or "injectors" not in limits:
        return found
    # All above what the direct side may carry goes to the port side: its limit is a power further on.
    cases, meter = solved.cases, solved.cases.meters.port
    assert meter is not None
    wanted, most = solved.points.demand_kg_s[PEAK], floats(told.use * direct.ceiling_kg_s[PEAK])
    passes = passes_kg_s(meter, cases.targets, solved.points.hydraulics.meant_kpa[PEAK])
    return {**found, "injectors": floats(cases.targets.power_kw * (most + passes) / wanted)}


def _moves(told: DeliveryRows) -> bool:
    """Whether the share of the direct side moves with power."""
    return told.mode == "ceiling" or (told.mode == "threshold" and told.signal == "flow_l_h")


def _behind_the_regulator(solved: Solved) -> Floats:
    """Power at which injectors behind a regulator near the tank run out, kW: their pressure falls with their own flow."""
    cases = solved.cases
    systems, targets, meter, fluid = cases.systems, cases.targets, cases.meters.port, solved.fluid
    assert meter is not None
    hyd = solved.points.hydraulics
    left = floats(
        hyd.set_kpa[PEAK]
        - outlet_kpa(systems, targets.boost_kpa)
        - acceleration_head_kpa(targets.density_kg_m3, systems.feed.length_m, targets.accel_g)
    )

    def excess(flow: Floats) -> Floats:
        lost = pipe_kpa(systems.feed, flow, fluid) + pipes_kpa(systems.passages, flow, fluid)
        across = floats(left - lost - branches_kpa(systems.branches, flow, fluid, joined=False))
        return floats(flow * targets.density_kg_m3 - passes_kg_s(meter, targets, across))

    most = floats(passes_kg_s(meter, targets, left) / targets.density_kg_m3)
    flow = rising_root(excess, np.zeros_like(most), most, 1e-15)
    return floats(targets.power_kw * flow / solved.need_m3_s)


def _by_secants(cases: Cases, component: Component, load: Floats, rows: Rows) -> Floats:
    """Power at which a load that rises steadily with power is 1, kW."""
    size = load.size
    before, off_before = np.zeros(size), np.log(np.maximum(load, 1e-9))
    at = np.clip(-off_before, *_SHARES_LOOKED_AT)  # a load may be infinite, or none
    for _ in range(_SECANTS):
        off = np.log(np.maximum(_loads_at(cases, floats(np.exp(at))[None], size, rows)[component][0], 1e-9))
        if np.all(np.abs(off) < _CLOSE):
            break
        with np.errstate(divide="ignore", invalid="ignore"):
            slope = (off - off_before) / (at - before)
        slope = np.where(np.isfinite(slope) & (slope > 0.2), np.minimum(slope, 5.0), 1.0)
        before, off_before, at = at, off, np.clip(at - off / slope, *_SHARES_LOOKED_AT)
    return floats(cases.targets.power_kw * np.exp(at))


def _sought(cases: Cases, components: list[Component], size: int, rows: Rows, rising: bool = False) -> Ceilings:
    """Components' ceilings by looking along the powers, then by secants within the first step that is too much."""
    grid = floats(
        np.sort(np.concatenate([np.repeat(SHARES[:, None], size, axis=1), *_switches(cases, size, rising)]), axis=0)
    )
    throttled = _Throttled.of(cases, components, size, rows) if rising else None
    loads = _loads_at(cases, grid, size, rows, throttled)
    spans = {one: _Span.of(grid, loads[one]) for one in components}
    for turn in range(_ROUNDS if cases.systems.high is None else _MORE_ROUNDS):
        tried = {one: span.next(halve=turn % 4 == 3) for one, span in spans.items()}
        closer = _loads_at(cases, floats(np.array(list(tried.values()))), size, rows, throttled)
        for number, one in enumerate(components):
            spans[one] = spans[one].learned(tried[one], closer[one][number])
    return {one: floats(span.crossing() * cases.targets.power_kw) for one, span in spans.items()}


@dataclass(frozen=True)
class _Throttled:
    """Below no boost the throttle is shut, not the boost lower: shares of the target's power there, and which systems'
    high-pressure inlets are filled at it. What they lack further down, on a low side that follows the manifold, nobody
    asks of them. Arrays of shape (systems,).
    """

    share: Floats
    filled: NDArray[np.bool_]

    @classmethod
    def of(cls, cases: Cases, components: list[Component], size: int, rows: Rows) -> "_Throttled":
        """Of every system with boost rising."""
        targets = cases.targets
        share = floats(np.broadcast_to(targets.barometer_kpa / (targets.boost_kpa + targets.barometer_kpa), size))
        if INLET not in components:
            return cls(share, np.zeros(size, dtype=bool))
        loads = _loads_at(cases, share[None], size, rows, cls(share, np.zeros(size, dtype=bool)))
        return cls(share, np.asarray(loads[INLET][0] <= 1.0))

    def lacks(self, shares: Floats, load: Floats) -> Floats:
        """An inlet's load at shares of the power: none where the throttle is shut and it is filled without boost."""
        return floats(np.where(self.filled & (shares < self.share), np.minimum(load, 1.0), load))


def _off(load: Floats) -> Floats:
    """How far a load is from 1: −1 without any, 0 at 1, 1 where it is infinite."""
    with np.errstate(invalid="ignore"):
        return floats(np.where(load > 1.0, 1.0 - 1.0 / np.maximum(load, 1.0), load - 1.0))


@dataclass(frozen=True)
class _Span:
    """Per system two powers, of the target's, between which a load passes 1 (as logarithms), and how far it is off there.

    `known` is false where the load never does: it is too much at any power where it is `hopeless`, and else at none.
    Arrays of shape (systems,); `side` is the end that moved last.
    """

    low: Floats
    high: Floats
    off_low: Floats
    off_high: Floats
    known: NDArray[np.bool_]
    hopeless: NDArray[np.bool_]
    side: Floats

    @classmethod
    def of(cls, grid: Floats, load: Floats) -> "_Span":
        """Around the first power of a rising `grid` that is too much; both of shape (powers, systems)."""
        over = ~(load <= 1.0)
        first, at = over.argmax(axis=0), np.arange(grid.shape[1])
        before, inside = np.maximum(first - 1, 0), first > 0
        low = np.where(inside, grid[before, at], grid[0] * 1e-3)
        below = np.where(inside, load[before, at], 1e-3)
        hopeless = np.asarray(over[0] & (load[0] > HOPELESS))
        return cls(
            floats(np.log(low)),
            floats(np.log(grid[first, at])),
            _off(floats(below)),
            _off(load[first, at]),
            # What is too much with nothing flowing is too much at any power: the ceiling is none at all.
            np.asarray(over.any(axis=0) & ~hopeless),
            hopeless,
            np.zeros(grid.shape[1]),
        )

    def next(self, halve: bool) -> Floats:
        """The power to look at next: where a straight line between the ends crosses, or half-way."""
        if halve:
            return floats(np.exp((self.low + self.high) / 2.0))
        return self.crossing(within=True)

    def crossing(self, within: bool = False) -> Floats:
        """Where a straight line between the ends crosses; 0 where all is too much, NaN where nothing, unless `within`."""
        share = np.clip(self.off_low / np.minimum(self.off_low - self.off_high, -1e-12), 0.0, 1.0)
        at = np.exp(self.low + share * (self.high - self.low))
        return floats(at if within else np.where(self.known, at, np.where(self.hopeless, 0.0, np.nan)))

    def learned(self, power: Floats, load: Floats) -> "_Span":
        """The narrower span once the load between is known. The end that stays a second time counts half (Illinois)."""
        over, off, at = ~(load <= 1.0), _off(load), np.log(power)
        stays_low, stays_high = over & (self.side > 0), ~over & (self.side < 0)
        return _Span(
            floats(np.where(over, self.low, at)),
            floats(np.where(over, at, self.high)),
            floats(np.where(over, np.where(stays_low, self.off_low / 2.0, self.off_low), off)),
            floats(np.where(over, off, np.where(stays_high, self.off_high / 2.0, self.off_high))),
            self.known,
            self.hopeless,
            floats(np.where(over, 1.0, -1.0)),
        )


def boost_at_share(boost_kpa: Floats, barometer_kpa: Floats, share: Floats) -> Floats:
    """Boost at a share of a target's power where absolute manifold pressure goes with it, kPa gauge."""
    return floats((boost_kpa + barometer_kpa) * share - barometer_kpa)


def _switches(cases: Cases, size: int, rising: bool) -> list[Floats]:
    """Powers, of the target's, just before and after each stage that flow or duty switches; and boost, where it rises."""
    solved_demand = _demand_at_power(cases)
    places: list[Floats] = []
    for group in cases.systems.groups:
        for limit, per_power in zip((group.limits.flow_l_h, group.limits.duty_pct), solved_demand, strict=True):
            if np.isfinite(limit).any():
                with np.errstate(divide="ignore", invalid="ignore"):
                    places.append(floats(limit / per_power))
    if rising:
        targets = cases.targets
        whole = floats(targets.boost_kpa + targets.barometer_kpa)
        places += [floats((limit + targets.barometer_kpa) / whole) for limit in _switching_boosts(cases)]
    found = []
    for place in places:
        share = np.broadcast_to(place, size)
        share = np.where(np.isfinite(share) & (share > 0), share, 1.0)
        found.append(floats(share[None] * np.array([1.0 - _NEXT_TO, 1.0 + _NEXT_TO])[:, None]))
    return found


def _switching_boosts(cases: Cases) -> list[Floats]:
    """Boosts at which a stage or a booster of the pumps comes, or a port side begins to take its share, kPa."""
    groups, told = cases.systems.groups, cases.systems.delivery
    found = [one.limits.boost_kpa for one in groups if np.isfinite(one.limits.boost_kpa).any()]
    found += [one.booster_kpa for one in groups if (np.isfinite(one.booster_kpa) & (one.booster_v > 0)).any()]
    if told is not None and told.mode == "threshold" and told.signal == "manifold_kpa":
        found += [told.start, floats(told.start + told.width)]
    return found


def _demand_at_power(cases: Cases) -> tuple[Floats, Floats]:
    """What the stages are switched on at the target's own power: flow, L/h, and duty without dead time, %."""
    wanted = cases.demand().chosen_kg_s
    opened = cases.open_at_set_kg_s()
    return floats(wanted / cases.targets.density_kg_m3 / M3_S_PER_L_H), floats(wanted / opened * 100.0)


def _loads_at(
    cases: Cases, shares_of_power: Floats, size: int, rows: Rows, rising: _Throttled | None = None
) -> dict[Component, Floats]:
    """Loads with the targets' power changed, and their boost with it where it is `rising`: (powers, systems) each."""
    powers = shares_of_power.shape[0]

    def spread(array: Floats) -> Floats:
        return np.tile(np.broadcast_to(array, (*array.shape[:-1], size)), powers)

    wide = mapped(cases, spread)
    targets, share = wide.targets, shares_of_power.ravel()
    changed = replace(targets, power_kw=floats(targets.power_kw * share))
    if rising is not None:
        changed = replace(changed, boost_kpa=boost_at_share(targets.boost_kpa, targets.barometer_kpa, share))
    _, shares = rows(replace(wide, targets=changed))
    found = {one.component: floats(one.load.reshape(powers, size)) for one in shares}
    if rising is not None and INLET in found:
        found[INLET] = rising.lacks(shares_of_power, found[INLET])
    return found
