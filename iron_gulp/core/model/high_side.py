"""The high side of a direct-injected system: pumps on cams, their feed, rail and injectors, and who delivers."""

from itertools import pairwise
from typing import Annotated, Literal, Self

from pydantic import Field, model_validator

from .elements import Line
from .parts import DirectInjectorPart, HighPumpPart, Model


class HighPump(Model):
    """A high-pressure pump in its place: what drives it, which bank it feeds, how worn it is."""

    in_groups = {"Drive and state": ("cam_ratio", "drive_factor", "worn_um", "screen", "damper")}

    part: HighPumpPart = HighPumpPart()
    bank: int = Field(1, ge=1, le=4, title="Feeds bank")
    cam_ratio: float = Field(0.5, gt=0, le=4, title="Turns a turn of the engine")
    drive_factor: float = Field(1.0, gt=0, le=4, title="Driven faster by")
    worn_um: float = Field(0.0, ge=0, le=50, title="Clearance worn wider by")
    screen: Literal["in place", "removed"] = Field("in place", title="Inlet screen")
    damper: Literal["fitted", "none"] = Field("fitted", title="Pulsation damper")

    @property
    def turns(self) -> float:
        """Turns of the pump's shaft a turn of the engine."""
        return self.cam_ratio * self.drive_factor


class DirectInjectorSet(Model):
    """The direct injectors, all alike; one a cylinder unless a count is given."""

    when_empty = {"count": "one a cylinder"}

    part: DirectInjectorPart
    count: int | None = Field(None, ge=1, le=48, title="Count")


class RailTarget(Model):
    """Rail-pressure target of the controller over engine speed, linear, level beyond its ends."""

    not_asked = ()

    rpm: tuple[Annotated[float, Field(ge=0, le=20_000)], ...] = Field((6000.0,), min_length=1, max_length=16)
    kpa: tuple[Annotated[float, Field(ge=1_000, le=100_000)], ...] = Field((20_000.0,), min_length=1, max_length=16)

    @model_validator(mode="after")
    def _consistent(self) -> Self:
        if len(self.rpm) != len(self.kpa):
            raise ValueError("the rail-pressure target needs one pressure for each engine speed")
        if any(b <= a for a, b in pairwise(self.rpm)):
            raise ValueError("engine speeds must rise from point to point")
        return self


FLOOR_SHARE, FLOOR_ABOVE_CYLINDER_KPA = 0.5, 1000.0


class HighSide(Model):
    """Everything behind the low side of a direct-injected engine: pumps on cams, their feed, rails and injectors."""

    in_groups = {
        "Injection": ("window_deg", "cylinder_kpa", "idle_cylinder_kpa"),
        "Rail": (
            "idle_target_kpa",
            "floor_kpa",
            "relief_kpa",
            "sensor_kpa",
            "rail_volume_cc",
            "bulk_modulus_mpa",
            "fuel_rise_k",
        ),
    }
    when_empty = {"floor_kpa": "half the target", "relief_kpa": "none", "sensor_kpa": "not said"}

    pumps: tuple[HighPump, ...] = Field(min_length=1, max_length=4)
    rails: Literal["common", "own"] = Field("common", title="Rails")
    feed: Literal["split", "series"] = Field("split", title="Pumps are fed")
    branches: tuple[Line, ...] = Field((), max_length=4)
    injectors: DirectInjectorSet
    target: RailTarget = RailTarget()
    idle_target_kpa: float = Field(5_000.0, ge=1_000, le=100_000, title="Rail target at idle")
    floor_kpa: float | None = Field(None, ge=500, le=100_000, title="Lowest rail pressure allowed")
    relief_kpa: float | None = Field(None, ge=1_000, le=120_000, title="Relief valve opens at")
    sensor_kpa: float | None = Field(None, ge=1_000, le=120_000, title="Rail sensor reads up to")
    rail_volume_cc: float = Field(120.0, ge=1, le=5_000, title="Volume of a rail and its lines")
    bulk_modulus_mpa: float = Field(1_100.0, ge=100, le=5_000, title="Bulk modulus")
    fuel_rise_k: float = Field(20.0, ge=-20, le=80, title="Fuel warmer at the pump by")
    window_deg: float = Field(250.0, ge=5, le=720, title="Injection window")
    cylinder_kpa: float = Field(1_000.0, ge=-90, le=20_000, title="Cylinder pressure while injecting")
    idle_cylinder_kpa: float = Field(0.0, ge=-90, le=20_000, title="at idle")

    @model_validator(mode="after")
    def _plumbing(self) -> Self:
        if self.branches and len(self.branches) != len(self.pumps):
            raise ValueError(f"{len(self.branches)} feed lines for {len(self.pumps)} pumps: each pump has one")
        banks = {pump.bank for pump in self.pumps}
        if self.rails == "own" and banks != set(range(1, len(banks) + 1)):
            raise ValueError("rails of their own are numbered from 1, each fed by at least one pump")
        return self

    @property
    def banks(self) -> int:
        """Rails that stand alone."""
        return len({pump.bank for pump in self.pumps}) if self.rails == "own" else 1

    @property
    def borne_kpa(self) -> float:
        """Rail pressure that pumps, injectors and relief valve all bear."""
        most = [self.injectors.part.max_rail_kpa, *(pump.part.max_rail_kpa for pump in self.pumps)]
        return min(most if self.relief_kpa is None else [*most, self.relief_kpa])


