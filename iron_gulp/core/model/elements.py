"""What a fuel system is put together from: parts where they are fitted, with lengths, counts, wiring and settings."""

from math import log, pi
from typing import Annotated, Literal, Protocol, Self

from pydantic import Field, field_validator, model_validator

from ..physics import FittingKind
from .injector_parts import InjectorPart
from .parts import FilterPart, Identifier, LinePart, Model, Name, PumpPart, RailPart, RegulatorPart

Label = Annotated[str, Field(max_length=24)]


def unique(kind: str, ids: list[str]) -> None:
    """Raises ValueError when an id stands twice."""
    doubled = sorted({one for one in ids if ids.count(one) > 1})
    if doubled:
        raise ValueError(f"{kind} id used twice: {', '.join(doubled)}")


class Tank(Model):
    """The tank: what it holds, what stands over the fuel, and how it is filled where filling has no vent of its own."""

    when_empty = {"fill_l_h": "own vent"}

    volume_l: float = Field(60.0, ge=1, le=1000, title="Tank volume")
    pressure_kpa: float = Field(0.0, ge=-20, le=30, title="Tank pressure")
    vent_mm: float = Field(6.0, ge=0, le=60, title="Vent bore, 0 closed")
    fill_l_h: float | None = Field(None, ge=60, le=200000, title="Filled past this vent at")


class Restriction(Protocol):
    """What stands in a line and costs pressure: a bore, a length on it, and a loss coefficient on it."""

    @property
    def bore_mm(self) -> float: ...
    @property
    def length_m(self) -> float: ...
    @property
    def k_sum(self) -> float: ...


class Passage(Model):
    """A small passage in its own right: hanger tube, quick-connect, bulkhead, block, restriction."""

    not_asked = ("id",)

    id: Identifier
    name: Name = Field(title="Passage")
    bore_mm: float = Field(ge=0.5, le=60, title="Bore")
    length_m: float = Field(0.0, ge=0, le=10, title="Length")
    k_sum: float = Field(1.5, ge=0, le=1000, title="K")


class Cooler(Model):
    """A fuel cooler in a line by its sheet's point: drop and heat at a flow, fuel so much warmer than the air."""

    in_groups = {"Cooler data": ("rated_flow_l_h", "rated_drop_kpa", "rated_heat_w", "rated_difference_k")}

    bore_mm: float = Field(9.0, ge=2, le=25, title="Bore of the ports")
    air_c: float = Field(20.0, ge=-50, le=90, title="Air at the cooler")
    rated_flow_l_h: float = Field(300.0, ge=20, le=5000, title="Rated flow")
    rated_drop_kpa: float = Field(5.0, ge=0, le=300, title="Drop there")
    rated_heat_w: float = Field(1200.0, ge=1, le=50000, title="Heat given there")
    rated_difference_k: float = Field(30.0, ge=1, le=150, title="Fuel warmer than the air by")

    @model_validator(mode="after")
    def _possible(self) -> Self:
        # The fuel can give no more than down to the air's temperature; 5 % above it is as near as a cooler comes.
        most = 0.95 * self.rated_stream_w_k * self.rated_difference_k
        if self.rated_heat_w > most:
            raise ValueError(f"at its rated flow the fuel brings no more than {most:.0f} W to the cooler")
        return self

    @property
    def rated_stream_w_k(self) -> float:
        """Heat capacity of the rated flow, W/K, of gasoline: 750 kg/m³, 2.22 kJ/(kg K)."""
        return 750.0 * 2220.0 * self.rated_flow_l_h / 3.6e6

    @property
    def ua_w_k(self) -> float:
        """Conductance UA, W/K: the rated heat by effectiveness 1 − exp(−UA ÷ Ċ), the air's own stream not limiting."""
        return -self.rated_stream_w_k * log(1.0 - self.rated_heat_w / (self.rated_stream_w_k * self.rated_difference_k))

    @property
    def length_m(self) -> float:
        """Its passages are in the rated drop."""
        return 0.0

    @property
    def k_sum(self) -> float:
        """Loss coefficient on the ports' bore: the rated drop over the dynamic pressure of 750 kg/m³ there."""
        speed = self.rated_flow_l_h / 3.6e6 / (pi / 4.0 * (self.bore_mm / 1000.0) ** 2)
        return self.rated_drop_kpa * 1000.0 / (0.5 * 750.0 * speed**2)


