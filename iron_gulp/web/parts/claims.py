"""A claim on a box, as a calculator of the benches of pumps and injectors."""

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import claim

from .calculators import Calculator, Show, Spec, Values


def _claim(x: Values, text: Show) -> str:
    flow = x["flow_l_h"] * x["pieces"]
    found = claim(x["power_kw"], flow)
    least, most = text(found.least_l_h, "least_l_h"), text(found.most_l_h, "most_l_h")
    here = text(flow * x["here_kw"] / x["need_l_h"], "carried_kw")
    unsaid = max(
        (found.by_fuel, "the fuel it was meant for"),
        (found.by_engine, "the consumption it counts on"),
        (found.by_place, "whether wheels or crank"),
    )
    told = (
        f"The claim means {least} at the least it leaves open, {most} at the most; these move {text(flow, 'moved_l_h')}."
    )
    if not found.possible:
        return f"{told} No fuel and no engine meets it. In this car they carry about {here}."
    return f"{told} In this car, on this fuel, they carry about {here}. Most matters, unsaid: {unsaid[1]}."


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
    "A claim on the box",
    (
        Spec("power_kw", "Good for", 400.0, 1.0, 5000.0, "P"),
        Spec("pieces", "Pieces together", 1.0, 1.0, 48.0, "z"),
        Spec("flow_l_h", "Each moves here", 250.0, 1.0, 5000.0, "Q"),
        Spec("need_l_h", "This target burns", 200.0, 0.1, 5000.0, "B"),
        Spec("here_kw", "for", 250.0, 1.0, 5000.0, "H"),
    ),
    _claim,
    "From a naturally aspirated engine on gasoline, power at the crank, to a boosted one on E85 with power at "
    "four wheels. A box quotes free flow or none at all: the table at this car's pressure and voltage counts.",
    "Cannot be told",
    _OPENS,
    "consumptions and driveline losses as the demand has them",
)
