"""How well tests/core bites: small faults put into the core, one at a time, and how many of them the tests notice.

`make mutants SEED="1 2 3"` draws 120 places by each seed, runs tests/core on each and lists who lived. Operators: a
constant 20 % up or down, an arithmetic sign turned, a comparison turned or loosened, min for max, and for or, a
condition negated. Faults that change nothing are listed by hand in EQUIVALENT and do not count, up to five in a hundred.

Which test files run a line is measured first, each file in a process of its own, so that what one test leaves in a cache
is never taken for what another would not notice; a fault is then tried by those files alone, first the quick ones that
run much of its module and little else. WITHIN=90 gives each fault so many seconds of processor time at most, as measured
under coverage: what lives then may still be caught by the rest.
"""

import argparse
import ast
import math
import os
import resource
import shutil
import subprocess
import sys
import tempfile
from collections import Counter
from collections.abc import Iterable, Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from hashlib import blake2b
from heapq import nsmallest
from operator import itemgetter
from pathlib import Path
from threading import Timer

from coverage import CoverageData

ROOT = Path(__file__).parents[1]
CORE = Path("iron_gulp/core")
RECORD = "tests/core/test_taken_for_granted.py"  # of many numbers in a moment: no bound leaves it out
LIMIT_S = 300  # processor time of a test file without any fault; with one it may take three times what it took without

