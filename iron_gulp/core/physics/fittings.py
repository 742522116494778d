"""Loss coefficients of fittings, all published and read from the `fluids` package.

Two-K method: `K = K1 / Re + K∞ (1 + 25.4 mm / bore)`, W. B. Hooper, *Chemical Engineering*, 24 August 1981, p. 97. It
knows what a constant K does not: small bores and slow, viscous flow lose more. Tank entries and exits after Rennels and
Hudson, *Pipe Flow* (2012); the leg of a Y after Crane TP 410 at an equal split.
"""

from dataclasses import dataclass
from functools import lru_cache
from typing import Literal, get_args

from fluids.fittings import Hooper, K_branch_diverging_Crane, entrance_rounded, entrance_sharp, exit_normal

FittingKind = Literal[
    "swept elbow, 45°",
    "swept elbow, 90°",
    "sharp elbow, 90°",
    "drilled block, 90°",
    "swept bend, 180°",
    "tee, straight through",
    "tee, into the branch",
    "Y, into a leg",
    "ball valve",
    "check valve, swing",
    "check valve, lift",
    "entry from a tank, sharp",
    "entry from a tank, rounded",
    "exit into a tank",
]
TIGHT: frozenset[FittingKind] = frozenset({"sharp elbow, 90°", "drilled block, 90°", "tee, into the branch"})
MM_PER_INCH = 25.4

_TWO_K: dict[FittingKind, str] = {
    "swept elbow, 45°": "Elbow, 45°, Long-radius (R/D 1.5), All types",
    "swept elbow, 90°": "Elbow, 90°, Long-radius (R/D = 1.5), All types",
    "sharp elbow, 90°": "Elbow, 90°, Standard (R/D = 1), Screwed",
    "drilled block, 90°": "Elbow, 90°, Mitered (R/D = 1.5), 1 weld (90° angle)",
    "swept bend, 180°": "Elbow, 180°, Long-radius (R/D = 1.5), All types",
    "tee, straight through": "Tee, Run, Screwed",
    "tee, into the branch": "Elbow, Used as, Standard, Screwed",
    "ball valve": "Valve, Ball, Reduced trim, Beta = 0.9",
    "check valve, swing": "Valve, Check, Swing",
    "check valve, lift": "Valve, Check, Lift",
}
_ROUNDED_SHARE = 0.1  # radius of a rounded tank entry as a share of its bore


@dataclass(frozen=True)
class Loss:
    """Loss coefficient on a bore: `K = per_re / Re + constant`."""

    per_re: float
    constant: float

    def at(self, reynolds: float) -> float:
        """K at a Reynolds number of the same bore."""
        return self.per_re / reynolds + self.constant


def _plain_constant(kind: FittingKind) -> float:
    if kind == "Y, into a leg":
        # Referred to the combined flow by the source; each leg runs at half its velocity.
        return 4.0 * float(K_branch_diverging_Crane(D_run=1.0, D_branch=1.0, Q_run=0.5, Q_branch=0.5, angle=45.0))
    if kind == "exit into a tank":
        return float(exit_normal())
    if kind == "entry from a tank, rounded":
        return float(entrance_rounded(Di=1.0, rc=_ROUNDED_SHARE))
    return float(entrance_sharp())


@lru_cache(maxsize=4096)
def fitting_loss(kind: FittingKind, bore_mm: float) -> Loss:
    """Loss of one fitting on its own bore, mm. Raises KeyError for an unknown kind."""
    if kind not in get_args(FittingKind):
        raise KeyError(f"no fitting {kind!r}")
    if kind not in _TWO_K:
        return Loss(0.0, _plain_constant(kind))
    per_re, endless = Hooper[_TWO_K[kind]]
    return Loss(float(per_re), float(endless) * (1.0 + MM_PER_INCH / bore_mm))


def on_bore(loss: Loss, own_bore_mm: float, line_bore_mm: float) -> Loss:
    """The same loss referred to the line's bore, where velocity and Reynolds number are other than in the fitting."""
    ratio = line_bore_mm / own_bore_mm
    return Loss(loss.per_re * ratio**3, loss.constant * ratio**4)
