"""Rules about the suction side: vapour margin, external pumps that pull, pre-filters, lift stage and surge tank."""

from collections.abc import Iterator, Sequence

from ..judge import KEPT, TargetVerdict
from ..model import DRIVEN_HARD, WITH_FILTER, Edit, FilterPart, Option, Pickup
from ..physics import M3_S_PER_L_H, TIGHT
from ..solve import filter_loss_kpa, line_loss_kpa
from .base import Context, Finding, Remedy, names

WARN_MARGIN_KPA = 20.0
COARSEST_NEEDED_UM = 60.0
SLOSH_G = 0.4
TIGHT_SUCTION_KPA = 1.0
PULLED_KPA, MOUNTED_M = 10.0, 0.15
INJECTOR_UM, CARBURETTOR_UM = 10.0, 40.0


def margin_kpa(verdict: TargetVerdict) -> float:
    """Available suction head less what a running pump needs, at the worst inlet and point of a target, kPa."""
    return min(available - needed for available, needed in verdict.heads_kpa)


def vapour_margin(context: Context) -> Iterator[Finding]:
    """Too little head above the vapour pressure of this blend at this temperature."""
    thin = sorted((v for v in context.verdicts if margin_kpa(v) < WARN_MARGIN_KPA), key=margin_kpa)
    if not thin:
        return
    worst, left = thin[0], margin_kpa(thin[0])
    yield Finding(
        "suction-margin",
        "stop" if left <= 0 else "warn",
        "fuel",
        "Fuel is close to boiling at the pump inlet",
        "On {target_name} the inlet sees {inlet_kpa} (gauge) and the fuel at {fuel_temp_c} boils at {vapour_kpa} "
        "absolute: {margin_kpa} is left above what the pump needs; {wanted_kpa} is wanted.",
        "Vapour at the inlet stops a pump faster than any restriction downstream, hot fuel and strong suction first.",
        {
            "target_name": worst.target.name,
            "inlet_kpa": float(worst.points.hydraulics.inlet_kpa.min()),
            "fuel_temp_c": worst.target.fuel_temp_c,
            "vapour_kpa": worst.fuel.vapour_kpa_abs,
            "margin_kpa": left,
            "wanted_kpa": WARN_MARGIN_KPA,
        },
        names(thin),
        (
            Remedy("Shorten or widen the suction line, mount the pump lower, or feed it from a surge tank"),
            Remedy("Keep the fuel cooler: stage the pumps, return below the level, shield the tank"),
        ),
    )


def pulls_uphill(context: Context) -> Iterator[Finding]:
    """An external pump above the fuel, or with a long or narrow suction line: it pushes, it does not pull."""
    suction = context.option.suction
    if suction.place != "external":
        return
    losses = _lost_kpa(context.option, context.verdicts)
    if suction.head_m >= 0 and losses < PULLED_KPA:
        return
    # A diaphragm pump on the block is made to pull: it is judged by suction loss and vapour margin alone.
    mechanical = all(group.part.kind == "mechanical" for group in context.option.pumps)
    if mechanical and min(margin_kpa(verdict) for verdict in context.verdicts) >= WARN_MARGIN_KPA:
        return
    yield Finding(
        "external-pump-pulls",
        "warn",
        "fuel",
        "The pump has to pull its fuel",
        f"The fuel stands {{head_m}} {'above' if suction.head_m >= 0 else 'below'} the pump inlet and the suction side "
        "loses {loss_kpa}.",
        "Fuel pumps push, they do not pull: mount an external pump below the fuel level, close to the tank, with a "
        "suction line at least as wide as its inlet and no tight bends.",
        {"head_m": abs(suction.head_m), "loss_kpa": losses},
        (),
        lambda: (
            *_lower_and_wider(context),
            Remedy("Gravity-feed test: a full line at the pump inlet before it is first run"),
        ),
    )


def _lost_kpa(option: Option, verdicts: Sequence[TargetVerdict]) -> float:
    """What the suction side costs at worst below the pressure in the tank, kPa."""
    return max(option.tank.pressure_kpa - float(one.points.hydraulics.inlet_kpa.min()) for one in verdicts)


def _lower_and_wider(context: Context) -> Iterator[Remedy]:
    """The pump below the fuel, and with it the narrowest suction line that feeds it there."""
    suction = context.option.suction
    lower = ((context.path("suction/head_m"), MOUNTED_M),) if suction.head_m < 0 else ()
    fitted = suction.line
    parts = [] if fitted is None else list(context.catalogue.lines_above(fitted.part))
    wider = [((context.path("suction/line/part"), part.model_dump(mode="json")),) for part in parts]
    tried = [*([lower] if lower else []), *((*lower, *edit) for edit in wider)]
    label = "Mount it {head_m} below the fuel level" if lower else ""
    for number, (edits, verdicts) in enumerate(zip(tried, context.trials(tried), strict=True)):
        if verdicts is None or _lost_kpa(context.option, verdicts) >= PULLED_KPA:
            continue
        line = number - (1 if lower else 0)
        if line < 0:
            yield Remedy(label, edits, {"head_m": MOUNTED_M})
        else:
            words = f"{label}, its suction line in {{part}}" if label else "Fit a suction line in {part}"
            yield Remedy(words, edits, {"head_m": MOUNTED_M, "part": parts[line].name})
        return
    if lower:
        yield Remedy(label, lower, {"head_m": MOUNTED_M})


