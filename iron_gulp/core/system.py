"""The model: a build, its duties and its options (complete fuel systems). The same models are the build file.

Every quantity carries its unit as the suffix of its name. Models are frozen: a change makes a new build.
"""

from typing import Annotated, Literal, Self, TypeVar

from pydantic import BaseModel, ConfigDict, Field, model_validator

from .pumps import PumpTable

SCHEMA_VERSION: Literal[1] = 1

Identifier = Annotated[str, Field(pattern=r"^[a-z0-9][a-z0-9-]{0,31}$")]
Name = Annotated[str, Field(min_length=1, max_length=80)]
Text = Annotated[str, Field(max_length=4000)]


class Model(BaseModel):
    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False)


class Part(Model):
    """What every shelf part carries; a part is copied into a build, so shelf edits never change a saved build."""

    shelf_id: str | None = Field(None, max_length=64, title="Shelf part")
    name: Name = Field(title="Description")
    provenance: str = Field("entered by hand", max_length=120, title="Source of the data")
    alcohol_ok: bool = Field(True, title="Fit for alcohol")


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

    def table(self) -> PumpTable:
        return PumpTable(self.voltage_v, self.pressure_kpa, self.flow_l_h, self.current_a)


class PumpPart(Part):
    """A pump. A mechanical pump's table is taken at `rated_rpm` of the engine and its voltage does not count."""

    kind: Literal["turbine", "gerotor", "brushless", "mechanical"] = Field("turbine", title="Type")
    curves: tuple[PumpCurve, ...] = Field(min_length=1, max_length=6)
    relief_kpa: float | None = Field(None, ge=10, le=3000, title="Relief valve opens at")
    needed_head_kpa: float = Field(15.0, ge=0, le=95, title="Needed suction head")
    rated_rpm: float = Field(3000.0, ge=300, le=20000, title="Table at engine speed")

    @model_validator(mode="after")
    def _distinct_voltages(self) -> Self:
        if len({curve.voltage_v for curve in self.curves}) != len(self.curves):
            raise ValueError("two tables have the same voltage")
        return self

    def tables(self) -> list[PumpTable]:
        return [curve.table() for curve in self.curves]


class InjectorPart(Part):
    rated_flow_cc_min: float = Field(ge=20, le=20000, title="Rated flow")
    rated_pressure_kpa: float = Field(300.0, ge=50, le=2000, title="Rated at")
    dead_time_v: tuple[Annotated[float, Field(ge=4, le=32)], ...] = Field(min_length=1, max_length=16)
    dead_time_ms: tuple[Annotated[float, Field(ge=0, le=10)], ...] = Field(min_length=1, max_length=16)
    dead_time_at_kpa: float = Field(300.0, ge=50, le=2000, title="Dead times at")
    dead_time_ms_per_100_kpa: float = Field(0.0, ge=-1, le=2, title="Dead time change")
    min_pulse_ms: float = Field(1.0, ge=0.05, le=10, title="Smallest repeatable pulse")
    max_pressure_kpa: float = Field(700.0, ge=100, le=3000, title="Opens against at most")

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if len(self.dead_time_v) != len(self.dead_time_ms):
            raise ValueError("dead times need one value for each voltage")
        if any(b <= a for a, b in zip(self.dead_time_v, self.dead_time_v[1:], strict=False)):
            raise ValueError("dead-time voltages must rise from point to point")
        return self


class LinePart(Part):
    size: str = Field("", max_length=24, title="Nominal size")
    construction: Literal["rubber hose", "PTFE-lined hose", "hard tube", "nylon tube"] = Field(
        "PTFE-lined hose", title="Construction"
    )
    bore_mm: float = Field(ge=0.5, le=60, title="True bore")
    roughness_um: float = Field(1.5, ge=0, le=25, title="Roughness")

    @model_validator(mode="after")
    def _rough(self) -> Self:
        if self.roughness_um * 1e-3 > 0.05 * self.bore_mm:
            raise ValueError("roughness is more than 5 % of the bore")
        return self


