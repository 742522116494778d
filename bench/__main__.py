"""Benchmarks, as ratios against a baseline measured in the same run: `make bench`."""

import sys
import tempfile
import time
from collections.abc import Callable
from importlib import resources
from pathlib import Path
from statistics import median

import numpy as np
from fastapi.testclient import TestClient

from bench.scalar_reference import solve_point
from iron_gulp.core.model import Build
from iron_gulp.core.solve import Points, solve
from iron_gulp.core.study import operating_field
from iron_gulp.formats.build_file import read
from iron_gulp.services.workshop import Workshop
from iron_gulp.web.app import create_app

RHO, MU, VOLTS = 770.0, 0.8, 13.6


def seconds(action: Callable[[], object], repeats: int) -> float:
    """Median processor seconds of an action."""
    taken = []
    for _ in range(repeats):
        start = time.process_time()
        action()
        taken.append(time.process_time() - start)
    return median(taken)


def demo(name: str) -> Build:
    return read(resources.files("iron_gulp.demo").joinpath(f"{name}.json").read_text(encoding="utf-8"))


def points_per_second() -> None:
    print("Operating points a second, one core")
    generator = np.random.default_rng(8472)
    for name, option_id in (
        ("curlew", "as-built"),
        ("curlew", "one-large"),
        ("saltern", "three-on"),
        ("saltern", "staged"),
        ("saltern", "two-rails"),
    ):
        option = demo(name).option(option_id)
        count = 200_000
        manifold = generator.uniform(-60, 220, count)
        demand = generator.uniform(0.5, 600, count) * 1e-3 / 3600 * RHO
        points = Points(manifold, demand, VOLTS, RHO, MU)
        solve(option, points)
        vectorised = count / seconds(lambda option=option, points=points: solve(option, points), 5)
        sample = 40
        start = time.perf_counter()
        for index in range(sample):
            solve_point(option, float(manifold[index]), float(demand[index]), VOLTS, RHO, MU)
        scalar = sample / (time.perf_counter() - start)
        print(
            f"  {name}/{option_id}: vectorised {vectorised:,.0f}, scalar loop {scalar:,.0f}: × {vectorised / scalar:,.0f}"
        )


def fields() -> None:
    print("Whole operating field, against one scalar point")
    for name, option_id, duty_id in (("curlew", "as-built", "later"), ("saltern", "two-rails", "record")):
        build = demo(name)
        option, duty = build.option(option_id), build.duty(duty_id)
        operating_field(build, option, duty)
        taken = seconds(lambda build=build, option=option, duty=duty: operating_field(build, option, duty), 9)
        one = seconds(lambda option=option: solve_point(option, 100.0, 0.05, VOLTS, RHO, MU), 5)
        cells = 40 * 32
        print(f"  {name}/{option_id}: {cells} points in {taken * 1e3:.1f} ms, {taken / one:.2f} × one scalar point")


def fragments() -> None:
    print("Changed fragment after a field edit, against an empty page of the same server")
    with tempfile.TemporaryDirectory() as folder:
        workshop = Workshop(Path(folder) / "bench.sqlite3")
        workshop.garage.load_demo()
        client = TestClient(create_app(workshop))
        build = workshop.garage.page("curlew").rows[0].id
        client.get(f"/builds/{build}/ask")
        empty = seconds(lambda: client.get("/alive"), 40)
        edits = {
            "ask": "duties/hill/boost_kpa",
            "demand": "duties/hill/power_kw",
            "injectors": "options/as-built/injectors/part/rated_flow_cc_min",
            "pump": "options/as-built/pumps/g1/wiring/area_mm2",
            "feed": "options/as-built/feed/length_m",
            "regulator": "options/as-built/regulator/base_kpa",
        }
        for page, path in edits.items():
            start = float(client.get(f"/builds/{build}/export").json()["duties"][1]["boost_kpa"])
            values = iter(np.linspace(1.0, 1.2, 40))
            nominal = {"ask": start, "demand": 280, "injectors": 850, "pump": 2.5, "feed": 4.0, "regulator": 300}[page]

            def edit(page: str = page, path: str = path, values=values, nominal: float = nominal) -> None:
                form = {
                    "base": workshop.judging.bench(build).stored.number,
                    "page": page,
                    "option": "as-built",
                    "duty": "hill",
                    "path": path,
                    "value": f"{nominal * next(values):.6f}",
                }
                answer = client.post(f"/builds/{build}/edit", data=form)
                if answer.status_code != 200:
                    sys.exit(f"{page}: the edit was refused: {answer.status_code}")

            edit()
            taken = seconds(edit, 15)
            print(f"  {page}: {taken * 1e3:.0f} ms, empty page {empty * 1e3:.1f} ms: × {taken / empty:.0f}")


def sliders() -> None:
    print("Diagram repainted at another point, against an empty page of the same server")
    with tempfile.TemporaryDirectory() as folder:
        workshop = Workshop(Path(folder) / "bench.sqlite3")
        workshop.garage.load_demo()
        client = TestClient(create_app(workshop))
        empty = seconds(lambda: client.get("/alive"), 40)
        for name, option, duty in (("curlew", "as-built", "hill"), ("saltern", "two-rails", "record")):
            build = workshop.garage.page(name).rows[0].id
            speeds = iter(np.linspace(2000.0, 7000.0, 60))

            def drag(build: int = build, option: str = option, duty: str = duty, speeds=speeds) -> None:
                at = {"option": option, "duty": duty, "rpm": next(speeds)}
                if client.get(f"/builds/{build}/diagram", params=at).status_code != 200:
                    sys.exit(f"build {build}: the diagram was refused")

            drag()
            taken = seconds(drag, 40)
            print(f"  {name}/{option}: {taken * 1e3:.0f} ms, empty page {empty * 1e3:.1f} ms: × {taken / empty:.0f}")


if __name__ == "__main__":
    points_per_second()
    fields()
    fragments()
    sliders()
