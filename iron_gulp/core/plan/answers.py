"""What a new user is asked: the engine and the power; everything else has a default that shows."""

from typing import ClassVar, Literal, get_args

from pydantic import Field, ValidationInfo, field_validator

from ..model import CustomFuel, Model

Feeding = Literal["port injection", "direct injection", "direct and port injection", "carburettor"]
Fuel = Literal[
    "pump fuel",
    "light blend, E30",
    "half blend, E50",
    "strong blend, E85",
    "pure ethanol, E98",
    "methanol",
    "race gasoline",
    "race gasoline, oxygenated",
]
ETHANOL_PCT: dict[str, float] = {
    "pump fuel": 10.0,
    "light blend, E30": 30.0,
    "half blend, E50": 50.0,
    "strong blend, E85": 85.0,
    "pure ethanol, E98": 98.0,
}
# Race gasoline knocks later and burns alike. With the most oxygen EN 228 allows (3.7 % by mass) from MTBE, C5H12O: a
# fifth of its mass, at 11.7 of air and 35.2 MJ/kg (NIST: 3369 kJ/mol gross), the rest gasoline (Heywood, appendix D).
RACE_FUELS: dict[str, CustomFuel] = {
    "race gasoline": CustomFuel(
        id="race", name="Race gasoline", density_15c_kg_m3=745.0, stoich_afr=14.7, lhv_mj_kg=43.4
    ),
    "race gasoline, oxygenated": CustomFuel(
        id="race", name="Race gasoline, oxygenated", density_15c_kg_m3=745.0, stoich_afr=14.1, lhv_mj_kg=41.7
    ),
}
Stays = Literal["may change", "must stay"]


