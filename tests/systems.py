"""Systems the tests share."""

from importlib import resources
from typing import Any

from iron_gulp.core.model import (
    Branch,
    Build,
    Engine,
    Filter,
    FilterPart,
    Fitting,
    InjectorPart,
    InjectorSet,
    LiftStage,
    Line,
    LinePart,
    Option,
    PumpCurve,
    PumpGroup,
    PumpPart,
    Regulator,
    RegulatorPart,
    Split,
    Target,
    Wiring,
)
from iron_gulp.formats.build_file import read

# The linear pump table of physics §4 and the regulator of the check table in §6.
CHECK_CURVE = PumpCurve(
    voltage_v=13.5,
    pressure_kpa=(0, 200, 300, 400, 500, 600),
    flow_l_h=(520, 480, 450, 415, 375, 320),
    current_a=(7.5, 10.5, 12.2, 14.0, 16.0, 18.0),
)
K_PA = 1.6e13


def pump(**changes: Any) -> PumpGroup:
    defaults: dict[str, Any] = {
        "id": "g1",
        "part": PumpPart(name="pump", curves=(CHECK_CURVE,)),
        "wiring": Wiring(loop_m=0),
    }
    return PumpGroup(**{**defaults, **changes})


def wired_six_metres() -> Wiring:
    """Six metres there and back, fused, with its joints."""
    return Wiring(loop_m=6, connectors_mohm=10, fuse_a=30)


def line(bore_mm: float, length_m: float, k_sum: float) -> Line:
    return Line(part=LinePart(name="line", bore_mm=bore_mm), length_m=length_m, k_sum=k_sum)


def fitted_line(bore_mm: float, length_m: float, *fittings: tuple[str, int], **changes: Any) -> Line:
    """A line with fittings given as (kind, count)."""
    listed = tuple(Fitting(id=f"f{n}", kind=kind, count=count) for n, (kind, count) in enumerate(fittings, start=1))
    return line(bore_mm, length_m, 0.0).model_copy(update={"fittings": listed, **changes})


def split(*lines: Line, **changes: Any) -> Split:
    """A split with one branch to each line."""
    return Split(branches=tuple(Branch(id=f"b{n}", line=one) for n, one in enumerate(lines, start=1)), **changes)


def injectors(cc_min: float = 1000, **changes: Any) -> InjectorPart:
    return InjectorPart(
        **{"name": "injector", "rated_flow_cc_min": cc_min, "dead_time_v": (13.5,), "dead_time_ms": (0.9,), **changes}
    )


def check_option(count: int = 1, **changes: Any) -> Option:
    """The system of the check table of physics §6."""
    capacity_l_h = (100_000 / K_PA) ** 0.5 * 3.6e6
    defaults: dict[str, Any] = {
        "id": "o1",
        "name": "check",
        "pumps": (pump(count=count),),
        "feed": line(11.1, 4.5, 4.0),
        "return_line": line(8.7, 4.2, 5.0),
        "injectors": InjectorSet(part=injectors()),
        "regulator": Regulator(
            part=RegulatorPart(name="regulator", capacity_l_h=capacity_l_h, capacity_drop_kpa=100), base_kpa=300
        ),
    }
    return Option(**{**defaults, **changes})


def a_target(**changes: Any) -> Target:
    defaults: dict[str, Any] = {
        "id": "t1",
        "name": "Target",
        "ethanol_pct": 60,
        "power_kw": 200,
        "boost_kpa": 100,
        "rpm": 6500,
    }
    return Target(**{**defaults, **changes})


def build(option: Option | None = None, *targets: Target, **changes: Any) -> Build:
    defaults: dict[str, Any] = {
        "name": "Test",
        "engine": Engine(displacement_l=2.5, cylinders=5),
        "targets": targets or (a_target(),),
        "options": (option or check_option(),),
    }
    return Build(**{**defaults, **changes})


def fine_filter() -> Filter:
    return Filter(part=FilterPart(name="fine", rated_flow_l_h=400, rated_drop_kpa=8.0, grade_um=10.0))


def lift_stage(share: float, **changes: Any) -> LiftStage:
    """A lift stage of `share` of 100 L/h against nothing."""
    curve = PumpCurve(
        voltage_v=13.5, pressure_kpa=(0, 20, 40), flow_l_h=(100 * share, 80 * share, 40 * share), current_a=(2, 3, 4)
    )
    part = PumpPart(name="lift", curves=(curve,), needed_head_kpa=5.0)
    return LiftStage(**{"part": part, "wiring": Wiring(loop_m=0), "line": line(8.7, 1.0, 2.0), **changes})


def demo(name: str) -> Build:
    """A demo build as it ships."""
    return read(resources.files("iron_gulp.demo").joinpath(f"{name}.json").read_text(encoding="utf-8"))