class Pickup(Model):
    """Where fuel leaves the main tank, drawn through by the lift stage, or by the main pumps where there is none."""

    kind: Literal["open tube", "sock strainer", "baffled sump", "cell with trap doors"] = Field(
        "sock strainer", title="Pickup"
    )
    bore_mm: float = Field(12.0, ge=0.5, le=60, title="Bore")
    length_m: float = Field(0.2, ge=0, le=5, title="Length")
    k_sum: float = Field(1.5, ge=0, le=1000, title="K")

    @property
    def holds_fuel(self) -> bool:
        """Whether fuel stays around it while the rest sloshes away."""
        return self.kind in ("baffled sump", "cell with trap doors")


class Wiring(Model):
    """The circuit of one pump or group of pumps, source to ground.

    What is given a name (an output, a relay, a fuse, a ground) is one thing: all pumps whose circuits name it hang on it.
    """

    in_groups = {
        "Circuit": ("fuse_a", "switch", "switch_a", "switch_place", "ground", "copper_temp_c", "coil_a", "coil_feed_a"),
        "Where the wire lies": ("insulation", "laid", "bundled"),
        "Between wire and pump": ("terminal_a", "hat_pin_a"),
        "Shared with other pumps": ("output", "relay", "fuse", "ground_point"),
    }
    when_empty = {
        "fuse_a": "none",
        **dict.fromkeys(("output", "relay", "fuse", "ground_point"), "its own"),
        **dict.fromkeys(("terminal_a", "hat_pin_a"), "not said"),
    }

    loop_m: float = Field(6.0, ge=0, le=60, title="Loop, there and back")
    area_mm2: float = Field(2.5, ge=0.2, le=70, title="Wire")
    connectors_mohm: float = Field(0.0, ge=0, le=2000, title="Connectors, relay")
    copper_temp_c: float = Field(20.0, ge=-40, le=120, title="Temperature")
    fuse_a: float | None = Field(None, ge=1, le=200, title="Fuse")
    switch: Literal["relay", "solid-state relay", "controller", "factory feed"] = Field("relay", title="Switched by")
    switch_a: float = Field(30.0, ge=1, le=300, title="Switch rated for")
    switch_place: Literal["cool and ventilated", "in the heat, unventilated"] = Field(
        "cool and ventilated", title="Switch sits"
    )
    coil_a: float = Field(0.18, ge=0, le=5, title="Coil draws")
    coil_feed_a: float = Field(1.0, ge=0.05, le=30, title="Coil circuit")
    ground: Literal["own wire to the battery", "bare metal of the body", "painted or shared point"] = Field(
        "own wire to the battery", title="Ground"
    )
    insulation: Literal["thin-wall PVC", "cross-linked"] = Field("thin-wall PVC", title="Insulation")
    laid: Literal["in a loom", "free in air"] = Field("in a loom", title="Laid")
    bundled: int = Field(1, ge=1, le=40, title="Loaded wires side by side")
    terminal_a: float | None = Field(None, ge=1, le=300, title="Terminals rated for")
    hat_pin_a: float | None = Field(None, ge=1, le=300, title="Pins through the hat")
    output: Label = Field("", title="Output")
    relay: Label = Field("", title="Relay or controller")
    fuse: Label = Field("", title="Fuse called")
    ground_point: Label = Field("", title="Ground point")

    def alone(self) -> Self:
        """The same circuit sharing nothing."""
        return self.model_copy(update=dict.fromkeys(("output", "relay", "fuse", "ground_point"), ""))


