"""Rules about high-pressure pumps: starved, worn, short; their followers, screens and dampers."""

from collections.abc import Iterator
from itertools import islice
from math import isfinite

from ..judge import TargetVerdict
from ..model import Edit
from ..physics import high_pressure as hp
from ..solve import PEAK
from .base import Context, Finding, Remedy, Value, highest, names
from .high_base import MOST_TRIALS, Tries, direct_of, grave, high_of, lean_of, pumps_of, roomiest, worst_pump
from .words import leaner

EASED = 0.02  # of the load: what a change must bring to be worth its work
FASTER = (1.1, 1.25)
AT_TARGET = 0.999  # of the target: no rail that sinks
STIFFEST = 2.5  # times the spring fitted: what a maker may offer
HIGHER_BASE_KPA = (450.0, 500.0, 550.0, 600.0)


def starved(context: Context) -> Iterator[Finding]:
    """A high-pressure pump whose inlet cannot fill it."""
    over = context.over("high-pressure inlet")
    if not over:
        return
    worst = over[0]
    number, pump = worst_pump(worst)
    yield Finding(
        "hp-starved",
        "stop" if grave(over) else "warn",
        "high",
        "High-pressure pump starved" if len(high_of(context).pumps) == 1 else f"High-pressure pump {number} starved",
        "On {target_name} pump {number_text} finds {head_kpa} above vapour at {inlet_kpa}; a full stroke needs "
        "{need_kpa} "
        "there. {fill_pct} of the stroke fills at the flow that passes.",
        "A plunger that outruns its inlet draws vapour: what it delivers falls with speed, and its valve and follower "
        "are "
        "hammered. It must be fed before it is made larger.",
        {
            "target_name": worst.target.name,
            "number_text": str(number),
            "head_kpa": float(pump.head_kpa[PEAK]),
            "inlet_kpa": float(pump.inlet_kpa[PEAK]),
            "need_kpa": float(pump.head_needed_kpa[PEAK]),
            "fill_pct": float(pump.fill[PEAK]) * 100,
        },
        names(over),
        lambda: _feed_it(context),
    )


def _feed_it(context: Context) -> Iterator[Remedy]:
    high = high_of(context)
    before = highest(list(context.verdicts), "high-pressure inlet")
    split: tuple[Edit, ...] = ()
    tries: Tries = []
    if high.feed == "series" and len(high.pumps) > 1:
        split = _equal_split(context)
        verdicts = context.trial(split)
        if verdicts and highest(verdicts, "high-pressure inlet") < before - EASED:
            yield Remedy("Feed each pump by a line of its own, split equally", split)
            if highest(verdicts, "high-pressure inlet") <= 1:
                return
    part, now = context.option.regulator.part, context.option.regulator.base_kpa
    bases = [base for base in HIGHER_BASE_KPA if now + 10 < base <= part.max_base_kpa]
    words = (
        "Split the feed equally, and raise base pressure to {base_kpa}" if split else "Raise base pressure to {base_kpa}"
    )
    tries += [(words, {"base_kpa": base}, (*split, *_raised(context, base))) for base in bases]
    for number, line in enumerate(high.branches):
        larger = context.catalogue.line_next(line.part, larger=True)
        if larger is not None:
            told: dict[str, Value] = {"part": larger.name, "number_text": str(number + 1)}
            run: tuple[Edit, ...] = ((context.path(f"high_side/branches/{number}/part"), larger.model_dump(mode="json")),)
            tries.append(("Run {part} to pump {number_text}", told, run))
    for label, values, edits, _ in roomiest(context, tries, "high-pressure inlet"):
        yield Remedy(label + ": {load_pct} of what its inlet gives", edits, values)
    yield Remedy("Bring the fuel colder and shorter to the pump, away from the exhaust, and look at the low side first")


def _raised(context: Context, base_kpa: float) -> tuple[Edit, ...]:
    return context.at_base(base_kpa)


def _equal_split(context: Context) -> tuple[Edit, ...]:
    high = high_of(context)
    edits: list[Edit] = [(context.path("high_side/feed"), "split")]
    if high.branches:
        widest = max(high.branches, key=lambda line: line.part.bore_mm)
        same = [widest.model_dump(mode="json")] * len(high.branches)
        edits.append((context.path("high_side/branches"), same))
    return tuple(edits)


