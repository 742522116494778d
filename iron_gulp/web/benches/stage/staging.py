"""The staging page: operating field, switches, missing stages and proposals, in bench units."""

import json
from collections.abc import Callable
from dataclasses import dataclass
from typing import Any

from iron_gulp.core.model import Option
from iron_gulp.core.study import Field, Missing, Place, Switch, missing_stages, operating_field, propose, switches
from iron_gulp.services.workshop import Bench
from iron_gulp.units import BenchUnits, as_input, quantity_of, show

from ...parts.sketch import ticks


def silent_words(option: Option, one: Missing) -> str:
    """What is silent: a group with its part, or all that share something."""
    if one.shared is None:
        at = one.groups[0]
        return f"Group {at + 1}, {option.pumps[at].part.name}"
    return f"Groups {', '.join(str(at + 1) for at in one.groups)}: {one.shared.words} fails"


LAYERS = (
    ("stages", "Pumps running", "pumps_count"),
    ("stages_leaving", "Pumps still running on the way down", "pumps_count"),
    ("rail_error_kpa", "Rail pressure above its set pressure", "rail_error_kpa"),
    ("bypass_l_h", "Flow through the regulator", "bypass_l_h"),
    ("return_kpa", "Return line pressure", "return_kpa"),
    ("current_a", "Current of all pumps", "current_a"),
    ("demand_l_h", "Fuel demand", "demand_l_h"),
)


@dataclass(frozen=True)
class ProposalView:
    label: str
    path: str
    value: str
    why: str


@dataclass(frozen=True)
class StagingView:
    switch_groups: list[str]
    switches: list[list[str]]
    missing: list[list[str]]
    proposals: list[ProposalView]


def staging_view(bench: Bench, units: BenchUnits) -> StagingView:
    """Switches, missing stages and proposals for the option and target on the bench."""
    build, option, target = bench.build, bench.option, bench.verdict.target

    def text(value: float, name: str) -> str:
        return "\u00a0".join(part for part in show(value, name, units) if part)

    def place(at: Place) -> str:
        return f"{text(at.manifold_kpa, 'boost_kpa')}, {text(at.rpm, 'rpm')}"

    found = switches(build, option, target)
    rows: tuple[tuple[str, Callable[[Switch], str]], ...] = (
        ("Joins at", lambda one: place(one.joins)),
        ("Leaves at", lambda one: "stays on" if one.leaves is None else place(one.leaves)),
        ("The others then carry", lambda one: text(one.share_before * 100, "share_pct")),
        ("Rail before", lambda one: text(one.before_rail_kpa, "rail_kpa")),
        ("Step in rail pressure", lambda one: text(one.step_kpa, "step_kpa")),
        ("Through the return before", lambda one: text(one.before_bypass_l_h, "bypass_l_h")),
        ("after", lambda one: text(one.after_bypass_l_h, "bypass_l_h")),
        ("Regulator can pass", lambda one: text(one.spill_limit_l_h, "limit_l_h")),
        (
            "Rail when the throttle shuts",
            lambda one: f"{text(one.lift_off_rail_kpa, 'rail_kpa')} for {text(one.group.min_on_s, 'min_on_s')}",
        ),
    )
    steps = [[label, *(cell(switch) for switch in found)] for label, cell in rows]
    order = {group.id: f"Group {number}" for number, group in enumerate(option.pumps, start=1)}
    names = [f"{order[switch.group.id]}, {switch.group.part.name}" for switch in found] if found else []
    silent = [
        [
            silent_words(option, one),
            text(one.rail_kpa, "rail_kpa"),
            text(one.lambda_factor, "lambda_factor"),
            text(one.safe_power_kw, "power_kw"),
        ]
        for one in missing_stages(build, option, target)
    ]
    offers = []
    for one in propose(build, option, target):
        copes = "passes" if one.copes else "does not pass"
        why = (
            f"The pumps before it then carry {text(one.share_before * 100, 'share_pct')} of their supply, so the rail "
            f"does not sag before it joins. Right after, {text(max(one.bypass_after_l_h, 0.0), 'bypass_l_h')} must be "
            f"dumped; the regulator {copes} it there (up to {text(one.spill_limit_l_h, 'limit_l_h')})."
        )
        label = f"{order[one.group.id]}, {one.group.part.name}: join above {text(one.on_above_kpa, 'boost_kpa')} of boost"
        path = f"options/{option.id}/pumps/{one.group.id}/on_above_kpa"
        offers.append(ProposalView(label, path, as_input(one.on_above_kpa, "boost_kpa", units), why))
    return StagingView(names, steps, silent, offers)


def field_json(bench: Bench, units: BenchUnits) -> str:
    """The operating field of the option and target on the bench as chart data."""
    return _field_json(operating_field(bench.build, bench.option, bench.verdict.target), units)


def round_marks(values: list[float]) -> list[tuple[int, str]]:
    """Round numbers on an axis of rising values: (position of the value nearest to it, the number)."""
    found = []
    for tick in ticks(values[0], values[-1]):
        nearest = min(range(len(values)), key=lambda position: abs(values[position] - tick))
        found.append((nearest, f"{tick:g}".replace("-", "\u2212")))
    return found


def _field_json(field: Field, units: BenchUnits) -> str:
    boost = quantity_of("boost_kpa")
    layers: dict[str, Any] = {}
    for key, label, name in LAYERS:
        quantity = quantity_of(name)
        # A difference of pressures scales but has no offset, as every pressure unit here.
        rows = getattr(field, key)
        layers[key] = {
            "label": label,
            "unit": units.unit(quantity).key,
            "rows": [[round(units.shown(float(value), quantity), 3) for value in row] for row in rows],
        }
    return json.dumps(
        {
            "kind": "field",
            "title": "Operating field",
            "x": {
                "label": "Engine speed",
                "unit": "rpm",
                "ticks": [f"{rpm:.0f}" for rpm in field.rpm],
                "marks": round_marks([float(rpm) for rpm in field.rpm]),
            },
            "y": {
                "label": "Manifold pressure",
                "unit": units.unit(boost).key,
                "ticks": [show(float(kpa), "boost_kpa", units)[0] for kpa in field.manifold_kpa],
                "marks": round_marks([units.shown(float(kpa), boost) for kpa in field.manifold_kpa]),
            },
            "series": list(layers.values()),
            "layers": layers,
        },
        ensure_ascii=False,
    )
