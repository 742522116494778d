"""Requests no browser makes: every address with nonsense for every parameter. Nothing breaks, nothing gets in or lost."""

import random
import re

import httpx
import pytest

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
