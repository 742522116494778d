"""The recommended road in words: what is free first, then the cheapest that carries, with the other school's reasons."""

from dataclasses import dataclass
from math import isfinite

from ..model import LIMITS, Build, Catalogue, HighPumpPart, Part, Rates
from .design import headroom_of
from .roads import Kind, Road, within


@dataclass(frozen=True)
class Advice:
    """The road recommended, its steps in order, why, and what the other school says. Texts hold `{name}` of `values`."""

    kind: Kind
    steps: tuple[str, ...]
    reason: str
    other_school: str
    values: dict[str, float | str]


SCHOOLS = {
    "direct": "The port-rail school answers: valves stay dirty, and the next power goal meets the same pump again.",
    "pump": "Who opens the rail twice pays for it twice; who waits drives weaker for longer.",
    "port": "The direct school answers: two sides to calibrate and to watch, and a port side that stops unseen costs an "
    "engine. One larger pump has neither.",
    "plenum": "The port-rail school answers: a nozzle a cylinder, and none runs leaner than the sensor says.",
    "both": "Either school alone would call it too much; it is for who means to go further.",
    "blend": "Who wants the strong blend's cooling and octane will not be content with it for long.",
    "today": "Nothing to argue about: what is fitted carries it.",
}
AGES_MATTER = 1.5  # weight of ageing from which it is told
NONE_CARRIES = "Either school would ask for larger parts on the shelf, or for a smaller target."


def recommended(build: Build, roads: list[Road], rates: Rates, catalogue: Catalogue | None = None) -> Advice | None:
    """What to do, in order; None where there are no roads. Rebuilt pumps of a `catalogue` may be there sooner."""
    by_kind = {road.kind: road for road in roads}
    today = by_kind.get("today")
    if today is None:
        return None
    steps = []
    free = today.bill.rows or today.option.high_side != build.option(today.option.id).high_side
    if free:
        steps.append("Feed each high-pressure pump by a line of its own, for {free_cost}: every road starts there.")
    values: dict[str, float | str] = {"free_cost": money(today.bill.total, rates)}
    if today.carries:
        return Advice(
            "today",
            (*steps, "Then nothing more is needed for these targets."),
            "It carries every target.",
            SCHOOLS["today"],
            values,
        )
    safe = [
        one.target for one in today.verdicts if all(load.load <= 1.0 for load in one.loads if load.component in LIMITS)
    ]
    if safe:
        most = max(safe, key=lambda one: one.power_kw)
        values |= {"safe": most.name, "safe_kw": most.power_kw}
        steps.append("Until the parts are there, {safe} is safe: {safe_kw} with the feed put right.")
    blend = by_kind.get("blend")
    if blend is not None and blend.carries and blend.ethanol_pct is not None:
        least = "gasoline alone" if blend.ethanol_pct == 0 else "at most {blend_ethanol_pct} ethanol"
        begun = "Or" if safe or blend.bill.rows != today.bill.rows else "Until the parts are there,"
        has = "today's hardware has the fuel for them"
        if blend.bill.rows != today.bill.rows:
            has = "{blend_cost} of lines, pumps and regulator feed today's injectors for it"
            values["blend_cost"] = money(blend.bill.total, rates)
        steps.append(
            f"{begun} run {least} with the boost and timing that fuel bears: "
            "about {blend_kw} are left of the power, and " + has + "."
        )
        values |= {"blend_ethanol_pct": blend.ethanol_pct, "blend_kw": blend.left_kw or 0.0}
    carrying = [road for road in roads if road.kind in ("direct", "port", "both") and road.carries]
    # An uneven mixture is taken where nothing else carries.
    carrying = carrying or [road for road in roads if road.kind == "plenum" and road.carries]
    if not carrying:
        nearest = min((road for road in roads if road.kind != "blend"), key=lambda road: road.worst.first_out.load)
        values |= {"near_pct": nearest.worst.first_out.load * 100, "near": nearest.title.lower()}
        reason = "No road on this shelf carries every target; {near} comes nearest, at {near_pct} of its limit."
        school = SCHOOLS[nearest.kind] if nearest.kind != "today" else NONE_CARRIES
        return Advice(nearest.kind, tuple(steps), reason, school, values)
    best = min(carrying, key=lambda road: road.bill.total)
    others = [road for road in carrying if road is not best]
    values |= {"best": best.title, "best_cost": money(best.bill.total, rates)}
    days = best.bill.lead_days
    if days:
        values["arrives"] = f"{days} days"
    arrive = ", the last part there in {arrives}" if days else ""
    steps.append("{best}: {best_cost} with fitting and calibration" + arrive + ".")
    steps += _in_steps(by_kind.get("pump"), best, values, rates)
    steps += _sooner(best, catalogue, values)
    steps += _air(best, values)
    wanted = build.rules.headroom_pct / 100.0
    ample = " with the headroom wanted" if headroom_of(best.verdicts) >= wanted - 1e-9 else ""
    reason = f"It is the cheapest road that carries every target{ample}"
    reason += _beside(best, others, by_kind.get("plenum"), values, rates) + _pumps_alone(
        best, by_kind.get("pump"), values, rates
    )
    if best.silent_factor is not None:
        values["lean_pct"] = (best.silent_factor - 1.0) * 100.0
        goes = "the mixture goes {lean_pct} lean" if isfinite(best.silent_factor) else "nothing is injected"
        reason += ". Its price is silence: if the port side stops, " + goes
    return Advice(best.kind, tuple(steps), reason + ".", SCHOOLS[best.kind], values)


