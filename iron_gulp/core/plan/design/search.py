"""The search for complete systems: every candidate judged by the coupled solution, what nothing beats offered.

Meterings, pumps with feeds, and regulators with returns of a base pressure are first judged apart, all as arrays of
systems: what pumps bring does not depend on which injectors draw it, an injector's duty not on which pumps hold its
pressure, as long as they hold it, and at idle the bypass is the pumps' and what it is held against the return's. That
tells the headroom of every combination. In the order of cost, those that nothing found so far beats are then judged
whole, with the rules, until none is left: nothing cheaper is missed (proven against trying everything).
"""

import time
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np
from joblib import Parallel, delayed
from joblib.parallel import get_active_backend

from ...advise import Finding, find_troubles
from ...judge import Cases, TargetVerdict, case_of, judge_many, judge_rows, refitted, together
from ...model import Build, Catalogue, Option, PumpGroup, Rates
from ...physics import M3_S_PER_L_H, Floats, floats
from ...solve import demand, fuel_state
from ..complexity import parts_of_it
from ..costs import bill
from .choices import Choices, Drive, Metering, System, option_of
from .ease import Leave, idling, wanted_of
from .found import Design, Found
from .front import Score, beaten, headroom_class
from .holding import COUNTED, broken, headroom_of, waived, worst_component
from .locks import OWN_FIRST, Locks
from .pool import SLACK, Apart, Block, Heads, Index, Key, Pool, over
from .sensing import resensed
from .slender import slender
from .start import bare, lifted, prepared

OF_METERING: tuple[str, ...] = (
    *("injectors", "injector idle", "direct injectors", "direct injector idle", "needles", "float"),
    *("high-pressure pump", "high-pressure inlet"),
)
OF_BACK = ("regulator", "return")
OF_FEED = tuple(one for one in COUNTED if one not in (*OF_METERING, *OF_BACK))
OF_CIRCUITS = ("wiring-drop", "fuse-small", "fuse-large", "fuse-segment", "segment-weak", "switch-weak", "wire-thin")
OF_PUMPS = (*OF_CIRCUITS, "hanger-full", "pump-misplaced")
WORTH_PROCESSES_S = 4.0  # a search with less than that to do stays in this process
IDLE_S = 15  # processes of a search end when they have had nothing to do for so long
CHUNK, LOOK = 400, 16  # systems judged at once; those judged whole at once
ENDLESS = 1e6  # a load without end, as a number
Stop = Callable[[], bool]
Place = tuple[float, str, Drive]


@dataclass(frozen=True)
class Unfit:
    """Where nothing that meters does what is asked: its place, and the most headroom any leaves, a share."""

    place: Place
    headroom: float
    metered: "Metered"


Known = Block | Unfit | None
Metered = tuple[str, tuple[str, ...]]  # what locks say of the parts that meter


