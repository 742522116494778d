"""The command line: serve, demo, solve, chance, ceilings, design, export, import, backup, restore, pack, schema."""

from . import computing, keeping, serving
from .shared import app

__all__ = ["app", "computing", "keeping", "serving"]
