"""The parts a remedy may propose, in order of size. The shelf fills it; the core only reads it."""

from collections.abc import Callable, Iterator
from dataclasses import dataclass, fields
from math import log, pi
from typing import Any

from ..physics import relief_share
from .injector_parts import InjectorPart, PortSetPart
from .memory import remembered
from .parts import (
    DirectInjectorPart,
    FilterPart,
    HighPumpPart,
    LinePart,
    Part,
    PumpPart,
    RailPart,
    RegulatorPart,
    SensorPart,
)


@dataclass(frozen=True)
class Catalogue:
    """The kinds of part a shelf offers."""

    pumps: tuple[PumpPart, ...] = ()
    injectors: tuple[InjectorPart, ...] = ()
    lines: tuple[LinePart, ...] = ()
    regulators: tuple[RegulatorPart, ...] = ()
    filters: tuple[FilterPart, ...] = ()
    high_pumps: tuple[HighPumpPart, ...] = ()
    direct_injectors: tuple[DirectInjectorPart, ...] = ()
    rails: tuple[RailPart, ...] = ()
    sensors: tuple[SensorPart, ...] = ()
    port_sets: tuple[PortSetPart, ...] = ()

    def fit(self) -> "Catalogue":
        """The parts that are fit for alcohol."""
        return remembered(self, "fit for alcohol", _fit_of)

    def injectors_above(self, flow_at_300_kpa: float) -> Iterator[InjectorPart]:
        """Injectors that flow more than this (cc/min at 300 kPa), smallest first."""
        for part in sorted(self.injectors, key=rated_at_300_kpa):
            if rated_at_300_kpa(part) > flow_at_300_kpa * 1.001:
                yield part

    def injectors_below(self, flow_at_300_kpa: float) -> Iterator[InjectorPart]:
        """Injectors that flow less, largest first."""
        for part in sorted(self.injectors, key=rated_at_300_kpa, reverse=True):
            if rated_at_300_kpa(part) < flow_at_300_kpa * 0.999:
                yield part

    def pumps_above(self, part: PumpPart, at_kpa: float = 400.0) -> Iterator[PumpPart]:
        """Pumps for the same work that move more at a pressure and their own voltage: its own kind first, smallest first.

        Driven the same way, and of the same class of pressure: no injection pump for a carburettor.
        """
        own, own_top = flow_at(part, at_kpa), _top_kpa(part)
        misplaced = own <= 0  # it cannot make the pressure: what the place asks counts, not what the part was made for
        near = [
            (other.kind != part.kind, flow_at(other, at_kpa), other)
            for other in self.pumps
            if (same_work(other, part) and own_top / 3 <= _top_kpa(other) <= own_top * 3)
            or (misplaced and (other.kind == "mechanical") == (part.kind == "mechanical"))
        ]
        for _, flow, other in sorted(near, key=lambda one: one[:2]):
            if flow > own * 1.001:
                yield other

    def fit_for_alcohol(self, part: Part) -> Part | None:
        """The part of the same kind nearest in size that is fit for alcohol; None when the shelf has none."""
        kind = next(one for one in _SIZES if isinstance(part, one))
        size = _SIZES[kind]
        own = size(part)
        every: tuple[Part, ...] = (*self.pumps, *self.injectors, *self.lines, *self.regulators, *self.filters)
        every = (*every, *self.high_pumps, *self.direct_injectors, *self.rails, *self.sensors, *self.port_sets)
        fit = [one for one in every if type(one) is kind and one.alcohol_ok and _stands_in(one, part)]
        return min(fit, key=lambda one: abs(log(max(size(one), 1e-6) / max(own, 1e-6))), default=None)

    def high_pumps_above(self, part: HighPumpPart) -> list[HighPumpPart]:
        """High-pressure pumps driven alike that move more a turn, smallest first."""
        larger = (p for p in self.high_pumps if p.driven == part.driven and a_turn_mm3(p) > a_turn_mm3(part) * 1.001)
        return sorted(larger, key=a_turn_mm3)

    def high_pumps_below(self, part: HighPumpPart) -> list[HighPumpPart]:
        """High-pressure pumps driven alike that move less a turn, largest first."""
        smaller = (p for p in self.high_pumps if p.driven == part.driven and a_turn_mm3(p) < a_turn_mm3(part) * 0.999)
        return sorted(smaller, key=a_turn_mm3, reverse=True)

    def direct_injectors_above(self, part: DirectInjectorPart) -> list[DirectInjectorPart]:
        """Direct injectors that pass more at the same pressure, smallest first."""
        larger = (p for p in self.direct_injectors if at_10_mpa(p) > at_10_mpa(part) * 1.001)
        return sorted(larger, key=at_10_mpa)

    def direct_injectors_below(self, part: DirectInjectorPart) -> list[DirectInjectorPart]:
        """Direct injectors that pass less, largest first."""
        smaller = (p for p in self.direct_injectors if at_10_mpa(p) < at_10_mpa(part) * 0.999)
        return sorted(smaller, key=at_10_mpa, reverse=True)

    def filters_for(self, flow_l_h: float, coarsest_um: float) -> list[FilterPart]:
        """Filters fine enough that pass a flow and are fit for alcohol, smallest first."""
        found = (p for p in self.filters if p.grade_um <= coarsest_um and p.rated_flow_l_h >= flow_l_h and p.alcohol_ok)
        return sorted(found, key=lambda p: (p.rated_flow_l_h, -p.grade_um))

    def line_next(self, part: LinePart, larger: bool) -> LinePart | None:
        """The next size of the same construction up or down, if there is one: not the same size with another bore."""
        same = [line for line in self.lines if line.construction == part.construction and _another_size(line, part)]
        if larger:
            return min((p for p in same if p.bore_mm > part.bore_mm), key=lambda p: p.bore_mm, default=None)
        return max((p for p in same if p.bore_mm < part.bore_mm), key=lambda p: p.bore_mm, default=None)

    def lines_above(self, part: LinePart) -> list[LinePart]:
        """Every larger size of the same construction, smallest first."""
        larger = [line for line in self.lines if line.construction == part.construction and line.bore_mm > part.bore_mm]
        return sorted(larger, key=lambda line: line.bore_mm)

    def regulators_above(self, part: RegulatorPart) -> Iterator[RegulatorPart]:
        """Regulators that pass more wide open at 100 kPa, smallest first."""
        for other in sorted(self.regulators, key=capacity_at_100_kpa):
            if capacity_at_100_kpa(other) > capacity_at_100_kpa(part) * 1.001:
                yield other


