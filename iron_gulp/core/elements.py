"""What a fuel system is put together from: parts where they are fitted, with lengths, counts, wiring and settings."""

from typing import Literal

from pydantic import Field

from .parts import FilterPart, Identifier, InjectorPart, LinePart, Model, Name, PumpPart, RegulatorPart


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
