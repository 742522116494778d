"""Roots of monotone functions for whole arrays at once.

SciPy's elementwise solver does the same and costs some milliseconds a call, more than all else of a single judgement.
"""

from collections.abc import Callable

import numpy as np

from .arrays import Floats, floats

Function = Callable[[Floats], Floats]
_STEPS = 80
_ROUNDING = 1e-15
_SETTLED = 1e-9  # of the value wanted; a secant is that near a step before it is at rounding
_NEXT_SETTLES = 1e-6  # the next is then nearer than that


def rising_root(function: Function, low: Floats, high: Floats, width: float = 1e-12) -> Floats:
    """Where a rising function crosses nothing between `low` and `high`, each of shape (n,); else the nearer end.

    Secants kept in a bracket (Illinois), halved now and then. Jumps are crossed like slopes.
    """
    low, high = floats(low).copy(), floats(high).copy()
    off_low, off_high = function(low), function(high)
    ends = np.where(off_high <= 0, high, np.where(off_low >= 0, low, np.nan))
    side = np.zeros(low.shape)
    # As near to nothing as rounding lets the function come: no closer bracket says more.
    nothing = _ROUNDING * np.maximum(np.abs(off_low), np.abs(off_high))
    nothing = np.where(np.isfinite(nothing), nothing, 0.0)
    for turn in range(_STEPS):
        if np.all((high - low < width) | np.isfinite(ends)):
            break
        with np.errstate(divide="ignore", invalid="ignore"):
            tried = low - (high - low) * off_low / (off_high - off_low)
        inside = np.isfinite(tried) & (tried > low) & (tried < high)
        tried = np.where(inside & (turn % 4 != 3), tried, (low + high) / 2.0)
        off = function(floats(tried))
        under = off < 0
        # The end that stays a second time counts half.
        off_high = np.where(under, np.where(side > 0, off_high / 2.0, off_high), off)
        off_low = np.where(under, off, np.where(side < 0, off_low / 2.0, off_low))
        there = np.abs(off) <= nothing
        low, high = np.where(under | there, tried, low), np.where(under & ~there, high, tried)
        side = np.where(under, 1.0, -1.0)
    return floats(np.where(np.isfinite(ends), ends, (low + high) / 2.0))


def power_law_root(function: Function, guess: Floats, wanted: Floats, steps: int = 12) -> Floats:
    """Where a positive function that rises about as a power of its argument reaches `wanted`; infinite if never.

    Secants between logarithms from a positive `guess`; what does not settle is bracketed.
    """
    goal = np.log(floats(wanted))
    before = np.log(floats(guess))
    with np.errstate(divide="ignore", invalid="ignore"):
        off_before = np.log(function(floats(guess))) - goal
        at = before - off_before / 1.8
        for _ in range(steps):
            off = np.log(function(floats(np.exp(at)))) - goal
            if np.all(np.abs(off) < _SETTLED):
                return floats(np.exp(at))
            slope = np.clip((off - off_before) / (at - before), 0.5, 4.0)
            before, off_before = at, off
            at = at - off / np.where(np.isfinite(slope), slope, 1.8)
            # The next secant is as good as the product of the last two: it needs no proof of its own.
            if np.all(np.abs(off) < _NEXT_SETTLES):
                return floats(np.exp(at))
        far = floats(np.full(np.shape(at), 10.0))
        never = function(far) < floats(wanted)

        def off_at(log_at: Floats) -> Floats:
            return floats(np.log(np.maximum(function(floats(np.exp(log_at))), 1e-300)) - goal)

        found = rising_root(off_at, floats(np.full(far.shape, np.log(1e-15))), floats(np.log(far)), 1e-11)
    return floats(np.where(never, np.inf, np.exp(found)))
