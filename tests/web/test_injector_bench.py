"""The injector bench: the window of sizes, a measured set with its file, and its calculators."""

import csv
import io

from tests.web.parsing import parsed


def soup(answer, status=200):
    assert answer.status_code == status, answer.text[:300]
    return parsed(answer.text)


def test_the_window_marks_the_fitted_size_and_the_smallest_that_does(reader, reading):
    for row in reading.garage.page().rows:
        bench = reading.judging.bench(row.id)
        answer = reader.get(f"/builds/{row.id}/injectors/window")
        if bench.option.injectors is None or bench.option.mode == "direct only":
            assert answer.status_code == 204
            continue
        page = soup(answer)
        assert len(page.select(".own-row")) == 1
        assert sum("smallest that carries" in one.text for one in page.select("tbody tr")) <= 1
        assert page.select_one("svg.sketch")["aria-label"] in page.select_one(".answer").text


def test_a_set_is_typed_shown_and_exported_and_a_wrong_one_stays_in_its_field(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    path = f"options/{bench.option.id}/injectors/measured_flows"
    form = {"page": "injectors", "option": bench.option.id, "target": bench.verdict.target.id, "path": path}
    assert client.get(f"/builds/{curlew}/injectors/set.csv").status_code == 404
    number = bench.stored.number
    wrong = soup(client.post(f"/builds/{curlew}/edit", data={**form, "base": number, "value": "801; many"}), 422)
    field = wrong.select_one(f"[data-path='{path}']")
    assert field.select_one(".field-error")
    assert field.select_one("input, textarea").get("value", field.text).strip().startswith("801; many")
    data = {**form, "base": number, "value": "800; 760; 805; 810; 803"}
    page = soup(client.post(f"/builds/{curlew}/edit", data=data))
    words = page.text
    assert "Cylinder 2 runs 4.7" in words
    assert "Replacing number 2" in words
    rows = list(csv.DictReader(io.StringIO(client.get(f"/builds/{curlew}/injectors/set.csv").text)))
    assert [float(one["flow_cc_min"]) for one in rows] == [800, 760, 805, 810, 803]
    assert float(rows[1]["mixture_error_pct"]) == 4.68


def test_the_calculators_of_the_bench_answer(client, curlew):
    for key in ("identify", "swap"):
        assert soup(client.get(f"/builds/{curlew}/calculator/{key}")).select_one(".mix-answer").text


def test_a_second_set_is_added_shown_and_taken_away(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    where = f"options/{bench.option.id}/injectors/second"
    form = {"page": "injectors", "option": bench.option.id, "target": "hill"}

    def base():
        return workshop.judging.bench(curlew).stored.number

    page = soup(client.post(f"/builds/{curlew}/add", data={**form, "base": base(), "what": "injectors/second"}))
    assert "Both sets at the peak" in page.text
    for field in ("joins_pct", "count", "part/rated_flow_cc_min", "part/dead_time_ms/0", "part/price"):
        assert page.select_one(f"[data-path='{where}/{field}']"), field
    data = {**form, "base": base(), "path": f"{where}/joins_pct", "value": "40"}
    assert (
        "40"
        in soup(client.post(f"/builds/{curlew}/edit", data=data)).select_one(f"[data-path='{where}/joins_pct'] input")[
            "value"
        ]
    )
    data = {**form, "base": base(), "path": f"{where}/part", "kind": "injectors", "value": "inj-1000"}
    soup(client.post(f"/builds/{curlew}/part", data=data))
    assert workshop.judging.bench(curlew).option.injectors.second.part.rated_flow_cc_min == 1000
    assert "Second injectors" in client.get(f"/builds/{curlew}/draw").text
    soup(client.post(f"/builds/{curlew}/remove", data={**form, "base": base(), "path": where}))
    assert workshop.judging.bench(curlew).option.injectors.second is None


def test_a_pressure_of_dead_times_is_added_typed_and_removed(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    place = f"options/{bench.option.id}/injectors/part"

    def post(address, status=200, **data):
        form = {"page": "injectors", "option": bench.option.id, "target": bench.verdict.target.id}
        number = workshop.judging.bench(curlew).stored.number
        answer = client.post(f"/builds/{curlew}/{address}", data={**form, "base": number, **data})
        assert answer.status_code == status, answer.text[:300]
        return parsed(answer.text)

    wide = len(bench.option.injectors.part.dead_time_v)
    for _ in range(2):
        page = post("add", what="injectors/part/dead_more_kpa")
    assert len(page.select(".dead-table tbody tr")[0].select("td")) == 4
    part = workshop.judging.bench(curlew).option.injectors.part
    assert part.dead_more_kpa == (400.0, 500.0)
    post("edit", path=f"{place}/dead_more_ms/{wide + 1}", value="2.1")
    refused = post("edit", 422, path=f"{place}/dead_more_kpa/1", value="400 kPa")
    assert "stands twice" in refused.text
    post("remove", path=f"{place}/dead_more_kpa/0")
    part = workshop.judging.bench(curlew).option.injectors.part
    assert part.dead_more_kpa == (500.0,)
    assert part.dead_more_ms[1] == 2.1
    for wrong in ("9", "x", "-1"):
        post("remove", 422, path=f"{place}/dead_more_kpa/{wrong}")
    pulses = parsed(client.get(f"/builds/{curlew}/injectors/idle").text)
    assert len(pulses.select("tbody tr")) == len(bench.build.targets)
