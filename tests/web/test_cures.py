"""A finding's remedies from the shelf: searched when asked for, fitted by one click and taken back by another."""

import json

from iron_gulp.web.benches.cures.rows import cure_rows
from tests.web.test_design import Bench, soup

FINDING = "regulator-overrun"


def opened(bench, code=FINDING):
    """The piece once the search is done."""
    address = f"/builds/{bench.build}/cures/{code}?option=one-large"
    assert soup(bench.client.get(address)).button.text == "Search the shelf"  # looking begins nothing
    first = bench.post(f"cures/{code}/search", option="one-large")
    bench.workshop.cures.wait()
    return first, soup(bench.client.get(address))


def test_a_cure_is_searched_fitted_and_undone(client, workshop, curlew):
    bench = Bench(client, workshop, curlew, "regulator")
    findings = [one.code for one in workshop.judging.bench(curlew, "one-large").judged.findings]
    asked = f"option=one-large&number={findings.index(FINDING)}"
    remedies = soup(client.get(f"/builds/{curlew}/regulator/remedies?{asked}"))
    assert f"/cures/{FINDING}/search" in remedies.select_one(".lazy-load")["hx-post"]
    first, done = opened(bench)
    assert "load" in first.div.get("hx-trigger", "load")
    assert not done.select("[hx-trigger]")
    buttons = done.select("button.remedy")
    assert "Regulator: Adjustable bypass regulator, 630 L/h" in buttons[0].text
    assert "€" in done.text
    before = bench.now.build
    index = json.loads(buttons[0]["hx-vals"])["index"]
    base = bench.now.stored.number
    answer = bench.post(f"cures/{FINDING}", option="one-large", index=index)
    assert "Adjustable bypass regulator, 630 L/h" in answer.text
    after = bench.now.build
    assert [one.id for one in after.options] == [one.id for one in before.options]
    assert after.option("as-built") == before.option("as-built")
    part = after.option("one-large").regulator.part
    assert part.capacity_l_h == 630
    changed = before.option("one-large").model_copy(update={"regulator": after.option("one-large").regulator})
    assert changed == after.option("one-large")
    codes = [one.code for one in workshop.judging.bench(curlew, "one-large").judged.findings]
    assert FINDING not in codes
    assert client.get(f"/builds/{curlew}/cures/{FINDING}?option=one-large").status_code == 404
    # What was searched on the revision before is not fitted on this one.
    stale = bench.post(f"cures/{FINDING}", 422, option="one-large", index=0)
    assert "no longer applies" in stale.text
    assert bench.now.stored.number == base + 1
    bench.post("undo")
    assert bench.now.build == before


def test_what_is_no_finding_of_parts_has_no_cures(client, workshop, curlew):
    bench = Bench(client, workshop, curlew, "regulator")
    for code in ("wiring-drop", "needles", FINDING):
        assert client.get(f"/builds/{curlew}/cures/{code}?option=as-built").status_code == 404, code
    assert client.get("/builds/999/cures/regulator-overrun").status_code == 404
    answer = bench.post(f"cures/{FINDING}", 422, option="one-large", index=7)
    assert "no longer applies" in answer.text
    wire = soup(client.get(f"/builds/{curlew}/pump/remedies?option=one-large&number=0&number=1&number=2"))
    assert all("wiring-drop" not in one["hx-post"] for one in wire.select(".lazy-load"))


def test_a_cure_of_a_part_with_typed_data_is_told_whether_its_name_says_so_or_not(client, workshop):
    """Files of earlier versions hold parts typed over under the shelf's own name."""
    build = workshop.garage.page("curlew").rows[0].id
    number = workshop.judging.bench(build).stored.number
    path = "options/as-built/injectors/part/rated_flow_cc_min"
    workshop.edits.make(build, number, [(path, 265.0)], "typed over")
    number = workshop.judging.bench(build).stored.number
    name = workshop.judging.bench(build, "two-sets").option.injectors.part.name
    workshop.edits.make(build, number, [("options/as-built/injectors/part/name", name)], "the shelf's name again")
    bench = workshop.judging.bench(build)
    codes = [one.code for one in bench.judged.findings if one.code == "injectors-small"]
    assert codes
    searched = workshop.cures.start(bench, codes[0])
    workshop.cures.wait()
    assert not searched.broke_off
    assert searched.found
    rows = cure_rows(searched.found, workshop.roads.rates())
    assert all("njectors" in one.label for one in rows)
    where = f"?option={bench.option.id}&target={bench.verdict.target.id}"
    assert client.get(f"/builds/{build}/cures/{codes[0]}{where}").status_code == 200
