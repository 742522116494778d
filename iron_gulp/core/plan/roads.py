"""Which road to take with direct injection: its own hardware, a port rail, both in steps, or a weaker blend (J01).

Every road is a complete option judged on the build's own targets by the coupled solution. Within a road the cheapest
that carries every target at the shop's rates is taken; where none does, the one that comes nearest.
"""

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, replace
from itertools import islice
from typing import Literal

import numpy as np

from ..judge import TargetVerdict, judge_many
from ..model import (
    LIMITS,
    Build,
    Catalogue,
    Component,
    Delivery,
    Edit,
    EditError,
    InjectorSet,
    Line,
    Option,
    Rates,
    Target,
    apply,
    rated_at_300_kpa,
)
from ..solve import PEAK, stopped_sides
from ..study import targets_boost_kpa
from .complexity import Ageing, ageing
from .costs import Bill, bill
from .design import headroom_of, wired
from .design.circuits import pressed_kpa

Kind = Literal["today", "direct", "pump", "port", "plenum", "both", "blend"]
TITLES: dict[Kind, str] = {
    "today": "Today, its feed put right",
    "direct": "Larger direct hardware",
    "pump": "Pumps now, direct injectors later",
    "port": "A port rail beside it",
    "plenum": "Injectors in the plenum",
    "both": "Both: hardware first, then a port rail",
    "blend": "A weaker blend",
}
GIVES_UP: dict[Kind, str] = {
    "today": "The power asked for, until more is done.",
    "direct": "Clean valves: with direct injection alone deposits stay on them. One calibration, one controller.",
    "pump": "Time: the rail is opened twice and calibrated twice. What the pumps alone carry is bought first.",
    "port": "A single calibration: two sides to blend, a second set of injectors to watch. It washes the intake "
    "valves clean.",
    "plenum": "An even mixture: the runners share out what a few nozzles spray, and the leanest cylinder fails first. No "
    "rails to make, few injectors to buy.",
    "both": "Money and time: everything is bought. In exchange neither side works near its limit.",
    "blend": "Octane and cooling, so boost and timing go back with it. No larger injector or high-pressure pump is "
    "bought.",
}
BLENDS = (0.0, 20.0, 40.0, 60.0, 85.0)
PORT_SHARE_USE = 90.0
PLENUM_EACH, PLENUM_SERVES = 2, 6  # nozzles a plenum, and cylinders that one plenum serves
BASES_KPA = (400.0, 450.0, 500.0, 550.0)
MOST_HIGH, MOST_DIRECT, MOST_LOW = 3, 2, 2


@dataclass(frozen=True)
class Ceiling:
    """The power a road carries on a blend, as the target quotes it, and what sets it; None where none is known."""

    ethanol_pct: float
    power_kw: float | None
    component: Component


@dataclass(frozen=True)
class Complexity:
    """What is there to be wired, tuned and watched: counts as the option states them."""

    low_pumps: int
    high_pumps: int
    injectors: int
    controllers: int
    calibrated_sides: int


@dataclass(frozen=True)
class Road:
    """One road: the option it ends in, its targets judged, cost, ceilings by blend, complexity, and its silent risk.

    `carries` says whether every target stays within every limit. `ethanol_pct` is the blend a weaker one comes down to,
    `left_kw` the most power that is left there.
    `silent_factor` is the worst mixture factor if the port side stops; None without one. `ages` is what is there to age,
    more than before. `as_asked` is False where nothing was found for the low side that was asked for.
    """

    kind: Kind
    title: str
    option: Option
    verdicts: tuple[TargetVerdict, ...]
    bill: Bill
    ceilings: tuple[Ceiling, ...]
    complexity: Complexity
    silent_factor: float | None
    gives_up: str
    ages: Ageing
    ethanol_pct: float | None = None
    left_kw: float | None = None
    as_asked: bool = True

    @property
    def carries(self) -> bool:
        return all(within(verdict) for verdict in self.verdicts)

    @property
    def worst(self) -> TargetVerdict:
        """The target nearest its limit."""
        return max(self.verdicts, key=lambda verdict: verdict.first_out.load)


