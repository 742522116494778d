"""Rules about direct injection: the window, idle, what the rail and its sensor bear, and a port side nobody watches."""

from collections.abc import Iterator

from ..judge import TargetVerdict
from ..model import Edit
from ..physics import high_pressure as hp
from ..solve import IDLE, PEAK, stopped_sides
from .base import Context, Finding, Remedy, highest, names
from .high_base import MOST_TRIALS, Tries, carries, direct_of, grave, high_of, roomiest
from .high_data import ROOM, below_relief_kpa
from .words import leaner

SILENT_LEAN = 1.05


def window_closed(context: Context) -> Iterator[Finding]:
    """The fuel does not fit the injection window at the rail target."""
    over = context.over("direct injectors")
    if not over:
        return
    worst = over[0]
    direct = direct_of(worst)
    yield Finding(
        "window-closed",
        "stop" if grave(over) else "warn",
        "high",
        "Direct injectors do not fit their window",
        "{target_name} asks {asked_kg_h} at {rpm}; {window_deg} at that speed are {window_ms}, in which the injectors "
        "pass "
        "{passes_kg_h} at the rail target.",
        "What is injected later meets the spark or the piston: it burns late, washes the wall, or is not injected at "
        "all.",
        {
            "target_name": worst.target.name,
            "asked_kg_h": float(direct.direct_kg_s[PEAK]) * 3600,
            "rpm": worst.target.rpm,
            "window_deg": high_of(context).window_deg,
            "window_ms": float(direct.window_ms[PEAK]),
            "passes_kg_h": float(direct.window_kg_s[PEAK]) * 3600,
        },
        names(over),
        lambda: _more_window(context),
    )


def _more_window(context: Context) -> Iterator[Remedy]:
    high = high_of(context)
    path = context.path("high_side/injectors/part")
    larger = context.catalogue.direct_injectors_above(high.injectors.part)[:MOST_TRIALS]
    words = "Fit {part}: {load_pct} of the window, and it idles"
    tries: Tries = [(words, {"part": part.name}, ((path, part.model_dump(mode="json")),)) for part in larger]
    for label, values, edits, _ in roomiest(context, tries, "direct injectors", also="direct injector idle"):
        yield Remedy(label, edits, values)
    top = max(high.target.kpa)
    for kpa in (top * 1.15, top * 1.3, high.borne_kpa * 0.95):
        if not top < kpa <= high.borne_kpa * 0.95 + 1:
            continue
        raised = [round(one * kpa / top, -2) for one in high.target.kpa]
        edits = ((context.path("high_side/target/kpa"), raised),)
        verdicts = context.trial(edits)
        if carries(verdicts):
            yield Remedy("Raise the rail target to {kpa_kpa}: pump and window carry it", edits, {"kpa_kpa": max(raised)})
            break
    yield Remedy("Or let port injectors carry the rest; a wider window is the calibrator's decision on a dynamometer")


def idle_pulse(context: Context) -> Iterator[Finding]:
    """Direct injectors too large to idle at the idle rail pressure."""
    over = context.over("direct injector idle")
    if not over:
        return
    worst, high = over[0], high_of(context)
    direct = direct_of(worst)
    yield Finding(
        "direct-idle",
        "warn",
        "high",
        "Direct injectors too large to idle",
        "Idle on {target_name} needs {effective_ms} at {rail_kpa} rail; below {least_ms} they do not repeat.",
        "Idle wanders, and so does the mixture at light load.",
        {
            "target_name": worst.target.name,
            "effective_ms": min(float(rail.effective_ms[IDLE]) for rail in direct.rails),
            "rail_kpa": float(direct.worst.rail_kpa[IDLE]),
            "least_ms": high.injectors.part.min_pulse_ms,
        },
        names(over),
        lambda: _calmer_idle(context),
    )


def _calmer_idle(context: Context) -> Iterator[Remedy]:
    high = high_of(context)
    path = context.path("high_side/idle_target_kpa")
    for kpa in (4_000.0, 3_000.0):
        lower = ((path, kpa),)
        verdicts = context.trial(lower) if kpa < high.idle_target_kpa else None
        if verdicts and highest(verdicts, "direct injector idle") <= 1:
            yield Remedy("Lower the idle rail target to {kpa_kpa}", lower, {"kpa_kpa": kpa})
            break
    smaller = context.catalogue.direct_injectors_below(high.injectors.part)[:MOST_TRIALS]
    tried = [((context.path("high_side/injectors/part"), part.model_dump(mode="json")),) for part in smaller]
    for part, edits, verdicts in zip(smaller, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "direct injector idle") <= 1 and highest(verdicts, "direct injectors") <= 1:
            yield Remedy("Fit {part}: it idles and carries every target", edits, {"part": part.name})
            break


