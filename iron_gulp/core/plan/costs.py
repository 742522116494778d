"""What a change of an option costs at the shop's rates: parts bought, fittings, hours to fit and to calibrate."""

from collections import Counter
from collections.abc import Iterator
from dataclasses import dataclass

from ..model import Build, Delivery, Line, Option, Part, Rates
from .pricing import usual_price


@dataclass(frozen=True)
class Cost:
    """One row: what is bought, how much of it, its price each (None: not known), whether the price is a generic one."""

    what: str
    count: float
    each: float | None
    generic: bool
    hours: float
    lead_days: int | None = None

    @property
    def price(self) -> float | None:
        return None if self.each is None else self.each * self.count


@dataclass(frozen=True)
class Bill:
    """A change's cost at the shop's rates; `known` is false where a price is missing, `generic` where one is a "
    "default."""

    rows: tuple[Cost, ...]
    rates: Rates
    calibration_h: float

    @property
    def parts(self) -> float:
        return sum(row.price or 0.0 for row in self.rows)

    @property
    def fittings(self) -> float:
        return self.parts * self.rates.fittings_pct / 100.0

    @property
    def hours(self) -> float:
        return sum(row.hours for row in self.rows)

    @property
    def labour(self) -> float:
        return self.hours * self.rates.labour

    @property
    def calibration(self) -> float:
        return self.calibration_h * self.rates.calibration

    @property
    def total(self) -> float:
        return self.parts + self.fittings + self.labour + self.calibration

    @property
    def _markup(self) -> float:
        return 1.0 + self.rates.markup_pct / 100.0

    @property
    def marked_up(self) -> tuple[float | None, ...]:
        """What each part costs in a quote, with the shop's markup; None where its price is not known."""
        return tuple(None if row.each is None else row.each * self._markup for row in self.rows)

    @property
    def marked_fittings(self) -> float:
        """Fittings in a quote."""
        return self.fittings * self._markup

    @property
    def _before_tax(self) -> float:
        return self.parts * self._markup + self.marked_fittings + self.labour + self.calibration

    @property
    def tax(self) -> float:
        """Tax on all of a quote."""
        return self._before_tax * self.rates.tax_pct / 100.0

    @property
    def quoted(self) -> float:
        """What a quote says: parts and fittings with the shop's markup, work, and tax on all of it."""
        return self._before_tax + self.tax

    @property
    def lead_days(self) -> int | None:
        """Days until the last part is there; None where any part's are not known."""
        told = [row.lead_days for row in self.rows]
        return None if None in told else max((one for one in told if one is not None), default=0)

    @property
    def known(self) -> bool:
        return all(row.each is not None for row in self.rows)

    @property
    def generic(self) -> bool:
        return any(row.generic for row in self.rows)


def bill(build: Build, before: Option, after: Option, rates: Rates, other_blend: bool = False) -> Bill:
    """What it takes to turn one option into another, and to run another blend if that is part of it."""
    rows = tuple(_rows(build, before, after, rates))
    calibration = rates.blend_calibration_h if other_blend else 0.0
    if after.high_side != before.high_side and _hardware(before) != _hardware(after):
        calibration += rates.direct_calibration_h
    if after.injectors is not None and _sets(after) != _sets(before):
        calibration += rates.port_calibration_h
    elif after.injectors is not None and after.regulator.base_kpa != before.regulator.base_kpa:
        calibration += rates.base_calibration_h
    return Bill(rows, rates, calibration)


def _sets(option: Option) -> object:
    port = option.injectors
    return None if port is None else (port.part, None if port.second is None else port.second.part)


def _hardware(option: Option) -> object:
    high = option.high_side
    return None if high is None else (high.injectors, [(pump.part, pump.turns) for pump in high.pumps])


