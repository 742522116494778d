"""What a new build, target, option or pump group starts from: modest generic parts, to be changed at once."""

from typing import Any, get_args

from pydantic import BaseModel

from iron_gulp.core.model import (
    BY_PATH,
    Build,
    CustomFuel,
    Delivery,
    DesignRules,
    Edit,
    EditError,
    Engine,
    Fill,
    Filter,
    InjectorSet,
    Line,
    MeasuredRun,
    Option,
    PortSetPart,
    Problem,
    PumpGroup,
    Regulator,
    Target,
    Unknown,
    Wiring,
    shelf_kind,
)
from iron_gulp.core.physics import awg_mm2
from iron_gulp.shelf import Shelf

from .dead_times import fewer_dead_times, more_dead_times

# A real circuit: joints, warm copper, a fuse the wire carries.
NEW_CIRCUIT = Wiring(loop_m=6.0, area_mm2=6.0, connectors_mohm=15.0, copper_temp_c=40.0, fuse_a=25.0)
NEW_CIRCUIT_BY_GAUGE = NEW_CIRCUIT.model_copy(update={"area_mm2": awg_mm2(8)})


def new_build(shelf: Shelf, name: str = "New build", wires: str = "mm²") -> Build:
    """A turbocharged four-cylinder with two targets: a place to start, every value to be replaced."""
    rich: dict[str, Any] = {"lambda_": 0.80, "alcohol": "as run"}
    return Build(
        name=name,
        engine=Engine(displacement_l=2.0, cylinders=4, idle_manifold_kpa=-66.0, idle_ve_pct=55.0),
        targets=(
            Target(id="t1", name="Pump fuel", ethanol_pct=10, power_kw=160, boost_kpa=100, rpm=6200, **rich),
            Target(
                id="t2", name="Ethanol blend", ethanol_pct=60, power_kw=190, boost_kpa=130, rpm=6500, alcohol="as run"
            ),
        ),
        rules=DesignRules.model_validate({"wires": wires}),
        options=(first_option(shelf, NEW_CIRCUIT_BY_GAUGE if wires == "AWG" else NEW_CIRCUIT),),
    )


def first_option(shelf: Shelf, circuit: Wiring = NEW_CIRCUIT) -> Option:
    """A small complete port-injected return system."""
    catalogue = shelf.catalogue
    part = {one.shelf_id: one for kind in ("pumps", "injectors", "lines", "regulators") for one in shelf.parts(kind)}
    assert catalogue.pumps, "the shelf is empty"
    return Option(
        id="o1",
        name="First draft",
        pumps=(PumpGroup(id="g1", part=part["pump-250"], wiring=circuit),),
        feed=Line(part=part["ptfe-6"], length_m=4.0, k_sum=4.0),
        filter=Filter(part=shelf.part("filters", "filter-glass-10-500")),
        injectors=InjectorSet(part=part["inj-800"]),
        regulator=Regulator(part=part["reg-250"]),
        return_line=Line(part=part["ptfe-6"], length_m=4.0, k_sum=4.0),
    )


def base_fuel(fuels: list[dict[str, Any]]) -> dict[str, Any]:
    """A base fuel to be overwritten with the maker's sheet: the constants of ordinary gasoline."""
    fuel = CustomFuel(id="x", name="Race gasoline", density_15c_kg_m3=745.0, stoich_afr=14.7, lhv_mj_kg=43.4)
    return copy_of(fuel.model_dump(mode="json"), "fuel", fuels)


def fill(build: Build, fills: list[dict[str, Any]]) -> dict[str, Any]:
    """A fill to be overwritten: a tenth left in the tank, filled up with the first target's blend."""
    tank = build.options[0].tank.volume_l
    first = Fill(
        id="x", left_l=round(0.1 * tank, 1), poured_l=round(0.9 * tank, 1), poured_pct=build.targets[0].ethanol_pct
    )
    return copy_of(first.model_dump(mode="json"), "fill", fills)


def measured_run() -> MeasuredRun:
    """A logged run to be overwritten with the car's own."""
    return MeasuredRun(power_kw=150, rpm=6000, injector_cc_min=440, differential_kpa=300, duty_pct=75)


def fresh_id(prefix: str, taken: list[str]) -> str:
    """The first free id `prefix1`, `prefix2`, …"""
    number = 1
    while f"{prefix}{number}" in taken:
        number += 1
    return f"{prefix}{number}"


def fresh_name(name: str, taken: list[str]) -> str:
    """`name`, with a number when it is taken already."""
    number, wanted = 2, name[:70]
    while wanted in taken:
        wanted = f"{name[:70]} {number}"
        number += 1
    return wanted


