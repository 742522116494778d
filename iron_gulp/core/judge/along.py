"""One target on one option along an axis: many blends, engine speeds or base pressures as one set of cases."""

from dataclasses import replace

import numpy as np

from ..model import Build, Option, Target, base_fuel, smallest_by_size
from ..physics import Floats, Rows, blend, floats, mapped
from ..solve import OF_PULLS, targets_of
from .cases import Cases, case_of


def along_blends(build: Build, option: Option, target: Target, ethanol_pct: Floats) -> Cases:
    """A target on every blend (% ethanol, shape (n,)) with all else as it says: cases of shape (n,).

    A measured vapour pressure is that of the target's own blend and holds on it alone.
    """
    case, base, share = case_of(build, option, target), base_fuel(build, target.base_fuel), floats(ethanol_pct) / 100.0
    mix = blend(share, target.fuel_temp_c, base)
    own = np.isclose(ethanol_pct, target.ethanol_pct) & (target.vapour_kpa_abs is not None)
    told = target.vapour_kpa_abs or 0.0
    targets = replace(
        case.targets,
        stoich_afr=mix.stoich_afr,
        lhv_mj_kg=mix.lhv_mj_kg,
        density_kg_m3=mix.density_kg_m3,
        viscosity_mpa_s=mix.viscosity_mpa_s,
        vapour_kpa_abs=floats(np.where(own, told, mix.vapour_kpa_abs)),
        ethanol_share=mix.mass_fraction,
    )
    meters = case.meters
    if meters.direct is not None and option.high_side is not None:
        warm = blend(share, target.fuel_temp_c + option.high_side.fuel_rise_k, base)
        direct = replace(
            meters.direct,
            density_kg_m3=warm.density_kg_m3,
            viscosity_mpa_s=warm.viscosity_mpa_s,
            density_15c_kg_m3=warm.density_15c_kg_m3,
            vapour_kpa_abs=floats(np.where(own, told, warm.vapour_kpa_abs)),
        )
        meters = replace(meters, direct=direct)
    return replace(case, targets=_wide(targets, share.size), meters=meters)


def along_speeds(build: Build, option: Option, target: Target, rpm: Floats) -> Cases:
    """A target at every engine speed (shape (n,)), its boost the same at all of them: cases of shape (n,)."""
    case, speed = case_of(build, option, target), floats(rpm)
    targets = _wide(replace(case.targets, rpm=speed), speed.size)
    if build.pulls:  # which pull is nearest, and which speaks for most, may differ from speed to speed
        asked = [targets_of(build, target.model_copy(update={"rpm": float(one)}), option) for one in speed]
        told = {name: np.concatenate([getattr(one, name) for one in asked]) for name in OF_PULLS}
        targets = replace(targets, **told)
    return replace(case, targets=targets)


def along_bases(build: Build, option: Option, target: Target, base_kpa: Floats) -> Cases:
    """A target with the regulator set to every base pressure (shape (n,)): cases of shape (n,)."""
    case, base = case_of(build, option, target), floats(base_kpa)
    return replace(
        case,
        systems=_wide(replace(case.systems, base_kpa=base), base.size),
        targets=_wide(case.targets, base.size),
    )


def along_sizes(
    build: Build,
    option: Option,
    target: Target,
    cc_min: Floats,
    base_kpa: float,
    min_pulse_ms: Floats | None = None,
) -> Cases:
    """A target with port injectors of every size (cc/min of n-heptane at 300 kPa, shape (n,)) at a base pressure.

    Smallest pulses go by size unless given; dead times stay the fitted ones. Raises KeyError without port injectors.
    """
    case, size = case_of(build, option, target), floats(cc_min)
    if case.meters.port is None:
        raise KeyError("there are no port injectors")
    pulse = floats([smallest_by_size(float(one)) for one in size]) if min_pulse_ms is None else floats(min_pulse_ms)
    port = replace(case.meters.port, rated_cc_min=size, rated_kpa=floats(np.full(size.size, 300.0)), min_pulse_ms=pulse)
    return replace(
        case,
        systems=replace(case.systems, base_kpa=floats(np.full(size.size, base_kpa))),
        targets=_wide(case.targets, size.size),
        meters=_wide(replace(case.meters, port=port), size.size),
        hold_kpa=_wide(case.hold_kpa, size.size),
        drift_kpa=_wide(case.drift_kpa, size.size),
    )


def _wide(rows: Rows, size: int) -> Rows:
    """Every array with all systems."""
    return mapped(rows, lambda array: np.broadcast_to(array, (*array.shape[:-1], size)).copy())
