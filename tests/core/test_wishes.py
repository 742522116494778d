"""What sizing would rather keep, in which order it lets go, and what it says of that."""

from types import SimpleNamespace

import pytest

from iron_gulp.core.judge import circuits, judge_all
from iron_gulp.core.model import Rates
from iron_gulp.core.plan import ONE_SET, TURBINES, USUAL, Chosen, Locks, Search, choose, reasons
from iron_gulp.core.plan import wishes as wished
from iron_gulp.core.plan.design import rewired
from iron_gulp.core.plan.wishes import DIRECT, DIRECT_STAYS, wishes
from iron_gulp.shelf import load_shelf
from tests.customers.accounts import check_account
from tests.systems import demo

PORT = demo("curlew").options[0]
SHELF = load_shelf().catalogue


def told(option, locks=None):
    asked = locks or Locks()
    return [(one.locks.second_set, one.locks.base_pressure, one.locks.brushless) for one in wishes(option, asked)]


def test_wishes_are_let_go_from_the_last_to_the_first():
    none, helps, usual, any_base = "none", "where it helps", "usual alone", "may change"
    every = [(second, base, kind) for second in (none, helps) for base in (usual, any_base) for kind in (none, helps)]
    assert told(PORT) == every
    assert next(wishes(PORT, Locks())).held == {ONE_SET, USUAL, TURBINES}


@pytest.mark.parametrize(
    ("locks", "left"),
    [
        (Locks(base_pressure="as it is"), {ONE_SET, TURBINES}),
        (Locks(keep=("pumps",)), {ONE_SET, USUAL}),
        (Locks(keep=("injectors",)), {USUAL, TURBINES}),
        (Locks(returns="returnless"), {ONE_SET, USUAL}),  # a pump with its own controller is what that takes
        (Locks(brushless="none", second_set="where it helps"), {USUAL}),
    ],
)
def test_what_is_asked_for_is_not_wished_beside(locks, left):
    assert next(wishes(PORT, locks)).held == left
    for one in wishes(PORT, locks):
        for name in ("keep", "returns", *(("base_pressure",) if locks.base_pressure == "as it is" else ())):
            assert getattr(one.locks, name) == getattr(locks, name)


def test_floats_and_direct_injectors_have_base_pressures_of_their_own():
    assert told(demo("fieldfare").options[0]) == [("none", "may change", "where it helps")]
    direct = demo("dunlin")
    one = next(option for option in direct.options if option.high_side is not None)
    assert {base for _, base, _ in told(one)} == {"may change"}


class Shelf:
    """Searches that find what a table says for their locks, in the order they are asked."""

    def __init__(self, costs):
        self.costs, self.asked = costs, []

    def search(self, locks):
        at = (locks.second_set, locks.base_pressure, locks.brushless)
        cost = self.costs.get(at)
        if cost is not None and locks.budget is not None and cost > locks.budget:
            cost = None
        best = None if cost is None else SimpleNamespace(bill=SimpleNamespace(total=cost), at=at)
        self.asked.append(at)
        found = SimpleNamespace(best=best)
        told = {"found": found, "wider": self.search, "nearest": lambda: "the nearest"}
        return SimpleNamespace(**told)

    def choose(self, run=lambda _: True):
        with pytest.MonkeyPatch.context() as patch:
            patch.setattr(wished, "rewired", lambda _search, design: design)
            return choose(self.search, run, PORT, Locks())


def test_the_first_wishes_that_anything_keeps_decide_not_the_money():
    shelf = Shelf({("none", "usual alone", "none"): 3000.0, ("where it helps", "may change", "where it helps"): 10.0})
    chosen = shelf.choose()
    assert (chosen.design.at, chosen.given_up, chosen.dearer) == (("none", "usual alone", "none"), (), None)


@pytest.mark.parametrize(("cost", "spares"), [(2690.0, True), (2710.0, False)])
def test_a_pump_with_a_controller_comes_in_for_a_tenth_of_the_money(cost, spares):
    chosen = Shelf({("none", "usual alone", "none"): 3000.0, ("none", "usual alone", "where it helps"): cost}).choose()
    assert chosen.design.bill.total == (cost if spares else 3000.0)
    assert chosen.dearer == (3000.0 if spares else None)


@pytest.mark.parametrize(
    ("at", "given_up"),
    [
        (("none", "usual alone", "where it helps"), (TURBINES,)),
        (("none", "may change", "none"), (USUAL,)),
        (("where it helps", "usual alone", "none"), (ONE_SET,)),
        (("where it helps", "may change", "where it helps"), (ONE_SET, USUAL, TURBINES)),
    ],
)
def test_what_nothing_keeps_is_given_up_and_told(at, given_up):
    assert Shelf({at: 3000.0}).choose().given_up == given_up


def test_nothing_that_carries_is_told_with_the_nearest_and_a_stop_tells_nothing():
    assert Shelf({}).choose() == Chosen(None, "the nearest", ())
    assert Shelf({("none", "usual alone", "none"): 1.0}).choose(run=lambda _: False) is None


