"""Many at once, a full disk, a first visit: what is acknowledged is there, and what is not is said."""

import re
import sqlite3
from concurrent.futures import ThreadPoolExecutor

import pytest

from iron_gulp.web.parts.rendering import preset_of
from tests.web.parsing import parsed


def form(base, **more):
    return {"base": base, "page": "ask", "option": "as-built", "target": "hill", **more}


def test_thirty_editors_on_one_build(client, workshop, curlew):
    def one(number):
        told = []
        for turn in range(2):
            base = workshop.judging.bench(curlew).stored.number
            kind = (number + turn) % 6
            if kind == 0:
                answer = client.post(f"/builds/{curlew}/undo", data=form(base))
            elif kind == 1:
                answer = client.post(f"/builds/{curlew}/restore", data=form(base, number=1))
            else:
                value = f"{700 + number * 7 + turn}"
                answer = client.post(f"/builds/{curlew}/edit", data=form(base, path="engine/idle_rpm", value=value))
            told.append(answer.status_code)
        return told

    with ThreadPoolExecutor(30) as pool:
        statuses = [status for told in pool.map(one, range(30)) for status in told]
    assert set(statuses) <= {200, 422}
    assert 200 in statuses
    kept = [one.number for one in workshop.garage.revisions(curlew).rows]
    assert kept == sorted(set(kept), reverse=True)


def test_every_acknowledged_edit_is_there(client, workshop, curlew):
    def one(number):
        base = workshop.judging.bench(curlew).stored.number
        path = f"targets/{('pump-fuel', 'hill', 'later')[number % 3]}/{('charge_temp_c', 'supply_v')[number % 2]}"
        value = f"{12 + number / 50:.2f}"
        answer = client.post(f"/builds/{curlew}/edit", data=form(base, path=path, value=value))
        return answer.status_code, path, value

    with ThreadPoolExecutor(12) as pool:
        told = list(pool.map(one, range(24)))
    notes = {revision.note for revision in workshop.garage.revisions(curlew).rows}
    for status, _, value in told:
        assert status in (200, 422)
        assert status == 422 or any(note.endswith(f": {value}") for note in notes)


def test_undo_refuses_when_somebody_elses_change_is_on_top(client, workshop, curlew):
    mine = client.post(f"/builds/{curlew}/edit", data=form(1, path="engine/idle_rpm", value="950"))
    assert mine.status_code == 200
    assert "Undo: Idle speed: 950" in mine.text
    assert client.post(f"/builds/{curlew}/edit", data=form(2, path="engine/ve_pct", value="99")).status_code == 200
    answer = client.post(f"/builds/{curlew}/undo", data=form(2))
    assert answer.status_code == 422
    assert "nothing was taken back" in answer.text
    engine = workshop.judging.bench(curlew).build.engine
    assert (engine.idle_rpm, engine.ve_pct) == (950.0, 99.0)
    assert client.post(f"/builds/{curlew}/undo", data=form(3)).status_code == 200
    assert workshop.judging.bench(curlew).build.engine.ve_pct == 98.0


def test_a_full_disk_is_said_and_nothing_is_lost(client, workshop, curlew):
    def small(connection, _record, _proxy):
        pages = connection.execute("PRAGMA page_count").fetchone()[0]
        connection.execute(f"PRAGMA max_page_count={pages}")

    from sqlalchemy import event

    engine = workshop._database.engine
    event.listen(engine, "checkout", small)
    try:
        statuses = []
        for base in range(1, 40):
            answer = client.post(f"/builds/{curlew}/edit", data=form(base, path="notes", value="n" * 900 + str(base)))
            statuses.append(answer.status_code)
            if answer.status_code != 200:
                break
    finally:
        event.remove(engine, "checkout", small)
    assert statuses[-1] == 507
    assert "the disk is full" in parsed(answer.text).text
    assert workshop.judging.bench(curlew).stored.number == len(statuses)
    with sqlite3.connect(workshop._path) as connection:
        assert connection.execute("PRAGMA integrity_check").fetchone() == ("ok",)


@pytest.mark.parametrize(
    ("languages", "preset"),
    [
        ("en-US,en;q=0.9", "US"),
        ("en-GB,en;q=0.9", "Metric, kPa and hp"),
        ("en-AU", "Metric, kPa and hp"),
        ("de-CH,de;q=0.8,en-US;q=0.5", "Metric, bar"),
        ("fr", "Metric, bar"),
        ("ja-JP", "Metric, kPa"),
        ("", "Metric, kPa"),
        ("*", "Metric, kPa"),
        ("\x00;;;q", "Metric, kPa"),
    ],
)
def test_units_of_a_first_visit_follow_the_browser(languages, preset):
    assert preset_of(languages) == preset


def test_what_was_chosen_outweighs_the_language(client):
    def shown(**headers):
        return re.search(r'Units <span class="muted">([^<]*)', client.get("/", headers=headers).text).group(1)

    assert shown(**{"accept-language": "en-US"}) == "psi · hp"
    client.post("/units", data={"preset": "Metric, bar"})
    assert shown(**{"accept-language": "en-US"}) == "bar · metric hp"
