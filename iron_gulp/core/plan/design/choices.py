"""What a system can be put together from: choices of metering and of supply, each a part of an option.

Metering is injectors with the base pressure they see (or a carburettor as it is, or the high side's parts); supply is
pumps with their wiring, lines, regulator, filter, and whether fuel returns. The two meet in the base pressure alone.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from ...model import (
    WATCHED,
    Build,
    Calibration,
    Catalogue,
    Filter,
    HighSide,
    InjectorPart,
    InjectorSet,
    Line,
    LinePart,
    Option,
    Part,
    PumpGroup,
    PumpPart,
    Regulator,
    RegulatorPart,
    SecondSet,
    Suction,
    flow_at,
    rated_at_300_kpa,
)
from .circuits import most_drawn_a, pressed_kpa, wired
from .lobes import on_cam, sprung
from .locks import OWN_FIRST, Locks
from .sitting import (
    AT_RAIL,
    COMBINED,
    NEAR_TANK,
    back_from,
    may_move_pumps,
    may_move_regulator,
    regulating,
    sits,
    suctions,
)
from .start import ALCOHOL_PCT

BASES_KPA = (300.0, 350.0, 400.0, 450.0, 500.0)
USUAL_BASES_KPA = (300.0, 400.0)
BETWEEN_USUAL_KPA = 350.0  # injectors rated above it are made for the higher of the two
DIRECT_BASES_KPA = (400.0, 450.0, 500.0, 550.0)
CARBURETTOR_BASES_KPA = (15.0, 20.0, 25.0, 30.0, 40.0)
RETURNLESS = "returnless, speed-controlled"
FILTER_UM, CARBURETTOR_FILTER_UM = 10.0, 40.0
JOINS_SHARE, JOINS_LEAST_KPA, ROUND_KPA = 0.35, 20.0, 5.0  # a second stage joins at so much of the lowest boost
CHECK_KPA = 3.0
BOOSTED_V, BOOSTER_PCT = 17.0, 88.0
BOOSTERS_A = (20.0, 30.0, 40.0, 60.0)
SECOND_JOINS_PCT = 60.0  # duty of the first set at which a second joins
LARGER_THAN_NEEDED = 4.0  # pumps whose free flow is beyond so many times the need are not looked at


Drive = Literal["without a controller", "brushless"]


@dataclass(frozen=True)
class Metering:
    """What meters, and the base pressure it is meant for."""

    base_kpa: float
    injectors: InjectorSet | None
    high_side: HighSide | None


@dataclass(frozen=True)
class Stages:
    """Pumps with their wiring, the filter their flow wants, and where they sit: as before where nothing is said."""

    pumps: tuple[PumpGroup, ...]
    filter: Filter | None
    suction: Suction | None = None


@dataclass(frozen=True)
class Back:
    """What takes fuel back: regulator and return line."""

    regulator: Regulator
    return_line: Line


@dataclass(frozen=True)
class System:
    """A whole choice."""

    metering: Metering
    stages: Stages
    feed: Line
    back: Back


def option_of(base: Option, system: System) -> Option:
    """The option of a choice; everything else is the base option's."""
    metering = system.metering
    regulator = system.back.regulator.model_copy(update={"base_kpa": metering.base_kpa})
    returnless = regulator.arrangement == RETURNLESS
    staged = any(group.staged for group in system.stages.pumps)
    told = told_of(base.calibration, metering.injectors).model_copy(
        update={
            "pump_controller": "set for these pumps" if returnless else base.calibration.pump_controller,
            "base_kpa": None if base.calibration.base_kpa is None else metering.base_kpa,
            # A stage comes with the cut that tells when it does not.
            "rail_watch": WATCHED if staged else base.calibration.rail_watch,
        }
    )
    changed: dict[str, object] = {"injectors": metering.injectors, "high_side": metering.high_side, "calibration": told}
    changed |= {"pumps": system.stages.pumps, "filter": system.stages.filter, "feed": system.feed}
    changed |= {"return_line": system.back.return_line, "regulator": regulator}
    changed |= {} if system.stages.suction is None else {"suction": system.stages.suction}
    return base.model_copy(update=changed)


