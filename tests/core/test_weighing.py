"""A weighing by hand, and what it must hold for any values."""

import pytest
from hypothesis import given
from hypothesis import strategies as st

from iron_gulp.core.model import BY_USE, Build, Car, Weights
from iron_gulp.core.plan import weigh
from tests.draws import draws

NAMES = tuple(Weights.model_fields)
SCORES = st.lists(st.fixed_dictionaries(dict.fromkeys(NAMES, st.floats(0, 1000))), min_size=1, max_size=6)


def test_a_weighing_by_hand():
    cheap = dict.fromkeys(NAMES, 0.0) | {"cost": 1000.0, "headroom": 0.1}
    middle = cheap | {"cost": 1500.0, "headroom": 0.2}
    strong = cheap | {"cost": 3000.0, "headroom": 0.9}
    found = weigh([cheap, middle, strong], {"cost": 3.0, "headroom": 1.0})
    assert [one.shares["cost"] for one in found] == [1.0, 0.75, 0.0]
    assert [one.shares["headroom"] for one in found] == pytest.approx([0.0, 0.2, 1.0])  # 60 % is enough
    assert [one.whole for one in found] == pytest.approx([75.0, 61.25, 25.0])


@given(SCORES, st.fixed_dictionaries(dict.fromkeys(NAMES, st.floats(0, 10))))
@draws(60)
def test_better_in_one_and_worse_in_none_is_never_weighed_less(values, weights):
    better = dict(values[0], cost=values[0]["cost"] / 2, headroom=values[0]["headroom"] + 0.1)
    found = weigh([*values, better], weights)
    assert found[-1].whole >= found[0].whole - 1e-9
    assert all(0 <= one.whole <= 100 + 1e-9 for one in found)


def test_a_use_weighs_every_criterion_and_a_typed_weight_stands_before_it():
    uses = Car.model_fields["use"].annotation.__args__
    assert set(BY_USE) == set(uses)
    for use in uses:
        assert set(BY_USE[use]) == set(NAMES)
        assert Weights(silent=0.0).of_use(use) == BY_USE[use] | {"silent": 0.0}
    assert Build.model_fields["weights"].default == Weights()
