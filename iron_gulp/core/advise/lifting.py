"""Rules about the lift stage and the surge tank it fills: whether they last, and as the shop wants it (physics §6)."""

from collections.abc import Iterator
from functools import partial

from ..judge import Surge, TargetVerdict
from ..model import Edit, PumpPart, free_flow, same_work
from ..physics import M3_S_PER_L_H, current_a
from .base import Context, Finding, Remedy, Value, highest, names
from .segments import rewired, rewired_words

BEHIND = 0.05  # of what is drawn: missing less than that is within what is known of a pump
LIFT_KPA = 50.0
SURGE_L = (1.0, 1.6, 2.5, 4.0, 6.3, 10.0)  # preferred numbers


def lift_short(context: Context) -> Iterator[Finding]:
    """The lift stage and its surge tank do not last as long as the car is at this load, or not as the shop wants it."""
    lift = context.option.lift
    if lift is None:
        return
    over = context.over("lift")
    behind = [v for v in context.verdicts if v.surge is not None and v.surge.drawn_m3_s > v.surge.lifted_m3_s]
    if not over and not behind:
        return
    worst = over[0] if over else max(behind, key=lambda v: _missing(v.surge))
    tank = worst.surge
    assert tank is not None
    graver = lift.school == "lift carries all" and _missing(tank) > BEHIND
    empties = tank.left_l <= 0 or not over
    yield Finding(
        "lift-short" if over else "lift-behind",
        "stop" if over else "warn" if graver else "note",
        "fuel",
        "The surge tank runs empty" if over else "The surge tank covers what the lift stage does not bring",
        "On {target_name} {drawn_l_h} leaves the surge tank and the lift stage brings {lifted_l_h}: "
        + (
            "a full tank lasts {lasts_s}, and the load {load_s}."
            if over and empties
            else "over its use, {share_pct} of the time at full load, {mean_l_h} are drawn."
            if over
            else "a full tank lasts {lasts_s}; {load_s} at load leave {left_l} in it, full again {refill_s} later."
        ),
        "Once it is empty the main pumps take air at full load."
        if over
        else "A factory pump may fill between pulls what the tank gives in them. Where the lift stage is to carry full "
        "load by itself, it falls short.",
        {
            "target_name": worst.target.name,
            "drawn_l_h": tank.drawn_m3_s / M3_S_PER_L_H,
            "lifted_l_h": tank.lifted_m3_s / M3_S_PER_L_H,
            "mean_l_h": tank.mean_m3_s / M3_S_PER_L_H,
            "share_pct": tank.share * 100.0,
            "lasts_s": tank.lasts_s,
            "load_s": tank.load_s,
            "left_l": tank.left_l,
            "refill_s": tank.refill_s,
        },
        names(over or behind),
        partial(_lifting_more, context, bool(over)),
    )


def _missing(tank: Surge | None) -> float:
    """The share of what is drawn that is not lifted."""
    return 0.0 if tank is None or tank.drawn_m3_s <= 0 else 1.0 - tank.lifted_m3_s / tank.drawn_m3_s


def _fitted(context: Context, part: PumpPart) -> tuple[Edit, ...]:
    """Another lift pump, unworn, with the fuse and the wire its current takes."""
    lift = context.option.lift
    assert lift is not None
    path, volts = context.path("lift"), max(one.target.supply_v for one in context.verdicts)
    rise = max((v.lift.rise_kpa for v in context.verdicts if v.lift is not None), default=LIFT_KPA)
    fresh: tuple[Edit, ...] = ((f"{path}/derate_pct", 0.0),) if lift.derate_pct else ()
    amps = SPARE_A * float(current_a(part.tables(), rise, volts))
    wired = rewired(f"{path}/wiring", lift.wiring, part, amps, context.build.rules)
    return ((f"{path}/part", part.model_dump(mode="json")), *fresh, *wired)


def _fit_remedy(part: PumpPart, edits: tuple[Edit, ...]) -> Remedy:
    changed = {path.rpartition("/")[2]: value for path, value in edits}
    if "fuse_a" not in changed:
        return Remedy("Fit {part}", edits, {"part": part.name})
    values: dict[str, Value] = {name: changed[name] for name in ("fuse_a", "area_mm2")}
    return Remedy("Fit {part}" + rewired_words(edits), edits, {"part": part.name, **values})


SPARE_A = 1.2  # the larger flow meets more pressure
CIRCUIT = 0.35  # what relay, fuse, holder and wire of a second pump cost, of the pump's price: shop figure
GROWS = 0.5  # a pump's price goes with the root of its flow: rule of thumb, where none is stated


def _beside_costs(part: PumpPart) -> float:
    """A second pump like it with its circuit; in money where its price is stated, else of that price."""
    return (part.price or 1.0) * (1.0 + CIRCUIT)


def _costs(larger: PumpPart, part: PumpPart) -> float:
    """A larger pump in the same terms."""
    if part.price and larger.price:
        return larger.price
    return float((part.price or 1.0) * (free_flow(larger) / free_flow(part)) ** GROWS)


def _lifting_more(context: Context, over: bool) -> Iterator[Remedy]:
    """Less to lift, a larger lift pump or a second one, a larger tank; the school said where that is what is meant."""
    lift = context.option.lift
    assert lift is not None
    path = context.path("lift")
    all_carried = lift.school == "lift carries all"

    def enough(verdicts: list[TargetVerdict] | None) -> bool:
        if verdicts is None or highest(verdicts, "lift") > 1:
            return False
        return not all_carried or all(_missing(one.surge) <= BEHIND for one in verdicts)

    if lift.return_to == "main tank":
        edits: tuple[Edit, ...] = ((f"{path}/return_to", "surge tank"),)
        if enough(context.trial(edits)):
            yield Remedy("Return to the surge tank, so that only what the engine burns must be lifted", edits)
    rise = max((v.lift.rise_kpa for v in context.verdicts if v.lift is not None), default=LIFT_KPA)
    larger = [one for one in context.catalogue.pumps_above(lift.part, rise) if same_work(one, lift.part)]
    tried = [_fitted(context, one) for one in larger]
    one_more: tuple[Edit, ...] = ((f"{path}/count", lift.count + 1),)
    judged = context.trials([*tried, one_more] if lift.count < 4 else tried)
    fits = next((n for n in range(len(tried)) if enough(judged[n])), None)
    found = [] if fits is None else [_fit_remedy(larger[fits], tried[fits])]
    if lift.count < 4 and enough(judged[-1]):
        second = Remedy("Add a lift pump like it, with a circuit of its own", one_more)
        cheaper = fits is not None and lift.count == 1 and _beside_costs(lift.part) < _costs(larger[fits], lift.part)
        found = [second, *found] if cheaper else [*found, second]
    yield from found
    if over:
        for volume in SURGE_L:
            bigger: tuple[Edit, ...] = ((f"{path}/surge_l", volume),)
            if volume > lift.surge_l and enough(context.trial(bigger)):
                yield Remedy("A surge tank of {surge_l}", bigger, {"surge_l": volume})
                break
    elif all_carried:
        yield Remedy("Say that the tank is to cover the pull", ((f"{path}/school", "tank covers the pull"),))


RULES = (lift_short,)