def _another_size(one: LinePart, other: LinePart) -> bool:
    """Whether a line is sold as another size, or by its bore where it has none."""
    return one.size != other.size or not one.size


def _fit_of(whole: Catalogue) -> Catalogue:
    kinds = {one.name: getattr(whole, one.name) for one in fields(whole)}
    return Catalogue(**{name: tuple(part for part in parts if part.alcohol_ok) for name, parts in kinds.items()})


def a_turn_mm3(part: HighPumpPart) -> float:
    """What a high-pressure pump displaces a turn of its shaft, mm³."""
    return float(pi / 4.0 * part.plunger_mm**2 * part.stroke_mm * part.strokes_a_turn)


def at_10_mpa(part: DirectInjectorPart) -> float:
    """A direct injector's rating brought to 10 MPa by the orifice law, cc/min."""
    return float(part.rated_flow_cc_min * (10_000.0 / part.rated_pressure_kpa) ** 0.5)


def rated_at_300_kpa(part: InjectorPart) -> float:
    """An injector's rating brought to 300 kPa by the orifice law, cc/min."""
    return float(part.heptane_cc_min * (300.0 / part.rated_pressure_kpa) ** 0.5)


def flow_at(part: PumpPart, rise_kpa: float) -> float:
    """A pump's flow at a pressure rise and the voltage of its highest table, L/h; none past its relief valve."""
    flow = float(max(part.tables(), key=lambda t: t.voltage_v).flow(rise_kpa))
    return flow * float(relief_share(rise_kpa, part.relief_kpa))


def flow_at_400_kpa(part: PumpPart) -> float:
    """A pump's flow at 400 kPa and the voltage of its highest table, L/h."""
    return remembered(part, "flow at 400 kPa", lambda one: flow_at(one, 400.0))


def _top_kpa(part: PumpPart) -> float:
    stall = max(float(table.stall_kpa) for table in part.tables())
    return stall if part.relief_kpa is None else min(stall, part.relief_kpa)


def _stands_in(one: Part, part: Part) -> bool:
    """Whether a part does the same work as another, size aside."""
    if isinstance(one, LinePart) and isinstance(part, LinePart):
        return one.bore_mm > 0.6 * part.bore_mm
    if isinstance(one, FilterPart) and isinstance(part, FilterPart):
        return one.grade_um <= part.grade_um * 1.5
    if isinstance(one, PumpPart) and isinstance(part, PumpPart):
        return same_work(one, part) and 0.7 <= _top_kpa(one) / _top_kpa(part) <= 3
    if isinstance(one, RegulatorPart) and isinstance(part, RegulatorPart):
        return one.min_base_kpa <= part.max_base_kpa and one.max_base_kpa >= part.min_base_kpa
    return True


def same_work(one: PumpPart, other: PumpPart) -> bool:
    """Whether two pumps are driven alike and meant for the same: injection, lifting, or a carburettor.

    Pumps that make no 400 kPa lift when nothing limits their pressure, and feed a carburettor when a relief valve does.
    """
    if (one.kind == "mechanical") != (other.kind == "mechanical"):
        return False
    low, other_low = (flow_at_400_kpa(part) <= 0 for part in (one, other))
    return low == other_low and (not low or (one.relief_kpa is None) == (other.relief_kpa is None))


def free_flow(part: PumpPart) -> float:
    """A pump's flow against nothing and the voltage of its highest table, L/h."""
    return float(max(part.tables(), key=lambda t: t.voltage_v).flow(0.0))


def capacity_at_100_kpa(part: RegulatorPart) -> float:
    """A regulator's wide-open flow brought to 100 kPa, L/h."""
    return float(part.capacity_l_h * (100.0 / part.capacity_drop_kpa) ** 0.5)


_SIZES: dict[type[Part], Callable[[Any], float]] = {
    PumpPart: free_flow,
    InjectorPart: rated_at_300_kpa,
    LinePart: lambda part: float(part.bore_mm),
    RegulatorPart: capacity_at_100_kpa,
    FilterPart: lambda part: float(part.rated_flow_l_h),
    HighPumpPart: a_turn_mm3,
    DirectInjectorPart: at_10_mpa,
    RailPart: lambda part: float(part.bore_mm),
    SensorPart: lambda part: float(part.reads_to_kpa),
    PortSetPart: lambda part: rated_at_300_kpa(part.injector()),
}
