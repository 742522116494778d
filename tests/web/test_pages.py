"""Pages and fragments over HTTP."""

import json
import re

import pytest
from lxml import html

from iron_gulp.core.account import FIGURES
from iron_gulp.core.model import (
    STATIONS,
    Engine,
    InjectorPart,
    InjectorSet,
    PumpGroup,
    PumpPart,
    Regulator,
    Target,
    Wiring,
    apply,
    stations_of,
)
from iron_gulp.core.model.build import Car, DesignRules
from iron_gulp.web.parts.stations import PAGES
from tests.draws import LONG
from tests.web.parsing import parsed


def soup(response, status=200):
    assert response.status_code == status, response.text[:400]
    return parsed(response.text)


def edit(client, build, path, value, base=1, **more):
    form = {"base": base, "page": "ask", "option": "as-built", "target": "hill", "path": path, "value": value, **more}
    return client.post(f"/builds/{build}/edit", data=form)


def figure(page, key):
    found = page.find(id="fig-" + key.replace(".", "-"))
    return found.find("b").text


def test_garage_shows_state_at_a_glance(client):
    page = soup(client.get("/"))
    row = page.find("a", string="Curlew").find_parent("tr")
    assert "Injectors" in row.text
    assert "over" in row.text
    assert "kW" in row.text


def test_garage_filter_and_empty_states(client):
    assert "No build is called" in client.get("/?q=zzz").text
    assert "Nothing has been put away" in client.get("/?archived=true").text
    answer = client.get("/?q=salt", headers={"HX-Target": "garage-list"})
    fragment = soup(answer)
    assert "<html" not in answer.text
    assert [a.text for a in fragment.select(".build-link")] == ["Saltern"]


# Worked out anew for every target.
COSTLY = re.compile(
    r"/(chance/|ceilings/(permitted|envelope)|values/|injectors/window|compare/|regulator/chart/\w+_needed)"
)


@pytest.mark.parametrize(
    ("name", "key"),
    [
        *(("curlew", key) for key in PAGES),
        # Each page on one of the others.
        *(("fieldfare", key) for key in list(PAGES)[:: 1 if LONG else 2]),
        *(("saltern", key) for key in list(PAGES)[0 if LONG else 1 :: 1 if LONG else 2]),
    ],
)
def test_every_page_of_every_option_and_target(reader, reading, key, name):
    build = reading.garage.page(name).rows[0].id
    bench = reading.judging.bench(build)
    for number, option in enumerate(bench.build.options):
        for target in bench.build.targets if LONG or (name == "curlew" and number == 0) else bench.build.targets[:1]:
            answer = reader.get(f"/builds/{build}/{key}?option={option.id}&target={target.id}")
            assert answer.status_code == 200
            page = html.document_fromstring(answer.text)  # compiled: hundreds of whole pages are looked through
            assert page.findtext(".//h1") == bench.build.name
            assert len(page.find_class("station")) == 6
            ids = page.xpath("//@id")
            assert len(ids) == len(set(ids)), sorted(i for i in ids if ids.count(i) > 1)
            if not LONG and number:
                continue  # pieces are by the same code on every option
            for piece in page.xpath("//*[@data-source]"):
                source = piece.get("data-source")
                # Remedies are those of the option on every page and target: Ask, which shows all, asks for them.
                weighed = re.search(r"/(remedies|put-right)\?", source)
                first = target is bench.build.targets[0]
                if weighed and (key != "ask" or not first):
                    continue
                if not first and number:
                    continue  # what comes when looked at is by the same code on every target and option
                if COSTLY.search(source) and not (first and LONG):  # each has tests of its own
                    continue
                answer = reader.get(source)
                assert answer.status_code == 200, source
                if "chart" in piece.classes:
                    assert answer.json()["series"]


@pytest.mark.parametrize("key", [key for key in FIGURES if key != "demand.measured_kg_h"][:: 1 if LONG else 2])
def test_every_figure_opens(reader, reading, key):
    name, where = ("dunlin", "target=blend") if key.startswith("high.") else ("curlew", "target=hill")
    number = reading.garage.page(name).rows[0].id
    page = soup(reader.get(f"/builds/{number}/figure/{key}?{where}"))
    assert page.find(class_="formula").text
    assert "Source:" in page.text
    assert len(page.select("tbody tr")) >= 1