def within(verdict: TargetVerdict) -> bool:
    """Whether a target stays within every limit, idle included."""
    return all(load.load <= 1.0 for load in verdict.loads if load.component in LIMITS)


def roads(build: Build, option: Option, catalogue: Catalogue, rates: Rates, before: Option | None = None) -> list[Road]:
    """Every road from an option with direct injection; none without it. `before` is what is paid already: the option."""
    if option.high_side is None:
        return []
    had = before or option
    start = put_right(build, option)
    ways: tuple[tuple[Kind, Steps], ...] = (
        ("direct", _with_direct_hardware(build, start, catalogue)),
        ("port", _with_port_rail(build, start, catalogue)),
        ("plenum", _in_plenum(build, start, catalogue)),
        ("both", _with_both(build, start, catalogue)),
    )
    found = [road_to(build, had, "today", start, rates)]
    for kind, steps in ways:
        chosen = _best(build, had, steps, rates)
        if chosen is not None:
            found.append(road_to(build, had, kind, chosen, rates))
            first = pumps_first(start, chosen) if kind == "direct" else []
            found += [road_to(build, had, "pump", one, rates) for one in first]
    return [*found, _weaker_blend(build, had, start, rates)]


def put_right(build: Build, option: Option) -> Option:
    """The option with its high-pressure pumps fed as well as costs next to nothing: lines of their own, more base
    pressure where that fills them on every target."""
    split = _split(option)
    bases = [_with_base(split, base) for base in _bases(split)]
    judged = judge_many([(build, one, target) for one in bases for target in build.targets], ceilings=False)
    count = len(build.targets)
    for number, one in enumerate(bases):
        each = judged[number * count : (number + 1) * count]
        if all(verdict.load("high-pressure inlet").load <= 1.0 for verdict in each):
            return one
    return split


def _split(option: Option) -> Option:
    high = option.high_side
    if high is None or high.feed == "split" or len(high.pumps) < 2 or not high.branches:
        return option
    widest: Line = max(high.branches, key=lambda line: line.part.bore_mm)
    lines = (widest,) * len(high.branches)
    return option.model_copy(update={"high_side": high.model_copy(update={"feed": "split", "branches": lines})})


def _bases(option: Option) -> list[float]:
    now, part = option.regulator.base_kpa, option.regulator.part
    return [now, *(base for base in BASES_KPA if now + 10 < base <= part.max_base_kpa)]


def _with_base(option: Option, base_kpa: float) -> Option:
    told = option.calibration
    changed: dict[str, object] = {"regulator": option.regulator.model_copy(update={"base_kpa": base_kpa})}
    if told.base_kpa is not None:  # a controller that reckons with the base is told of another
        changed["calibration"] = told.model_copy(update={"base_kpa": base_kpa})
    return option.model_copy(update=changed)


def _lows(build: Build, option: Option, catalogue: Catalogue) -> Iterator[Option]:
    """The option with its own low pumps, then larger ones, then twice its own."""
    yield option
    first = option.pumps[0]
    pressed = pressed_kpa(build, option.regulator, option.regulator.base_kpa)
    for part in islice(catalogue.pumps_above(first.part, 500.0), MOST_LOW):
        # A larger pump comes with the fuse and the wire its current takes.
        fitted = first.model_copy(
            update={"part": part, "derate_pct": 0.0, "wiring": wired(first.wiring, part, build, pressed)}
        )
        yield option.model_copy(update={"pumps": (fitted, *option.pumps[1:])})
    if first.count < 3:
        more = first.model_copy(update={"count": first.count + 1})
        yield option.model_copy(update={"pumps": (more, *option.pumps[1:])})