class RegulatorPart(Part):
    min_base_kpa: float = Field(200.0, ge=0, le=1500, title="Spring range from")
    max_base_kpa: float = Field(500.0, ge=0, le=1500, title="Spring range to")
    max_pressure_kpa: float = Field(900.0, ge=20, le=3000, title="Highest rail pressure")
    capacity_l_h: float = Field(ge=1, le=20000, title="Wide-open flow")
    capacity_drop_kpa: float = Field(100.0, ge=1, le=1000, title="at a drop of")
    creep_kpa: float = Field(0.0, ge=0, le=200, title="Creep per 100 L/h bypassed")
    droop_kpa: float = Field(0.0, ge=0, le=100, title="Droop per 100 L/h passed (deadhead)")
    drift_kpa: float = Field(0.0, ge=0, le=50, title="Drift when hot (deadhead)")

    @model_validator(mode="after")
    def _range(self) -> Self:
        if self.max_base_kpa < self.min_base_kpa:
            raise ValueError("the spring range ends below its start")
        return self


class FilterPart(Part):
    rated_flow_l_h: float = Field(ge=1, le=20000, title="Rated flow")
    rated_drop_kpa: float = Field(ge=0, le=500, title="Drop at rated flow")
    linear_share_pct: float = Field(70.0, ge=0, le=100, title="Linear share of the drop")
    grade_um: float = Field(10.0, ge=1, le=500, title="Grade")


class Tank(Model):
    volume_l: float = Field(60.0, ge=1, le=1000, title="Tank volume")
    pressure_kpa: float = Field(0.0, ge=-20, le=30, title="Tank pressure")


class Passage(Model):
    """A small passage in its own right: hanger tube, quick-connect, bulkhead, block, restriction."""

    id: Identifier
    name: Name = Field(title="Passage")
    bore_mm: float = Field(ge=0.5, le=60, title="Bore")
    length_m: float = Field(0.0, ge=0, le=10, title="Length")
    k_sum: float = Field(1.5, ge=0, le=1000, title="Loss coefficient K")


class Wiring(Model):
    loop_m: float = Field(6.0, ge=0, le=60, title="Loop length, there and back")
    area_mm2: float = Field(2.5, ge=0.2, le=70, title="Conductor area")
    connectors_mohm: float = Field(0.0, ge=0, le=2000, title="Connectors and relay")
    copper_temp_c: float = Field(20.0, ge=-40, le=120, title="Conductor temperature")
    fuse_a: float | None = Field(None, ge=1, le=200, title="Fuse")
    switch: Literal["relay", "solid-state relay", "controller", "factory feed"] = Field("relay", title="Switched by")
    switch_a: float = Field(30.0, ge=1, le=300, title="Switch rated for")


class PumpGroup(Model):
    """Equal pumps in parallel, each with its own check valve and its own wiring loop."""

    id: Identifier
    part: PumpPart
    count: int = Field(1, ge=1, le=6, title="Pumps in this group")
    wiring: Wiring = Wiring()
    derate_pct: float = Field(0.0, ge=0, le=90, title="Wear and hot-fuel derate")
    on_above_kpa: float | None = Field(None, ge=-100, le=600, title="Runs above boost of")
    on_above_rpm: float | None = Field(None, ge=0, le=20000, title="Runs above engine speed of")
    on_above_l_h: float | None = Field(None, ge=0, le=10000, title="Runs above fuel flow of")
    on_above_duty_pct: float | None = Field(None, ge=0, le=100, title="Runs above injector duty of")
    on_below_lambda: float | None = Field(None, ge=0.4, le=1.6, title="Runs richer than λ")
    when: Literal["any", "all"] = Field("any", title="of these conditions")
    hysteresis_pct: float = Field(15.0, ge=0, le=90, title="Hysteresis")
    min_on_s: float = Field(2.0, ge=0, le=60, title="Stays on at least")
    check_valve_kpa: float = Field(0.0, ge=0, le=100, title="Check valve opens at")
    place: Literal["in parallel", "in series, boosting the others"] = Field("in parallel", title="Plumbed")

    @property
    def staged(self) -> bool:
        """Whether the group waits for a condition."""
        limits = (
            self.on_above_kpa,
            self.on_above_rpm,
            self.on_above_l_h,
            self.on_above_duty_pct,
            self.on_below_lambda,
        )
        return any(limit is not None for limit in limits)


class Line(Model):
    part: LinePart
    length_m: float = Field(ge=0, le=100, title="Length")
    k_sum: float = Field(0.0, ge=0, le=1000, title="Fittings, sum of K")


