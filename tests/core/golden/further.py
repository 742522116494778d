"""Takes what the core studies and plans for a build beyond its verdict: ends, windows, corners, chances, roads, fronts.

Taken anew by `python -m tests.core.golden.taking further`, after a change on purpose.
"""

from collections.abc import Callable
from typing import Any

import numpy as np

from iron_gulp.core.account import plain as told
from iron_gulp.core.account import values_sheet
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Rates
from iron_gulp.core.plan import (
    Search,
    bill,
    combination_grids,
    differences,
    needs,
    parts_of_it,
    reasons,
    recommended,
    roads,
    stages_of_targets,
    thrown_away,
    upgrade,
)
from iron_gulp.core.study import (
    arrival,
    at_both_ends,
    chances,
    dead_time_over_volts,
    duty_over_speed,
    envelope,
    high_limits,
    idle_pulses,
    in_use,
    loops,
    on_other_fuels,
    permitted,
    pull_gain,
    pump_duty,
    runs_on,
    size_window,
    stacked_supply,
    surge_lap,
    sweeps,
    table_cells,
    uses,
    what_matters,
    within_brackets,
    worst_corners,
    worth,
)
from iron_gulp.shelf import load_shelf
from tests.core.golden.taking import DEMOS, plain
from tests.core.test_design import MODEST, modest
from tests.systems import demo

AXES = {"ethanol_pct": (0.0, 33.0, 85.0), "rpm": (2500.0, 5200.0), "base_kpa": (250.0, 420.0)}


def tried(make: Callable[[], Any]) -> Any:
    """What comes of it; where a build has no such thing, how it says so."""
    try:
        return plain(make())
    except (KeyError, AttributeError, AssertionError, ValueError, StopIteration) as error:
        return type(error).__name__


def of_target(build: Any, option: Any, verdict: Any) -> dict[str, Any]:
    """Studies of one target."""
    target = verdict.target
    return {
        "arrival": tried(lambda: arrival(verdict)),
        "worth": tried(lambda: worth(verdict)),
        "loops": tried(lambda: loops(verdict)),
        "lap": tried(lambda: surge_lap(verdict)),
        "high": tried(lambda: high_limits(build, verdict)),
        "fuels": tried(lambda: on_other_fuels(build, option, target)),
        "duty": tried(lambda: duty_over_speed(build, verdict)),
        "dead": tried(lambda: dead_time_over_volts(build, verdict)),
        "flow": tried(lambda: sweeps.injector_flow(build, verdict)),
        "pump duty": tried(lambda: pump_duty(build, option, target)),
        "uses": tried(lambda: uses(build, option, target)),
        "cells": [tried(lambda one=one: table_cells(build, option, target, one)) for one in build.tables],
    }


def of_option(build: Any, option: Any) -> dict[str, Any]:
    """Studies and plans of one option."""
    catalogue, rates, verdicts = load_shelf().catalogue, Rates(), judge_all(build, option)
    target = build.targets[0]
    found = {
        axis: tried(lambda a=axis, at=at: envelope(build, option, target, a, at=np.array(at)))
        for axis, at in AXES.items()
    }
    first = chances(build, option, 60, 5)
    return {
        "targets": {one.target.id: of_target(build, option, one) for one in verdicts},
        "envelope": found,
        "runs on": tried(lambda: runs_on(envelope(build, option, target, at=np.linspace(0.0, 100.0, 21)))),
        "permitted": tried(lambda: permitted(build, option, target, 0.1, (10.0, 60.0))),
        "season": tried(lambda: [(a, b) for a, b, *_ in at_both_ends(build, option, build.targets)]),
        "idle": tried(lambda: idle_pulses(build, option)),
        "window": tried(lambda: size_window(build, option, catalogue)),
        "corners": tried(lambda: worst_corners(build, option)),
        "brackets": tried(lambda: within_brackets(build, option)),
        "sheet": tried(lambda: values_sheet(build, option, verdicts)),
        "supply": tried(lambda: stacked_supply(verdicts, verdicts[0])),
        "chances": {
            one.target.id: [one.carried, {k: float(np.sum(v)) for k, v in one.loads.items()}] for one in first.targets
        },
        "matters": tried(lambda: what_matters(build, option, target, first.targets[0].first_out, 32)[:4]),
        "in use": tried(lambda: in_use(build, option)),
        "complexity": tried(lambda: parts_of_it(option)),
        "bill": tried(lambda: bill(build, build.options[0], option, rates)),
        "thrown away": tried(lambda: thrown_away(build.options[0], option)),
        "differences": tried(lambda: differences(build.options[0], option)),
        "needs": tried(lambda: needs(build, option)) if option is build.options[0] else None,
    }


def ways(build: Any) -> dict[str, Any]:
    """Roads of a direct-injected car."""
    catalogue, rates, option = load_shelf().catalogue, Rates(), build.options[0]
    found = roads(build, option, catalogue, rates)
    return {
        "roads": tried(lambda: found),
        "advice": tried(lambda: recommended(build, found, rates)),
        "grids": tried(lambda: combination_grids(build, option, build.targets[-1], catalogue)),
        "gain": tried(lambda: pull_gain(build)),
    }


def planned() -> dict[str, Any]:
    """A small search, the reasons for its first design, and the way there."""
    build, rates = modest(), Rates()
    search = Search(build, build.options[0], MODEST, rates)
    for _ in search.run():
        pass
    front = sorted(search.found.front, key=lambda one: one.score)
    best = front[0]
    wanted = build.rules.headroom_pct / 100.0
    chain = [
        (stage, upgrade(build.model_copy(update={"targets": stage}), None, best.option, MODEST, rates, wanted))
        for stage in stages_of_targets(build)
    ]
    return {
        "front": [
            [plain(one.score), told(one.headroom), plain(parts_of_it(one.option)), one.bill.total] for one in front
        ],
        "fell": dict(search.found.fell),
        "counts": [search.found.tried, search.found.total, search.found.dominated],
        "reasons": tried(lambda: reasons(build, best, MODEST)),
        "steps": tried(lambda: [one[1] for one in chain]),
    }


def further(name: str) -> Any:
    """Everything of a demo build, or of what is planned."""
    if name == "planned":
        return plain(planned())
    build = demo(name)
    found = {option.id: of_option(build, option) for option in build.options}
    return plain(found | ({"ways": ways(build)} if build.options[0].high_side is not None else {}))


NAMES = (*DEMOS, "planned")
