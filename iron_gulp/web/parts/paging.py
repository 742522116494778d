"""Numbers of the pages of a long list."""

import math
from collections.abc import Iterator
from itertools import pairwise

from iron_gulp.services.workshop import PAGE_SIZE

_AROUND = 2


def page_numbers(total: int, at: int = 1) -> list[int | None]:
    """Page numbers to offer: the first, the last and those around `at`, None where some are left out.

    Nothing when the list fits on one page.
    """
    pages = math.ceil(total / PAGE_SIZE)
    if pages <= 1:
        return []
    near = range(at - _AROUND, at + _AROUND + 1)
    shown = sorted({1, pages} | {number for number in near if 1 <= number <= pages})
    return [shown[0], *_with_gaps(shown)]


def at_page(query: list[tuple[str, str]], number: int) -> list[tuple[str, str]]:
    """A list's query at one of its pages."""
    return [*query, ("at", str(number))]


def _with_gaps(shown: list[int]) -> Iterator[int | None]:
    for before, number in pairwise(shown):
        if number > before + 1:
            yield None
        yield number