def test_edit_repaints_what_it_touches(client, curlew):
    before = soup(client.get(f"/builds/{curlew}/injectors?target=hill"))
    path = "options/as-built/injectors/part/rated_flow_cc_min"
    answer = edit(client, curlew, path, "1100", page="injectors")
    after = soup(answer)
    assert "<html" not in answer.text
    assert float(figure(after, "injector.duty_pct")) < float(figure(before, "injector.duty_pct"))
    assert after.find(id="saved").text == "Saved · revision 2"
    assert "shelf says 800" in after.text


NOT_FIELDS = {"second", "id", "name", "shelf_id", "provenance", "part", "wiring", "curves", "dead_time_v"}
NOT_FIELDS |= {"dead_more_kpa", "dead_more_ms"}  # there once a pressure is added
BAD = ["", "lots", "-5000", "1e99", "9" * 400, "12 horses", "<script>alert(1)</script>", "1,000", "\x00", "NaN", "💧"]


@pytest.mark.parametrize("typed", BAD)
def test_wrong_input_stays_in_the_field_with_its_error(client, curlew, typed):
    response = edit(client, curlew, "targets/hill/boost_kpa", typed)
    page = soup(response, 422)
    box = page.find(id="f-targets-hill-boost_kpa")
    assert box["value"] == typed.replace("\x00", "\x00")
    assert box["aria-invalid"] == "true"
    assert page.find(id=box["aria-describedby"]).text
    assert "<script>alert" not in response.text
    assert page.find(id="saved").text == "Saved · revision 1"


def test_html_in_names_is_only_text(client, curlew):
    edit(client, curlew, "name", "<img src=x onerror=alert(1)>")
    for url in ("/", f"/builds/{curlew}/ask"):
        response = client.get(url)
        assert "<img" not in response.text
        assert "&lt;img" in response.text


