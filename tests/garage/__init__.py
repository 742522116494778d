"""A garage of sane cars, and of the faults put into them, as data: cars.json. To add one, write it there.

A car names its engine, targets and shelf parts; `edits` change any field of the build by its path. A fault is a set of
edits, the finding that must come first, and those that may stand beside it; a `note` is a finding that comes new,
with nothing to put right.
"""

import json
from pathlib import Path
from typing import Any

from iron_gulp.core.advise import Finding, find
from iron_gulp.core.judge import judge_all, judge_many
from iron_gulp.core.model import (
    Build,
    DirectInjectorSet,
    Engine,
    Filter,
    HighPump,
    HighSide,
    InjectorSet,
    Line,
    Option,
    PumpGroup,
    Regulator,
    Target,
    Wiring,
    apply,
)
from iron_gulp.shelf import load_shelf

SHELF = load_shelf()
CARS: dict[str, dict[str, Any]] = json.loads((Path(__file__).parent / "cars.json").read_text(encoding="utf-8"))
OPTION = "options/o1/"


def part(kind: str, shelf_id: str) -> Any:
    return SHELF.part(kind, shelf_id)


def car(name: str) -> Build:
    """A car as its data say."""
    data = CARS[name]
    pumps = []
    for number, one in enumerate(data["pumps"], start=1):
        made = {key: value for key, value in one.items() if key not in ("part", "wire", "fuse", "loop")}
        wire = Wiring(
            loop_m=one.get("loop", 6.0),
            area_mm2=one.get("wire", 6.0),
            connectors_mohm=10.0,
            copper_temp_c=40.0,
            fuse_a=one.get("fuse", 25.0),
        )
        pumps.append(
            PumpGroup(id=f"g{number}", part=part("pumps", one["part"]), wiring=wire, check_valve_kpa=3.0, **made)
        )
    base: dict[str, Any] = {"base_kpa": data.get("base", 300.0)}
    base |= {key: data[key] for key in ("arrangement", "reference") if key in data}
    metering: dict[str, Any] = {}
    if "injectors" in data:
        metering["injectors"] = InjectorSet(part=part("injectors", data["injectors"]))
    if "carburettor" in data:
        metering["carburettor"] = data["carburettor"]
    if "high" in data:
        metering["high_side"] = high_side(data["high"])
        metering["delivery"] = data.get("delivery")
    option = Option(
        id="o1",
        name="As built",
        pumps=tuple(pumps),
        feed=Line(part=part("lines", data["feed"][0]), length_m=data["feed"][1], k_sum=3.0),
        return_line=Line(part=part("lines", data["return"][0]), length_m=data["return"][1], k_sum=3.0),
        filter=Filter(part=part("filters", data.get("filter", "filter-glass-10-500"))),
        regulator=Regulator(part=part("regulators", data["regulator"]), **base),
        **metering,
    )
    built = Build(
        name=name[:80],
        car={"coldest_c": 20.0} | data.get("car", {}),
        engine=Engine(**({"idle_manifold_kpa": -66.0, "idle_ve_pct": 55.0} | data["engine"])),
        targets=tuple(Target(id=f"t{n}", **one) for n, one in enumerate(data["targets"], start=1)),
        options=(option,),
    )
    return changed(built, data.get("edits", {}))


def high_side(data: dict[str, Any]) -> HighSide:
    """A high side as a car's data say: shelf pumps, each on the same line, injectors, and fields by name."""
    own = {key: value for key, value in data.items() if key not in ("pumps", "injectors", "line")}
    line = Line(part=part("lines", data["line"][0]), length_m=data["line"][1], k_sum=2.0, runs="in the engine bay")
    apart = own.get("rails") == "own"
    pumps = [HighPump(part=part("high_pumps", one), bank=n if apart else 1) for n, one in enumerate(data["pumps"], 1)]
    return HighSide(
        pumps=tuple(pumps),
        branches=(line,) * len(pumps),
        injectors=DirectInjectorSet(part=part("direct_injectors", data["injectors"])),
        **own,
    )


def changed(built: Build, edits: dict[str, Any]) -> Build:
    """Edits by path; `~kind/id` stands for a part of the shelf."""

    def value(told: Any) -> Any:
        if isinstance(told, str) and told.startswith("~"):
            kind, shelf_id = told[1:].split("/")
            return part(kind, shelf_id).model_dump(mode="json")
        if isinstance(told, list):
            return [value(one) for one in told]
        return {key: value(one) for key, one in told.items()} if isinstance(told, dict) else told

    return apply(built, [(path.replace("~", OPTION), value(told)) for path, told in edits.items()])


def every_finding(built: Build) -> list[Finding]:
    """All findings, in their order."""
    option = built.options[0]
    return find(built, option, judge_all(built, option), SHELF.catalogue)


def troubles(built: Build) -> list[Finding]:
    """Stops and checks, in their order; power ceilings, which none of them asks for, are not worked out."""
    option = built.options[0]
    judged = judge_many([(built, option, target) for target in built.targets], ceilings=False)
    return [one for one in find(built, option, judged, SHELF.catalogue) if one.severity != "note"]
