"""The values sheet: the check value of physics, the same on the page and in both files, and what changed since."""

import csv
import io
import json

from iron_gulp.core.account.values_sheet import Changed, SheetRow
from iron_gulp.units import BenchUnits
from iron_gulp.web.benches.values.rows import changes_of
from tests.draws import LONG
from tests.web.parsing import parsed


def soup(answer, status=200):
    assert answer.status_code == status, answer.text[:300]
    return parsed(answer.text)


def test_every_build_has_a_sheet_the_same_in_both_files(reader, reading):
    for row in reading.garage.page().rows[:: 1 if LONG else 3]:
        page = soup(reader.get(f"/builds/{row.id}/values/sheet"))
        shown = page.select(".value-table tr")
        told = list(csv.DictReader(io.StringIO(reader.get(f"/builds/{row.id}/values/sheet.csv").text)))
        data = json.loads(reader.get(f"/builds/{row.id}/values/sheet.json").text)
        kept = {name: value for one in data["sections"] for name, value in one["values"].items()}
        assert len(shown) == len(told) == len(kept)
        assert all(one["number"] for one in told)
        bench = reading.judging.bench(row.id)
        if bench.option.injectors is not None:
            assert kept["base_pressure_kpa"] == bench.option.regulator.base_kpa
        boosted = bench.build.engine.induction != "naturally aspirated"
        assert any(name.startswith("boost_e") for name in kept) == boosted


def test_given_out_and_then_changed(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    form = {"page": "values", "option": bench.option.id, "target": bench.verdict.target.id, "base": bench.stored.number}
    assert "Never given out" in client.get(f"/builds/{curlew}/values/sheet").text
    soup(client.post(f"/builds/{curlew}/values/issue", data=form))
    assert "nothing on it has changed" in client.get(f"/builds/{curlew}/values/sheet").text
    path = f"options/{bench.option.id}/regulator/base_kpa"
    soup(client.post(f"/builds/{curlew}/edit", data={**form, "path": path, "value": "350"}))
    changed = soup(client.get(f"/builds/{curlew}/values/sheet")).select_one(".changed-values")
    assert "Base pressure" in changed.text
    assert "350" in changed.text
    assert client.post(f"/builds/{curlew}/values/issue", data={**form, "base": 999}).status_code == 404


def test_a_pasted_table_replaces_what_was_assumed_and_is_refused_at_its_cell(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)

    def post(address, status=200, **data):
        form = {"page": "values", "option": bench.option.id, "target": bench.verdict.target.id}
        number = workshop.judging.bench(curlew).stored.number
        answer = client.post(f"/builds/{curlew}/{address}", data={**form, "base": number, **data})
        assert answer.status_code == status, answer.text[:300]
        return parsed(answer.text)

    text = "\t2000\t5000\t7500\n40\t1.0\t1.0\t1.0\n200\t0.84\t0.82\t0.82\n320\t0.80\t0.78\t0.78\n"
    page = post("values/table", text=text, what="mixture")
    build = workshop.judging.bench(curlew).build
    for target in build.targets:
        assert target.lambda_ == round(float(build.tables[0].at(target.rpm, target.boost_kpa)), 4)
    assert "3 × 3 cells" in page.text
    grid = parsed(client.get(f"/builds/{curlew}/values/table/{build.tables[0].id}").text)
    assert len(grid.select("tbody td")) == 9
    assert grid.select_one("tbody th").text.split()[0] == "219"
    faulty = text.replace("0.82", "12.1", 1)
    refused = post("values/table", 422, text=faulty, what="mixture")
    assert "row 3, column 3" in refused.select_one(".field-error").text
    assert refused.select_one("#pasted-table").text.strip() == faulty.strip()
    again = post("values/table", text=text.replace("0.82", "0.83"), what="mixture")
    assert len(workshop.judging.bench(curlew).build.tables) == 1
    assert again.select_one("#pasted-table").text.strip() == ""
    post("values/table", text="\t2000\t7000\nboost\t100\t150\n", what="boost", only=build.targets[0].id)
    assert workshop.judging.bench(curlew).build.tables[-1].target == build.targets[0].id
    post("undo")
    post("undo")
    post("undo")
    assert workshop.judging.bench(curlew).build.tables == ()
    assert client.get(f"/builds/{curlew}/values/table/m99").status_code == 404


def test_what_reads_the_same_before_and_after_is_no_change():
    row = SheetRow("flow_l_h", "Flow", 115.3, "the pump's table")
    changed = tuple(Changed("Pumps", row, before, 115.31) for before in (115.32, 110.0, None))
    assert [(one.before, one.after) for one in changes_of(changed, BenchUnits())] == [
        ("110\u00a0L/h", "115\u00a0L/h"),
        ("–", "115\u00a0L/h"),
    ]