# (file, line's text, operator): faults that cannot change a result, each with its reason.
CORE_ROOM = "iron_gulp/core"
_NEAR = "_LEAST, _TINY_M3_S, _NEAR_M3_S, _UNMET_KPA = 1e-3, 1e-9, 1e-11, 5.0"
_FROM_BELOW = "guess = floats(np.clip(start.low + rise / step, 0, NODES - 1))"
_BEGINS = "where a walk begins"
_FROM_ABOVE = "guess = floats(np.clip((value + lost) / step, 0, NODES - 1)) if start is None else floats(start.low)"
_NEAREST = "return min(fit, key=lambda one: abs(log(max(size(one), 1e-6) / max(own, 1e-6))), default=None)"
_NOTHING = "nothing = _ROUNDING * np.maximum(np.abs(off_low), np.abs(off_high))"
_CLASSES = "classes = np.minimum(np.floor((np.nan_to_num(head, posinf=10.0) + SLACK) * 100.0), headroom_class(np.inf))"
EQUIVALENT: dict[tuple[str, str, str], str] = {
    (
        f"{CORE_ROOM}/physics/roots.py",
        "if np.all((high - low < width) | np.isfinite(ends)):",
        "comparison loosened",
    ): "a bracket just as wide as the width: one step more or less at rounding",
    (
        f"{CORE_ROOM}/physics/roots.py",
        "if np.all(np.abs(off) < 1e-11):",
        "comparison loosened",
    ): "off by just the tolerance",
    (
        f"{CORE_ROOM}/physics/roots.py",
        "slope = np.clip((off - off_before) / (at - before), 0.5, 4.0)",
        "arithmetic",
    ): "how fast the root is come to; what does not settle is bracketed",
    (
        f"{CORE_ROOM}/physics/pumps.py",
        "held = volts * volts * table.stall_kpa <= rise * square_v",
        "comparison loosened",
    ): "at the stall itself both sides tell the same current",
    (f"{CORE_ROOM}/physics/roots.py", _NOTHING, "min for max"): "what counts as nothing, at rounding",
    (
        f"{CORE_ROOM}/solve/fed_peak.py",
        "inside = np.flatnonzero((below < 0) & (above >= 0))",
        "comparison loosened",
    ): "nothing wanted of nothing: never met",
    (
        f"{CORE_ROOM}/solve/places.py",
        "_PATIENCE = 5  # secants before halving",
        "constant + 20 %",
    ): "how a root comes",
    (
        f"{CORE_ROOM}/solve/lift.py",
        "rise = floats(index * (self.top_kpa / (NODES - 1)))",
        "constant + 20 %",
    ): "how far apart nodes are",
    (
        f"{CORE_ROOM}/solve/pipes.py",
        "ease = shares / np.sqrt(np.maximum(np.array(drops), 1e-300))",
        "constant - 20 %",
    ): "keeps nothing out of a division",
    (f"{CORE_ROOM}/plan/design/pool.py", _CLASSES, "constant + 20 %"): "a bound that stays above what is judged whole",
    (
        f"{CORE_ROOM}/solve/settling.py",
        "return floats(flow * (1.0 - _ALIKE) - _brought(at, rail, pressure, inlets))",
        "arithmetic",
    ): "how near flows are found",
    (
        f"{CORE_ROOM}/judge/ceilings.py",
        "most = floats(passes_kg_s(meter, targets, left) / targets.density_kg_m3)",
        "arithmetic",
    ): "how far a root is looked for",
    (f"{CORE_ROOM}/judge/supply.py", "_GUESS_L_H = 200.0", "constant + 20 %"): "where a root search starts",
    (f"{CORE_ROOM}/judge/supply.py", "_GUESS_L_H = 200.0", "constant - 20 %"): "where a root search starts",
    (
        f"{CORE_ROOM}/solve/pipes.py",
        "if np.max(off, initial=0.0) < _SHARE_SETTLED:",
        "comparison loosened",
    ): "off by just the tolerance",
    (
        f"{CORE_ROOM}/solve/seeking.py",
        "share = np.sqrt(np.clip(1.0 - flow_m3_s / first, 0.0, 1.0))",
        "arithmetic",
    ): "where a walk begins",
    (f"{CORE_ROOM}/solve/seeking.py", "guess = floats(share * (NODES - 1))", "arithmetic"): "where a walk begins",
    (f"{CORE_ROOM}/solve/places.py", "stride[at] *= 2.0", "constant + 20 %"): "how fast a walk widens",
    (f"{CORE_ROOM}/solve/places.py", "stride[at] *= 2.0", "constant - 20 %"): "how fast a walk widens",
    (
        f"{CORE_ROOM}/solve/settling.py",
        "satisfied, holds = delivered >= wanted * (1.0 - _ALIKE), rail_kpa >= at.target_kpa * (1.0 - _ALIKE)",
        "comparison loosened",
    ): "just a rounding below what is wanted",
    (f"{CORE_ROOM}/solve/fed_peak.py", _NEAR, "constant + 20 %"): "where a search starts and how near it comes",
    (f"{CORE_ROOM}/solve/fed_peak.py", _NEAR, "constant - 20 %"): "where a search starts and how near it comes",
    (f"{CORE_ROOM}/solve/seeking.py", _FROM_BELOW, "constant + 20 %"): "where a walk begins",
    (f"{CORE_ROOM}/solve/seeking.py", _FROM_BELOW, "constant - 20 %"): "where a walk begins",
    (f"{CORE_ROOM}/solve/seeking.py", _FROM_BELOW, "arithmetic"): "where a walk begins",
    (
        f"{CORE_ROOM}/physics/pumps.py",
        "found = floats(np.where(volts > low.voltage_v, mixed, found))",
        "comparison loosened",
    ): "at a table's own voltage both sides are that table",
    (f"{CORE_ROOM}/model/catalogue.py", _NEAREST, "constant + 20 %"): "keeps nothing out of a logarithm",
    (f"{CORE_ROOM}/model/catalogue.py", _NEAREST, "constant - 20 %"): "keeps nothing out of a logarithm",
    (
        f"{CORE_ROOM}/physics/pumps.py",
        "too_high = middle > source - current_a(tables, rise, middle) * ohm",
        "comparison loosened",
    ): "just the root found: either half ends there",
    (f"{CORE_ROOM}/solve/seeking.py", "rail = floats(manifold + flow**2 / slope)", "constant + 20 %"): _BEGINS,
    (f"{CORE_ROOM}/solve/seeking.py", _FROM_ABOVE, "constant + 20 %"): _BEGINS,
    (f"{CORE_ROOM}/physics/arrays.py", "@lru_cache(maxsize=256)", "constant - 20 %"): "how many are remembered",
    (
        f"{CORE_ROOM}/judge/ceilings.py",
        "tried = {one: span.next(halve=turn % 4 == 3) for one, span in spans.items()}",
        "constant - 20 %",
    ): "how a root comes",
    (
        f"{CORE_ROOM}/judge/ceilings.py",
        "floats(np.where(over, off, np.where(stays_high, self.off_high / 2.0, self.off_high))),",
        "arithmetic",
    ): "how a root comes",
}
MOST_SPARED = 0.05  # of the places drawn; what changes nothing beyond that counts as if it had lived


