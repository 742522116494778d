"""Rules about the ask itself: air against power, ethanol, cold starts, parts not fit for alcohol."""

from collections.abc import Iterator
from itertools import permutations

from ..judge import air_status
from ..model import COLDEST_C, FittedPart, Station, cold_start_rvp_kpa, fitting, parts_of
from ..study import reserve
from .base import Context, Finding, Remedy, names

ALCOHOL_FROM_PCT, STRONG_PCT = 15.0, 50.0
SCHOOLS_TOLERANCE = 0.10


def air_limited(context: Context) -> Iterator[Finding]:
    """The boost cannot bring the air this power is expected to need: said once, with what would be needed."""
    short = [v for v in context.verdicts if air_status(v.load("engine").load) == "over"]
    if not short:
        return
    worst = max(short, key=lambda verdict: verdict.load("engine").load)
    demand, target, engine = worst.demand, worst.target, context.build.engine
    barometer = context.build.car.barometer_kpa
    needed = demand.manifold_kpa_abs * worst.load("engine").load - barometer
    boosted = engine.induction != "naturally aspirated"
    yield Finding(
        "air-limited",
        "warn",
        "demand",
        "The air cannot make this power",
        "{power_kw} is expected to need {needed_kg_h} of air; at {boost_kpa} the engine breathes {air_kg_h}. "
        "It is limited by air near {air_power_kw}, not by fuel; the power asked would take about {needed_kpa}.",
        "Fuel parts bought for power the air cannot make are wasted; either boost, volumetric efficiency or the power "
        "asked is wrong. More boost is a matter of octane, cylinder pressure and what the turbo can do, "
        "not of fuel parts.",
        {
            "power_kw": target.power_kw,
            "needed_kg_h": demand.air_needed_kg_s * 3600.0,
            "air_kg_h": demand.air_kg_s * 3600.0,
            "boost_kpa": target.boost_kpa,
            "air_power_kw": demand.air_limited_power_kw,
            "needed_kpa": needed,
        },
        names(short),
        (
            Remedy(
                "Check boost, volumetric efficiency and engine speed of this target against the car"
                if boosted
                else "Check volumetric efficiency, speed and power of this target: there is no boost to raise"
            ),
            Remedy(
                "Size for the {power_kw} this air supports",
                ((f"targets/{target.id}/power_kw", round(demand.air_limited_power_kw, 1)),),
                {"power_kw": round(demand.air_limited_power_kw, 1)},
            ),
        ),
    )


def no_reserve(context: Context) -> Iterator[Finding]:
    """A target is sized for less than its engine is expected to burn."""
    low = [
        (held, one)
        for one in context.verdicts
        if one.target.school == "consumption"
        for held in [reserve(context.build, context.option, one.target)]
        if held < 0
    ]
    if not low:
        return
    held, worst = min(low, key=lambda one: one[0])
    yield Finding(
        "no-reserve",
        "warn",
        "demand",
        "The sizing figure holds no reserve",
        "{target_name} is sized for {sized_kg_h}; the engine is expected to burn {expected_kg_h}, {less_pct} more.",
        "The sizing consumption is meant to lie above what engines burn: pumps age, fuel gets hot, no two engines are "
        "alike. Below it the system is short on an ordinary day.",
        {
            "target_name": worst.target.name,
            "sized_kg_h": worst.demand.chosen_kg_s * 3600.0,
            "expected_kg_h": worst.demand.expected_kg_s * 3600.0,
            "less_pct": (1.0 / (1.0 + held) - 1.0) * 100.0,
        },
        names([one for _, one in low]),
        (
            Remedy(
                "Size it by the engine's own class",
                tuple((f"targets/{one.target.id}/bsfc_kg_kwh", None) for _, one in low),
            ),
            Remedy("Or enter what this engine burns as the expected consumption, if a log says so"),
        ),
    )


def air_surplus(context: Context) -> Iterator[Finding]:
    """The air could burn clearly more fuel than the consumption school counts on: said once."""
    more = [v for v in context.verdicts if v.demand.disagreement > SCHOOLS_TOLERANCE and v.target.school == "consumption"]
    if not more:
        return
    most = max(more, key=lambda verdict: verdict.demand.disagreement)
    demand, target = most.demand, most.target
    yield Finding(
        "air-surplus",
        "note",
        "demand",
        "This boost could make more than was asked",
        "At {boost_kpa} and λ {mixture} the engine can burn {air_fuel_kg_h}, {more_pct} more than the "
        "{power_fuel_kg_h} sized for.",
        "If the boost is really run, the fuel system meets the larger figure. A lower volumetric efficiency, "
        "less boost or a higher consumption figure would bring the schools together.",
        {
            "boost_kpa": target.boost_kpa,
            "mixture": f"{target.lambda_:.2f}",
            "air_fuel_kg_h": demand.air_school_kg_s * 3600.0,
            "power_fuel_kg_h": demand.consumption_kg_s * 3600.0,
            "more_pct": demand.disagreement * 100.0,
        },
        names(more),
        (Remedy("Size by air mass instead", tuple((f"targets/{one.target.id}/school", "air") for one in more)),),
    )


USELESS_SHARE, LEAST_KPA, SAME_BLEND_PCT = 0.25, 10.0, 5.0


