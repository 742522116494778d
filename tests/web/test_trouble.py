"""Trouble in words: a full disk, a locked or damaged database, a build that cannot be read, too much at once, a fault."""

import errno
import sqlite3
import time
from contextlib import closing

import pytest
from fastapi.testclient import TestClient
from sqlalchemy.exc import DatabaseError

from iron_gulp.services.jobs import MOST_WAITING, Busy
from iron_gulp.storage.archive import verify
from iron_gulp.storage.attachments import folder_beside
from iron_gulp.web.app import create_app


def edited(client, build, value="6711"):
    form = {"page": "ask", "option": "", "target": "", "base": "1", "path": "targets/hill/rpm", "value": value}
    return client.post(f"/builds/{build}/edit", data=form)


@pytest.mark.parametrize(
    ("error", "status", "words"),
    [
        (OSError(errno.ENOSPC, "No space left on device"), 507, "the disk is full"),
        (OSError(errno.EACCES, "Permission denied"), 503, "Permission denied"),
        (sqlite3.OperationalError("database or disk is full"), 507, "the disk is full"),
        (DatabaseError("x", {}, sqlite3.DatabaseError("database disk image is malformed")), 503, "damaged"),
        (DatabaseError("x", {}, sqlite3.OperationalError("attempt to write a readonly database")), 503, "read-only"),
        (DatabaseError("x", {}, sqlite3.OperationalError("database is locked")), 503, "another program"),
        (DatabaseError("x", {}, sqlite3.OperationalError("unable to open database file")), 503, "cannot be opened"),
        (Busy("too much is under way already"), 503, "Too much is under way"),
        (RuntimeError("anything at all"), 500, "A fault of Iron Gulp itself"),
    ],
)
def test_trouble_is_told_in_words_with_its_status(workshop, monkeypatch, curlew, error, status, words):
    def broken(*_given, **_told):
        raise error

    monkeypatch.setattr(workshop.edits, "edit", broken)
    client = TestClient(create_app(workshop), base_url="http://localhost", raise_server_exceptions=False)
    answer = edited(client, curlew)
    assert answer.status_code == status
    assert words in answer.text
    assert "Traceback" not in answer.text
    assert "anything at all" not in answer.text


def test_a_build_that_cannot_be_read_shows_which_revision_was_whole_and_offers_it(client, workshop, curlew):
    assert edited(client, curlew, "6710").status_code == 200
    before = workshop.judging.bench(curlew)
    for torn in ("body = 'neither { nor', difference = NULL, base_number = NULL", "difference = x'00112233'"):
        number = workshop.judging.bench(curlew).stored.number
        with closing(sqlite3.connect(workshop._path)) as connection:
            connection.execute(f"UPDATE revision SET {torn} WHERE build_id = ? AND number = ?", (curlew, number))
            connection.commit()
        for page in ("ask", "injectors", "revisions", "export", "solution.json", "ask"):
            if page in ("revisions", "export"):
                continue  # hands over what is stored
            answer = client.get(f"/builds/{curlew}/{page}")
            assert answer.status_code == 409, page
            assert "Revision 1 is the last that is whole" in answer.text
        assert client.get("/").status_code == 200
        assert edited(client, curlew).status_code == 409
        restored = client.post(f"/builds/{curlew}/restore-whole", data={"number": "1"})
        assert restored.status_code == 200
        assert workshop.judging.bench(curlew).stored.number == number + 1
    assert workshop.judging.bench(curlew).build.name == before.build.name


def test_a_build_of_which_nothing_can_be_read_says_so(client, workshop, curlew):
    with closing(sqlite3.connect(workshop._path)) as connection:
        connection.execute("UPDATE revision SET body = '', difference = NULL WHERE build_id = ?", (curlew,))
        connection.commit()
    answer = client.get(f"/builds/{curlew}/ask")
    assert answer.status_code == 409
    assert "None of its revisions can be read" in answer.text


def test_the_page_hands_over_the_whole_garage(client, workshop, tmp_path):
    bench = workshop.judging.bench(workshop.garage.page("curlew").rows[0].id)
    assert workshop.evidence.attach(bench.stored.id, bench.stored.number, b"a;b\n1;2\n", "log.csv", "").ok
    answer = client.post("/backup")
    assert answer.headers["content-disposition"].endswith('.irongulp.zip"')
    (tmp_path / "got.zip").write_bytes(answer.content)
    found = verify(tmp_path / "got.zip", tmp_path / "look")
    assert found.files == len(list(folder_beside(workshop._path).glob("*/*.txt"))) == 1


