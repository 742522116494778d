"""The wiring plan of the pumps: every circuit with current, voltage, wire, fuse and switch, and what is wrong with it."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np

from ..model import DesignRules, LiftStage, OnIt, Option, PumpGroup, PumpPart, Wiring, circuits_of
from ..physics import flow_l_h, next_fuse_a, smallest_fuse_a, terminal_voltage_v
from ..solve import (
    COLD_PLACE,
    GROUND_MOHM,
    PEAK,
    Segment,
    about_mm2,
    controlled,
    segments,
    switch_carries_a,
    wire_carries_a,
    wire_for_mm2,
    wiring_resistance_ohm,
)
from .verdict import TargetVerdict

DEFAULT_RULES = DesignRules()
UNSURE = 1.2  # joints and copper are known no better: volts lost past the rule by less than that are a note
RELAY_FEED_MM2, RELAY_FEED_MOHM = 4.0, 8.0  # a good feed of its own: wire at least this, joints and relay about this
Fault = Literal[
    "no fuse entered",
    "fuse below the current",
    "fuse run above 80 %",
    "fuse larger than the wire carries",
    "fuse larger than a segment carries",
    "fuse larger than an unstated segment",
    "wire too thin",
    "segment too weak",
    "switch too weak",
    "switch too hot where it sits",
    "factory feed loses too much",
    "painted or shared ground",
    "relay coils too much for their circuit",
]
# What is no fault but a habit not kept, or something nobody has said.
HABITS: frozenset[Fault] = frozenset({"fuse run above 80 %", "fuse larger than an unstated segment"})


@dataclass(frozen=True)
class RelayFeed:
    """The same pump at the same pressure, as wired and on a relay feed of its own: voltage and flow of one pump."""

    area_mm2: float
    rise_kpa: float
    wired_l_h: float
    fed_v: float
    fed_l_h: float


class _Point(NamedTuple):
    """What one pump of a circuit draws and sees at a point of a target."""

    amps: float
    source_v: float
    pump_v: float
    rise_kpa: float
    target_name: str


@dataclass(frozen=True)
class Circuit:
    """One pump's circuit, at the highest current over all targets (peak and idle).

    `largest_a` is the most the pump can be brought to draw: what its wire must bear. Fuse and switch carry `fused_a` and
    `switched_a`: more before a booster (`own_a`), and all pumps that hang on them. `fuse_a` is the fuse's, however often
    entered; `coils_a` what all relays on its output draw.
    """

    name: str
    path: str
    part: PumpPart
    wiring: Wiring
    pumps: int
    current_a: float
    largest_a: float
    fuse_a: float | None
    fused_a: float
    switched_a: float
    own_a: float
    coils_a: float
    supply_v: float
    boosted: bool
    controlled: bool
    pump_v: float
    loop_mohm: float
    wire_carries_a: float
    segments: tuple[Segment, ...]
    least_fuse_a: float
    fuse_proposed_a: float
    area_proposed_mm2: float
    control: str
    problems: tuple[Fault, ...]
    rise_kpa: float
    target_name: str
    _relay_feed_mm2: float

    @cached_property
    def relay_feed(self) -> RelayFeed:
        """The same pump on a relay feed of its own; worked out when asked for."""
        area = max(self.area_proposed_mm2, self.wiring.area_mm2, self._relay_feed_mm2)
        return _relay_feed(self.part, self.wiring, self.supply_v, self.pump_v, self.rise_kpa, area)

    @property
    def weakest(self) -> Segment | None:
        """The weakest segment stated behind the wire, if any is."""
        return weakest(self.segments, stated=True)

    @property
    def carries_a(self) -> float:
        """What wire and stated segments carry together, A."""
        return min(self.wire_carries_a, np.inf if self.weakest is None else self.weakest.carries_a)

    @property
    def arrives_v(self) -> float:
        """What the wiring leaves of its source: at the pump, or at the speed controller before it."""
        return self.supply_v - self.drop_v

    @property
    def drop_v(self) -> float:
        """Lost in the loop; what a speed controller takes off is no loss."""
        return self.current_a * self.loop_mohm / 1e3

    @property
    def falls_v(self) -> tuple[float, float, float, float]:
        """Where its volts go: joints and switch, wire to the pump, wire back, ground point. They add up to `drop_v`."""
        joints, ground = self.wiring.connectors_mohm, GROUND_MOHM[self.wiring.ground]
        wire = (self.loop_mohm - joints - ground) / 2.0
        joined, there, back, grounded = (self.current_a * part / 1e3 for part in (joints, wire, wire, ground))
        return joined, there, back, grounded


def weakest(behind: tuple[Segment, ...], stated: bool) -> Segment | None:
    """The weakest of the segments that somebody stated, or of those that are class figures."""
    return min((one for one in behind if one.stated == stated), key=lambda one: one.carries_a, default=None)


class _Drawn(NamedTuple):
    """A circuit before its fuse and its switch are looked at: its points, and the most one of its pumps draws."""

    name: str
    path: str
    part: PumpPart
    pumps: int
    points: list[_Point]
    most_a: float
    into: float
    control: str
    controlled: bool = False
    in_fuel: bool = False


def circuits(option: Option, verdicts: tuple[TargetVerdict, ...], rules: DesignRules = DEFAULT_RULES) -> list[Circuit]:
    """The circuits of every electrical pump: main groups first, then the lift stage; wires are proposed by the rules."""
    drawn = [
        _of_group(group, index, verdicts)._replace(
            controlled=controlled(option, index), in_fuel=option.suction.place != "external"
        )
        for index, group in enumerate(option.pumps)
    ]
    if option.lift is not None:
        drawn.append(_of_lift(option.lift, verdicts))
    into_a = np.array([one.most_a * one.into for one in drawn])
    return [
        _circuit(one, on_it, float(into_a @ on_it.on_fuse), float(into_a @ on_it.on_switch), rules)
        for one, on_it in zip(drawn, circuits_of(option), strict=True)
        if one.part.kind != "mechanical"
    ]


def _of_group(group: PumpGroup, index: int, verdicts: tuple[TargetVerdict, ...]) -> _Drawn:
    points = [
        _Point(
            float(v.points.hydraulics.amps[index, at]),
            group.source_v(v.target.supply_v, v.target.boost_kpa if at == PEAK else -np.inf),
            float(v.points.hydraulics.volts[index, at]),
            float(v.points.hydraulics.pump_rise_kpa[at]) + group.valve_kpa,
            v.target.name,
        )
        for v in verdicts
        for at in range(2)
    ]
    into = max(group.input_share(v.target.supply_v, v.target.boost_kpa) for v in verdicts)
    most = max(v.largest_a[index] for v in verdicts)
    name, path = f"Main pump, group {index + 1}", f"pumps/{group.id}/wiring"
    return _Drawn(name, path, group.part, group.count, points, most, into, _control(group, index))


def _of_lift(lift: LiftStage, verdicts: tuple[TargetVerdict, ...]) -> _Drawn:
    lifted = [
        _Point(v.lift.amps, v.target.supply_v, v.lift.volts, v.lift.rise_kpa, v.target.name)
        for v in verdicts
        if v.lift is not None
    ]
    most = max(one.amps for one in lifted)
    control = "switched with the engine running"
    return _Drawn("Lift pump", "lift/wiring", lift.part, lift.count, lifted, most, 1.0, control)


def _control(group: PumpGroup, index: int) -> str:
    """How the circuit is switched, and what that asks of the controller's output."""
    when = f"by the controller, stage {index + 1} ({group.when} of its conditions)" if group.staged else "with the engine"
    if group.wiring.switch in ("controller", "solid-state relay"):
        return f"switched {when}; the {group.wiring.switch} sits {_place(group.wiring)} and can be pulse-width modulated"
    return f"switched {when}; the relay's coil draws about {group.wiring.coil_a:g} A and needs a diode across it"


