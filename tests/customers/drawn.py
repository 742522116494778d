"""Asks nobody wrote: engines, uses, fuels and wishes drawn at random, each with a power its kind of engine makes."""

import random
from typing import Any

FUELS = (
    *("pump fuel",) * 2,
    "light blend, E30",
    "half blend, E50",
    "strong blend, E85",
    "pure ethanol, E98",
    "methanol",
    "race gasoline",
    "race gasoline, oxygenated",
)
FEEDING = ("port injection", "direct injection", "direct and port injection", "carburettor")
FLOATS_ON = ("pump fuel", "methanol", "race gasoline", "strong blend, E85")
CYLINDERS = (1, 2, 3, 4, 4, 4, 5, 6, 6, 8, 8, 10, 12)


def drawn(seed: int) -> dict[str, Any]:
    """The answers of one new build, by seed."""
    draw = random.Random(seed)
    feeding = draw.choices(FEEDING, (6, 2, 2, 1))[0]
    cylinders = draw.choice(CYLINDERS)
    litres = round(min(max(cylinders * draw.uniform(0.25, 0.7), 0.3), 9.0), 1)
    induction = draw.choices(("naturally aspirated", "turbocharged", "supercharged"), (3, 5, 2))[0]
    if feeding == "carburettor":
        induction = draw.choice(("naturally aspirated", "naturally aspirated", "supercharged"))
    a_litre = draw.uniform(45.0, 70.0) if induction == "naturally aspirated" else draw.uniform(70.0, 150.0)
    power_kw = max(round(min(a_litre * litres, 900.0)), 10)
    fuel = draw.choice(FLOATS_ON if feeding == "carburettor" else FUELS)
    found: dict[str, Any] = {
        "feeding": feeding,
        "cylinders": cylinders,
        "displacement_l": litres,
        "induction": induction,
        "power_kw": power_kw,
        "fuel": fuel,
        "use": draw.choice(("street", "track", "drag", "hill climb", "rally", "salt flat")),
        "drivetrain": draw.choice(("FWD", "RWD", "AWD")),
    }
    if fuel in ("strong blend, E85", "half blend, E50") and draw.random() < 0.5:
        found["pump_fuel_kw"] = round(power_kw * 0.7)
    if draw.random() < 0.2:
        found["later_kw"] = round(power_kw * 1.15)
    if feeding != "carburettor" and draw.random() < 0.2:
        found["returns"] = draw.choice(("with a return", "returnless"))
    if draw.random() < 0.15:
        found["supply_v"] = 12.5
    if draw.random() < 0.15:
        found["barometer_kpa"] = 82.0
    if feeding == "port injection" and draw.random() < 0.2:
        # What is fitted carries what such an engine makes at about half of what is asked, up to all of it.
        each = power_kw * draw.uniform(6.0, 12.0) / cylinders
        found |= {"injector_cc_min": round(min(max(each, 150.0), 2400.0))}
        found["injectors"] = draw.choice(("may change", "must stay"))
    if feeding == "port injection" and draw.random() < 0.2:
        found["sets"] = "one alone"
    if draw.random() < 0.15:
        found["budget"] = round(draw.uniform(1500.0, 9000.0), -2)
    return found
