"""Rules about staging and arrangement: late stages, steps, stages nobody would miss, returns and references."""

from collections.abc import Hashable, Iterator, Sequence
from functools import partial
from itertools import combinations, pairwise
from math import ceil

from ..judge import TargetVerdict
from ..model import WITH_FILTER, Build, Edit, Option, Target, remembered, shared_by
from ..physics import key_of
from ..solve import meters_of, packed
from ..study import Loop, Stages, following, loops, propose, stages_of_each
from .base import Context, Finding, Remedy, names
from .reference_ports import referenced

BIG_STEP_KPA = 15.0
NEAR = 2.0  # loops whose crossovers lie closer than this factor answer each other
LIFT_OFF_KPA = 50.0
STEADY_S = 0.5
# What a signal swings by on a running engine, class figures in the unit of the condition.
RIPPLE = {
    "on_above_kpa": ("boost", 2.0),
    "on_above_rpm": ("engine speed", 75.0),
    "on_above_l_h": ("fuel flow", 6.0),
    "on_above_duty_pct": ("injector duty", 2.0),
}


def stages_told(context: Context) -> Stages:
    """What is known of the stages of the context's option on its targets, worked out once."""
    return context.once("stages", lambda: stages_of_each([_asked(context)], whole=context.notes)[0])


def _asked(context: Context) -> tuple[Build, Option, tuple[Target, ...]]:
    return context.build, context.option, tuple(verdict.target for verdict in context.verdicts)


def ask_together(now: Context, trials: Sequence[Context]) -> None:
    """Work out the stages of several trials at once, for the rules to find when they ask.

    A trial that changes nothing a stage could feel (a fuse, what a controller was told) has the stages it has `now`.
    """
    felt = _felt(now)
    fresh: list[Context] = []
    for trial in trials:
        if _felt(trial) == felt:
            trial.tell("stages", stages_told(now))
        else:
            fresh.append(trial)
    for trial, stages in zip(fresh, stages_of_each([_asked(one) for one in fresh], whole=False), strict=True):
        trial.tell("stages", stages)


def _felt(context: Context) -> tuple[Hashable, ...]:
    """What stages depend on, by value: the systems as packed, what meters their fuel, and all that asks for it."""
    build, option = context.build, context.option
    meters = tuple(meters_of(build, option, one.target) for one in context.verdicts)
    asking = (build.car, build.engine, build.rules, build.fuels, build.measured, build.pulls, build.targets)
    sharing = (shared_by(option), option.calibration.rail_watch)
    return (remembered(packed(option), "key", key_of), key_of(meters), *sharing, *asking)


def late_stage(context: Context) -> Iterator[Finding]:
    """Stages that join after the pumps before them have run out, or with a large step in pressure; said once a kind."""
    joining = [
        (verdict, switch)
        for verdict, switches in zip(context.verdicts, stages_told(context).switches, strict=True)
        for switch in switches
    ]
    late = [one for one in joining if one[1].share_before > 1.0]
    stepping = [one for one in joining if one[1].share_before <= 1.0 and abs(one[1].step_kpa) >= BIG_STEP_KPA]
    for code, title, several in (
        ("stage-late", "The stage joins too late", late),
        ("stage-step", "A step in pressure as the stage joins", stepping),
    ):
        if not several:
            continue
        verdict, switch = max(several, key=lambda one: abs(one[1].step_kpa))
        yield Finding(
            code,
            "warn",
            "pump",
            title,
            "On {target_name}, {group} joins at {boost_kpa} and {rpm}: the pumps before it then carry {share_pct} of "
            "what they can, and the rail steps by {step_kpa} (from {before_kpa}).",
            "A rail that sags and jumps is a mixture that does the same. A stage that joins early makes no step.",
            {
                "target_name": verdict.target.name,
                "group": switch.group.part.name,
                "boost_kpa": switch.joins.manifold_kpa,
                "rpm": switch.joins.rpm,
                "share_pct": switch.share_before * 100.0,
                "step_kpa": switch.step_kpa,
                "before_kpa": switch.before_rail_kpa,
            },
            names([one for one in context.verdicts if any(one is each for each, _ in several)]),
            partial(_earlier, context, names([one for one, _ in several])),
        )


def _earlier(context: Context, concerned: tuple[str, ...]) -> Iterator[Remedy]:
    """All stages of the sequence, each where those before it still have headroom: on every target, or those concerned."""
    concerning = [verdict for verdict in context.verdicts if verdict.target.name in concerned]
    offered: list[tuple[Edit, ...]] = []
    for verdicts in (concerning, list(context.verdicts)):
        remedy = _sequence(context, verdicts)
        if remedy is not None and remedy.edits not in offered:
            offered.append(remedy.edits)
            yield remedy