def _hardware(option: Option, catalogue: Catalogue) -> Iterator[Option]:
    high = option.high_side
    assert high is not None
    pumps = [high.pumps[0].part, *catalogue.high_pumps_above(high.pumps[0].part)[:MOST_HIGH]]
    injectors = [high.injectors.part, *catalogue.direct_injectors_above(high.injectors.part)[:MOST_DIRECT]]
    for pump in pumps:
        for injector in injectors:
            fitted = tuple(one.model_copy(update={"part": pump, "worn_um": 0.0}) for one in high.pumps)
            changed = {"pumps": fitted, "injectors": high.injectors.model_copy(update={"part": injector})}
            yield option.model_copy(update={"high_side": high.model_copy(update=changed)})


Steps = Iterable[Iterable[Option]]


def _with_direct_hardware(build: Build, option: Option, catalogue: Catalogue) -> Steps:
    """Larger pumps and injectors: on the low side as it is, then at higher base pressures, then with larger low pumps."""
    alone = option
    if option.injectors is not None:
        alone = option.model_copy(update={"delivery": Delivery(mode="direct only")})
    hardware = list(_hardware(alone, catalogue))
    yield hardware
    bases = _bases(option)[1:]
    yield [_with_base(one, base) for one in hardware for base in bases]
    top = _with_base(hardware[-1], max([option.regulator.base_kpa, *bases[:2]]))
    yield list(_lows(build, top, catalogue))


def _ported(option: Option, catalogue: Catalogue) -> Iterator[Option]:
    """The option with every port rail of the shelf that it could have, smallest injectors first."""
    told = option.delivery or Delivery(mode="ceiling", ceiling_use_pct=PORT_SHARE_USE)
    if told.mode in ("direct only", "port only"):
        told = told.model_copy(update={"mode": "ceiling", "ceiling_use_pct": PORT_SHARE_USE})
    regulator = option.regulator.model_copy(update={"reference": "manifold"})
    own = [] if option.injectors is None else [option.injectors.part]
    for part in [*own, *sorted(catalogue.injectors, key=rated_at_300_kpa)]:
        if part.alcohol_ok or part in own:
            fitted = (
                InjectorSet(part=part) if option.injectors is None else option.injectors.model_copy(update={"part": part})
            )
            yield option.model_copy(update={"injectors": fitted, "delivery": told, "regulator": regulator})


def pumps_first(start: Option, whole: Option) -> list[Option]:
    """The first step of larger direct hardware where it buys both pumps and injectors: the injectors stay for now."""
    had, has = start.high_side, whole.high_side
    if had is None or has is None:
        return []
    if had.injectors.part == has.injectors.part or had.pumps[0].part == has.pumps[0].part:
        return []
    return [whole.model_copy(update={"high_side": has.model_copy(update={"injectors": had.injectors})})]


def _with_port_rail(build: Build, option: Option, catalogue: Catalogue) -> Steps:
    """Port rails: on the low side as it is, then at a base pressure that suits one, then with larger low pumps."""
    ported = list(_ported(option, catalogue))
    yield ported
    part = option.regulator.part
    bases = [base for base in (300.0, 350.0) if part.min_base_kpa <= base <= part.max_base_kpa]
    yield [_with_base(one, base) for one in ported for base in bases]
    yield [fed for one in ported[::3] for fed in _lows(build, one, catalogue)]


def _in_plenum(build: Build, option: Option, catalogue: Catalogue) -> Steps:
    """A few injectors in the plenum, of every size; none where ports have theirs already."""
    if option.injectors is not None:
        return
    few = min(PLENUM_EACH * (1 + (build.engine.cylinders > PLENUM_SERVES)), build.engine.cylinders)
    found = []
    for one in _ported(option, catalogue):
        assert one.injectors is not None
        nozzles = one.injectors.model_copy(update={"count": few, "sprays": "into a shared plenum"})
        found.append(one.model_copy(update={"injectors": nozzles}))
    yield found
    yield [fed for one in found[::3] for fed in _lows(build, one, catalogue)]


