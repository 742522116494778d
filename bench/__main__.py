"""Benchmarks, as ratios against a baseline measured in the same run: `make bench`."""

import html
import json
import re
import resource
import sys
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from importlib import resources
from itertools import count as counted
from pathlib import Path
from statistics import median
from time import process_time

import httpx
import numpy as np
from fastapi.testclient import TestClient

from bench.scalar_reference import solve_point
from iron_gulp.core.judge import case_of, judge_many, judge_rows, power_ceilings_kw
from iron_gulp.core.model import Build, Option, Rates, Target
from iron_gulp.core.physics import mapped
from iron_gulp.core.plan import Answers, Found, Search
from iron_gulp.core.solve import Points, solve, solve_points
from iron_gulp.core.study import chances, envelope, operating_field
from iron_gulp.formats.build_file import read, write
from iron_gulp.services.judging import judged, verdicts_of, written
from iron_gulp.services.progress import Progress
from iron_gulp.services.sizing import size_answers
from iron_gulp.services.workshop import Workshop
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits
from iron_gulp.web.app import calm_collector, create_app
from tests.browser.running import Server
from tests.systems import a_target, build, check_option, fine_filter, pump, wired_six_metres

CURLEW = 3  # its number in a fresh demo garage
TRIES = 9  # of remedies after an edit
REMEDIES = re.compile(r'data-source="([^"]*/remedies[^"]*)"')
RHO, MU, VOLTS = 770.0, 0.8, 13.6
EDITS = {
    "ask": ("targets/hill/boost_kpa", 165.0),
    "demand": ("targets/hill/power_kw", 280.0),
    "injectors": ("options/as-built/injectors/part/rated_flow_cc_min", 850.0),
    "pump": ("options/as-built/pumps/g1/wiring/area_mm2", 2.5),
    "feed": ("options/as-built/feed/length_m", 4.0),
    "regulator": ("options/as-built/regulator/base_kpa", 300.0),
    "fuel": ("options/as-built/tank/volume_l", 60.0),
    "stage": ("options/as-built/pumps/g2/on_above_kpa", 60.0),
    "wire": ("options/as-built/pumps/g2/wiring/area_mm2", 2.5),
    "draw": ("options/as-built/feed/k_sum", 3.0),
    "keep": ("targets/hill/charge_temp_c", 45.0),
    "ceilings": ("targets/hill/ethanol_pct", 68.0),
    "chance": ("tolerances/consumption/spread_pct", 3.0),
    "values": ("targets/hill/lambda", 0.8),
}


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


def two_pumps() -> Build:
    """Two pumps, filter, feed, return: the system of the batch figures."""
    groups = (pump(wiring=wired_six_metres()), pump(id="g2", wiring=wired_six_metres()))
    return build(check_option(pumps=groups, filter=fine_filter()), a_target(power_kw=300, boost_kpa=120))


def systems_per_second() -> None:
    print("Judged system–targets a second in sets, every number differing, against one scalar operating point")
    one = two_pumps()
    case, generator = case_of(one, one.options[0], one.targets[0]), np.random.default_rng(8472)
    scalar = seconds(lambda: solve_point(one.options[0], 100.0, 0.05, VOLTS, RHO, MU), 9)
    for count in (2_000, 100, 1):

        def spread(array: np.ndarray, count: int = count) -> np.ndarray:
            wide = np.repeat(array, count, axis=-1)
            steady = array.dtype == bool or not np.all(np.isfinite(array))
            return wide if steady else wide * generator.uniform(0.97, 1.03, count)

        cases = mapped(case, spread)
        judge_rows(cases)
        taken = seconds(lambda cases=cases: judge_rows(cases), 9) / count
        print(f"  sets of {count}: {1 / taken:,.0f} a second; × {scalar / taken:,.0f} a scalar point")
        if count > 1:
            taken = seconds(lambda cases=cases: power_ceilings_kw(judge_rows(cases)), 5) / count
            print(f"    with every power ceiling: {1 / taken:,.0f} a second; × {scalar / taken:,.0f} a scalar point")
    print("  where ceilings are sought and not in proportion (500 at once, ceilings asked for):")
    fieldfare = demo("fieldfare")
    for name, one in (
        ("a stage switched by flow", switched_by_flow()),
        ("carburettor, bypass", only(fieldfare, "bypass")),
        ("carburettor, deadhead", only(fieldfare, "deadhead")),
    ):
        case = case_of(one, one.options[0], one.targets[-1])
        cases = mapped(case, lambda array: spread(array, 500))
        taken = seconds(lambda cases=cases: power_ceilings_kw(judge_rows(cases)), 3) / 500
        print(f"    {name}: {1 / taken:,.0f} a second")


