"""The surge tank over a lap: what is lifted while the pickup is covered, what is drawn at full load, what is left."""

from dataclasses import dataclass

from ..judge import TargetVerdict

TURNS, MOST_TURNS = 4, 5000
REPEATS_L = 1e-9  # of one turn from another: the next ones are the same


@dataclass(frozen=True)
class Lap:
    """A run of turns at full load from a full tank: (second, litres) at every bend of the level.

    `dry` are the spans in which the pickup brings air; `least_l` is the lowest level, `empty_s` when the tank first ran
    dry (None where it never does). Flows in m³/s.
    """

    level: tuple[tuple[float, float], ...]
    dry: tuple[tuple[float, float], ...]
    lifted_m3_s: float
    drawn_m3_s: float
    least_l: float
    empty_s: float | None


def dries(verdict: TargetVerdict, lap: Lap) -> bool:
    """Whether the turns empty the tank within the time at load, begun with one, though as much is lifted as is drawn."""
    lift = verdict.option.lift
    if lift is None or verdict.surge is None or lap.empty_s is None:
        return False
    return lap.empty_s - lift.covered_s <= verdict.surge.load_s and lap.lifted_m3_s > lap.drawn_m3_s


def surge_lap(verdict: TargetVerdict, surge_l: float | None = None) -> Lap | None:
    """The surge tank (or one of `surge_l`) over a lap on this target; None without a lift stage.

    Covered and uncovered stretches follow each other as entered, the engine at full load throughout: harder than any
    real lap, where turns are not driven at full load. It is driven until its level repeats, or the tank is empty.
    """
    lift, solved = verdict.option.lift, verdict.lift
    if lift is None or solved is None:
        return None
    volume = lift.surge_l if surge_l is None else surge_l
    assert verdict.surge is not None
    drawn = verdict.surge.drawn_m3_s
    level, now, at = [(0.0, volume)], 0.0, volume
    dry: list[tuple[float, float]] = []
    empty: float | None = None
    for turn in range(MOST_TURNS):
        before = at
        for seconds, lifted in ((lift.covered_s, solved.flow_m3_s), (lift.uncovered_s, 0.0)):
            if lifted == 0.0 and seconds > 0:
                dry.append((now, now + seconds))
            net = (lifted - drawn) * 1e3
            end = volume if net > 0 else 0.0
            takes = (end - at) / net if net else float("inf")
            if 0.0 < takes < seconds:
                level.append((now + takes, end))
            if net < 0 and takes <= seconds and empty is None:
                empty = now + takes
            now, at = now + seconds, min(max(at + net * seconds, 0.0), volume)
            level.append((now, at))
        if turn + 1 >= TURNS and (empty is not None or abs(at - before) <= REPEATS_L):
            break
    return Lap(tuple(level), tuple(dry), solved.flow_m3_s, drawn, min(litres for _, litres in level), empty)
