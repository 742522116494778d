"""What can be bought: parts with their data. A part is copied into a build, so shelf edits never change a saved build.

Every quantity carries its unit as the suffix of its name. Models are frozen: a change makes a new part.
"""

from functools import lru_cache
from itertools import pairwise
from math import pi
from typing import Annotated, ClassVar, Literal, Self

from pydantic import BaseModel, ConfigDict, Field, model_validator

from ..physics import PumpTable
from .memory import remembered

Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,31}$")]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Text = Annotated[str, Field(max_length=4000)]


class Model(BaseModel):
    """A model with what its inputs need to know: fields stand in their order, each in a group ("" is the main one).

    `in_groups` names the fields of further groups, `shown_when` (a field of this model or of the option, the value it
    must have, or one of several) what is asked only then, `when_empty` what an empty field means, `not_asked` what
    other inputs set.
    """

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)
    in_groups: ClassVar[dict[str, tuple[str, ...]]] = {}
    shown_when: ClassVar[dict[str, tuple[str, str | tuple[str, ...]]]] = {}
    when_empty: ClassVar[dict[str, str]] = {}
    not_asked: ClassVar[tuple[str, ...]] = ("id", "shelf_id", "name", "provenance")


class Part(Model):
    """What every shelf part carries; a part is copied into a build, so shelf edits never change a saved build."""

    common_groups: ClassVar[dict[str, tuple[str, ...]]] = {"Price and hours": ("price", "fit_h", "supplier", "lead_days")}
    when_empty = {"price": "the shop's", "fit_h": "the shop's", "lead_days": "not known"}

    shelf_id: str | None = Field(None, max_length=64, title="Shelf part")
    name: Name = Field(title="Description")
    provenance: str = Field("entered by hand", max_length=120, title="Source of the data")
    alcohol_ok: bool = Field(True, title="Fit for alcohol")
    price: float | None = Field(None, ge=0, le=1_000_000, title="Price")
    fit_h: float | None = Field(None, ge=0, le=500, title="Hours to fit")
    supplier: str = Field("", max_length=80, title="Supplier")
    lead_days: int | None = Field(None, ge=0, le=1000, title="Days to come")


@lru_cache(maxsize=1024)
def _table(
    voltage_v: float,
    pressure_kpa: tuple[float, ...],
    flow_l_h: tuple[float, ...],
    current_a: tuple[float, ...],
    kind: str,
    dropout_v: float,
) -> PumpTable:
    return PumpTable.of(voltage_v, pressure_kpa, flow_l_h, current_a, kind, dropout_v)


class PumpCurve(Model):
    """A pump's table at one voltage: pressure rises upwards, flow falling, current."""

    voltage_v: float = Field(ge=4, le=60, title="Table voltage")
    pressure_kpa: tuple[Annotated[float, Field(ge=0, le=3000)], ...] = Field(min_length=2, max_length=40)
    flow_l_h: tuple[Annotated[float, Field(ge=0, le=10000)], ...] = Field(min_length=2, max_length=40)
    current_a: tuple[Annotated[float, Field(ge=0, le=200)], ...] = Field(min_length=2, max_length=40)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if not len(self.pressure_kpa) == len(self.flow_l_h) == len(self.current_a):
            raise ValueError("pressure, flow and current need the same number of points")
        if any(b <= a for a, b in zip(self.pressure_kpa, self.pressure_kpa[1:], strict=False)):
            raise ValueError("pressures must rise from point to point")
        if any(b > a for a, b in zip(self.flow_l_h, self.flow_l_h[1:], strict=False)):
            raise ValueError("flow must not rise with pressure")
        return self

    def table(self, kind: str, dropout_v: float) -> PumpTable:
        """The curve as a table of flow and current over pressure, of a kind of pump."""
        return _table(self.voltage_v, self.pressure_kpa, self.flow_l_h, self.current_a, kind, dropout_v)


