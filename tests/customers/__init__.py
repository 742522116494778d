"""Customers' sentences, and what of them is typed into a new build: customers.json. To add one, write it there.

`types` holds, in order, what a specialist types who has only the sentence: (edit path, text), or ("remove", path) and
("add", what).
"""

import json
from pathlib import Path
from typing import Any

CUSTOMERS: dict[str, dict[str, Any]] = json.loads((Path(__file__).parent / "customers.json").read_text(encoding="utf-8"))
