"""How well tests/core bites: small faults put into the core, one at a time, and how many of them the tests notice.

`make mutants SEED=1` draws 120 places by seed, runs tests/core on each and lists who lived. Operators: a constant 20 % up
or down, an arithmetic sign turned, a comparison turned or loosened, min for max, and for or, a condition negated.
Faults that change nothing are listed by hand in EQUIVALENT and do not count.
"""

import argparse
import ast
import os
import random
import shutil
import subprocess
import sys
import tempfile
from collections.abc import Iterator
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from functools import partial
from pathlib import Path

ROOT = Path(__file__).parents[1]
CORE = Path("iron_gulp/core")
LIMIT_S = 300

# (file, line's text, operator): faults that cannot change a result, each with its reason.
EQUIVALENT: dict[tuple[str, str, str], str] = {}


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
        if other is not None and not texts and self._here(node, "arithmetic"):
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


def _number(node: ast.AST) -> bool:
    return isinstance(node, ast.Constant) and isinstance(node.value, int | float)


def sites() -> Iterator[Site]:
    """Every place in the core."""
    for path in sorted((ROOT / CORE).rglob("*.py")):
        text = path.read_text(encoding="utf-8")
        turner = Turner()
        turner.visit(ast.parse(text))
        lines = text.splitlines()
        for number, line, operator in turner.places:
            yield Site(path.relative_to(ROOT), line, number, operator, lines[line - 1].strip())


def snapshot(folder: Path) -> None:
    """What the tests need, as it is now: later edits of the sources do not count."""
    for name in ("iron_gulp", "tests", "bench", "docs"):
        shutil.copytree(ROOT / name, folder / name, ignore=shutil.ignore_patterns("static", "__pycache__", "*.png"))
    shutil.copy(ROOT / "pyproject.toml", folder)


def lives(pristine: Path, site: Site | None) -> bool:
    """Whether tests/core pass with the fault in, or with none."""
    with tempfile.TemporaryDirectory() as folder:
        tree = Path(folder) / "tree"
        shutil.copytree(pristine, tree)
        if site is not None:
            module = ast.parse((pristine / site.path).read_text(encoding="utf-8"))
            turned = ast.fix_missing_locations(Turner(site.number).visit(module))
            (tree / site.path).write_text(ast.unparse(turned), encoding="utf-8")
        command = [sys.executable, "-m", "pytest", "-x", "-q", "-p", "no:cacheprovider", "-p", "no:xdist", "tests/core"]
        # Draws are the same each time, so that who lived can be looked into.
        environment = {**os.environ, "PYTHONPATH": str(tree), "PYTHONDONTWRITEBYTECODE": "1", "OPENBLAS_NUM_THREADS": "1"}
        try:
            done = subprocess.run(command, cwd=tree, env=environment, capture_output=True, timeout=LIMIT_S, check=False)
        except subprocess.TimeoutExpired:
            return False
        return done.returncode == 0


def main() -> None:
    """Draw, run, report."""
    parser = argparse.ArgumentParser()
    parser.add_argument("--seed", type=int, default=1)
    parser.add_argument("--count", type=int, default=120)
    parser.add_argument("--jobs", type=int, default=os.cpu_count() or 1)
    asked = parser.parse_args()
    drawn = random.Random(asked.seed).sample(list(sites()), asked.count)
    judged = [site for site in drawn if (str(site.path), site.text, site.operator) not in EQUIVALENT]
    with ThreadPoolExecutor(asked.jobs) as pool, tempfile.TemporaryDirectory() as folder:
        pristine = Path(folder) / "pristine"
        snapshot(pristine)
        if not lives(pristine, None):
            sys.exit("tests/core fail without any fault: nothing can be told")
        alive = []
        for site, living in zip(judged, pool.map(partial(lives, pristine), judged), strict=True):
            if living:
                alive.append(site)
                print(f"  lived: {site.path}:{site.line} {site.operator}: {site.text}", flush=True)
    caught = len(judged) - len(alive)
    share = 100.0 * caught / len(judged)
    print(
        f"seed {asked.seed}: {caught} of {len(judged)} caught ({share:.1f} %), {len(drawn) - len(judged)} change nothing"
    )


if __name__ == "__main__":
    main()