class Answers(Model):
    """Answers to the questions of a new build."""

    not_asked: ClassVar[tuple[str, ...]] = ()
    when_empty: ClassVar[dict[str, str]] = {
        "boost_kpa": "what the power takes",
        "rpm": "by the engine's size",
        "pump_fuel_kw": "not asked for",
        "later_kw": "none",
        "ethanol_pct": "as chosen",
        "budget": "none",
        "base_kpa": "as injectors are rated",
        "injector_cc_min": "not known",
        "injector_at_kpa": "the usual rating",
        "pump_l_h": "not known",
        "pump_at_kpa": "the usual for its work",
        "feed_mm": "not known",
        "regulator_kpa": "not known",
        "regulator_l_h": "not known",
        "tank_l": "as an ordinary road car's",
    }

    name: str = Field("New build", min_length=1, max_length=80, title="Call it")
    displacement_l: float = Field(2.0, ge=0.1, le=20, title="Engine")
    cylinders: int = Field(4, ge=1, le=16, title="Cylinders")
    induction: Literal["naturally aspirated", "turbocharged", "supercharged"] = Field("turbocharged", title="Breathes")
    feeding: Feeding = Field("port injection", title="Fed by")
    power_kw: float = Field(ge=5, le=3000, title="Power wanted")
    power_at: Literal["wheels", "crank"] = Field("wheels", title="at the")
    fuel: Fuel = Field("pump fuel", title="On")
    ethanol_pct: float | None = Field(None, ge=0, le=100, title="Blend, where another")
    pump_fuel_kw: float | None = Field(None, ge=5, le=3000, title="It must also run on pump fuel, with")
    later_kw: float | None = Field(None, ge=5, le=3000, title="Power wanted later")
    boost_kpa: float | None = Field(None, ge=0, le=500, title="Boost")
    rpm: float | None = Field(None, ge=1500, le=16000, title="Peak power at")
    drivetrain: Literal["FWD", "RWD", "AWD"] = Field("RWD", title="Driven wheels")
    use: Literal["street", "track", "drag", "hill climb", "rally", "salt flat"] = Field("street", title="Used for")
    returns: Literal["either", "with a return", "returnless"] = Field("either", title="Fuel return")
    surge: Literal["by its use", "a surge tank", "none"] = Field("by its use", title="Surge tank")
    sets: Literal["one where it does", "one alone"] = Field("one where it does", title="Sets of injectors")
    base_kpa: float | None = Field(None, ge=150, le=700, title="Base pressure")
    budget: float | None = Field(None, ge=0, le=10_000_000, title="Budget, all in")
    supply_v: float = Field(13.8, ge=10, le=30, title="Volts under load")
    barometer_kpa: float = Field(101.325, ge=50, le=108, title="Barometer (or altitude)")
    injector_cc_min: float | None = Field(None, ge=50, le=5000, title="Injectors fitted")
    injector_at_kpa: float | None = Field(None, ge=100, le=700, title="rated at")
    injectors: Stays = Field("may change", title="The injectors")
    pump_l_h: float | None = Field(None, ge=20, le=3000, title="Pump fitted")
    pump_at_kpa: float | None = Field(None, ge=0, le=900, title="moves that at")
    pumps: Stays = Field("may change", title="The pump")
    feed_mm: float | None = Field(None, ge=3, le=40, title="Feed line fitted, inside")
    lines: Stays = Field("may change", title="The lines")
    regulator_kpa: float | None = Field(None, ge=10, le=700, title="Regulator fitted, set at")
    regulator_l_h: float | None = Field(None, ge=20, le=5000, title="wide open it passes")
    regulator: Stays = Field("may change", title="The regulator")
    regulator_sits: Literal["as is usual", "at the rail", "near the tank", "either"] = Field(
        "as is usual", title="Regulator sits"
    )
    pumps_sit: Literal["as is usual", "in the tank", "outside", "either"] = Field("as is usual", title="Pump sits")
    tank_l: float | None = Field(None, ge=1, le=1000, title="Tank holds")
    pickup: Literal["by its use", "open tube", "sock strainer", "baffled sump", "cell with trap doors"] = Field(
        "by its use", title="Pickup in it"
    )

    @field_validator("later_kw")
    @classmethod
    def _no_less_later(cls, value: float | None, info: ValidationInfo) -> float | None:
        now = info.data.get("power_kw")
        if value is not None and now is not None and value < now:
            raise ValueError("later it must make no less than now")
        return value

    @field_validator("base_kpa")
    @classmethod
    def _no_floats(cls, value: float | None, info: ValidationInfo) -> float | None:
        if value is not None and info.data.get("feeding") == "carburettor":
            raise ValueError("no float needle holds against that: leave it empty for a carburettor")
        return value

    @field_validator("injector_cc_min")
    @classmethod
    def _ports(cls, value: float | None, info: ValidationInfo) -> float | None:
        if value is not None and "port" not in info.data.get("feeding", "port"):
            raise ValueError("that is of port injectors, and none were asked for")
        return value

    @field_validator("regulator_sits")
    @classmethod
    def _follows(cls, value: str, info: ValidationInfo) -> str:
        if value == "near the tank" and info.data.get("feeding") == "carburettor":
            raise ValueError("a carburettor's regulator stands before its floats")
        if value == "near the tank" and info.data.get("induction") != "naturally aspirated":
            raise ValueError("near the tank it follows no boost: at the rail, or either")
        return value

    @field_validator("injectors", "pumps", "lines", "regulator")
    @classmethod
    def _said_what_stays(cls, value: str, info: ValidationInfo) -> str:
        of = {"injectors": "injector_cc_min", "pumps": "pump_l_h", "lines": "feed_mm", "regulator": "regulator_kpa"}[
            str(info.field_name)
        ]
        if value == "must stay" and info.data.get(of) is None:
            raise ValueError("say what is fitted, so that it can stay")
        return value

    @property
    def _fitted(self) -> tuple[float | None, ...]:
        return self.injector_cc_min, self.pump_l_h, self.feed_mm, self.regulator_kpa

    @property
    def found(self) -> bool:
        """Whether anything was said of the car as it stands."""
        return any(one is not None for one in self._fitted)


assert {*ETHANOL_PCT, *RACE_FUELS, "methanol"} == set(get_args(Fuel))
