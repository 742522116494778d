"""The server's log: a file beside the database that cannot outgrow its limit."""

import logging
from logging.handlers import RotatingFileHandler
from pathlib import Path

LIMIT_BYTES, OLDER = 1_000_000, 3


def log_to(data: Path) -> logging.Logger:
    """Start to log to the data folder and to the terminal: starts, stops, warnings, errors. Raises OSError."""
    data.mkdir(parents=True, exist_ok=True)
    file = RotatingFileHandler(data / "iron_gulp.log", maxBytes=LIMIT_BYTES, backupCount=OLDER, encoding="utf-8")
    file.setFormatter(logging.Formatter("%(asctime)s %(levelname)s %(name)s: %(message)s"))
    screen = logging.StreamHandler()
    screen.setLevel(logging.WARNING)
    logging.basicConfig(level=logging.WARNING, handlers=[file, screen], force=True)
    own = logging.getLogger("iron_gulp")
    own.setLevel(logging.INFO)
    return own


def logs_in(data: Path) -> list[Path]:
    """The log and its older files, the newest first."""
    return sorted(data.glob("iron_gulp.log*"))
