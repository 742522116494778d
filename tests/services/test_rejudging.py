"""The garage shows stored verdicts; another physics judges them again in the background."""

import json
import sqlite3

from fastapi.testclient import TestClient

from iron_gulp.services import judging
from iron_gulp.services.moved import Movements
from iron_gulp.services.workshop import Workshop
from iron_gulp.web.app import create_app


def loads(workshop):
    return {row.name: row.summary["load"] for row in workshop.garage.page().rows}


def test_the_garage_does_not_judge(workshop, monkeypatch):
    def never(*_):
        raise AssertionError("judged")

    before = loads(workshop)
    monkeypatch.setattr(judging, "judged_beside", never)
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


def aged(path, change):
    """The garage of a file as an earlier version left it: every stored summary changed."""
    with sqlite3.connect(path) as connection:
        for number, summary in connection.execute("SELECT id, summary FROM build").fetchall():
            told = change(json.loads(summary))
            connection.execute("UPDATE build SET summary = ? WHERE id = ?", (json.dumps(told), number))


def test_a_build_that_is_judged_otherwise_says_so_until_it_is_read(workshop, tmp_path):
    rows = {row.name: row for row in workshop.garage.page().rows}
    now = rows["Curlew"].summary
    workshop.close()

    def earlier(told):
        other = {"limit": "Feed line", "load": 1.31, "status": "over"} if told["target"] == now["target"] else {}
        return told | {"physics": judging.PHYSICS - 1} | other

    aged(tmp_path / "garage.sqlite3", earlier)
    again = Workshop(tmp_path / "garage.sqlite3")
    again.rejudging.wait()
    (moved,) = again.movements.unseen(rows["Curlew"].id)
    assert (moved.was.limit, moved.was.load) == ("Feed line", 1.31)
    assert (moved.now.limit, moved.now.load) == (now["limit"], now["load"])
    assert "rules of the shop" in moved.why
    assert again.movements.of(rows["Saltern"].id) == ()  # it stands as it did
    client = TestClient(create_app(again), base_url="http://localhost")
    page = client.get(f"/builds/{rows['Curlew'].id}/ask").text
    assert "Judged otherwise than before" in page
    assert "Feed line" in page
    assert "Judged otherwise" not in client.get(f"/builds/{rows['Saltern'].id}/ask").text
    form = {"page": "ask", "option": "as-built", "target": "road", "base": 1}
    read = client.post(f"/builds/{rows['Curlew'].id}/moved/read", data=form)
    assert read.status_code == 200
    assert "Judged otherwise than before" not in read.text
    assert "What new versions changed" in client.get(f"/builds/{rows['Curlew'].id}/keep").text
    again.close()
    once_more = Workshop(tmp_path / "garage.sqlite3")
    once_more.rejudging.wait()
    assert once_more.movements.unseen(rows["Curlew"].id) == ()
    assert len(once_more.movements.of(rows["Curlew"].id)) == 1
    once_more.close()


class _Told(dict):
    put = dict.__setitem__


def test_a_build_asked_before_its_new_verdict_was_stored_is_looked_up_again():
    told = _Told()
    movements = Movements(told)
    was = {"limit": "Feed line", "target": "Road", "load": 1.3, "status": "over", "physics": 7}
    new = movements.noting(4, was, was | {"limit": "Injectors", "physics": 8})
    assert movements.of(4) == ()  # asked before it is stored
    told.update(new)
    movements.noted(4)
    assert [one.now.limit for one in movements.of(4)] == ["Injectors"]