class PumpPart(Part):
    """A pump. A mechanical pump's table is taken at `rated_rpm` of the engine and its voltage does not count."""

    in_groups = {
        "Pump data": (
            "kind",
            "made_for",
            "relief_kpa",
            "needed_head_kpa",
            "rated_rpm",
            "dropout_v",
            "pigtail_a",
            "alcohol_ok",
        )
    }
    shown_when = {"rated_rpm": ("kind", "mechanical"), "dropout_v": ("kind", "brushless")}
    when_empty = {"relief_kpa": "none", "pigtail_a": "not said"}

    kind: Literal["turbine", "gerotor", "brushless", "mechanical"] = Field("turbine", title="Type")
    made_for: Literal["in the tank or outside", "in the tank", "outside"] = Field(
        "in the tank or outside", title="Made to sit"
    )
    curves: tuple[PumpCurve, ...] = Field(min_length=1, max_length=6)
    relief_kpa: float | None = Field(None, ge=10, le=3000, title="Relief valve")
    needed_head_kpa: float = Field(15.0, ge=0, le=95, title="Suction head needed")
    rated_rpm: float = Field(3000.0, ge=300, le=20000, title="Table at engine speed")
    dropout_v: float = Field(11.0, ge=4, le=60, title="Controller holds down to")
    pigtail_a: float | None = Field(None, ge=1, le=300, title="Pigtail carries")

    @model_validator(mode="after")
    def _distinct_voltages(self) -> Self:
        if len({curve.voltage_v for curve in self.curves}) != len(self.curves):
            raise ValueError("two tables have the same voltage")
        return self

    def tables(self) -> tuple[PumpTable, ...]:
        """A table for every voltage the pump was measured at."""

        def make(part: "PumpPart") -> tuple[PumpTable, ...]:
            return tuple(curve.table(part.kind, part.dropout_v) for curve in part.curves)

        return remembered(self, "tables", make)


class RailPart(Part):
    """A port rail as sold."""

    name: Name = Field("Rail", title="Description")
    bore_mm: float = Field(14.0, ge=2, le=60, title="Rail bore")
    length_m: float = Field(0.45, ge=0.02, le=5, title="Rail length")


PRESSURES = ("manifold pressure", "low rail pressure", "direct rail pressure")
TEMPERATURES = ("charge temperature", "fuel temperature")


class SensorPart(Part):
    """A sensor as sold: what it reads, its range in that quantity, its signal at both ends of the range.

    A manifold sensor reads absolute pressure, a rail sensor gauge.
    """

    in_groups = {"Signal": ("low_v", "high_v", "supply")}
    shown_when = {
        **dict.fromkeys(("low_kpa", "reads_to_kpa"), ("measures", PRESSURES)),
        **dict.fromkeys(("low_c", "reads_to_c"), ("measures", TEMPERATURES)),
        "reads_to_kg_s": ("measures", "air flow"),
        **dict.fromkeys(("low_lambda", "reads_to_lambda"), ("measures", "exhaust mixture")),
    }

    name: Name = Field("Pressure sensor", title="Description")
    measures: Literal[
        "manifold pressure",
        "low rail pressure",
        "direct rail pressure",
        "air flow",
        "charge temperature",
        "fuel temperature",
        "exhaust mixture",
    ] = Field("low rail pressure", title="Reads")
    low_kpa: float = Field(0.0, ge=-100, le=100_000, title="from")
    reads_to_kpa: float = Field(1_000.0, ge=50, le=120_000, title="up to")
    reads_to_kg_s: float = Field(0.4, ge=0.01, le=10, title="up to")
    low_c: float = Field(-40.0, ge=-80, le=200, title="from")
    reads_to_c: float = Field(130.0, ge=-40, le=400, title="up to")
    low_lambda: float = Field(0.65, ge=0.3, le=1.5, title="from")
    reads_to_lambda: float = Field(1.6, ge=0.5, le=20, title="up to")
    low_v: float = Field(0.5, ge=-1, le=30, title="Signal at the beginning")
    high_v: float = Field(4.5, ge=-1, le=30, title="at the end")
    supply: Literal["5 V", "battery"] = Field("5 V", title="Supply")

    @property
    def reach(self) -> tuple[float, float, str]:
        """Where it begins and ends, and the unit as names end in it."""
        if self.measures in PRESSURES:
            return self.low_kpa, self.reads_to_kpa, "kpa"
        if self.measures in TEMPERATURES:
            return self.low_c, self.reads_to_c, "c"
        if self.measures == "air flow":
            return 0.0, self.reads_to_kg_s, "kg_s"
        return self.low_lambda, self.reads_to_lambda, "lambda"

    @model_validator(mode="after")
    def _a_range(self) -> Self:
        low, high, _ = self.reach
        if high <= low:
            raise ValueError("a sensor ends above where it begins")
        if self.low_v == self.high_v:
            raise ValueError("a signal that is the same at both ends tells nothing")
        return self


