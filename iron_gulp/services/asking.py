"""From a few answers to a build with everything it takes, and the list of what was assumed."""

from typing import Any

from iron_gulp.core.judge import judge_many
from iron_gulp.core.model import (
    Build,
    Car,
    Carburettor,
    Delivery,
    DesignRules,
    DirectInjectorSet,
    Engine,
    Filter,
    HighPump,
    HighSide,
    Line,
    Option,
    PumpGroup,
    Regulator,
    Suction,
    Target,
)
from iron_gulp.core.plan import ETHANOL_PCT, RACE_FUELS, Answers, Reason
from iron_gulp.core.plan.design import bearing
from iron_gulp.core.solve import PEAK
from iron_gulp.shelf import Shelf

from .breathing import ABOVE_PEAK_RPM, turning_and_boosted, usual_rpm
from .placing import placed
from .starter import NEW_CIRCUIT, first_option
from .usage import HEADROOM_PCT, in_use

SEA_LEVEL_FUEL_C, COLDEST_FUEL_C, LOW_AIR_KPA = 30.0, 10.0, 92.0
STRONG_PCT, WARM_C = 50.0, 20.0
MIXTURE = {"naturally aspirated": 0.87, "supercharged": 0.82, "turbocharged": 0.82}
NEEDLES = ((1, 2.0), (1, 2.5), (2, 2.0), (2, 2.5), (2, 3.0), (4, 2.5), (4, 3.0), (8, 3.0), (12, 3.0), (16, 4.0))
DIRECT_BASE_KPA, PORT_BESIDE_BASE_KPA, CARBURETTOR_BASE_KPA = 450.0, 400.0, 30.0
ONE_PUMP_KW = 240.0  # what an unboosted engine makes on one high-pressure pump
DIRECT_SHARE_PCT = 60.0  # of the fuel, where the direct side would carry all of it
DIRECT_USE_PCT = 85.0  # of what the direct side holds, before port injectors help it
STARTED_WARM = "It is started warm or on a weaker or winter blend: enter the coldest start to have it judged."


def asked_build(shelf: Shelf, answers: Answers, wires: str = "mm²") -> tuple[Build, list[Reason]]:
    """The build that answers describe, with a system to start from, and what was assumed."""
    assumed: list[Reason] = []
    rpm = answers.rpm or usual_rpm(answers.displacement_l / answers.cylinders)
    blown = answers.induction != "naturally aspirated"
    engine = Engine(
        displacement_l=answers.displacement_l,
        cylinders=answers.cylinders,
        induction=answers.induction,
        max_rpm=rpm + ABOVE_PEAK_RPM,
        ve_pct=95.0 if blown else 100.0,
        idle_manifold_kpa=-min(66.0, answers.barometer_kpa - 30.0),
        idle_ve_pct=55.0,
    )
    targets = _targets(answers, rpm)
    strong = any(one.ethanol_pct >= STRONG_PCT or one.base_fuel == "methanol" for one in targets)
    if strong:
        assumed.append(Reason(STARTED_WARM, path="car/coldest_c"))
    car: dict[str, Any] = {"coldest_c": WARM_C} if strong else {}
    build = Build(
        name=answers.name,
        car=Car(drivetrain=answers.drivetrain, use=answers.use, barometer_kpa=answers.barometer_kpa, **car),
        engine=engine,
        rules=DesignRules.model_validate({"wires": wires, "headroom_pct": HEADROOM_PCT[answers.use]}),
        targets=targets,
        fuels=tuple(fuel for name, fuel in RACE_FUELS.items() if name == answers.fuel),
        options=(in_use(shelf, starting_option(shelf, answers), answers, strong, assumed),),
    )
    build = turning_and_boosted(build, answers.rpm is None, blown and answers.boost_kpa is None, assumed)
    if answers.barometer_kpa < LOW_AIR_KPA:
        assumed.append(
            Reason(
                "Fuel at {fuel_c}: it is cooler up there.",
                {"fuel_c": build.targets[0].fuel_temp_c},
                path="targets/t1/fuel_temp_c",
            )
        )
    build = _on_its_lobe(_with_needles(placed(shelf, build, answers), assumed), assumed)
    if answers.feeding == "direct and port injection":
        build = _shared_out(build, assumed)
    assumed.append(
        Reason(
            "Consumption is taken on the safe side, by induction; a logged run outweighs it.",
            path="targets/t1/bsfc_kg_kwh",
        )
    )
    layout: dict[str, float | str] = {"layout": answers.drivetrain, "line_m": build.options[0].feed.length_m}
    assumed.append(
        Reason(
            "Driveline loss by layout ({layout}), lines of {line_m}"
            + (", the tank as an ordinary road car's." if answers.tank_l is None else "."),
            layout,
            path="car/drivetrain",
        )
    )
    if HEADROOM_PCT[answers.use] != HEADROOM_PCT["street"]:
        more: dict[str, float | str] = {"use": answers.use, "headroom_pct": HEADROOM_PCT[answers.use]}
        assumed.append(
            Reason(
                "For {use} use {headroom_pct} of headroom are wanted: it is long at load.",
                more,
                path="rules/headroom_pct",
            )
        )
    return build, assumed


