"""A pump's circuit as fitted: its loop resistance with ground, and what its switch carries where it sits."""

from ..model import Wiring, remembered
from ..physics import WIRE_SIZES_MM2, ampacity_a, awg_mm2, awg_of, loop_resistance_ohm

# Class figures: what a ground point adds to the loop, mΩ. A painted or shared point varies from car to car.
GROUND_MOHM = {"own wire to the battery": 0.0, "bare metal of the body": 2.0, "painted or shared point": 50.0}
# Class figure: the share of its rating a controller or relay keeps in the heat without air. The maker's derating
# curve comes first.
SHARE_IN_HEAT = 0.6
COLD_PLACE = "cool and ventilated"
LARGE_A, THICKEST_MM2 = 40.0, 10.0


def wiring_resistance_ohm(wiring: Wiring) -> float:
    """Loop resistance of one pump's wiring with connectors and ground, Ω."""
    return remembered(wiring, "ohm", _resistance_ohm)


def _resistance_ohm(wiring: Wiring) -> float:
    return float(loop_resistance_ohm(wiring.loop_m, wiring.area_mm2, _joints_mohm(wiring), wiring.copper_temp_c))


def _joints_mohm(wiring: Wiring) -> float:
    """Connectors and ground of a loop, all but its copper, mΩ."""
    return wiring.connectors_mohm + GROUND_MOHM[wiring.ground]


def wire_carries_a(wiring: Wiring, area_mm2: float | None = None) -> float:
    """What the wire (or another size of it) carries for good where it lies, A (estimate)."""
    area = wiring.area_mm2 if area_mm2 is None else area_mm2
    return ampacity_a(area, wiring.copper_temp_c, wiring.insulation, wiring.laid == "in a loom", wiring.bundled)


def wire_for_mm2(wiring: Wiring, current_a: float, fuse_a: float, drop_v: float, sold: str = "mm²") -> float:
    """The smallest wire sold (by mm² or by AWG) that carries its fuse and loses no more than `drop_v` at a current, mm².

    Where joints and ground alone lose half of that, only the copper counts: a wire cannot make up for them. Nor is it
    made thicker than 10 mm² for volts alone below 40 A: joints are bettered and circuits parted first (physics §4).
    """
    sizes = WIRE_SIZES_MM2[sold]
    carrying = [area for area in sizes if wire_carries_a(wiring, area) >= fuse_a] or [sizes[-1]]
    joints = _joints_mohm(wiring) * 1e-3 * current_a
    allowed = drop_v if joints < drop_v / 2 else drop_v + joints
    lost = loop_resistance_ohm(wiring.loop_m, sizes, _joints_mohm(wiring), wiring.copper_temp_c) * current_a
    enough = next((area for area, fits in zip(sizes, lost <= allowed, strict=True) if fits), sizes[-1])
    most = sizes[-1] if current_a >= LARGE_A else max(area for area in sizes if area <= THICKEST_MM2)
    return max(carrying[0], min(enough, most))


def about_mm2(area_mm2: float, sold: str = "mm²") -> float:
    """The wire sold that is about as thick, mm²: at least four fifths of it."""
    return next(area for area in WIRE_SIZES_MM2[sold] if area >= 0.8 * area_mm2)


def wire_words(area_mm2: float, sold: str = "mm²") -> str:
    """A wire's size as it is bought; one that is no gauge by its area."""
    gauge = round(awg_of(area_mm2))
    if sold != "AWG" or abs(awg_mm2(gauge) / area_mm2 - 1.0) > 0.01:
        return f"{area_mm2:g} mm²"
    return f"{gauge} AWG" if gauge > 0 else f"{1 - gauge}/0 AWG"


def switch_carries_a(wiring: Wiring) -> float:
    """What the relay or controller carries for good where it sits, A."""
    return wiring.switch_a if wiring.switch_place == COLD_PLACE else wiring.switch_a * SHARE_IN_HEAT
