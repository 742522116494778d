"""Requests no browser makes: every address with nonsense for every parameter. Nothing breaks, nothing gets in or lost."""

import json
import random
import re

import httpx
import pytest
from fastapi.testclient import TestClient

from iron_gulp.web.app import create_app
from iron_gulp.web.door import Door
from tests.draws import LONG

NASTY = [
    "",
    " ",
    "0",
    "-1",
    "1e999",
    "NaN",
    "9" * 400,
    "1" * 20,
    "<script>alert(1)</script>",
    "' OR 1=1 --",
    "../../../../etc/passwd",
    "..%2f..%2fetc%2fpasswd",
    "%00",
    "\x00",
    "\ud800",
    "💧" * 50,
    "a" * 5000,
    "{{7*7}}",
    "${7*7}",
    "=1+1",
    "options/as-built/pumps/g1",
    "options/as-built/pumps/0/part",
    "targets/hill/__class__",
    "__proto__",
    "null",
    "true",
    "[]",
    "{}",
    "1/0 in",
    "E85",
    "-0",
    "\r\nSet-Cookie: a=b",
    "hill",
    "as-built",
    "1",
    "2",
    "3",
]
FIELDS = (
    *("base", "page", "option", "target", "path", "value", "kind", "what", "like", "finding", "code", "index", "number"),
    *("q", "sort", "archived", "at", "preset", "pressure", "name", "claim", "pressure_kpa-0", "seconds_s-0", "rpm"),
    *("axis", "rising", "blend", "ethanol", "power"),
)
BODIES = [
    *(b"", b"{", b"[]", b"\xff\xfe\x00", b"a" * 3_000_000),
    *(b'{"schema_version": 2}', b'{"schema_version": 1, "duties": 3}'),
]


def addresses(app):
    paths = app.openapi()["paths"]
    return [(method.upper(), path) for path, methods in sorted(paths.items()) for method in sorted(methods)]


@pytest.mark.parametrize("seed", range(8 if LONG else 1))
def test_nothing_that_is_sent_breaks_anything(client, workshop, curlew, seed):
    pick = random.Random(seed)
    every = addresses(client.app)
    assert len(every) > 25
    before = workshop.judging.bench(curlew).build
    refusing, count = 0, 250 if LONG else 55
    for _ in range(count):
        method, path = pick.choice(every)

        def filled(match):
            number = match.group(1) in ("build_id", "number")
            chosen = str(pick.choice([1, 2, 3, 3, 99])) if number and pick.random() < 0.7 else pick.choice(NASTY)
            return chosen.encode("utf-8", "replace").decode().replace("/", "%2F").replace("?", "%3F").replace("#", "%23")

        address = re.sub(r"\{(\w+)(?::\w+)?\}", filled, path)
        sent = {
            one: pick.choice(NASTY).encode("utf-8", "replace").decode() for one in pick.sample(FIELDS, pick.randint(0, 8))
        }
        try:
            if method == "GET":
                answer = client.request("GET", address, params=sent, follow_redirects=False)
            elif pick.random() < 0.25:
                kind = pick.choice(["application/json", "multipart/form-data; boundary=x", "text/plain", ""])
                answer = client.request(method, address, content=pick.choice(BODIES), headers={"content-type": kind})
            elif pick.random() < 0.3:
                files = {"file": (pick.choice(NASTY).encode("utf-8", "replace").decode() or "f", pick.choice(BODIES))}
                answer = client.request(method, address, data=sent, files=files, follow_redirects=False)
            else:
                answer = client.request(method, address, data=sent, follow_redirects=False)
        except (httpx.InvalidURL, UnicodeError):
            continue  # the client itself does not send it
        assert answer.status_code < 500, (method, address, sent)
        refusing += answer.status_code >= 400
        assert "<script>alert(1)</script>" not in answer.text
        assert "root:" not in answer.text
        assert "Traceback" not in answer.text
    assert refusing > 0.4 * count
    assert client.get("/").status_code == 200
    workshop.garage.restore(curlew, 1)
    assert workshop.judging.bench(curlew).build == before


def whole_numbers(app):
    """Every whole number an operation takes: (method, path, name, its schema)."""
    described = app.openapi()
    for path, methods in described["paths"].items():
        for method, operation in methods.items():
            asked = [(one["name"], one["schema"]) for one in operation.get("parameters", ())]
            for content in operation.get("requestBody", {}).get("content", {}).values():
                body = described["components"]["schemas"][content["schema"]["$ref"].rsplit("/", 1)[1]]
                asked += body.get("properties", {}).items()
            for name, schema in asked:
                for one in (schema, *schema.get("anyOf", ())):
                    if one.get("type") == "integer":
                        yield method, path, name, one


def test_no_whole_number_is_taken_that_the_database_cannot_hold(client):
    every = list(whole_numbers(client.app))
    assert len(every) > 20
    assert [one[:3] for one in every if "maximum" not in one[3] or "minimum" not in one[3]] == []
    assert client.get("/find", params={"q": "rail", "build": "-180555132433522895689351168"}).status_code == 404


