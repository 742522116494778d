"""Rules about pumps whose silence nobody would notice: a stage, one of several, all stages, and what they share."""

from collections.abc import Iterator

import numpy as np

from ..model import WATCHED, shared_by
from ..solve import PEAK
from ..study import Missing
from .base import Context, Finding, Remedy
from .staging import stages_told
from .words import groups_listed, leaner


def silent_stage(context: Context) -> Iterator[Finding]:
    """Without a stage the mixture goes lean, and nothing is said to check that it came on."""
    watched = context.option.calibration.rail_watch == WATCHED
    if watched and not context.notes:
        return
    worst = None
    for verdict, each in zip(context.verdicts, stages_told(context).missing, strict=True):
        # What is lean with every stage running is not the missing stage's doing.
        with_it = float(verdict.points.hydraulics.lambda_factor[PEAK])
        for missing in each:
            lean = missing.lambda_factor / with_it if np.isfinite(with_it) else 1.0
            if lean > 1.02 and (worst is None or lean > worst[2]):
                worst = (verdict, missing, lean)
    if worst is None:
        return
    verdict, missing, lean = worst
    path = context.path("calibration/rail_watch")
    yield Finding(
        "stage-silent",
        "note" if watched or lean <= MILD else "warn",
        "pump",
        "If the stage does not come" if watched or lean <= MILD else "Nobody notices when the stage does not come",
        (TOGETHER if missing.shared else "{group} silent on {target_name}: ")
        + "the rail falls to {rail_kpa}, the mixture goes {lean}. Without "
        + ("them" if missing.shared else "it")
        + " the fuel is good for {safe_power_kw}."
        + (LIFT_TOO if missing.shared and missing.shared.lift else ""),
        "A second pump fails silently. "
        + (
            "The cut on rail pressure saves the engine then: test it, and each stage's output, on the car."
            if watched
            else "Let the controller watch rail pressure against what is set and cut boost."
        ),
        {
            "group": _silent(context, missing),
            "shared": missing.shared.words if missing.shared else "",
            "target_name": verdict.target.name,
            "rail_kpa": missing.rail_kpa,
            "lean": leaner(lean),
            "safe_power_kw": missing.safe_power_kw,
        },
        (verdict.target.name,),
        ()
        if watched
        else (
            Remedy("Let the controller cut boost on low rail pressure, and test each stage's output", ((path, WATCHED),)),
        ),
    )


MILD = 1.05  # leaner than that a stage that does not come is a check
TOGETHER = "{group} hang on {shared} and fall silent with it. On {target_name} "
LIFT_TOO = " The lift stage stops with them: the surge tank empties too."


def _silent(context: Context, missing: Missing) -> str:
    """What is silent, as it begins a sentence."""
    if missing.shared is None:
        return context.option.pumps[missing.groups[0]].part.name
    return groups_listed([at + 1 for at in missing.groups]).capitalize()


def silent_pump(context: Context) -> Iterator[Finding]:
    """One of several pumps that always run stops, and nothing tells."""
    always = [group for group in context.option.pumps if not group.staged and group.place == "in parallel"]
    count = sum(group.count for group in always)
    if count < 2:
        return
    worst = max(context.verdicts, key=lambda verdict: verdict.load("pumps").load)
    load, hyd = worst.load("pumps").load, worst.points.hydraulics
    each = [float(flow) for flow in hyd.group_flow_m3_s[:, PEAK]]
    total = float(hyd.supply_m3_s[PEAK])
    # What stops alone: a pump, or all of the groups that share something. Where all stop the engine says so itself.
    lost: dict[str, float] = {
        "the largest": max(each[context.option.pumps.index(group)] / group.count for group in always)
    }
    for one in shared_by(context.option):
        together = sum(each[at] for at in one.groups)
        if not any(context.option.pumps[at].staged for at in one.groups) and together < total * (1.0 - 1e-9):
            lost[f"those on {one.words}"] = together
    worst_one = max(lost, key=lambda name: lost[name])
    left = 1.0 - lost[worst_one] / total if total > 0 else 1.0
    if load > 1 or load <= left:
        return
    yield Finding(
        "pump-silent",
        "note",
        "pump",
        "If one of the pumps stops",
        "{count} pumps always run and nothing tells them apart. Without {lost} the others bring about {share_pct} "
        "of what {target_name} needs (estimate).",
        "At idle and cruise one pump is enough, so that nobody notices. Let the controller watch rail pressure against "
        "what is set, and test each pump by its own current.",
        {"count": str(count), "lost": worst_one, "share_pct": left / load * 100.0, "target_name": worst.target.name},
        (worst.target.name,),
        (Remedy("Set a rail-pressure cut in the controller, and measure the current of each pump on the car"),),
    )


def all_stages_out(context: Context) -> Iterator[Finding]:
    """What is left when no stage comes: one relay feed or one output can take several with it."""
    staged = [group for group in context.option.pumps if group.staged]
    out = [
        (verdict, one) for verdict, one in zip(context.verdicts, stages_told(context).out, strict=True) if one is not None
    ]
    lean = [(verdict, one) for verdict, one in out if one.lambda_factor > 1.02]
    if len(staged) < 2 or not lean:
        return
    verdict, one = max(lean, key=lambda each: each[1].lambda_factor)
    yield Finding(
        "stages-out",
        "note",
        "pump",
        "If no stage comes at all",
        "With all {count} stages silent on {target_name} the rail falls to {rail_kpa}, {lean}; the "
        "fuel is then good for {safe_power_kw}.",
        "Stages that share an output, a fuse or a ground go together.",
        {
            "count": str(len(staged)),
            "target_name": verdict.target.name,
            "rail_kpa": one.rail_kpa,
            "lean": leaner(one.lambda_factor),
            "safe_power_kw": one.safe_power_kw,
        },
        (verdict.target.name,),
        (Remedy("Give each stage an output and a fuse of its own, and cut boost on rail pressure"),),
    )


RULES = (silent_stage, all_stages_out, silent_pump)
