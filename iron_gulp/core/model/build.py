"""The model: a build, its targets and its options (complete fuel systems). The same models are the build file.

Every quantity carries its unit as the suffix of its name. Models are frozen: a change makes a new build.
"""

from typing import Literal, Self, TypeVar

from pydantic import ConfigDict, Field, model_validator

from .controller_tables import ControllerTable
from .days import Day
from .elements import (
    BoostAt,
    Calibration,
    Carburettor,
    Cooler,
    Filter,
    InjectorSet,
    LiftStage,
    Line,
    Passage,
    Pickup,
    PumpGroup,
    Rail,
    Regulator,
    Split,
    Suction,
    Tank,
    unique,
)
from .evidence import KeptFile, Pull, Reading, newest
from .fills import Fill
from .high_side import Auxiliary, Delivery, HighSide
from .parts import Identifier, Model, Name, Text
from .sensors import EthanolSensor, Sensor
from .tolerances import Tolerances
from .unknown import Unknown
from .versions import SCHEMA_VERSION
from .weights import Weights


class Option(Model):
    """One complete fuel system, tank to return."""

    id: Identifier
    name: Name = Field(title="Option")
    why: Text = Field("", title="Why it is so")
    why_for: Text = ""  # the choices that it was written for, a line each
    tank: Tank = Tank()
    pickup: Pickup | None = Field(None, title="Pickup")
    suction: Suction = Suction()
    lift: LiftStage | None = Field(None, title="Lift stage and surge tank")
    pumps: tuple[PumpGroup, ...] = Field(min_length=1, max_length=4)
    feed_passages: tuple[Passage, ...] = Field((), max_length=8)
    return_passages: tuple[Passage, ...] = Field((), max_length=8)
    feed_cooler: Cooler | None = Field(None, title="Fuel cooler in the feed")
    return_cooler: Cooler | None = Field(None, title="Fuel cooler in the return")
    filter: Filter | None = Field(None, title="Filter")
    feed: Line
    injectors: InjectorSet | None = Field(None, title="Injectors")
    carburettor: Carburettor | None = Field(None, title="Carburettor")
    split: Split | None = Field(None, title="Split to several rails")
    rail: Rail = Rail()
    high_side: HighSide | None = Field(None, title="Direct injection")
    delivery: Delivery | None = Field(None, title="Direct and port together")
    auxiliary: Auxiliary | None = Field(None, title="Second liquid")
    regulator: Regulator
    return_line: Line
    return_entry: Literal["below the fuel level", "above the fuel level", "into the vent line"] = Field(
        "below the fuel level", title="Return enters the tank"
    )
    calibration: Calibration = Calibration()
    boost_told: tuple[BoostAt, ...] = Field((), max_length=21)
    sensors: tuple[Sensor, ...] = Field((), max_length=8)
    unknown: tuple[Unknown, ...] = Field((), max_length=5)
    ethanol_sensor: EthanolSensor | None = Field(None, title="Ethanol sensor")

    @model_validator(mode="after")
    def _groups(self) -> Self:
        unique("pump group", [group.id for group in self.pumps])
        unique("sensor", [sensor.id for sensor in self.sensors])
        unique("datum not known", [one.what for one in self.unknown])
        unique("row of boost", [one.id for one in self.boost_told])
        unique("passage", [passage.id for passage in (*self.feed_passages, *self.return_passages)])
        if self.delivery is not None:
            self._sides(self.delivery.mode)
        injected = self.injectors is not None or self.high_side is not None
        if injected == (self.carburettor is not None):
            raise ValueError("a system has either injectors or a carburettor")
        if (self.carburettor is not None) != self.regulator.arrangement.startswith("carburettor"):
            raise ValueError("carburettor arrangements of the regulator go with a carburettor, the others with injectors")
        if self.split is not None and self.carburettor is not None:
            raise ValueError("the split feeds injector rails; a carburettor has none")
        if self.split is not None and len(self.split.branches) != self.rail.count:
            raise ValueError(f"the split has {len(self.split.branches)} branches: one goes to each rail")
        if all(group.place != "in parallel" for group in self.pumps):
            raise ValueError("a boosting pump needs others in parallel before it")
        if all(group.staged for group in self.pumps if group.place == "in parallel"):
            raise ValueError("at least one pump group must always run, or the engine idles without fuel")
        return self

    def _sides(self, mode: str) -> None:
        if mode != "port only" and self.high_side is None:
            raise ValueError(f"delivery {mode!r} needs direct injection; this system has none")
        if mode != "direct only" and self.injectors is None:
            raise ValueError(f"delivery {mode!r} needs port injectors; this system has none")

    @property
    def port_sets(self) -> int:
        """Sets of port injectors: none, one, or a second beside it."""
        return 0 if self.injectors is None else 1 if self.injectors.second is None else 2

    @property
    def mode(self) -> str:
        """Who delivers the fuel; what one side alone leaves no choice about need not be said."""
        if self.delivery is not None:
            return self.delivery.mode
        if self.high_side is None:
            return "port only"
        return "direct only" if self.injectors is None else "ceiling"


