"""Bodies within bounds: by address, by what they say, by what they send and how fast; lists, tables and cookies too."""

import asyncio
import json

import pytest
from fastapi.testclient import TestClient

from iron_gulp.formats import bounded, build_file
from iron_gulp.formats.build_file import BuildFileError
from iron_gulp.formats.parts_csv import PartsFileError, read_parts
from iron_gulp.web import bounds
from iron_gulp.web.app import create_app
from iron_gulp.web.bounds import FORM, limit_of
from iron_gulp.web.door import HEADERS, Door
from tests.systems import demo
from tests.web.conftest import in_a_loop

MB = 1_000_000


@pytest.mark.parametrize(
    ("address", "most"),
    [
        ("/builds/3/edit", 0.256),
        ("/new", 0.256),
        ("/enter", 0.004),
        ("/builds/import", 4.016),
        ("/builds/3/values/table", 2.016),
        ("/shelf/pumps/import", 2.016),
        ("/builds/3/evidence/files", 25.016),
        ("/nowhere", 0.256),
    ],
)
def test_every_address_has_its_limit_and_says_it(client, address, most):
    assert limit_of(address)[0] == most * MB
    answer = client.post(address, content=b"a" * (int(most * MB) + 1), headers={"content-type": "text/plain"})
    assert answer.status_code == 413
    assert "too large" in answer.text
    assert {name: answer.headers.get(name) for name in HEADERS} == HEADERS
    within = client.post(address, content=b"a" * int(min(most, 0.2) * MB), headers={"content-type": "text/plain"})
    assert within.status_code not in (413, 500)


def test_what_is_said_or_sent_too_large_is_refused_before_the_code_is_looked_at(workshop):
    client = TestClient(create_app(workshop, Door.of("192.168.7.7")), base_url="http://192.168.7.7")

    def pieces():
        for _ in range(400):
            yield b"a" * 100_000
            sent.append(1)

    sent = []
    assert client.post("/builds", content=b"", headers={"content-length": "400000000"}).status_code == 413
    assert client.post("/builds", content=pieces()).status_code == 413
    assert client.post("/builds", content=b"a").status_code == 401


async def through(app, pieces, headers=((b"transfer-encoding", b"chunked"),), path="/builds"):
    """Statuses answered to a body that comes in pieces, each after so many seconds."""
    came, answered = iter(pieces), []

    async def receive():
        wait, body, more = next(came)
        await asyncio.sleep(wait)
        return {"type": "http.request", "body": body, "more_body": more}

    async def send(message):
        if message["type"] == "http.response.start":
            answered.append(message["status"])

    scope = {"type": "http", "method": "POST", "path": path, "headers": list(headers), "query_string": b""}
    scope |= {"http_version": "1.1", "scheme": "http", "server": ("localhost", 80), "client": None, "root_path": ""}
    await app(scope, receive, send)
    return answered


def test_a_body_that_trickles_is_given_up_and_a_steady_one_is_read_whole(monkeypatch):
    monkeypatch.setattr(bounds, "PATIENCE_S", 0.3)
    monkeypatch.setattr(bounds, "SLOWEST_BYTES_S", 1000)
    read = []

    async def inner(scope, receive, send):
        whole = b""
        while True:
            message = await receive()
            whole += message["body"]
            if not message["more_body"]:
                break
        read.append(whole)
        await send({"type": "http.response.start", "status": 200, "headers": []})

    app = bounds.Bounds(inner)
    trickle = ((0.1, b"a", True) for _ in range(20))
    assert in_a_loop(through(app, trickle)) == [408]
    assert in_a_loop(through(app, [(9.0, b"", True)])) == [408]
    steady = [*((0.01, bytes([number]) * 700, True) for number in range(90)), (0.0, b"end", False)]
    assert in_a_loop(through(app, steady)) == [200]
    assert read == [b"".join(bytes([number]) * 700 for number in range(90)) + b"end"]
    assert in_a_loop(through(app, [(0.0, b"a" * 200_000, True), (0.0, b"a" * 200_000, True)])) == [413]
    assert in_a_loop(through(app, [(0.0, b"a" * FORM, False)])) == [200]


