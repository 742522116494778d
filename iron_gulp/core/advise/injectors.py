"""Rules about injectors: duty, idle, opening pressure, size."""

from collections.abc import Iterator, Sequence
from functools import partial
from itertools import islice

from ..model import Edit, InjectorPart, rated_at_300_kpa
from ..solve import IDLE, PEAK
from .base import Context, Finding, Remedy, each_asked, highest, names

MOST_TRIALS = 3
HUGE_STEP = 1.35  # of the size fitted
CHECK_VOLTAGE_V = 13.5


def _part(context: Context) -> InjectorPart:
    fitted = context.option.injectors
    assert fitted is not None
    return fitted.part


def too_small(context: Context) -> Iterator[Finding]:
    """Injector duty past the limit, dead time included."""
    over = context.over("injectors")
    if not over:
        return
    worst = over[0]
    duty_pct = float(worst.points.duty[PEAK]) * 100
    static = duty_pct >= 100
    yield Finding(
        "injectors-small",
        "stop" if static else "warn",
        "injectors",
        "Injectors run out" if not static else "Injectors never close",
        "{target_name} needs {duty_pct} duty at {rpm}, dead time included; the limit is {limit_pct}. Each passes "
        "{open_g_s} at {differential_kpa} differential.",
        "Past the limit the injectors stop metering evenly; past 100 % they stay open and the mixture goes lean as "
        "power rises.",
        {
            "target_name": worst.target.name,
            "duty_pct": duty_pct,
            "rpm": worst.target.rpm,
            "limit_pct": context.build.rules.duty_limit_pct,
            "open_g_s": float(worst.points.open_at_set_kg_s[PEAK]) * 1e3,
            "differential_kpa": float(worst.points.hydraulics.set_kpa[PEAK]) - worst.target.boost_kpa,
        },
        names(over),
        lambda: _enough(context, worst.load("injectors").load),
    )


def _enough(context: Context, load: float) -> list[Remedy]:
    """The next size first; where that is a large step, base pressure within the pumps' means before it."""
    larger, pressure = partial(_larger, context, load), partial(_more_pressure, context)
    return each_asked(pressure, larger) if load > HUGE_STEP else each_asked(larger, pressure)


def told_dead_ms(part: InjectorPart) -> float:
    """Dead time a controller is told of an injector: at 13.5 V and the part's own pressure, ms."""
    return float(part.dead_ms_at(CHECK_VOLTAGE_V, part.dead_time_at_kpa))


def told(context: Context, part: InjectorPart) -> tuple[Edit, ...]:
    """What the controller must be told of other injectors, where it was told of these."""
    known = context.option.calibration
    edits: list[Edit] = []
    if known.injector_cc_min is not None:
        edits.append((context.path("calibration/injector_cc_min"), part.rated_flow_cc_min))
        edits.append((context.path("calibration/injector_at_kpa"), part.rated_pressure_kpa))
    if known.dead_time_ms is not None:
        edits.append((context.path("calibration/dead_time_ms"), round(told_dead_ms(part), 4)))
    return tuple(edits)


def _fit(context: Context, part: InjectorPart) -> tuple[Edit, ...]:
    """Other injectors, and the controller told of them."""
    fitted = context.option.injectors
    typed = fitted is not None and fitted.measured_flows  # what was measured were the old ones
    fresh: tuple[Edit, ...] = ((context.path("injectors/measured_flows"), ""),) if typed else ()
    return ((context.path("injectors/part"), part.model_dump(mode="json")), *fresh, *told(context, part))


def _telling(edits: tuple[Edit, ...]) -> str:
    """That the controller is told, where it is."""
    return ", and tell the controller" if any("calibration/" in path for path, _ in edits) else ""