class Filter(Model):
    part: FilterPart
    clogging: float = Field(1.0, ge=1, le=50, title="Clogging factor")


class Suction(Model):
    """From the fuel to the pump inlet. `head_m` is the fuel level above the inlet; below it, negative."""

    place: Literal["in the tank", "external", "in a surge tank"] = Field("in the tank", title="Main pumps sit")
    head_m: float = Field(0.0, ge=-2, le=3, title="Fuel level above the inlet")
    line: Line | None = Field(None, title="Suction line")
    filter: Filter | None = Field(None, title="Pre-filter")


class LiftStage(Model):
    """Lift pump and surge tank: the main pumps draw from the surge tank, its overflow goes back to the main tank."""

    part: PumpPart
    count: int = Field(1, ge=1, le=4, title="Lift pumps")
    wiring: Wiring = Wiring()
    derate_pct: float = Field(0.0, ge=0, le=90, title="Wear and hot-fuel derate")
    line: Line
    surge_l: float = Field(2.0, ge=0.1, le=60, title="Surge tank volume")
    return_to: Literal["surge tank", "main tank"] = Field("surge tank", title="Return goes to the")


class Rail(Model):
    """Rail or rails, for the drop along them and the pulsation estimate."""

    count: int = Field(1, ge=1, le=4, title="Rails")
    entry: Literal["at the end", "in the centre"] = Field("at the end", title="Feed enters")
    bore_mm: float = Field(14.0, ge=2, le=60, title="Rail bore")
    length_m: float = Field(0.45, ge=0.02, le=5, title="Rail length")


class Carburettor(Model):
    """Float chambers fed through needle valves; the chambers are open to the air."""

    name: Name = Field("Carburettor", title="Description")
    needles: int = Field(1, ge=1, le=16, title="Float needles")
    needle_mm: float = Field(2.0, ge=0.5, le=8, title="Needle seat bore")
    lowest_kpa: float = Field(15.0, ge=2, le=80, title="Lowest inlet pressure")
    highest_kpa: float = Field(40.0, ge=3, le=120, title="Float holds against")
    alcohol_ok: bool = Field(False, title="Fit for alcohol")


class InjectorSet(Model):
    part: InjectorPart
    count: int | None = Field(None, ge=1, le=48, title="Count (empty: one a cylinder)")


class Regulator(Model):
    part: RegulatorPart
    base_kpa: float = Field(300.0, ge=5, le=1500, title="Base pressure")
    reference: Literal["atmosphere", "manifold", "rising rate"] = Field("manifold", title="Reference")
    rising_ratio: float = Field(1.0, ge=0, le=15, title="Rising-rate ratio")
    arrangement: Literal[
        "bypass after the rail",
        "bypass near the tank",
        "returnless, speed-controlled",
        "carburettor, deadhead",
        "carburettor, bypass",
    ] = Field("bypass after the rail", title="Arrangement")
    reference_line: Literal["its own, clamped", "shared with another device", "unclamped or soft hose"] = Field(
        "its own, clamped", title="Reference line"
    )
    slowest_pct: float = Field(30.0, ge=5, le=100, title="Slowest pump speed")

    @property
    def reference_ratio(self) -> float:
        return {"atmosphere": 0.0, "manifold": 1.0, "rising rate": self.rising_ratio}[self.reference]


