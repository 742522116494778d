"""Cars entered through the interface from a customer's sentence alone: putting everything right once ends each sane."""

import re

import pytest

from iron_gulp.core.model import Build
from tests.customers import CUSTOMERS
from tests.garage import troubles
from tests.web.parsing import parsed


def test_six_customers_each_with_a_sentence():
    assert len(CUSTOMERS) >= 6
    assert all(len(one["sentence"]) > 30 for one in CUSTOMERS.values())


@pytest.mark.parametrize("name", CUSTOMERS)
def test_what_is_typed_stands_in_the_sentence(name):
    words = CUSTOMERS[name]["sentence"].lower()
    spelt = {"1": "one", "2": "two", "3": "three", "5": "five", "8": "v8", "4": "four", "6": "six", "0": "no boost"}
    for path, text in CUSTOMERS[name]["types"]:
        if path in ("add", "remove"):
            continue
        number = re.match(r"[\d.]+", text)
        plain = f"{float(number.group()):g}" if number else ""
        said = text.lower() in words or (number and (plain in words or spelt.get(plain, "–") in words))
        meant = {"naturally aspirated": "no boost", "returnless, speed-controlled": "returnless", "FWD": "front-wheel"}
        implied = meant.get(text, "–") in words or path in ("engine/max_rpm", "engine/cylinders")
        assert said or implied, (path, text)


@pytest.mark.parametrize("name", CUSTOMERS)
def test_everything_put_right_once_ends_sane(client, workshop, name):
    number = int(re.search(r"/builds/(\d+)/", str(client.post("/builds").url)).group(1))

    def post(action, **form):
        base = workshop.judging.bench(number).stored.number
        where = {"base": base, "page": "ask", "option": "o1", "target": ""}
        answer = client.post(f"/builds/{number}/{action}", data={**where, **form})
        assert answer.status_code == 200, (form, answer.text[:400])

    def now() -> Build:
        return workshop.judging.bench(number).build

    for path, text in CUSTOMERS[name]["types"]:
        if path == "add":
            post("add", what=text)
        elif path == "remove":
            post("remove", path=text)
        else:
            post("edit", path=path, value=text)
    if troubles(now()):
        listed = parsed(client.get(f"/builds/{number}/ask/put-right?option=o1").text)
        assert listed.select(".put-right-steps li")
        assert not listed.select(".put-right-left li")
        post("put-right")
    assert [(one.severity, one.code, dict(one.values)) for one in troubles(now())] == []
    assert now().targets[0].power_kw > 100
