"""The circuit that a new pump takes: fuse, wire and switch for the most it can draw where it is put."""

from ...judge import WIDE_OPEN
from ...model import Build, PumpPart, Regulator, Wiring
from ...physics import next_fuse_a, next_relay_a, smallest_fuse_a
from ...solve import wire_for_mm2

SPARE_SWITCH = 1.1
LOST_BESIDE_KPA = 30.0  # filter, check valve, block: beside the feed
JOINTS_MOHM, JOINTS_SHARE = 10.0, 0.4  # good joints: no more, and no more than so much of the drop allowed


def pressed_kpa(build: Build, regulator: Regulator, base_kpa: float) -> float:
    """The pressure rise a system brings its pumps to at most, kPa: its set pressure on the highest boost, with losses."""
    boost = max(max(one.boost_kpa for one in build.targets), 0.0)
    return base_kpa + regulator.reference_ratio * boost + build.rules.feed_drop_kpa + LOST_BESIDE_KPA


def most_drawn_a(part: PumpPart, rise_kpa: float) -> float:
    """The most a pump draws up to a pressure rise, A: no more than with its relief valve wide open."""
    most = rise_kpa if part.relief_kpa is None else min(rise_kpa, part.relief_kpa * WIDE_OPEN)
    return max(float(table.current(at)) for table in part.tables() for at in (0.0, most))


def wired(like: Wiring, part: PumpPart, build: Build, rise_kpa: float, more: float = 1.0) -> Wiring:
    """A circuit for a pump pressed so far: fuse and wire for the most it draws, `more` times as much where a booster
    feeds it, a switch that carries it, good joints; one that already does stays."""
    if part.kind == "mechanical":
        return like.alone()
    amps = more * most_drawn_a(part, rise_kpa)
    fuse = next_fuse_a(float(smallest_fuse_a(amps)))
    joints = min(like.connectors_mohm, JOINTS_MOHM, JOINTS_SHARE * build.rules.wire_drop_v / amps * 1e3)
    good = like.alone().model_copy(update={"connectors_mohm": round(joints, 1)})
    area = wire_for_mm2(good, amps, fuse, build.rules.wire_drop_v, build.rules.wires)
    switch = next_relay_a(amps * SPARE_SWITCH)
    # A joint that is stated too weak for the fuse is made anew with the circuit.
    joined = {name: max(has, fuse) for name in ("terminal_a", "hat_pin_a") if (has := getattr(like, name)) is not None}
    return good.model_copy(
        update={"fuse_a": fuse, "area_mm2": area, "switch_a": max(switch, like.switch_a), "switch": "relay", **joined}
    )
