"""What the hanger in the tank bears, and pumps made for another place: told where it was entered, silent otherwise."""

import pytest

from iron_gulp.core.advise import find
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import Catalogue, Rates, Suction, apply
from iron_gulp.core.plan import Locks, Search
from iron_gulp.core.plan.design.sitting import sits, suctions
from iron_gulp.shelf import load_shelf
from tests.systems import build, check_option, lift_stage, line, pump

SHELF = load_shelf()
CODES = {"hanger-full", "hanger-outlets", "pump-misplaced"}


def said(option):
    one = build(option)
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    return {finding.code: finding for finding in found if finding.code in CODES}


@pytest.mark.parametrize(
    ("count", "bears", "wrong"),
    [
        (2, {}, False),
        (1, {"hanger_pumps": 1}, False),
        (2, {"hanger_pumps": 2, "hanger_pins": 4}, False),
        (2, {"hanger_pumps": 2, "hanger_pins": 3}, True),
        (2, {"hanger_pumps": 1}, True),
        (1, {"hanger_pins": 1}, True),
        (3, {"hanger_pumps": 2, "hanger_pins": 2}, True),
    ],
)
def test_pumps_that_hang_are_counted_against_seats_and_pins(count, bears, wrong):
    found = said(check_option(count, suction=Suction(**bears)))
    assert set(found) == ({"hanger-full"} if wrong else set())
    if wrong:
        text = found["hanger-full"].text.format(**found["hanger-full"].values)
        assert text.startswith("One pump hangs in it" if count == 1 else f"{count} pumps hang in it")
        assert "None" not in text


def test_only_what_hangs_in_the_main_tank_counts():
    bears = {"hanger_pumps": 1, "hanger_pins": 2}
    outside = Suction(place="external", head_m=0.2, line=line(12.0, 0.5, 1.0), **bears)
    assert not said(check_option(3, suction=outside))
    surge = Suction(place="in a surge tank", **bears)
    assert not said(check_option(3, suction=surge, lift=lift_stage(1.5)))
    two = lift_stage(1.5).model_copy(update={"count": 2})
    assert set(said(check_option(1, suction=surge, lift=two))) == {"hanger-full"}


@pytest.mark.parametrize(
    ("arrangement", "lift", "return_to", "wanted"),
    [
        ("bypass after the rail", False, "", 2),
        ("bypass near the tank", False, "", 1),
        ("returnless, speed-controlled", False, "", 1),
        ("bypass after the rail", True, "surge tank", 2),
        ("bypass after the rail", True, "main tank", 3),
        ("returnless, speed-controlled", True, "main tank", 2),
    ],
)
def test_outlets_are_counted_for_feed_return_and_overflow(arrangement, lift, return_to, wanted):
    for has in (wanted - 1, wanted):
        if has < 1:
            continue
        stage = lift_stage(1.5).model_copy(update={"return_to": return_to}) if lift else None
        place = "in a surge tank" if lift else "in the tank"
        option = check_option(suction=Suction(place=place, hanger_outlets=has), lift=stage)
        regulator = option.regulator.model_copy(update={"arrangement": arrangement})
        found = said(option.model_copy(update={"regulator": regulator}))
        assert set(found) == ({"hanger-outlets"} if has < wanted else set())


@pytest.mark.parametrize("made_for", ["in the tank or outside", "in the tank", "outside"])
@pytest.mark.parametrize("place", ["in the tank", "external"])
def test_a_pump_made_for_another_place_is_named(made_for, place):
    part = pump().part.model_copy(update={"made_for": made_for})
    option = check_option(pumps=(pump(part=part),), suction=Suction(place=place, head_m=0.2))
    right = made_for == "in the tank or outside" or (made_for == "outside") == (place == "external")
    assert set(said(option)) == (set() if right else {"pump-misplaced"})
    assert right or not sits(part, option.suction, part)


def test_what_a_hanger_bears_stays_known_where_pumps_move():
    bears = {"hanger_pumps": 2, "hanger_outlets": 1, "hanger_pins": 4}
    outside = Suction(place="external", head_m=-0.3, line=line(12.0, 0.5, 1.0), **bears)
    lines, filters = SHELF.catalogue.lines, SHELF.catalogue.filters
    _, inside = suctions(check_option(suction=outside), lines, filters, 200.0)
    assert inside == Suction(place="in the tank", **bears)
    _, again = suctions(check_option(suction=inside), lines, filters, 200.0)
    assert again.place == "external"
    assert again.line is not None
    assert {name: getattr(again, name) for name in bears} == bears


def test_the_shelfs_pumps_for_outside_say_so():
    assert {one.made_for for one in SHELF.catalogue.pumps if "external" in one.name} == {"outside"}


def test_a_search_hangs_no_more_pumps_than_the_hanger_bears():
    """Two small pumps are cheaper here than a large one; where one seat is all there is, the large one is fitted."""
    small, large = (SHELF.part("pumps", one) for one in ("pump-160", "pump-315"))
    cheap, dear = small.model_copy(update={"price": 50.0}), large.model_copy(update={"price": 900.0})
    shelf = Catalogue(pumps=(cheap, dear), filters=SHELF.catalogue.filters)
    seats = {}
    for bears in (None, 1):
        option = check_option(pumps=(pump(part=cheap),), suction=Suction(hanger_pumps=bears))
        one = apply(build(option), [("targets/t1/power_kw", 210.0)])
        search = Search(one, one.options[0], shelf, Rates(), Locks(keep=("injectors", "lines", "regulator")))
        for _ in search.run(first_only=True):
            pass
        seats[bears] = search.found.best.option.pumps
    assert sum(group.count for group in seats[None]) == 2
    assert [(group.count, group.part.name) for group in seats[1]] == [(1, dear.name)]