class CustomFuel(Model):
    """A base fuel the user adds, with its own constants (physics §1)."""

    not_asked = ("id",)

    id: Identifier
    name: Name = Field(title="Fuel")
    density_15c_kg_m3: float = Field(ge=600, le=1200, title="Density at 15 °C")
    expansion_per_k: float = Field(1e-3, ge=0, le=3e-3, title="Expansion")
    stoich_afr: float = Field(ge=1.5, le=20, title="Stoichiometric ratio")
    lhv_mj_kg: float = Field(ge=8, le=50, title="Heating value")
    viscosity_20c_mpa_s: float = Field(0.53, ge=0.1, le=10, title="Viscosity at 20 °C")
    rvp_kpa: float = Field(62.05, ge=1, le=150, title="Reid vapour pressure")


class Target(Model):
    """One job the hardware must do: fuel, power, boost, speed, mixture."""

    in_groups = {
        "Temperatures and more": ("fuel_temp_c", "charge_temp_c", "ve_pct", "base_fuel", "vapour_kpa_abs"),
        "Consumption": ("bsfc_kg_kwh", "expected_bsfc_kg_kwh", "alcohol", "efficiency_credit_pct", "school"),
        "Pull": ("accel_g",),
        "Time and grade": ("load_s", "fuel_grade", "grade_system"),
        "Class rules": ("class_rules", "class_ethanol_pct", "class_returnless", "class_cell"),
    }
    when_empty = {
        "ve_pct": "engine's",
        "bsfc_kg_kwh": "by the engine",
        "expected_bsfc_kg_kwh": "by the engine",
        "vapour_kpa_abs": "computed",
        "load_s": "not said",
        "fuel_grade": "not said",
        "class_ethanol_pct": "any",
    }

    id: Identifier
    name: Name = Field(title="Target")
    when: Literal["now", "later"] = Field("now", title="Wanted")
    base_fuel: Identifier = Field("gasoline", title="Base fuel")
    ethanol_pct: float = Field(ge=0, le=100, title="Ethanol")
    fuel_temp_c: float = Field(30.0, ge=-40, le=90, title="Fuel temperature")
    power_kw: float = Field(ge=1, le=5000, title="Power")
    power_at: Literal["wheels", "crank"] = Field("wheels", title="at the")
    boost_kpa: float = Field(ge=-95, le=600, title="Boost")
    rpm: float = Field(ge=300, le=20000, title="Peak at")
    lambda_: float = Field(0.85, ge=0.4, le=1.6, title="Mixture", alias="lambda")
    ve_pct: float | None = Field(None, ge=10, le=200, title="VE")
    charge_temp_c: float = Field(45.0, ge=-50, le=250, title="Charge temperature")
    supply_v: float = Field(13.8, ge=5, le=32, title="System voltage")
    accel_g: float = Field(0.0, ge=-3, le=6, title="Acceleration at peak")
    bsfc_kg_kwh: float | None = Field(None, ge=0.1, le=2, title="Sizing consumption")
    expected_bsfc_kg_kwh: float | None = Field(None, ge=0.1, le=2, title="Expected consumption")
    alcohol: Literal["typed credit", "equal mixture", "as run"] = Field("typed credit", title="Alcohol counted")
    efficiency_credit_pct: float = Field(0.0, ge=-30, le=40, title="Efficiency credit, typed")
    school: Literal["consumption", "air", "measured"] = Field("consumption", title="Demand sized by")
    vapour_kpa_abs: float | None = Field(None, ge=1, le=400, title="Measured vapour pressure")
    load_s: float | None = Field(None, ge=0.5, le=100000, title="Time at load")
    class_rules: str = Field("", max_length=400, title="Class rules in words")
    class_ethanol_pct: float | None = Field(None, ge=0, le=100, title="Control fuel, ethanol at most")
    class_returnless: Literal["allowed", "barred"] = Field("allowed", title="Returnless systems")
    class_cell: Literal["not asked for", "required"] = Field("not asked for", title="Fuel cell")
    fuel_grade: float | None = Field(None, ge=70, le=130, title="Lowest fuel grade")
    grade_system: Literal["RON", "(R+M)/2"] = Field("RON", title="Grade by")

    model_config = ConfigDict(frozen=True, extra="forbid", allow_inf_nan=False, populate_by_name=True)


