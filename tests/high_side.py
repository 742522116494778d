"""Direct-injected systems the tests share: the cars of the check table of physics §7."""

from typing import Any

from bench.high_reference import Fuel
from iron_gulp.core.model import (
    Build,
    Delivery,
    DirectInjectorPart,
    DirectInjectorSet,
    Engine,
    HighPump,
    HighPumpPart,
    HighSide,
    InjectorSet,
    Option,
    PumpCurve,
    PumpGroup,
    PumpPart,
    RailTarget,
    Regulator,
    RegulatorPart,
    Wiring,
)
from tests.systems import a_target, build, check_option, injectors, line

LOW_CURVE = PumpCurve(
    voltage_v=13.5, pressure_kpa=(0, 200, 400, 600, 800), flow_l_h=(260, 235, 190, 120, 20), current_a=(4, 6, 8, 10, 12)
)
KW = 0.36497  # kg/kWh of gasoline at the crank: the consumption of the check table
LHV = {0: 43.4, 50: 34.84, 85: 29.16}
FUELS = {
    0: Fuel(712.9, 0.3151, 745.0, 124.4, 726.8, 0.4087),
    50: Fuel(734.9, 0.4316, 769.3, 165.0, 749.8, 0.5853),
    85: Fuel(750.3, 0.5318, 786.3, 125.0, 765.9, 0.7427),
}


def injectors_of(cc_min: float) -> DirectInjectorSet:
    return DirectInjectorSet(part=DirectInjectorPart(rated_flow_cc_min=cc_min, max_rail_kpa=60_000))


def car(
    kg_h: float | None,
    ethanol: int = 0,
    injectors: float = 1500,
    rpm: float = 6500,
    volts: float = 13.5,
    base_kpa: float = 500,
    reference: str = "atmosphere",
    floor: float | None = 8_000,
    target_kpa: float = 20_000,
    target: RailTarget | None = None,
    pumps_count: int = 1,
    cylinders: int = 4,
    boost: float = 0.0,
    ports: float | None = None,
    delivery: Delivery | None = None,
    high: dict[str, Any] | None = None,
    power_kw: float | None = None,
    fuel_temp_c: float = 40.0,
    vapour: Any = "as checked",
    **engine: Any,
) -> Build:
    """A car of the check table asked for so much fuel, or for a power."""
    side = {
        "pumps": (HighPump(part=HighPumpPart(max_rail_kpa=60_000)),),
        "branches": (line(8, 0.6, 2),),
        "injectors": injectors_of(injectors),
        "target": target or RailTarget(kpa=(target_kpa,)),
        "floor_kpa": floor,
        **(high or {}),
    }
    low = PumpPart(name="low", curves=(LOW_CURVE,))
    port = None if ports is None else InjectorSet(part=_port(ports))
    option = check_option(
        pumps=(PumpGroup(id="g1", part=low, count=pumps_count, wiring=Wiring(loop_m=0)),),
        injectors=port,
        high_side=HighSide(**side),
        delivery=delivery,
        regulator=Regulator(
            part=RegulatorPart(name="regulator", capacity_l_h=400, capacity_drop_kpa=100),
            base_kpa=base_kpa,
            reference=reference,
        ),
    )
    vapours = {name: fuel.vapour_kpa_abs for name, fuel in FUELS.items()}
    power = power_kw if kg_h is None else kg_h / KW * LHV[ethanol] / LHV[0]
    wanted = a_target(
        ethanol_pct=ethanol,
        fuel_temp_c=fuel_temp_c,
        power_kw=power,
        power_at="crank",
        boost_kpa=boost,
        rpm=rpm,
        supply_v=volts,
        vapour_kpa_abs=vapours[ethanol] if vapour == "as checked" else vapour,
        bsfc_kg_kwh=KW,
    )
    own = Engine(displacement_l=2.0, cylinders=cylinders, max_rpm=9000, **engine)
    return build(option, wanted, engine=own)


def _port(cc_min: float) -> Any:
    return injectors(cc_min)


def car_a(kg_h: float, **changes: Any) -> Build:
    """Car A of the check table; what belongs to the high side may be given by name."""
    names = ("pumps", "branches", "rails", "feed")
    high = {name: changes.pop(name) for name in names if name in changes}
    if len(high.get("pumps", ())) > 1 and "branches" not in high:
        high["branches"] = ()
    return car(kg_h, high=high, **changes)


def twin(feed: str) -> Build:
    """Twin pumps on rails of their own, fed split or one after the other."""
    part = HighPumpPart(bore_mm=9, lift_mm=3.5, inlet_area_mm2=2.6, max_rail_kpa=60_000)
    branches = {"split": (line(6, 0.5, 2), line(6, 0.5, 2)), "series": (line(5, 0.5, 2), line(3.2, 0.3, 5))}
    high = {
        "pumps": tuple(HighPump(part=part, bank=bank) for bank in (1, 2)),
        "rails": "own",
        "feed": feed,
        "branches": branches[feed],
    }
    return car(174, rpm=7000, base_kpa=460, cylinders=6, pumps_count=3, high=high)


def asked(one: Build) -> Option:
    """The only option of a build."""
    return one.options[0]
