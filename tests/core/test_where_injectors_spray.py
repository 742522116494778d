"""Injectors that spray above the throttle: pressure across them against what they spray into."""

import pytest

from iron_gulp.core.judge import judge
from iron_gulp.core.model import InjectorSet, apply
from iron_gulp.core.solve import IDLE, PEAK
from tests.core.test_findings import findings_of
from tests.systems import a_target, build, check_option, injectors

BASE, BOOST, VACUUM = 300.0, 90.0, -60.0


def across(sprays: str, reference: str) -> tuple[float, float]:
    """Differential at peak and at idle, kPa."""
    one = apply(
        build(None, a_target(boost_kpa=BOOST, power_kw=150)),
        [
            ("engine/idle_manifold_kpa", VACUUM),
            ("options/o1/injectors/sprays", sprays),
            ("options/o1/regulator/reference", reference),
            ("options/o1/regulator/base_kpa", BASE),
            ("options/o1/regulator/part/creep_kpa", 0.0),
            ("options/o1/regulator/part/droop_kpa", 0.0),
            ("options/o1/regulator/part/capacity_drop_kpa", 30.0),
            ("options/o1/return_line/length_m", 1.0),
        ],
    )
    found = judge(one, one.options[0], one.targets[0]).points.hydraulics.differential_kpa
    return float(found[PEAK]), float(found[IDLE])


@pytest.mark.parametrize(
    ("sprays", "reference", "peak", "idle"),
    [
        ("into each port", "manifold", BASE, BASE),
        ("into each port", "atmosphere", BASE - BOOST, BASE - VACUUM),
        ("into a shared plenum", "atmosphere", BASE - BOOST, BASE - VACUUM),
        ("above the throttle", "atmosphere", BASE, BASE),
        ("above the throttle", "manifold", BASE + BOOST, BASE + VACUUM),
        ("above the throttle, blown through", "manifold", BASE, BASE),
        ("above the throttle, blown through", "atmosphere", BASE - BOOST, BASE),
    ],
)
def test_pressure_across_them(sprays, reference, peak, idle):
    assert across(sprays, reference) == pytest.approx((peak, idle), abs=0.5)


def test_the_base_pressure_a_spray_wants_is_the_next_whole_kilopascal():
    part = injectors(spray_min_kpa=350.2)
    one = build(check_option(injectors=InjectorSet(part=part)))
    finding = next(each for each in findings_of(one) if each.code == "spray-poor")
    (remedy,) = [each for each in finding.remedies if each.edits]
    assert remedy.edits == (("options/o1/regulator/base_kpa", 351),)
    assert "spray-poor" not in {each.code for each in findings_of(apply(one, remedy.edits))}