def _larger(context: Context, load: float) -> Iterator[Remedy]:
    part = _part(context)
    needed = rated_at_300_kpa(part) * load * 0.97
    others = list(islice(context.catalogue.injectors_above(max(needed, rated_at_300_kpa(part))), MOST_TRIALS))
    tried = [_fit(context, other) for other in others]
    for other, edits, verdicts in zip(others, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "injectors") <= 1:
            idles = highest(verdicts, "injector idle") <= 1
            yield Remedy(
                f"Fit {{part}}{_telling(edits)}: at most {{load_pct}} of the limit"
                + ("" if idles else ", but idle pulses become too short"),
                edits,
                {"part": other.name, "load_pct": highest(verdicts, "injectors") * 100},
            )
            if not idles:
                smaller = list(context.catalogue.injectors_below(rated_at_300_kpa(other)))[:2]
                yield from _with_pressure(context, smaller)
            return


def _bases(context: Context) -> list[float]:
    """Higher base pressures that injectors are rated at and this regulator holds, kPa."""
    regulator = context.option.regulator
    return [one for one in (350.0, 400.0) if regulator.base_kpa + 1 < one <= regulator.part.max_base_kpa]


def _with_pressure(context: Context, parts: Sequence[InjectorPart]) -> Iterator[Remedy]:
    """Injectors and a higher base pressure together, where neither alone carries the top and idles."""
    tries = [(part, base, (*_fit(context, part), *context.at_base(base))) for base in _bases(context) for part in parts]
    for (part, base, edits), verdicts in zip(tries, context.trials([edits for _, _, edits in tries]), strict=True):
        if verdicts and all(highest(verdicts, one) <= 1 for one in ("injectors", "injector idle", "pumps")):
            yield Remedy(
                f"Fit {{part}} and set {{base_kpa}}{_telling(edits)}: "
                "it idles, and carries every target at {load_pct} of the limit",
                edits,
                {"part": part.name, "base_kpa": base, "load_pct": highest(verdicts, "injectors") * 100},
            )
            return


def _more_pressure(context: Context) -> Iterator[Remedy]:
    bases = _bases(context)
    tried = [context.at_base(base_kpa) for base_kpa in bases]
    for base_kpa, edits, verdicts in zip(bases, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "injectors") <= 1 and highest(verdicts, "pumps") <= 1:
            yield Remedy(
                f"Raise base pressure to {{base_kpa}}{_telling(edits)}: "
                "injectors at {load_pct}, pumps at {pump_pct} of their limits",
                edits,
                {
                    "base_kpa": base_kpa,
                    "load_pct": highest(verdicts, "injectors") * 100,
                    "pump_pct": highest(verdicts, "pumps") * 100,
                },
            )
            return


def idle_pulse(context: Context) -> Iterator[Finding]:
    """Idle asks for a shorter pulse than the injector repeats."""
    over = context.over("injector idle")
    if not over:
        return
    worst, part = over[0], _part(context)
    yield Finding(
        "injector-idle",
        "warn",
        "injectors",
        "Injectors too large to idle on this fuel",
        "Idle on {target_name} needs a pulse of {effective_ms} without dead time; below {min_ms} these injectors do not "
        "repeat.",
        "Idle wanders and the mixture at light load cannot be held, worst on the fuel that needs the least volume.",
        {
            "target_name": worst.target.name,
            "effective_ms": float(worst.points.effective_ms[IDLE]),
            "min_ms": part.smallest_pulse_ms,
        },
        names(over),
        lambda: _smaller(context),
    )


def _smaller(context: Context) -> Iterator[Remedy]:
    part = _part(context)
    others = list(context.catalogue.injectors_below(rated_at_300_kpa(part)))
    tried = [_fit(context, other) for other in others]
    for other, edits, verdicts in zip(others, tried, context.trials(tried), strict=True):
        if verdicts and highest(verdicts, "injectors") > 1:
            break
        if verdicts and highest(verdicts, "injector idle") <= 1:
            words = f"Fit {{part}}{_telling(edits)}: it idles and still carries every target"
            yield Remedy(words, edits, {"part": other.name})
            break
    else:
        verdicts = None
    if not (verdicts and highest(verdicts, "injectors") <= 1):
        yield from _with_pressure(context, others[:3])
    yield Remedy("Lower the base pressure, or raise idle speed and load, and check again")


