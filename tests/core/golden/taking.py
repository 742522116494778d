"""Takes every figure the core gives of a build: solution, figures, findings, lists, stages, sweeps.

`python -m tests.core.golden.taking` takes all of it anew, after a change on purpose; what follows it names some
(`demo-curlew`, `garage`, `further`). What moved is then read in the difference, a line a leaf.
"""

import sys
from typing import Any

import numpy as np

from iron_gulp.core.account import FIGURES, Context, parts_list, report
from iron_gulp.core.advise import find
from iron_gulp.core.judge import circuits, judge_all
from iron_gulp.core.study import (
    every_arrangement,
    judge_at,
    legs,
    missing_stages,
    neighbours,
    of_target,
    operating_field,
    propose,
    sweeps,
    switches,
)
from iron_gulp.shelf import load_shelf
from tests.core.golden.keeping import file_of, keep, moved
from tests.garage import CARS, car, changed
from tests.systems import demo

DEMOS = ("curlew", "dunlin", "fieldfare", "saltern")


def plain(value: Any) -> Any:
    """Anything of the core as JSON data: dataclasses by field, arrays as lists, models by name."""
    if isinstance(value, float | np.floating):
        return repr(float(value)) if not np.isfinite(value) else float(value)
    if isinstance(value, bool | np.bool_):
        return bool(value)
    if isinstance(value, int | np.integer):
        return int(value)
    if value is None or isinstance(value, str):
        return value
    if isinstance(value, np.ndarray):
        return plain(value.tolist())
    if isinstance(value, list | tuple):
        return [plain(one) for one in value]
    if isinstance(value, dict):
        return {str(key): plain(one) for key, one in value.items()}
    if hasattr(value, "__dataclass_fields__"):
        names = [name for name in value.__dataclass_fields__ if not name.startswith("_")]
        return {name: plain(getattr(value, name)) for name in names}
    if hasattr(type(value), "model_fields"):
        return getattr(value, "id", None) or getattr(value, "name", type(value).__name__)
    raise TypeError(f"cannot take {type(value)}")


def figures(context: Context) -> dict[str, Any]:
    found = {}
    for key, figure in FIGURES.items():
        try:
            found[key] = [
                figure.value(context),
                *((row.symbol, row.value, row.low, row.high) for row in figure.rows(context)),
            ]
        except (KeyError, AssertionError, AttributeError) as error:
            found[key] = type(error).__name__
    return found


def as_then(edits: Any) -> str:
    """Edits in words, without what parts did not tell when the figures were taken."""
    return repr(edits).replace(", 'supplier': '', 'lead_days': None", "")[:400]


def finding(one: Any) -> dict[str, Any]:
    return {
        "code": one.code,
        "severity": one.severity,
        "station": one.station,
        "values": one.values,
        "targets": one.targets,
        "remedies": [(remedy.label, remedy.values, as_then(remedy.edits)) for remedy in one.remedies],
    }


def snapshot(build: Any) -> dict[str, Any]:
    """Everything of a build, by option and target."""
    shelf, whole = load_shelf(), {}
    for option in build.options:
        verdicts = judge_all(build, option)
        targets = {}
        for verdict in verdicts:
            target = verdict.target
            field = operating_field(build, option, target, 9, 8)
            at = of_target(target)
            here = type(at)(at.rpm * 0.7, at.manifold_kpa * 0.5, 30.0, 12.9, 0.3)
            paths = [
                f"options/{option.id}/{tail}"
                for tail in ("feed/part", "return_line/part", f"pumps/{option.pumps[0].id}/part")
            ]
            targets[target.id] = {
                "report": report(build, verdict),
                "loads": verdict.loads,
                "figures": figures(Context(build, verdict)),
                "legs": [legs(verdict, 0), legs(verdict, 1)],
                "switches": switches(build, option, target),
                "missing": missing_stages(build, option, target),
                "proposals": propose(build, option, target),
                "field": field,
                "arrangements": every_arrangement(build, verdict.option, verdict.target),
                "elsewhere": report(build, judge_at(build, option, target, here)),
                "sizes": [neighbours(build, verdict, path, shelf.catalogue) for path in paths],
                "sweeps": [
                    sweeps.fuel_volume(build, verdict),
                    sweeps.line_sizes(verdict, shelf.catalogue, "feed", build.rules.feed_drop_kpa),
                ],
            }
        whole[option.id] = {
            "targets": targets,
            "findings": [finding(one) for one in find(build, option, verdicts, shelf.catalogue)],
            "circuits": [{**plain(one), "relay_feed": one.relay_feed} for one in circuits(option, tuple(verdicts))],
            "parts": parts_list(build, option, tuple(verdicts)),
        }
    return plain(whole)


def of_car(name: str) -> Any:
    """Findings and remedies of a car of the garage with each of its faults."""
    found, shelf = [], load_shelf()
    for fault in CARS[name]["faults"]:
        one = changed(car(name), fault["edits"])
        option = one.options[0]
        found.append([finding(each) for each in find(one, option, judge_all(one, option), shelf.catalogue)])
    return plain(found)


def bare_demo(name: str) -> Any:
    """A demo build without its pulls, which were measured later than the figures were taken."""
    return demo(name).model_copy(update={"pulls": ()})


def main(wanted: list[str]) -> None:
    """Take anew what is named, or everything."""
    from tests.core.golden.further import NAMES, further

    every = {f"demo-{name}": lambda name=name: snapshot(bare_demo(name)) for name in DEMOS}
    every |= {f"further-{name}": lambda name=name: further(name) for name in NAMES}
    every |= {f"garage-{name}": lambda name=name: of_car(name) for name in CARS}
    for name, take in every.items():
        if not wanted or any(name.startswith(one) for one in wanted):
            now = take()
            print(f"{name}: {len(moved(name, now)) if file_of(name).exists() else 'all'} leaves moved")
            keep(name, now)


if __name__ == "__main__":
    main(sys.argv[1:])
