"""One fault put into cars nobody thought of: it comes first or does nothing, and putting right cures it."""

import random
from functools import cache

import pytest

from iron_gulp.core.advise import find, put_right
from iron_gulp.core.judge import judge_all
from iron_gulp.core.model import apply
from tests.draws import LONG
from tests.services.test_random_asks import SHELF, asked

HANGER = {"id": "p1", "name": "hanger", "bore_mm": 3.5, "length_m": 0.1, "k_sum": 1.5}


def part(kind, wanted):
    return next(one for one in SHELF.parts(kind) if wanted(one)).model_dump(mode="json")


def narrow(below_mm):
    return part("lines", lambda one: one.bore_mm < below_mm)


def injector(cc_min):
    return part("injectors", lambda one: one.rated_flow_cc_min == cc_min)


WIRE, REGULATOR = "pumps/g1/wiring/", "regulator/"
UPHILL = {"place": "external", "head_m": -0.5, "line": {"part": narrow(7.0), "length_m": 2.5, "k_sum": 4.0}}
# A fault: edits of the option, and the findings one of which must come first.
FAULTS = {
    "thin wire": ({WIRE + "area_mm2": 0.75}, {"wire-thin", "fuse-large", "wiring-drop"}),
    "no fuse": ({WIRE + "fuse_a": None}, {"fuse-missing"}),
    "a fuse for a starter": ({WIRE + "fuse_a": 150.0}, {"fuse-large"}),
    "a fuse for a lamp": ({WIRE + "fuse_a": 5.0}, {"fuse-small"}),
    "ground on paint": ({WIRE + "ground": "painted or shared point"}, {"ground-painted"}),
    "burnt joints": ({WIRE + "connectors_mohm": 120.0}, {"wiring-drop"}),
    "factory feed": ({WIRE + "switch": "factory feed", WIRE + "connectors_mohm": 90.0}, {"factory-feed"}),
    "narrow return": ({"return_line/part": narrow(5.5)}, {"regulator-overrun"}),
    "narrow feed": ({"feed/part": narrow(5.5)}, {"feed-small"}),
    "clogged filter": ({"filter/clogging": 40.0}, {"filter-clogged"}),
    "no filter": ({"filter": None}, {"filter-missing"}),
    "small hanger": ({"feed_passages": [HANGER]}, {"small-passage"}),
    "worn pump": ({"pumps/g1/derate_pct": 60.0}, {"pumps-short"}),
    "tiny injectors": ({"injectors/part": injector(250.0)}, {"injectors-small"}),
    "huge injectors": ({"injectors/part": injector(2500.0)}, {"injector-idle"}),
    "closed vent": ({"tank/vent_mm": 0.0}, {"tank-vent"}),
    "reference left open": ({REGULATOR + "reference": "atmosphere"}, {"fixed-reference", "no-differential"}),
    "diaphragm not for alcohol": ({REGULATOR + "part/alcohol_ok": False}, {"alcohol-fitness"}),
    "base beyond the spring": ({REGULATOR + "base_kpa": 620.0}, {"spring-range"}),
    "pump above the tank": ({"suction": UPHILL}, {"external-pump-pulls"}),
    "controller told other injectors": (
        {"calibration/injector_cc_min": 600.0, "calibration/injector_at_kpa": 300.0},
        {"injectors-untold"},
    ),
}


def troubles(one):
    found = find(one, one.options[0], judge_all(one, one.options[0]), SHELF.catalogue)
    return [each for each in found if each.severity != "note"]


@cache
def sane(seed):
    one = asked(random.Random(seed), hard=False)
    plan = put_right(one, "o1", SHELF.catalogue)
    assert not plan.left
    return apply(one, plan.edits) if plan.edits else one


SEEDS = tuple(range(100, 112)) if LONG else (103,)


@pytest.mark.parametrize("name", FAULTS)
@pytest.mark.parametrize("seed", SEEDS)
def test_a_fault_comes_first_or_does_nothing_and_is_cured(seed, name):
    edits, expected = FAULTS[name]
    faulty = apply(sane(seed), [(f"options/o1/{path}", value) for path, value in edits.items()])
    found = troubles(faulty)
    if not found:
        return  # a mild car does not notice
    assert found[0].code in expected, [each.code for each in found]
    clicks = [remedy for remedy in found[0].remedies if remedy.edits]
    assert clicks
    assert found[0].code not in [each.code for each in troubles(apply(faulty, clicks[0].edits))]
    assert [each.code for each in put_right(faulty, "o1", SHELF.catalogue).left] == []


def test_most_faults_are_noticed():
    seed, car = SEEDS[0], sane(SEEDS[0])
    noticed = [
        name
        for name, (edits, _) in FAULTS.items()
        if troubles(apply(car, [(f"options/o1/{path}", value) for path, value in edits.items()]))
    ]
    assert len(noticed) >= len(FAULTS) - 4, (seed, set(FAULTS) - set(noticed))