def copy_of(item: dict[str, Any], prefix: str, siblings: list[dict[str, Any]]) -> dict[str, Any]:
    """A copy of a list entry with an id and name of its own."""
    copied = {**item, "id": fresh_id(prefix, [one["id"] for one in siblings])}
    if "name" in item:
        copied["name"] = fresh_name(item["name"], [one["name"] for one in siblings])
    return copied


def added_to_option(shelf: Shelf, option: dict[str, Any], what: str) -> list[tuple[str, Any]]:
    """Edits of an option's fields that add a component, fitting, table, branch or another way of metering.

    Raises EditError for what cannot be added.
    """
    turned = direct_edits(shelf, option, what) or metering(shelf, option, what) or split_edits(shelf, option, what)
    if turned is not None:
        return turned
    if what == "pumps":
        groups = option["pumps"]
        wiring = Wiring.model_validate(groups[-1]["wiring"]).alone().model_dump(mode="json")
        fresh = {**copy_of(groups[-1], "g", groups), "count": 1, "on_above_kpa": 30.0, "wiring": wiring}
        return [("pumps", [*groups, fresh])]
    if what == "unknown":
        rows = option["unknown"]
        named = {row["what"] for row in rows}
        left = [one for one in get_args(Unknown.model_fields["what"].annotation) if one not in named]
        fresh = {"id": fresh_id("u", [row["id"] for row in rows]), "what": left[0] if left else "", "low_pct": 60.0}
        return [(what, [*rows, {**fresh, "high_pct": 150.0}])]
    if what == "boost_told":
        rows = option["boost_told"]
        last = rows[-1] if rows else {"ethanol_pct": 0.0, "boost_kpa": 50.0}
        return [(what, [*rows, copy_of({**last, "id": "", "ethanol_pct": _next_blend(last, rows)}, "b", rows)])]
    if what.startswith("pumps/") and what.endswith("/part/curves"):
        return [(what, [*_inside(option, what), _curve_below(_inside(option, what))])]
    if what.endswith("/dead_more_kpa"):
        return more_dead_times(option, what.removesuffix("/dead_more_kpa"))
    if what.endswith("/fittings"):
        fittings = _inside(option, what)
        taken = [one["id"] for one in fittings]
        return [
            (what, [*fittings, {"id": fresh_id("f", taken), "kind": "swept elbow, 90°", "count": 1, "bore_mm": None}])
        ]
    kind = BY_PATH.get(what)
    if kind is None or not kind.added:
        raise EditError([Problem(what, "this cannot be added")])
    if kind.several:
        alike = [
            one for other in BY_PATH.values() if other.several and other.title == kind.title for one in option[other.path]
        ]
        return [(what, [*option[what], {"id": fresh_id("p", [one["id"] for one in alike]), **_START[what]}])]
    return [(what, _with_parts(shelf, what, Option))]


def _next_blend(last: dict[str, Any], rows: list[dict[str, Any]]) -> float:
    """Ten points on from the last blend of a table; gasoline for its first."""
    return min(float(last["ethanol_pct"]) + 10.0, 100.0) if rows else 0.0


# What an added component starts from beside its model's own defaults; `part` names a part of the shelf.
_START: dict[str, dict[str, Any]] = {
    "sensors": {
        "shelf_id": "sensor-low-1000",
        "name": "Fuel pressure sensor, to 1000 kPa",
        "provenance": "generic data in preferred numbers",
    },
    "feed_passages": {"name": "Hanger tube", "bore_mm": 7.0, "length_m": 0.3, "k_sum": 1.5},
    "return_passages": {"name": "Hanger tube", "bore_mm": 7.0, "length_m": 0.3, "k_sum": 1.5},
    "filter": {"part": "filter-glass-10-500"},
    "suction/filter": {"part": "filter-pre-100-630"},
    "injectors/second": {"part": "inj-800"},
    "suction/line": {"part": "rubber-8", "length_m": 0.5, "k_sum": 2.0},
    "lift": {
        "part": "pump-lift-200",
        "wiring": NEW_CIRCUIT.model_dump(mode="json"),
        "line": {"part": "rubber-6", "length_m": 1.5, "k_sum": 3.0},
    },
}


def _with_parts(shelf: Shelf, path: str, holder: type[BaseModel]) -> dict[str, Any]:
    """A component's start as plain data, its parts copied in."""
    model: Any = holder
    for step in path.split("/"):
        model = _plain_type(model.model_fields[step].annotation)

    def filled(start: dict[str, Any], of: Any) -> dict[str, Any]:
        whole = {}
        for name, value in start.items():
            inner = _plain_type(of.model_fields[name].annotation)
            if name == "part":
                whole[name] = shelf.part(shelf_kind(inner), value).model_dump(mode="json")
            else:
                whole[name] = filled(value, inner) if isinstance(value, dict) else value
        return whole

    return filled(_START.get(path, {}), model)


