"""Rules about pumps and their wiring: supply at the real pressure and voltage, voltage drop, capacity never used."""

from collections.abc import Iterator, Sequence
from functools import partial
from itertools import islice, pairwise

import numpy as np

from ..judge import WIDE_OPEN, TargetVerdict
from ..model import Edit, PumpGroup, PumpPart, flow_at, same_work
from ..physics import M3_S_PER_L_H, current_a
from ..solve import PEAK, State, own_rise_kpa, pump_doing
from .base import Context, Finding, Remedy, Value, each_asked, highest, names
from .segments import rewired, rewired_words
from .wire_drop import better_wire, lossy
from .words import leaner

MOST_TRIALS, FIRST_TRIALS, MOST_PUMPS = 4, 2, 4


def run_out(context: Context) -> Iterator[Finding]:
    """Pumps bring less than the target needs at the set pressure."""
    over = context.over("pumps")
    if not over:
        return
    worst = over[0]
    hyd = worst.points.hydraulics
    lean = float(hyd.lambda_factor[PEAK])
    stop = int(hyd.state[PEAK]) in (State.STARVED, State.NO_DIFFERENTIAL)
    need = worst.demand.chosen_kg_s / worst.fuel.density_kg_m3 / M3_S_PER_L_H
    yield Finding(
        "pumps-short",
        "stop" if stop else "warn",
        "pump",
        "Pumps run out",
        "{target_name} needs {need_l_h} at {set_kpa}; "
        + _brought(context)
        + (
            "The rail sinks to {rail_kpa} and the mixture goes {lean}."
            if stop
            else "For now the needles, wide open, pass less than that and hold {rail_kpa} before them."
            if context.option.carburettor is not None
            else "For now the injectors, open all the time, take less than that and hold the rail at {rail_kpa}."
        ),
        "The controller does not know: it gives the same pulse at less pressure. Lean at full load is how engines are "
        "lost; a log shows the rail sagging first.",
        {
            "target_name": worst.target.name,
            "need_l_h": need,
            "set_kpa": _reached_kpa(context, float(hyd.set_kpa[PEAK])),
            "supply_l_h": float(hyd.supply_at_set_m3_s[PEAK]) / M3_S_PER_L_H,
            "rail_kpa": float(hyd.rail_kpa[PEAK]),
            "lean": leaner(lean),
        },
        names(over),
        partial(
            each_asked,
            partial(_new_pumps, context),
            partial(_more_pump, context),
            lambda: _better_wire(context),
        ),
    )


def _brought(context: Context) -> str:
    """What the pumps bring, by what drives them: engine speed, or volts."""
    driven = {group.part.kind == "mechanical" for group in context.option.pumps}
    where = "" if True in driven else "at the voltage reaching them "
    one = sum(group.count for group in context.option.pumps) == 1
    return f"{where}{'the pump brings' if one else 'the pumps bring'} {{supply_l_h}} there. "


def _reached_kpa(context: Context, set_kpa: float) -> float:
    """The pressure at which supply is judged: the set pressure, or the lowest a carburettor works with."""
    fitted = context.option.carburettor
    return set_kpa if fitted is None else fitted.lowest_kpa


WORN_PCT = 10.0  # less than that is not worth a new pump


def _new_pumps(context: Context) -> Iterator[Remedy]:
    """New pumps of the same kind, where it is their wear that leaves them short."""
    worn = [group for group in context.option.pumps if group.derate_pct >= WORN_PCT]
    edits: tuple[Edit, ...] = tuple((context.path(f"pumps/{group.id}/derate_pct"), 0.0) for group in worn)
    judged = context.trial(edits) if edits else None
    if judged and highest(judged, "pumps") <= context.spare:
        names_of = {f"part_{number}": group.part.name for number, group in enumerate(worn)}
        label = "Fit new pumps of the same kind (" + ", ".join(f"{{part_{number}}}" for number in range(len(worn)))
        yield Remedy(f"{label}): {{load_pct}} of supply", edits, names_of | {"load_pct": highest(judged, "pumps") * 100})