def test_a_file_whose_edit_is_refused_is_not_kept(client, workshop, curlew):
    form = {"page": "evidence", "option": "", "target": "", "base": "1"}
    for status in (200, 422):  # the very same file a second time
        answer = client.post(f"/builds/{curlew}/evidence/files", data=form, files={"file": ("a.csv", b"1;2\n")})
        assert answer.status_code == status
    assert len(list(folder_beside(workshop._path).rglob("*.txt"))) == 1
    gone = client.post(
        f"/builds/{curlew}/evidence/files", data={**form, "base": "99999"}, files={"file": ("b.csv", b"3;4\n")}
    )
    assert gone.status_code in (404, 422)
    assert len(list(folder_beside(workshop._path).rglob("*.txt"))) == 1


def test_nothing_is_begun_by_looking(client, workshop, curlew):
    """Every address that is only looked at, asked for once: no job comes of it."""
    workshop.rejudging.wait()
    paths = client.app.openapi()["paths"]
    bench = workshop.judging.bench(curlew, "one-large")
    known = {
        "build_id": curlew,
        "page_key": "design",
        "code": "regulator-overrun",
        "key": "injector.duty_pct",
        "number": 1,
    }
    looked = 0
    for path, methods in sorted(paths.items()):
        if "get" not in methods:
            continue
        address = path
        for name, value in known.items():
            address = address.replace(f"{{{name}}}", str(value))
        if "{" in address or "chance" in address or "ceilings" in address or "envelope" in address or "/road/" in address:
            continue
        client.get(address, params={"option": bench.option.id})
        looked += 1
    assert looked > 20
    time.sleep(0.05)
    assert list(workshop.jobs._known) == []


def test_what_waits_says_so_and_is_stopped_from_its_page(client, workshop, curlew):
    for lane in ("sizing", "cures", "searches"):
        workshop.jobs.ask(lane, f"before {lane}", lambda task: task.stop.wait(30) and None)
    here = {"page": "ask", "option": "one-large", "target": "", "base": str(workshop.judging.bench(curlew).stored.number)}
    url = f"/builds/{curlew}"
    assert "waits: 1 other before it" in client.post(f"{url}/size", data=here).text
    assert "sizing was stopped" in client.post(f"{url}/size/stop").text
    assert "waits: 1 other before it" in client.post(f"{url}/cures/regulator-overrun/search", data=here).text
    stopped = client.post(f"{url}/cures/regulator-overrun/stop", data=here).text
    assert "Searching" not in stopped
    assert "broke off" not in stopped
    assert "No change of one or two kinds" not in stopped  # nobody has looked
    assert "Search again" in stopped
    assert "waits: 1 other before it" in client.post(f"{url}/cures/regulator-overrun/search", data=here).text
    client.post(f"{url}/design/start", data=here)
    assert "It waits: 1 other before it" in client.get(f"{url}/design/state?option=one-large").text
    stopped = client.post(f"{url}/design/stop", data=here).text
    assert "hx-trigger" not in stopped
    assert "failed" not in stopped
    assert "No system carries" not in stopped  # nor here
    assert "all of them" not in stopped
    assert "not every system was tried" in stopped
    before = workshop.garage.page().total
    waits = client.post("/new", data={"power_kw": "100", "name": "Stopped", "form": "a-form-of-a-test"})
    assert "waits: 1 other before it" in waits.text
    asked = client.post("/new/a-form-of-a-test/stop?name=Stopped&power_kw=100")
    assert asked.status_code == 422
    assert "sizing was stopped" in asked.text
    assert 'value="Stopped"' in asked.text
    assert workshop.garage.page().total == before


def test_more_than_can_wait_is_sent_away_in_words(client, workshop, curlew):
    for number in range(MOST_WAITING + 1):
        job = workshop.jobs.ask("sizing", number, lambda task: task.stop.wait(30) and None)
        while not number and job.ahead:
            pass
    number = workshop.judging.bench(curlew).stored.number
    form = {"page": "ask", "option": "", "target": "", "base": str(number)}
    for answer in (client.post(f"/builds/{curlew}/size", data=form), client.post("/new", data={"power_kw": "100"})):
        assert answer.status_code == 503
        assert "Too much is under way already" in answer.text
