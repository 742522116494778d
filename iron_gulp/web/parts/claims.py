"""Claims as they are printed on a box, as calculators of the benches: a power, and a flow of any part."""

from collections.abc import Mapping
from functools import partial
from math import isnan
from urllib.parse import urlencode

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import MOST_KPA, Printed, Said, claim, printed
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits

from .calculators import Calculator, CalculatorView, Show, Spec, Values, answered, choice, unsaid

UNSAID = "not said"
STATES = {"injector": ", held open,", "regulator": ", wide open,"}
AS_PRINTED = 0.02  # more or less than this of what is printed is as printed


def _claim(x: Values, text: Show) -> str:
    flow = x["flow_l_h"] * x["pieces"]
    ethanol = x["claimed_ethanol_pct"]
    said = Said(
        (None, True, False)[int(x["claimed_at"])],
        (None, False, True)[int(x["claimed_breathing"])],
        None if isnan(ethanol) else ethanol / 100.0,
    )
    found = claim(x["power_kw"], flow, said)
    least, most = text(found.least_l_h, "least_l_h"), text(found.most_l_h, "most_l_h")
    here = text(flow * x["here_kw"] / x["need_l_h"], "carried_kw")
    matters, words = max(
        (found.by_fuel, "the fuel it was meant for"),
        (found.by_engine, "the consumption it counts on"),
        (found.by_place, "whether wheels or crank" if said.at_crank is None else "what its driveline loses"),
    )
    told = (
        f"The claim means {least} at the least it leaves open, {most} at the most; these move {text(flow, 'moved_l_h')}."
    )
    if not found.possible:
        return f"{told} No fuel and no engine meets it. In this car they carry about {here}."
    unsaid_words = f" Most matters, unsaid: {words}." if matters > 1.0 else " It leaves nothing open."
    return f"{told} In this car, on this fuel, they carry about {here}.{unsaid_words}"


def of_claim(verdict: TargetVerdict) -> dict[str, float]:
    """What a target burns and makes, to start from."""
    need = verdict.demand.chosen_kg_s / verdict.fuel.density_kg_m3 / M3_S_PER_L_H
    return {"need_l_h": float(f"{need:.3g}"), "here_kw": verdict.target.power_kw}


_OPENS = {
    "least_l_h": ("Least the claim can mean", "least = P × consumption ÷ density: aspirated, gasoline, at the crank"),
    "most_l_h": ("Most the claim can mean", "most = P ÷ share at four wheels × consumption ÷ density: boosted, E85"),
    "moved_l_h": ("What these move", "moved = z·Q"),
    "carried_kw": ("What they carry in this car", "carried = z·Q·H ÷ B"),
}

CLAIM = Calculator(
    "A power on the box",
    (
        Spec("power_kw", "Good for", 400.0, 1.0, 5000.0, "P"),
        choice("claimed_at", "at the", UNSAID, "crank", "wheels"),
        choice("claimed_breathing", "of an engine", UNSAID, "naturally aspirated", "boosted"),
        unsaid("claimed_ethanol_pct", "on ethanol", 0.0, 100.0, "E"),
        Spec("pieces", "Pieces together", 1.0, 1.0, 48.0, "z"),
        Spec("flow_l_h", "Each moves here", 250.0, 1.0, 5000.0, "Q"),
        Spec("need_l_h", "This target burns", 200.0, 0.1, 5000.0, "B"),
        Spec("here_kw", "for", 250.0, 1.0, 5000.0, "H"),
    ),
    _claim,
    "What is not said stands open: from a naturally aspirated engine on gasoline, power at the crank, to a boosted one "
    "on E85 with power at four wheels. A box quotes free flow or none at all: the table at this car's pressure and "
    "voltage counts.",
    "Cannot be told",
    _OPENS,
    "consumptions and driveline losses as the demand has them",
)