class MeasuredRun(Model):
    """A logged full-load point from which demand can be scaled; it carries the fuel it was logged on."""

    power_kw: float = Field(ge=1, le=5000, title="Wheel power")
    rpm: float = Field(ge=300, le=20000, title="at")
    injector_cc_min: float = Field(ge=20, le=20000, title="Injectors")
    injector_rated_kpa: float = Field(300.0, ge=50, le=2000, title="rated at")
    differential_kpa: float = Field(ge=20, le=2000, title="Differential")
    duty_pct: float = Field(gt=0, le=100, title="Duty")
    dead_time_ms: float = Field(0.9, ge=0, le=10, title="Dead time")
    ethanol_pct: float = Field(0.0, ge=0, le=100, title="Ethanol")
    fuel_temp_c: float = Field(30.0, ge=-40, le=90, title="Fuel temperature then")
    base_fuel: Identifier = Field("gasoline", title="Base fuel then")
    squirts: int = Field(1, ge=1, le=12, title="Squirts a cycle then")


class Car(Model):
    """What the car is, in words, and where it runs."""

    not_asked = ()
    when_empty = {"coldest_c": "0 °C", "alternator_a": "not said"}

    description: str = Field("", max_length=200, title="Car")
    drivetrain: Literal["FWD", "RWD", "AWD"] = Field("RWD", title="Driven wheels")
    loss_pct: float | None = Field(None, ge=0, le=60, title="Driveline loss")
    use: Literal["street", "track", "drag", "hill climb", "rally", "salt flat"] = Field("street", title="Use")
    coldest_c: float | None = Field(None, ge=-50, le=50, title="Coldest start")
    barometer_kpa: float = Field(101.325, ge=40, le=110, title="Barometer (or altitude)")
    alternator_a: float | None = Field(None, ge=10, le=1000, title="Alternator")
    other_a: float = Field(35.0, ge=0, le=500, title="All else draws")


