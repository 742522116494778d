"""Injectors as sold: one by one, and with rails as a set. Frozen; a part is copied into a build."""

from typing import Annotated, Literal, Self

import numpy as np
from pydantic import Field, model_validator

from ..physics import TEST_FLUID_KG_M3, Floats, Number, bends_between, dead_time_shifted_ms, floats
from .parts import Name, Part

# Smallest repeatable pulse without dead time, ms, up to a rated flow (cc/min at 300 kPa), and above all of them.
SMALLEST_PULSES, LARGEST_PULSE_MS = ((630.0, 0.30), (1250.0, 0.35), (1700.0, 0.42)), 0.45


def smallest_by_size(cc_min: float) -> float:
    """Smallest repeatable pulse without dead time of an injector of a size (cc/min of n-heptane at 300 kPa), ms."""
    return next((pulse for most, pulse in SMALLEST_PULSES if cc_min <= most), LARGEST_PULSE_MS)


# Fluids injectors are rated on: SAE J1832; gasoline at 20 °C; calibration fluid after ISO 4113. Unsaid counts as J1832.
RATING_FLUIDS_KG_M3 = {
    "n-heptane": TEST_FLUID_KG_M3,
    "gasoline": 741.0,
    "calibration fluid": 825.0,
    "not said": TEST_FLUID_KG_M3,
}


class InjectorPart(Part):
    """An injector as published."""

    in_groups = {
        "Dead times": ("dead_time_at_kpa", "dead_time_ms_per_100_kpa"),
        "Electrical and fit": (
            "impedance_ohm",
            "streams",
            "spray_deg",
            "spray_min_kpa",
            "height_mm",
            "filter_um",
        ),
    }
    when_empty = {
        "min_pulse_ms": "by size",
        **dict.fromkeys(("impedance_ohm", "spray_deg", "spray_min_kpa", "height_mm", "filter_um"), "not said"),
    }

    rated_flow_cc_min: float = Field(ge=20, le=20000, title="Rated flow")
    rated_pressure_kpa: float = Field(300.0, ge=50, le=2000, title="Rated at")
    rated_on: Literal["n-heptane", "gasoline", "calibration fluid", "not said"] = Field("n-heptane", title="Rated on")
    dead_time_v: tuple[Annotated[float, Field(ge=4, le=32)], ...] = Field(min_length=1, max_length=16)
    dead_time_ms: tuple[Annotated[float, Field(ge=0, le=10)], ...] = Field(min_length=1, max_length=16)
    dead_time_at_kpa: float = Field(300.0, ge=50, le=2000, title="measured at")
    dead_time_ms_per_100_kpa: float = Field(0.0, ge=-1, le=2, title="change")
    dead_more_kpa: tuple[Annotated[float, Field(ge=50, le=2000)], ...] = Field((), max_length=8)
    dead_more_ms: tuple[Annotated[float, Field(ge=0, le=10)], ...] = Field((), max_length=128)
    min_pulse_ms: float | None = Field(None, ge=0.05, le=10, title="Smallest pulse")
    max_pressure_kpa: float = Field(700.0, ge=100, le=3000, title="Opens against")
    impedance_ohm: float | None = Field(None, ge=0.2, le=100, title="Coil")
    streams: Literal["not said", "one", "two"] = Field("not said", title="Streams")
    spray_deg: float | None = Field(None, ge=1, le=120, title="Spray angle")
    spray_min_kpa: float | None = Field(None, ge=5, le=1500, title="Good spray from")
    height_mm: float | None = Field(None, ge=20, le=150, title="Height between its seals")
    filter_um: float | None = Field(None, ge=1, le=200, title="Filter wanted")

    @property
    def dead_rows(self) -> tuple[tuple[float, ...], tuple[tuple[float, ...], ...]]:
        """The two-way table: pressures, rising, and for each its dead times over voltage; one row without more."""
        wide = len(self.dead_time_v)
        more = [self.dead_more_ms[wide * row : wide * (row + 1)] for row in range(len(self.dead_more_kpa))]
        rows = sorted([(self.dead_time_at_kpa, self.dead_time_ms), *zip(self.dead_more_kpa, more, strict=True)])
        return tuple(kpa for kpa, _ in rows), tuple(row for _, row in rows)

    def dead_rows_at(self, voltage_v: Number) -> tuple[Floats, Floats]:
        """Pressures of the two-way table and changes of slope there at a voltage, (rows,); none where it has one row."""
        kpa, rows = self.dead_rows
        if len(kpa) < 2:
            return floats(()), floats(())
        at = floats([np.interp(floats(voltage_v), self.dead_time_v, row) for row in rows])
        return floats(kpa), bends_between(floats(kpa), at)

    def dead_ms_at(self, voltage_v: Number, differential_kpa: Number) -> Floats:
        """Dead time at a voltage and a pressure across the injector, ms; numbers or arrays that broadcast."""
        volts, across = np.broadcast_arrays(floats(voltage_v), floats(differential_kpa))
        base = np.interp(volts, self.dead_time_v, self.dead_time_ms)
        if not self.dead_more_kpa:
            return dead_time_shifted_ms(base, across, self.dead_time_at_kpa, self.dead_time_ms_per_100_kpa)
        kpa, rows = self.dead_rows
        found = [np.interp(volts, self.dead_time_v, row) for row in rows]
        place = np.clip(np.searchsorted(kpa, across, side="right") - 1, 0, len(kpa) - 2)
        low, high = floats(kpa)[place], floats(kpa)[place + 1]
        share = np.clip((across - low) / (high - low), 0.0, 1.0)
        stacked = np.stack(found)
        one, other = (np.take_along_axis(stacked, (place + step)[None], 0)[0] for step in (0, 1))
        return floats(one + (other - one) * share)

    @property
    def heptane_cc_min(self) -> float:
        """The rating as volume flow of n-heptane: an orifice passes mass with the root of the fluid's density."""
        return float(self.rated_flow_cc_min * (RATING_FLUIDS_KG_M3[self.rated_on] / TEST_FLUID_KG_M3) ** 0.5)

    @property
    def smallest_pulse_ms(self) -> float:
        """Smallest repeatable pulse without dead time, ms: as published, else by size at 300 kPa (class figures)."""
        if self.min_pulse_ms is not None:
            return self.min_pulse_ms
        return smallest_by_size(self.heptane_cc_min * (300.0 / self.rated_pressure_kpa) ** 0.5)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if len(self.dead_time_v) != len(self.dead_time_ms):
            raise ValueError("dead times need one value for each voltage")
        if any(b <= a for a, b in zip(self.dead_time_v, self.dead_time_v[1:], strict=False)):
            raise ValueError("dead-time voltages must rise from point to point")
        if len(self.dead_more_ms) != len(self.dead_more_kpa) * len(self.dead_time_v):
            raise ValueError("a further pressure has one dead time for each voltage")
        if len({self.dead_time_at_kpa, *self.dead_more_kpa}) != 1 + len(self.dead_more_kpa):
            raise ValueError("a pressure stands twice in the table of dead times")
        if self.dead_more_kpa and self.dead_time_ms_per_100_kpa != 0:
            raise ValueError("dead times at several pressures and a change with pressure say it twice: leave one at 0")
        return self


