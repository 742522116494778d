"""What the import contracts do not see: no arithmetic in routers or templates, nothing from elsewhere, small modules."""

import ast
import re
from functools import cache
from pathlib import Path

import pytest
from jinja2 import nodes

from iron_gulp.web.parts.rendering import _environment

ROOT = Path(__file__).parents[1]
PACKAGE = ROOT / "iron_gulp"
ARITHMETIC = (nodes.Add, nodes.Sub, nodes.Mul, nodes.Div, nodes.FloorDiv, nodes.Mod, nodes.Pow)
TEMPLATES = sorted((PACKAGE / "web").rglob("*.html"))
ROUTERS = sorted(path for path in (PACKAGE / "web").rglob("*.py") if "APIRouter" in path.read_text(encoding="utf-8"))
MODULES = sorted(path for path in PACKAGE.rglob("*.py"))


@pytest.mark.parametrize("path", TEMPLATES, ids=lambda path: path.name)
def test_templates_hold_no_arithmetic(path):
    tree = _environment.parse(path.read_text(encoding="utf-8"))
    assert [node for kind in ARITHMETIC for node in tree.find_all(kind)] == []


@pytest.mark.parametrize("path", ROUTERS, ids=lambda path: path.name)
def test_routers_hold_no_arithmetic(path):
    tree = ast.parse(path.read_text(encoding="utf-8"))
    sums = [node for node in ast.walk(tree) if isinstance(node, ast.BinOp) and not isinstance(node.op, ast.BitOr)]
    assert [ast.unparse(node) for node in sums] == []


@pytest.mark.parametrize("path", [*TEMPLATES, *sorted((PACKAGE / "web/static/js").glob("*.js"))], ids=lambda p: p.name)
def test_pages_load_nothing_from_elsewhere(path):
    assert not re.search(r"(?:src|href|url)\s*[=(]\s*[\"']?(?:https?:)?//", path.read_text(encoding="utf-8"))


@pytest.mark.parametrize("path", MODULES, ids=lambda path: str(path.relative_to(PACKAGE)))
def test_modules_stay_small_and_say_what_they_are(path):
    text = path.read_text(encoding="utf-8")
    assert len(text.splitlines()) <= 460
    if text.strip():
        assert ast.get_docstring(ast.parse(text)), "a module docstring is missing"


def test_public_core_functions_are_documented():
    missing = []
    for path in sorted((PACKAGE / "core").rglob("*.py")):
        for node in ast.parse(path.read_text(encoding="utf-8")).body:
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
    for node in ast.walk(ast.parse(path.read_text(encoding="utf-8"))):
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