class Engine(Model):
    """The engine: what it displaces, how fast it turns, how it idles."""

    in_groups = {
        "Idle": ("idle_rpm", "idle_manifold_kpa", "idle_ve_pct", "idle_lambda", "idle_air_g_s", "idle_fuel_kg_h"),
        "Compressor": ("compressor_kg_s", "compressor_known", "intake_c"),
        "Two recorded pulls": ("pull_low_boost_kpa", "pull_low_power_kw", "pull_high_boost_kpa", "pull_high_power_kw"),
    }
    when_empty = {
        "idle_air_g_s": "by VE",
        "idle_fuel_kg_h": "by VE",
        "compressor_kg_s": "not said",
        **dict.fromkeys(
            ("pull_low_boost_kpa", "pull_low_power_kw", "pull_high_boost_kpa", "pull_high_power_kw"), "not said"
        ),
    }

    cycle: Literal["four-stroke, spark ignition", "two-stroke", "rotary", "diesel", "gas"] = Field(
        "four-stroke, spark ignition", title="Engine cycle"
    )
    displacement_l: float = Field(ge=0.04, le=40, title="Displacement")
    cylinders: int = Field(ge=1, le=24, title="Cylinders")
    induction: Literal["naturally aspirated", "turbocharged", "supercharged"] = Field("turbocharged", title="Induction")
    max_rpm: float = Field(7000.0, ge=500, le=20000, title="Highest engine speed")
    ve_pct: float = Field(95.0, ge=10, le=200, title="VE at peak")
    idle_rpm: float = Field(900.0, ge=200, le=5000, title="Idle speed")
    idle_manifold_kpa: float = Field(-60.0, ge=-95, le=20, title="Idle manifold pressure")
    idle_ve_pct: float = Field(65.0, ge=10, le=200, title="VE at idle")
    idle_lambda: float = Field(1.0, ge=0.5, le=1.5, title="Mixture at idle")
    idle_air_g_s: float | None = Field(None, ge=0.05, le=200, title="Logged air at idle")
    idle_fuel_kg_h: float | None = Field(None, ge=0.02, le=60, title="Logged fuel at idle")
    compressor_kg_s: float | None = Field(None, ge=0.01, le=10, title="Air at most, corrected to 15 °C and 101.3 kPa")
    compressor_known: Literal["from its map", "never seen more"] = Field("from its map", title="Known")
    intake_c: float = Field(25.0, ge=-40, le=80, title="Air before it")
    pull_low_boost_kpa: float | None = Field(None, ge=-50, le=600, title="Lower boost")
    pull_low_power_kw: float | None = Field(None, ge=1, le=5000, title="gave")
    pull_high_boost_kpa: float | None = Field(None, ge=-50, le=600, title="Higher boost")
    pull_high_power_kw: float | None = Field(None, ge=1, le=5000, title="gave")

    @model_validator(mode="after")
    def _speeds(self) -> Self:
        if self.cycle != "four-stroke, spark ignition":
            raise ValueError(
                f"{self.cycle} engines are not computed: air, fuel and injector time here are those of a four-stroke "
                "piston engine with spark ignition on liquid fuel"
            )
        if self.idle_rpm >= self.max_rpm:
            raise ValueError("idle speed must lie below the highest engine speed")
        most, logged = self.compressor_kg_s, self.idle_air_g_s
        if most is not None and logged is not None and most * 1000.0 < logged:
            raise ValueError(f"a compressor ceiling of {most:g} kg/s lies below the {logged:g} g/s already logged")
        low, high = self.pull_low_boost_kpa, self.pull_high_boost_kpa
        if low is not None and high is not None and high <= low:
            raise ValueError(f"two pulls compare a lower boost with a higher one: {high:g} kPa is not above {low:g} kPa")
        return self


class DesignRules(Model):
    """The shop's own limits; every one can be changed for a build."""

    duty_limit_pct: float = Field(85.0, ge=40, le=100, title="Injector duty limit")
    headroom_pct: float = Field(10.0, ge=0, le=50, title="Headroom wanted")
    feed_drop_kpa: float = Field(35.0, ge=1, le=300, title="Feed drop allowed")
    return_drop_kpa: float = Field(25.0, ge=1, le=300, title="Return drop allowed")
    wire_drop_v: float = Field(0.5, ge=0.05, le=5, title="Voltage drop allowed a pump")
    wires: Literal["mm²", "AWG"] = Field("mm²", title="Wire sold by")
    mild_rvp_kpa: float = Field(38.0, ge=5, le=150, title="Reid pressure for starts from 5 to 20 °C")
    cool_rvp_kpa: float = Field(48.0, ge=5, le=150, title="from −5 to 5 °C")
    cold_rvp_kpa: float = Field(66.0, ge=5, le=150, title="colder")


def logged_run(build: "Build") -> MeasuredRun | None:
    """The logged run demand is scaled from: the one typed, else the newest pull that counts with its duty; else None."""
    if build.measured is not None:
        return build.measured
    pull = newest(one for one in build.pulls if one.duty_pct is not None)
    if pull is None or pull.duty_pct is None:
        return None
    return MeasuredRun(
        power_kw=pull.as_measured_kw,
        rpm=pull.rpm,
        injector_cc_min=pull.injector_cc_min,
        injector_rated_kpa=pull.injector_rated_kpa,
        differential_kpa=pull.differential_kpa,
        duty_pct=pull.duty_pct,
        dead_time_ms=pull.dead_time_ms,
        ethanol_pct=pull.ethanol_pct,
        fuel_temp_c=pull.fuel_temp_c,
        base_fuel=pull.base_fuel,
        squirts=pull.squirts,
    )


LEAST_KPA_ABS = 4.0  # an engine breathes something


class Assumed(Model):
    """Something taken for granted as a build was asked for: in words, the field that changes it, and its value then."""

    words: str = Field("", max_length=400)
    field: str = Field("", max_length=160)
    was: str = Field("", max_length=80)