def _rows(build: Build, before: Option, after: Option, rates: Rates) -> Iterator[Cost]:
    yield from _bought(_low_pumps(before), _low_pumps(after), rates.low_pump, rates.low_pump_h)
    yield from _bought(_high_pumps(before), _high_pumps(after), rates.high_pump, rates.high_pump_h)
    cylinders = build.engine.cylinders
    new, old = after.high_side, before.high_side
    if new is not None and (old is None or new.injectors.part != old.injectors.part):
        count = new.injectors.count or cylinders
        yield _cost(new.injectors.part, count, rates.direct_injector, rates.direct_injectors_h)
    port = after.injectors
    if port is not None and (before.injectors is None or port.part != before.injectors.part):
        yield _cost(port.part, port.count or cylinders, rates.port_injector, rates.port_injectors_h)
        if before.injectors is None:
            yield _rails(build, after, rates)
            if (after.delivery or Delivery()).runs == "a controller of its own":
                yield Cost("Controller and loom of the port side", 1, rates.port_controller, True, 0.0)
            else:
                yield Cost("Loom of the port side, to the engine controller", 1, rates.port_loom, True, 0.0)
    second = None if port is None else port.second
    had = None if before.injectors is None else before.injectors.second
    if second is not None and (had is None or second.part != had.part):
        yield _cost(second.part, second.count or cylinders, rates.port_injector, rates.port_injectors_h)
    if after.regulator.part != before.regulator.part:
        yield _cost(after.regulator.part, 1, rates.regulator, rates.regulator_h)
    if _speed_controlled(after) and not _speed_controlled(before):
        yield Cost("Controller of pump speed", 1, rates.speed_controller, True, rates.speed_controller_h)
    more = _boosters(after) - _boosters(before)
    if more > 0:
        yield Cost("Voltage booster", more, rates.booster, True, rates.booster_h * more)
    if after.filter is not None and (before.filter is None or after.filter.part != before.filter.part):
        yield _cost(after.filter.part, 1, rates.filter, rates.line_h)
    strainer, had_one = after.suction.filter, before.suction.filter
    if strainer is not None and (had_one is None or strainer.part != had_one.part):
        yield _cost(strainer.part, 1, rates.filter, rates.line_h)
    for line in _new_lines(before, after):
        yield _cost(line.part, round(line.length_m, 2), rates.line_per_m, rates.line_h)


def _boosters(option: Option) -> int:
    return sum(group.booster_v is not None for group in option.pumps)


def _speed_controlled(option: Option) -> bool:
    """Whether pumps are held by their speed through a controller beside them; brushless ones bring theirs."""
    driven = any(group.part.kind not in ("brushless", "mechanical") for group in option.pumps)
    return option.regulator.arrangement == "returnless, speed-controlled" and driven


def _bought(
    before: list[tuple[Part, int]], after: list[tuple[Part, int]], price: float | None, hours: float
) -> Iterator[Cost]:
    """Parts of which more are fitted than before."""
    had: Counter[str] = Counter()
    for part, count in before:
        had[part.name] += count
    for part, count in after:
        kept = min(had[part.name], count)
        had[part.name] -= kept
        if count > kept:
            yield _cost(part, count - kept, price, hours * (count - kept))


def _rails(build: Build, option: Option, rates: Rates) -> Cost:
    """Port rails new to the car: at their own price where they have one; of a plenum a bung and a mount each."""
    rail, port = option.rail, option.injectors
    if port is not None and port.sprays == "into a shared plenum" and port.count is not None:
        share = port.count / build.engine.cylinders
        each = None if rates.port_rail_set is None else rates.port_rail_set / build.engine.cylinders
        return Cost("Bungs and mounts in the plenum", port.count, each, True, rates.port_rail_h * share)
    hours = rates.port_rail_h if rail.fit_h is None else rail.fit_h
    if rail.price is None:
        return Cost("Port rails with bungs and mounts", 1, rates.port_rail_set, True, hours)
    return Cost(rail.name, rail.count, rail.price, False, hours)


def _cost(part: Part, count: float, price: float | None, hours: float) -> Cost:
    own = part.price
    fit = hours if part.fit_h is None else part.fit_h
    return Cost(part.name, count, usual_price(part, price) if own is None else own, own is None, fit, part.lead_days)


def _low_pumps(option: Option) -> list[tuple[Part, int]]:
    lift = [] if option.lift is None else [(option.lift.part, option.lift.count)]
    return [*((group.part, group.count) for group in option.pumps), *lift]


def _high_pumps(option: Option) -> list[tuple[Part, int]]:
    return [] if option.high_side is None else [(pump.part, 1) for pump in option.high_side.pumps]


def _new_lines(before: Option, after: Option) -> list[Line]:
    def lines(option: Option) -> list[Line]:
        suction = [] if option.suction.line is None else [option.suction.line]
        return [option.feed, option.return_line, *suction, *(option.high_side.branches if option.high_side else ())]

    had = lines(before)
    fresh = []
    for line in lines(after):
        if line in had:
            had.remove(line)
        else:
            fresh.append(line)
    return fresh