def beyond_what_is_borne(context: Context) -> Iterator[Finding]:
    """A rail target above what pump, injector or relief valve bears, anywhere in its table."""
    high = context.option.high_side
    if high is None:
        return
    top, borne = max(*high.target.kpa, high.idle_target_kpa), high.borne_kpa
    if top <= borne:
        return
    # A valve that limits is kept clear of by what the rail swings.
    clear = below_relief_kpa(context) if borne == high.relief_kpa else borne
    lowered = tuple(min(one, clear) for one in high.target.kpa)
    edits: list[Edit] = [(context.path("high_side/target/kpa"), list(lowered))]
    if high.idle_target_kpa > borne:
        edits.append((context.path("high_side/idle_target_kpa"), clear))
    yield Finding(
        "rail-over",
        "stop",
        "high",
        "Rail target above what its parts bear",
        "The target reaches {top_kpa}; pump, injectors and relief valve bear {borne_kpa} at most.",
        "A relief valve that opens dumps the rail; where none opens, pipes, seals and injectors are past their rating.",
        {"top_kpa": top, "borne_kpa": borne},
        (),
        (Remedy("Lower the target to {clear_kpa}", tuple(edits), {"clear_kpa": clear}),),
    )


def sensor_short(context: Context) -> Iterator[Finding]:
    """A rail sensor that does not reach the relief valve, or the target with something in hand."""
    high = context.option.high_side
    if high is None or high.sensor_kpa is None:
        return
    top = max(high.target.kpa)
    needed = max(ROOM * top, high.relief_kpa or 0.0)
    if high.sensor_kpa >= needed:
        return
    below = high.sensor_kpa < top
    yield Finding(
        "rail-sensor",
        "stop" if below else "warn",
        "high",
        "Rail sensor does not reach the rail",
        "It reads up to {sensor_kpa}; the target is {top_kpa}, and the rail may stand at {needed_kpa}.",
        "Past its range the controller believes the rail stands lower than it does and pumps on.",
        {"sensor_kpa": high.sensor_kpa, "top_kpa": top, "needed_kpa": needed},
        (),
        (
            Remedy(
                "Fit a sensor that reads {needed_kpa} and tell the controller",
                ((context.path("high_side/sensor_kpa"), round(needed * 1.1, -2)),),
                {"needed_kpa": needed},
            ),
        ),
    )


def port_silent(context: Context) -> Iterator[Finding]:
    """A port side whose failure nobody would notice."""
    told = context.option.delivery
    if told is None or told.watched != "nothing" or context.option.high_side is None:
        return
    worst: tuple[float, TargetVerdict] | None = None
    for verdict in context.verdicts:
        stopped = stopped_sides(context.build, context.option, verdict.target, verdict.points)
        if stopped is None or float(verdict.points.metered_kg_s[PEAK]) <= 0:
            continue
        left = float(stopped.without_port_kg_s[PEAK])
        factor = float(verdict.points.demand_kg_s[PEAK]) / left if left > 0 else float("inf")
        if worst is None or factor > worst[0]:
            worst = factor, verdict
    if worst is None or worst[0] < SILENT_LEAN:
        return
    factor, verdict = worst
    mixture = verdict.target.lambda_ * factor
    yield Finding(
        "port-silent",
        "warn",
        "high",
        "Nobody notices when the port side stops",
        "If the port side stops on {target_name}, the engine runs {lean}, at {left_lambda}, "
        "with {heat_pct} of its heat: full boost on a lean mixture.",
        "The controller of the direct side sees its own rail in order. Only the mixture, or a watched port rail, tells.",
        {
            "target_name": verdict.target.name,
            "lean": leaner(factor),
            "left_lambda": mixture,
            "heat_pct": 100 * float(hp.heat_left(mixture, verdict.target.lambda_)),
        },
        (verdict.target.name,),
        (
            Remedy(
                "Watch the mixture of each bank and cut boost when it goes lean",
                ((context.path("delivery/watched"), "mixture of each bank, cut when lean"),),
            ),
        ),
    )


RULES = (window_closed, idle_pulse, beyond_what_is_borne, sensor_short, port_silent)