class PumpGroup(Model):
    """Equal pumps in parallel, each with its own check valve and its own wiring loop."""

    in_groups = {
        "Stage": (
            "on_above_rpm",
            "on_above_l_h",
            "on_above_duty_pct",
            "on_below_lambda",
            "when",
            "hysteresis_pct",
            "min_on_s",
        ),
        "Speed controller": ("gain_pct_per_kpa", "reset_s"),
        "Voltage booster": ("booster_v", "booster_from_kpa", "booster_a", "booster_pct"),
    }
    shown_when = dict.fromkeys(
        ("drive", "gain_pct_per_kpa", "reset_s"), ("regulator/arrangement", "returnless, speed-controlled")
    )
    when_empty = {"on_above_kpa": "always on", "gain_pct_per_kpa": "not said", "reset_s": "not said"} | {
        "booster_v": "none",
        "booster_from_kpa": "always",
        "check_valve_kpa": "not known",
    }

    id: Identifier
    part: PumpPart
    count: int = Field(1, ge=1, le=6, title="Pumps")
    wiring: Wiring = Wiring()
    derate_pct: float = Field(0.0, ge=0, le=90, title="Wear, hot fuel")
    on_above_kpa: float | None = Field(None, ge=-100, le=600, title="Joins above boost")
    on_above_rpm: float | None = Field(None, ge=0, le=20000, title="above speed")
    on_above_l_h: float | None = Field(None, ge=0, le=10000, title="above fuel flow")
    on_above_duty_pct: float | None = Field(None, ge=0, le=100, title="above duty")
    on_below_lambda: float | None = Field(None, ge=0.4, le=1.6, title="richer than")
    when: Literal["any", "all"] = Field("any", title="needs")
    hysteresis_pct: float = Field(15.0, ge=0, le=90, title="Hysteresis")
    min_on_s: float = Field(2.0, ge=0, le=60, title="Stays on at least")
    check_valve_kpa: float | None = Field(None, ge=0, le=100, title="Check valve")
    place: Literal["in parallel", "in series, boosting the others"] = Field("in parallel", title="Plumbed")
    drive: Literal["follows the rail", "always full speed"] = Field("follows the rail", title="Speed, when returnless")
    gain_pct_per_kpa: float | None = Field(None, ge=0.001, le=100, title="Gain, speed for pressure")
    reset_s: float | None = Field(None, ge=0.01, le=100, title="Reset time")
    booster_v: float | None = Field(None, ge=10, le=40, title="Booster holds")
    booster_from_kpa: float | None = Field(None, ge=-100, le=600, title="from boost of")
    booster_a: float = Field(40.0, ge=1, le=400, title="It gives at most")
    booster_pct: float = Field(88.0, ge=40, le=100, title="Its efficiency")

    @property
    def valve_kpa(self) -> float:
        """What the check valve takes, kPa: nothing where none is fitted (0) or none is known of (empty)."""
        return self.check_valve_kpa or 0.0

    def source_v(self, supply_v: float, manifold_kpa: float) -> float:
        """What feeds the circuit: the booster where it works and holds more than the system, V."""
        if self.booster_v is None or (self.booster_from_kpa is not None and manifold_kpa <= self.booster_from_kpa):
            return supply_v
        return max(self.booster_v, supply_v)

    def input_share(self, supply_v: float, manifold_kpa: float) -> float:
        """What the battery's side carries for each ampere of the pumps: more before a booster that works."""
        source = self.source_v(supply_v, manifold_kpa)
        return 1.0 if source <= supply_v else source / supply_v / (self.booster_pct / 100.0)

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


class Fitting(Model):
    """Equal fittings in a line, with published loss coefficients (`fittings`)."""

    id: Identifier
    kind: FittingKind = Field("swept elbow, 90°", title="Fitting")
    count: int = Field(1, ge=1, le=40, title="How many")
    bore_mm: float | None = Field(None, ge=0.5, le=60, title="Bore")


class Line(Model):
    """A run of hose or tube with its bends and ends."""

    part: LinePart
    length_m: float = Field(ge=0, le=100, title="Length")
    k_sum: float = Field(0.0, ge=0, le=1000, title="Other losses, ΣK")
    runs: Literal["in the tank", "under the body", "in the engine bay"] = Field("under the body", title="Runs")
    fittings: tuple[Fitting, ...] = Field((), max_length=12)

    @model_validator(mode="after")
    def _fittings(self) -> Self:
        unique("fitting", [fitting.id for fitting in self.fittings])
        return self


