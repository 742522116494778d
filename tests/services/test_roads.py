"""Roads opened as options of a stored build, and the shop's rates kept."""

from iron_gulp.services.roads import Refused


def test_a_road_opens_as_an_option_and_is_undone(workshop):
    number = workshop.garage.page("dunlin").rows[0].id
    before = workshop.judging.bench(number)
    done = workshop.roads.open(number, before.stored.number, "as-found", "port")
    assert done.ok
    after = workshop.judging.bench(number)
    assert len(after.build.options) == len(before.build.options) + 1
    assert after.build.options[-1].name == "A port rail beside it"
    assert workshop.garage.undo(number)
    assert len(workshop.judging.bench(number).build.options) == len(before.build.options)
    assert not workshop.roads.open(number, after.stored.number, "as-found", "another").ok


def test_rates_are_kept_all_or_none(workshop):
    kept = workshop.roads.set_rates({"labour": "101,5", "high_pump": "", "currency": "kr"})
    assert (kept.labour, kept.high_pump, kept.currency) == (101.5, None, "kr")
    wrong = workshop.roads.set_rates({"labour": "-1", "calibration": "much", "currency": "€"})
    assert isinstance(wrong, Refused)
    assert set(wrong.problems) == {"labour", "calibration"}
    assert workshop.roads.rates() == kept
