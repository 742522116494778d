"""Rules about tanks: overflow and vent, what they hold against the time at load, the heat the pumps leave in them."""

from collections.abc import Iterator
from math import ceil

from ..judge import TargetVerdict
from ..physics import G_M_S2, M3_S_PER_L_H, vent_drop_kpa
from ..solve import IDLE, PEAK, fuel_state, motor_power_w
from ..study import Overflow, dries, surge_lap
from ..study import overflow as standing_overflow
from .base import Context, Finding, Remedy
from .lifting import SURGE_L
from .suction import WARN_MARGIN_KPA, margin_kpa

OVERFLOW_KPA, VENT_KPA, FILL_KPA = 10.0, 2.0, 5.0
BORES_MM = (6.0, 8.0, 10.0, 12.0, 16.0, 20.0, 25.0)
HOT_MINUTES = 20.0
_STEP_K = 5.0
SPECIFIC_HEAT_KJ_KG_K = 2.2  # gasoline; alcohol holds a tenth more


def overflow(context: Context) -> Iterator[Finding]:
    """What the surge tank sends back must leave it without putting it under pressure."""
    lift = context.option.lift
    if lift is None:
        return
    worst = max(context.verdicts, key=lambda verdict: verdict.lift.flow_m3_s if verdict.lift else 0.0)

    def stands(bore_mm: float) -> Overflow:
        found = standing_overflow(worst, bore_mm, OVERFLOW_KPA / 2)
        assert found is not None
        return found

    here = stands(lift.overflow_mm)
    if here.kpa <= OVERFLOW_KPA:
        return
    wide = next((bore for bore in BORES_MM if bore > lift.overflow_mm and stands(bore).kpa <= OVERFLOW_KPA / 2), None)
    path = context.path("lift/overflow_mm")
    yield Finding(
        "overflow-small",
        "warn",
        "fuel",
        "The surge tank's overflow is too narrow",
        "Light running sends {back_l_h} back to the tank through {bore_mm}, as long as the lift line (estimate): "
        "{lost_kpa} stand in the surge tank.",
        "A surge tank under pressure pushes fuel up the return and out of its vent, and its seams were not made for it.",
        {"back_l_h": here.back_m3_s / M3_S_PER_L_H, "bore_mm": lift.overflow_mm, "lost_kpa": here.kpa},
        (),
        () if wide is None else (Remedy("Overflow of {bore_mm}", ((path, wide),), {"bore_mm": wide}),),
    )


def runs_dry(context: Context) -> Iterator[Finding]:
    """The surge tank must last as long as the pickup brings air, for the time at load; a lift pump that is short is a
    finding of its own."""
    lift = context.option.lift
    if lift is None:
        return
    dry = [(verdict, lap) for verdict in context.verdicts if (lap := surge_lap(verdict)) and dries(verdict, lap)]
    if not dry:
        return
    worst, lap = min(dry, key=lambda one: one[1].empty_s or 0.0)

    def lasts(volume_l: float) -> bool:
        found = [(verdict, surge_lap(verdict, volume_l)) for verdict in context.verdicts]
        return not any(one is not None and dries(verdict, one) for verdict, one in found)

    larger = next((volume for volume in SURGE_L if volume > lift.surge_l and lasts(volume)), None)
    yield Finding(
        "surge-dry",
        "warn",
        "fuel",
        "The surge tank runs dry in the turns",
        "At full load {target_name} takes {drawn_l_h}; with the pickup dry for {uncovered_s} at a time a surge tank of "
        "{surge_l} is empty after {empty_s}.",
        "The main pumps then draw air: the rail falls at once, under load. Keeping the pickup in fuel (baffles, trap "
        "doors, a second lift pump on the other side) comes before a larger tank.",
        {
            "target_name": worst.target.name,
            "drawn_l_h": lap.drawn_m3_s / M3_S_PER_L_H,
            "uncovered_s": lift.uncovered_s,
            "surge_l": lift.surge_l,
            "empty_s": lap.empty_s or 0.0,
        },
        tuple(verdict.target.name for verdict, _ in dry),
        (
            Remedy("Keep the pickup in fuel, or lift from both sides of the tank")
            if larger is None
            else Remedy("A surge tank of {surge_l}", ((context.path("lift/surge_l"), larger),), {"surge_l": larger}),
        ),
    )


def vent(context: Context) -> Iterator[Finding]:
    """The tank must breathe in as fast as the engine burns: what is pumped and returned takes its own place."""
    tank = context.option.tank
    worst = max(context.verdicts, key=lambda verdict: float(verdict.points.hydraulics.delivered_m3_s[PEAK]))
    drawn = float(worst.points.hydraulics.delivered_m3_s[PEAK])
    lost = float(vent_drop_kpa(drawn, tank.vent_mm))
    if lost <= VENT_KPA:
        return
    closed = tank.vent_mm == 0
    filled = _bore_mm((tank.fill_l_h or 0.0) * M3_S_PER_L_H, FILL_KPA / 2)
    wide = max(_bore_mm(drawn, VENT_KPA / 4) or BORES_MM[-1], filled or 0.0)
    yield Finding(
        "tank-vent",
        "stop" if closed else "warn",
        "fuel",
        "The tank cannot breathe",
        "{target_name} draws {drawn_l_h} from a closed tank: it goes under vacuum until the pumps starve."
        if closed
        else "{target_name} draws {drawn_l_h}; the air taking its place costs {lost_kpa} through a vent of {vent_mm}.",
        "Pressure that recovers when the cap is opened is this fault. A vent goes up, over a roll-over valve, to a place "
        "where its vapour finds no flame.",
        {
            "target_name": worst.target.name,
            "drawn_l_h": drawn / M3_S_PER_L_H,
            "lost_kpa": 0.0 if closed else lost,
            "vent_mm": tank.vent_mm,
        },
        (worst.target.name,),
        (Remedy("Vent it with {bore_mm}", ((context.path("tank/vent_mm"), wide),), {"bore_mm": wide}),),
    )