def _with_both(build: Build, option: Option, catalogue: Catalogue) -> Steps:
    """The next larger pump, and the injectors beside it, with a port rail."""
    for hardware in _next_hardware(option, catalogue):
        yield from _with_port_rail(build, hardware, catalogue)


def _next_hardware(option: Option, catalogue: Catalogue) -> Iterator[Option]:
    high = option.high_side
    assert high is not None
    for pump in catalogue.high_pumps_above(high.pumps[0].part)[:1]:
        fitted = tuple(one.model_copy(update={"part": pump, "worn_um": 0.0}) for one in high.pumps)
        larger = high.model_copy(update={"pumps": fitted})
        yield option.model_copy(update={"high_side": larger})
        for injector in catalogue.direct_injectors_above(high.injectors.part)[:1]:
            own = high.injectors.model_copy(update={"part": injector})
            yield option.model_copy(update={"high_side": larger.model_copy(update={"injectors": own})})


def _best(build: Build, before: Option, steps: Steps, rates: Rates) -> Option | None:
    """The cheapest of the first step with any that carry every target with the headroom wanted; of the first that carry
    where none leaves that; where none carries, the one that comes nearest."""
    wanted = build.rules.headroom_pct / 100.0
    nearest: tuple[float, Option] | None = None
    carrying: Option | None = None
    for candidates in steps:
        every = [one for one in candidates if one != before]
        judged = judge_many([(build, one, target) for one in every for target in build.targets], ceilings=False)
        count = len(build.targets)
        each = [judged[number * count : (number + 1) * count] for number in range(len(every))]
        fit = [number for number, verdicts in enumerate(each) if all(within(verdict) for verdict in verdicts)]
        ample = [number for number in fit if headroom_of(each[number]) >= wanted - 1e-9]
        for among in (ample, fit):
            if among and (among is ample or carrying is None):
                cheapest = every[min(among, key=lambda number: bill(build, before, every[number], rates).total)]
                if among is ample:
                    return cheapest
                carrying = cheapest
        for one, verdicts in zip(every, each, strict=True):
            load = max(verdict.first_out.load for verdict in verdicts)
            if nearest is None or load < nearest[0]:
                nearest = load, one
    return carrying if carrying is not None or nearest is None else nearest[1]


def road_to(build: Build, before: Option, kind: Kind, option: Option, rates: Rates) -> Road:
    """A road that ends in an option, judged and priced against what is paid before."""
    named = option.model_copy(update={"name": TITLES[kind]})
    verdicts = tuple(judge_many([(build, named, target) for target in build.targets]))
    return Road(
        kind,
        TITLES[kind],
        named,
        verdicts,
        bill(build, before, option, rates),
        ceilings_by_blend(build, named, _hardest(build)),
        _complexity(build, named),
        _silent(build, named, verdicts),
        GIVES_UP[kind],
        ageing(build, before, option),
    )


def _hardest(build: Build) -> Target:
    return max(build.targets, key=lambda target: target.power_kw)


def ceilings_by_blend(
    build: Build, option: Option, target: Target, blends: Sequence[float] = BLENDS
) -> tuple[Ceiling, ...]:
    """The power an option carries on every blend, all else as the target says."""
    asked = [target.model_copy(update={"ethanol_pct": one, "vapour_kpa_abs": None}) for one in blends]
    verdicts = judge_many([(build, option, one) for one in asked])
    limits = [verdict.power_limit for verdict in verdicts]
    return tuple(Ceiling(blend, limit.ceiling_kw, limit.component) for blend, limit in zip(blends, limits, strict=True))


def _complexity(build: Build, option: Option) -> Complexity:
    high = option.high_side
    port = option.injectors is not None and option.mode != "direct only"
    count = build.engine.cylinders
    direct = 0 if high is None else high.injectors.count or count
    ported = 0 if not port or option.injectors is None else option.injectors.count or count
    speed = option.regulator.arrangement == "returnless, speed-controlled"
    own = port and high is not None and (option.delivery or Delivery()).runs == "a controller of its own"
    return Complexity(
        sum(group.count for group in option.pumps),
        0 if high is None else len(high.pumps),
        direct + ported,
        1 + own + speed,
        (high is not None) + port,
    )


