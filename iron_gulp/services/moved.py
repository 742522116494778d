"""What a new version of the rules changed for a build: said once when it is opened, and kept with it.

Stored verdicts are judged again when the rules that judged them are not today's. Where the first to run out, its load or
its grade is another then, old and new stand beside each other with the reason.
"""

import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, replace
from datetime import date
from typing import Any

from iron_gulp.storage import SettingRepository

# By the number of the rules that came in (`judging.PHYSICS`): what they changed, in words.
WHY = {
    8: "Drops, the fuse at 80 % and filter ratings are rules of the shop now and end nothing. New figures stand for the "
    "shortest injector pulses and for boosted engines with direct injection; fuses go by the largest current, surge "
    "tanks by the time at load; chances stand around the expected consumption. What was typed is as it was.",
}
LEAST = 0.005  # of a load: what reads the same has not moved


@dataclass(frozen=True)
class Stand:
    """Where a build stood: what runs out first on which target, its load (None: endless) and its grade."""

    limit: str
    target: str
    load: float | None
    status: str

    @classmethod
    def of(cls, summary: Mapping[str, Any]) -> "Stand | None":
        """From a stored summary; None where it says too little."""
        if not {"limit", "target", "status"} <= summary.keys():
            return None
        return cls(str(summary["limit"]), str(summary["target"]), summary.get("load"), str(summary["status"]))

    def moved_from(self, was: "Stand") -> bool:
        """Whether it reads otherwise."""
        if (self.limit, self.status, self.target) != (was.limit, was.status, was.target):
            return True
        if self.load is None or was.load is None:
            return self.load is not was.load
        return abs(self.load - was.load) >= LEAST


@dataclass(frozen=True)
class Movement:
    """One time that a build was judged otherwise: the day, where it stood and stands, why, and whether it was read."""

    day: str
    was: Stand
    now: Stand
    why: str
    seen: bool = False


def _name(build_id: int) -> str:
    return f"moved.{build_id}"


class Movements:
    """Keeps them, a setting a build."""

    def __init__(self, settings: SettingRepository):
        self._settings = settings
        self._unmoved: set[int] = set()  # builds without any, so that a page need not ask for each edit

    def of(self, build_id: int) -> tuple[Movement, ...]:
        """Every movement of a build, oldest first."""
        if build_id in self._unmoved:
            return ()
        found = _read(self._settings.get(_name(build_id)))
        if not found:
            self._unmoved.add(build_id)
        return found

    def unseen(self, build_id: int) -> tuple[Movement, ...]:
        """Those nobody has read yet."""
        return tuple(one for one in self.of(build_id) if not one.seen)

    def read(self, build_id: int) -> None:
        """All of a build have been read."""
        self._settings.put(_name(build_id), _written([replace(one, seen=True) for one in self.of(build_id)]))

    def noting(self, build_id: int, was: Mapping[str, Any], now: Mapping[str, Any]) -> dict[str, str]:
        """The setting to be stored with a new verdict; nothing where the build stands as it did."""
        before, after = Stand.of(was), Stand.of(now)
        if before is None or after is None or not after.moved_from(before):
            return {}
        why = " ".join(WHY[one] for one in sorted(WHY) if was.get("physics", 0) < one <= now.get("physics", 0))
        if not why:
            return {}
        one = Movement(date.today().isoformat(), before, after, why)
        return {_name(build_id): _written([*_read(self._settings.get(_name(build_id))), one])}

    def noted(self, build_id: int) -> None:
        """A new verdict was stored: the build is looked up again."""
        self._unmoved.discard(build_id)


def _written(movements: list[Movement]) -> str:
    return json.dumps([asdict(one) for one in movements], ensure_ascii=False)


def _read(body: str | None) -> tuple[Movement, ...]:
    told = json.loads(body) if body else []
    return tuple(Movement(one["day"], Stand(**one["was"]), Stand(**one["now"]), one["why"], one["seen"]) for one in told)
