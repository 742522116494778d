"""Loads of what brings the fuel: pumps at the pressure and voltage they see, filter and feed by their rules."""

from collections.abc import Iterator

from ..physics import M3_S_PER_L_H, Floats, floats, power_law_root
from ..solve import PEAK, FluidState, Pipe, Run, branches_kpa, of_few, pipe_kpa, pipes_kpa
from .loads import Share, Solved, share

_GUESS_L_H = 200.0


def loads(solved: Solved) -> Iterator[Share]:
    """Fuel asked of what the pumps bring at the set pressure; what passes of the filter's rating; fuel asked of the flow
    at which the feed drops what is allowed."""
    systems, targets = solved.cases.systems, solved.cases.targets
    brought = solved.points.hydraulics.supply_at_set_m3_s[PEAK]
    yield Share("pumps", share(solved.need_m3_s, brought), "fuel asked of what the pumps bring at the set pressure")
    if systems.filter is not None:
        most = floats(solved.points.hydraulics.supply_m3_s.max(axis=0))
        yield Share("filter", share(most, systems.filter.rated_m3_s), "flow passing of the flow it is rated for")
    limit = flow_at_drop_m3_s(
        systems.feed, systems.passages, targets.feed_drop_kpa, solved.fluid, systems.branches, systems.joined
    )
    yield Share("feed", share(solved.need_m3_s, limit), "fuel asked of the flow at the drop allowed")


def flow_at_drop_m3_s(
    line: Pipe,
    passages: tuple[Pipe, ...],
    drop_kpa: Floats,
    fluid: FluidState,
    branches: tuple[Run, ...] = (),
    joined: bool = False,
) -> Floats:
    """Flow at which a line, its passages and the split behind it reach a drop, m³/s; infinite without resistance."""

    def drop(flow: Floats) -> Floats:
        lost = pipe_kpa(line, flow, fluid) + pipes_kpa(passages, flow, fluid)
        return floats(lost + branches_kpa(branches, flow, fluid, joined))

    guess = floats(_GUESS_L_H * M3_S_PER_L_H + 0.0 * (drop_kpa + line.bore_mm + floats(fluid.density_kg_m3)))
    rows = (line, passages, drop_kpa, fluid, branches, joined)
    return of_few("drop", rows, guess.size, lambda: power_law_root(drop, guess, floats(drop_kpa + 0.0 * guess)))