def _flow(parts: list[Printed], x: Values, text: Show) -> str:
    one, flow = parts[int(x["printed_of"])], x["printed_l_h"]
    if isnan(flow):
        return "Type the flow that is printed; what is not said beside it stays empty."
    volts = one.volts if isnan(x["printed_v"]) else x["printed_v"]
    holds = one.holds_kpa(flow, volts)
    here = f"here it passes {text(one.here_l_h, 'here_l_h')} at {text(one.here_kpa, 'here_kpa')}"
    at = f" at {text(volts, 'read_v')}" if one.falls else ""
    passes = f"The {one.what}{STATES.get(one.what, '')} passes {text(flow, 'claimed_l_h')}{at}"
    if isnan(holds):
        return f"{passes} at no pressure up to {text(MOST_KPA, 'most_kpa')}; {here}."
    reach = "up to" if one.falls else "from"
    found = f"{passes} {reach} {text(holds, 'holds_kpa')}; {here}."
    if isnan(x["printed_kpa"]):
        free = one.passes_l_h(0.0, volts) if one.falls else 0.0
        open_ = f" from its free flow, {text(free, 'free_l_h')}, down" if one.falls else ""
        return f"{found} Printed without a pressure it may mean any of them{open_}: ask at which it was measured."
    real = one.passes_l_h(x["printed_kpa"], volts)
    share = real / flow
    at_it = f"At {text(x['printed_kpa'], 'claimed_kpa')} it passes {text(real, 'real_l_h')}"
    if share > 1.0 + AS_PRINTED:
        over = text(real - flow, "over_l_h")
        return f"{found} {at_it}: {over} more than printed, no contradiction: the claim holds with that to spare."
    if share < 1.0 - AS_PRINTED:
        return f"{found} {at_it}: {text((1.0 - share) * 100.0, 'short_pct')} short of what is printed."
    return f"{found} {at_it}: as printed."


_FLOW_OPENS = {
    "claimed_l_h": ("What is printed", "claimed = Q"),
    "holds_kpa": ("Pressure at which it passes that", "holds: where what the part passes = Q"),
    "here_l_h": ("What passes here", "as this target has it at its peak; of a regulator at idle"),
    "here_kpa": ("at a pressure of", "as this target has it at its peak; of a regulator at idle"),
    "most_kpa": ("The highest looked at", "beyond what such parts stand"),
    "read_v": ("Volts it is read at", "as printed, else as they reach it here: U"),
    "free_l_h": ("Against no pressure", "the part's own table at nothing"),
    "claimed_kpa": ("Pressure printed", "claimed = p"),
    "real_l_h": ("What it passes there", "the part's own law at p"),
    "over_l_h": ("More than printed", "over = what it passes at p − Q"),
    "short_pct": ("Less than printed", "short = 1 − what it passes at p ÷ Q"),
}


def flow_claim(bench: Bench) -> Calculator:
    """A flow on the box of any part of the option on the bench."""
    parts = printed(bench.option, bench.verdict)
    return Calculator(
        "A flow on the box",
        (
            choice("printed_of", "Printed on", *(one.what for one in parts)),
            unsaid("printed_l_h", "Passes", 0.1, 20_000.0, "Q", "how much"),
            unsaid("printed_kpa", "at", 1.0, 1500.0, "p"),
            unsaid("printed_v", "Volts, of a pump", 4.0, 60.0, "U", "as here"),
        ),
        partial(_flow, parts),
        "By the part's own table, rating or loss on this target's fuel. Pumps are rated against pressure, injectors and "
        "regulators by what stands across them, filters and lines by what they lose.",
        "Cannot be told",
        _FLOW_OPENS,
        "the parts of this option as entered",
    )


def flow_claim_view(
    bench: Bench, units: BenchUnits, typed: Mapping[str, str] | None = None, of: str = ""
) -> CalculatorView:
    """The same answered, its addresses with option and target; by itself `of` a part whose name holds that."""
    where = "?" + urlencode({"option": bench.option.id, "target": bench.verdict.target.id})
    calculator = flow_claim(bench)
    own = next((one for one in calculator.fields[0].choices if of in one), "")
    return answered("flow-claim", calculator, {"printed_of": own} if typed is None else typed, units, where=where)
