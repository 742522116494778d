"""The garage shows stored verdicts; another physics judges them again in the background."""

from iron_gulp.services import judging
from iron_gulp.services.workshop import Workshop


def loads(workshop):
    return {row.name: row.summary["load"] for row in workshop.garage.page().rows}


def test_the_garage_does_not_judge(workshop, monkeypatch):
    def never(*_):
        raise AssertionError("judged")

    before = loads(workshop)
    monkeypatch.setattr(judging, "judge_all", never)
    assert loads(workshop) == before
    assert workshop.judging.outdated() == []


def test_another_physics_is_judged_again_and_revisions_stay(workshop, tmp_path, monkeypatch):
    before = loads(workshop)
    ids = [row.id for row in workshop.garage.page().rows]
    numbers = [workshop.judging.bench(one).stored.number for one in ids]
    workshop.close()
    monkeypatch.setattr(judging, "PHYSICS", judging.PHYSICS + 1)
    again = Workshop(tmp_path / "garage.sqlite3")
    again.rejudging.wait()
    assert again.judging.outdated() == []
    assert loads(again) == before
    assert {row.summary["physics"] for row in again.garage.page().rows} == {judging.PHYSICS}
    assert [again.judging.bench(one).stored.number for one in ids] == numbers
    assert not again.judging.judge_anew(ids[0])
    again.close()