def test_remedies_of_several_findings_come_in_one_answer(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/pump?target=hill"))
    addresses = [one["data-source"] for one in page.select(".remedies-of")]
    assert len(addresses) > 2
    numbers = [address.rsplit("number=", 1)[1] for address in addresses]
    together = soup(client.get(addresses[0] + "".join(f"&number={one}" for one in (*numbers[1:], numbers[0], "998"))))
    assert [piece["data-piece"] for piece in together.select("[data-piece]")] == [f"remedies-{one}" for one in numbers]
    for number, address in zip(numbers, addresses, strict=True):
        alone = soup(client.get(address)).select_one("[data-piece]")
        assert together.select_one(f'[data-piece="remedies-{number}"]').decode() == alone.decode()
    assert not soup(client.get(f"/builds/{curlew}/pump/remedies?number=998")).select("[data-piece]")
    assert client.get(f"/builds/{curlew}/pump/remedies?number=-1").status_code == 404


def test_a_note_without_a_remedy_needs_none(client, workshop, curlew):
    short = apply(workshop.judging.bench(curlew).build, [("targets/later/power_kw", 430.0)])
    curlew = workshop.garage.add(short, "made for a test")
    judged = workshop.judging.bench(curlew, None, "hill").judged.findings
    bare = [number for number, one in enumerate(judged) if one.severity == "note" and not one.remedies]
    assert bare
    pieces = soup(client.get(f"/builds/{curlew}/pump/remedies?" + "&".join(f"number={one}" for one in bare)))
    assert [one.text for one in pieces.select("p.muted")] == ["Nothing needs to be changed."] * len(bare)


def test_remedy_undo_and_redo(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/injectors?target=hill"))
    remedies = soup(client.get(page.select_one(".remedies-of")["data-source"]))
    button = remedies.select_one(".remedy")
    where = {"base": 1, "page": "injectors", "option": "as-built", "target": "hill"}
    after = soup(client.post(button["hx-post"], data={**where, **json.loads(button["hx-vals"])}))
    assert float(figure(after, "injector.duty_pct")) < 85
    undone = soup(client.post(f"/builds/{curlew}/undo", data={**where, "base": 2}))
    assert figure(undone, "injector.duty_pct") == figure(page, "injector.duty_pct")
    assert not undone.find(id="redo").has_attr("disabled")
    redone = soup(client.post(f"/builds/{curlew}/redo", data=where))
    assert figure(redone, "injector.duty_pct") == figure(after, "injector.duty_pct")


def test_two_windows(client, curlew):
    assert edit(client, curlew, "targets/hill/boost_kpa", "150").status_code == 200
    assert edit(client, curlew, "targets/hill/rpm", "6700").status_code == 200
    clash = edit(client, curlew, "targets/hill/boost_kpa", "170")
    assert clash.status_code == 422
    assert "another window" in clash.text


def test_units_change_what_is_shown_not_what_is_stored(client, workshop, curlew):
    before = workshop.documents.export(curlew)[1]
    response = client.post("/units", data={"preset": "US"})
    assert response.headers["hx-refresh"] == "true"
    page = soup(client.get(f"/builds/{curlew}/regulator?target=hill"))
    assert page.find(id="f-options-as-built-regulator-base_kpa")["value"] == "43.511"
    assert workshop.documents.export(curlew)[1] == before
    edit(client, curlew, "options/as-built/regulator/base_kpa", "43.511", page="regulator")
    edit(client, curlew, "options/as-built/regulator/base_kpa", "45.25", page="regulator", base=2)
    page = soup(client.get(f"/builds/{curlew}/regulator"))
    assert page.find(id="f-options-as-built-regulator-base_kpa")["value"] == "45.25"


@pytest.mark.parametrize("cookie", ["{", "[]", '{"pressure": 7}', '{"pressure": "furlong"}', "\\"])
def test_a_broken_unit_cookie_is_harmless(client, curlew, cookie):
    client.cookies.set("iron_gulp_units", cookie)
    assert client.get(f"/builds/{curlew}/pump").status_code == 200


def test_export_import_and_refusal(client, workshop, curlew):
    told, before = client.get(f"/builds/{curlew}/export"), workshop.garage.page().total
    assert 'filename="curlew.irongulp.json"' in told.headers["content-disposition"]
    page = client.post("/builds/import", files={"file": ("curlew.json", told.content)})
    assert "Curlew" in page.text
    assert workshop.garage.page().total == before + 1
    bad = told.text.replace('"boost_kpa": 145.0', '"boost_kpa": "lots"').replace('"cylinders": 5', '"cylinders": 0')
    refused = soup(client.post("/builds/import", files={"file": ("<b>bad</b>.json", bad.encode())}), 422)
    listed = [item.text for item in refused.select(".refusal li")]
    assert len(listed) == 2
    assert any("targets/1/boost_kpa" in text for text in listed)
    assert workshop.garage.page().total == before + 1


def test_solution_is_the_command_lines(client, workshop, curlew):
    told = client.get(f"/builds/{curlew}/solution.json?target=hill").json()
    assert told == workshop.documents.solution(curlew, None, "hill")
    assert client.get(f"/builds/{curlew}/solution.json?target=nope").status_code == 404


def test_new_duplicate_archive(client, workshop):
    page = client.post("/builds")
    assert page.url.path.endswith("/ask")
    assert "New build" in page.text
    build = int(page.url.path.split("/")[2])
    assert "New build, copy" in client.post(f"/builds/{build}/duplicate").text
    client.post(f"/builds/{build}/archive")
    assert workshop.garage.page(archived=True).total == 1
    client.post(f"/builds/{build}/unarchive")
    assert workshop.garage.page(archived=True).total == 0


@pytest.mark.parametrize(
    ("typed", "words"),
    [
        ({"frequency_hz": "85", "pulse_ms": "2.6"}, ["E35", "26.0 °C", "1.75 V"]),
        ({"frequency_hz": "150", "pulse_ms": "5", "zero_v": "0.5", "full_v": "4.5"}, ["E100", "125.0 °C", "4.50 V"]),
        ({"frequency_hz": "40"}, ["fault", "below 50 Hz"]),
        ({"frequency_hz": "180"}, ["fault", "above 150 Hz"]),
        ({"frequency_hz": "90", "pulse_ms": "7"}, ["fault", "pulse width"]),
    ],
)
def test_an_ethanol_sensor_is_read(client, curlew, typed, words):
    answer = soup(client.get(f"/builds/{curlew}/calculator/sensor", params=typed)).find(class_="mix-answer").text
    for word in words:
        assert word in answer.replace("\u00a0", " ")


def test_calculators_refuse_in_their_field_and_unknown_ones_are_404(client, curlew):
    bad = soup(client.get(f"/builds/{curlew}/calculator/sensor", params={"frequency_hz": "loud"}))
    assert bad.find(id="sensor-frequency_hz")["value"] == "loud"
    assert bad.find(class_="field-error")
    assert bad.find(class_="mix-answer").text == ""
    assert client.get(f"/builds/{curlew}/calculator/horoscope").status_code == 404


def test_a_base_fuel_of_ones_own_is_entered_used_and_cannot_be_pulled_from_under_a_target(client, workshop, curlew):
    where = {"page": "fuel", "option": "as-built", "target": "hill"}
    assert client.post(f"/builds/{curlew}/add", data={**where, "base": 1, "what": "fuels"}).status_code == 200
    edits = [("fuels/fuel1/name", "Oxygenate 4"), ("fuels/fuel1/stoich_afr", "13.2"), ("fuels/fuel1/lhv_mj_kg", "39.5")]
    for number, (path, value) in enumerate(edits, start=2):
        page = client.post(f"/builds/{curlew}/edit", data={**where, "base": number, "path": path, "value": value})
    choice = soup(page).select_one("#f-targets-hill-base_fuel option[value=fuel1]")
    assert choice.text == "Oxygenate 4"
    client.post(f"/builds/{curlew}/edit", data={**where, "base": 5, "path": "targets/hill/base_fuel", "value": "fuel1"})
    fuel = workshop.judging.bench(curlew, "as-built", "hill").verdict.fuel
    assert fuel.stoich_afr == pytest.approx(fuel.mass_fraction * 9.0 + (1 - fuel.mass_fraction) * 13.2)
    refused = client.post(f"/builds/{curlew}/remove", data={**where, "base": 6, "path": "fuels/fuel1"})
    assert "unknown base fuel" in refused.text
    assert workshop.judging.bench(curlew).stored.number == 6
    bad = {**where, "base": 6, "path": "fuels/fuel1/density_15c_kg_m3", "value": "7"}
    assert "must lie" in soup(client.post(f"/builds/{curlew}/edit", data=bad), 422).select_one(".field-error").text


def test_mixing_answers_and_refuses(client, curlew):
    good = {"tank_l": 60, "held_l": 18, "held_pct": 12, "wanted_pct": 50, "strong_pct": 78, "weak_pct": 10}
    page = soup(client.get(f"/builds/{curlew}/calculator/mixing", params=good))
    assert "34.76" in page.find(class_="mix-answer").text
    assert "7.24" in page.find(class_="mix-answer").text
    assert (
        "cannot be reached" in client.get(f"/builds/{curlew}/calculator/mixing", params={**good, "wanted_pct": 90}).text
    )
    assert "Cannot be mixed" in client.get(f"/builds/{curlew}/calculator/mixing", params={**good, "weak_pct": 80}).text
    bad = soup(client.get(f"/builds/{curlew}/calculator/mixing", params={**good, "held_l": "half"}))
    assert bad.find(id="mixing-held_l")["value"] == "half"
    assert bad.select_one(".field-error").text


@pytest.mark.parametrize(
    "url",
    [
        "/nope",
        "/builds/999/ask",
        "/builds/0/ask",
        "/builds/99999999999999999999999/ask",
        "/builds/x/ask",
        "/builds/1/nope",
        "/builds/1/figure/nope",
        "/builds/2/figure/demand.measured_kg_h",
        "/builds/999/export",
    ],
)
def test_wrong_addresses_say_so(client, url):
    page = soup(client.get(url), 404)
    assert "Back to the garage" in page.text


@pytest.mark.parametrize(
    ("url", "form"),
    [
        ("edit", {}),
        ("edit", {"base": "x", "path": "name", "value": "y"}),
        ("edit", {"base": 99, "path": "name", "value": "y"}),
        ("remedy", {"base": 1, "finding": 999, "code": "x", "index": 0}),
        ("remedy", {"base": 77, "finding": 0, "code": "x", "index": 0}),
        ("part", {"base": 1, "path": "name", "kind": "pumps", "value": "pump-250"}),
        ("part", {"base": 1, "path": "../..", "kind": "__class__", "value": "x"}),
        ("add", {"base": 1, "what": "x"}),
        ("remove", {"base": 1, "path": "engine"}),
        ("remove", {"base": 1, "path": ""}),
        ("restore", {"number": 999}),
    ],
)
def test_malformed_changes_are_refused_without_harm(client, workshop, curlew, url, form):
    before = workshop.documents.export(curlew)[1]
    response = client.post(f"/builds/{curlew}/{url}", data=form)
    assert 400 <= response.status_code < 500
    assert workshop.documents.export(curlew)[1] == before


def test_other_sites_cannot_change_anything(client, workshop, curlew):
    before = workshop.garage.page().total
    assert client.post("/builds", headers={"Sec-Fetch-Site": "cross-site"}).status_code == 403
    assert client.post("/builds", headers={"Origin": "http://elsewhere.example"}).status_code == 403
    assert workshop.garage.page().total == before


def test_pages_say_what_they_may_load(client):
    policy = client.get("/").headers["content-security-policy"]
    assert "default-src 'self'" in policy
    assert "http" not in policy


def test_everything_is_listed_before_it_is_put_right_and_is_one_undo(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/pump?target=hill"))
    listed = soup(client.get(page.select_one(".put-right-list")["data-source"]))
    assert len(listed.select(".put-right-steps li")) >= 3
    assert "Little vapour" in listed.select_one(".put-right-left").text
    where = {"base": 1, "page": "pump", "option": "as-built", "target": "hill"}
    after = soup(client.post(listed.select_one("button")["hx-post"], data=where))
    assert not after.select(".finding-stop")
    assert after.find(id="saved").text == "Saved · revision 2"
    again = soup(client.post(f"/builds/{curlew}/put-right", data={**where, "base": 2}), 422)
    assert "nothing one click could put right" in again.text
    undone = soup(client.post(f"/builds/{curlew}/undo", data={**where, "base": 2}))
    assert undone.select(".finding-stop")


ASKED = {
    "car": Car,
    "engine": Engine,
    "rules": DesignRules,
    "targets/hill": Target,
    "options/as-built/pumps/g1": PumpGroup,
    "options/as-built/pumps/g1/wiring": Wiring,
    "options/as-built/pumps/g1/part": PumpPart,
    "options/as-built/injectors": InjectorSet,
    "options/as-built/injectors/part": InjectorPart,
    "options/as-built/regulator": Regulator,
}
WAYS = [
    [],
    [("pumps/g1/part/kind", "brushless")],
    [("pumps/g1/part/kind", "mechanical")],
    [("regulator/arrangement", "returnless, speed-controlled")],
    [("regulator/reference", "rising rate")],
]


def test_whatever_the_model_asks_can_be_entered_on_some_page(client, curlew):
    """With what is asked of brushless, mechanical or returnless systems only shown as well."""
    missing = {(path, name) for path, model in ASKED.items() for name in set(model.model_fields) - NOT_FIELDS}
    base = 1
    for way in WAYS:
        for tail, value in way:
            assert edit(client, curlew, f"options/as-built/{tail}", value, base).status_code == 200
            base += 1
        for page in PAGES:
            if missing:
                shown = client.get(f"/builds/{curlew}/{page}?target=hill").text
                missing -= {
                    (path, name)
                    for path, name in missing
                    if f'id="f-{path.replace("/", "-")}-{name.rstrip("_")}' in shown
                }
    assert missing == set()


def test_the_whole_build_goes_to_paper_with_its_values_and_a_head(client, workshop):
    for row in workshop.garage.page().rows:
        answer = client.get(f"/builds/{row.id}/sheets")
        assert answer.status_code == 200
        page = soup(answer)
        bench = workshop.judging.bench(row.id)
        head = page.select_one("main .sheet-head").text
        for said in (bench.build.name, bench.option.name, bench.verdict.target.name, f"revision {bench.stored.number}"):
            assert said in head
        absent = {*STATIONS} - {*stations_of(bench.option)}
        absent |= {"ask", "ceilings", "chance", "values", "evidence", "compare", "design", "keep", "road"}
        assert [one.select_one(".bench")["class"][1] for one in page.select(".sheet")] == [
            f"bench-{key}" for key in ("ask", *(one for one in PAGES if one not in absent))
        ]
        assert all(one.has_attr("inert") for one in page.select(".sheet"))
        # Every finding of the build stands on some sheet.
        headings = page.select(".sheet .finding:not(.elsewhere) h3")
        said = {"".join(one.find_all(string=True, recursive=False)).strip() for one in headings}
        assert said == {finding.title for finding in bench.judged.findings}


def test_sheets_of_nothing_are_not_found(client, curlew):
    assert client.get("/builds/999/sheets").status_code == 404


@pytest.mark.parametrize(
    ("key", "typed", "words"),
    [
        ("cans", {"can_l": "5"}, "cans|Pour"),
        ("cans", {"held_l": "59", "tank_l": "60"}, "Cannot be poured: there is no room for a whole can"),
        ("drain", {"held_l": "40", "tank_l": "60"}, "At most 17.65"),
        ("drain", {"wanted_pct": "95"}, "lies beyond both fuels"),
        ("drain", {"held_l": "5", "tank_l": "60", "held_pct": "78"}, "Nothing need go: fill it to 17"),
        ("signal", {"ethanol_pct": "35"}, "85.*Hz"),
        ("proof", {"read_pct": "56"}, "6 points above: does not pass"),
        ("proof", {"first_l": "0", "second_l": "0"}, "Cannot be proven"),
    ],
)
def test_the_fuel_bench_answers(client, curlew, key, typed, words):
    answer = soup(client.get(f"/builds/{curlew}/calculator/{key}", params=typed)).find(class_="mix-answer").text
    assert re.search(words, answer), answer


def test_the_season_and_the_fill_are_on_the_fuel_bench(client, workshop, curlew):
    page = soup(client.get(f"/builds/{curlew}/fuel"))
    assert "95 % of the new blend" in page.text
    assert len(page.select("svg.sketch .s-point")) >= 6
    season = soup(client.get(f"/builds/{curlew}/season"))
    strong = [one for one in workshop.judging.bench(curlew).build.targets if one.ethanol_pct >= 51]
    assert len(season.select("tbody tr")) == len(strong)


def test_the_fill_log_is_kept_and_says_where_sensor_and_arithmetic_part(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    form = {"page": "fuel", "option": bench.option.id, "target": bench.verdict.target.id}

    def base():
        return workshop.judging.bench(curlew).stored.number

    def type_in(name, value, status=200):
        path = f"fills/{workshop.judging.bench(curlew).build.fills[-1].id}/{name}"
        data = {**form, "base": base(), "path": path, "value": value}
        return soup(client.post(f"/builds/{curlew}/edit", data=data), status)

    before = len(bench.build.fills)
    soup(client.post(f"/builds/{curlew}/add", data={**form, "base": base(), "what": "fills"}))
    for name, value in (("left_l", "0"), ("poured_l", "40"), ("poured_pct", "10"), ("day", "2026-05-31")):
        type_in(name, value)
    assert "E10.0" in type_in("measured_pct", "12").text
    page = type_in("measured_pct", "22")
    assert "+12.0 points: they part" in page.text
    assert "Sensor and arithmetic part" in page.text
    assert "E22.0, measured" in page.text
    refused = type_in("day", "31.5.2026", 422)
    assert refused.select_one("[data-path$='/day'] .field-error")
    path = f"fills/{workshop.judging.bench(curlew).build.fills[-1].id}"
    soup(client.post(f"/builds/{curlew}/remove", data={**form, "base": base(), "path": path}))
    assert len(workshop.judging.bench(curlew).build.fills) == before
