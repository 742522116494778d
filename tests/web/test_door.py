"""Who is let in: hosts, origins, the access code, and headers on every answer."""

import asyncio

import httpx
import pytest
from fastapi.testclient import TestClient

from iron_gulp.web import door as door_module
from iron_gulp.web.app import create_app
from iron_gulp.web.door import COOKIE, HEADERS, Door, new_code, on_loopback
from tests.web.conftest import in_a_loop

OWN = "http://localhost"
FIREFOX = "Mozilla/5.0 (X11) Gecko"


def change(client, **headers):
    return client.post("/units", data={"preset": "US"}, headers=headers, follow_redirects=False).status_code


@pytest.mark.parametrize(
    ("headers", "let_in"),
    [
        ({}, True),  # no browser
        ({"origin": OWN}, True),
        ({"origin": OWN, "sec-fetch-site": "same-origin"}, True),
        ({"sec-fetch-site": "none"}, True),
        ({"origin": "http://elsewhere.example"}, False),
        ({"origin": "null"}, False),
        ({"origin": "http://["}, False),
        ({"origin": ""}, False),
        ({"origin": "javascript://localhost"}, False),
        ({"origin": OWN, "sec-fetch-site": "cross-site"}, False),
        ({"origin": "http://elsewhere.example", "sec-fetch-site": "same-origin"}, False),
        ({"sec-fetch-site": "same-site"}, False),
        ({"user-agent": FIREFOX}, False),
        ({"user-agent": FIREFOX, "origin": OWN}, True),
    ],
)
def test_changes_from_other_sites_are_refused(client, headers, let_in):
    assert (change(client, **headers) != 403) is let_in


@pytest.mark.parametrize(
    ("host", "let_in"),
    [
        ("127.0.0.1:8472", True),
        ("localhost", True),
        ("[::1]:8472", True),
        ("LOCALHOST:1", True),
        ("evil.example", False),
        ("127.0.0.1.evil.example", False),
        ("", False),
        ("localhost:8472:9", False),
        ("[::1", False),
    ],
)
def test_only_names_that_are_served_are_answered_to(client, host, let_in):
    answer = client.get("/", headers={"host": host})
    assert (answer.status_code == 200) is let_in
    assert let_in or answer.status_code in (400, 421)


@pytest.mark.parametrize("path", ["/", "/nowhere", "/static/css/bench.css", "/builds/999/ask"])
def test_headers_stand_on_every_answer(client, path):
    for answer in (client.get(path), client.post(path, headers={"origin": "http://elsewhere.example"})):
        assert {name: answer.headers.get(name) for name in HEADERS} == HEADERS


def test_off_loopback_a_code_is_asked_for(workshop):
    door = Door.of("192.168.7.7")
    client = TestClient(create_app(workshop, door), base_url="http://192.168.7.7", follow_redirects=True)
    for path in ("/", "/builds/1/ask", "/builds/1/export"):
        answer = client.get(path)
        assert answer.status_code == 401
        assert "Curlew" not in answer.text
    assert client.post("/builds", headers={"origin": "http://192.168.7.7"}).status_code == 401
    wrong = client.post("/enter", data={"code": "aaaa-bbbb-cccc"})
    assert wrong.status_code == 401
    assert "That is not the code" in wrong.text
    assert "Curlew" in client.post("/enter", data={"code": f" {door.code.upper()} "}).text
    assert client.get("/builds/1/ask").status_code == 200


def test_codes_differ_and_loopback_asks_for_none():
    assert len({new_code() for _ in range(50)}) == 50
    assert Door.of("127.0.0.1").code == Door.of("localhost").code == ""
    assert Door.of("0.0.0.0").hosts is None
    assert "bench.local" in Door.of("0.0.0.0", ("bench.local",)).hosts
    assert on_loopback("::1")
    assert not on_loopback("example.org")


def test_wrong_codes_are_logged_and_slowed_and_the_right_one_never_waits(workshop, monkeypatch, caplog):
    monkeypatch.setattr(door_module, "PATIENCE_S", 0.8)
    door = Door.of("192.168.7.7")
    app = create_app(workshop, door)
    calm = httpx.ASGITransport(app=app)

    async def all_at_once():
        async with httpx.AsyncClient(transport=calm, base_url="http://192.168.7.7") as sender:
            wrong = [asyncio.create_task(sender.post("/enter", data={"code": f"wrong-{n}"})) for n in range(30)]
            by_cookie = asyncio.create_task(sender.get("/", headers={"cookie": f"{COOKIE}=guess"}))
            while sum(one.done() for one in (*wrong, by_cookie)) < 31 - door_module.MOST_WAITING:
                await asyncio.sleep(0.01)
            right = await sender.get("/", headers={"cookie": f"{COOKIE}={door.code}"})
            waiting = [one for one in (*wrong, by_cookie) if not one.done()]
            for one in waiting[1:]:
                one.cancel()
            answered = await asyncio.gather(*wrong, by_cookie, return_exceptions=True)
            return right, len(waiting), answered

    right, waiting, answered = in_a_loop(all_at_once())
    assert right.status_code == 200
    assert waiting == door_module.MOST_WAITING  # the rest was sent away at once
    assert {one.status_code for one in answered if not isinstance(one, BaseException)} == {401, 429}
    assert len([one for one in caplog.records if "wrong access code" in one.message]) == 31


def test_a_code_of_an_earlier_start_is_taken_off_the_browser(workshop):
    client = TestClient(create_app(workshop, Door.of("192.168.7.7")), base_url="http://192.168.7.7")
    answer = client.get("/", headers={"cookie": f"{COOKIE}=of-an-earlier-start"})
    assert answer.status_code == 401
    assert f'{COOKIE}=""' in answer.headers["set-cookie"]


def test_no_name_of_tests_is_answered_to(client):
    assert client.get("/", headers={"host": "testserver"}).status_code == 421
