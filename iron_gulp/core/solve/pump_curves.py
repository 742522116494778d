"""What one pump brings at its real voltage, exactly and on a grid of its own, for arrays of systems."""

import math

import numpy as np
from numpy.typing import NDArray

from ..physics import (
    M3_S_PER_L_H,
    Floats,
    controlled_current_a,
    controlled_flow_l_h,
    controlled_voltage_v,
    current_a,
    floats,
    flow_l_h,
    keys_of,
    mapped,
    relief_share,
    shutoff_kpa,
    take,
    terminal_voltage_v,
    told_voltage_v,
)
from .keeping import Remembered
from .systems import NO_RELIEF_KPA, Pump

NODES = 400
Index = NDArray[np.int64]
_GRIDS: Remembered[Floats] = Remembered(2_000_000)


def own_top_kpa(pump: Pump, supply_v: Floats) -> Floats:
    """Largest pressure rise worth walking to, kPa."""
    if pump.mechanical:
        return floats(np.maximum.reduce([table.stall_kpa for table in pump.tables]))
    return shutoff_kpa(pump.tables, supply_v)


# What a speed controller does to pumps: the share of their most speed it lets them turn at, and 1 where it does not
# stand before them. Empty where none of them has one.
Control = tuple[Floats, ...]


def exact_characteristic(
    pump: Pump, rise_kpa: Floats, supply_v: Floats, rpm: Floats, control: Control = ()
) -> tuple[Floats, Floats, Floats]:
    """Flow (m³/s), volts and amps of one pump at pressure rises, at its real voltage, speed or engine speed.

    Under a controller the volts are the motor's (a brushless pump's controller's), the amperes the battery's.
    """
    if pump.mechanical:
        # A displacement pump: flow follows the engine, pressure is set by its spring or relief.
        flow = np.maximum.reduce([table.flow(rise_kpa) for table in pump.tables]) * rpm / pump.rated_rpm
        volts = amps = floats(np.zeros_like(flow))
    elif control:
        speed, bare = control
        at = controlled_voltage_v(pump.tables, rise_kpa, supply_v, pump.ohm, speed)
        flow = controlled_flow_l_h(pump.tables, rise_kpa, at, speed)
        amps, volts = controlled_current_a(pump.tables, rise_kpa, at, speed), told_voltage_v(pump.tables, at, speed)
        if np.any(bare > 0):
            own = exact_characteristic(pump, rise_kpa, supply_v, rpm)
            flow = np.where(bare > 0, own[0] / M3_S_PER_L_H, flow)
            volts, amps = (np.where(bare > 0, one, other) for one, other in ((own[1], volts), (own[2], amps)))
    else:
        volts = terminal_voltage_v(pump.tables, rise_kpa, supply_v, pump.ohm)
        flow, amps = flow_l_h(pump.tables, rise_kpa, volts), current_a(pump.tables, rise_kpa, volts)
    if np.min(pump.relief_kpa) < NO_RELIEF_KPA:
        flow = flow * relief_share(rise_kpa, pump.relief_kpa)
    return floats(flow * M3_S_PER_L_H), volts, amps


def characteristic_a(pump: Pump, rise_kpa: Floats, supply_v: Floats, rpm: Floats, control: Control = ()) -> Floats:
    """Current of one pump at pressure rises, at its real voltage, A."""
    return exact_characteristic(pump, rise_kpa, supply_v, rpm, control)[2]


def pump_characteristic(
    pump: Pump, rise_kpa: Floats, top_kpa: Floats, supply_v: Floats, rpm: Floats, control: Control = ()
) -> tuple[Floats, Floats, Floats]:
    """The characteristic read off the pump's own grid of NODES steps up to `top_kpa`, where its flow ends for good.

    Nothing is left there to rounding: a residue would be carried on far beyond the stall.
    """
    step = np.maximum(top_kpa, 1.0) / (NODES - 1)
    at = rise_kpa / step
    below = np.minimum(np.floor(at), NODES - 2.0)
    share = np.minimum(at - below, 1.0)
    if rise_kpa.ndim > 1 and rise_kpa.shape[-2] >= NODES:
        # Asked for whole curves: each node of the grid once, instead of once from either side.
        grid = _grid(pump, floats(step), supply_v, rpm, control, (*below.shape[:-2], NODES, below.shape[-1]))
        low = below.astype(np.int64)
        found = [np.array([np.take_along_axis(one, low + end, axis=-2) for end in (0, 1)]) for one in grid]
    else:
        pair = np.array([below * step, (below + 1.0) * step])
        found = list(exact_characteristic(pump, floats(pair), supply_v, rpm, control))
        found[0][1][np.broadcast_to(below + 1.0 >= NODES - 1.0, found[0][1].shape)] = 0.0
    flow, volts, amps = (floats(one[0] + share * (one[1] - one[0])) for one in found)
    return flow, volts, amps


def _grid(pump: Pump, step: Floats, supply_v: Floats, rpm: Floats, control: Control, shape: tuple[int, ...]) -> Floats:
    """Flow, volts and amps at every node of the pumps' own grids, shape (3, groups, nodes, systems).

    A pump at a voltage is one curve, whatever stands around it: curves of one kind are made once and kept.
    """
    lead = (*shape[:-2], 1, shape[-1])
    size = math.prod(lead)
    if not size:
        return np.zeros((3, *shape))

    def one_row(array: Floats) -> Floats:
        before = array.shape[: array.ndim - len(lead)]
        return np.broadcast_to(array, (*before, *lead)).reshape(*before, size)

    each = mapped((pump, step, supply_v, rpm, control), one_row)
    keys = keys_of(each, size)
    found = {key: curve for key in keys if (curve := _GRIDS.get(key)) is not None}
    fresh = [key for key in dict.fromkeys(keys) if key not in found]
    if fresh:
        some, step, supply_v, rpm, control = take(each, np.array([keys.index(key) for key in fresh]))
        own = floats(np.arange(NODES)[:, None] * step)
        made = np.array(
            [np.broadcast_to(one, own.shape) for one in exact_characteristic(some, own, supply_v, rpm, control)]
        )
        made[0, -1] = 0.0
        found |= {key: _GRIDS.put(key, floats(made[:, :, at].copy())) for at, key in enumerate(fresh)}
    whole = np.stack([found[key] for key in keys], axis=-1).reshape(3, NODES, *lead[:-2], lead[-1])
    return floats(np.moveaxis(whole, 1, -2))