def _plain_type(annotation: Any) -> Any:
    """A model's class without its None."""
    return next((one for one in get_args(annotation) if one is not type(None)), annotation)


def removed_from_option(option: dict[str, Any], place: str) -> list[tuple[str, Any]] | None:
    """Edits that take a split or one of its branches away, rails counted along; None for something else."""
    if "/dead_more_kpa/" in place:
        return fewer_dead_times(option, place)
    if place == "split":
        return [("split", None), ("rail/count", 1)]
    if place.startswith("high_side") or place == "injectors":
        return without_direct(option, place)
    if place.startswith("split/branches/") and place.count("/") == 2:
        return without_branch(option, place.rpartition("/")[2])
    return None


def _curve_below(curves: list[dict[str, Any]]) -> dict[str, Any]:
    """A pump table a volt and a half below the lowest one, by affinity: a place to start, to be replaced by readings."""
    lowest = min(curves, key=lambda curve: curve["voltage_v"])
    ratio = max(lowest["voltage_v"] - 1.5, 4.0) / lowest["voltage_v"]
    if ratio >= 1:
        raise EditError([Problem("curves", "there is no lower voltage to start from")])
    return {
        "voltage_v": round(lowest["voltage_v"] * ratio, 4),
        "pressure_kpa": [round(value * ratio**2, 2) for value in lowest["pressure_kpa"]],
        "flow_l_h": [round(value * ratio, 2) for value in lowest["flow_l_h"]],
        "current_a": [round(value * ratio**2, 3) for value in lowest["current_a"]],
    }


def _inside(option: dict[str, Any], path: str) -> list[dict[str, Any]]:
    """The list at a path of an option. Raises EditError when there is none."""
    place: Any = option
    for step in path.split("/"):
        if isinstance(place, list):
            numbered = place[int(step)] if step.isdecimal() and int(step) < len(place) else None
            place = next((one for one in place if one.get("id") == step), numbered)
        else:
            place = place.get(step) if isinstance(place, dict) else None
    if not isinstance(place, list):
        raise EditError([Problem(path, "there is no such line in this option")])
    return place


def split_edits(shelf: Shelf, option: dict[str, Any], what: str) -> list[tuple[str, Any]] | None:
    """Edits that part the feed to several rails or add a branch, rails counted along; None for something else."""
    branches = option["split"]["branches"] if option.get("split") else []

    def branch() -> dict[str, Any]:
        if branches:
            return copy_of(branches[-1], "b", branches)
        part = shelf.part("lines", "ptfe-6").model_dump(mode="json")
        return {"id": "b1", "line": {"part": part, "length_m": 0.4, "k_sum": 0.0, "fittings": []}}

    if what == "split" and not branches:
        first = branch()
        return [("split", {"branches": [first, copy_of(first, "b", [first])]}), ("rail/count", 2)]
    if what == "split/branches" and branches:
        return [("split/branches", [*branches, branch()]), ("rail/count", len(branches) + 1)]
    return None


def without_branch(option: dict[str, Any], branch_id: str) -> list[tuple[str, Any]]:
    """Edits that take a branch away with its rail; the split goes when one branch is left."""
    left = [one for one in option["split"]["branches"] if one["id"] != branch_id]
    if len(left) < 2:
        return [("split", None), ("rail/count", 1)]
    return [("split/branches", left), ("rail/count", len(left))]


def metering(shelf: Shelf, option: dict[str, Any], what: str) -> list[tuple[str, Any]] | None:
    """Edits of an option's fields that turn it into a carburettor or an injection system; None for something else."""

    def plain(kind: str, shelf_id: str) -> dict[str, Any]:
        return shelf.part(kind, shelf_id).model_dump(mode="json")

    if what == "carburettor":
        carburettor = {"needles": 2, "needle_mm": 1.75, "lowest_kpa": 15.0, "highest_kpa": 40.0}
        regulator = {"part": plain("regulators", "reg-carb-bypass-250"), "base_kpa": 28.0, "reference": "atmosphere"}
        group = {**option["pumps"][0], "part": plain("pumps", "pump-carb-200"), "count": 1, "on_above_kpa": None}
        group |= {"on_above_rpm": None, "on_above_l_h": None}
        return [
            ("injectors", None),
            ("carburettor", carburettor),
            ("regulator", {**regulator, "arrangement": "carburettor, bypass"}),
            ("pumps", [group]),
        ]
    if what == "injectors":
        group = {**option["pumps"][0], "part": plain("pumps", "pump-250")}
        return [
            ("carburettor", None),
            ("injectors", {"part": plain("injectors", "inj-400")}),
            ("regulator", {"part": plain("regulators", "reg-250"), "base_kpa": 300.0}),
            ("pumps", [group, *option["pumps"][1:]]),
        ]
    return None


