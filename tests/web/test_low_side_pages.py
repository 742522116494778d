"""Shelf, flow bottle, staging, wiring and diagram over HTTP."""

import json
import re
import xml.etree.ElementTree as ElementTree

import pytest

from iron_gulp.shelf import KINDS
from iron_gulp.units import PRESETS
from tests.draws import LONG
from tests.web.parsing import parsed


def soup(response, status=200):
    assert response.status_code == status, response.text[:400]
    return parsed(response.text)


@pytest.mark.parametrize("kind", KINDS)
def test_shelf_lists_searches_and_compares(client, kind):
    page = soup(client.get(f"/shelf/{kind}"))
    assert len(page.select("tbody tr")) >= 4
    assert "Nothing on the shelf" in client.get(f"/shelf/{kind}?q=zzzz").text
    assert not page.select("[id^=chart-compare]")
    boxes = [box["value"] for box in page.select("tbody input")]
    first, second = boxes[0], boxes[1 if kind == "sensors" else -1]  # sensors of one quantity share a chart
    compared = soup(client.get(f"/shelf/{kind}?compare={first}&compare={second}"))
    assert len(compared.select("tr.selected")) == 2
    charts = [json.loads(one["data-chart"]) for one in compared.select("[id^=chart-compare]")]
    assert len(charts) == {"pumps": 2, "injectors": 2}.get(kind, 1)
    for chart in charts:
        assert len(chart["series"]) == 2
        assert chart["series"][0]["data"] != chart["series"][1]["data"] or "Dead time" in chart["title"]


def test_shelf_holds_forty_parts_and_more(workshop):
    parts = [part for kind in KINDS for part in workshop.shelf.parts(kind)]
    assert len(parts) >= 40
    assert len({part.shelf_id for part in parts}) == len(parts)
    assert {part.provenance for part in parts} == {"generic data in preferred numbers"}


def test_an_own_part_can_be_added_used_and_removed(client, workshop, curlew):
    good = {"name": "Own pump", "voltage_v": "13.5", "pressure_kpa": "0;300", "flow_l_h": "400;300", "current_a": "6;11"}
    page = client.post("/shelf/pumps/add", data=good)
    shelf_id = page.url.params["compare"]
    assert "Own pump" in page.text
    form = {"base": 1, "page": "pump", "option": "as-built", "target": "hill", "kind": "pumps", "value": shelf_id}
    client.post(f"/builds/{curlew}/part", data={**form, "path": "options/as-built/pumps/g1/part"})
    assert workshop.judging.bench(curlew).option.pumps[0].part.name == "Own pump"
    assert "Own pump" not in client.post(f"/shelf/pumps/remove/{shelf_id}").text
    assert workshop.judging.bench(curlew).option.pumps[0].part.name == "Own pump"
    assert client.get(f"/builds/{curlew}/pump").status_code == 200
    assert client.post("/shelf/pumps/remove/pump-250").status_code == 404


def many_filters(count):
    rows = [f"{('Even', 'Odd')[number % 2]} filter {number},10,500,10" for number in range(count)]
    return "\n".join(["name,grade_um,rated_flow_l_h,rated_drop_kpa", *rows]).encode()


def test_a_long_shelf_is_paged_and_keeps_what_is_compared(client, workshop):
    client.post("/shelf/filters/import", files={"file": ("f.csv", many_filters(120))})
    first = soup(client.get("/shelf/filters?compare=filter-glass-10-500"))
    assert len(first.select("tbody tr")) == 50
    assert [one.text for one in first.select(".pager a")] == ["1", "2", "3"]
    third = soup(client.get(first.select(".pager a")[2]["href"]))
    assert len(third.select("tbody tr")) == len(workshop.shelf.parts("filters")) - 100
    assert third.select_one("input[type=hidden][name=compare]")["value"] == "filter-glass-10-500"
    assert third.select_one("#chart-compare-1")
    assert not soup(client.get("/shelf/filters?at=9")).select("tbody input")