def _more_pump(context: Context) -> Iterator[Remedy]:
    """The next larger pump before a second one; a further one only where the regulator still copes at idle."""
    group = context.option.pumps[0]
    peaks = [(v.points.hydraulics.pump_rise_kpa[PEAK], v.points.hydraulics.set_kpa[PEAK]) for v in context.verdicts]
    at_kpa = float(np.max(peaks))
    others = list(islice(context.catalogue.pumps_above(group.part, at_kpa), MOST_TRIALS))
    tried: list[tuple[Edit, ...]] = [pump_fitted(context, group, other) for other in others]
    more: tuple[Edit, ...] = ((context.path(f"pumps/{group.id}/count"), group.count + 1),)
    # Mostly the next pump or two will do: those behind them are tried where they do not.
    every = context.trials([*tried[:FIRST_TRIALS], *([more] if group.count < 6 else [])])
    one_more = every.pop() if group.count < 6 else None
    if not any(judged and highest(judged, "pumps") <= context.spare for judged in every):
        every += context.trials(tried[FIRST_TRIALS:])
    found = False
    judged_parts = [
        (other, fitted, judged) for other, fitted, judged in zip(others, tried, every, strict=False) if judged
    ]
    # The nearest that leaves the headroom wanted; where none does, the nearest that carries.
    for most in (context.spare, 1.0):
        good = [one for one in judged_parts if highest(one[2], "pumps") <= most]
        if good:
            other, fitted, judged = good[0]
            yield _fit_remedy(other, fitted, judged)
            found = True
            break
    if one_more and _carry(one_more):
        found = True
        yield _running(group.count + 1, group.part, more, one_more)
    if not found and group.part.kind != "mechanical":
        larger = list(islice(context.catalogue.pumps_above(group.part, at_kpa), 2 * MOST_TRIALS))
        yield from _several_pumps(context, group, larger)


def _fit_remedy(part: PumpPart, edits: tuple[Edit, ...], judged: list[TargetVerdict]) -> Remedy:
    """Another pump with all that comes with it said."""
    changed = {path.rpartition("/")[2]: value for path, value in edits}
    values: dict[str, Value] = {"part": part.name, "load_pct": highest(judged, "pumps") * 100}
    with_it = ""
    if "fuse_a" in changed:
        with_it = rewired_words(edits)
        values |= {"fuse_a": changed["fuse_a"], "area_mm2": changed["area_mm2"]}
    return Remedy(f"Fit {{part}}{with_it}: {{load_pct}} of supply", edits, values)


def _carry(judged: list[TargetVerdict] | None) -> bool:
    """Whether pumps carry every target."""
    return bool(judged) and highest(judged or [], "pumps") <= 1


def _running(count: int, part: PumpPart, edits: tuple[Edit, ...], judged: list[TargetVerdict]) -> Remedy:
    return Remedy(
        "Run {count} of {part}: {load_pct} of supply",
        edits,
        {"count": str(count), "part": part.name, "load_pct": highest(judged, "pumps") * 100},
    )


def _several_pumps(context: Context, group: PumpGroup, larger: list[PumpPart]) -> Iterator[Remedy]:
    """Where neither the next pumps nor one more of these will do: the fewest pumps, then the smallest, that carry it."""
    path = context.path(f"pumps/{group.id}/count")
    asked = [
        (
            count,
            part,
            ((*pump_fitted(context, group, part), (path, count)) if part is not group.part else ((path, count),)),
        )
        for count in range(2, MOST_PUMPS + 1)
        for part in (group.part, *larger)
        if count > group.count
    ]
    for (count, part, edits), judged in zip(asked, context.trials([one[2] for one in asked]), strict=True):
        if judged and highest(judged, "pumps") <= 1:
            yield _running(count, part, edits, judged)
            return


SPARE_A = 1.05  # another pump loses a little more on its way


def drawn_at_most_a(part: PumpPart, verdicts: Sequence[TargetVerdict]) -> float:
    """What a pump would draw at most at the pressures its system is brought to, without volts lost, A."""
    rises = [float(one) for v in verdicts for one in (*v.points.hydraulics.pump_rise_kpa, _set_rise_kpa(v))]
    most = part.relief_kpa * WIDE_OPEN if part.relief_kpa is not None else np.inf
    volts = max(v.target.supply_v for v in verdicts)
    return max(float(current_a(part.tables(), min(rise, most), volts)) for rise in rises)


def _set_rise_kpa(verdict: TargetVerdict) -> float:
    """Pressure rise of the pumps with the set pressure held at the peak."""
    hyd = verdict.points.hydraulics
    return float(hyd.set_kpa[PEAK] + hyd.pump_rise_kpa[PEAK] - hyd.rail_kpa[PEAK])


def pump_fitted(context: Context, group: PumpGroup, part: PumpPart) -> tuple[Edit, ...]:
    """Another pump, with the fuse and the wire its current takes; a switch that is too weak is a finding of its own."""
    path, wiring, rules = context.path(f"pumps/{group.id}"), group.wiring, context.build.rules
    # What was worn was the old one.
    fresh: tuple[Edit, ...] = ((f"{path}/derate_pct", 0.0),) if group.derate_pct and part is not group.part else ()
    edits: tuple[Edit, ...] = ((f"{path}/part", part.model_dump(mode="json")), *fresh)
    if part.kind == "mechanical":
        return edits
    return (*edits, *rewired(f"{path}/wiring", wiring, part, SPARE_A * drawn_at_most_a(part, context.verdicts), rules))