def only(one: Build, option_id: str) -> Build:
    return one.model_copy(update={"options": (one.option(option_id),)})


def switched_by_flow() -> Build:
    groups = (pump(wiring=wired_six_metres()), pump(id="g2", wiring=wired_six_metres(), on_above_l_h=90.0))
    return build(check_option(pumps=groups, filter=fine_filter()), a_target(power_kw=300, boost_kpa=120))


def points_per_second() -> None:
    print("Operating points of one system a second, one core")
    generator = np.random.default_rng(8472)
    curlew, saltern = demo("curlew"), demo("saltern")
    for name, option in (
        ("two pumps, return", two_pumps().options[0]),
        ("curlew/as-built", curlew.option("as-built")),
        ("curlew/one-large", curlew.option("one-large")),
        ("saltern/staged", saltern.option("staged")),
        ("saltern/two-rails", saltern.option("two-rails")),
    ):
        told = []
        for count in (200_000, 2_000):
            manifold = generator.uniform(-60, 220, count)
            points = Points(manifold, generator.uniform(0.5, 600, count) * 1e-3 / 3600 * RHO, VOLTS, RHO, MU)
            solve(option, points)
            taken = seconds(lambda option=option, points=points: solve(option, points), 9)
            told.append(f"{count / taken / 1e6:.2f} million at {count:,}")
        scalar = seconds(lambda option=option: solve_point(option, 100.0, 0.05, VOLTS, RHO, MU), 9)
        print(f"  {name}: {', '.join(told)}; × {count / taken * scalar:,.0f} a scalar loop")


def direct_and_port() -> None:
    print("Direct and port on two banks against the richest port option: points a second, systems a second")
    generator = np.random.default_rng(8472)
    dunlin, saltern = demo("dunlin"), demo("saltern")
    ported = (saltern, saltern.option("two-rails"), saltern.target("record"))
    both = (dunlin, dunlin.option("port"), dunlin.target("blend"))

    def points(one: Build, option: Option, target: Target, count: int) -> float:
        manifold, rpm = generator.uniform(-60, target.boost_kpa + 40, count), generator.uniform(800, 7000, count)
        wanted = generator.uniform(0.02, 1.1, count) * rpm / target.rpm * 0.08
        solve_points(one, option, target, rpm, manifold, wanted)
        return count / seconds(lambda: solve_points(one, option, target, rpm, manifold, wanted), 5)

    def systems(one: Build, option: Option, target: Target, ceilings: bool) -> float:
        cases = mapped(case_of(one, option, target), lambda array: spread_by(generator, array, 2_000))

        def ask() -> object:
            return power_ceilings_kw(judge_rows(cases)) if ceilings else judge_rows(cases)

        ask()
        return 2_000 / seconds(ask, 3)

    for count in (200_000, 2_000):
        port, direct = points(*ported, count), points(*both, count)
        print(f"  {count:,} points: {direct / 1e6:.2f} against {port / 1e6:.2f} million, {direct / port:.2f}")
    for ceilings, name in ((False, "loads"), (True, "with every power ceiling")):
        port, direct = systems(*ported, ceilings), systems(*both, ceilings)
        print(f"  {name}: {direct:,.0f} against {port:,.0f} systems, {direct / port:.2f}")


def spread_by(generator: np.random.Generator, array: np.ndarray, count: int) -> np.ndarray:
    """So many systems whose every number differs a little; switches and open limits stay."""
    wide = np.repeat(array, count, axis=-1)
    steady = array.dtype == bool or not np.all(np.isfinite(array))
    return wide if steady else wide * generator.uniform(0.97, 1.03, count)