def test_own_parts_are_taken_off_together_and_put_back(client, workshop):
    generic = len(workshop.shelf.parts("filters"))
    client.post("/shelf/filters/import", files={"file": ("f.csv", many_filters(60))})
    form = soup(client.get("/shelf/filters?q=odd")).select_one("#bulk form")
    assert "30 of your own" in form.text
    taken = soup(client.post(form["action"], data={"q": form.select_one("[name=q]")["value"]}))
    assert len(workshop.shelf.parts("filters")) == generic + 30
    back = taken.select_one(".notice form")
    client.post(back["action"], data={"taken": back.select_one("[name=taken]")["value"]})
    assert len(workshop.shelf.parts("filters")) == generic + 60
    client.post("/shelf/filters/remove")
    assert len(workshop.shelf.parts("filters")) == generic
    assert client.post("/shelf/horses/remove").status_code == 404
    client.post("/shelf/filters/put-back", data={"taken": "own-99999 pump-250 own-x own-9e9 own-99999999999999999999"})
    assert len(workshop.shelf.parts("filters")) == generic


def test_a_part_out_of_range_is_refused_in_this_applications_words(client):
    page = soup(client.post("/shelf/lines/add", data={"name": "Hose", "bore_mm": "0.1"}), 422)
    assert page.find(id="own-bore_mm-error").text == "must be at least 0.5"


def test_a_faulty_own_part_keeps_what_was_typed(client, workshop):
    before = len(workshop.shelf.parts("lines"))
    page = soup(client.post("/shelf/lines/add", data={"name": "Hose <b>", "bore_mm": "wide"}), 422)
    assert page.find(id="own-name")["value"] == "Hose <b>"
    assert page.find(id="own-bore_mm")["value"] == "wide"
    assert "not a number" in page.find(id="own-bore_mm-error").text
    assert len(workshop.shelf.parts("lines")) == before


def test_csv_in_and_out(client, workshop):
    text = client.get("/shelf/filters/parts.csv").text
    before = len(workshop.shelf.parts("filters"))
    client.post("/shelf/filters/import", files={"file": ("f.csv", text.encode())})
    assert len(workshop.shelf.parts("filters")) == 2 * before
    page = soup(client.post("/shelf/filters/import", files={"file": ("f.csv", b"name,grade_um\na,b\nc,d\n")}), 422)
    assert len(page.select(".refusal li")) == 2
    assert len(workshop.shelf.parts("filters")) == 2 * before


@pytest.mark.parametrize("url", ["/shelf/horses", "/shelf/horses/parts.csv"])
def test_unknown_kinds_are_not_found(client, url):
    assert client.get(url).status_code == 404
    assert client.post("/shelf/horses/add", data={"name": "x"}).status_code == 404
    assert client.post("/shelf/horses/import", files={"file": ("f", b"name\nx\n")}).status_code == 404


def bottle_form(share=1.0):
    form = {"claim": "pump-315", "name": "Suspect pump"}
    for index, (kpa, l_h) in enumerate(((200, 372), (300, 340), (400, 305))):
        values = {"pressure_kpa": kpa, "volume_l": 1, "seconds_s": 3600 / l_h / share, "voltage_v": 13.5, "current_a": 10}
        form |= {f"{name}-{index}": str(value) for name, value in values.items()}
    return form


def test_bottle_exposes_a_counterfeit(client, workshop):
    assert "It is what it claims" in client.post("/shelf/bottle", data=bottle_form()).text
    page = soup(client.post("/shelf/bottle", data=bottle_form(0.7)))
    assert "does not match its claim" in page.find(id="bottle-answer").text
    client.post("/shelf/bottle", data={**bottle_form(0.7), "keep": "yes"})
    kept = workshop.shelf.parts("pumps")[-1]
    assert (kept.name, kept.provenance) == ("Suspect pump", "measured, flow bottle")


def test_bottle_refuses_in_place(client):
    page = soup(client.post("/shelf/bottle", data={**bottle_form(), "seconds_s-1": "soon"}), 422)
    box = page.find("input", {"name": "seconds_s-1"})
    assert box["value"] == "soon"
    assert "not a number" in box.find_parent("td").text
    assert "at least two" in client.post("/shelf/bottle", data={}).text


# Staging, wiring, diagram


def piece(client, page, selector):
    """What comes when someone looks at a place of the page."""
    return client.get(page.select_one(selector)["data-source"])