class Filter(Model):
    """A filter in its place, as clogged as it is."""

    part: FilterPart
    clogging: float = Field(1.0, ge=1, le=50, title="Clogging, × clean")


class Suction(Model):
    """From the fuel to the pump inlet. `head_m` is the fuel level above the inlet; below it, negative.

    What a hanger in the tank bears is empty where nobody looked.
    """

    in_groups = {"What the hanger in the tank bears": ("hanger_pumps", "hanger_outlets", "hanger_pins")}
    when_empty = dict.fromkeys(("hanger_pumps", "hanger_outlets", "hanger_pins"), "not known")

    place: Literal["in the tank", "external", "in a surge tank"] = Field("in the tank", title="Main pumps sit")
    head_m: float = Field(0.0, ge=-2, le=3, title="Fuel level above the inlet")
    line: Line | None = Field(None, title="Suction line")
    filter: Filter | None = Field(None, title="Pre-filter")
    hanger_pumps: int | None = Field(None, ge=1, le=6, title="Pumps it bears")
    hanger_outlets: int | None = Field(None, ge=1, le=8, title="Outlets")
    hanger_pins: int | None = Field(None, ge=1, le=24, title="Pins for pumps")


class LiftStage(Model):
    """Lift pump and surge tank: the main pumps draw from the surge tank, its overflow goes back to the main tank."""

    part: PumpPart
    count: int = Field(1, ge=1, le=4, title="Lift pumps")
    wiring: Wiring = Wiring()
    derate_pct: float = Field(0.0, ge=0, le=90, title="Wear, hot fuel")
    line: Line
    surge_l: float = Field(2.0, ge=0.1, le=60, title="Surge tank")
    school: Literal["lift carries all", "tank covers the pull"] = Field(
        "lift carries all", title="Full load is carried so"
    )
    return_to: Literal["surge tank", "main tank"] = Field("surge tank", title="Return goes to the")
    overflow_mm: float = Field(12.0, ge=1, le=60, title="Overflow bore")
    covered_s: float = Field(15.0, ge=0, le=3600, title="Pickup covered for")
    uncovered_s: float = Field(4.0, ge=0, le=600, title="then dry in a turn for")


class Branch(Model):
    """One leg of a split, from it to its rail."""

    id: Identifier
    line: Line


class Split(Model):
    """The feed parted to several rails, one branch each; the fitting's loss counts on each branch's bore."""

    fitting: Literal["Y, into a leg", "tee, into the branch"] = Field("Y, into a leg", title="Feed parts in a")
    branches: tuple[Branch, ...] = Field(min_length=2, max_length=4)

    @model_validator(mode="after")
    def _branches(self) -> Self:
        unique("branch", [branch.id for branch in self.branches])
        return self


class Rail(RailPart):
    """Rail or rails as fitted, for the drop along them and the pulsation estimate."""

    count: int = Field(1, ge=1, le=4, title="Rails")
    entry: Literal["at the end", "in the centre"] = Field("at the end", title="Feed enters")


class Carburettor(Model):
    """Float chambers fed through needle valves; the chambers are open to the air."""

    not_asked = ()

    name: Name = Field("Carburettor", title="Description")
    needles: int = Field(1, ge=1, le=16, title="Float needles")
    needle_mm: float = Field(2.5, ge=0.5, le=8, title="Needle seat bore")
    lowest_kpa: float = Field(15.0, ge=2, le=80, title="Lowest inlet pressure")
    highest_kpa: float = Field(60.0, ge=3, le=120, title="Float holds against")
    alcohol_ok: bool = Field(False, title="Fit for alcohol")


class SecondSet(Model):
    """A second set of injectors on the same rail that joins when the first runs out of time."""

    when_empty = {"count": "one a cylinder"}

    part: InjectorPart
    count: int | None = Field(None, ge=1, le=48, title="Count")
    squirts: int = Field(1, ge=1, le=12, title="Squirts a cycle")
    joins_pct: float = Field(60.0, ge=5, le=95, title="Joins above a duty of the first")


