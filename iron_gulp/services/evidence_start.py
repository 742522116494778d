"""What a new reading or pull starts from: what is entered, and what the last one was."""

from datetime import UTC, datetime
from typing import Any

from iron_gulp.core.model import Build, Edit, EditError, Option, Problem, Pull, Reading, dump
from iron_gulp.core.study import can_be_read, rated_flow

from .starter import copy_of, fresh_id


def today() -> str:
    """The day, as a build writes it."""
    return datetime.now(UTC).strftime("%Y-%m-%d")


def added_reading(build: Build, what: str, option_id: str | None) -> list[Edit]:
    """Edits that add a reading of `readings/of/member`, starting from what is entered. Raises EditError."""
    steps = what.split("/")
    option = next((one for one in build.options if one.id == option_id), build.options[0])
    of, member = steps[1] if len(steps) > 1 else "", steps[2] if len(steps) > 2 else ""
    found = next((one for one in can_be_read(option) if one[:2] == (of, member)), None)
    if found is None:
        raise EditError([Problem(what, "this cannot be read on this option")])
    rows = dump(build)["readings"]
    fresh: dict[str, Any] = {
        "id": fresh_id("r", [row["id"] for row in rows]),
        "of": of,
        "member": member,
        "option": option.id,
    }
    fresh |= {"part": found[2], "day": today(), **_as_entered(build, option)}
    if of == "injector flow":
        fresh["flow_cc_min"] = rated_flow(option, member)
    return [("readings", [*rows, Reading.model_validate(fresh).model_dump(mode="json")])]


def _as_entered(build: Build, option: Option) -> dict[str, Any]:
    """What is entered, for a reading to start from."""
    target = build.targets[0]
    return {
        "read_kpa": option.regulator.base_kpa,
        "read_v": target.supply_v,
        "read_c": target.fuel_temp_c,
        "sensor_pct": target.ethanol_pct,
        "known_pct": target.ethanol_pct,
    }


def added_pull(build: Build) -> list[Edit]:
    """Edits that add a pull: like the last one, or as the first target asks with the injectors fitted."""
    rows, target = dump(build)["pulls"], build.targets[0]
    if rows:
        return [("pulls", [*rows, {**copy_of(rows[-1], "d", rows), "day": today()}])]
    fresh = Pull(
        id="d1",
        day=today(),
        power_kw=target.power_kw,
        rpm=target.rpm,
        boost_kpa=target.boost_kpa,
        ethanol_pct=target.ethanol_pct,
        base_fuel=target.base_fuel,
        differential_kpa=max(build.options[0].regulator.base_kpa, 20.0),
        **_fitted(build.options[0]),
    )
    return [("pulls", [fresh.model_dump(mode="json")])]


def _fitted(option: Option) -> dict[str, Any]:
    if option.injectors is None:
        return {}
    part = option.injectors.part
    return {
        "injector_cc_min": part.rated_flow_cc_min,
        "injector_rated_kpa": part.rated_pressure_kpa,
        "squirts": option.injectors.squirts,
    }
