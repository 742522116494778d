"""The second record of what is taken for granted says what the core says, figure by figure, and says all of it."""

import importlib
import re
from pathlib import Path

import numpy as np
import pytest

ROOT = Path(__file__).parents[2]
ROW = re.compile(
    r"^\| (?P<what>[^|]+) \| (?P<figures>[^|]+) \| `(?P<named>[a-z_.]+\.[A-Z_0-9]+)` \| (?P<after>[^|]+) \|$",
    re.MULTILINE,
)
RECORD = [one.groups() for one in ROW.finditer((ROOT / "docs/taken-for-granted.md").read_text(encoding="utf-8"))]
COUNTS = re.compile(r"MOST_\w+|FIRST_\w+")  # how many things are tried is no figure of the trade


def flat(figures):
    if isinstance(figures, dict):
        figures = list(figures.values())
    if isinstance(figures, tuple | list | np.ndarray):
        return [number for one in figures for number in flat(one)]
    return [figures]


def of_core(named):
    module, name = named.rsplit(".", 1)
    return getattr(importlib.import_module(f"iron_gulp.core.{module}"), name)


@pytest.mark.parametrize(("what", "figures", "named", "after"), RECORD, ids=[named for _, _, named, _ in RECORD])
def test_what_is_taken_for_granted_is_what_is_written_down(what, figures, named, after):
    assert what.strip()
    assert after.strip()
    assert [float(one) for one in figures.split(";")] == pytest.approx(flat(of_core(named)), rel=1e-11)


def test_every_bound_of_advice_is_written_down():
    written = {named for _, _, named, _ in RECORD}
    for path in sorted((ROOT / "iron_gulp/core/advise").glob("*.py")):
        module = importlib.import_module(f"iron_gulp.core.advise.{path.stem}")
        own = re.findall(r"^([A-Z][A-Z_0-9]*(?:, [A-Z][A-Z_0-9]*)*) = ", path.read_text(encoding="utf-8"), re.MULTILINE)
        for name in (one for line in own for one in line.split(", ")):
            numbers = all(isinstance(one, int | float) for one in flat(getattr(module, name)))
            if numbers and not COUNTS.fullmatch(name):
                assert f"advise.{path.stem}.{name}" in written, name
    assert len(written) > 100