def fuel_c(barometer_kpa: float) -> float:
    """Fuel temperature assumed, °C: 30 at sea level, cooler with height (ISO 2533: 6.5 K a kilometre)."""
    kilometres = (1.0 - (min(barometer_kpa, 101.325) / 101.325) ** (1.0 / 5.25588)) / 2.25577e-2
    return float(round(max(SEA_LEVEL_FUEL_C - 6.5 * kilometres, COLDEST_FUEL_C)))


def _targets(answers: Answers, rpm: float) -> tuple[Target, ...]:
    """What it must do: the power on its fuel, on pump fuel too where asked, and later."""
    methanol = answers.fuel == "methanol"
    own: dict[str, Any] = {
        "boost_kpa": answers.boost_kpa or 0.0,
        "rpm": rpm,
        "power_at": answers.power_at,
        "lambda_": MIXTURE[answers.induction],
        "supply_v": answers.supply_v,
        "fuel_temp_c": fuel_c(answers.barometer_kpa),
        "alcohol": "as run",
    }
    fuel: dict[str, Any] = {"ethanol_pct": blend_pct(answers)}
    if methanol:
        fuel |= {"base_fuel": "methanol", "bsfc_kg_kwh": None}
    if answers.fuel in RACE_FUELS:
        fuel["base_fuel"] = RACE_FUELS[answers.fuel].id
    typed = answers.ethanol_pct is not None and not methanol and answers.fuel not in RACE_FUELS
    name = f"E{answers.ethanol_pct:g}" if typed else answers.fuel.split(",")[0].capitalize()
    found = [Target(id="t1", name=name, power_kw=answers.power_kw, **own, **fuel)]
    if answers.pump_fuel_kw is not None and (answers.fuel != "pump fuel" or answers.ethanol_pct is not None):
        found.append(Target(id="t2", name="Pump fuel", power_kw=answers.pump_fuel_kw, ethanol_pct=10.0, **own))
    if answers.later_kw is not None:
        later = {"id": f"t{len(found) + 1}", "name": f"{name}, later", "when": "later", "power_kw": answers.later_kw}
        found.append(Target(**later, **own, **fuel))
    return tuple(found)


def _with_needles(build: Build, assumed: list[Reason]) -> Build:
    """A carburettor with needles that pass what is asked; they are the car's, not chosen from the shelf."""
    option = build.options[0]
    if option.carburettor is None:
        return build
    for needles, bore in NEEDLES:
        bowl = option.carburettor.model_copy(update={"needles": needles, "needle_mm": bore})
        one = option.model_copy(update={"carburettor": bowl})
        judged = judge_many([(build, one, target) for target in build.targets], ceilings=False)
        if max(verdict.load("needles").load for verdict in judged) <= 1.0 / 1.15:
            fitted: dict[str, float | str] = {"count": str(needles), "needle_mm": bore}
            several = "s" * (needles > 1)
            assumed.append(
                Reason(
                    f"Carburettor with {{count}} float needle{several} of {{needle_mm}}: enter its own.",
                    fitted,
                    path="options/o1/carburettor/needle_mm",
                )
            )
            return build.model_copy(update={"options": (one,)})
    return build


def _on_its_lobe(build: Build, assumed: list[Reason]) -> Build:
    """With high-pressure pumps whose followers bear the engine's own speed: those of the car do."""
    option, top = build.options[0], build.engine.max_rpm
    if option.high_side is None:
        return build
    fastest = max(one.rpm for one in build.targets)
    pumps = tuple(bearing(one, fastest, top) for one in option.high_side.pumps)
    if pumps == option.high_side.pumps:
        return build
    part = pumps[0].part
    fast: dict[str, float | str] = {"spring_n": part.spring_n, "top_rpm": top, "lobes": str(part.lobes)}
    words = "High-pressure pump as {top_rpm} takes it: on a cam of {lobes} lobes, a spring of {spring_n}. Enter its own."
    assumed.append(Reason(words, fast, path="options/o1/high_side/pumps/0/part/lobes"))
    high = option.high_side.model_copy(update={"pumps": pumps})
    return build.model_copy(update={"options": (option.model_copy(update={"high_side": high}),)})