def built(**changes):
    data = json.loads(build_file.write(demo("curlew")))
    data.update(changes)
    return json.dumps(data)


@pytest.mark.parametrize(
    ("changes", "path", "words"),
    [
        ({"fills": [{}] * 40_000}, "fills", "at most 400 entries"),
        ({"fills": [{}] * 60_000}, "", "more entries than a build can have"),
        ({"fills": [1] * 500_000}, "", "more entries than a build can have"),
        ({"options": [{"pumps": [{"part": {"curves": [{}] * 6}}] * 4}] * 8}, "", "more problems"),
        ({"targets": [[]] * 40_000}, "targets", "at most 12 entries"),
        ({"options": [{"pumps": [{}] * 30_000}]}, "options/0/pumps", "at most 4 entries"),
        ({"name": [[[[]]]] * 10_000}, "name", "must not be a list"),
        ({"tables": [{"cells": [1] * 5000}]}, "tables/0/cells", "at most 4096 entries"),
        (
            {"tables": [{"id": f"m{n}", "cells": ["x"] * 4096} for n in range(24)]},
            "tables/23/cells",
            "4096 entries that are no numbers",
        ),
        ({f"key{n}": {} for n in range(30_000)}, "", "at most 200 fields"),
        ({"car": {f"key{n}": {} for n in range(30_000)}}, "car", "at most 200 fields"),
    ],
)
def test_lists_are_counted_before_anything_is_made_of_them(changes, path, words, monkeypatch):
    with pytest.raises(BuildFileError) as caught:
        build_file.read(built(**changes))
    problems = caught.value.problems
    assert any(one.path == path and words in one.message for one in problems), problems[:3]
    assert len(problems) <= bounded.MOST_TOLD + 1


def test_what_is_nested_is_refused_and_every_sane_file_is_not():
    deep = "[" * 3000 + "]" * 3000
    within = built().replace('"notes"', f'"notes2": {deep}, "notes"', 1)
    for text in (within, f'{{"schema_version": 2, "name": {deep}}}'):
        with pytest.raises(BuildFileError):
            build_file.read(text)
    for name in ("curlew", "saltern", "dunlin", "fieldfare"):
        assert bounded.too_long(json.loads(build_file.write(demo(name)))) == []


def test_every_list_of_the_schema_says_how_long_it_may_be():
    def without(value, path=""):
        if isinstance(value, dict):
            if value.get("type") == "array" and "maxItems" not in value:
                yield path
            for name, each in value.items():
                yield from without(each, f"{path}/{name}")
        elif isinstance(value, list):
            for each in value:
                yield from without(each, path)

    assert list(without(build_file.schema())) == []


def test_rows_are_counted_while_they_are_read():
    line = "x" * 5 + "," + "1" * 3 + "\n"
    with pytest.raises(PartsFileError) as caught:
        read_parts("pumps", ("name,voltage_v\n" + line * 60_000).encode())
    assert "at most 2000 parts" in caught.value.problems[0].message
    with pytest.raises(PartsFileError) as caught:
        read_parts("pumps", ("name,voltage_v\n" + line * 1_900).encode())
    assert len(caught.value.problems) <= 101
    assert "put these right first" in caught.value.problems[-1].message


@pytest.mark.parametrize(
    "cookie",
    ["[" * 900, '{"a":' * 300, "{" * 5000, "[1]", "null", "\x7f", '{"pressure": {"deep": []}}', "%5B" * 900, "9" * 4000],
)
def test_no_cookie_breaks_a_page(client, cookie):
    answer = client.get("/", headers={"cookie": f"iron_gulp_units={cookie}"})
    assert answer.status_code == 200