def _bore_mm(flow_m3_s: float, drop_kpa: float) -> float | None:
    """The smallest usual bore that passes this much air within a drop; None when none does."""
    return next((bore for bore in BORES_MM if float(vent_drop_kpa(flow_m3_s, bore)) <= drop_kpa), None)


def filling(context: Context) -> Iterator[Finding]:
    """Filled past its vent, a tank must let out air as fast as fuel comes in, or the fuel stands in the neck."""
    tank = context.option.tank
    if tank.fill_l_h is None or tank.vent_mm == 0:
        return
    lost = float(vent_drop_kpa(tank.fill_l_h * M3_S_PER_L_H, tank.vent_mm))
    if lost <= FILL_KPA:
        return
    wide = _bore_mm(tank.fill_l_h * M3_S_PER_L_H, FILL_KPA / 2)
    heaviest = max(verdict.fuel.density_kg_m3 for verdict in context.verdicts)
    yield Finding(
        "tank-fill",
        "warn",
        "fuel",
        "The vent is too narrow for filling",
        "Filled at {fill_l_h}, the air leaving through {vent_mm} holds {lost_kpa} in the tank: fuel stands {neck_m} up "
        "the neck (estimate).",
        "It spits back at whoever fills it, beside a hot car. A filler with its own vent, as wide as the filler asks "
        "for, is the usual way; ground the nozzle to the tank before opening it.",
        {
            "fill_l_h": tank.fill_l_h,
            "vent_mm": tank.vent_mm,
            "lost_kpa": lost,
            "neck_m": lost * 1000.0 / (heaviest * G_M_S2),
        },
        (),
        (
            (Remedy("Fit a filler with a vent of its own, or fill slower"),)
            if wide is None
            else (Remedy("Vent it with {bore_mm}", ((context.path("tank/vent_mm"), wide),), {"bore_mm": wide}),)
        ),
    )


def time_at_load(context: Context) -> Iterator[Finding]:
    """The tank must hold what the time at load burns."""
    volume = context.option.tank.volume_l
    short = []
    for verdict in context.verdicts:
        if verdict.target.load_s is not None:
            burnt = float(verdict.points.hydraulics.delivered_m3_s[PEAK]) * verdict.target.load_s * 1000.0
            short += [(burnt, verdict)] if burnt > 0.9 * volume else []
    if not short:
        return
    burnt, verdict = max(short, key=lambda one: one[0])
    yield Finding(
        "tank-small",
        "warn",
        "fuel",
        "The tank is smaller than the time at load asks for",
        "{target_name} burns {burnt_l} in {load_s} at load; the tank holds {tank_l}.",
        "The last tenth of a tank is where pickups draw air.",
        {
            "target_name": verdict.target.name,
            "burnt_l": burnt,
            "load_s": verdict.target.load_s or 0.0,
            "tank_l": volume,
        },
        tuple(one.target.name for _, one in short),
        (Remedy("A larger tank, or a stop for fuel: say in the target how long it lasts"),),
    )


def heating(context: Context) -> Iterator[Finding]:
    """Fuel that goes round takes the pumps' power with it: what that does to the vapour margin."""
    option = context.option
    if option.return_cooler is not None:
        return

    def lost_kpa(verdict: TargetVerdict, warmer: float) -> float:
        hot = verdict.target.model_copy(update={"fuel_temp_c": verdict.target.fuel_temp_c + warmer})
        return fuel_state(context.build, hot).vapour_kpa_abs - verdict.fuel.vapour_kpa_abs

    worst = None
    for verdict in context.verdicts:
        left = margin_kpa(verdict)
        if left < WARN_MARGIN_KPA:
            continue
        hyd, fuel = verdict.points.hydraulics, verdict.fuel
        watts = float(motor_power_w(option, hyd)[:, IDLE].sum())
        held = 0.5 * option.tank.volume_l / 1000.0 * fuel.density_kg_m3 * SPECIFIC_HEAT_KJ_KG_K * 1000.0
        warmer = min(watts * HOT_MINUTES * 60.0 / held, 90.0 - verdict.target.fuel_temp_c)
        # Vapour pressure rises with temperature: in whole steps upwards it is known already, and mostly enough.
        if lost_kpa(verdict, _STEP_K * ceil(warmer / _STEP_K)) <= left:
            continue
        then = left - lost_kpa(verdict, warmer)
        if then < 0 and (worst is None or then < worst[1]):
            worst = (verdict, then, warmer, watts)
    if worst is None:
        return
    verdict, then, warmer, watts = worst
    yield Finding(
        "fuel-heats",
        "note",
        "fuel",
        "Fuel may boil at the pump once it has gone round for a while",
        "{heat_w} go into the fuel while the engine idles. Half a tank is {warmer_k} warmer after {minutes} (upper "
        "estimate: nothing given to the air); the {margin_kpa} above what the pump needs on {target_name} are then gone.",
        "What the engine does not burn goes round as heat. Fewer pumps at idle, or less pressure to pump against, "
        "keep it cool.",
        {
            "heat_w": watts,
            "warmer_k": warmer,
            "minutes": f"{HOT_MINUTES:.0f} min",
            "margin_kpa": margin_kpa(verdict),
            "target_name": verdict.target.name,
        },
        (verdict.target.name,),
        (Remedy("Stage the pumps, drive them by speed, or fit a fuel cooler in the return"),),
    )


RULES = (overflow, runs_dry, vent, filling, time_at_load, heating)