def pre_filter(context: Context) -> Iterator[Finding]:
    """A pre-filter too fine for the suction side."""
    fitted = context.option.suction.filter
    if fitted is None:
        return
    worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.supply_m3_s.max()))
    drop = float(filter_loss_kpa(fitted, worst.points.hydraulics.supply_m3_s).max())
    if fitted.part.grade_um >= COARSEST_NEEDED_UM and drop < 5.0:
        return
    yield Finding(
        "pre-filter-fine",
        "warn",
        "fuel",
        "Pre-filter too fine for the suction side",
        "{part} ({grade_um}) costs {drop_kpa} before the pump.",
        "On the suction side every kilopascal comes off the head above boiling. Protect the pump with a coarse screen "
        "(100 µm class) and the injectors with a fine filter on the pressure side.",
        {"part": fitted.part.name, "grade_um": fitted.part.grade_um, "drop_kpa": drop},
        (worst.target.name,),
        tuple(_strainer(context, float(worst.points.hydraulics.supply_m3_s.max()) / M3_S_PER_L_H)),
    )


def _strainer(context: Context, flow_l_h: float) -> Iterator[Remedy]:
    """The smallest coarse strainer that passes what the pumps draw; without a strainer at hand, none at all."""
    fitted = context.option.suction.filter
    coarse = [one for one in context.catalogue.filters if one.grade_um >= STRAINER_UM and one.rated_flow_l_h >= flow_l_h]
    for part in sorted(coarse, key=lambda one: (one.rated_flow_l_h, -one.grade_um))[:1]:
        clean = ((context.path("suction/filter/clogging"), 1.0),) if fitted is not None and fitted.clogging > 1.0 else ()
        edits = ((context.path("suction/filter/part"), part.model_dump(mode="json")), *clean)
        yield Remedy("Fit {part}", edits, {"part": part.name})


STRAINER_UM = 100.0


def _injector_um(context: Context) -> float:
    """The finest filter that injectors fitted ask for, µm; the rule of thumb where they do not say."""
    port = context.option.injectors
    told = () if port is None else (port.part.filter_um, None if port.second is None else port.second.part.filter_um)
    return min((one for one in told if one is not None), default=INJECTOR_UM)


def filter_grade(context: Context) -> Iterator[Finding]:
    """The filter after the pumps is missing, or too coarse for the injectors."""
    fitted, bowl = context.option.filter, context.option.carburettor
    wanted_um = _injector_um(context) if bowl is None else CARBURETTOR_UM
    if fitted is not None and fitted.part.grade_um <= wanted_um * 1.5:
        return
    if fitted is None and context.option.regulator.part.works == WITH_FILTER:
        return  # it brings its own
    best = filter_wanted(context)
    what = "injectors" if bowl is None else "needles"
    values: dict[str, float | str] = {"what": what, "wanted_um": wanted_um}
    if fitted is not None:
        values |= {"part": fitted.part.name, "grade_um": fitted.part.grade_um}
    yield Finding(
        "filter-coarse" if fitted else "filter-missing",
        "warn",
        "feed",
        f"Filter too coarse for the {what}" if fitted else f"No filter before the {what}",
        "{part} keeps back {grade_um} and coarser; the {what} want {wanted_um}."
        if fitted
        else "Nothing keeps dirt from the {what}: they want {wanted_um} before them.",
        "One particle holds an injector or a needle open or closed.",
        values,
        (),
        (Remedy("Fit a filter of that grade for the flow of these pumps"),)
        if best is None
        else (Remedy("Fit {part}", (filter_edit(context, best),), {"part": best.name}),),
    )


def filter_wanted(context: Context) -> FilterPart | None:
    """The smallest filter fine enough for what it stands before that passes what the pumps bring."""
    wanted_um = _injector_um(context) if context.option.carburettor is None else CARBURETTOR_UM
    passing = max(float(v.points.hydraulics.supply_m3_s.max()) for v in context.verdicts) / M3_S_PER_L_H
    return next(iter(context.catalogue.filters_for(passing, wanted_um)), None)


def filter_edit(context: Context, part: FilterPart) -> Edit:
    """That filter fitted, new."""
    return context.path("filter"), {"part": part.model_dump(mode="json"), "clogging": 1.0}