class Search:
    """A search; `run` tells what it has found each time it has something new.

    With `leave` it starts from the option exactly as it is: what is bad already may stay so, but nothing may get worse.
    """

    def __init__(
        self,
        build: Build,
        base: Option,
        catalogue: Catalogue,
        rates: Rates,
        locks: Locks | None = None,
        before: Option | None = None,
        own: frozenset[str] = frozenset(),
        leave: Leave | None = None,
        begun: "tuple[Option, Leave] | None" = None,
    ):
        self.build, self.catalogue, self.rates = build, catalogue, rates
        self.locks = locks = locks or Locks()
        self.before = bare(base) if before is None else before
        self.wanted = wanted_of(build, locks)
        self.leave = leave
        self.begun = begun or ((base, leave) if leave is not None else self._begin(base))
        start, leaves = self.begun
        self.ease, self._stay, self._stops = leaves.ease, leaves.codes, leaves.stops
        self.start = start
        self._waived = waived(locks.keep) if self.leave is None else frozenset()
        self.choices = Choices(build, start, catalogue, locks, own, self.leave is not None)
        self.found = Found()
        self.judged = 0
        self.base, self._own = base, own
        self._quick = False
        self._known: dict[Place, Known] = {}
        self._metered: dict[tuple[float, str, Metered], dict[str, Floats]] = {}
        self._passed: frozenset[Place] = frozenset()
        self._bad: list[Key] = []

    def _begin(self, base: Option) -> tuple[Option, Leave]:
        """Where the search starts, and what it may leave: nothing that a choice of parts puts right."""
        start, kept = prepared(self.build, base, self.catalogue)
        if self.locks.surge == "none" and start.lift is not None:
            in_tank = start.suction.model_copy(update={"place": "in the tank"})
            start = start.model_copy(update={"lift": None, "suction": in_tank})
        had, has = self.before.lift, start.lift
        bought = "pumps" in self.locks.keep or (had is not None and has is not None and had.part == has.part)
        return lifted(self.build, start, self.catalogue, bought), idling(self.build, self.locks, kept)

    def run(self, stop: Stop = lambda: False, first_only: bool = False, workers: int = 1) -> Iterator[Found]:
        """Search until everything was looked at, `stop` says so, or (`first_only`) the cheapest design is found.

        With `workers` the choices of each base pressure are judged apart by as many processes, or by whatever backend
        joblib was told to use.
        """
        found = self.found
        self._quick = first_only
        blocks: list[Block] = []
        for block, tried in self._blocks(workers):
            found.tried += tried
            if not isinstance(block, Block):
                continue
            blocks.append(block)
            if not found.front and not first_only:
                yield from self._offer([block], stop, first_only=True)
            yield found
            if stop():
                return
        yield from self._offer(blocks, stop, first_only)
        if not found.front and self.locks.shelf == OWN_FIRST and self._own and not stop():
            found.others = True  # own parts come first; where they do not do, all do
            rest = self.wider(self.locks.without("shelf"))
            rest.found, rest._known, rest._metered, rest._passed = found, {}, {}, frozenset()
            yield from rest.run(stop, first_only, workers)
            return
        if not found.front and not first_only:
            found.nearest = self.nearest()
        found.done = not stop()
        yield found

    def wider(self, locks: Locks) -> "Search":
        """A search with wider locks after this one found nothing: only what this one could not choose is looked at.

        The locks may open base pressures, ways of returning, brushless pumps, a second set and the direct side.
        """
        asked = self.build, self.base, self.catalogue, self.rates, locks, self.before, self._own, self.leave
        other = Search(*asked, self.begun)
        other._known, other._metered = self._known, self._metered
        if _meter(locks) == _meter(self.locks):
            other._passed = self._passed | set(self._places())
        return other

    def __getstate__(self) -> dict[str, object]:
        # What was judged before is not sent to other processes.
        return {**self.__dict__, "_known": {}, "_passed": frozenset()}

    def metered(self, block: Block) -> Block | None:
        """A block with the meterings these locks allow and it does not have; None where there are none."""
        ample, base_kpa = block.reference, block.reference.metering.base_kpa
        had = block.choices[0]
        systems = [replace(ample, metering=one) for one in self.choices.meterings(base_kpa) if one not in had]
        if not systems:
            return None
        known, points = self._cost(ample), self._points(ample)
        cost = floats([self._cost(one) - known for one in systems])
        more = np.array([self._points(one) - points for one in systems], dtype=np.int64)
        return replace(
            block,
            choices=([one.metering for one in systems], *block.choices[1:]),
            apart=replace(block.apart, metering=Heads.of(self._loads(systems), OF_METERING)),
            extra=((cost, more), *block.extra[1:]),
        )

    def _blocks(self, workers: int) -> "Iterator[tuple[Known, int]]":
        """Blocks as they come, each with how many systems were judged for it."""
        places = [one for one in self._places() if one not in self._passed]
        for place in (one for one in places if one in self._known):
            known, self.judged = self._known[place], 0
            if isinstance(known, Block):
                yield self.metered(known), self.judged
        asked = [one for one in places if one not in self._known or isinstance(self._known[one], Unfit)]
        if self._quick:
            # What nothing meters is metered by no other pumps either.
            unfit = [one for one in self._known.values() if isinstance(one, Unfit)]
            same = {one.place[:2] for one in unfit if one.metered == _meter(self.locks)}
            asked = [one for one in asked if one[:2] not in same]
        backend, _ = get_active_backend()
        here = type(backend).__name__ == "LokyBackend"
        spent, done = 0.0, 0
        # Processes take seconds to come: a search that is over by then has none of its own.
        while asked and (workers <= 1 or (here and spent * len(asked) <= WORTH_PROCESSES_S * done)):
            begun, place = time.perf_counter(), asked.pop(0)
            found = block_of(self, place)
            spent, done = spent + time.perf_counter() - begun, done + 1
            self._known[place] = found[0]
            yield found
        if not asked:
            return
        local = {"idle_worker_timeout": IDLE_S} if here else {}
        parallel = Parallel(n_jobs=workers, return_as="generator", **local)
        for place, found in zip(asked, parallel(delayed(block_of)(self, one) for one in asked), strict=True):
            self._known[place] = found[0]
            yield found

    def _places(self) -> "list[Place]":
        """Where blocks are: every base pressure with every way of returning and every kind of pumps."""
        choices = self.choices
        ways = [(base, one) for base in choices.bases() for one in choices.arrangements()]
        return [(*way, drive) for way in ways for drive in choices.drives()]

    def _block(self, base_kpa: float, arrangement: str, drive: Drive) -> "Known":
        """All choices of a base pressure, an arrangement and a kind of pumps, judged apart."""
        build, choices = self.build, self.choices
        need = max(
            demand(build, one, self.start).chosen_kg_s / fuel_state(build, one).density_kg_m3 for one in build.targets
        )
        meterings, backs = choices.meterings(base_kpa), choices.backs(base_kpa, arrangement)
        stages, feeds = choices.stages(base_kpa, need / M3_S_PER_L_H, arrangement, drive), choices.feeds()
        if not (meterings and stages and backs):
            return None
        ample = System(
            meterings[len(meterings) // 2],
            max(stages, key=lambda one: _most(one.pumps)),
            feeds[-1],
            max(backs, key=lambda one: (one.regulator.part.capacity_l_h, one.return_line.part.bore_mm)),
        )
        by_metering = self._by_metering(ample, meterings, (base_kpa, arrangement, _meter(self.locks)))
        metered = Heads.of(by_metering, OF_METERING)
        if self._quick and metered.head.max() < self.wanted - SLACK:
            # Nothing here meters what is asked, whatever pumps it.
            return Unfit((base_kpa, arrangement, drive), float(metered.head.max()), _meter(self.locks))
        by_feed = self._loads([replace(ample, stages=one, feed=feed) for one in stages for feed in feeds])
        by_back = self._loads([replace(ample, back=one) for one in backs])
        reference = self._loads([ample])
        known, points = self._cost(ample), self._points(ample)

        def extra(several: Sequence[System]) -> tuple[Floats, Index]:
            cost = floats([self._cost(one) - known for one in several])
            return cost, np.array([self._points(one) - points for one in several], dtype=np.int64)

        return Block(
            (meterings, stages, feeds, backs),
            ample,
            Apart(
                metered,
                Heads.of(by_feed, OF_FEED),
                {name: by_feed[name] for name in OF_BACK if name in by_feed},
                {name: over(by_back[name], reference[name]) for name in OF_BACK if name in by_back},
            ),
            (known, points),
            (
                extra([replace(ample, metering=one) for one in meterings]),
                extra([replace(ample, stages=one) for one in stages]),
                extra([replace(ample, feed=one) for one in feeds]),
                extra([replace(ample, back=one) for one in backs]),
            ),
        )

    def _by_metering(
        self, ample: System, meterings: list[Metering], at: tuple[float, str, "Metered"]
    ) -> dict[str, Floats]:
        """Loads of meterings, which are those of any pumps that bring enough."""
        if at not in self._metered:
            self._metered[at] = self._loads([replace(ample, metering=one) for one in meterings])
        return self._metered[at]

    def _cost(self, system: System) -> float:
        return bill(self.build, self.before, option_of(self.start, system), self.rates).total

    def _points(self, system: System) -> int:
        return parts_of_it(option_of(self.start, system)).points

    def _loads(self, systems: Sequence[System]) -> dict[str, Floats]:
        """Loads of systems on every target by component, (targets, systems)."""
        count = len(self.build.targets)
        found: dict[str, Floats] = {}
        for start in range(0, len(systems), CHUNK):
            options = [option_of(self.start, one) for one in systems[start : start + CHUNK]]
            for positions, joined in together(self._cases(options)):
                system, target = np.divmod(np.array(positions), count)
                for share in judge_rows(joined).shares:
                    if share.component in COUNTED and share.component not in self._waived:
                        whole = found.setdefault(share.component, np.zeros((count, len(systems))))
                        ease = floats([self.ease.of(share.component, self.build.targets[one].id) for one in target])
                        load = np.broadcast_to(np.nan_to_num(share.load, nan=0.0, posinf=ENDLESS) * ease, len(positions))
                        whole[target, start + system] = load
            self.judged += len(options)
        return found

    def _cases(self, options: Sequence[Option]) -> list[Cases]:
        """Cases of options on every target; where options meter alike, what targets ask is worked out once."""
        found: list[Cases] = []
        like: dict[tuple[int, int, str], Cases] = {}
        for option in options:
            for target in self.build.targets:
                key = (id(option.injectors), id(option.high_side), target.id)
                if key not in like:
                    like[key] = case_of(self.build, option, target)
                    found.append(like[key])
                else:
                    found.append(refitted(like[key], option, target))
        return found

    def _offer(self, blocks: "Sequence[Block]", stop: Stop, first_only: bool) -> Iterator[Found]:
        """Judge whole, in the order of cost, those that nothing found beats."""
        found, pool = self.found, Pool.of(blocks, self.wanted, self.locks.budget)
        found.total = sum(one.size for one in blocks)
        if not first_only:
            found.fell.update(pool.fell)
        waiting = pool.order
        while waiting.size:
            if stop():
                return
            waiting = self._unbeaten(pool, waiting, not first_only)
            looked, waiting = waiting[:LOOK], waiting[LOOK:]
            before = len(found.front)
            self._judge(blocks, pool, looked)
            if len(found.front) > before:
                yield found
                if first_only:
                    return

    def _unbeaten(self, pool: "Pool", waiting: Index, counted: bool) -> Index:
        """Those waiting that nothing found beats, and none of whose parts fell by rules of their own."""
        keep = np.ones(waiting.size, dtype=bool)
        cost, points, head = pool.cost[waiting], pool.points[waiting], pool.head[waiting]
        for one in self.found.front:
            keep &= ~beaten(cost, points, head, one.score)
        self.found.dominated += int((~keep).sum()) if counted else 0
        for bad in self._bad:
            same = pool.same(bad, waiting)
            self.found.fell["parts that break a rule by themselves"] += int((keep & same).sum()) if counted else 0
            keep &= ~same
        return waiting[keep]

    def _judge(self, blocks: "Sequence[Block]", pool: "Pool", looked: Index) -> None:
        """Judge some whole; those without stops and checks that nothing beats join the front."""
        count = len(self.build.targets)
        options = [option_of(self.start, pool.system(blocks, int(at))) for at in looked]
        asked = [(self.build, one, target) for one in options for target in self.build.targets]
        judged = judge_many(asked, ceilings=False)
        for number, (at, option) in enumerate(zip(looked, options, strict=True)):
            verdicts = tuple(judged[number * count : (number + 1) * count])
            if "pumps" not in self.locks.keep:
                option, verdicts = slender(self.build, option, verdicts)
            if headroom_of(verdicts, self.ease) < self.wanted - 1e-9:
                self.found.fell[worst_component(verdicts, self.ease)] += 1
                continue
            rule = broken(verdicts, self.ease, self._waived)
            if rule is not None:
                self.found.fell[rule] += 1
                continue
            design = self._design(option, verdicts)
            if any(one.score.no_worse(design.score) for one in self.found.front):
                self.found.dominated += 1
                continue
            fatal = self.fatal(option, verdicts)
            reads = resensed(self.build, option, fatal)
            if reads is not None and not (fatal := self.fatal(reads, verdicts)):
                design = self._design(reads, verdicts)
            if fatal:
                self.found.fell[fatal[0].title] += 1
                self._remember(pool, int(at), fatal)
                continue
            self.found.front = [one for one in self.found.front if not design.score.no_worse(one.score)]
            self.found.front.append(design)

    def fatal(self, option: Option, verdicts: Sequence[TargetVerdict]) -> list[Finding]:
        """Stops and checks of a system that are not left as they were before the search."""
        troubles = find_troubles(self.build, option, list(verdicts), self.catalogue)
        return [one for one in troubles if one.code not in self._stay or (one.severity == "stop" and not self._stops)]

    def signs(self, option: Option, verdicts: Sequence[TargetVerdict]) -> bool:
        """Whether a system could be offered: headroom, rules and findings."""
        if headroom_of(verdicts, self.ease) < self.wanted - 1e-9 or broken(verdicts, self.ease, self._waived):
            return False
        return not self.fatal(option, verdicts)

    def _remember(self, pool: "Pool", at: int, fatal: Sequence[Finding]) -> None:
        """A choice that breaks a rule of its own falls with everything else it is put together with."""
        if any(one.station in ("injectors", "high") for one in fatal):
            self._bad.append(pool.key("metering", at))
        elif any(one.code in OF_PUMPS for one in fatal):
            self._bad.append(pool.key("stages", at))

    def design(self, option: Option) -> Design:
        """An option as a design of this search: judged whole, priced and scored."""
        return self._design(
            option, tuple(judge_many([(self.build, option, one) for one in self.build.targets], ceilings=False))
        )

    def _design(self, option: Option, verdicts: tuple[TargetVerdict, ...]) -> Design:
        paid, parts = bill(self.build, self.before, option, self.rates), parts_of_it(option)
        left = headroom_class(headroom_of(verdicts, self.ease))
        return Design(option, verdicts, paid, parts, Score(round(paid.total), parts.points, left), self.ease, self.wanted)

    def nearest(self) -> Design | None:
        """The system that comes nearest of all that was looked at, judged whole; None where no part fits at all."""
        known = [one for one in self._known.values() if one is not None]
        tops = [(one.headroom if isinstance(one, Unfit) else one.nearest()[0], one) for one in known]
        while tops:
            _, best = tops.pop(max(range(len(tops)), key=lambda at: tops[at][0]))
            if isinstance(best, Unfit):
                self._quick = False
                whole = self._block(*best.place)
                if not isinstance(whole, Block):
                    continue
                best = whole
            return self.design(option_of(self.start, best.nearest()[1]))
        return None


def _meter(locks: Locks) -> Metered:
    return locks.second_set, locks.keep


def block_of(search: Search, place: Place) -> "tuple[Known, int]":
    """A block of a search, and how many systems were judged for it."""
    search.judged = 0
    return search._block(*place), search.judged


def _most(pumps: Sequence[PumpGroup]) -> float:
    """What pumps bring at most, L/h."""
    return sum(group.count * max(curve.flow_l_h[0] for curve in group.part.curves) for group in pumps)