def opening_pressure(context: Context) -> Iterator[Finding]:
    """Differential pressure above what the injector opens against."""
    if context.option.injectors is None:
        return
    limit = _part(context).max_pressure_kpa
    worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.differential_kpa.max()))
    highest_kpa = float(worst.points.hydraulics.differential_kpa.max())
    if highest_kpa > limit:
        yield Finding(
            "injector-opening",
            "stop",
            "injectors",
            "Pressure holds the injectors shut",
            "Differential pressure reaches {highest_kpa}; these injectors open against {limit_kpa} at most.",
            "An injector that does not open stops that cylinder's fuel at once.",
            {"highest_kpa": highest_kpa, "limit_kpa": limit},
            (worst.target.name,),
            (Remedy("Lower the base pressure, or cure the cause of the high rail pressure at idle"),),
        )


def larger_than_needed(context: Context) -> Iterator[Finding]:
    """Even the hardest target uses less than half of the injectors."""
    load = highest(list(context.verdicts), "injectors")
    if load >= 0.5 or context.option.injectors is None:
        return
    part = _part(context)
    remedies = []
    fitting = [
        other
        for other in context.catalogue.injectors_below(rated_at_300_kpa(part))
        if rated_at_300_kpa(other) * 0.9 >= rated_at_300_kpa(part) * load
    ]
    if fitting:
        chosen = fitting[-1]
        remedies.append(
            Remedy(
                "Fit {part}",
                _fit(context, chosen),
                {"part": chosen.name},
            )
        )
    yield Finding(
        "injectors-large",
        "note",
        "injectors",
        "Injectors larger than any target needs",
        "The hardest target uses {load_pct} of what they pass at the duty limit.",
        "No larger than the top target needs: the smaller injector idles and cruises better.",
        {"load_pct": load * 100},
        (),
        tuple(remedies),
    )


def shared_plenum(context: Context) -> Iterator[Finding]:
    """Fewer injectors than cylinders: the runners share out what a few nozzles spray."""
    fitted, cylinders = context.option.injectors, context.build.engine.cylinders
    if fitted is None or fitted.sprays == "into each port":
        return
    count = cylinders if fitted.count is None else fitted.count
    if count >= cylinders:
        return
    yield Finding(
        "mixture-spread",
        "note",
        "injectors",
        "Cylinders share what few injectors spray",
        "{count} injectors spray {where} for {cylinders} cylinders: the mixture differs between them, most at small air "
        "flow and with a cold manifold.",
        "One λ sensor reads the mean; the leanest cylinder is the one that fails. Read plugs or exhaust temperatures one "
        "by one.",
        {"count": str(count), "where": fitted.sprays, "cylinders": str(cylinders)},
    )


def below_its_spray(context: Context) -> Iterator[Finding]:
    """A rail that sinks below what the injection unit accepts, somewhere between idle and peak."""
    fitted = context.option.injectors
    if fitted is None or fitted.lowest_kpa is None or context.option.mode == "direct only":
        return
    lowest = fitted.lowest_kpa
    rails = [(float(one.points.hydraulics.rail_kpa.min()), one) for one in context.verdicts]
    under = [one for rail, one in rails if rail < lowest]
    if not under:
        return
    rail, worst = min(rails, key=lambda pair: pair[0])
    starved = rail < float(worst.points.hydraulics.set_kpa.min()) - 1.0
    base = context.option.regulator.base_kpa + lowest - rail
    yield Finding(
        "rail-below-spray",
        "warn",
        "injectors",
        "Rail below the lowest pressure these injectors accept",
        "{target_name} has {rail_kpa} in the rail at the least; they want {lowest_kpa}.",
        "Below it the spray breaks up poorly and the stated flow no longer holds.",
        {"target_name": worst.target.name, "rail_kpa": rail, "lowest_kpa": lowest},
        names(under),
        ()
        if starved  # pumps that fall short have a finding of their own
        else (
            Remedy(
                "Raise the base pressure to {base_kpa}, and tell the controller",
                context.at_base(float(round(base + 0.5))),
                {"base_kpa": round(base + 0.5)},
            ),
        ),
    )


RULES = (too_small, idle_pulse, opening_pressure, larger_than_needed, shared_plenum, below_its_spray)
