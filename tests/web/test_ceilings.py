"""The page of ceilings: its picture, tables and files say the same, and a target moves in it."""

import csv
import io
import json
from xml.etree import ElementTree

import pytest

from iron_gulp.services.ceilings import Ceilings
from tests.draws import LONG
from tests.web.parsing import parsed


def rows_of(text):
    return list(csv.DictReader(io.StringIO(text)))


def soup(answer, status=200):
    assert answer.status_code == status, answer.text[:300]
    return parsed(answer.text)


def test_every_build_and_way_has_its_picture_table_and_files(reader, reading):
    rows = reading.garage.page().rows
    for row in rows if LONG else rows[::3]:
        page = soup(reader.get(f"/builds/{row.id}/ceilings"))
        bench = reading.judging.bench(row.id)
        assert bool(page.select("#permitted")) == (bench.build.engine.induction != "naturally aspirated")
        for axis in ("ethanol_pct", "rpm", "base_kpa"):
            piece = soup(reader.get(f"/builds/{row.id}/ceilings/envelope?axis={axis}"))
            assert piece.select_one("svg.envelope .s-edge")
            assert len(piece.select(".own-row")) == 1
            handles = piece.select(".handle")
            assert len(handles) == (len(bench.build.targets) if axis == "ethanol_pct" else 0)
            found = Ceilings.envelope(bench, axis)
            told = rows_of(reader.get(f"/builds/{row.id}/ceilings/envelope.csv?axis={axis}").text)
            assert [float(one[axis]) for one in told] == pytest.approx(list(found.at), rel=1e-5)
            assert [float(one["limit_kw"] or "inf") for one in told] == pytest.approx(list(found.limit_kw), rel=1e-5)
            assert [one["limiting"] for one in told] == [one or "" for one in found.limiting]
            svg = ElementTree.fromstring(reader.get(f"/builds/{row.id}/ceilings/envelope.svg?axis={axis}").text)
            assert svg.tag.endswith("svg")
        assert soup(reader.get(f"/builds/{row.id}/ceilings/fuels")).select(".fuel-bar")


def test_the_own_row_of_the_table_says_what_the_verdict_says(reader, reading):
    row = next(one for one in reading.garage.page().rows if one.name == "Curlew")
    bench = reading.judging.bench(row.id)
    own = soup(reader.get(f"/builds/{row.id}/ceilings/envelope")).select_one(".own-row")
    limit = bench.verdict.power_limit
    assert f"{limit.ceiling_kw:.0f}" in own.text
    assert limit.title.lower() in own.text


def test_boost_permitted_is_the_same_on_the_page_and_in_the_file(reader, reading):
    row = next(one for one in reading.garage.page().rows if one.name == "Curlew")
    page = soup(reader.get(f"/builds/{row.id}/ceilings/permitted"))
    told = rows_of(reader.get(f"/builds/{row.id}/ceilings/permitted.csv").text)
    shown = [one.select("td")[1].text for one in page.select("tbody tr")]
    assert [f"{float(one['boost_kpa']):.0f}\u00a0kPa" for one in told] == shown
    assert len(told) == 11