class Auxiliary(Model):
    """A second liquid sprayed into the charge by nozzles of its own: water and alcohols in any mixture."""

    in_groups = {
        "When and where": ("start_kpa", "full_kpa", "place", "tank_l", "watched"),
    }
    not_asked = ()

    methanol_pct: float = Field(50.0, ge=0, le=100, title="Methanol")
    ethanol_pct: float = Field(0.0, ge=0, le=100, title="Ethanol")
    nozzles: int = Field(1, ge=1, le=16, title="Nozzles")
    nozzle_cc_min: float = Field(500.0, ge=10, le=5_000, title="Each passes")
    nozzle_at_kpa: float = Field(700.0, ge=50, le=3_000, title="at")
    pump_kpa: float = Field(1_000.0, ge=50, le=3_000, title="Pump pressure")
    opening_kpa: float = Field(100.0, ge=0, le=1_000, title="Nozzle opens at")
    start_kpa: float = Field(60.0, ge=-95, le=600, title="Starts above boost")
    full_kpa: float = Field(120.0, ge=-95, le=600, title="full at boost")
    place: Literal["before the throttle", "in the plenum", "in each runner"] = Field(
        "before the throttle", title="Sprays"
    )
    tank_l: float = Field(8.0, ge=0.5, le=200, title="Tank")
    watched: Literal["flow, cuts boost when it fails", "nothing"] = Field(
        "flow, cuts boost when it fails", title="Watched by"
    )

    @model_validator(mode="after")
    def _mixture(self) -> Self:
        if self.methanol_pct + self.ethanol_pct > 100:
            raise ValueError("methanol and ethanol together are more than the whole; the rest is water")
        if self.full_kpa <= self.start_kpa:
            raise ValueError("the spray is full at a boost above the one it starts at")
        return self


class Delivery(Model):
    """Who delivers the fuel where direct and port injectors are fitted, as the controller was told."""

    shown_when = {
        "direct_share_pct": ("mode", "share"),
        "ceiling_use_pct": ("mode", "ceiling"),
        "signal": ("mode", "threshold"),
        "start": ("mode", "threshold"),
        "width": ("mode", "threshold"),
        "port_share_pct": ("mode", "threshold"),
    }
    when_empty = {"port_base_kpa": "none: that of the low side"}

    mode: Literal["direct only", "port only", "share", "ceiling", "threshold"] = Field("ceiling", title="Fuel goes")
    direct_share_pct: float = Field(60.0, ge=0, le=100, title="Direct share")
    ceiling_use_pct: float = Field(95.0, ge=1, le=100, title="Direct up to, of what it holds")
    signal: Literal["manifold_kpa", "rpm", "flow_l_h"] = Field("manifold_kpa", title="Port joins on")
    start: float = Field(50.0, ge=-100, le=20_000, title="from")
    width: float = Field(50.0, ge=0, le=20_000, title="fading in over")
    port_share_pct: float = Field(40.0, ge=0, le=100, title="to a port share of")
    port_base_kpa: float | None = Field(None, ge=100, le=1500, title="Port rail's own regulator")
    port_reference: Literal["atmosphere", "manifold"] = Field("manifold", title="its reference")
    runs: Literal["a controller of its own", "the engine controller"] = Field(
        "a controller of its own", title="Port side is run by"
    )
    watched: Literal["mixture of each bank, cut when lean", "nothing"] = Field(
        "mixture of each bank, cut when lean", title="Port side watched by"
    )
