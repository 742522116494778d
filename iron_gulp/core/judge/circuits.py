"""The wiring plan of the pumps: every circuit with current, voltage, wire, fuse and switch, and what is wrong with it."""

from dataclasses import dataclass
from functools import cached_property
from typing import Literal, NamedTuple

import numpy as np

from ..model import DesignRules, Option, PumpGroup, PumpPart, Wiring
from ..physics import flow_l_h, next_fuse_a, smallest_fuse_a, terminal_voltage_v
from ..solve import (
    COLD_PLACE,
    GROUND_MOHM,
    PEAK,
    about_mm2,
    coil_load_a,
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
    "wire too thin",
    "switch too weak",
    "switch too hot where it sits",
    "factory feed loses too much",
    "painted or shared ground",
    "relay coils too much for their circuit",
]


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

    `largest_a` is the most the pump can be brought to draw: what fuse, wire and switch must bear.
    """

    name: str
    path: str
    part: PumpPart
    wiring: Wiring
    pumps: int
    current_a: float
    largest_a: float
    supply_v: float
    boosted: bool
    pump_v: float
    loop_mohm: float
    wire_carries_a: float
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
    def battery_a(self) -> float:
        """What its fuse carries all the time: behind a booster more than the pump draws."""
        return self.least_fuse_a / float(smallest_fuse_a(1.0))

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


def circuits(option: Option, verdicts: tuple[TargetVerdict, ...], rules: DesignRules = DEFAULT_RULES) -> list[Circuit]:
    """The circuits of every electrical pump: main groups first, then the lift stage; wires are proposed by the rules."""
    found = []
    for index, group in enumerate(option.pumps):
        if group.part.kind == "mechanical":
            continue
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
        control = _control(group, index)
        name = f"Main pump, group {index + 1}"
        path = f"pumps/{group.id}/wiring"
        into = max(group.input_share(v.target.supply_v, v.target.boost_kpa) for v in verdicts)
        most = max(v.largest_a[index] for v in verdicts)
        found.append(_circuit(name, path, group.part, group.wiring, group.count, points, most, control, rules, into))
    if option.lift is not None:
        lift = option.lift
        lifted = [
            _Point(v.lift.amps, v.target.supply_v, v.lift.volts, v.lift.rise_kpa, v.target.name)
            for v in verdicts
            if v.lift is not None
        ]
        control = "switched with the engine running"
        most = max(one.amps for one in lifted)
        found.append(
            _circuit("Lift pump", "lift/wiring", lift.part, lift.wiring, lift.count, lifted, most, control, rules)
        )
    return found


def _control(group: PumpGroup, index: int) -> str:
    """How the circuit is switched, and what that asks of the controller's output."""
    when = f"by the controller, stage {index + 1} ({group.when} of its conditions)" if group.staged else "with the engine"
    if group.wiring.switch in ("controller", "solid-state relay"):
        return f"switched {when}; the {group.wiring.switch} sits {_place(group.wiring)} and can be pulse-width modulated"
    return f"switched {when}; the relay's coil draws about {group.wiring.coil_a:g} A and needs a diode across it"


def _place(wiring: Wiring) -> str:
    return "where air reaches it" if wiring.switch_place == COLD_PLACE else "in the heat and without air"


def _circuit(
    name: str,
    path: str,
    part: PumpPart,
    wiring: Wiring,
    pumps: int,
    points: list[_Point],
    most: float,
    control: str,
    rules: DesignRules,
    into: float = 1.0,
) -> Circuit:
    amps, supply, volts, rise, target_name = max(points)
    carries = wire_carries_a(wiring)
    least = float(smallest_fuse_a(most * into))
    proposed = next_fuse_a(least)
    area = wire_for_mm2(wiring, amps, proposed, rules.wire_drop_v, rules.wires)
    return Circuit(
        name,
        path,
        part,
        wiring,
        pumps,
        amps,
        most,
        supply,
        into > 1.0,
        volts,
        wiring_resistance_ohm(wiring) * 1e3,
        carries,
        least,
        proposed,
        area,
        control,
        faults(wiring, amps, pumps, into, rules.wire_drop_v, most),
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
    pumps: int,
    into: float = 1.0,
    allowed_v: float = DEFAULT_RULES.wire_drop_v,
    largest_a: float = 0.0,
) -> tuple[Fault, ...]:
    """What is wrong with a circuit that carries `amps` a pump, `largest_a` at most, and may lose `allowed_v`.

    Fuse and switch carry `into` times as much: what goes into a booster is more than what comes out.
    """
    most = max(amps, largest_a)
    carries, before = wire_carries_a(wiring), most * into
    fuse = np.inf if wiring.fuse_a is None else wiring.fuse_a
    lost_v = amps * wiring_resistance_ohm(wiring)
    in_heat = switch_carries_a(wiring) < wiring.switch_a
    judged: tuple[tuple[Fault, bool], ...] = (
        ("no fuse entered", wiring.fuse_a is None),
        ("fuse below the current", fuse < before),
        ("fuse run above 80 %", before <= fuse < float(smallest_fuse_a(before))),
        ("fuse larger than the wire carries", wiring.fuse_a is not None and wiring.fuse_a > carries),
        ("wire too thin", most > carries),
        ("switch too weak", before > wiring.switch_a),
        ("switch too hot where it sits", in_heat and wiring.switch_a >= before > switch_carries_a(wiring)),
        ("factory feed loses too much", wiring.switch == "factory feed" and lost_v > UNSURE * allowed_v),
        ("painted or shared ground", wiring.ground == "painted or shared point"),
        ("relay coils too much for their circuit", coil_load_a(wiring, pumps) > wiring.coil_feed_a),
    )
    return tuple(fault for fault, found in judged if found)