def fields() -> None:
    print("Whole operating field, against one scalar point")
    for name, option_id, target_id in (("curlew", "as-built", "later"), ("saltern", "two-rails", "record")):
        one = demo(name)
        option, target = one.option(option_id), one.target(target_id)
        operating_field(one, option, target)
        taken = seconds(lambda one=one, option=option, target=target: operating_field(one, option, target), 9)
        scalar = seconds(lambda option=option: solve_point(option, 100.0, 0.05, VOLTS, RHO, MU), 5)
        print(f"  {name}/{option_id}: 1280 points in {taken * 1e3:.1f} ms, {taken / scalar:.2f} × one scalar point")


@contextmanager
def served() -> Iterator[tuple[Workshop, TestClient, float]]:
    """A workshop with the demo builds, its client, and what an empty page costs there."""
    with tempfile.TemporaryDirectory() as folder:
        workshop = Workshop(Path(folder) / "bench.sqlite3")
        workshop.garage.load_demo()
        client = TestClient(create_app(workshop), base_url="http://localhost")
        client.get("/")
        calm_collector()
        yield workshop, client, seconds(lambda: client.get("/alive"), 40)
        workshop.close()


def against(client: TestClient, action: Callable[[], object], repeats: int) -> float:
    """What an action costs in empty pages of the same moment, median: processors change their pace within seconds."""
    found = []
    for _ in range(repeats):
        empty = seconds(lambda: client.get("/alive"), 5)
        found.append(seconds(action, 1) / empty)
    return median(found)


def parts_of_an_edit() -> None:
    print("What an edit is made of, against an empty page of the same server")
    with served() as (workshop, _, empty):
        one = workshop.judging.bench(workshop.garage.page("curlew").rows[0].id).build
        lengths = iter(np.linspace(4.0, 5.0, 400))

        def fresh() -> str:
            option = one.options[0]
            feed = option.feed.model_copy(update={"length_m": float(next(lengths))})
            changed = option.model_copy(update={"feed": feed})
            return written(one.model_copy(update={"options": (changed, *one.options[1:])}))

        bodies = [fresh() for _ in range(15)]
        steps = {
            "parsing": lambda body: read(body),
            "writing": lambda body: write(read(body)),
            "judging": lambda body: verdicts_of(body, "as-built"),
            "finding": lambda body: judged(body, "as-built", workshop.shelf),
        }
        for name, step in steps.items():
            queue = iter(bodies)
            taken = seconds(lambda step=step, queue=queue: step(next(queue)), len(bodies))
            print(f"  {name}: {taken * 1e3:.1f} ms, × {taken / empty:.1f}")


def fragments() -> None:
    print("Repainted fragment after a field edit, and the bench's remedies after that, in empty pages")
    with served() as (workshop, client, _):
        for page in EDITS:
            # Each bench on the demo car as it is, whatever was measured before.
            number = workshop.garage.add(demo("curlew"), "for the bench")
            edit = _editing(client, number, page, np.linspace(1.003, 1.2, 40))
            edit()
            taken = against(client, edit, 15)
            whole = f"/builds/{number}/{page}?target=hill"
            rendering = against(client, lambda whole=whole: client.get(whole), 9) - 1.0
            count, tried = _remedies(client, edit, whole)
            remedies = f"; the remedies of its {count} findings × {tried:.1f}" if count else ""
            print(f"  {page}: × {taken:.1f} (of it rendering {rendering:.1f}){remedies}")
        print("  with what was edited on every bench left standing, so that more is wrong than on any demo car:")
        number, base = workshop.garage.add(demo("curlew"), "for the bench"), 1
        for page in EDITS:
            edit = _editing(client, number, page, np.linspace(1.1, 1.2, 12), base)
            edit()
            base += 1
            if page in ("injectors", "pump", "stage", "wire"):
                count, tried = _remedies(client, edit, f"/builds/{number}/{page}?target=hill")
                base += TRIES
                print(f"    {page}: the remedies of its {count} findings × {tried:.1f}")


def _editing(client: TestClient, number: int, page: str, factors: np.ndarray, base: int = 1) -> Callable[[], None]:
    """Edits the field of a bench to its usual value times the next of the factors, revision after revision."""
    (path, nominal), revisions, values = EDITS[page], counted(base), iter(factors)

    def edit() -> None:
        where = {"base": next(revisions), "page": page, "option": "as-built", "target": "hill", "path": path}
        answer = client.post(f"/builds/{number}/edit", data={**where, "value": f"{nominal * next(values):.6f}"})
        if answer.status_code != 200:
            sys.exit(f"{page}: the edit was refused: {answer.status_code}")

    return edit