class PortSetPart(Part):
    """A port rail set as sold: rails with bungs and mounts, and injectors for every cylinder. The price is the set's."""

    in_groups = {"Dead times": ("dead_time_at_kpa",)}

    name: Name = Field("Port rail set", title="Description")
    rails: int = Field(1, ge=1, le=4, title="Rails")
    bore_mm: float = Field(14.0, ge=3, le=40, title="Bore")
    length_m: float = Field(0.4, ge=0.05, le=3, title="Length")
    rated_flow_cc_min: float = Field(ge=20, le=20000, title="Injectors, rated flow")
    rated_pressure_kpa: float = Field(300.0, ge=50, le=2000, title="Rated at")
    dead_time_v: tuple[Annotated[float, Field(ge=4, le=32)], ...] = Field((14.0,), min_length=1, max_length=16)
    dead_time_ms: tuple[Annotated[float, Field(ge=0, le=10)], ...] = Field((0.9,), min_length=1, max_length=16)
    dead_time_at_kpa: float = Field(300.0, ge=50, le=2000, title="measured at")
    max_pressure_kpa: float = Field(700.0, ge=100, le=3000, title="Opens against")

    @model_validator(mode="after")
    def _injectors_of_it(self) -> Self:
        self.injector()
        return self

    def injector(self) -> InjectorPart:
        """One of its injectors; it has no price of its own."""
        return InjectorPart(
            name=f"Port injector of a set, {self.rated_flow_cc_min:g} cc/min at {self.rated_pressure_kpa:g} kPa",
            provenance=self.provenance,
            alcohol_ok=self.alcohol_ok,
            price=None if self.price is None else 0.0,
            rated_flow_cc_min=self.rated_flow_cc_min,
            rated_pressure_kpa=self.rated_pressure_kpa,
            dead_time_v=self.dead_time_v,
            dead_time_ms=self.dead_time_ms,
            dead_time_at_kpa=self.dead_time_at_kpa,
            max_pressure_kpa=self.max_pressure_kpa,
        )