def _sequence(context: Context, verdicts: list[TargetVerdict]) -> Remedy | None:
    """Every stage at the lowest boost proposed for it on some targets; None without one switched by boost."""
    lowest: dict[str, float] = {}
    copes = True
    for verdict in verdicts:
        for proposal in propose(context.build, context.option, verdict.target):
            at = min(proposal.on_above_kpa, lowest.get(proposal.group.id, proposal.on_above_kpa))
            lowest[proposal.group.id] = at
            copes = copes and proposal.copes
    moved = [group for group in context.option.pumps if group.on_above_kpa is not None and group.id in lowest]
    if not moved:
        return None
    return Remedy(
        "Let "
        + " and ".join(f"{{group_{n}}} join above {{join_{n}_kpa}}" for n in range(len(moved)))
        + ("" if copes else ", though the regulator cannot dump the surplus there"),
        tuple((context.path(f"pumps/{group.id}/on_above_kpa"), lowest[group.id]) for group in moved),
        {f"group_{n}": f"group {context.option.pumps.index(group) + 1}" for n, group in enumerate(moved)}
        | {f"join_{n}_kpa": lowest[group.id] for n, group in enumerate(moved)},
    )


def out_of_order(context: Context) -> Iterator[Finding]:
    """Stages by boost that join in another order than they stand in."""
    staged = [group for group in context.option.pumps if group.on_above_kpa is not None]
    at = [group.on_above_kpa or 0.0 for group in staged]
    if at == sorted(at):
        return
    edits = [(context.path(f"pumps/{group.id}/on_above_kpa"), kpa) for group, kpa in zip(staged, sorted(at), strict=True)]
    yield Finding(
        "stages-order",
        "note",
        "pump",
        "The stages join out of order",
        "{first} joins at {first_kpa}, before {second} at {second_kpa}.",
        "Whoever reads a log or a wiring plan counts stages as they stand. Out of order the tests of each output are "
        "done on the wrong pump.",
        next(
            {"first": f"group {j + 1}", "first_kpa": at_j, "second": f"group {i + 1}", "second_kpa": at_i}
            for (i, at_i), (j, at_j) in _pairs(context)
            if at_j < at_i
        ),
        (),
        (Remedy("Let them join in their order", tuple(edits)),),
    )


def _pairs(context: Context) -> Iterator[tuple[tuple[int, float], tuple[int, float]]]:
    """Stages by boost next to each other: position among the groups and boost."""
    found = [(i, group.on_above_kpa) for i, group in enumerate(context.option.pumps) if group.on_above_kpa is not None]
    yield from pairwise(found)


def wrong_arrangement(context: Context) -> Iterator[Finding]:
    """A regulator near the tank, or a fixed returnless set-up, on a boosted engine."""
    regulator = context.option.regulator
    boosted = [v for v in context.verdicts if v.target.boost_kpa > 10]
    if regulator.arrangement != "bypass near the tank" or not boosted:
        return
    worst = max(boosted, key=lambda v: float(v.points.hydraulics.feed_kpa[0]))
    breaks = any(v.load("injectors").load > 1 for v in boosted)
    follows = regulator.reference != "atmosphere"
    yield Finding(
        "regulator-near-tank",
        "warn" if breaks else "note",
        "regulator",
        "Regulator near the tank on a boosted engine",
        "The feed loses {feed_kpa} after the regulator, uncorrected, so the rail stands at {rail_kpa} instead "
        "of {set_kpa}" + (", and its reference line is as long as the car." if follows else "."),
        "A combined filter and regulator near the tank suits a simple naturally aspirated engine. Boost wants the "
        "regulator after the rail, where it corrects what the feed loses and follows the manifold at once.",
        {
            "feed_kpa": float(worst.points.hydraulics.feed_kpa[0]),
            "rail_kpa": float(worst.points.hydraulics.rail_kpa[0]),
            "set_kpa": float(worst.points.hydraulics.set_kpa[0]),
        },
        names(boosted),
        # A filter and fixed regulator in one has no port and no place at the rail: a regulator that has comes there.
        partial(referenced, context)
        if regulator.part.works == WITH_FILTER
        else (
            Remedy(
                "Move the regulator after the rail",
                ((context.path("regulator/arrangement"), "bypass after the rail"),),
            ),
        ),
    )


