"""The verdict: each component's load as a share of its own ceiling on a target, and the first to run out.

Idle is judged as well: a system that cannot idle has not passed. Any number of systems and targets are judged at once.
"""

from collections.abc import Iterable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property, partial
from math import isnan

from ..model import BOUNDS, LIMITS, ORDER, POWER_LIMITS, TITLES, Build, Component, Option, Target
from ..physics import Floats
from ..solve import Demand, FuelState, LiftSolution, PointSolution, fuel_state, one_demand, solve_lifts, solve_targets
from . import air, direct, electrics, lifting, metering, returning, supply
from .cases import Cases, case_of, together
from .ceilings import Ceilings, ceilings_kw
from .largest import largest_a
from .lifting import Surge
from .loads import Share, Solved, Status, status_of

GROUPS = (air, metering, direct, supply, electrics, lifting, returning)


@dataclass(frozen=True)
class Load:
    """One component's load: 1 is its ceiling.

    `ceiling_kw` is the power (as the target quotes it) at which it runs out, `ceiling_crank_kw` the same at the crank.
    None for components whose limit does not move with power (idle limits), where there is no ceiling (demand by air mass
    stays what it is), and where ceilings were not asked for.
    """

    component: Component
    title: str
    load: float
    status: Status
    ceiling_kw: float | None
    measure: str
    ceiling_crank_kw: float | None = None


@dataclass(frozen=True)
class TargetVerdict:
    """Everything about one target on one option; `heads_kpa` are (available, needed) of main pumps and lift stage, and
    `largest_a` the largest current of one pump of each main group."""

    target: Target
    option: Option
    fuel: FuelState
    demand: Demand[float]
    points: PointSolution
    loads: tuple[Load, ...]
    lift: LiftSolution | None
    surge: Surge | None
    largest_a: tuple[float, ...]
    heads_kpa: tuple[tuple[float, float], ...]

    def load(self, component: Component) -> Load:
        """The load of a component; an unloaded one where this system has no such component."""
        found = self._by_component.get(component)
        return found if found is not None else Load(component, TITLES[component], 0.0, "ok", None, "not fitted")

    @cached_property
    def _by_component(self) -> dict[Component, Load]:
        # The first of a component counts.
        return {one.component: one for one in reversed(self.loads)}

    @property
    def first_out(self) -> Load:
        """The fuel-system component with the highest load. Rules of the shop are none of it: they end nothing."""
        counted = (load for load in self.loads if load.component in LIMITS or _past(load))
        return max(counted, key=lambda load: load.load)

    @property
    def power_limit(self) -> Load:
        """What limits power first: the lowest ceiling, or the highest load where there is none at any power."""
        limits = [load for load in self.loads if load.component in POWER_LIMITS]
        known = [load for load in limits if load.ceiling_kw is not None]
        if not known:
            return max(limits, key=lambda load: load.load)
        return min(known, key=lambda load: (load.ceiling_kw or 0.0, -load.load))

    @property
    def outside(self) -> tuple[Load, ...]:
        """Rules of the shop that are not kept, in the order of the path."""
        return tuple(load for load in self.loads if load.status == "outside")

    @property
    def status(self) -> Status:
        return self.first_out.status


def _past(load: Load) -> bool:
    """Whether a bound is passed that does not count below it."""
    return load.component in BOUNDS and not load.load <= 1.0


@dataclass(frozen=True)
class JudgedRows:
    """Cases judged: everything solved, and the loads in the order of the path; arrays of shape (systems,)."""

    solved: Solved
    shares: tuple[Share, ...]


def judge_rows(cases: Cases) -> JudgedRows:
    """Solve systems built alike on their targets and load every component; no models, no power ceilings."""
    return JudgedRows(*_solved_and_loaded(cases))


def _solved_and_loaded(cases: Cases, joining: bool = True) -> tuple[Solved, tuple[Share, ...]]:
    demand, points = solve_targets(cases.systems, cases.meters, cases.targets)
    lift = None if cases.systems.lift is None else solve_lifts(cases.systems, cases.targets)
    plain = Solved(cases, demand, points, lift)
    solved = replace(plain, largest_a=tuple(largest_a(plain, joining)), surge=lifting.surges(plain))
    shares = [one for group in GROUPS for one in group.loads(solved)]
    return solved, tuple(sorted(shares, key=lambda one: ORDER[one.component]))


def power_ceilings_kw(rows: JudgedRows, rising: bool = False) -> Ceilings:
    """Power ceilings of judged cases by component, each of shape (systems,); NaN where there is none.

    At the targets' boost, or with boost `rising` with power.
    """
    # Fuses and wires are no ceiling but as boost rises: where stages join their currents need not be known.
    return ceilings_kw(rows.solved, rows.shares, partial(_solved_and_loaded, joining=rising), rising)


Asked = tuple[Build, Option, Target]


def judge_many(asked: Sequence[Asked], ceilings: bool = True) -> list[TargetVerdict]:
    """Judge any number of targets on any options of any builds, those built alike together; with power `ceilings`."""
    found: dict[int, TargetVerdict] = {}
    for positions, cases in together([case_of(*one) for one in asked]):
        rows = judge_rows(cases)
        heads = lifting.suction_heads_kpa(rows.solved)
        limits = power_ceilings_kw(rows) if ceilings else {}
        for row, position in enumerate(positions):
            found[position] = _verdict(asked[position], rows, row, heads, limits)
    return [found[position] for position in range(len(asked))]


def _verdict(
    asked: Asked,
    rows: JudgedRows,
    row: int,
    heads: list[tuple[Floats, Floats]],
    limits: Ceilings,
) -> TargetVerdict:
    build, option, target = asked
    solved, demand = rows.solved, one_demand(rows.solved.demand, row)
    headroom = build.rules.headroom_pct / 100.0
    loads = []
    for one in rows.shares:
        load = float(one.load[row])
        if isnan(load) and one.component == "compressor":
            continue  # of others of the set
        status = air.air_status(load) if one.component == "engine" else status_of(one.component, load, headroom)
        power = float(limits[one.component][row]) if one.component in limits else float("nan")
        ceiling = None if isnan(power) else power
        crank = None if ceiling is None else ceiling * demand.crank_kw / target.power_kw
        loads.append(Load(one.component, TITLES[one.component], load, status, ceiling, one.measure, crank))
    lift = None if solved.lift is None else solved.lift.at(row)
    surge, largest = lifting.surge_at(solved.surge, row), tuple(float(one[row]) for one in solved.largest_a)
    pairs = tuple((float(available[row]), float(needed[row])) for available, needed in heads)
    return TargetVerdict(
        target,
        option,
        fuel_state(build, target),
        demand,
        solved.points.at(row),
        tuple(loads),
        lift,
        surge,
        largest,
        pairs,
    )


def judge(build: Build, option: Option, target: Target) -> TargetVerdict:
    """Solve a target on an option and judge every component."""
    return judge_many([(build, option, target)])[0]


def judge_all(build: Build, option: Option) -> list[TargetVerdict]:
    """Every target of a build on one option, in the build's order."""
    return judge_many([(build, option, target) for target in build.targets])


def worst(verdicts: Iterable[TargetVerdict]) -> TargetVerdict:
    """The target whose first component to run out is most loaded."""
    return max(verdicts, key=lambda verdict: verdict.first_out.load)
