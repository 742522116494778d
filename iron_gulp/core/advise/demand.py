"""Rules about the ask itself: air against power, ethanol, cold starts, parts not fit for alcohol."""

from collections.abc import Iterator

from ..judge import AIR_TOLERANCE
from ..model import cold_start_limit_pct, parts_of
from ..physics import ATM_KPA
from .base import Context, Finding, Remedy, names

ALCOHOL_FROM_PCT = 15.0


def air_limited(context: Context) -> Iterator[Finding]:
    """The boost given cannot make the power asked (specific consumption and air disagree by more than 10 %)."""
    for verdict in context.verdicts:
        demand, duty = verdict.demand, verdict.duty
        if demand.disagreement >= -AIR_TOLERANCE:
            continue
        needed = demand.manifold_kpa_abs / (1.0 + demand.disagreement) - ATM_KPA
        air_kw = demand.air_limited_power_kw
        path = f"duties/{duty.id}"
        boosted = context.build.engine.induction != "naturally aspirated"
        yield Finding(
            "air-limited",
            "warn",
            "demand",
            "The air cannot make this power",
            "The power asked needs {power_fuel_kg_h} of fuel; the air at {boost_kpa} burns only {air_fuel_kg_h} "
            "({short_pct} less). The engine is limited by air near {air_power_kw}, not by fuel.",
            "Fuel parts bought for power the turbo cannot make are wasted; either the boost, the volumetric "
            "efficiency or the consumption figure is wrong, or the target is.",
            {
                "power_fuel_kg_h": demand.consumption_kg_s * 3600.0,
                "air_fuel_kg_h": demand.air_school_kg_s * 3600.0,
                "boost_kpa": duty.boost_kpa,
                "short_pct": -demand.disagreement * 100.0,
                "air_power_kw": air_kw,
            },
            (duty.name,),
            (
                Remedy(
                    "Ask for the {power_kw} this air supports",
                    ((f"{path}/power_kw", round(air_kw, 1)),),
                    {"power_kw": round(air_kw, 1)},
                ),
                Remedy(
                    "Plan {boost_kpa} of boost instead (an estimate; the turbo must be able to)"
                    if boosted
                    else "Check volumetric efficiency, speed and consumption: there is no boost to raise",
                    ((f"{path}/boost_kpa", round(needed)),) if needed <= 600 and boosted else (),
                    {"boost_kpa": float(round(needed))},
                ),
            ),
        )


def air_surplus(context: Context) -> Iterator[Finding]:
    """The air could burn clearly more fuel than the consumption school counts on."""
    for verdict in context.verdicts:
        demand, duty = verdict.demand, verdict.duty
        if demand.disagreement <= AIR_TOLERANCE or duty.school != "consumption":
            continue
        yield Finding(
            "air-surplus",
            "note",
            "demand",
            "This boost could make more than was asked",
            "At {boost_kpa} and λ {mixture} the engine can burn {air_fuel_kg_h}, {more_pct} more than the "
            "{power_fuel_kg_h} sized for: enough for about {air_power_kw}.",
            "If the boost is really run, the fuel system meets the larger figure. A lower volumetric efficiency, "
            "less boost or a higher consumption figure would bring the schools together.",
            {
                "boost_kpa": duty.boost_kpa,
                "mixture": f"{duty.lambda_:.2f}",
                "air_fuel_kg_h": demand.air_school_kg_s * 3600.0,
                "power_fuel_kg_h": demand.consumption_kg_s * 3600.0,
                "more_pct": demand.disagreement * 100.0,
                "air_power_kw": demand.air_limited_power_kw,
            },
            (duty.name,),
            (Remedy("Size this duty by air mass instead", ((f"duties/{duty.id}/school", "air"),)),),
        )


def measured_disagrees(context: Context) -> Iterator[Finding]:
    """A logged run says something else than the school chosen."""
    for verdict in context.verdicts:
        measured, chosen = verdict.demand.measured_kg_s, verdict.demand.chosen_kg_s
        if measured is None or verdict.duty.school == "measured" or abs(measured / chosen - 1) <= 0.10:
            continue
        yield Finding(
            "measured-disagrees",
            "warn",
            "demand",
            "The logged run does not agree",
            "Scaled from the logged run this duty needs {measured_kg_h}; it is sized for {chosen_kg_h}.",
            "A log of this car outweighs a textbook figure, if its pressure, dead time and injector rating are right.",
            {"measured_kg_h": measured * 3600.0, "chosen_kg_h": chosen * 3600.0},
            (verdict.duty.name,),
            (
                Remedy(
                    "Size this duty from the measured run",
                    ((f"duties/{verdict.duty.id}/school", "measured"),),
                ),
            ),
        )


def cold_start(context: Context) -> Iterator[Finding]:
    """A blend stronger than the coldest start allows (rule of thumb)."""
    coldest = context.build.car.coldest_c
    limit = cold_start_limit_pct(coldest)
    strong = [verdict for verdict in context.verdicts if verdict.duty.ethanol_pct > limit]
    if strong:
        yield Finding(
            "cold-start",
            "note",
            "fuel",
            "Strong blend for a cold start",
            "Starts down to {coldest_c}: as a rule of thumb no more than {limit_pct} ethanol then; this duty runs "
            "{ethanol_pct}.",
            "Ethanol gives little vapour when cold. Pump fuel sold as a strong blend also changes with the season: "
            "measure it.",
            {
                "coldest_c": coldest,
                "limit_pct": limit,
                "ethanol_pct": max(verdict.duty.ethanol_pct for verdict in strong),
            },
            names(strong),
            (Remedy("Start on a weaker blend and raise it when warm, or state a milder climate on the Ask page"),),
        )


def alcohol_fitness(context: Context) -> Iterator[Finding]:
    """A part not fit for alcohol on a blend."""
    strong = [
        verdict
        for verdict in context.verdicts
        if verdict.duty.ethanol_pct > ALCOHOL_FROM_PCT or verdict.duty.base_fuel == "methanol"
    ]
    if not strong:
        return
    unfit = [
        (one.station, one.part.name, f"{one.path}/alcohol_ok")
        for one in parts_of(context.option)
        if not one.part.alcohol_ok
    ]
    bowl = context.option.carburettor
    if bowl is not None and not bowl.alcohol_ok:
        unfit.append(("injectors", bowl.name, "carburettor/alcohol_ok"))
    for station, name, path in unfit:
        yield Finding(
            "alcohol-fitness",
            "stop",
            station,
            "Not fit for alcohol",
            "{part} is not stated to stand alcohol; the strongest duty runs {ethanol_pct} ethanol.",
            "Seals and diaphragms swell or split. A split regulator diaphragm lets fuel into the manifold through "
            "the reference port: an engine and fire risk.",
            {"part": name, "ethanol_pct": max(verdict.duty.ethanol_pct for verdict in strong)},
            names(strong),
            (
                Remedy("Choose a part fit for alcohol from the shelf"),
                Remedy("The maker states it is fit: mark it so", ((context.path(path), True),)),
            ),
        )


RULES = (air_limited, air_surplus, measured_disagrees, cold_start, alcohol_fitness)