def _place(wiring: Wiring) -> str:
    return "where air reaches it" if wiring.switch_place == COLD_PLACE else "in the heat and without air"


def _circuit(one: _Drawn, on_it: OnIt, fused_a: float, switched_a: float, rules: DesignRules) -> Circuit:
    amps, supply, volts, rise, target_name = max(one.points)
    wiring, behind = on_it.wiring, segments(on_it.wiring, one.part, one.in_fuel)
    least = float(smallest_fuse_a(fused_a))
    proposed = next_fuse_a(least)
    area = wire_for_mm2(wiring, amps, proposed, rules.wire_drop_v, rules.wires)
    return Circuit(
        one.name,
        one.path,
        one.part,
        wiring,
        one.pumps,
        amps,
        one.most_a,
        on_it.fuse_a,
        fused_a,
        switched_a,
        one.most_a * one.into,
        on_it.coils_a,
        supply,
        one.into > 1.0,
        one.controlled,
        volts,
        wiring_resistance_ohm(wiring) * 1e3,
        wire_carries_a(wiring),
        behind,
        least,
        proposed,
        area,
        one.control,
        faults(
            wiring,
            amps,
            on_it.coils_a,
            allowed_v=rules.wire_drop_v,
            largest_a=one.most_a,
            fuse_a=on_it.fuse_a,
            fused_a=fused_a,
            switched_a=switched_a,
            behind=behind,
        ),
        rise,
        target_name,
        about_mm2(RELAY_FEED_MM2, rules.wires),
    )