class LinePart(Part):
    """A hose or tube as sold."""

    in_groups = {"Hose": ("size", "construction", "roughness_um", "max_pressure_kpa", "max_temp_c", "alcohol_ok")}
    when_empty = {"max_pressure_kpa": "not said", "max_temp_c": "not said"}

    size: str = Field("", max_length=24, title="Nominal size")
    construction: Literal[
        "rubber hose", "PTFE-lined hose", "suction hose", "submersible hose", "hard tube", "nylon tube"
    ] = Field("PTFE-lined hose", title="Construction")
    bore_mm: float = Field(ge=0.5, le=60, title="True bore")
    roughness_um: float = Field(1.5, ge=0, le=25, title="Roughness")
    max_pressure_kpa: float | None = Field(None, ge=10, le=50000, title="Rated to")
    max_temp_c: float | None = Field(None, ge=20, le=400, title="and to")

    @model_validator(mode="after")
    def _rough(self) -> Self:
        if self.roughness_um * 1e-3 > 0.05 * self.bore_mm:
            raise ValueError("roughness is more than 5 % of the bore")
        return self


WITH_FILTER = "by bypass, with a filter, fixed"  # a unit that sits near the tank


class RegulatorPart(Part):
    """A regulator as published."""

    in_groups = {"Regulator data": ("works", "creep_kpa", "max_pressure_kpa", "droop_kpa", "drift_kpa", "alcohol_ok")}
    shown_when = {
        "droop_kpa": ("regulator/arrangement", "carburettor, deadhead"),
        "drift_kpa": ("regulator/arrangement", "carburettor, deadhead"),
    }

    works: Literal["by bypass", "deadhead", "by bypass, with a filter, fixed"] = Field("by bypass", title="Works")
    min_base_kpa: float = Field(200.0, ge=0, le=1500, title="Spring from")
    max_base_kpa: float = Field(500.0, ge=0, le=1500, title="to")
    max_pressure_kpa: float = Field(900.0, ge=20, le=3000, title="Highest pressure")
    capacity_l_h: float = Field(ge=1, le=20000, title="Wide-open flow")
    capacity_drop_kpa: float = Field(100.0, ge=1, le=1000, title="at a drop of")
    creep_kpa: float = Field(0.0, ge=0, le=200, title="Creep per 100 L/h")
    droop_kpa: float = Field(0.0, ge=0, le=100, title="Droop per 100 L/h")
    drift_kpa: float = Field(0.0, ge=0, le=50, title="Drift when hot")

    @model_validator(mode="after")
    def _range(self) -> Self:
        if self.max_base_kpa < self.min_base_kpa:
            raise ValueError("the spring range ends below its start")
        return self


class FilterPart(Part):
    """A filter as published."""

    in_groups = {"Filter data": ("linear_share_pct", "collapse_kpa", "alcohol_ok")}
    when_empty = {"collapse_kpa": "not said"}

    rated_flow_l_h: float = Field(ge=1, le=20000, title="Rated flow")
    rated_drop_kpa: float = Field(ge=0, le=500, title="Drop there")
    linear_share_pct: float = Field(70.0, ge=0, le=100, title="Linear share")
    grade_um: float = Field(10.0, ge=1, le=500, title="Grade")
    collapse_kpa: float | None = Field(None, ge=5, le=5000, title="Element collapses at")


class Efficiency(Model):
    """A measured table of volumetric efficiency over rail pressure and engine speed, level beyond its edges."""

    not_asked = ()

    pressure_kpa: tuple[Annotated[float, Field(ge=0, le=100_000)], ...] = Field(
        min_length=1, max_length=12, title="Rail pressure"
    )
    rpm: tuple[Annotated[float, Field(ge=0, le=20_000)], ...] = Field(min_length=1, max_length=12, title="Engine speed")
    efficiency_pct: tuple[Annotated[tuple[Annotated[float, Field(ge=0, le=100)], ...], Field(max_length=12)], ...] = (
        Field(min_length=1, max_length=12, title="Efficiency, a row for each pressure")
    )

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        for name, axis in (("pressures", self.pressure_kpa), ("engine speeds", self.rpm)):
            if any(b <= a for a, b in pairwise(axis)):
                raise ValueError(f"{name} must rise from point to point")
        if len(self.efficiency_pct) != len(self.pressure_kpa):
            raise ValueError("efficiency needs one row for each pressure")
        if any(len(row) != len(self.rpm) for row in self.efficiency_pct):
            raise ValueError("each row of efficiencies needs one value for each engine speed")
        columns = zip(*self.efficiency_pct, strict=True)
        if any(above < below for column in columns for above, below in pairwise(column)):
            raise ValueError("efficiency must not rise with pressure")
        return self


