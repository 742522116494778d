"""Rules about the regulator: reference, spring range, end pressure, and where the return enters the tank."""

from collections.abc import Iterator

from ..solve import PEAK, State
from .base import Context, Finding, Remedy, names

# Base pressures injectors are rated and controllers calibrated at.
USUAL_BASES_KPA = (300.0, 400.0)


def port_side_on_it(context: Context) -> bool:
    """Whether port injectors work at this regulator's pressure: no carburettor, direct ones alone or one of its own."""
    option = context.option
    own = option.delivery is not None and option.delivery.port_base_kpa is not None
    return option.injectors is not None and option.mode != "direct only" and not own


def no_differential(context: Context) -> Iterator[Finding]:
    """The rail is asked for less pressure than the manifold holds."""
    if context.option.carburettor is not None:
        return
    dead = [
        v
        for v in context.verdicts
        if int(v.points.hydraulics.state[PEAK]) == State.NO_DIFFERENTIAL and float(v.points.metered_kg_s[PEAK]) > 0
    ]
    if dead:
        yield Finding(
            "no-differential",
            "stop",
            "regulator",
            "No pressure across the injectors",
            "The rail stands at {rail_kpa} while the manifold holds {boost_kpa}: no fuel flows. The regulator is set to "
            "{set_kpa}.",
            "Injectors flow only on the difference between rail and manifold.",
            {
                "set_kpa": float(dead[0].points.hydraulics.set_kpa[PEAK]),
                "rail_kpa": float(dead[0].points.hydraulics.rail_kpa[PEAK]),
                "boost_kpa": dead[0].target.boost_kpa,
            },
            names(dead),
            (Remedy("Reference it to the manifold", ((context.path("regulator/reference"), "manifold"),)),),
        )


def spring_range(context: Context) -> Iterator[Finding]:
    """Base pressure outside the spring's range, or the end pressure above what the regulator stands."""
    regulator = context.option.regulator
    part = regulator.part
    if not part.min_base_kpa <= regulator.base_kpa <= part.max_base_kpa:
        nearest = min(max(regulator.base_kpa, part.min_base_kpa), part.max_base_kpa)
        usual = [base for base in USUAL_BASES_KPA if part.min_base_kpa <= base <= part.max_base_kpa]
        yield Finding(
            "spring-range",
            "stop",
            "regulator",
            "Base pressure outside the spring's range",
            "{base_kpa} is asked of a regulator that adjusts from {min_kpa} to {max_kpa}.",
            "The adjuster runs out of thread or the spring goes solid before the pressure is reached.",
            {"base_kpa": regulator.base_kpa, "min_kpa": part.min_base_kpa, "max_kpa": part.max_base_kpa},
            (),
            tuple(
                Remedy("Set {base_kpa}", context.at_base(base), {"base_kpa": base})
                for base in dict.fromkeys((nearest, *usual))
            ),
        )
    worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.rail_kpa.max()))
    top = float(worst.points.hydraulics.rail_kpa.max())
    if top > part.max_pressure_kpa:
        yield Finding(
            "end-pressure",
            "stop",
            "regulator",
            "Rail pressure above what the regulator stands",
            "The rail reaches {top_kpa} on {target_name}; the regulator is good for {limit_kpa}.",
            "Base plus boost counts, not base alone.",
            {"top_kpa": top, "target_name": worst.target.name, "limit_kpa": part.max_pressure_kpa},
            (worst.target.name,),
            (Remedy("Choose a regulator with a higher end pressure, or a lower base"),),
        )


def return_entry(context: Context) -> Iterator[Finding]:
    """The return enters the tank where it should not."""
    entry = context.option.return_entry
    nothing_returns = context.option.regulator.arrangement in ("returnless, speed-controlled", "carburettor, deadhead")
    if entry == "below the fuel level" or nothing_returns:
        return
    vent = entry == "into the vent line"
    yield Finding(
        "return-entry",
        "stop" if vent else "warn",
        "regulator",
        "The return blocks the tank's breathing" if vent else "The return aerates the fuel",
        "The return is teed into the vent." if vent else "The return falls onto the fuel from above its level.",
        "A tank that cannot breathe draws a vacuum on the pump, and fuel leaves through the vent."
        if vent
        else "Aerated fuel reaches the pickup as foam: pumps cavitate and the rail pulses.",
        {},
        (),
        (
            Remedy(
                "Bring it in below the fuel level, away from the pickup",
                ((context.path("return_entry"), "below the fuel level"),),
            ),
        ),
    )


def above_the_throttle(context: Context) -> Iterator[Finding]:
    """A manifold reference on injectors that spray into the air above the throttle."""
    fitted, regulator = context.option.injectors, context.option.regulator
    if fitted is None or fitted.sprays != "above the throttle" or regulator.reference == "atmosphere":
        return
    if not port_side_on_it(context):
        return
    vacuum = context.build.engine.idle_manifold_kpa
    yield Finding(
        "reference-above-throttle",
        "warn",
        "regulator",
        "Manifold reference above the throttle",
        "The injectors spray into the air before the throttle, the regulator follows the manifold behind it: at idle "
        "they have {idle_kpa} across them, with the throttle open {open_kpa}.",
        "Above the throttle nothing pulls at the nozzle: fixed pressure meters evenly there, a reference line brings "
        "back the error it is meant to take away.",
        {"idle_kpa": regulator.base_kpa + regulator.reference_ratio * vacuum, "open_kpa": regulator.base_kpa},
        (),
        (Remedy("Leave it open to the air", ((context.path("regulator/reference"), "atmosphere"),)),),
    )


RULES = (
    above_the_throttle,
    no_differential,
    spring_range,
    return_entry,
)
