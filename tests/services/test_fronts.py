"""A front outlives the server that searched it, judged again by today's physics; what it says is checked."""

import json
from types import SimpleNamespace

import pytest

from iron_gulp.core.advise import find_troubles
from iron_gulp.core.plan import Locks
from iron_gulp.services.fronts import KeptFront, read, written
from iron_gulp.services.workshop import Workshop
from tests.core.test_design import MODEST, modest
from tests.draws import LONG

pytestmark = pytest.mark.xdist_group("fronts")

SHELF = SimpleNamespace(catalogue=MODEST, parts=lambda kind: [])


@pytest.fixture(scope="module")
def searched(tmp_path_factory):
    """A modest build with a small shelf in a garage of its own, its search done."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr("iron_gulp.services.sizing.WORKERS", 1)
        patch.setattr("iron_gulp.services.designs.CHANCE_DRAWS", 40)
        workshop = Workshop(tmp_path_factory.mktemp("fronts") / "garage.sqlite3")
        patch.setattr(workshop.sizing, "_shelf_of", SimpleNamespace(shelf=SHELF))
        build = workshop.garage.add(modest(), "made for a test")
        bench = workshop.judging.bench(build)
        workshop.designs.start(bench, Locks(returns="with a return", most_pumps=1))
        workshop.designs.wait(build, bench.option.id)
        yield build, bench, workshop
        workshop.close()


def test_what_was_searched_is_there_on_the_next_start(searched, monkeypatch):
    build, bench, workshop = searched
    before = workshop.designs.of(build, bench.option.id)
    assert before.front
    again = Workshop(workshop._path)
    try:
        monkeypatch.setattr(again.sizing, "_shelf_of", SimpleNamespace(shelf=SHELF))
        found = again.designs.of(build, bench.option.id)
        assert [one.option for one in found.front] == [one.option for one in before.front]
        assert [one.score for one in found.front] == [one.score for one in before.front]
        assert [found.chance(one) for one in found.front] == [before.chance(one) for one in before.front]
        assert (found.number, found.locks, found.found.fell) == (before.number, before.locks, before.found.fell)
        assert (found.running, found.failed, found.found.done) == (False, "", True)
        opened = again.designs.open(build, before.number, bench.option.id, 0)
        assert opened.ok
        assert again.judging.bench(build).build.options[-1].pumps == before.front[0].option.pumps
        assert again.designs.of(build, "nothing") is None
        assert again.designs.of(9999, "as-built") is None
    finally:
        again.close()


def test_what_cannot_be_trusted_any_more_is_left_out(searched):
    build, bench, workshop = searched
    job = workshop.designs.of(build, bench.option.id)
    text = written(job)

    def read_on(told, build_then=bench.build):
        return read(told, lambda number: build_then, bench.option.id, workshop.sizing.search)

    assert len(read_on(text).front) == len(job.front)
    assert read_on("{}") is None
    assert read_on(text[:-7]) is None
    assert read(text, lambda number: bench.build, "gone", workshop.sizing.search) is None
    # A build that asks for twice the power: none of the designs carries it.
    twice = tuple(one.model_copy(update={"power_kw": one.power_kw * 2.0}) for one in bench.build.targets)
    assert read_on(text, bench.build.model_copy(update={"targets": twice})).front == []


def test_the_demo_has_a_front_worth_looking_at(reading):
    build = reading.garage.page("Curlew").rows[0].id
    bench = reading.judging.bench(build)
    kept = KeptFront.model_validate_json(reading.designs.kept(build, bench.option.id))
    job = reading.designs.of(build, bench.option.id)
    assert job.number == bench.stored.number
    assert len(job.front) == len(kept.designs) >= 5
    costs = [one.bill.total for one in job.front]
    assert max(costs) > 1.25 * min(costs)
    for design in job.front if LONG else job.front[:2]:
        left = find_troubles(bench.build, design.option, list(design.verdicts), reading.shelf.catalogue)
        assert not [one for one in left if one.severity == "stop"]
        assert job.chance(design) is not None
    scores = [one.score for one in job.front]
    assert not any(one.no_worse(other) for one in scores for other in scores if one is not other)


@pytest.mark.skipif(not LONG, reason="searches the whole shelf")
def test_the_demo_front_is_what_the_search_finds_today(workshop):
    build = workshop.garage.page("Curlew").rows[0].id
    bench = workshop.judging.bench(build)
    kept = json.loads(workshop.designs.kept(build, bench.option.id))
    workshop.designs.start(bench, Locks())
    workshop.designs.wait(build, bench.option.id)
    found = json.loads(workshop.designs.kept(build, bench.option.id))
    assert [one["option"] for one in found["designs"]] == [one["option"] for one in kept["designs"]]
    assert found["fell"] == kept["fell"]