HEADERS = (
    "cookie",
    "accept-language",
    "host",
    "origin",
    "referer",
    "hx-target",
    "hx-request",
    "content-type",
    "range",
    "x-forwarded-for",
)
UNITS = ("pressure", "flow", "power", "mass", "wire", "preset", "length", "temperature", "nothing")
LIGHT = (
    "/",
    "/find",
    "/glossary",
    "/new",
    "/units",
    "/alive",
    "/shelf/pumps",
    "/shelf/hoses",
    "/rates",
    "/builds/{}",
    "/builds/{}/export",
)
EDITED = (
    "/builds/{}/edit",
    "/builds/{}/undo",
    "/builds/{}/remove",
    "/builds/{}/part",
    "/builds/{}/restore",
    "/builds/{}/remedy",
    "/enter",
)


def nasty_text(pick):
    """Nonsense as it can be sent: picked, cut, put together or made of bytes."""
    kind = pick.random()
    if kind < 0.5:
        return pick.choice(NASTY).encode("utf-8", "replace").decode()
    if kind < 0.7:
        return "".join(pick.choice(NASTY)[:40].encode("utf-8", "replace").decode() for _ in range(3))
    if kind < 0.85:
        return "".join(
            chr(pick.choice((pick.randrange(1, 128), pick.randrange(160, 0xD7FF)))) for _ in range(pick.randrange(60))
        )
    return pick.choice(
        (
            "1e308 psi",
            "-1e-400 bar",
            "1/0 in",
            "٣٫٥ bar",
            "0x10",
            "1_000",
            "∞",
            "12 furlongs",
            "dash 999",
            "E-5",
            "11.5 AFR AFR",
        )
    )


@pytest.mark.parametrize("part", range(8 if LONG else 1))
def test_headers_cookies_paths_numbers_and_units_break_nothing(client, workshop, part):
    pick = random.Random(1000 + part)
    client.follow_redirects = False
    refusing = largest = 0
    count = 1000 if LONG else 450
    for number in range(count):
        headers = {
            name: nasty_text(pick)[:400].encode("utf-8", "replace") for name in pick.sample(HEADERS, pick.randint(0, 3))
        }
        headers = {
            name: value.replace(b"\r", b"").replace(b"\n", b"").replace(b"\x00", b"") for name, value in headers.items()
        }
        if number % 3 == 0:
            units = {pick.choice(UNITS): nasty_text(pick) for _ in range(3)}
            headers["cookie"] = ("iron_gulp_units=" + re.sub(r"[;\r\n]", "", json.dumps(units))).encode()
        build = pick.choice(["3", "2", "999", "0", "-1", "9" * 30, "3.0", "%00", "..", "3;4"])
        try:
            if pick.random() < 0.5:
                address = pick.choice(LIGHT).format(build)
                asked = {pick.choice(FIELDS): nasty_text(pick) for _ in range(pick.randint(0, 3))}
                answer = client.get(address, params=asked, headers=headers)
            else:
                address = pick.choice((*EDITED, "/units", "/shelf/pumps/add", "/rates", "/new")).format(build)
                sent = {name: nasty_text(pick) for name in pick.sample(FIELDS, pick.randint(1, 6))}
                sent |= {"base": "1"} if pick.random() < 0.6 else {}
                answer = client.post(address, data=sent, headers=headers)
        except (httpx.InvalidURL, UnicodeError, ValueError):
            continue  # the client itself does not send it
        assert answer.status_code < 500, (address, headers)
        assert not headers.get("host") or answer.status_code >= 400, headers  # no other name is answered to
        refusing += answer.status_code >= 400
        assert b"<script>alert" not in answer.content
        if not address.endswith("/export"):
            largest = max(largest, len(answer.content))
    assert refusing > 0.3 * count
    assert largest < 1_000_000
    client.follow_redirects = True
    assert client.get("/", headers={"host": "localhost"}).status_code == 200


def test_nobody_is_let_in_without_the_code(workshop, monkeypatch):
    monkeypatch.setattr("iron_gulp.web.door.PATIENCE_S", 0.0)
    door, pick = Door.of("192.168.7.7"), random.Random(3)
    app = create_app(workshop, door)
    stranger = TestClient(app, base_url="http://192.168.7.7", follow_redirects=False)
    every = addresses(app)
    for _ in range(1500 if LONG else 60):
        method, path = pick.choice(every)
        address = re.sub(r"\{\w+\}", "3", path)
        guess = re.sub(r"[^\x21-\x7e]", "", nasty_text(pick))[:80].replace(";", "").replace(",", "")
        cookie = pick.choice((guess, "", door.code[:-1], door.code.upper() + "x", f"{door.code} or 1=1"))
        headers = {"cookie": f"iron_gulp_code={cookie}; iron_gulp_units={guess}", "authorization": guess or "x"}
        answer = stranger.request(method, address, headers=headers, params={"code": door.code[:5]})
        assert answer.status_code in (401, 403, 413, 429), (method, address)
        assert "Curlew" not in answer.text
        assert door.code not in answer.text
        assert door.code not in str(answer.headers)
