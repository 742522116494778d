"""Chances of an option: draws remembered by the build's text, what matters most, and the worst corners."""

from functools import lru_cache

from iron_gulp.core.model import Component
from iron_gulp.core.study import Brackets, Chances, Corner, Matters, chances, what_matters, within_brackets, worst_corners

from .judging import Bench, parsed

_KEPT = 8


class Odds:
    """What the page of chances shows."""

    @staticmethod
    def of(bench: Bench) -> Chances:
        """Every target of the option on the bench over draws of its uncertain inputs."""
        return _chances(bench.stored.body, bench.option.id)

    @staticmethod
    def matters(bench: Bench) -> tuple[Component, tuple[Matters, ...]]:
        """What runs out first in most cars on the target on the bench, and what matters most for it."""
        first = Odds.of(bench).of(bench.verdict.target.id).first_out
        return first, _matters(bench.stored.body, bench.option.id, bench.verdict.target.id, first)

    @staticmethod
    def brackets(bench: Bench) -> Brackets | None:
        """Best and worst case where data are not known; None where everything is."""
        return within_brackets(bench.build, bench.option)

    @staticmethod
    def corners(bench: Bench) -> tuple[Corner, ...]:
        """The worst corners of the option on the bench."""
        return worst_corners(bench.build, bench.option)


@lru_cache(maxsize=_KEPT)
def _chances(body: str, option_id: str) -> Chances:
    build = parsed(body)
    return chances(build, build.option(option_id))


@lru_cache(maxsize=_KEPT)
def _matters(body: str, option_id: str, target_id: str, component: Component) -> tuple[Matters, ...]:
    build = parsed(body)
    return what_matters(build, build.option(option_id), build.target(target_id), component)