def worn(context: Context) -> Iterator[Finding]:
    """A worn plunger that lets the pump fall short where a sound one would carry."""
    over = context.over("high-pressure pump")
    verdicts = context.once("sound high-pressure pumps", lambda: _sound(context))
    if not over or verdicts is None:
        return
    worst, sound = over[0], pumps_of(context, "worn_um", 0.0)
    yield Finding(
        "hp-worn",
        "stop" if grave(over) else "warn",
        "high",
        "Worn high-pressure pump falls short",
        "On {target_name} it brings {capacity_kg_h} at the rail target where {asked_kg_h} is asked; sound it would do at "
        "{load_pct} of what it brings.",
        "The leak past a worn plunger goes with the cube of its clearance and is worst at low speed, with thin hot fuel.",
        {
            "target_name": worst.target.name,
            "capacity_kg_h": sum(float(one.capacity_kg_s[PEAK]) for one in direct_of(worst).pumps) * 3600,
            "asked_kg_h": float(direct_of(worst).direct_kg_s[PEAK]) * 3600,
            "load_pct": highest(verdicts, "high-pressure pump") * 100,
        },
        names(over),
        (Remedy("Fit a new or rebuilt pump of the same kind; break it in, and change the oil after", sound),),
    )


def _sound(context: Context) -> list[TargetVerdict] | None:
    """The targets with sound pumps, where wear alone makes them fall short."""
    high = context.option.high_side
    if high is None or not context.over("high-pressure pump") or not any(pump.worn_um > 0 for pump in high.pumps):
        return None
    verdicts = context.trial(pumps_of(context, "worn_um", 0.0))
    return None if verdicts is None or highest(verdicts, "high-pressure pump") > 1 else verdicts


def pump_short(context: Context) -> Iterator[Finding]:
    """High-pressure pumps that do not bring the fuel at the rail target, and not for wear alone."""
    over = context.over("high-pressure pump")
    if not over or context.once("sound high-pressure pumps", lambda: _sound(context)) is not None:
        return
    worst = over[0]
    direct = direct_of(worst)
    lean = lean_of(worst)
    sinks = "the rail sinks to {rail_kpa}"
    if float(direct.worst.rail_kpa[PEAK]) >= float(direct.target_kpa[PEAK]) * AT_TARGET:
        sinks = "the rail still stands at its target"
    after = f"{sinks} and the mixture goes {{lean}}"
    if lean <= 1.0005:
        after = f"{sinks}; the mixture still holds"
    elif not isfinite(lean):
        after = "a rail gets no fuel at all"
    yield Finding(
        "hp-short",
        "stop" if grave(over) else "warn",
        "high",
        "High-pressure pump runs out",
        "On {target_name} the direct side asks {asked_kg_h} at {rpm}; the pump brings {capacity_kg_h} at the rail "
        "target: " + after + ".",
        "A sinking rail coarsens the spray and lengthens the pulse until the window closes; then the mixture follows.",
        {
            "target_name": worst.target.name,
            "asked_kg_h": float(direct.direct_kg_s[PEAK]) * 3600,
            "rpm": worst.target.rpm,
            "capacity_kg_h": sum(float(one.capacity_kg_s[PEAK]) for one in direct.pumps) * 3600,
            "rail_kpa": float(direct.worst.rail_kpa[PEAK]),
            "lean": leaner(lean),
        },
        names(over),
        lambda: _more_pump(context),
    )


def _more_pump(context: Context) -> Iterator[Remedy]:
    high = high_of(context)
    part = high.pumps[0].part
    tries: Tries = []
    for larger in islice(context.catalogue.high_pumps_above(part), MOST_TRIALS + 1):
        own = (*pumps_of(context, "part", larger.model_dump(mode="json")), *_unworn(context))
        tries.append(("Fit {part}", {"part": larger.name}, own))
        for injector in islice(context.catalogue.direct_injectors_above(high.injectors.part), 2):
            both = (*own, (context.path("high_side/injectors/part"), injector.model_dump(mode="json")))
            tries.append(("Fit {part} with {other}", {"part": larger.name, "other": injector.name}, both))
    for factor in FASTER:
        faster = tuple(
            (context.path(f"high_side/pumps/{n}/drive_factor"), round(pump.drive_factor * factor, 3))
            for n, pump in enumerate(high.pumps)
        )
        tries.append(
            ("Drive it {faster_factor} faster: other bracket and moved lines", {"faster_factor": factor}, faster)
        )
    for label, values, edits, verdicts in roomiest(context, tries, "high-pressure pump"):
        yield Remedy(label + _costs(), edits, {**values, **_cost_values(context, verdicts)})
    yield Remedy("Or let port injectors carry what the direct side cannot, or weaken the blend")


def _unworn(context: Context) -> tuple[Edit, ...]:
    """What was worn was the old pump."""
    worn = [number for number, pump in enumerate(high_of(context).pumps) if pump.worn_um > 0]
    return tuple((context.path(f"high_side/pumps/{number}/worn_um"), 0.0) for number in worn)


def _costs() -> str:
    return (
        ": {load_pct} of what it brings; takes {peak_nm} at most from the cam and asks {needed_kpa} above vapour at its "
        "inlet. Finer filtration, break-in, earlier oil change"
    )