class HighPumpPart(Part):
    """A high-pressure pump as published: a plunger on cam lobes, or several plungers on a drive of their own.

    A pump known only as so much per cent over stock keeps stock's bore and lift and says how much more it moves.
    """

    in_groups = {
        "Filling and tightness": ("inlet_area_mm2", "dead_ratio", "valve_factor", "clearance_um", "seal_mm", "screen_um"),
        "Drive": ("mech_efficiency_pct", "follower_g", "spring_n"),
        "Fitting": ("alcohol_ok", "exchange"),
    }
    shown_when = {
        "bore_mm": ("driven", "by cam lobes"),
        "lift_mm": ("driven", "by cam lobes"),
        "lobes": ("driven", "by cam lobes"),
        "over_stock_pct": ("driven", "by cam lobes"),
        "displacement_cc": ("driven", "several plungers"),
        "plungers": ("driven", "several plungers"),
        "plunger_lift_mm": ("driven", "several plungers"),
    }
    when_empty = {**Part.when_empty, "plunger_lift_mm": "as their bore"}

    name: Name = Field("High-pressure pump", title="Description")
    driven: Literal["by cam lobes", "several plungers"] = Field("by cam lobes", title="Works")
    bore_mm: float = Field(10.0, ge=2, le=40, title="Plunger")
    lift_mm: float = Field(4.0, ge=0.5, le=30, title="Lift")
    lobes: int = Field(3, ge=1, le=8, title="Lobes")
    over_stock_pct: float = Field(0.0, ge=-50, le=400, title="Moves more than that by")
    displacement_cc: float = Field(1.0, ge=0.05, le=50, title="Displacement a turn")
    plungers: int = Field(3, ge=1, le=12, title="Plungers")
    plunger_lift_mm: float | None = Field(None, ge=0.5, le=40, title="Their lift")
    max_rail_kpa: float = Field(35_000.0, ge=1_000, le=100_000, title="Rail pressure at most")
    inlet_area_mm2: float = Field(4.0, ge=0.1, le=200, title="Inlet, effective area")
    dead_ratio: float = Field(1.0, ge=0, le=10, title="Dead volume, strokes")
    valve_factor: float = Field(0.92, gt=0, le=1, title="Valve factor")
    clearance_um: float = Field(3.0, ge=0, le=50, title="Clearance")
    seal_mm: float = Field(15.0, ge=1, le=100, title="Seal length")
    screen_um: float = Field(60.0, ge=1, le=500, title="Inlet screen")
    mech_efficiency_pct: float = Field(85.0, gt=0, le=100, title="Mechanical efficiency")
    follower_g: float = Field(80.0, ge=1, le=2000, title="Follower mass")
    spring_n: float = Field(250.0, ge=1, le=5000, title="Spring at full lift")
    exchange: Literal["new", "rebuilt", "exchange unit"] = Field("new", title="Sold as")
    efficiency: Efficiency | None = Field(None, title="Measured efficiency")

    @property
    def plunger_mm(self) -> float:
        """Plunger bore, mm: as it is, as a share over stock implies it, or as the displacement of several needs it."""
        if self.driven == "several plungers":
            return float((self.displacement_cc * 1e3 / self.plungers / self.stroke_mm * 4.0 / pi) ** 0.5)
        return float(self.bore_mm * (1.0 + self.over_stock_pct / 100.0) ** 0.5)

    @property
    def stroke_mm(self) -> float:
        """Stroke, mm; several plungers whose lift is not told are taken as square."""
        if self.driven == "several plungers" and self.plunger_lift_mm is not None:
            return self.plunger_lift_mm
        if self.driven == "several plungers":
            return float((self.displacement_cc * 1e3 / self.plungers * 4.0 / pi) ** (1.0 / 3.0))
        return self.lift_mm

    @property
    def strokes_a_turn(self) -> int:
        """Strokes a turn of the pump's own shaft."""
        return self.plungers if self.driven == "several plungers" else self.lobes


class DirectInjectorPart(Part):
    """A direct injector as published: n-heptane at a differential pressure."""

    name: Name = Field("Direct injector", title="Description")
    rated_flow_cc_min: float = Field(ge=50, le=20_000, title="Rated flow")
    rated_pressure_kpa: float = Field(10_000.0, ge=1_000, le=100_000, title="Rated at")
    dead_ms: float = Field(0.3, ge=0, le=5, title="Dead time")
    min_pulse_ms: float = Field(0.25, ge=0.01, le=5, title="Smallest pulse")
    max_rail_kpa: float = Field(35_000.0, ge=1_000, le=100_000, title="Rail pressure at most")