def chattering_stage(context: Context) -> Iterator[Finding]:
    """A stage whose hysteresis is narrower than the ripple of the signal that switches it."""
    for group in context.option.pumps:
        for name, (label, ripple) in RIPPLE.items():
            limit = getattr(group, name)
            if limit is None or group.min_on_s >= STEADY_S:
                continue
            band = abs(limit) * group.hysteresis_pct / 100.0
            if band >= ripple:
                continue
            wanted = min(float(ceil(ripple / max(abs(limit), 1e-9) * 100.0)), 90.0)
            unit = name.split("_", 2)[2]
            yield Finding(
                "stage-chatters",
                "warn",
                "pump",
                "The stage will chatter",
                f"{{group}} joins at {{limit_{unit}}} of {label} and leaves {{band_{unit}}} below it; the signal itself "
                f"ripples by about {{ripple_{unit}}} (class figure), and the stage stays on for only {{min_on_s}}.",
                "A relay that chatters burns its contacts, and the rail follows it up and down.",
                {
                    "group": group.part.name,
                    f"limit_{unit}": limit,
                    f"band_{unit}": band,
                    f"ripple_{unit}": ripple,
                    "min_on_s": group.min_on_s,
                },
                (),
                (
                    Remedy(
                        "Widen the hysteresis to {hysteresis_pct} and hold it on for {hold_s}",
                        (
                            (context.path(f"pumps/{group.id}/hysteresis_pct"), max(wanted, group.hysteresis_pct)),
                            (context.path(f"pumps/{group.id}/min_on_s"), 2.0),
                        ),
                        {"hysteresis_pct": max(wanted, group.hysteresis_pct), "hold_s": 2.0},
                    ),
                ),
            )


def lift_off(context: Context) -> Iterator[Finding]:
    """Throttle shut while a stage is held on: the regulator must dump everything at once."""
    worst = None
    for verdict, switches in zip(context.verdicts, stages_told(context).switches, strict=True):
        for switch in switches:
            over = switch.lift_off_rail_kpa - switch.lift_off_set_kpa
            if switch.group.min_on_s > 0 and over > LIFT_OFF_KPA and (worst is None or over > worst[1]):
                worst = (verdict, over, switch)
    if worst is None:
        return
    verdict, over, switch = worst
    yield Finding(
        "stage-lift-off",
        "note",
        "regulator",
        "Pressure rises when the throttle shuts",
        "{group} stays on for {min_on_s} after {target_name}: with no fuel wanted the rail stands at {rail_kpa} instead "
        "of {set_kpa} for as long.",
        "The first injection after a lift-off is then rich, and small regulators hammer. Shorter holding, a larger "
        "regulator or return, or a stage that leaves with the throttle.",
        {
            "group": switch.group.part.name,
            "min_on_s": switch.group.min_on_s,
            "target_name": verdict.target.name,
            "rail_kpa": switch.lift_off_rail_kpa,
            "set_kpa": switch.lift_off_set_kpa,
        },
        (verdict.target.name,),
        (Remedy("Let the controller drop the stage as soon as the throttle shuts"),),
    )


def two_controllers(context: Context) -> Iterator[Finding]:
    """Several groups, each with a speed controller closed on the same rail pressure, unless their loops lie apart."""
    groups = following(context.option)
    if len(groups) < 2:
        return
    known = [pair for verdict in context.verdicts for pair in combinations(loops(verdict), 2)]
    told = all(group.gain_pct_per_kpa is not None and group.reset_s is not None for group in groups)
    near = [pair for pair in known if max(_hz(pair)) < NEAR * min(_hz(pair))]
    if told and not near:
        return
    values: dict[str, float | str] = {"count": str(len(groups))}
    text = "{count} groups follow the same rail pressure. With gain and reset of each its loop is worked out here."
    slower: tuple[Remedy, ...] = ()
    if near:
        pair = near[0]
        values |= {"first": pair[0].group.part.name, "second": pair[1].group.part.name}
        values |= {"first_hz": pair[0].crossover_hz, "second_hz": pair[1].crossover_hz}
        text = (
            "{first} and {second} follow the same rail pressure; their loops cross over near {first_hz} and {second_hz}, "
            "an estimate: within a factor of two each answers the other."
        )
        slower = (Remedy("Or lower the gain of one until its loop is three times slower"),)
    one_follows = Remedy(
        "Let only {group} follow the rail",
        tuple((context.path(f"pumps/{group.id}/drive"), "always full speed") for group in groups[1:]),
        {"group": groups[0].part.name},
    )
    yield Finding(
        "controllers-fight",
        "note",
        "pump",
        "Two speed controllers on one rail",
        text,
        "Two controllers closed on one pressure can fight and oscillate. Let one group follow it and run the others at "
        "full speed from a condition, part the supplies, or take a mechanical regulator.",
        values,
        (),
        (one_follows, *slower),
    )


def _hz(pair: tuple[Loop, Loop]) -> list[float]:
    return [one.crossover_hz for one in pair]


RULES = (
    late_stage,
    out_of_order,
    chattering_stage,
    lift_off,
    two_controllers,
    wrong_arrangement,
)