def _cost_values(context: Context, verdicts: list[TargetVerdict]) -> dict[str, Value]:
    pumps = [pump for verdict in verdicts for pump in direct_of(verdict).pumps]
    return {
        "peak_nm": max(float(pump.peak_torque_nm[PEAK]) for pump in pumps),
        "needed_kpa": max(float(pump.head_needed_kpa[PEAK]) for pump in pumps),
    }


def follower(context: Context) -> Iterator[Finding]:
    """A follower that leaves its lobe below the engine's highest speed."""
    verdict = next((one for one in context.verdicts if one.points.direct is not None), None)
    if verdict is None:
        return
    limit = min(float(pump.limit_rpm[PEAK]) for pump in direct_of(verdict).pumps)
    top = context.build.engine.max_rpm
    if limit >= top:
        return
    slower = tuple(
        (context.path(f"high_side/pumps/{n}/drive_factor"), 1.0)
        for n, pump in enumerate(high_of(context).pumps)
        if pump.drive_factor > 1
    )
    harder = (top / limit) ** 2 * 1.1
    stiffer = tuple(
        (context.path(f"high_side/pumps/{n}/part/spring_n"), round(pump.part.spring_n * harder, 0))
        for n, pump in enumerate(high_of(context).pumps)
        if harder <= STIFFEST
    )
    yield Finding(
        "hp-follower",
        "warn",
        "high",
        "Pump follower leaves its lobe",
        "From about {limit_rpm} the spring no longer holds the follower on the lobe; the engine turns {top_rpm}. An "
        "estimate: pressure on the plunger helps and is not counted.",
        "A follower that floats strikes the lobe when it lands.",
        {"limit_rpm": limit, "top_rpm": top},
        (),
        (
            *((Remedy("Drive it as it came", slower),) if slower else ()),
            *(
                Remedy(
                    "Fit the stiffer spring its maker offers; it needs {spring_n}", stiffer, {"spring_n": float(one[1])}
                )
                for one in stiffer[:1]
            ),
        ),
    )


def screen(context: Context) -> Iterator[Finding]:
    """An inlet screen taken out with nothing finer before the pump."""
    high = context.option.high_side
    if high is None:
        return
    bare = [pump for pump in high.pumps if pump.screen == "removed"]
    if not bare:
        return
    finest = min(pump.part.screen_um for pump in bare)
    fitted = context.option.filter
    if fitted is not None and fitted.part.grade_um < finest:
        return
    back = tuple(
        (context.path(f"high_side/pumps/{n}/screen"), "in place")
        for n, pump in enumerate(high.pumps)
        if pump.screen == "removed"
    )
    yield Finding(
        "hp-screen",
        "stop",
        "high",
        "Inlet screen removed with no finer filter before it",
        "The screen kept {screen_um} from the plunger; "
        + ("no filter stands" if fitted is None else "the filter passes {grade_um}")
        + " before the pump.",
        "A chip between plunger and bore, or under the spill valve, ends the pump.",
        {"screen_um": finest, **({} if fitted is None else {"grade_um": fitted.part.grade_um})},
        (),
        (Remedy("Put the screen back", back), Remedy("Or fit a finer filter that passes the flow before the pump")),
    )


def undamped(context: Context) -> Iterator[Finding]:
    """A pump without a damper whose pulsing flow costs its inlet what it needs."""
    high = context.option.high_side
    if high is None or all(pump.damper == "fitted" for pump in high.pumps) or context.over("high-pressure inlet"):
        return
    for verdict in context.verdicts:
        direct = verdict.points.direct
        if direct is None:
            continue
        for number, (pump, fitted) in enumerate(zip(direct.pumps, high.pumps, strict=True)):
            lost = float(direct.node_kpa[PEAK] - pump.inlet_kpa[PEAK])
            left = float(pump.head_kpa[PEAK]) - (hp.UNDAMPED - 1.0) * lost
            if fitted.damper == "none" and left < float(pump.head_needed_kpa[PEAK]):
                yield Finding(
                    "hp-undamped",
                    "warn",
                    "high",
                    "Pulsing feed without a damper",
                    "Without a damper the feed of pump {number_text} loses as much as at 2.5 times its mean drop: "
                    "{left_kpa} "
                    "are left above vapour where {need_kpa} are needed.",
                    "The plunger draws in pulses; the line between node and pump sees their square.",
                    {
                        "number_text": str(number + 1),
                        "left_kpa": max(left, 0.0),
                        "need_kpa": float(pump.head_needed_kpa[PEAK]),
                    },
                    (verdict.target.name,),
                    (
                        Remedy(
                            "Fit a damper at the pump", ((context.path(f"high_side/pumps/{number}/damper"), "fitted"),)
                        ),
                    ),
                )
                return


RULES = (starved, worn, pump_short, follower, screen, undamped)