def _better_wire(context: Context) -> Iterator[Remedy]:
    """Better wiring, where it loses at least half of what the shop allows."""
    several = lossy(context, 0.5)
    return better_wire(context, several) if several else iter(())


def free_flow_rating(context: Context) -> Iterator[Finding]:
    """Pumps that by their free-flow figure would do with the headroom wanted, and at work do not: bought by the box."""
    hardest = max(context.verdicts, key=lambda v: v.load("pumps").load)
    hyd, load = hardest.points.hydraulics, hardest.load("pumps")
    if load.status == "ok" or context.build.rules.headroom_pct <= 0:
        return
    rated = real = 0.0
    for index, group in enumerate(context.option.pumps):
        if hyd.running[index, PEAK]:
            table = max(group.part.tables(), key=lambda t: t.voltage_v)
            rated += float(table.flow(0.0)) * group.count
            real += float(hyd.group_flow_m3_s[index, PEAK]) / M3_S_PER_L_H
    need = hardest.demand.chosen_kg_s / hardest.fuel.density_kg_m3 / M3_S_PER_L_H
    if rated <= 0 or need * (1.0 + context.build.rules.headroom_pct / 100.0) > rated:
        return
    yield Finding(
        "free-flow-rating",
        "note",
        "pump",
        "Far from the free-flow figure",
        "Against nothing the pumps would move {rated_l_h}, plenty for {need_l_h}; against {rise_kpa} at {pump_v} they "
        "move {real_l_h}.",
        "Pumps are bought by their free flow and live at base pressure plus boost plus losses, at the voltage that "
        "arrives.",
        {
            "rated_l_h": rated,
            "need_l_h": need,
            "rise_kpa": float(hyd.pump_rise_kpa[PEAK]),
            "pump_v": float(hyd.volts[0, PEAK]),
            "real_l_h": real,
        },
        (hardest.target.name,),
    )


LITTLE_USED = 0.35  # of what pumps bring, or injectors pass: below it a smaller one is worth a look


def more_than_needed(context: Context) -> Iterator[Finding]:
    """Even the hardest target uses little of the supply, and a smaller pump of the shelf, or one fewer, carries it."""
    load = highest(list(context.verdicts), "pumps")
    if load >= LITTLE_USED or len(context.option.pumps) != 1:
        return
    group = context.option.pumps[0]
    if group.count > 1:
        fewer = load * group.count / (group.count - 1) < 0.9
        edits: tuple[Edit, ...] = ((context.path(f"pumps/{group.id}/count"), group.count - 1),)
        remedy = Remedy("Run one pump fewer", edits) if fewer else None
    else:
        remedy = _smaller_pump(context, group, load)
    if remedy is None:
        return
    yield Finding(
        "pumps-large",
        "note",
        "pump",
        "More pump than any target needs",
        "The hardest target uses {load_pct} of what the pumps bring at the set pressure.",
        "The rest goes round as heat, and the regulator and return must dump it at idle.",
        {"load_pct": load * 100},
        (),
        (remedy,),
    )


def _smaller_pump(context: Context, group: PumpGroup, load: float) -> Remedy | None:
    """The smallest pump for the same work that leaves the headroom wanted; None where none is smaller."""
    rise = max(float(one.points.hydraulics.pump_rise_kpa[PEAK]) for one in context.verdicts)
    now = flow_at(group.part, rise)
    wanted = now * load * (1.0 + context.build.rules.headroom_pct / 100.0)
    fit = [
        one
        for one in context.catalogue.pumps
        if one.kind == group.part.kind and same_work(one, group.part) and wanted <= flow_at(one, rise) < 0.8 * now
    ]
    for part in sorted(fit, key=lambda one: flow_at(one, rise)):
        edits: tuple[Edit, ...] = ((context.path(f"pumps/{group.id}/part"), part.model_dump(mode="json")),)
        judged = context.trial(edits)
        if judged and highest(judged, "pumps") * (1.0 + context.build.rules.headroom_pct / 100.0) <= 1:
            return Remedy("Fit {part}", edits, {"part": part.name})
    return None


