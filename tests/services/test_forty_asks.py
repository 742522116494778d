"""Forty asks nobody wrote, over all kinds: what is chosen is what was wished, or it is told why it cannot be."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import circuits, judge_all
from iron_gulp.core.model import RESERVED, Rates
from iron_gulp.core.plan import ONE_SET, USUAL, Answers, headroom_of
from iron_gulp.services import sizing
from iron_gulp.shelf import load_shelf
from iron_gulp.units import BenchUnits
from tests.customers.accounts import check_account
from tests.customers.drawn import drawn
from tests.draws import LONG

pytestmark = pytest.mark.xdist_group("sizing")
SHELF = load_shelf()
SEEDS = range(1, 41) if LONG else (7,)
DEARER = 1.10  # than the cheapest of a full search under the same wishes


@pytest.fixture
def watched(monkeypatch):
    """What sizing chose and said, as data, and the searches it made."""
    seen = {"reasons": [], "searches": []}
    choose, reasons = sizing.choose, sizing.reasons
    monkeypatch.setattr(sizing, "WORKERS", 2 if LONG else 1)

    def choosing(search, run, *rest):
        def running(one):
            seen["searches"].append(one)
            return run(one)

        seen["chosen"] = choose(search, running, *rest)
        return seen["chosen"]

    def reasoned(*asked):
        seen["reasons"] = reasons(*asked)
        return seen["reasons"]

    monkeypatch.setattr(sizing, "choose", choosing)
    monkeypatch.setattr(sizing, "reasons", reasoned)
    return seen


@pytest.mark.parametrize("seed", SEEDS)
def test_what_is_chosen_is_sane_and_as_wished_or_told(watched, seed):
    asked = drawn(seed)
    answers = Answers(**asked)
    build, assumed, found = sizing.size_answers(answers, SHELF, Rates(), BenchUnits())
    option, wanted = build.options[0], build.rules.headroom_pct / 100.0
    assert assumed
    judged = judge_all(build, option)
    graver = [one.code for one in find(build, option, judged, SHELF.catalogue) if one.severity != "note"]
    if not found.carries:
        # Target, limit, number, nearest.
        told = found.account[0]
        assert any(one.name in told for one in build.targets) or "budget" in told or "costs" in told or graver
        assert any(letter.isdigit() for words in found.account for letter in words)
        return
    assert graver == []
    assert headroom_of(judged) >= wanted - 1e-9
    for verdict in judged:
        assert not [one.component for one in verdict.loads if one.component in RESERVED and one.load > 1 / (1 + wanted)]
    for one in circuits(option, tuple(judged), build.rules):
        assert one.fuse_a is None or one.fused_a >= 40.0 or one.wiring.area_mm2 <= 10.0
        pigtail = next((group.part.pigtail_a for group in option.pumps if group.id == one.path.split("/")[1]), None)
        assert pigtail is None or one.fuse_a is None or one.fuse_a <= pigtail
    chosen = watched["chosen"]
    check_account(build, option, watched["reasons"])
    assert (answers.injectors == "must stay") == ("injectors" in chosen.kept)
    if option.injectors is not None and option.high_side is None:
        assert option.injectors.second is None or ONE_SET in chosen.given_up
        fixed = answers.base_kpa is not None
        assert option.regulator.base_kpa in (300.0, 400.0) or USUAL in chosen.given_up or fixed
    if answers.budget is not None:
        assert found.design.bill.total <= answers.budget + 0.5


@pytest.mark.skipif(not LONG, reason="searches the whole shelf")
@pytest.mark.parametrize("seed", SEEDS[::5])
def test_it_costs_little_more_than_the_cheapest_of_a_full_search(watched, seed):
    _, _, found = sizing.size_answers(Answers(**drawn(seed)), SHELF, Rates(), BenchUnits())
    if not found.carries:
        return
    last = watched["searches"][-1]
    again = type(last)(last.build, last.base, last.catalogue, last.rates, last.locks, last.before, last._own, last.leave)
    for _ in again.run(workers=2):
        pass
    if again.found.best is not None:
        assert found.design.bill.total <= DEARER * again.found.best.bill.total
        # And the search finds at least what was sized: nothing of its front is dearer where that carries.
        assert again.found.best.bill.total <= found.design.bill.total + 0.5
