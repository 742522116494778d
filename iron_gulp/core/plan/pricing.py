"""What a part without a price of its own costs: the shop's usual price of its kind, by size."""

from ..model import (
    DirectInjectorPart,
    FilterPart,
    HighPumpPart,
    InjectorPart,
    LinePart,
    Part,
    PumpPart,
    RegulatorPart,
    flow_at_400_kpa,
    free_flow,
    rated_at_300_kpa,
)

# The size the shop's price of a kind is for, and how price grows with size (a rule of thumb: the root of it).
USUAL = {
    PumpPart: 250.0,
    InjectorPart: 630.0,
    RegulatorPart: 400.0,
    FilterPart: 500.0,
    LinePart: 10.3,
    HighPumpPart: 125.0,
    DirectInjectorPart: 1250.0,
}
USUAL_MM3 = 923.0  # plunger squared, stroke and strokes a turn of a pump of the usual size
GROWS, LEAST, MOST = 0.5, 0.5, 3.0


def size_of_part(part: Part) -> float | None:
    """A part's size in the terms its price goes by: L/h, cc/min, mm; None for kinds sold at one price."""
    if isinstance(part, PumpPart):
        return flow_at_400_kpa(part) or free_flow(part)
    if isinstance(part, InjectorPart):
        return rated_at_300_kpa(part)
    if isinstance(part, RegulatorPart):
        return part.capacity_l_h
    if isinstance(part, FilterPart):
        return part.rated_flow_l_h
    if isinstance(part, LinePart):
        return part.bore_mm
    if isinstance(part, DirectInjectorPart):
        return float(part.rated_flow_cc_min * (10_000.0 / part.rated_pressure_kpa) ** 0.5)
    if isinstance(part, HighPumpPart):
        moved = part.plunger_mm**2 * part.stroke_mm * part.strokes_a_turn
        return float(USUAL[HighPumpPart] * moved / USUAL_MM3)
    return None


def usual_price(part: Part, price: float | None) -> float | None:
    """The shop's price of a kind brought to a part's size; None where the shop knows none."""
    size = size_of_part(part)
    usual = USUAL.get(type(part))
    if price is None or not size or usual is None:
        return price
    return round(float(price * min(max((size / usual) ** GROWS, LEAST), MOST)), 2)