class Option(Model):
    """One complete fuel system, tank to return."""

    id: Identifier
    name: Name = Field(title="Option")
    tank: Tank = Tank()
    suction: Suction = Suction()
    lift: LiftStage | None = Field(None, title="Lift stage and surge tank")
    pumps: tuple[PumpGroup, ...] = Field(min_length=1, max_length=4)
    feed_passages: tuple[Passage, ...] = Field((), max_length=8)
    return_passages: tuple[Passage, ...] = Field((), max_length=8)
    filter: Filter | None = Field(None, title="Filter")
    feed: Line
    injectors: InjectorSet | None = Field(None, title="Injectors")
    carburettor: Carburettor | None = Field(None, title="Carburettor")
    rail: Rail = Rail()
    regulator: Regulator
    return_line: Line
    return_entry: Literal["below the fuel level", "above the fuel level", "into the vent line"] = Field(
        "below the fuel level", title="Return enters the tank"
    )

    @model_validator(mode="after")
    def _groups(self) -> Self:
        _unique("pump group", [group.id for group in self.pumps])
        _unique("passage", [passage.id for passage in (*self.feed_passages, *self.return_passages)])
        if (self.injectors is None) == (self.carburettor is None):
            raise ValueError("a system has either injectors or a carburettor")
        if (self.carburettor is not None) != self.regulator.arrangement.startswith("carburettor"):
            raise ValueError("carburettor arrangements of the regulator go with a carburettor, the others with injectors")
        if all(group.place != "in parallel" for group in self.pumps):
            raise ValueError("a boosting pump needs others in parallel before it")
        if all(group.staged for group in self.pumps if group.place == "in parallel"):
            raise ValueError("at least one pump group must always run, or the engine idles without fuel")
        return self


class CustomFuel(Model):
    """A base fuel the user adds, with its own constants (physics §1)."""

    id: Identifier
    name: Name
    density_15c_kg_m3: float = Field(ge=600, le=1200)
    expansion_per_k: float = Field(1e-3, ge=0, le=3e-3)
    stoich_afr: float = Field(ge=1.5, le=20)
    lhv_mj_kg: float = Field(ge=8, le=50)
    viscosity_20c_mpa_s: float = Field(0.53, ge=0.1, le=10)
    rvp_kpa: float = Field(62.05, ge=1, le=150)


class Duty(Model):
    """One job the hardware must do: fuel, power, boost, speed, mixture."""

    id: Identifier
    name: Name = Field(title="Duty")
    when: Literal["now", "later"] = Field("now", title="Wanted")
    base_fuel: Identifier = Field("gasoline", title="Base fuel")
    ethanol_pct: float = Field(ge=0, le=100, title="Ethanol content")
    fuel_temp_c: float = Field(30.0, ge=-40, le=90, title="Fuel temperature")
    power_kw: float = Field(ge=1, le=5000, title="Power wanted")
    power_at: Literal["wheels", "crank"] = Field("wheels", title="Power measured at")
    boost_kpa: float = Field(ge=-95, le=600, title="Boost")
    rpm: float = Field(ge=300, le=20000, title="Engine speed at peak")
    lambda_: float = Field(0.85, ge=0.4, le=1.6, title="Mixture, λ", alias="lambda")
    ve_pct: float | None = Field(None, ge=10, le=200, title="Volumetric efficiency (empty: the engine's)")
    charge_temp_c: float = Field(45.0, ge=-50, le=250, title="Charge temperature")
    supply_v: float = Field(13.8, ge=5, le=32, title="System voltage")
    accel_g: float = Field(0.0, ge=-3, le=6, title="Acceleration along the car")
    bsfc_kg_kwh: float | None = Field(None, ge=0.1, le=2, title="Specific consumption (empty: by induction)")
    efficiency_credit_pct: float = Field(0.0, ge=-30, le=40, title="Efficiency credit for this blend")
    school: Literal["consumption", "air", "measured"] = Field("consumption", title="Demand sized by")

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, populate_by_name=True)


class MeasuredRun(Model):
    """A logged full-load point from which demand can be scaled."""

    power_kw: float = Field(ge=1, le=5000, title="Logged power at the wheels")
    rpm: float = Field(ge=300, le=20000, title="Logged engine speed")
    injector_cc_min: float = Field(ge=20, le=20000, title="Injectors then fitted")
    injector_rated_kpa: float = Field(300.0, ge=50, le=2000, title="rated at")
    differential_kpa: float = Field(ge=20, le=2000, title="Logged differential pressure")
    duty_pct: float = Field(gt=0, le=100, title="Logged duty")
    dead_time_ms: float = Field(0.9, ge=0, le=10, title="Dead time")
    ethanol_pct: float = Field(0.0, ge=0, le=100, title="Ethanol in that fuel")
    fuel_temp_c: float = Field(30.0, ge=-40, le=90, title="Fuel temperature then")