def not_pumping(context: Context) -> Iterator[Finding]:
    """A running group that moves nothing, or whose relief valve lets its flow go round."""
    for index, group in enumerate(context.option.pumps):
        for verdict in context.verdicts:
            hyd = verdict.points.hydraulics
            doing = pump_doing(context.option, hyd, index, PEAK)
            rise = own_rise_kpa(context.option, hyd, index, PEAK)
            relief = doing == "relief valve open"
            # Before a deadhead regulator a pump stands against its relief valve whenever the floats are up: meant so.
            meant = relief and context.option.regulator.arrangement == "carburettor, deadhead"
            if doing in ("off", "running") or meant:
                continue
            others = "" if len(context.option.pumps) == 1 else " The other pumps carry the target alone."
            yield Finding(
                "relief-open" if relief else "pump-stalled",
                "warn",
                "pump",
                "A relief valve is open" if relief else "A pump runs and moves nothing",
                "On {target_name}, {group} stands against {rise_kpa}; its relief valve opens at {relief_kpa} and lets "
                "its flow go round inside." + others
                if relief
                else "On {target_name}, {group} at {pump_v} stands against {rise_kpa}, more than it can make." + others,
                "Flow that goes round heats the fuel at full current. Pumps side by side must all make the pressure."
                if relief
                else "A stalled pump draws current, heats its fuel and wears, and nothing shows it but a flow test.",
                {
                    "target_name": verdict.target.name,
                    "group": f"group {index + 1} ({group.part.name})",
                    "rise_kpa": float(hyd.pump_rise_kpa[PEAK]) if rise is None else rise,
                    "relief_kpa": group.part.relief_kpa or 0.0,
                    "pump_v": float(hyd.volts[index, PEAK]),
                },
                (verdict.target.name,),
            )
            break


def check_valves(context: Context) -> Iterator[Finding]:
    """Pumps side by side, one of which rests or has a twin, with no check valve: the others push back through it."""
    beside = [group for group in context.option.pumps if group.place == "in parallel" and group.part.kind != "mechanical"]
    if sum(group.count for group in beside) < 2:
        return
    rests = any(group.staged and group.check_valve_kpa == 0 for group in beside)
    paired = sum(group.count for group in beside if not group.staged) > 1
    bare = [group for group in beside if group.check_valve_kpa == 0 and (group.staged or paired)]
    if bare:
        yield Finding(
            "check-valve-missing",
            "warn",
            "pump",
            "Pumps side by side without a check valve",
            "{group}: "
            + (
                "the pumps that run push fuel back through one that rests"
                if rests
                else "one that stops lets the others push fuel back through it"
            )
            + ", and the rail gets what is left.",
            "Where a pump holds back by itself, enter the pressure that its valve takes; leave the field empty if it is "
            "not known.",
            {"group": told_groups(bare)},
            (),
            (
                Remedy(
                    "Fit a check valve after each pump that has none: it takes about {valve_kpa}",
                    tuple((context.path(f"pumps/{group.id}/check_valve_kpa"), VALVE_KPA) for group in bare),
                    {"valve_kpa": VALVE_KPA},
                ),
            ),
        )
    untold = [group for group in beside if group.check_valve_kpa is None and group.staged]
    if untold and context.notes:
        yield Finding(
            "check-valve-untold",
            "note",
            "pump",
            "Check valves of the pumps not entered",
            "{group}: nothing says whether it holds back by itself while it rests.",
            "Look it up: many pumps have a valve inside. Enter the pressure it takes, or 0 where there is none.",
            {"group": told_groups(untold)},
        )


VALVE_KPA = 3.0  # what a check valve of the pumps' size takes


def told_groups(groups: Sequence[PumpGroup]) -> str:
    """The parts of some groups, each once."""
    return " and ".join(dict.fromkeys(group.part.name for group in groups))


TABLES_AGREE = 1.02  # what two measurements of one pump may differ by


def tables_contradict(context: Context) -> Iterator[Finding]:
    """A table at less voltage that moves more than the one at more: no pump does, and no answer can be trusted then."""
    for index, group in enumerate(context.option.pumps):
        ordered = sorted(group.part.curves if group.part.kind != "mechanical" else (), key=lambda one: one.voltage_v)
        for low, high in pairwise(ordered):
            within = [kpa for kpa in low.pressure_kpa if kpa <= high.pressure_kpa[-1]]
            flows = [np.interp(within, one.pressure_kpa, one.flow_l_h) for one in (low, high)]
            over = np.flatnonzero(flows[0] > flows[1] * TABLES_AGREE + 1.0)
            if not over.size:
                continue
            at = int(over[0])
            yield Finding(
                "tables-contradict",
                "warn",
                "pump",
                "The pump's tables contradict each other",
                "Group {group}: at {table_kpa} the table at {low_v} moves {low_l_h} and the one at {high_v} only "
                "{high_l_h}.",
                "Between two tables the flow goes by voltage. Where less voltage moves more, the pump would bring more "
                "the harder it is pressed, and what is worked out from it means nothing.",
                {
                    "group": str(index + 1),
                    "table_kpa": within[at],
                    "low_v": low.voltage_v,
                    "high_v": high.voltage_v,
                    "low_l_h": float(flows[0][at]),
                    "high_l_h": float(flows[1][at]),
                },
                (),
                (Remedy("Look the tables up again, or measure the pump at both voltages"),),
            )
            break


RULES = (tables_contradict, run_out, not_pumping, check_valves, free_flow_rating, more_than_needed)
