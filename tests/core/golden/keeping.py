"""What was taken before as readable text, a line a leaf, and whether what is taken now departs from it.

    targets
      hill
        loads
          0
            component: "pumps"
            load: 0.734512345
        field
          rail_kpa: 72 numbers, 280.6 to 572.9, mean 411.234567, centre 36.1

A list of numbers is one leaf: how many, their ends, their mean, and where its centre lies among them.
"""

import json
import math
import re
from collections.abc import Iterator
from itertools import zip_longest
from pathlib import Path
from typing import Any

RELATIVE, RESIDUE = 1e-6, 1e-5
FOLDER = Path(__file__).with_name("kept")
NUMBER = re.compile(r"-?\d+(?:\.\d+)?(?:e[+-]\d+)?")


def lines(value: Any, depth: int = 0) -> Iterator[str]:
    """The text of what was taken."""
    for key, one in value.items() if isinstance(value, dict) else enumerate(value):
        if isinstance(one, dict | list) and one and not _numbers(one):
            yield f"{'  ' * depth}{key}"
            yield from lines(one, depth + 1)
        else:
            yield f"{'  ' * depth}{key}: {leaf(one)}"


def _numbers(value: Any) -> bool:
    return isinstance(value, list) and all(isinstance(one, float | int) and not isinstance(one, bool) for one in value)


def leaf(value: Any) -> str:
    """A leaf in one line."""
    if isinstance(value, float | int) and not isinstance(value, bool):
        return f"{value:.9g}"
    if not _numbers(value) or not value:
        return json.dumps(value, ensure_ascii=False)
    if len(value) <= 4:
        return ", ".join(f"{one:.9g}" for one in value)
    whole = math.fsum(abs(one) for one in value)
    centre = math.fsum(at * abs(one) for at, one in enumerate(value)) / whole if whole else 0.0
    mean = math.fsum(value) / len(value)
    return f"{len(value)} numbers, {min(value):.9g} to {max(value):.9g}, mean {mean:.9g}, centre {centre:.9g}"


def leaves(text: str) -> dict[str, str]:
    """Leaves of a text by their paths."""
    found: dict[str, str] = {}
    above: list[str] = []
    for line in text.splitlines():
        depth = (len(line) - len(line.lstrip(" "))) // 2
        key, parted, told = line.strip().partition(": ")
        del above[depth:]
        if parted:
            found["/".join((*above, key))] = told
        above.append(key)
    return found


def alike(before: str, now: str) -> bool:
    """Whether two leaves are the same: words to the letter, numbers within a millionth (1e-5 for residues)."""
    if before.startswith(('"', "[", "{")) or now.startswith(('"', "[", "{")):
        return before == now
    if NUMBER.sub("", before) != NUMBER.sub("", now):
        return False
    pairs = zip_longest(map(float, NUMBER.findall(before)), map(float, NUMBER.findall(now)), fillvalue=math.nan)
    return all(math.isclose(one, other, rel_tol=RELATIVE, abs_tol=RESIDUE) for one, other in pairs)


def file_of(name: str) -> Path:
    """Where something is kept: its name in small letters."""
    return FOLDER / f"{re.sub(r'[^a-z0-9]+', '-', name.lower()).strip('-')}.txt"


def moved(name: str, now: Any) -> list[tuple[str, str, str]]:
    """Leaves of what was taken under a name that are another now; what there was not before has not moved."""
    was = leaves(file_of(name).read_text(encoding="utf-8"))
    found = leaves("\n".join(lines(json.loads(json.dumps(now)))))
    missing = "(nothing)"
    both = ((path, told, found.get(path, missing)) for path, told in was.items())
    return [(path, told, now) for path, told, now in both if not alike(told, now)]


def keep(name: str, now: Any) -> None:
    """Take something anew."""
    FOLDER.mkdir(exist_ok=True)
    text = "\n".join(lines(json.loads(json.dumps(now))))
    file_of(name).write_text(f"{text}\n", encoding="utf-8")