def _shared_out(build: Build, assumed: list[Reason]) -> Build:
    """With port injectors for what the direct side does not hold; by shares where it would hold all of it."""
    option = build.options[0]
    judged = judge_many([(build, option, one) for one in build.targets], ceilings=False)
    use: dict[str, float | str] = {"use_pct": DIRECT_USE_PCT}
    words = "Direct side of a usual size, up to {use_pct} of what it holds, port injectors for the rest: enter its own."
    if any(float(one.points.metered_kg_s[PEAK]) > 0 for one in judged):
        assumed.append(Reason(words, use, path="options/o1/delivery/ceiling_use_pct"))
        return build
    share: dict[str, float | str] = {"share_pct": DIRECT_SHARE_PCT}
    assumed.append(
        Reason(
            "Direct side of a usual size: it would carry all; it is given {share_pct} of the fuel.",
            share,
            path="options/o1/delivery/direct_share_pct",
        )
    )
    delivery = Delivery(mode="share", direct_share_pct=DIRECT_SHARE_PCT)
    return build.model_copy(update={"options": (option.model_copy(update={"delivery": delivery}),)})


def blend_pct(answers: Answers) -> float:
    """Alcohol in the fuel: as typed, otherwise as chosen."""
    return ETHANOL_PCT.get(answers.fuel, 0.0) if answers.ethanol_pct is None else answers.ethanol_pct


def starting_option(shelf: Shelf, answers: Answers) -> Option:
    """A system of the kind asked for, to be sized: its parts are overwritten by the search."""
    first = first_option(shelf).model_copy(update={"name": "First draft"})
    if answers.base_kpa is not None:
        first = first.model_copy(update={"regulator": first.regulator.model_copy(update={"base_kpa": answers.base_kpa})})
    if answers.feeding == "carburettor":
        return _carburetted(shelf, first, answers)
    referenced = answers.induction != "naturally aspirated"
    regulator = first.regulator.model_copy(update={"reference": "manifold" if referenced else "atmosphere"})
    first = first.model_copy(update={"regulator": regulator})
    if answers.feeding == "port injection":
        return first
    most_kw = max(answers.power_kw, answers.later_kw or 0.0)
    banks = answers.cylinders >= 6 and (answers.induction != "naturally aspirated" or most_kw > ONE_PUMP_KW)
    pumps = 2 if banks else 1
    line = Line(part=shelf.part("lines", "ptfe-6"), length_m=0.6, k_sum=2.0, runs="in the engine bay")
    high = HighSide(
        pumps=tuple(HighPump(part=shelf.part("high_pumps", "hp-80")) for _ in range(pumps)),
        branches=(line,) * pumps,
        injectors=DirectInjectorSet(part=shelf.part("direct_injectors", "di-630")),
        **({"feed": "split"} if pumps > 1 else {}),
    )
    base, part = answers.base_kpa or DIRECT_BASE_KPA, shelf.part("regulators", "reg-400")
    low = first.regulator.model_copy(update={"reference": "atmosphere", "base_kpa": base, "part": part})
    if answers.feeding == "direct and port injection":
        base = answers.base_kpa or PORT_BESIDE_BASE_KPA
        beside = {
            "delivery": Delivery(mode="ceiling", ceiling_use_pct=DIRECT_USE_PCT),
            "regulator": first.regulator.model_copy(update={"base_kpa": base, "part": part}),
        }
        return first.model_copy(update={"high_side": high, **beside})
    return first.model_copy(
        update={"injectors": None, "high_side": high, "delivery": Delivery(mode="direct only"), "regulator": low}
    )


def _carburetted(shelf: Shelf, first: Option, answers: Answers) -> Option:
    blown = answers.induction != "naturally aspirated"
    alcohol = blend_pct(answers) > 15.0 or answers.fuel == "methanol"
    through = answers.induction == "turbocharged"
    group = PumpGroup(id="g1", part=shelf.part("pumps", "pump-carb-315"), wiring=NEW_CIRCUIT)
    regulator = Regulator(
        part=shelf.part("regulators", "reg-carb-bypass-250"),
        base_kpa=CARBURETTOR_BASE_KPA + 5.0 * blown,
        arrangement="carburettor, bypass",
        reference="manifold" if through else "atmosphere",
    )
    tube = shelf.part("lines", "tube-10")
    return first.model_copy(
        update={
            "injectors": None,
            "carburettor": Carburettor(needles=2, alcohol_ok=alcohol),
            "pumps": (group,),
            "regulator": regulator,
            "feed": Line(part=tube, length_m=3.5, k_sum=3.0),
            "return_line": Line(part=tube, length_m=3.5, k_sum=3.0),
            "filter": Filter(part=shelf.part("filters", "filter-steel-40-630")),
            "suction": Suction(
                place="external",
                head_m=0.2,
                line=Line(part=shelf.part("lines", "rubber-12"), length_m=0.5, k_sum=1.0),
            ),
        }
    )