def _relay_feed(
    part: PumpPart, wiring: Wiring, supply_v: float, volts: float, rise_kpa: float, area_mm2: float
) -> RelayFeed:
    """What a feed of its own would bring, over the same distance: relay near the battery, own ground, good joints."""
    own = Wiring(
        loop_m=wiring.loop_m, area_mm2=area_mm2, connectors_mohm=RELAY_FEED_MOHM, copper_temp_c=wiring.copper_temp_c
    )
    tables = part.tables()
    fed = float(terminal_voltage_v(tables, rise_kpa, supply_v, wiring_resistance_ohm(own)))
    flows = [float(flow_l_h(tables, rise_kpa, at)) for at in (volts, fed)]
    return RelayFeed(area_mm2, rise_kpa, flows[0], fed, flows[1])


def faults(
    wiring: Wiring,
    amps: float,
    coils_a: float,
    *,
    allowed_v: float = DEFAULT_RULES.wire_drop_v,
    largest_a: float = 0.0,
    fuse_a: float | None = None,
    fused_a: float = 0.0,
    switched_a: float = 0.0,
    behind: tuple[Segment, ...] = (),
) -> tuple[Fault, ...]:
    """What is wrong with a circuit that carries `amps` a pump, `largest_a` at most, and may lose `allowed_v`.

    Fuse and switch carry what is said of them, no less than the pump's own largest; the relays on its output `coils_a`.
    A segment `behind` the wire has a fault of its own only where the wire has none.
    """
    most = max(amps, largest_a)
    carries, lost_v = wire_carries_a(wiring), amps * wiring_resistance_ohm(wiring)
    rating = wiring.fuse_a if fuse_a is None else fuse_a
    fuse, fused, switched = np.inf if rating is None else rating, max(most, fused_a), max(most, switched_a)
    given, guessed = (
        np.inf if one is None else one.carries_a for one in (weakest(behind, stated=True), weakest(behind, stated=False))
    )
    in_heat = switch_carries_a(wiring) < wiring.switch_a
    judged: tuple[tuple[Fault, bool], ...] = (
        ("no fuse entered", rating is None),
        ("fuse below the current", fuse < fused),
        ("fuse run above 80 %", fused <= fuse < float(smallest_fuse_a(fused))),
        ("fuse larger than the wire carries", rating is not None and rating > carries),
        ("fuse larger than a segment carries", rating is not None and given < rating <= carries),
        ("fuse larger than an unstated segment", rating is not None and guessed < rating <= min(carries, given)),
        ("wire too thin", most > carries),
        ("segment too weak", given < most <= carries),
        ("switch too weak", switched > wiring.switch_a),
        ("switch too hot where it sits", in_heat and wiring.switch_a >= switched > switch_carries_a(wiring)),
        ("factory feed loses too much", wiring.switch == "factory feed" and lost_v > UNSURE * allowed_v),
        ("painted or shared ground", wiring.ground == "painted or shared point"),
        ("relay coils too much for their circuit", coils_a > wiring.coil_feed_a),
    )
    return tuple(fault for fault, found in judged if found)