def direct_edits(shelf: Shelf, option: dict[str, Any], what: str) -> list[tuple[str, Any]] | None:
    """Edits that add direct injection, a pump of it, a point of its target, or a port rail to it; None for another."""

    def plain(kind: str, shelf_id: str) -> dict[str, Any]:
        return shelf.part(kind, shelf_id).model_dump(mode="json")

    high = option.get("high_side")
    if what == "high_side" and high is None and option.get("injectors") is not None:
        line = {"part": plain("lines", "ptfe-6"), "length_m": 0.6, "k_sum": 2.0, "fittings": []}
        return [
            (
                "high_side",
                {
                    "pumps": [{"part": plain("high_pumps", "hp-125")}],
                    "branches": [line],
                    "injectors": {"part": plain("direct_injectors", "di-1250")},
                },
            ),
            ("delivery", Delivery().model_dump(mode="json")),
        ]
    if high is None:
        return None
    if what == "delivery" and option.get("injectors") is not None:
        return [("delivery", Delivery().model_dump(mode="json"))]
    if what == "injectors" and option.get("injectors") is None:
        return [
            ("injectors", {"part": plain("injectors", "inj-400")}),
            ("delivery", Delivery().model_dump(mode="json")),
            ("regulator/reference", "manifold"),
        ]
    if what == "high_side/pumps":
        last = high["pumps"][-1]
        more = [*high["pumps"], {**last, "bank": min(last["bank"] + 1, 4)}]
        lines = [*high["branches"], *high["branches"][-1:]]
        return [("high_side", {**high, "pumps": more, "branches": lines})]
    if what == "high_side/target":
        table = high["target"]
        return [
            (
                "high_side/target",
                {"rpm": [*table["rpm"], table["rpm"][-1] + 500.0], "kpa": [*table["kpa"], table["kpa"][-1]]},
            )
        ]
    return None


def port_set_edits(build: Build, path: str, part: PortSetPart) -> list[Edit]:
    """Edits that fit a port rail set to the option whose `injectors` a path names: rails, injectors, and who delivers.

    Raises EditError where there is a carburettor, or a split that has not as many branches as the set has rails.
    """
    where = path.removesuffix("/injectors")
    named = {f"options/{one.id}": one for one in build.options}
    if where not in named or where == path:
        raise EditError([Problem(path, "a port rail set goes where port injectors are")])
    option = named[where]
    if option.carburettor is not None:
        raise EditError([Problem(path, "there is a carburettor here: convert to port injection first")])
    if option.split is not None and len(option.split.branches) != part.rails:
        words = f"the split has {len(option.split.branches)} branches, the set {part.rails} rails"
        raise EditError([Problem(path, words)])
    injector = part.injector().model_dump(mode="json")
    rail = {
        "shelf_id": part.shelf_id,
        "name": part.name,
        "provenance": part.provenance,
        "alcohol_ok": part.alcohol_ok,
        "price": None if part.price is None else part.price / part.rails,
        "fit_h": part.fit_h,
        "bore_mm": part.bore_mm,
        "length_m": part.length_m,
        "count": part.rails,
    }
    edits: list[Edit] = [(f"{where}/rail/{name}", value) for name, value in rail.items()]
    if option.injectors is not None:
        return [*edits, (f"{where}/injectors/part", injector)]
    return [
        *edits,
        (f"{where}/injectors", {"part": injector}),
        (f"{where}/delivery", Delivery().model_dump(mode="json")),
        (f"{where}/regulator/reference", "manifold"),
    ]


def without_direct(option: dict[str, Any], place: str) -> list[tuple[str, Any]] | None:
    """Edits that take direct injection, a pump, the last point of its target or the port rail away; None for another."""
    high = option.get("high_side")
    if high is None:
        return None
    if place == "injectors":
        return [("injectors", None), ("delivery", None)]
    if place == "high_side":
        return [("high_side", None), ("delivery", None)]
    if place == "high_side/target/last" and len(high["target"]["rpm"]) > 1:
        return [("high_side/target", {name: high["target"][name][:-1] for name in ("rpm", "kpa")})]
    steps = place.split("/")
    if steps[:2] == ["high_side", "pumps"] and len(steps) == 3 and steps[2].isdecimal() and len(high["pumps"]) > 1:
        left = [number for number in range(len(high["pumps"])) if number != int(steps[2])]
        kept = {name: [high[name][number] for number in left] for name in ("pumps", "branches") if high[name]}
        banks = sorted({pump["bank"] for pump in kept["pumps"]})
        kept["pumps"] = [{**pump, "bank": banks.index(pump["bank"]) + 1} for pump in kept["pumps"]]
        return [("high_side", {**high, **kept})]
    return None