def _remedies(client: TestClient, edit: Callable[[], None], whole: str) -> tuple[int, float]:
    """How many findings have remedies that are looked for, and what those take after an edit, in empty pages."""
    tries, asked = [], []
    for _ in range(TRIES):
        edit()
        asked = [html.unescape(one) for one in REMEDIES.findall(client.get(whole).text)]
        if asked:
            together = asked[0] + "".join(f"&number={one.rsplit('number=', 1)[1]}" for one in asked[1:])
            tries.append(against(client, lambda together=together: client.get(together), 1))
    return len(asked), median(tries) if tries else 0.0


def memory() -> None:
    print("Memory of a server of its own after a thousand edits")
    with tempfile.TemporaryDirectory() as folder:
        server = Server(Path(folder)).start()
        try:
            fresh = _resident_mb(server.process.pid)
            with httpx.Client(base_url=server.url) as client:
                for turn in range(1_000):
                    path, nominal = EDITS["feed" if turn % 2 else "ask"]
                    form = {"base": turn + 1, "page": "feed", "option": "as-built", "target": "hill", "path": path}
                    text = f"{nominal * (1.01 + turn * 1e-4):.6f}"
                    client.post(f"/builds/{CURLEW}/edit", data={**form, "value": text}).raise_for_status()
            print(f"  {_resident_mb(server.process.pid):.0f} MB, {fresh:.0f} MB before")
        finally:
            server.kill()


def _resident_mb(pid: int) -> float:
    told = Path(f"/proc/{pid}/status").read_text(encoding="ascii")
    return int(next(line for line in told.splitlines() if line.startswith("VmRSS")).split()[1]) / 1024


def sliders() -> None:
    print("Diagram repainted at another point, against an empty page of the same server")
    with served() as (workshop, client, empty):
        for name, option, target in (("curlew", "as-built", "hill"), ("saltern", "two-rails", "record")):
            number = workshop.garage.page(name).rows[0].id
            speeds = iter(np.linspace(2000.0, 7000.0, 60))

            def drag(number: int = number, option: str = option, target: str = target, speeds=speeds) -> None:
                at = {"option": option, "target": target, "rpm": next(speeds)}
                if client.get(f"/builds/{number}/diagram", params=at).status_code != 200:
                    sys.exit(f"build {number}: the diagram was refused")

            drag()
            taken = seconds(drag, 40)
            print(f"  {name}/{option}: {taken * 1e3:.0f} ms, × {taken / empty:.1f}")


def envelopes() -> None:
    print("Ceilings at 101 blends, all components: processor time, against as many judged one by one")
    dunlin, curlew = demo("dunlin"), demo("curlew")
    for name, one, option in (
        ("two pumps, return", two_pumps(), two_pumps().options[0]),
        ("curlew/as-built", curlew, curlew.option("as-built")),
        ("dunlin/as-found", dunlin, dunlin.option("as-found")),
        ("dunlin/port", dunlin, dunlin.option("port")),
    ):
        target = one.targets[-1]
        envelope(one, option, target, at=np.linspace(0.0, 99.0, 101))
        start, spent = process_time(), []
        for number in range(3):
            start = process_time()
            envelope(one, option, target, at=np.linspace(0.0, 99.1 + 0.3 * number, 101))
            spent.append(process_time() - start)
        blends = [target.model_copy(update={"ethanol_pct": pct, "vapour_kpa_abs": None}) for pct in (3.0, 41.0, 87.0)]
        asked = [(one, option, each) for each in blends]
        alone = seconds(lambda asked=asked: [judge_many([each]) for each in asked], 3) / len(blends)
        print(f"  {name}: {median(spent) * 1e3:.0f} ms, {101 * alone / median(spent):.0f} times as fast")


