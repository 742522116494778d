"""Options beside each other, and today's car: what each carries, costs, needs and gives up; the choice and its reason."""

from dataclasses import dataclass
from functools import lru_cache

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import Edit, Option, Rates
from iron_gulp.core.plan import (
    Bill,
    Parts,
    Weighed,
    bare,
    bill,
    differences,
    headroom_of,
    money,
    parts_of_it,
    thrown_away,
    weigh,
)
from iron_gulp.core.solve import IDLE, PEAK
from iron_gulp.core.study import chances, switches

from .edits import Edits, Outcome
from .evidence_start import today as day
from .judging import Bench, Judging, parsed, verdicts_of
from .roads import Roads

MOST_OPTIONS, DRAWS = 6, 400
# What use weighs: relays and joints near heat for circuits, noise and smell on the street, access in a rally.
WEIGHED = {
    "street": "noise in the tank, smell at joints, what a garage elsewhere can mend",
    "track": "joints and relays near heat, what fails unseen through a session",
    "drag": "one pull at a time: what must be there at once",
    "hill climb": "slosh, and what fails unseen on the hill",
    "rally": "access by hand beside the road, spare relays, a pump that can be bypassed",
    "salt flat": "minutes at full load: heat in fuel, wire and controller",
}


@dataclass(frozen=True)
class Compared:
    """An option judged beside others; `carried` is the share of cars like this in which it carries every target."""

    option: Option
    today: bool
    verdicts: tuple[TargetVerdict, ...]
    headroom: float
    paid: Bill
    parts: Parts
    carried: float
    amps: float
    idle_heat_w: float
    step_kpa: float
    changes: tuple[tuple[str, str, str], ...]
    thrown: tuple[str, ...]


class Comparing:
    """What the page of comparisons shows and does."""

    def __init__(self, judging: Judging, edits: Edits, roads: Roads):
        self._judging, self._edits, self._roads = judging, edits, roads

    def of(self, bench: Bench) -> list[Compared]:
        """The first six options of a build, today's first."""
        rates = self._roads.rates()
        order = sorted(bench.build.options, key=lambda one: one.id != bench.build.fitted_today)[:MOST_OPTIONS]
        return [_compared(bench.stored.body, one.id, rates.model_dump_json()) for one in order]

    def quote(self, bench: Bench) -> tuple[Bill, str]:
        """What the option on the bench costs, and the name of what is fitted today it starts from ("" for nothing)."""
        build, option = bench.build, bench.option
        fitted = next((one for one in build.options if one.id == build.fitted_today), None)
        return bill(build, fitted or bare(option), option, self._roads.rates()), "" if fitted is None else fitted.name

    def weighed(self, bench: Bench) -> tuple[dict[str, float], list[Weighed]]:
        """The weights of the build's use, or its own, and the options of the page weighed by them."""
        weights = bench.build.weights.of_use(bench.build.car.use)
        return weights, weigh([criteria(one) for one in self.of(bench)], weights)

    def choose(self, build_id: int, base: int, option_id: str, why: str) -> Outcome:
        """Choose an option with a reason: its figures and the day are kept in the build. Raises NotFound."""
        bench = self._judging.bench(build_id, option_id)
        if not why.strip():
            return Outcome(False, "chosen", why, "a choice has a reason: write down why")
        one = next((each for each in self.of(bench) if each.option.id == option_id), None)
        if one is None:
            return Outcome(False, "chosen", why, "only options of this page can be chosen")
        edits: list[Edit] = [
            ("chosen", option_id),
            ("chosen_why", why.strip()[:400]),
            ("chosen_on", day()),
            ("chosen_says", says(one, self._roads.rates())),
        ]
        return self._edits.make(build_id, base, edits, f"chosen: {one.option.name}"[:120])

    def fitted(self, build_id: int, base: int, option_id: str) -> Outcome:
        """Say which option is fitted today. Raises NotFound."""
        self._judging.bench(build_id, option_id)
        return self._edits.make(build_id, base, [("fitted_today", option_id)], "fitted today")


def criteria(one: Compared) -> dict[str, float]:
    """What an option is weighed by, each in its own unit."""
    return {
        "cost": one.paid.total,
        "headroom": one.headroom,
        "sure": one.carried,
        "circuits": float(one.parts.relays + one.parts.joints),
        "pumps": float(one.parts.pumps + one.parts.controllers),
        "silent": float(len(one.parts.silent)),
        "heat": one.idle_heat_w,
        "steps": one.step_kpa,
    }


def says(one: Compared, rates: Rates) -> str:
    """The figures a choice was made on, in words."""
    lines = [
        f"{one.option.name}: {money(one.paid.total, rates)} all in; least headroom {one.headroom * 100:.0f} %; carries "
        f"every target in about {one.carried * 100:.0f} of 100 cars like this."
    ]
    for verdict in one.verdicts:
        first = verdict.first_out
        lines.append(f"{verdict.target.name}: {first.title.lower()} at {first.load * 100:.0f} % of its ceiling.")
    return "\n".join(lines)


@lru_cache(maxsize=32)
def _compared(body: str, option_id: str, rates: str) -> Compared:
    build = parsed(body)
    option = build.option(option_id)
    fitted = next((one for one in build.options if one.id == build.fitted_today), None)
    verdicts = tuple(verdicts_of(body, option_id))
    steps = [abs(one.step_kpa) for target in build.targets for one in switches(build, option, target)]
    counts = [group.count for group in option.pumps]
    amps = max(float((one.points.hydraulics.amps[:, PEAK] * counts).sum()) for one in verdicts)
    heat = max(float((one.points.hydraulics.amps[:, IDLE] * counts).sum()) * one.target.supply_v for one in verdicts)
    return Compared(
        option,
        fitted is not None and option.id == fitted.id,
        verdicts,
        headroom_of(verdicts),
        bill(build, fitted or bare(option), option, Rates.model_validate_json(rates)),
        parts_of_it(option),
        chances(build, option, DRAWS).carried,
        amps,
        heat,
        max(steps, default=0.0),
        () if fitted is None else tuple(differences(fitted, option)),
        () if fitted is None else tuple(thrown_away(fitted, option)),
    )
