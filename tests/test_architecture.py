"""What the import contracts do not see: no arithmetic in routers or templates, nothing from elsewhere, small modules."""

import ast
import re
from functools import cache
from pathlib import Path

import pytest
from jinja2 import nodes

from iron_gulp.web.parts.rendering import _environment

pytestmark = pytest.mark.xdist_group("architecture")

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "iron_gulp"
ARITHMETIC = (nodes.Add, nodes.Sub, nodes.Mul, nodes.Div, nodes.FloorDiv, nodes.Mod, nodes.Pow)
TEMPLATES = sorted((PACKAGE / "web").rglob("*.html"))
ROUTERS = sorted(path for path in (PACKAGE / "web").rglob("*.py") if "APIRouter" in path.read_text(encoding="utf-8"))
MODULES = sorted(path for path in PACKAGE.rglob("*.py"))


def read(path):
    return path.read_text(encoding="utf-8")


@cache
def tree(path):
    return ast.parse(read(path))


def test_templates_hold_no_arithmetic():
    held = {path.name: list(_environment.parse(read(path)).find_all(ARITHMETIC)) for path in TEMPLATES}
    assert len(held) > 60
    assert {name: sums for name, sums in held.items() if sums} == {}


def test_routers_hold_no_arithmetic():
    def sums(path):
        every = [node for node in ast.walk(tree(path)) if isinstance(node, ast.BinOp)]
        return [ast.unparse(node) for node in every if not isinstance(node.op, ast.BitOr)]

    held = {path.relative_to(PACKAGE): sums(path) for path in ROUTERS}
    assert len(held) > 20
    assert {name: sums for name, sums in held.items() if sums} == {}


def test_pages_load_nothing_from_elsewhere():
    elsewhere = re.compile(r"(?:src|href|url)\s*[=(]\s*[\"']?(?:https?:)?//")
    assert [
        path for path in (*TEMPLATES, *(PACKAGE / "web/static/js").glob("*.js")) if elsewhere.search(read(path))
    ] == []


def test_modules_stay_small_and_say_what_they_are():
    texts = {path: read(path) for path in MODULES}
    assert [path for path, text in texts.items() if len(text.splitlines()) > 460] == []
    silent = [path for path, text in texts.items() if text.strip() and not ast.get_docstring(tree(path))]
    assert silent == [], "a module docstring is missing"


def test_public_core_functions_are_documented():
    missing = []
    for path in sorted((PACKAGE / "core").rglob("*.py")):
        for node in tree(path).body:
            public = isinstance(node, ast.FunctionDef) and not node.name.startswith("_")
            if public and not ast.get_docstring(node):
                missing.append(f"{path.name}: {node.name}")
    assert missing == []


def test_vendored_packages_carry_their_licences():
    vendor = PACKAGE / "web/static/vendor"
    for package in ("htmx.org", "idiomorph", "bootstrap", "echarts", "barlow"):
        assert list(vendor.glob(f"{package}.LICEN*")), package


ROOMS = ("physics", "model", "solve", "judge", "study", "advise", "account")


@cache
def _imports(path):
    """Absolute module names a file imports from."""
    return tuple(_named(path))


def _named(path):
    here = ["iron_gulp", *path.relative_to(PACKAGE).with_suffix("").parts]
    for node in ast.walk(tree(path)):
        if isinstance(node, ast.ImportFrom):
            base = here[: len(here) - node.level] if node.level else []
            yield ".".join([*base, *([node.module] if node.module else [])])
        elif isinstance(node, ast.Import):
            yield from (alias.name for alias in node.names)


@pytest.mark.parametrize("room", ROOMS)
def test_a_room_is_used_through_its_face(room):
    inside, face = PACKAGE / "core" / room, f"iron_gulp.core.{room}"
    round_it = [
        f"{path.relative_to(PACKAGE)}: {name}"
        for path in MODULES
        if inside not in path.parents
        for name in _imports(path)
        if name.startswith(face + ".")
    ]
    assert round_it == []