def test_circuits_of_what_is_chosen_are_those_the_bench_of_wiring_proposes():
    build = demo("fieldfare")
    search = Search(build, build.options[0], SHELF, Rates())
    for _ in search.run(first_only=True):
        pass
    best = search.found.best
    (group,) = best.option.pumps
    thick = group.wiring.model_copy(update={"fuse_a": 7.5, "area_mm2": 4.0})
    large = best.option.model_copy(update={"pumps": (group.model_copy(update={"wiring": thick}),)})
    found = rewired(search, search.design(large)).option
    (one,) = circuits(found, tuple(judge_all(build, found)), build.rules)
    assert (one.fuse_a, one.wiring.area_mm2) == (one.fuse_proposed_a, one.area_proposed_mm2)
    assert (one.fuse_a, one.wiring.area_mm2) < (7.5, 4.0)
    kept = Search(build, build.options[0], SHELF, Rates(), Locks(keep=("pumps",)))
    assert rewired(kept, kept.design(large)).option == large


def test_what_a_thinner_wire_would_take_from_the_headroom_stays():
    build = demo("curlew")  # whose pumps are short already
    search = Search(build, PORT, SHELF, Rates())
    assert rewired(search, search.design(PORT)).option == PORT


@pytest.mark.parametrize("name", ["curlew", "fieldfare", "dunlin"])
def test_every_figure_of_the_account_is_data_and_that_of_the_option(name):
    build = demo(name)
    for option in build.options:
        design = Search(build, option, SHELF, Rates()).design(option)
        chosen = Chosen(design, None, (ONE_SET, USUAL, TURBINES, DIRECT_STAYS), 1.2 * design.bill.total)
        check_account(build, option, reasons(build, chosen, SHELF))


def test_what_had_to_stay_is_said_to_stay_and_is_not_held_against_a_smaller_one():
    build = demo("curlew")
    design = Search(build, PORT, SHELF, Rates()).design(PORT)
    told = reasons(build, Chosen(design, None, (), kept=("injectors", "pumps", "lines", "regulator", "filter")), SHELF)
    assert not any("next" in one.values for one in told)
    assert sum("It stays, as asked." in one.text for one in told) >= 6
    free = reasons(build, Chosen(design, None, ()), SHELF)
    assert any("next" in one.values for one in free)
    assert not any("It stays" in one.text for one in free)


def test_the_account_says_what_was_given_up():
    build = demo("curlew")
    design = Search(build, PORT, SHELF, Rates()).design(PORT)
    plain = reasons(build, Chosen(design, None, ()), SHELF)
    whole = reasons(build, Chosen(design, None, (ONE_SET, USUAL, TURBINES)), SHELF)
    more = [one for one in whole if one not in plain]
    assert len(more) == 3
    assert more[1].values["base_kpa"] == PORT.regulator.base_kpa
    (money,) = [
        one for one in reasons(build, Chosen(design, None, (), 1.25 * design.bill.total), SHELF) if one not in plain
    ]
    assert money.values["spared_pct"] == pytest.approx(20.0)
    with pytest.raises(ValueError, match="nothing was chosen"):
        reasons(build, Chosen(None, None, ()), SHELF)


def test_a_direct_side_is_fed_with_a_return_first_and_without_where_that_does_not_do():
    direct = next(option for option in demo("dunlin").options if option.high_side is not None)
    ways = [one.locks.returns for one in wishes(direct, Locks())]
    assert ways == sorted(ways, reverse=True)
    assert set(ways) == {"with a return", "either"}
    assert {one.locks.returns for one in wishes(direct, Locks(returns="returnless"))} == {"returnless"}
    search = Search(demo("dunlin"), direct, SHELF, Rates())
    assert "returnless, speed-controlled" in search.choices.arrangements()


def test_a_direct_side_that_port_injectors_help_stays_as_it_is_where_that_does():
    both = demo("dunlin").option("port")
    asked = list(wishes(both, Locks()))
    small = [one for one in asked if DIRECT_STAYS in one.held]
    assert asked[: len(small)] == small
    assert len(small) == len(asked) / 2
    assert all(set(DIRECT) <= set(one.locks.keep) for one in small)
    assert not any(one.locks.keep for one in asked[len(small) :])
    # Where it must stay anyhow there is nothing to let go.
    assert not any(DIRECT_STAYS in one.held for one in wishes(both, Locks(keep=DIRECT)))
    search = Search(demo("dunlin"), both, SHELF, Rates(), small[0].locks)
    opened = search.wider(asked[-1].locks)
    base = search.choices.bases()[0]
    assert len(opened.choices.meterings(base)) > len(search.choices.meterings(base))
    design = search.design(both)
    words = [one.text for one in reasons(demo("dunlin"), Chosen(design, None, (DIRECT_STAYS,)), SHELF)]
    assert any("its pumps or injectors grow too" in one for one in words)