def pickup_uncovers(context: Context) -> Iterator[Finding]:
    """Nothing holds fuel at the pickup while the car is driven hard."""
    pickup, build = context.option.pickup, context.build
    hardest = max(context.verdicts, key=lambda v: abs(v.target.accel_g))
    if pickup is None or pickup.holds_fuel or context.option.lift is not None:
        return
    if build.car.use == "street" and abs(hardest.target.accel_g) < SLOSH_G:
        return
    yield Finding(
        "pickup-uncovers",
        "warn",
        "fuel",
        "Nothing holds fuel at the pickup",
        "{pickup} in an open tank, {use} use, up to {accel_g} along the car: fuel runs away from the pickup well before "
        "the tank is empty.",
        "Air at the pickup is no fuel at the injectors, at full load and in corners first.",
        {"pickup": pickup.kind.capitalize(), "use": build.car.use, "accel_g": abs(hardest.target.accel_g)},
        (hardest.target.name,),
        (
            Remedy("Put it in a baffled sump", ((context.path("pickup/kind"), "baffled sump"),)),
            Remedy("Feed the pumps from a surge tank kept full by a lift pump"),
        ),
    )


def pickup_untold(context: Context) -> Iterator[Finding]:
    """A car driven hard of which nobody said what holds fuel where it leaves the tank."""
    option, use = context.option, context.build.car.use
    if use not in DRIVEN_HARD or option.pickup is not None or option.lift is not None:
        return
    sump = Pickup(kind="baffled sump").model_dump(mode="json")
    yield Finding(
        "pickup-untold",
        "warn",
        "fuel",
        "No pickup entered on a car driven hard",
        "For {use} use neither a pickup nor a surge tank is entered: what holds fuel there in corners and under braking?",
        "An open tank uncovers its outlet in the first long corner with less than half a tank, and the pumps draw air.",
        {"use": use},
        (),
        (
            Remedy("Enter the baffled sump that is fitted, or fit one", ((context.path("pickup"), sump),)),
            Remedy("Or a cell with trap doors, or a surge tank kept full by a lift pump: enter what there is"),
        ),
    )


def tight_suction(context: Context) -> Iterator[Finding]:
    """Sharp elbows and blocks on the suction side."""
    line = context.option.suction.line
    tight = () if line is None else tuple(one for one in line.fittings if one.kind in TIGHT)
    if line is None or not tight:
        return
    worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.supply_m3_s.max()))
    flow, fuel = worst.points.hydraulics.supply_m3_s.max(keepdims=True), worst.fuel
    swept = line.model_copy(
        update={
            "fittings": tuple(
                one.model_copy(update={"kind": "swept elbow, 90°"}) if one in tight else one for one in line.fittings
            )
        }
    )
    now, then = (float(line_loss_kpa(one, flow, fuel.density_kg_m3, fuel.viscosity_mpa_s)[0]) for one in (line, swept))
    yield Finding(
        "suction-tight",
        "note" if now - then < TIGHT_SUCTION_KPA else "warn",
        "fuel",
        "Tight fittings before the pump",
        "{count} tight fittings: the suction line loses {now_kpa}, with swept ones {then_kpa}.",
        "Every sharp turn on the suction side is a place where hot fuel turns to vapour.",
        {"count": str(sum(one.count for one in tight)), "now_kpa": now, "then_kpa": then},
        (worst.target.name,),
        (
            Remedy(
                "Use swept elbows",
                tuple((context.path(f"suction/line/fittings/{one.id}/kind"), "swept elbow, 90°") for one in tight),
            ),
        ),
    )


def filter_flow(context: Context) -> Iterator[Finding]:
    """A filter passed by more than it is rated for."""
    for path, name, fitted in (
        ("filter", "The filter", context.option.filter),
        ("suction/filter", "The pre-filter", context.option.suction.filter),
    ):
        if fitted is None:
            continue
        worst = max(context.verdicts, key=lambda v: float(v.points.hydraulics.supply_m3_s.max()))
        flow = worst.points.hydraulics.supply_m3_s.max(keepdims=True)
        flow_l_h, rated = float(flow[0]) / M3_S_PER_L_H, fitted.part.rated_flow_l_h
        if flow_l_h <= rated * KEPT:
            continue
        larger = sorted(
            (
                one
                for one in context.catalogue.filters
                if one.grade_um == fitted.part.grade_um and one.rated_flow_l_h >= flow_l_h
            ),
            key=lambda one: one.rated_flow_l_h,
        )
        yield Finding(
            "filter-flow",
            "warn",
            "feed" if path == "filter" else "fuel",
            f"{name} passes more than it is rated for",
            "{part} is rated for {rated_l_h}; {flow_l_h} passes and loses {drop_kpa}.",
            "Past its rating a filter loses pressure quickly, clogs early and lets its element move.",
            {
                "part": fitted.part.name,
                "rated_l_h": rated,
                "flow_l_h": flow_l_h,
                "drop_kpa": float(filter_loss_kpa(fitted, flow)[0]),
            },
            (worst.target.name,),
            tuple(
                Remedy(
                    "Fit {part}",
                    (
                        (context.path(f"{path}/part"), one.model_dump(mode="json")),
                        *(((context.path(f"{path}/clogging"), 1.0),) if fitted.clogging > 1.0 else ()),
                    ),
                    {"part": one.name},
                )
                for one in larger[:1]
            ),
        )


RULES = (
    filter_flow,
    vapour_margin,
    pulls_uphill,
    pickup_uncovers,
    pickup_untold,
    tight_suction,
    pre_filter,
    filter_grade,
)