def _silent(build: Build, option: Option, verdicts: Sequence[TargetVerdict]) -> float | None:
    factors = []
    for verdict in verdicts:
        stopped = stopped_sides(build, option, verdict.target, verdict.points)
        if stopped is not None and float(verdict.points.metered_kg_s[PEAK]) > 0:
            left = float(stopped.without_port_kg_s[PEAK])
            factors.append(float(verdict.points.demand_kg_s[PEAK]) / left if left > 0 else float("inf"))
    return max(factors, default=None)


def _weaker_blend(build: Build, before: Option, option: Option, rates: Rates) -> Road:
    """Today's hardware with its feed put right, on the strongest blend on which it carries every target, each with the
    boost its fuel bears there and the power that is left of it."""
    every = {one: on_blend(build, one) for one in tried_blends(max(target.ethanol_pct for target in build.targets))}
    asked = [(some, option, target) for some in every.values() for target in some.targets]
    judged = iter(judge_many(asked, ceilings=False))
    found = {one: [next(judged) for _ in some.targets] for one, some in every.items()}
    carried = [one for one, verdicts in found.items() if all(within(verdict) for verdict in verdicts)]
    return blend_road(build, before, option, rates, max(carried, default=0.0))


def tried_blends(top_pct: float) -> list[float]:
    """Blends that a weaker one is looked for among, per cent of ethanol."""
    return [float(one) for one in np.arange(0.0, top_pct + 0.1, 5.0)]


def blend_road(build: Build, before: Option, option: Option, rates: Rates, ethanol_pct: float) -> Road:
    """A road that ends in an option run on a weaker blend: every target with the boost and the power left there."""
    weaker = on_blend(build, ethanol_pct)
    named = option.model_copy(update={"name": TITLES["blend"]})
    return replace(
        road_to(build, before, "blend", option, rates),
        verdicts=tuple(judge_many([(weaker, named, one) for one in weaker.targets])),
        bill=bill(build, before, option, rates, other_blend=True),
        ethanol_pct=ethanol_pct,
        left_kw=max(one.power_kw for one in weaker.targets),
    )


def on_blend(build: Build, ethanol_pct: float) -> Build:
    """The build with its targets on a weaker blend, turned back as that fuel asks."""
    return build.model_copy(
        update={"targets": tuple(turned_back(build, target, ethanol_pct) for target in build.targets)}
    )


def turned_back(build: Build, target: Target, ethanol_pct: float) -> Target:
    """A target on a weaker blend: the boost that targets on such fuel have, and the power as the air then is.

    Below every blend that a target speaks for, boost is that of the weakest. Stronger fuel than its own changes nothing.
    """
    if target.ethanol_pct <= ethanol_pct:
        return target
    weakest = min(one.ethanol_pct for one in build.targets if one.base_fuel == target.base_fuel)
    borne = targets_boost_kpa(build, target, max(ethanol_pct, weakest))
    boost = target.boost_kpa if borne is None else min(borne, target.boost_kpa)
    share = (build.car.barometer_kpa + boost) / (build.car.barometer_kpa + target.boost_kpa)
    less = {"boost_kpa": boost, "power_kw": target.power_kw * share}
    return target.model_copy(update={"ethanol_pct": ethanol_pct, "vapour_kpa_abs": None, **less})


def edits_of(build: Build, road: Road, new_id: str) -> list[Edit]:
    """Edits that put a road into the build as an option of its own. Raises EditError where that cannot be."""
    data = [one.model_dump(mode="json") for one in build.options]
    edits: list[Edit] = [("options", [*data, {**road.option.model_dump(mode="json"), "id": new_id}])]
    try:
        apply(build, edits)
    except EditError as error:
        raise EditError(error.problems) from error
    return edits
