"""Rules about port injectors beside direct ones: never told to work, or on a regulator that never opens."""

from collections.abc import Iterator

import numpy as np

from ..model import Component, Delivery, Edit
from ..solve import IDLE, PEAK
from .base import Context, Finding, Remedy, Severity, highest, names
from .high_base import grave

DIRECT: tuple[Component, ...] = ("high-pressure pump", "high-pressure inlet", "direct injectors")


def never_told(context: Context) -> Iterator[Finding]:
    """Port injectors that get no fuel on any target while the direct side falls short."""
    option = context.option
    if option.high_side is None or option.injectors is None or option.mode == "port only":
        return
    short = [one for one in context.verdicts if max(one.load(each).load for each in DIRECT) > 1.0]
    if any(float(one.points.metered_kg_s[PEAK]) > 0 for one in context.verdicts):
        return
    # Fuel for the direct side alone may be meant so; a point that nothing reaches is not.
    meant: Severity = "note" if option.mode == "direct only" else "warn"
    yield Finding(
        "port-idle",
        "stop" if short and grave(short) else "warn" if short else meant,
        "high",
        "The port injectors are never told to work",
        "Port injectors are fitted and on no target does any fuel go through them: {how}."
        + (" On {target_name} the direct side alone falls short." if short else ""),
        "A port rail brings nothing until the controller hands fuel over to it.",
        {"how": _how(context), "target_name": short[0].target.name if short else ""},
        names(short),
        lambda: _hand_over(context),
    )


def _how(context: Context) -> str:
    """Why they get nothing, as the hand-over is set."""
    told = context.option.delivery
    if told is None or told.mode == "direct only":
        return "fuel goes to the direct side alone"
    if told.mode == "share":
        return "the direct share is the whole"
    if told.mode == "threshold":
        return "the point where they join is never reached"
    return "the direct side may be used to its end"


def _hand_over(context: Context) -> Iterator[Remedy]:
    """Direct up to its ceiling, port for the rest: the least change of the calibration."""
    told = context.option.delivery
    if told is not None and told.mode == "threshold":
        yield from _join_lower(context, told)
    edits: tuple[Edit, ...] = (
        ((context.path("delivery"), {"mode": "ceiling", "ceiling_use_pct": USE_PCT}),)
        if told is None
        else ((context.path("delivery/mode"), "ceiling"), (context.path("delivery/ceiling_use_pct"), USE_PCT))
    )
    verdicts = context.trial(edits)
    if verdicts is not None and highest(verdicts, "injectors") <= 1.0:
        yield Remedy(
            "Give the direct side up to {use_pct} of what it holds, the rest to the port side",
            edits,
            {"use_pct": USE_PCT},
        )
    yield Remedy("Or let them join lower, or by a share: the calibrator's decision, proven by the mixture of each bank")


def _join_lower(context: Context, told: Delivery) -> Iterator[Remedy]:
    """Where port injectors join so that the direct side still carries: from half of what the least target reaches."""
    reached = {
        "manifold_kpa": [one.target.boost_kpa for one in context.verdicts],
        "rpm": [one.target.rpm for one in context.verdicts],
        "flow_l_h": [float(one.points.demand_kg_s[PEAK]) / one.fuel.density_kg_m3 * 3.6e6 for one in context.verdicts],
    }[told.signal]
    start, unit = round(JOINS_SHARE * min(reached), -1), told.signal.rpartition("_")[2]
    edits: tuple[Edit, ...] = ((context.path("delivery/start"), start),)
    verdicts = context.trial(edits) if start > 0 else None
    if verdicts is not None and highest(verdicts, "injectors") <= 1.0:
        yield Remedy(f"Let them join from {{start_{_unit(unit)}}}", edits, {f"start_{_unit(unit)}": start})


def _unit(of: str) -> str:
    """What a value's name ends in: flow in litres an hour ends in both."""
    return "l_h" if of == "h" else of


JOINS_SHARE = 0.5
USE_PCT = 90.0


def above_its_node(context: Context) -> Iterator[Finding]:
    """A port rail's own regulator set above what feeds it: it never opens, the rail stands at the node's pressure."""
    told, option = context.option.delivery, context.option
    if told is None or told.port_base_kpa is None or option.injectors is None or option.mode == "direct only":
        return
    ratio = 1.0 if told.port_reference == "manifold" else 0.0
    over = []
    for verdict in context.verdicts:
        for at, manifold in ((PEAK, verdict.target.boost_kpa), (IDLE, context.build.engine.idle_manifold_kpa)):
            node, port = float(verdict.points.hydraulics.set_kpa[at]), told.port_base_kpa + ratio * manifold
            if port > node + ABOVE_KPA:
                over.append((port - node, verdict, node, port, "at the peak of" if at == PEAK else "at idle on"))
    if not over:
        return
    _, worst, node, port, where = max(over, key=lambda one: one[0])
    low = min(node - (port - told.port_base_kpa) for _, _, node, port, _ in over)
    node_base = context.option.regulator.base_kpa
    path, lower = context.path("delivery/port_base_kpa"), float(np.floor((low - ABOVE_KPA) / 10.0) * 10.0)
    yield Finding(
        "port-above-node",
        "warn",
        "high",
        "The port rail's regulator never opens",
        "It is set to {port_kpa} {where} {target_name}; the low side that feeds it is set to {node_kpa}. The port rail "
        "stands at the low side's pressure, its pulses are meant for that.",
        "A regulator holds down what stands above it. Set higher than its feed it holds nothing, and the port side "
        "follows every sag of the low side.",
        {"port_kpa": port, "node_kpa": node, "where": where, "target_name": worst.target.name},
        names(tuple({one.target.id: one for _, one, _, _, _ in over}.values())),
        (
            *((Remedy("Set it to {set_kpa}", ((path, lower),), {"set_kpa": lower}),) if lower > MEANT_KPA else ()),
            Remedy(
                "Leave it out: the low side's pressure serves both", ((context.path("delivery/port_base_kpa"), None),)
            ),
            Remedy("Or raise the low side above it: {base_kpa} is set now", (), {"base_kpa": node_base}),
        ),
    )


ABOVE_KPA, MEANT_KPA = 5.0, 150.0

RULES = (never_told, above_its_node)
