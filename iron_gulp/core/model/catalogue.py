"""The parts a remedy may propose, in order of size. The shelf fills it; the core only reads it."""

from collections.abc import Iterator
from dataclasses import dataclass

from .parts import FilterPart, InjectorPart, LinePart, PumpPart, RegulatorPart


@dataclass(frozen=True)
class Catalogue:
    """The kinds of part a shelf offers."""

    pumps: tuple[PumpPart, ...] = ()
    injectors: tuple[InjectorPart, ...] = ()
    lines: tuple[LinePart, ...] = ()
    regulators: tuple[RegulatorPart, ...] = ()
    filters: tuple[FilterPart, ...] = ()

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

    def pumps_above(self, part: PumpPart) -> Iterator[PumpPart]:
        """Pumps that move more at 400 kPa and their own voltage, smallest first."""
        for other in sorted(self.pumps, key=flow_at_400_kpa):
            if flow_at_400_kpa(other) > flow_at_400_kpa(part) * 1.001:
                yield other

    def line_next(self, part: LinePart, larger: bool) -> LinePart | None:
        """The next size of the same construction up or down, if there is one."""
        same = [line for line in self.lines if line.construction == part.construction]
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


def rated_at_300_kpa(part: InjectorPart) -> float:
    """An injector's rating brought to 300 kPa by the orifice law, cc/min."""
    return float(part.rated_flow_cc_min * (300.0 / part.rated_pressure_kpa) ** 0.5)


def flow_at_400_kpa(part: PumpPart) -> float:
    """A pump's flow at 400 kPa and the voltage of its highest table, L/h."""
    table = max(part.tables(), key=lambda t: t.voltage_v)
    return float(table.flow(400.0))


def free_flow(part: PumpPart) -> float:
    """A pump's flow against nothing and the voltage of its highest table, L/h."""
    return float(max(part.tables(), key=lambda t: t.voltage_v).flow(0.0))


def capacity_at_100_kpa(part: RegulatorPart) -> float:
    """A regulator's wide-open flow brought to 100 kPa, L/h."""
    return float(part.capacity_l_h * (100.0 / part.capacity_drop_kpa) ** 0.5)