def told_of(told: Calibration, injectors: InjectorSet | None) -> Calibration:
    """A calibration told of the injectors that are fitted, where it was told of any."""
    if injectors is None or told.injector_cc_min is None:
        return told
    part = injectors.part
    told = told.model_copy(update={"injector_cc_min": part.rated_flow_cc_min, "injector_at_kpa": part.rated_pressure_kpa})
    if told.dead_time_ms is not None:
        dead = round(float(part.dead_ms_at(13.5, part.dead_time_at_kpa)), 4)
        told = told.model_copy(update={"dead_time_ms": dead})
    return told


class Choices:
    """The choices of a build from a base option, a catalogue and locks; with `widen` no line becomes narrower."""

    def __init__(
        self,
        build: Build,
        base: Option,
        catalogue: Catalogue,
        locks: Locks,
        own: frozenset[str] = frozenset(),
        widen: bool = False,
    ):
        self.build, self.base, self.locks, self._widen = build, base, locks, widen
        self._catalogue, self._own = catalogue, own
        self.alcohol = any(one.ethanol_pct > ALCOHOL_PCT or one.base_fuel == "methanol" for one in build.targets)

    def offered(self, parts: Sequence[Part]) -> list[Part]:
        """Parts the locks allow and the fuel does not harm."""
        fit = [one for one in parts if one.alcohol_ok or not self.alcohol]
        own = [one for one in fit if one.shelf_id in self._own]
        if self.locks.shelf == "own parts alone" or (self.locks.shelf == OWN_FIRST and own):
            return list(own)
        return fit

    def bases(self) -> list[float]:
        """Base pressures to look at; of a carburettor those its floats hold against."""
        regulator, bowl = self.base.regulator, self.base.carburettor
        if self.locks.base_pressure == "as it is":
            return [regulator.base_kpa]
        if bowl is not None:
            offered = tuple(one for one in CARBURETTOR_BASES_KPA if bowl.lowest_kpa <= one <= bowl.highest_kpa)
        else:
            usual = USUAL_BASES_KPA if self.locks.base_pressure == "usual alone" else BASES_KPA
            offered = DIRECT_BASES_KPA if self.base.high_side is not None else usual
        if "regulator" in self.locks.keep:
            low, high = regulator.part.min_base_kpa, regulator.part.max_base_kpa
            fit = {one for one in offered if low <= one <= high}
            if self.locks.base_pressure == "usual alone":
                return sorted(fit) or [regulator.base_kpa]  # a fixed unit brings its own
            return sorted({regulator.base_kpa, *fit})
        return list(offered) or [regulator.base_kpa]

    def meterings(self, base_kpa: float) -> list[Metering]:
        """Every metering at a base pressure."""
        sets = self._injector_sets(base_kpa)
        return [Metering(base_kpa, injectors, high) for high in self._high_sides() for injectors in sets]

    def _injector_sets(self, base_kpa: float) -> list[InjectorSet | None]:
        fitted = self.base.injectors
        if fitted is None or "injectors" in self.locks.keep:
            return [fitted]
        alone = fitted.model_copy(update={"second": None, "measured_flows": ""})
        parts = [one for one in self.offered(self._catalogue.injectors) if isinstance(one, InjectorPart)]
        if base_kpa < BETWEEN_USUAL_KPA:
            parts = [one for one in parts if one.rated_pressure_kpa < BETWEEN_USUAL_KPA or one == fitted.part]
        parts.sort(key=rated_at_300_kpa)
        sets: list[InjectorSet | None] = [alone.model_copy(update={"part": part}) for part in parts]
        if self.locks.second_set == "none":
            return sets
        for first in parts:
            for part in parts:
                if rated_at_300_kpa(part) >= rated_at_300_kpa(first):
                    second = SecondSet(part=part, joins_pct=SECOND_JOINS_PCT)
                    sets.append(alone.model_copy(update={"part": first, "second": second}))
        return sets

    def _high_sides(self) -> list[HighSide | None]:
        high = self.base.high_side
        if high is None:
            return [None]
        own_pump, own_injector = high.pumps[0].part, high.injectors.part
        pumps, injectors = [own_pump], [own_injector]
        if "high-pressure pumps" not in self.locks.keep:
            # A smaller one asks less of its inlet, which counts where an engine turns fast.
            every = (self._catalogue.high_pumps_below(own_pump)[::-1], self._catalogue.high_pumps_above(own_pump))
            pumps += [one for some in every for one in some if one in self.offered([one])]
        if "direct injectors" not in self.locks.keep:
            below = self._catalogue.direct_injectors_below(own_injector)[::-1]
            every_one = (*below, *self._catalogue.direct_injectors_above(own_injector))
            injectors += [one for one in every_one if one in self.offered([one])]
        found = []
        for pump in pumps:
            top = self.build.engine.max_rpm
            # The cam is the engine's.
            on = pump if own_pump.driven != "by cam lobes" else on_cam(pump, own_pump.lobes)
            fresh = tuple(
                one if pump is own_pump else sprung(one.model_copy(update={"part": on, "worn_um": 0.0}), top)
                for one in high.pumps
            )
            for injector in injectors:
                fitted = high.injectors.model_copy(update={"part": injector})
                found.append(high.model_copy(update={"pumps": fresh, "injectors": fitted}))
        return list(found)

    def drives(self) -> list[Drive]:
        """Kinds of pump sets that are looked at apart."""
        plain: Drive = "without a controller"
        return [plain] if self.locks.brushless == "none" and "pumps" not in self.locks.keep else [plain, "brushless"]

    def stages(self, base_kpa: float, need_l_h: float, arrangement: str, drive: Drive | None = None) -> list[Stages]:
        """Every set of pumps at a base pressure for a need of fuel: those with a brushless one, those without, or all."""
        return [
            one
            for place in self._suctions(need_l_h)
            for one in self._stages(base_kpa, need_l_h, arrangement, drive, place)
        ]

    def _suctions(self, need_l_h: float) -> list[Suction]:
        """Where main pumps may sit."""
        now, base = self.base.suction, self.base
        if self.locks.pumps_sit == "as it is" or "pumps" in self.locks.keep or not may_move_pumps(base):
            return [now]
        return suctions(base, self.offered(self._catalogue.lines), self.offered(self._catalogue.filters), need_l_h)

    def _stages(
        self, base_kpa: float, need_l_h: float, arrangement: str, drive: Drive | None, place: Suction
    ) -> list[Stages]:
        found = [
            pumps
            for pumps in self._pumps(base_kpa, need_l_h, arrangement, place)
            if drive is None or any(group.part.kind == "brushless" for group in pumps) == (drive == "brushless")
        ]
        if self.locks.booster == "where it helps" and "pumps" not in self.locks.keep and arrangement != RETURNLESS:
            alone = [pumps for pumps in found if len(pumps) == 1 and pumps[0].count < self.locks.most_pumps]
            # One in line behind others may be brushless where they are not: those come with the plain ones.
            helped = [one for pumps in alone for one in self._helped(pumps, base_kpa, place)]
            found += [boosted for pumps in found if (boosted := self._boosted(pumps, base_kpa)) is not None] + helped
        sits = None if place is self.base.suction else place
        if arrangement == COMBINED and "filter" not in self.locks.keep:
            return [Stages(pumps, None, sits) for pumps in found]
        return [Stages(pumps, one, sits) for pumps in found for one in self._filters(pumps, base_kpa)]

    def _helped(self, pumps: tuple[PumpGroup, ...], base_kpa: float, place: Suction) -> Iterator[tuple[PumpGroup, ...]]:
        """The same pumps with one in line behind them that joins as a stage would; none where none joins."""
        joins = self._joins_kpa()
        if joins is None or pumps[0].part.kind == "mechanical" or self.base.carburettor is not None:
            return
        for part in self._pump_parts(base_kpa, place):
            helper = self._group(part, 1, "g2", joins, base_kpa)
            yield (*pumps, helper.model_copy(update={"place": "in series, boosting the others"}))

    def _boosted(self, pumps: tuple[PumpGroup, ...], base_kpa: float) -> tuple[PumpGroup, ...] | None:
        """The same pumps, the first of them boosted from the boost at which a stage would join; None where none is, or
        where they bring a controller of their own."""
        joins, group = self._joins_kpa(), pumps[0]
        if joins is None or group.part.kind in ("mechanical", "brushless"):
            return None
        supply = min(one.supply_v for one in self.build.targets)
        pressed = self._pressed_kpa(base_kpa)
        amps = most_drawn_a(group.part, pressed)
        raised = (BOOSTED_V / max(table.voltage_v for table in group.part.curves)) ** 2  # affinity: at most
        drawn = amps * group.count * raised
        gives = next((one for one in BOOSTERS_A if one >= drawn), None)
        if gives is None:
            return None
        fed = {"booster_v": BOOSTED_V, "booster_from_kpa": joins, "booster_a": gives, "booster_pct": BOOSTER_PCT}
        more = raised * BOOSTED_V / supply / (BOOSTER_PCT / 100.0)
        wiring = wired(group.wiring, group.part, self.build, pressed, more)
        return (group.model_copy(update={**fed, "wiring": wiring}), *pumps[1:])

    def feeds(self) -> list[Line]:
        """Every feed line."""
        return self._lines(self.base.feed)

    def backs(self, base_kpa: float, arrangement: str) -> list[Back]:
        """Every regulator with every return line, at a base pressure."""
        nothing = arrangement in (RETURNLESS, "carburettor, deadhead")
        now = back_from(self.base, arrangement)
        returns = [now] if nothing else self._lines(now)
        return [Back(one, back) for one in self._regulators(base_kpa, arrangement) for back in returns]

    def arrangements(self) -> list[str]:
        """Ways of regulating the locks allow."""
        now = self.base.regulator.arrangement
        if now.startswith("carburettor"):
            return [now]
        if "regulator" in self.locks.keep:
            return [now] if self._allowed(now) else []
        either = [now] if now != RETURNLESS else [AT_RAIL]
        if self.locks.regulator_sits == "may change" and may_move_regulator(self.build, self.base):
            either = [AT_RAIL, NEAR_TANK, COMBINED]
        ways = [*either, RETURNLESS]
        return [one for one in ways if self._allowed(one)]

    def _allowed(self, arrangement: str) -> bool:
        barred = any(one.class_returnless == "barred" for one in self.build.targets)
        if arrangement == RETURNLESS:
            return self.locks.returns != "with a return" and not barred
        return self.locks.returns != "returnless"

    def _regulators(self, base_kpa: float, arrangement: str) -> list[Regulator]:
        now = self.base.regulator
        if "regulator" in self.locks.keep:
            return [now]
        if arrangement == RETURNLESS:
            return [now.model_copy(update={"arrangement": arrangement})]
        works, sits_there = regulating(arrangement, now)
        fit: list[RegulatorPart] = [
            one
            for one in self.offered(self._catalogue.regulators)
            if isinstance(one, RegulatorPart) and one.works in works and one.min_base_kpa <= base_kpa <= one.max_base_kpa
        ]
        fit.sort(key=lambda one: one.capacity_l_h)
        return [now.model_copy(update={"part": part, **sits_there}) for part in fit]

    def _lines(self, now: Line) -> list[Line]:
        if "lines" in self.locks.keep:
            return [now]
        alike = self._line_parts(now.part.construction)
        if self._widen:
            alike = [one for one in alike if one.bore_mm >= now.part.bore_mm]
        if not alike:
            return [now]
        alike.sort(key=lambda one: one.bore_mm)
        return [now if part == now.part else now.model_copy(update={"part": part}) for part in alike]

    def _line_parts(self, construction: str) -> list[LinePart]:
        every = [one for one in self.offered(self._catalogue.lines) if isinstance(one, LinePart)]
        return [one for one in every if one.construction == construction]

    def _filters(self, pumps: Sequence[PumpGroup], base_kpa: float) -> list[Filter | None]:
        """The filter that stays or the smallest that passes what pumps bring, and the next larger, which loses less."""
        now = self.base.filter
        if "filter" in self.locks.keep:
            return [now]
        wanted = CARBURETTOR_FILTER_UM if self.base.carburettor is not None else self._filter_um()
        passing = sum(group.count * flow_at(group.part, base_kpa) for group in pumps)
        fit = [one for one in self._catalogue.filters_for(passing, wanted) if one in self.offered([one])]
        if now is not None and now.part.rated_flow_l_h >= passing and now.part.grade_um <= wanted:
            larger = [one for one in fit if one.rated_flow_l_h > now.part.rated_flow_l_h]
            return [now, *(Filter(part=one) for one in larger[:1])]
        if not fit:
            return [now]
        larger = [one for one in fit if one.rated_flow_l_h > fit[0].rated_flow_l_h]
        return [now if now is not None and now.part == one else Filter(part=one) for one in (fit[0], *larger[:1])]

    def _filter_um(self) -> float:
        fitted = self.base.injectors
        told = None if fitted is None else fitted.part.filter_um
        return FILTER_UM if told is None else told

    def _pumps(
        self, base_kpa: float, need_l_h: float, arrangement: str, place: Suction
    ) -> Iterator[tuple[PumpGroup, ...]]:
        """Pumps alone and in numbers, then one always on with others that join with boost."""
        now = self.base.pumps
        if "pumps" in self.locks.keep:
            if sum(group.count for group in now) <= self.locks.most_pumps:
                yield now
            return
        parts = self._pump_parts(base_kpa, place)
        most = self.locks.most_pumps
        # Of a need smaller than any pump, the smallest that brings it.
        enough = [flow_at(one, base_kpa) for one in parts if flow_at(one, base_kpa) >= need_l_h * 0.9]
        bounds = need_l_h * 0.9, max(need_l_h * LARGER_THAN_NEEDED, min(enough, default=0.0))
        for part in parts:
            flow = flow_at(part, base_kpa)
            for count in range(1, most + 1):
                if bounds[0] <= flow * count <= bounds[1]:
                    yield (self._group(part, count, "g1", None, base_kpa),)
        joins = self._joins_kpa()
        if joins is None or arrangement == RETURNLESS or self.base.carburettor is not None:
            return
        for first in parts:
            for second in parts:
                if first.kind == "mechanical" or second.kind == "mechanical":
                    continue
                for count in range(1, most):
                    flow = flow_at(first, base_kpa) + count * flow_at(second, base_kpa)
                    if bounds[0] <= flow <= bounds[1]:
                        yield (
                            self._group(first, 1, "g1", None, base_kpa),
                            self._group(second, count, "g2", joins, base_kpa),
                        )

    def _pump_parts(self, base_kpa: float, place: Suction) -> list[PumpPart]:
        first = self.base.pumps[0].part
        carburettor = self.base.carburettor is not None
        # What is fitted is not bought again for what the shelf has come to say of it since.
        fitted = {group.part.shelf_id: group.part for group in self.base.pumps if group.part.shelf_id}
        found: list[PumpPart] = []
        for sold in self.offered(self._catalogue.pumps):
            one = fitted.get(sold.shelf_id or "", sold)
            if not isinstance(one, PumpPart) or flow_at(one, base_kpa) <= 0:
                continue
            low = one.relief_kpa is not None and one.relief_kpa <= 150.0
            pressure = flow_at(one, 150.0) > 0 and not low
            if carburettor == pressure or "Lift" in one.name:
                continue
            if (one.kind == "mechanical") != (first.kind == "mechanical"):
                continue  # what drives the pump is the car's
            if one.kind == "brushless" and self.locks.brushless == "none":
                continue
            if not carburettor and not sits(one, place, first if place is self.base.suction else None):
                continue
            found.append(one)
        return sorted(found, key=lambda one: flow_at(one, base_kpa))

    def _pressed_kpa(self, base_kpa: float) -> float:
        return pressed_kpa(self.build, self.base.regulator, base_kpa)

    def _joins_kpa(self) -> float | None:
        """Boost at which a second stage joins: early, well below the lowest boost of any target."""
        boosts = [one.boost_kpa for one in self.build.targets]
        if min(boosts) < JOINS_LEAST_KPA / JOINS_SHARE * 0.6:
            return None
        return max(round(min(boosts) * JOINS_SHARE / ROUND_KPA) * ROUND_KPA, JOINS_LEAST_KPA)

    def _group(self, part: PumpPart, count: int, name: str, joins_kpa: float | None, base_kpa: float) -> PumpGroup:
        like = self.base.pumps[0]
        changed = {
            "id": name,
            "part": part,
            "count": count,
            "derate_pct": 0.0 if part != like.part else like.derate_pct,
            "wiring": wired(like.wiring, part, self.build, self._pressed_kpa(base_kpa)),
            "check_valve_kpa": max(like.valve_kpa, CHECK_KPA),
            "place": "in parallel",
            "on_above_kpa": joins_kpa,
            "booster_v": None,
            **dict.fromkeys(("on_above_rpm", "on_above_l_h", "on_above_duty_pct", "on_below_lambda")),
        }
        return like.model_copy(update=changed)