def test_staging_shows_field_switches_and_proposals(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/stage?target=later"))
    field = piece(client, page, "#chart-field").json()
    assert len(field["layers"]) == 7
    rows = field["layers"]["stages"]["rows"]
    assert (len(rows), len(rows[0])) == (len(field["y"]["ticks"]), len(field["x"]["ticks"]))
    switches = soup(piece(client, page, "#switches"))
    assert "Turbine pump, 200 L/h at 400 kPa: join above" in switches.text
    button = switches.select_one(".remedy")
    where = {"base": 1, "page": "stage", "option": "as-built", "target": "later"}
    after = client.post(button["hx-post"], data={**where, **json.loads(button["hx-vals"])})
    assert after.status_code == 200
    assert "revision 2" in after.text


def act(client, build, page, button, **more):
    """Press a button of a page as the browser would; gives the fragment that comes back."""
    where = {"page": page, "option": more.pop("option", "as-built"), "target": "hill", "base": more.pop("base")}
    return soup(client.post(button["hx-post"], data={**where, **json.loads(button["hx-vals"]), **more}))


def test_a_fitting_is_added_chosen_and_removed_on_the_feed_bench(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/feed"))
    assert "5 fitted" in page.select_one("#fit-options-as-built-feed summary").text
    page = act(client, curlew, "feed", page.select_one("button[title='Add a fitting to the feed']"), base=1)
    fold = page.select_one("#fit-options-as-built-feed")
    assert "6 fitted" in fold.select_one("summary").text
    assert len(fold.select(".fitting")) == 3
    kinds = fold.select_one(".fitting:last-of-type select, .fitting select")
    assert len(kinds.select("option")) >= 12
    gone = fold.select_one("button[title^='Remove the fitting swept elbow, 45°']")
    page = act(client, curlew, "feed", gone, base=2)
    assert "4 fitted" in page.select_one("#fit-options-as-built-feed summary").text


def test_the_feed_is_parted_and_joined_again(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/feed?target=hill"))
    part = next(b for b in page.select("button") if b.text == "Part it to two rails")
    page = act(client, curlew, "feed", part, base=1)
    legs = [row.td.text for row in page.select(".results table tr") if row.td]
    assert {"Branch 1", "Branch 2", "Along each rail"} <= set(legs)
    assert page.select_one("#fig-feed-split_kpa")
    drawn = client.get(f"/builds/{curlew}/diagram.svg?option=as-built").text
    assert drawn.count('data-name="Rail ') == drawn.count('data-name="Branch ') == 2
    join = next(b for b in page.select("button") if b.text == "One rail, no split")
    page = act(client, curlew, "feed", join, base=2)
    assert not page.select_one("#fig-feed-split_kpa")
    assert 'data-name="Branch' not in client.get(f"/builds/{curlew}/diagram.svg?option=as-built").text


def test_the_pickup_is_entered_on_the_tank_bench(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/fuel?option=one-large"))
    enter = next(b for b in page.select("button") if b.text == "Enter the pickup")
    page = act(client, curlew, "fuel", enter, base=1, option="one-large")
    kind = page.select_one("#f-options-one-large-pickup-kind")
    assert kind.select_one("option[selected]")["value"] == "sock strainer"
    assert "Nothing holds fuel at the pickup" in page.select_one(".findings").text


@pytest.mark.parametrize(
    ("page", "path", "value", "title"),
    [
        ("demand", "calibration/map_range_kpa_abs", "200", "Boost beyond the manifold sensor"),
        ("injectors", "calibration/injector_cc_min", "1200", "The controller was never told about these injectors"),
        ("injectors", "calibration/dead_time_ms", "2", "Dead times left at other injectors' values"),
        ("fuel", "calibration/blend", "entered by hand", "The blend is assumed, not measured"),
        ("wire", "pumps/g1/wiring/ground", "painted or shared point", "Painted or shared ground"),
        ("wire", "pumps/g1/wiring/coil_a", "1.5", "Relay coils overload the output that switches them"),
        ("stage", "pumps/g2/min_on_s", "0", ""),
    ],
)
def test_what_is_entered_on_a_bench_is_judged_there(client, curlew, page, path, value, title):
    form = {"base": 1, "page": page, "option": "as-built", "target": "hill", "value": value}
    after = soup(client.post(f"/builds/{curlew}/edit", data={**form, "path": f"options/as-built/{path}"}))
    assert "revision 2" in after.text
    assert title in after.select_one(".findings").text
    field = after.select_one(f"#f-options-as-built-{path.replace('/', '-')}")
    chosen = field.select_one("option[selected]") if field.name == "select" else field
    assert chosen["value"] == value


def test_a_stage_on_speed_shows_its_switch_and_both_ways_of_the_field(client, curlew):
    for path, value in (("on_above_kpa", ""), ("on_above_rpm", "4500")):
        form = {"page": "stage", "option": "as-built", "target": "later", "value": value}
        form["base"] = 1 if not value else 2
        page = soup(client.post(f"/builds/{curlew}/edit", data={**form, "path": f"options/as-built/pumps/g2/{path}"}))
    assert "4 500 rpm" in soup(piece(client, page, "#switches")).select_one("table").text.replace(" ", " ")
    layers = piece(client, page, "#chart-field").json()["layers"]
    coming, leaving = (sum(map(sum, layers[name]["rows"])) for name in ("stages", "stages_leaving"))
    assert leaving > coming


def test_sizes_say_what_each_neighbour_changes(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/sizes?target=hill&path=options/as-built/feed/part"))
    assert [b.text for b in page.select("button b")] == ["Down", "Up"]
    assert "supply" in page.text
    for path in ("name", "options/as-built/feed", "nope", "options/as-built/regulator/base_kpa"):
        assert client.get(f"/builds/{curlew}/sizes?path={path}").status_code == 404


def test_wiring_plan_names_what_is_wrong(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/wire"))
    assert [h.text for h in page.select(".circuit h3")] == ["Main pump, group 1", "Main pump, group 2", "Lift pump"]
    assert "fuse larger than the wire carries" in page.text
    assert len(page.select("svg.wire-rungs")) == 1
    words = [one.text for one in page.select("svg.wire-rungs text")]
    assert words.count("M") == 3


EVERY = ["bypass near the tank", "returnless, speed-controlled", "bypass after the rail"]


@pytest.mark.parametrize("arrangement", EVERY if LONG else EVERY[:1])
def test_diagram_is_drawn_for_every_system(client, workshop, arrangement):
    for row in workshop.garage.page().rows[:: 1 if LONG else 3]:
        for option in workshop.judging.bench(row.id).build.options:
            base = workshop.judging.bench(row.id).stored.number
            path = f"options/{option.id}/regulator/arrangement"
            form = {"base": base, "page": "draw", "option": option.id, "target": "", "path": path, "value": arrangement}
            client.post(f"/builds/{row.id}/edit", data=form)
            response = client.get(f"/builds/{row.id}/diagram.svg?option={option.id}")
            tree = ElementTree.fromstring(response.text)
            names = [element.get("data-name") for element in tree.iter() if element.get("data-name")]
            assert "Tank" in names
            gone = arrangement == "returnless, speed-controlled" and option.carburettor is None
            assert ("Regulator" in names) != gone
            assert any("pump" in name for name in names)


@pytest.mark.parametrize("count", [1, 7, 16])
@pytest.mark.parametrize("split", [False, True])
def test_diagram_draws_as_many_injectors_as_there_are(client, curlew, count, split):
    common = {"page": "feed", "option": "as-built", "target": ""}
    form = {"base": 1, "path": "options/as-built/injectors/count", "value": count, **common}
    assert client.post(f"/builds/{curlew}/edit", data=form).status_code == 200
    if split:
        client.post(f"/builds/{curlew}/add", data={"base": 2, "what": "split", **common})
    drawn = client.get(f"/builds/{curlew}/diagram.svg?option=as-built").text
    assert drawn.count("data-injector") == count
    assert ('data-name="Branch' in drawn) == split


def test_diagram_follows_its_sliders(client, curlew):
    def state(**at):
        page = soup(client.get(f"/builds/{curlew}/diagram", params={"option": "as-built", "target": "hill", **at}))
        return page.select_one(".diagram-state b").text, page.select_one("[data-name^=Rail]")["data-name"]

    assert state()[0] == "Regulating"
    starved = state(manifold_kpa=215, supply_v=10.5, ethanol_pct=100)
    assert starved[0] == "Starved"
    idle = state(rpm=900, manifold_kpa=-60)
    assert idle[0] == "Regulating"
    assert idle[1] != state()[1]
    for nonsense in ({"rpm": "fast"}, {"rpm": "1e999"}, {"rpm": "nan"}, {"supply_v": "-5"}):
        assert state(**nonsense)[0]


def test_diagram_in_bench_units(client, curlew):
    client.post("/units", data={"preset": "US"})
    text = client.get(f"/builds/{curlew}/diagram.svg").text
    assert "psi" in text
    # Parts keep their names; what is worked out is in the units of the bench.
    assert "kPa" not in re.sub(r"\d+ (L/h|cc/min) at \d+ kPa", "", text)
    assert PRESETS["US"]["pressure"] == "psi"


def test_the_parts_list_stands_under_the_diagram_and_exports(client, curlew):
    page = soup(client.get(f"/builds/{curlew}/draw?option=as-built"))
    sections = [caption.text for caption in page.select(".parts-list caption")]
    assert sections == ["Tank and supply", "Pumps", "Feed", "Engine", "Return", "Electrics"]
    assert "Turbine pump, 315 L/h at 400 kPa" in page.select_one(".parts-list").text
    file = client.get(f"/builds/{curlew}/parts-list.csv?option=as-built")
    assert file.headers["content-type"].startswith("text/csv")
    assert len(file.text.splitlines()) == len(page.select(".parts-list tbody tr")) + 1


def test_every_arrangement_side_by_side(client, curlew):
    assert soup(client.get(f"/builds/{curlew}/regulator")).select_one("#references .lazy-load")
    page = soup(client.get(f"/builds/{curlew}/references?option=as-built&target=hill"))
    assert len(page.select("thead th")) == 2 * 6
    assert page.select_one("thead b").text == "as fitted"
    assert all(len(row.select("td")) == 6 for row in page.select("tbody tr"))
    client.cookies.set("units", "pressure=psi")
    needed, now = page.select("table.plain-table")
    assert [one.get_text(strip=True).split(",")[0] for one in needed.select("tbody td:first-child")][:2] == [
        "Base pressure it needs",
        "Duty at peak",
    ]
    assert len(needed.select("tbody tr:first-child td")) == len(now.select("thead th"))
    for name in ("flow_needed", "flow_same", "share_needed", "share_same"):
        told = client.get(f"/builds/{curlew}/regulator/chart/{name}?option=as-built&target=hill").json()
        assert [one["kind"] for one in told["series"]].count("main") == 1
    carburettor = client.get("/builds/2/references")
    assert carburettor.status_code == 200


def test_a_pump_table_of_ones_own_stands_beside_the_shelfs(client, curlew):
    where = {"page": "pump", "option": "as-built", "target": "hill"}
    page = soup(client.post(f"/builds/{curlew}/add", data={**where, "base": 1, "what": "pumps/g1/part/curves"}))
    assert len(page.select("#group-g1 .data-table")) == 3
    assert page.select_one("#f-options-as-built-pumps-g1-part-curves-2-voltage_v")["value"] not in ("12", "13.5")
    changed = {**where, "base": 2, "path": "options/as-built/pumps/g1/part/curves/0/flow_l_h/0", "value": "440"}
    page = soup(client.post(f"/builds/{curlew}/edit", data=changed))
    notes = [note.text for note in page.select("#group-g1 .field-note")]
    assert notes == ["shelf says 375 L/h"]


@pytest.mark.parametrize(
    ("build", "target", "word"),
    [
        (3, "pump-fuel", "next to run out"),
        (3, "hill", "past the limit"),
        (1, "record&option=two-rails", "nearest the limit"),
    ],
)
def test_diagram_and_path_call_the_limit_alike(client, build, target, word):
    page = soup(client.get(f"/builds/{build}/draw?target={target}"))
    assert page.select_one(".limit-flag").text == word
    assert page.select_one("svg .flag-text").text == word


def test_a_point_of_a_pumps_table_follows_each_edit_unit_and_refusal(client, curlew):
    """The table is kept as long as it shows the same; whatever it shows otherwise shows at once."""
    path = "options/as-built/pumps/g1/part/curves/0/flow_l_h/1"
    where = {"page": "pump", "option": "as-built", "target": "hill", "path": path}

    def box(page):
        return page.find(id="f-" + path.replace("/", "-"))

    before = box(soup(client.get(f"/builds/{curlew}/pump?target=hill")))["value"]
    refused = soup(client.post(f"/builds/{curlew}/edit", data={**where, "base": 1, "value": "lots"}), 422)
    assert box(refused)["value"] == "lots"
    assert refused.find(id=box(refused)["aria-describedby"]).text
    again = soup(client.get(f"/builds/{curlew}/pump?target=hill"))
    assert box(again)["value"] == before
    assert not again.select(".field-error")
    less = str(round(float(before) * 0.97, 1))
    after = soup(client.post(f"/builds/{curlew}/edit", data={**where, "base": 1, "value": less}))
    assert box(after)["value"] == less
    assert "shelf says " + before in box(after).find_parent(class_="field").text
    client.post("/units", data={"flow": "gal/h"})
    assert float(box(soup(client.get(f"/builds/{curlew}/pump?target=hill")))["value"]) == pytest.approx(
        float(less) / 3.78541, rel=1e-3
    )
    client.post("/units", data={"flow": "L/h"})
    undone = soup(client.post(f"/builds/{curlew}/undo", data={**where, "base": 2}))
    assert box(undone)["value"] == before


def pressed(client, build, page, name):
    """A page once one of its buttons was pressed: sent what the button carries and where the page stands."""
    where = f"/builds/{build}/{page}?option=as-built&target=hill"
    shown = soup(client.get(where))
    button = shown.find("button", string=re.compile(name))
    sent = json.loads(shown.select_one("#work")["hx-vals"]) | json.loads(button["hx-vals"])
    answer = client.post(button["hx-post"], data=sent)
    assert answer.status_code == 200, answer.text[:400]
    return soup(client.get(where))


def stations(page):
    return {one["data-station"] for one in page.select("[data-station]")}


def test_a_port_car_becomes_a_carburettor_system_and_a_port_car_again(client, curlew):
    page = pressed(client, curlew, "injectors", "Make this a carburettor system")
    assert page.select_one(".station-injectors .station-title").text.strip() == "Carburettor"
    for key in ("fuel", "pump", "feed", "demand", "regulator"):
        soup(client.get(f"/builds/{curlew}/{key}?option=as-built&target=hill"))
    page = pressed(client, curlew, "injectors", "Convert to port injection")
    assert page.select_one(".station-injectors .station-title").text.strip() == "Injectors"


def test_direct_injection_is_added_to_a_port_car_and_taken_away_again(client, curlew):
    assert "high" not in stations(soup(client.get(f"/builds/{curlew}/injectors?option=as-built&target=hill")))
    assert "high" in stations(pressed(client, curlew, "injectors", "Add direct injection"))
    assert pressed(client, curlew, "high", "Add a pump").select("[aria-label='Remove pump 2']")
    assert "high" not in stations(pressed(client, curlew, "high", "Port injection alone"))


def test_a_pump_known_by_another_measure_shows_the_plunger_it_comes_to(client, workshop):
    build = workshop.garage.page("dunlin").rows[0].id
    bench = workshop.judging.bench(build)
    path = f"options/{bench.option.id}/high_side/pumps/0/part"
    for edits, says in (
        ([(f"{path}/bore_mm", 10.0), (f"{path}/over_stock_pct", 44.0)], "a plunger of 12 mm"),
        ([(f"{path}/driven", "several plungers"), (f"{path}/displacement_cc", 0.6)], "3 plungers of 6.3 mm"),
    ):
        number = workshop.judging.bench(build).stored.number
        assert workshop.edits.make(build, number, edits, "tried").ok
        shown = soup(client.get(f"/builds/{build}/high?option={bench.option.id}")).text
        assert says in shown.replace("\u00a0", " ").replace("12.0 mm", "12 mm")