@dataclass(frozen=True)
class Site:
    """One place where one operator can be put in."""

    path: Path
    line: int
    number: int
    operator: str
    text: str


ARITHMETIC = {ast.Add: ast.Sub, ast.Sub: ast.Add, ast.Mult: ast.Div, ast.Div: ast.Mult}
TURNED = {ast.Lt: ast.Gt, ast.Gt: ast.Lt, ast.LtE: ast.GtE, ast.GtE: ast.LtE}
LOOSENED = {ast.Lt: ast.LtE, ast.Gt: ast.GtE, ast.LtE: ast.Lt, ast.GtE: ast.Gt, ast.Eq: ast.NotEq, ast.NotEq: ast.Eq}
EXTREMES = {"min": "max", "max": "min", "minimum": "maximum", "maximum": "minimum"}


class Turner(ast.NodeTransformer):
    """Walks a module; puts one fault in at place `wanted`, or only counts the places."""

    def __init__(self, wanted: int | None = None):
        self.wanted, self.count, self.places = wanted, 0, []

    def _here(self, node: ast.AST, operator: str) -> bool:
        self.places.append((self.count, node.lineno, operator))
        self.count += 1
        return self.count - 1 == self.wanted

    def visit_Constant(self, node: ast.Constant) -> ast.AST:
        if node.value != 0 and isinstance(node.value, float | int) and not isinstance(node.value, bool):
            for operator, factor in (("constant + 20 %", 1.2), ("constant - 20 %", 0.8)):
                if self._here(node, operator):
                    value = node.value * factor
                    whole = round(value) if round(value) != node.value else node.value + (1 if factor > 1 else -1)
                    return ast.copy_location(ast.Constant(value if isinstance(node.value, float) else whole), node)
        return node

    def visit_BinOp(self, node: ast.BinOp) -> ast.AST:
        self.generic_visit(node)
        other = ARITHMETIC.get(type(node.op))
        texts = any(
            isinstance(side, ast.Constant | ast.JoinedStr) and not _number(side) for side in (node.left, node.right)
        )
        if other is not None and not texts and not _nothing(node.right) and self._here(node, "arithmetic"):
            return ast.copy_location(ast.BinOp(node.left, other(), node.right), node)
        return node

    def visit_Compare(self, node: ast.Compare) -> ast.AST:
        self.generic_visit(node)
        for name, table in (("comparison turned", TURNED), ("comparison loosened", LOOSENED)):
            other = table.get(type(node.ops[0]))
            if other is not None and self._here(node, name):
                return ast.copy_location(ast.Compare(node.left, [other(), *node.ops[1:]], node.comparators), node)
        return node

    def visit_BoolOp(self, node: ast.BoolOp) -> ast.AST:
        self.generic_visit(node)
        if self._here(node, "and for or"):
            other = ast.Or() if isinstance(node.op, ast.And) else ast.And()
            return ast.copy_location(ast.BoolOp(other, node.values), node)
        return node

    def visit_If(self, node: ast.If) -> ast.AST:
        self.generic_visit(node)
        if self._here(node, "condition negated"):
            node.test = ast.copy_location(ast.UnaryOp(ast.Not(), node.test), node.test)
        return node

    def visit_Name(self, node: ast.Name) -> ast.AST:
        if node.id in EXTREMES and self._here(node, "min for max"):
            return ast.copy_location(ast.Name(EXTREMES[node.id], node.ctx), node)
        return node

    def visit_Attribute(self, node: ast.Attribute) -> ast.AST:
        self.generic_visit(node)
        if node.attr in EXTREMES and self._here(node, "min for max"):
            return ast.copy_location(ast.Attribute(node.value, EXTREMES[node.attr], node.ctx), node)
        return node

    def visit_AnnAssign(self, node: ast.AnnAssign) -> ast.AST:
        return node  # field ranges and defaults are data of the model, not computation