def boost_adds_nothing(context: Context) -> Iterator[Finding]:
    """Two targets on the same fuel: more boost, hardly more power. Then the compressor is at its end, not the fuel."""
    found = []
    for one, other in permutations(context.verdicts, 2):
        low, high = one.target, other.target
        same = low.base_fuel == high.base_fuel and abs(low.ethanol_pct - high.ethanol_pct) <= SAME_BLEND_PCT
        if not same or high.boost_kpa - low.boost_kpa < LEAST_KPA:
            continue
        air = other.demand.air_kg_s / one.demand.air_kg_s - 1.0
        power = other.demand.crank_kw / one.demand.crank_kw - 1.0
        if 0 <= power < USELESS_SHARE * air:
            found.append((high.boost_kpa - low.boost_kpa, one, other))
    if not found:
        return
    more, one, other = max(found, key=lambda each: each[0])
    yield Finding(
        "boost-adds-nothing",
        "note",
        "demand",
        "The last of the boost adds next to nothing",
        "From {low_name} to {high_name} boost rises by {more_kpa} and power only from {low_kw} to {high_kw}.",
        "If the car was measured so, the compressor is at its limit and heats the air instead of moving it. No fuel part "
        "changes that.",
        {
            "low_name": one.target.name,
            "high_name": other.target.name,
            "more_kpa": more,
            "low_kw": one.target.power_kw,
            "high_kw": other.target.power_kw,
        },
        (one.target.name, other.target.name),
        (Remedy("Take the lower boost, or look at the compressor before buying for fuel"),),
    )


def measured_disagrees(context: Context) -> Iterator[Finding]:
    """A logged run says something else than the school chosen."""
    for verdict in context.verdicts:
        measured, chosen = verdict.demand.measured_kg_s, verdict.demand.chosen_kg_s
        if measured is None or verdict.target.school == "measured" or abs(measured / chosen - 1) <= 0.10:
            continue
        yield Finding(
            "measured-disagrees",
            "warn",
            "demand",
            "The logged run does not agree",
            "Scaled from the logged run this target needs {measured_kg_h}; it is sized for {chosen_kg_h}.",
            "A log of this car outweighs a textbook figure, if its pressure, dead time and injector rating are right.",
            {"measured_kg_h": measured * 3600.0, "chosen_kg_h": chosen * 3600.0},
            (verdict.target.name,),
            (
                Remedy(
                    "Size this target from the measured run",
                    ((f"targets/{verdict.target.id}/school", "measured"),),
                ),
            ),
        )


def cold_start(context: Context) -> Iterator[Finding]:
    """A strong blend that gives too little vapour for the coldest start."""
    least, entered = cold_start_rvp_kpa(context.build), context.build.car.coldest_c
    if least is None:
        return
    weak = [v for v in context.verdicts if v.target.ethanol_pct >= STRONG_PCT and v.fuel.rvp_kpa < least]
    if not weak:
        return
    worst = min(weak, key=lambda verdict: verdict.fuel.rvp_kpa)
    yield Finding(
        "cold-start",
        "note" if entered is None else "warn",
        "fuel",
        "Little vapour for a cold start",
        "{ethanol_pct} ethanol in this base has a Reid pressure of about {rvp_kpa}; starts down to {coldest_c} want "
        "{least_kpa} or more, by rule of thumb.",
        "Ethanol gives little vapour when cold. A winter blend has a lighter base; a home blend on summer gasoline has "
        "not. Pump fuel sold as a strong blend changes with the season: measure it.",
        {
            "coldest_c": COLDEST_C if entered is None else entered,
            "rvp_kpa": worst.fuel.rvp_kpa,
            "least_kpa": least,
            "ethanol_pct": worst.target.ethanol_pct,
        },
        names(weak),
        (
            Remedy(
                "Start on a weaker or a winter blend and change over warm"
                + ("; or state the coldest start on the Ask page" if entered is None else "")
            ),
        ),
    )


def _fit_part(context: Context, one: FittedPart) -> Remedy:
    """The shelf's part nearest in size that is fit for alcohol."""
    other = context.catalogue.fit_for_alcohol(one.part)
    if other is None:
        return Remedy("Choose a part fit for alcohol")
    edits = fitting(context.path(one.path), type(one.part), other)
    return Remedy("Fit {part}", tuple(edits), {"part": other.name})


def alcohol_fitness(context: Context) -> Iterator[Finding]:
    """A part not fit for alcohol on a blend."""
    strong = [
        verdict
        for verdict in context.verdicts
        if verdict.target.ethanol_pct > ALCOHOL_FROM_PCT or verdict.target.base_fuel == "methanol"
    ]
    if not strong:
        return
    methanol = any(verdict.target.base_fuel == "methanol" for verdict in strong)
    unfit: list[tuple[Station, str, Remedy]] = [
        (one.station, one.part.name, _fit_part(context, one))
        for one in parts_of(context.option)
        if not one.part.alcohol_ok
    ]
    bowl = context.option.carburettor
    if bowl is not None and not bowl.alcohol_ok:
        unfit.append(("injectors", bowl.name, Remedy("Fit a carburettor made for alcohol and enter it")))
    for station, name, remedy in unfit:
        yield Finding(
            "alcohol-fitness",
            "stop",
            station,
            "Not fit for alcohol",
            "{part} is not stated to stand alcohol; "
            + ("the fuel is methanol." if methanol else "the strongest target runs {ethanol_pct} ethanol."),
            "Seals and diaphragms swell or split. A split regulator diaphragm lets fuel into the manifold through "
            "the reference port: an engine and fire risk.",
            {"part": name, "ethanol_pct": max(verdict.target.ethanol_pct for verdict in strong)},
            names(strong),
            (remedy, Remedy("Where the maker states that it is fit, enter that in the part's data")),
        )


RULES = (air_limited, no_reserve, air_surplus, boost_adds_nothing, measured_disagrees, cold_start, alcohol_fitness)