class Car(Model):
    description: str = Field("", max_length=200, title="Car")
    drivetrain: Literal["FWD", "RWD", "AWD"] = Field("RWD", title="Driven wheels")
    loss_pct: float | None = Field(None, ge=0, le=60, title="Driveline loss (empty: by layout)")
    use: Literal["street", "track", "drag", "hill climb", "rally", "salt flat"] = Field("street", title="Use")
    coldest_c: float = Field(0.0, ge=-50, le=50, title="Coldest start")


class Engine(Model):
    displacement_l: float = Field(ge=0.04, le=40, title="Displacement")
    cylinders: int = Field(ge=1, le=24, title="Cylinders")
    induction: Literal["naturally aspirated", "turbocharged", "supercharged"] = Field("turbocharged", title="Induction")
    max_rpm: float = Field(7000.0, ge=500, le=20000, title="Highest engine speed")
    ve_pct: float = Field(95.0, ge=10, le=200, title="Volumetric efficiency at peak")
    idle_rpm: float = Field(900.0, ge=200, le=5000, title="Idle speed")
    idle_manifold_kpa: float = Field(-60.0, ge=-95, le=20, title="Idle manifold pressure")
    idle_ve_pct: float = Field(65.0, ge=10, le=200, title="Volumetric efficiency at idle")

    @model_validator(mode="after")
    def _speeds(self) -> Self:
        if self.idle_rpm >= self.max_rpm:
            raise ValueError("idle speed must lie below the highest engine speed")
        return self


class DesignRules(Model):
    """The shop's own limits; every one can be changed for a build."""

    duty_limit_pct: float = Field(85.0, ge=40, le=100, title="Injector duty limit")
    headroom_pct: float = Field(10.0, ge=0, le=50, title="Headroom wanted")
    feed_drop_kpa: float = Field(35.0, ge=1, le=300, title="Feed drop allowed")
    return_drop_kpa: float = Field(25.0, ge=1, le=300, title="Return back-pressure allowed")


class Build(Model):
    """A build: car, engine, duties and one or more options."""

    schema_version: Literal[1] = SCHEMA_VERSION
    name: Name = Field(title="Build")
    client: str = Field("", max_length=120, title="Client")
    notes: Text = Field("", title="Notes")
    car: Car = Car()
    engine: Engine
    rules: DesignRules = DesignRules()
    fuels: tuple[CustomFuel, ...] = Field((), max_length=12)
    measured: MeasuredRun | None = None
    duties: tuple[Duty, ...] = Field(min_length=1, max_length=12)
    options: tuple[Option, ...] = Field(min_length=1, max_length=8)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        _unique("duty", [duty.id for duty in self.duties])
        _unique("option", [option.id for option in self.options])
        _unique("fuel", [fuel.id for fuel in self.fuels])
        known = {"gasoline", "methanol"} | {fuel.id for fuel in self.fuels}
        if {fuel.id for fuel in self.fuels} & {"gasoline", "methanol"}:
            raise ValueError("an added fuel cannot take the id of a built-in fuel")
        for duty in self.duties:
            if duty.base_fuel not in known:
                raise ValueError(f"duty {duty.id!r} names an unknown base fuel {duty.base_fuel!r}")
            if duty.rpm > self.engine.max_rpm:
                raise ValueError(
                    f"duty {duty.name!r} peaks at {duty.rpm:g} rpm, above the engine's {self.engine.max_rpm:g}"
                )
            if duty.school == "measured" and self.measured is None:
                raise ValueError(f"duty {duty.name!r} is sized from a measured run, but none is entered")
        return self

    def duty(self, duty_id: str | None) -> Duty:
        """The duty of this id (the first for None). Raises KeyError when there is none."""
        return _pick("duty", self.duties, duty_id)

    def option(self, option_id: str | None) -> Option:
        """The option of this id (the first for None). Raises KeyError when there is none."""
        return _pick("option", self.options, option_id)


_Named = TypeVar("_Named", Duty, Option)


def _pick(kind: str, items: tuple[_Named, ...], wanted: str | None) -> _Named:
    if wanted is None:
        return items[0]
    for item in items:
        if item.id == wanted:
            return item
    raise KeyError(f"no {kind} {wanted!r}; there are: " + ", ".join(item.id for item in items))


def _unique(kind: str, ids: list[str]) -> None:
    doubled = sorted({one for one in ids if ids.count(one) > 1})
    if doubled:
        raise ValueError(f"{kind} id used twice: {', '.join(doubled)}")