def _nothing(node: ast.AST) -> bool:
    """What is added only for its shape: nothing times something. Less nothing is more nothing."""
    if isinstance(node, ast.BinOp):
        return isinstance(node.op, ast.Mult) and isinstance(node.left, ast.Constant) and node.left.value == 0
    return isinstance(node, ast.Name) and node.id == "nothing"


def _number(node: ast.AST) -> bool:
    return isinstance(node, ast.Constant) and isinstance(node.value, int | float)


def sites(root: Path) -> Iterator[Site]:
    """Every place in the core of a tree."""
    for path in sorted((root / CORE).rglob("*.py")):
        text = path.read_text(encoding="utf-8")
        turner = Turner()
        turner.visit(ast.parse(text))
        lines = text.splitlines()
        for number, line, operator in turner.places:
            yield Site(path.relative_to(root), line, number, operator, lines[line - 1].strip())


def draw(every: Iterable[Site], seed: int, count: int) -> list[Site]:
    """So many places by a seed, each by a lot of its own: a change elsewhere in the core leaves the draw alone."""
    alike: Counter[tuple[Path, str, str]] = Counter()
    lots = []
    for site in every:
        named = (site.path, site.text, site.operator)
        alike[named] += 1
        lots.append((blake2b(repr((seed, *map(str, named), alike[named])).encode()).digest(), site))
    return [site for _, site in nsmallest(count, lots, key=itemgetter(0))]


def snapshot(folder: Path) -> None:
    """What the tests need, as it is now: later edits of the sources do not count."""
    for name in ("iron_gulp", "tests", "bench", "docs"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("static", "__pycache__", "*.png"))
    shutil.copy(ROOT / "pyproject.toml", folder)


def statement_lines(text: str) -> dict[int, range]:
    """For every line the lines of the innermost statement it stands in; of one with a body, those of its head alone."""
    found: dict[int, range] = {}
    for node in ast.walk(ast.parse(text)):
        if isinstance(node, ast.stmt):
            body = getattr(node, "body", None)
            last = max(body[0].lineno - 1, node.lineno) if body else node.end_lineno or node.lineno
            found.update(dict.fromkeys(range(node.lineno, last + 1), range(node.lineno, last + 1)))
    return found


