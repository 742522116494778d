"""What was taken before, and whether what is taken now departs from it."""

import gzip
import json
from pathlib import Path
from typing import Any

from tests.core.golden.comparing import departures

RELATIVE = 1e-6


def read(name: str) -> Any:
    """What was taken under a name."""
    with gzip.open(Path(__file__).parent / f"{name}.json.gz") as file:
        return json.load(file)


def moved(before: Any, now: Any) -> list[Any]:
    """Leaves that moved."""
    return list(departures(before, json.loads(json.dumps(now)), RELATIVE))