class InjectorSet(Model):
    """The injectors of a build, all alike, and a second set that may stand beside them."""

    when_empty = dict.fromkeys(("lowest_kpa", "room_mm", "intake_valves"), "not said")
    in_groups = {"Room in the head": ("room_mm", "intake_valves")}

    part: InjectorPart
    count: int | None = Field(None, ge=1, le=48, title="Count")
    squirts: int = Field(1, ge=1, le=12, title="Squirts a cycle")
    sprays: Literal[
        "into each port", "into a shared plenum", "above the throttle", "above the throttle, blown through"
    ] = Field("into each port", title="Spray")
    lowest_kpa: float | None = Field(None, ge=5, le=1500, title="Lowest rail pressure accepted")
    room_mm: float | None = Field(None, ge=20, le=150, title="From rail to port")
    intake_valves: int | None = Field(None, ge=1, le=4, title="Intake valves a cylinder")
    measured_flows: str = Field("", max_length=400, title="Measured one by one, in cylinder order")
    second: SecondSet | None = None

    @field_validator("measured_flows")
    @classmethod
    def _flows(cls, text: str) -> str:
        try:
            found = flows_in(text)
        except ValueError:
            raise ValueError("flows are numbers with a space or semicolon between them: 801; 795; 808; 800") from None
        if found and (len(found) < 2 or any(not 1 <= one <= 20_000 for one in found)):
            raise ValueError("a measured set is at least two flows, each from 1 to 20000 cc/min")
        return text

    @property
    def flows_cc_min(self) -> tuple[float, ...]:
        """The set's flows in the order of the cylinders; none where it was not measured."""
        return flows_in(self.measured_flows)


def flows_in(text: str) -> tuple[float, ...]:
    """Numbers of a text parted by spaces or semicolons; a comma is a decimal one. Raises ValueError for anything else."""
    return tuple(float(one.replace(",", ".")) for one in text.replace(";", " ").split())


class Regulator(Model):
    """The regulator in its place: arrangement, reference, setting."""

    shown_when = {
        "slowest_pct": ("arrangement", "returnless, speed-controlled"),
        "rising_ratio": ("reference", "rising rate"),
    }

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


class BoostAt(Model):
    """Boost the controller permits on a blend, as it was told."""

    id: Identifier
    ethanol_pct: float = Field(ge=0, le=100, title="Blend read")
    boost_kpa: float = Field(ge=-100, le=600, title="Boost permitted")


WATCHED = "boost is cut on low rail pressure"


class Calibration(Model):
    """What the engine controller was told; empty where nobody has looked. Compared with what is fitted."""

    in_groups = {
        "Injectors": ("injector_cc_min", "injector_at_kpa", "base_kpa", "dead_time_ms", "driver"),
        "Fuel": ("blend",),
        "Engine": ("map_range_kpa_abs",),
        "Pumps": ("pump_controller", "rail_watch"),
    }

    map_range_kpa_abs: float | None = Field(None, ge=90, le=1000, title="Manifold sensor up to, absolute")
    injector_cc_min: float | None = Field(None, ge=20, le=20000, title="Injector flow")
    injector_at_kpa: float = Field(300.0, ge=50, le=2000, title="entered for")
    base_kpa: float | None = Field(None, ge=5, le=1500, title="Base pressure told")
    dead_time_ms: float | None = Field(None, ge=0, le=10, title="Dead time at 13.5 V")
    driver: Literal["not said", "saturated", "saturated, with resistors", "peak and hold"] = Field(
        "not said", title="Injector driver"
    )
    blend: Literal["measured by a sensor", "entered by hand"] = Field("measured by a sensor", title="Ethanol content")
    pump_controller: Literal["none fitted", "set for these pumps", "as it came, or set for others"] = Field(
        "none fitted", title="Pump controller"
    )
    rail_watch: Literal["not said", "boost is cut on low rail pressure", "nothing watches it"] = Field(
        "not said", title="Rail pressure against its set"
    )
