"""What stands in a surge tank whose overflow is narrow: the lift pumps bring the less the more stands there."""

from dataclasses import dataclass

from ..judge import TargetVerdict
from ..model import Line
from ..physics import Floats, floats, flow_l_h, rising_root
from ..solve import IDLE, line_loss_kpa

LITTLE_KPA = 0.5  # no pump feels that
OVERFLOW_K = 4.0  # in, one bend and out
SETTLED_KPA = 1e-4
M3_S = 1.0 / 3.6e6


@dataclass(frozen=True)
class Overflow:
    """Pressure in the surge tank at light running, kPa, and what goes back to the main tank there, m³/s."""

    kpa: float
    back_m3_s: float


def overflow(verdict: TargetVerdict, bore_mm: float, little_kpa: float = LITTLE_KPA) -> Overflow | None:
    """The surge tank at light running with an overflow of a bore, as long as the lift line (estimate); None without one.

    Lift pumps work against what stands there, by their own tables: a pump that ends at 100 kPa puts no more in it. Where
    no more than `little_kpa` could stand there whatever they bring, that bound is told, and what flows against nothing.
    """
    lift, solved = verdict.option.lift, verdict.lift
    if lift is None or solved is None:
        return None
    hyd, fuel = verdict.points.hydraulics, verdict.fuel
    taken = float((hyd.delivered_m3_s if lift.return_to == "surge tank" else hyd.supply_m3_s)[IDLE])
    pipe = Line(
        part=lift.line.part.model_copy(update={"bore_mm": bore_mm}), length_m=lift.line.length_m, k_sum=OVERFLOW_K
    )
    tables, share = lift.part.tables(), lift.count * (1.0 - lift.derate_pct / 100.0) * M3_S

    def back(kpa: Floats) -> Floats:
        # The line's own loss, which falls with the flow, is left at what it is with nothing in the tank: small there.
        return floats((flow_l_h(tables, solved.rise_kpa + kpa, solved.volts) * share - taken).clip(min=0.0))

    def excess(kpa: Floats) -> Floats:
        return floats(kpa - line_loss_kpa(pipe, back(kpa), fuel.density_kg_m3, fuel.viscosity_mpa_s))

    free = float(back(floats([0.0]))[0])
    little = float(line_loss_kpa(pipe, floats([free]), fuel.density_kg_m3, fuel.viscosity_mpa_s)[0])
    if little <= little_kpa:
        return Overflow(little, free)
    top = max(float(table.stall_kpa) for table in tables)
    # With nothing in the tank most flows back: no more can stand there than that flow loses.
    found = rising_root(excess, floats([0.0]), floats([min(max(top, 1.0), little)]), SETTLED_KPA)
    return Overflow(float(found[0]), float(back(found)[0]))