def draws() -> None:
    print("2 000 draws of loads over all targets: processor time, against as many cars judged one by one")
    for name in ("curlew", "dunlin"):
        one = demo(name)
        chances(one, one.options[0], 50, 9)
        spent = []
        for seed in range(3):
            start = process_time()
            chances(one, one.options[0], 2_000, seed)
            spent.append(process_time() - start)
        alone = seconds(lambda one=one: [judge_many([(one, one.options[0], each)], False) for each in one.targets], 5)
        print(f"  {name}: {median(spent):.2f} s, {2_000 * alone / median(spent):.0f} times as fast")


def designs() -> None:
    print("Whole search of the generic shelf for curlew: wall time, against its combinations judged one by one")
    curlew = demo("curlew")
    option = curlew.options[0]
    asked = [(curlew, option, each) for each in curlew.targets]
    alone = seconds(lambda: [judge_many([each], ceilings=False) for each in asked], 3)
    for workers in (1, 2):
        search = Search(curlew, option, load_shelf().catalogue, Rates(), before=option)
        start, first = time.perf_counter(), 0.0
        for found in search.run(workers=workers):
            first = first or (time.perf_counter() - start if found.front else 0.0)
        taken = time.perf_counter() - start
        whole = alone * search.found.total
        many = f"{search.found.total:,} combinations in {taken:.1f} s, {whole / taken:,.0f} times as fast"
        print(f"  {workers} at once: first usable after {first:.1f} s; {many}; {len(search.found.front)} designs")
    peak = resource.getrusage(resource.RUSAGE_SELF).ru_maxrss / 1024.0
    print(f"  this process has used {peak:.0f} MB at most")


def sizings() -> None:
    print("Sizing customers' asks: wall time, against the combinations weighed judged one by one")
    asks = json.loads(Path("tests/customers/asks.json").read_text(encoding="utf-8"))
    for name in ("stock four on pump fuel", "strong blend four", "carburettor V8"):
        sized = [_sized(Answers(**asks[name]["answers"])) for _ in range(3)]
        taken, first = (median(one[at] for one in sized) for at in (0, 1))
        weighed, build = sized[0][2:]
        asked = [(build, build.options[0], each) for each in build.targets]
        alone = seconds(lambda asked=asked: [judge_many([each], ceilings=False) for each in asked], 3)
        told = f"{weighed:,} combinations in {taken:.1f} s, first usable after {first:.1f} s"
        print(f"  {name}: {told}, {alone * weighed / taken:,.0f} times as fast as one by one")


class _Timed(Progress):
    """A sizing watched: seconds until the first usable, and the most combinations weighed."""

    def __init__(self) -> None:
        super().__init__()
        self.start, self.first, self.weighed = time.perf_counter(), 0.0, 0

    def saw(self, found: Found) -> None:
        self.weighed = max(self.weighed, found.total)
        self.first = self.first or (time.perf_counter() - self.start if found.best is not None else 0.0)
        super().saw(found)


def _sized(answers: Answers) -> tuple[float, float, int, Build]:
    """Seconds in all, until the first usable, the most combinations weighed, and the build."""
    watched = _Timed()
    build, _, _ = size_answers(answers, load_shelf(), Rates(), BenchUnits(), progress=watched)
    return time.perf_counter() - watched.start, watched.first, watched.weighed, build


def drags() -> None:
    print("A target dragged in the envelope, against an empty page of the same server")
    with served() as (workshop, client, empty):
        for name, option, target in (("curlew", "as-built", "hill"), ("dunlin", "port", "blend")):
            number = workshop.garage.page(name).rows[0].id
            blends = iter(np.linspace(20.0, 90.0, 60))

            def drag(number: int = number, option: str = option, target: str = target, blends=blends) -> None:
                at = {"option": option, "at": target, "ethanol": next(blends), "power": 260}
                if client.get(f"/builds/{number}/ceilings/moved", params=at).status_code != 200:
                    sys.exit(f"build {number}: the drag was refused")

            drag()
            taken = seconds(drag, 40)
            print(f"  {name}/{option}: {taken * 1e3:.0f} ms, × {taken / empty:.1f}")


if __name__ == "__main__":
    memory()
    calm_collector()
    systems_per_second()
    points_per_second()
    direct_and_port()
    envelopes()
    draws()
    designs()
    sizings()
    fields()
    parts_of_an_edit()
    fragments()
    sliders()
    drags()