def _beside(best: Road, others: list[Road], plenum: Road | None, values: dict[str, float | str], rates: Rates) -> str:
    """What the next best would cost, what it has less of to age where its use tells, and what a plenum would spare."""
    told = ""
    if others:
        second = min(others, key=lambda road: road.bill.total)
        values |= {"second": second.title.lower(), "more": money(second.bill.total - best.bill.total, rates)}
        told += "; {second} would cost {more} more"
        fewer = best.ages.connectors + best.ages.joints - second.ages.connectors - second.ages.joints
        if fewer > 0 and best.ages.weight >= AGES_MATTER:
            values |= {"fewer": str(fewer), "ages_by": best.ages.by}
            told += ", with {fewer} connectors and joints fewer to age by {ages_by}"
    if plenum is not None and plenum.carries and best.kind != "plenum" and plenum.bill.total < best.bill.total:
        values["spared"] = money(best.bill.total - plenum.bill.total, rates)
        told += "; injectors in the plenum would cost {spared} less, for a mixture that differs between cylinders"
    return told


def _pumps_alone(best: Road, pump: Road | None, values: dict[str, float | str], rates: Rates) -> str:
    """What larger pumps alone would cost where they carry for less, with what they leave in hand."""
    if pump is None or not pump.carries or pump.bill.total >= best.bill.total:
        return ""
    values |= {"pumps_cost": money(pump.bill.total, rates), "pumps_left_pct": headroom_of(pump.verdicts) * 100.0}
    return "; larger pumps alone carry for {pumps_cost}, with {pumps_left_pct} in hand"


def _in_steps(first: Road | None, best: Road, values: dict[str, float | str], rates: Rates) -> list[str]:
    """The first step of the road recommended, where its pumps alone already carry something."""
    if first is None or best.kind != "direct":
        return []
    carried = [one.target for one in first.verdicts if within(one)]
    if not carried:
        return []
    most = max(carried, key=lambda one: one.power_kw)
    values |= {"first_cost": money(first.bill.total, rates), "first_target": most.name, "first_kw": most.power_kw}
    return ["In two steps: its pumps now, for {first_cost}, carry {first_target} ({first_kw}); the injectors follow."]


def _sooner(road: Road, catalogue: Catalogue | None, values: dict[str, float | str]) -> list[str]:
    """A rebuilt or exchanged pump that is there before the new one the road buys: for now, the new one later."""
    high = road.option.high_side
    if catalogue is None or high is None or not any(row.what == high.pumps[0].part.name for row in road.bill.rows):
        return []
    part = high.pumps[0].part
    alike = [one for one in catalogue.high_pumps if one.exchange != part.exchange and _moves(one) == _moves(part)]
    days = [(one.lead_days, one) for one in alike if one.lead_days is not None]
    lead, sooner = min(days, key=lambda one: one[0], default=(0, None))
    if sooner is None or part.lead_days is None or lead >= part.lead_days:
        return []
    values |= {"sooner": sooner.name, "sold_as": sooner.exchange, "sooner_in": f"{lead} days"}
    values |= {"new": part.name, "new_in": f"{part.lead_days} days"}
    return ["Now {sooner} ({sold_as}), there in {sooner_in}; {new} in {new_in} can follow it, at the next opening."]


def _moves(part: HighPumpPart) -> object:
    """All that says what a pump moves, whoever sells it and how."""
    sold = Part.model_fields.keys() | {"exchange"}
    return {name: getattr(part, name) for name in type(part).model_fields if name not in sold}


def _air(road: Road, values: dict[str, float | str]) -> list[str]:
    """What the engine breathes for on the target that presses it hardest: fuel beyond that buys nothing."""
    hardest = max(road.verdicts, key=lambda one: one.load("engine").load)
    breathes = hardest.demand.air_limited_power_kw
    if not isfinite(breathes):
        return []
    values |= {"air_target": hardest.target.name, "air_kw": breathes}
    compressor = next((one.load for one in hardest.loads if one.component == "compressor"), 0.0)
    if compressor > hardest.load("engine").load:
        values["air_kw"] = hardest.target.power_kw / compressor
        return ["The compressor ends it at about {air_kw} on {air_target}: fuel for more buys nothing until it grows."]
    told = "On {air_target} the engine breathes for about {air_kw} at this boost: "
    return [told + "fuel for more buys nothing without more air."]


def money(amount: float, rates: Rates) -> str:
    """An amount to three significant figures: it is an estimate."""
    if amount <= 0:
        return f"0\u00a0{rates.currency}"
    digits = max(len(f"{amount:.0f}") - 3, 0)
    return f"{round(amount, -digits):,.0f}\u00a0{rates.currency}".replace(",", "\u202f")