def run(tree: Path, files: list[str], limit_s: float, *under: str) -> tuple[bool, float]:
    """Whether the test files pass in a tree, and the processor time they took, s."""
    command = [sys.executable, *under, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist"]
    # Draws are the same each time, so that who lived can be looked into.
    command += ["--hypothesis-seed=0", *files]
    environment = {**os.environ, "PYTHONPATH": str(tree), "PYTHONDONTWRITEBYTECODE": "1", "OPENBLAS_NUM_THREADS": "1"}
    environment["IRON_GULP_EVERY_DEMO"] = "1"
    # Processor time, so that a busy machine is not taken for a loop without end; waiting without end counts as well.
    limits = partial(resource.setrlimit, resource.RLIMIT_CPU, (math.ceil(limit_s), math.ceil(limit_s)))
    quiet = subprocess.DEVNULL
    started = subprocess.Popen(command, cwd=tree, env=environment, stdout=quiet, stderr=quiet, preexec_fn=limits)
    waited = Timer(20 * limit_s, started.kill)
    waited.start()
    _, status, used = os.wait4(started.pid, 0)
    waited.cancel()
    started.returncode = os.waitstatus_to_exitcode(status)
    return started.returncode == 0, used.ru_utime + used.ru_stime


class Covered:
    """Which test files run which lines of the core, and how long each takes."""

    def __init__(self, pristine: Path, pool: ThreadPoolExecutor, within_s: float):
        self.pristine, self.within_s = pristine, within_s
        self.files = sorted(str(one.relative_to(pristine)) for one in (pristine / "tests/core").rglob("test_*.py"))
        self.seconds: dict[str, float] = {}
        self.lines: dict[str, dict[str, set[int]]] = {}
        passed = list(pool.map(self._measure, self.files))
        if not all(passed):
            failed = [one for one, good in zip(self.files, passed, strict=True) if not good]
            sys.exit(f"these fail without any fault, so nothing can be told: {', '.join(failed)}")

    def _measure(self, file: str) -> bool:
        data = self.pristine / f"{Path(file).stem}.coverage"
        under = ("-m", "coverage", "run", f"--data-file={data}", f"--include={self.pristine}/{CORE}/*")
        passed, self.seconds[file] = run(self.pristine, [file], LIMIT_S, *under)
        told = CoverageData(str(data))
        told.read()
        self.lines[file] = {one: set(told.lines(one) or ()) for one in told.measured_files()}
        return passed

    def by(self, site: Site) -> list[str]:
        """The test files that run a place, first the quick ones that run much of its module and little else."""
        path = self.pristine / site.path
        wanted = statement_lines(path.read_text(encoding="utf-8")).get(site.line, range(site.line, site.line + 1))
        running = [one for one in self.files if not self.lines[one].get(str(path), set()).isdisjoint(wanted)]
        running.sort(key=lambda one: self.seconds[one] * self._all(one) / len(self.lines[one][str(path)]) ** 2)
        spent, found = 0.0, []
        for one in running:
            if not found or one == RECORD or spent + self.seconds[one] <= self.within_s:
                spent += self.seconds[one]
                found.append(one)
        return found

    def _all(self, file: str) -> int:
        """How many lines of the core a test file runs."""
        return sum(map(len, self.lines[file].values()))

    def lives(self, site: Site) -> bool:
        """Whether the test files that run a place pass with its fault in."""
        files = self.by(site)
        if not files:
            return True
        with tempfile.TemporaryDirectory() as folder:
            tree = Path(folder) / "tree"
            shutil.copytree(self.pristine, tree, ignore=shutil.ignore_patterns("*.coverage"))
            module = ast.parse((self.pristine / site.path).read_text(encoding="utf-8"))
            turned = ast.fix_missing_locations(Turner(site.number).visit(module))
            (tree / site.path).write_text(ast.unparse(turned), encoding="utf-8")
            passed, _ = run(tree, files, 3.0 * sum(self.seconds[one] for one in files) + 30.0)
            return passed


def report(seed: int, count: int, covered: Covered, pool: ThreadPoolExecutor) -> None:
    """Draw places by a seed, try them and tell who lived."""
    drawn = draw(sites(covered.pristine), seed, count)
    judged = [site for site in drawn if (str(site.path), site.text, site.operator) not in EQUIVALENT]
    caught, same = len(judged), len(drawn) - len(judged)
    spared = min(same, int(MOST_SPARED * count))
    for number, (site, living) in enumerate(zip(judged, pool.map(covered.lives, judged), strict=True), start=1):
        print(f"\r  {number} of {len(judged)}", end="", file=sys.stderr, flush=True)
        if living:
            caught -= 1
            print(f"  lived: {site.path}:{site.line} {site.operator}: {site.text}", flush=True)
    counted = len(drawn) - spared
    told = f"seed {seed}: {caught} of {counted} caught ({100.0 * caught / counted:.1f} %), {same} change nothing"
    print(told + (f", {same - spared} of them counted" if same > spared else ""), flush=True)


def main() -> None:
    """Measure what covers what, then try the faults of each seed."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seed", type=int, nargs="+", default=[1])
    parser.add_argument("--count", type=int, default=120)
    parser.add_argument("--within", type=float, default=math.inf)
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    asked = parser.parse_args()
    with ThreadPoolExecutor(asked.jobs) as pool, tempfile.TemporaryDirectory() as folder:
        pristine = Path(folder) / "pristine"
        snapshot(pristine)
        covered = Covered(pristine, pool, asked.within)
        for seed in asked.seed:
            report(seed, asked.count, covered, pool)


if __name__ == "__main__":
    main()