def test_a_blend_that_no_target_speaks_for_offers_a_target_there(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    strong = bench.build.model_copy(update={"targets": bench.build.targets[1:]})  # E70 and up
    build_id = workshop.garage.add(strong, "stronger blends alone")
    page = soup(client.get(f"/builds/{build_id}/ceilings/permitted"))
    rows = page.select("tbody tr")
    assert "no target says" in rows[0].text
    assert "none" not in rows[7].text
    assert "step up to it with a log" in page.select_one(".caution").text
    button = rows[3].select_one("button")
    assert button["hx-post"].endswith("/ceilings/target-on")
    told = rows_of(client.get(f"/builds/{build_id}/ceilings/permitted.csv").text)
    assert told[0]["limited_by"] == "no target"
    assert all("log" in one["caution"] for one in told)
    beyond = soup(client.get(f"/builds/{build_id}/ceilings/permitted", params={"beyond": "true"}))
    assert "no target says" not in beyond.text
    bench = workshop.judging.bench(build_id)
    form = {"base": bench.stored.number, "page": "ceilings", "option": bench.option.id, "target": bench.verdict.target.id}
    soup(client.post(f"/builds/{build_id}/ceilings/target-on", data={**form, **json.loads(button["hx-vals"])}))
    after = workshop.judging.bench(build_id).build
    assert [one.ethanol_pct for one in after.targets] == [70.0, 85.0, 30.0]
    assert after.targets[-1].boost_kpa == strong.targets[0].boost_kpa
    again = soup(client.get(f"/builds/{build_id}/ceilings/permitted")).select("tbody tr")
    assert "no target says" not in again[2].text
    for target in ("", "gone"):
        refused = {**form, "base": bench.stored.number + 1, "target": target, "ethanol": "20"}
        assert client.post(f"/builds/{build_id}/ceilings/target-on", data=refused).status_code == 404
    assert len(workshop.judging.bench(build_id).build.targets) == 3


def test_one_press_counts_alcohol_by_the_other_school_in_the_garage_and_beside_options(client, workshop, curlew):
    def shown():
        row = next(one for one in soup(client.get("/")).select("tbody tr") if f"/builds/{curlew}/" in str(one))
        return row.select_one(".alcohol-school")

    assert "typed credit, 0 to 6 %" in shown().text
    number = workshop.judging.bench(curlew).stored.number
    form = {one["name"]: one["value"] for one in shown().select("input")}
    client.post(shown()["action"], data=form)
    assert "alcohol: as run" in shown().text
    bench = workshop.judging.bench(curlew)
    assert bench.stored.number == number + 1
    assert {one.alcohol for one in bench.build.targets} == {"as run"}
    assert [one.efficiency_credit_pct for one in bench.build.targets] == [0.0, 5.0, 6.0]  # what was typed stays typed
    compared = soup(client.get(f"/builds/{curlew}/compare"))
    press = next(one for one in compared.select("button") if "equal mixture" in one.text)
    where = {"base": bench.stored.number, "page": "compare", "option": bench.option.id, "target": bench.verdict.target.id}
    page = soup(client.post(press["hx-post"], data={**where, **json.loads(press["hx-vals"])}))
    assert "equal mixture" in page.select_one(".results.compare strong").text
    assert {one.alcohol for one in workshop.judging.bench(curlew).build.targets} == {"equal mixture"}


def test_a_target_on_its_way_is_judged_and_stored_only_when_dropped(client, workshop, curlew):
    before = workshop.judging.bench(curlew)
    target = before.build.targets[0]
    asked = {"option": before.option.id, "at": target.id, "ethanol": 40, "power": 260}
    page = soup(client.get(f"/builds/{curlew}/ceilings/moved", params=asked))
    assert "E40" in page.select_one("[data-piece=path]").text
    says = page.select_one("[data-piece=says]").text
    assert "260" in says
    assert workshop.judging.bench(curlew).stored.number == before.stored.number
    form = {"base": before.stored.number, "page": "ceilings", "option": before.option.id, "target": target.id}
    soup(client.post(f"/builds/{curlew}/ceilings/move", data={**form, "at": target.id, "ethanol": "40", "power": "260"}))
    after = workshop.judging.bench(curlew, before.option.id, target.id)
    assert (after.verdict.target.ethanol_pct, after.verdict.target.power_kw) == (40, 260)
    assert after.verdict.first_out.title.lower() in says
    assert f"{after.verdict.first_out.load * 100:.0f}" in says


@pytest.mark.parametrize(
    "asked",
    [
        {"ethanol": 120, "power": 200},
        {"ethanol": -1, "power": 200},
        {"ethanol": "nan", "power": 200},
        {"ethanol": 10, "power": 0},
        {"ethanol": 10, "power": "inf"},
        {"ethanol": 10, "power": "<b>"},
        {"ethanol": 10},
    ],
)
def test_places_that_are_none_are_refused(reader, asked):
    assert reader.get("/builds/1/ceilings/moved", params=asked).status_code in (404, 422)


@pytest.mark.parametrize(("ethanol", "power", "status"), [("x", "200", 400), ("120", "200", 422), ("10", "-5", 422)])
def test_a_drop_outside_is_refused_and_changes_nothing(client, workshop, curlew, ethanol, power, status):
    before = workshop.judging.bench(curlew)
    target = before.build.targets[0].id
    form = {"base": before.stored.number, "page": "ceilings", "option": before.option.id, "target": target}
    answer = client.post(
        f"/builds/{curlew}/ceilings/move", data={**form, "at": target, "ethanol": ethanol, "power": power}
    )
    assert answer.status_code == status
    assert workshop.judging.bench(curlew).stored.number == before.stored.number


def test_an_unknown_axis_or_build_is_not_there(reader):
    assert reader.get("/builds/1/ceilings/envelope?axis=price").status_code == 404
    assert reader.get("/builds/999/ceilings/envelope").status_code == 404


def test_the_controllers_table_is_entered_and_checked(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    form = {"page": "ceilings", "option": bench.option.id, "target": bench.verdict.target.id}

    def base():
        return workshop.judging.bench(curlew).stored.number

    for _ in range(2):
        soup(client.post(f"/builds/{curlew}/add", data={**form, "base": base(), "what": "boost_told"}))
    rows = workshop.judging.bench(curlew).option.boost_told
    assert [one.ethanol_pct for one in rows] == [0.0, 10.0]
    path = f"options/{bench.option.id}/boost_told/{rows[1].id}/boost_kpa"
    page = soup(client.post(f"/builds/{curlew}/edit", data={**form, "base": base(), "path": path, "value": "400"}))
    assert "The controller permits boost for which there is no fuel" in page.text
    assert soup(client.get(f"/builds/{curlew}/ceilings")).select(".boost-told input[value='400']")