class Build(Model):
    """A build: car, engine, targets and one or more options."""

    schema_version: Literal[3] = SCHEMA_VERSION
    name: Name = Field(title="Build")
    client: str = Field("", max_length=120, title="Client")
    notes: Text = Field("", title="Notes")
    fitted_today: str = Field("", max_length=32)
    chosen: str = Field("", max_length=32)
    chosen_why: str = Field("", max_length=400, title="Chosen because")
    chosen_on: Day = Field("", title="on")
    chosen_says: Text = Field("", title="Its figures then")
    assumed: tuple[Assumed, ...] = Field((), max_length=40)
    car: Car = Car()
    engine: Engine
    rules: DesignRules = DesignRules()
    fuels: tuple[CustomFuel, ...] = Field((), max_length=12)
    measured: MeasuredRun | None = None
    tolerances: Tolerances = Tolerances()
    weights: Weights = Weights()
    fills: tuple[Fill, ...] = Field((), max_length=400)
    readings: tuple[Reading, ...] = Field((), max_length=400)
    pulls: tuple[Pull, ...] = Field((), max_length=200)
    tables: tuple[ControllerTable, ...] = Field((), max_length=24)
    files: tuple[KeptFile, ...] = Field((), max_length=200)
    targets: tuple[Target, ...] = Field(min_length=1, max_length=12)
    options: tuple[Option, ...] = Field(min_length=1, max_length=8)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        unique("target", [target.id for target in self.targets])
        unique("option", [option.id for option in self.options])
        unique("fuel", [fuel.id for fuel in self.fuels])
        unique("fill", [fill.id for fill in self.fills])
        unique("reading", [one.id for one in self.readings])
        unique("pull", [one.id for one in self.pulls])
        unique("table", [one.id for one in self.tables])
        unique("file", [one.id for one in self.files])
        known = {"gasoline", "methanol"} | {fuel.id for fuel in self.fuels}
        if {fuel.id for fuel in self.fuels} & {"gasoline", "methanol"}:
            raise ValueError("an added fuel cannot take the id of a built-in fuel")
        if self.measured is not None and self.measured.base_fuel not in known:
            raise ValueError(f"the logged run names an unknown base fuel {self.measured.base_fuel!r}")
        for pull in self.pulls:
            if pull.base_fuel not in known:
                raise ValueError(f"a pull names an unknown base fuel {pull.base_fuel!r}")
        if self.car.barometer_kpa + self.engine.idle_manifold_kpa < LEAST_KPA_ABS:
            raise ValueError(
                f"idle manifold pressure of {self.engine.idle_manifold_kpa:g} kPa is less than nothing at a barometer of "
                f"{self.car.barometer_kpa:g} kPa"
            )
        for target in self.targets:
            if target.base_fuel not in known:
                raise ValueError(f"target {target.id!r} names an unknown base fuel {target.base_fuel!r}")
            if self.car.barometer_kpa + target.boost_kpa < LEAST_KPA_ABS:
                raise ValueError(
                    f"target {target.name!r}: {target.boost_kpa:g} kPa of manifold pressure is less than nothing at a "
                    f"barometer of {self.car.barometer_kpa:g} kPa"
                )
            if target.rpm > self.engine.max_rpm:
                raise ValueError(
                    f"target {target.name!r} peaks at {target.rpm:g} rpm, above the engine's {self.engine.max_rpm:g}"
                )
            if target.school == "measured" and logged_run(self) is None:
                raise ValueError(f"target {target.name!r} is sized from a measured run, but none is entered")
        return self

    def target(self, target_id: str | None) -> Target:
        """The target of this id (the first for None). Raises KeyError when there is none."""
        return _pick("target", self.targets, target_id)

    def option(self, option_id: str | None) -> Option:
        """The option of this id (the first for None). Raises KeyError when there is none."""
        return _pick("option", self.options, option_id)


_Named = TypeVar("_Named", Target, Option)


def _pick(kind: str, items: tuple[_Named, ...], wanted: str | None) -> _Named:
    if wanted is None:
        return items[0]
    for item in items:
        if item.id == wanted:
            return item
    raise KeyError(f"no {kind} {wanted!r}; there are: " + ", ".join(item.id for item in items))
