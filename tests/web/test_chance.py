"""The page of chances says what the draws say, the same as the command line, and a tolerance typed moves it."""

import json

from typer.testing import CliRunner

from iron_gulp.cli import app
from iron_gulp.core.model import LIMITS
from iron_gulp.core.study import chances
from iron_gulp.services.chances import Odds
from tests.draws import LONG
from tests.web.parsing import parsed


def soup(answer, status=200):
    assert answer.status_code == status, answer.text[:300]
    return parsed(answer.text)


def test_every_build_has_its_dots_a_row_a_component(reader, reading):
    for row in reading.garage.page().rows[:: 1 if LONG else 3]:
        bench = reading.judging.bench(row.id)
        assert not soup(reader.get(f"/builds/{row.id}/chance")).select(".bar-band")
        page = soup(reader.get(f"/builds/{row.id}/chance/dots"))
        found = Odds.of(bench).of(bench.verdict.target.id)
        marks = page.select(".chance-dots .s-dot, .chance-dots .s-bar")
        assert len(marks) == 20 * sum(one in LIMITS for one in found.loads)
        past = sum((load > 1.0).mean() for one, load in found.loads.items() if one in LIMITS)
        assert abs(len(page.select(".chance-dots .s-over")) / 20 - past) <= 0.051 * len(found.loads)
        assert len(page.select(".bar-band")) >= 4


def test_the_page_says_what_the_command_line_says(reader, reading, tmp_path):
    row = next(one for one in reading.garage.page().rows if one.name == "Curlew")
    file = tmp_path / "curlew.json"
    file.write_text(reading.documents.export(row.id)[1], encoding="utf-8")
    told = json.loads(CliRunner().invoke(app, ["chance", str(file)]).stdout)
    bench = reading.judging.bench(row.id)
    shown = Odds.of(bench)
    assert [one["carried"] for one in told["targets"]] == [one.carried for one in shown.targets]
    assert told["carried"] == shown.carried
    page = soup(reader.get(f"/builds/{row.id}/chance/dots"))
    assert f"{told['targets'][0]['carried'] * 100:.0f} of 100 cars" in page.select_one(".answer").text
    again = json.loads(CliRunner().invoke(app, ["chance", str(file), "--draws", "50", "--seed", "7"]).stdout)
    assert again["targets"][0]["carried"] == chances(bench.build, bench.build.options[0], 50, 7).targets[0].carried


def test_the_command_line_refuses_what_is_not_there(tmp_path, reading):
    file = tmp_path / "build.json"
    file.write_text(reading.documents.export(1)[1], encoding="utf-8")
    for arguments in (["chance", str(file), "--option", "none"], ["ceilings", str(file), "--target", "none"]):
        answer = CliRunner().invoke(app, arguments)
        assert answer.exit_code == 2
        assert "none" in answer.output
    assert CliRunner().invoke(app, ["chance", str(file), "--draws", "0"]).exit_code == 2
    rows = CliRunner().invoke(app, ["ceilings", str(file)]).stdout.splitlines()
    assert rows[0].startswith("ethanol_pct,limit_kw,limiting")
    assert len(rows) == 102


def test_a_tolerance_typed_is_kept_and_moves_the_chance(client, workshop, curlew):
    bench = workshop.judging.bench(curlew)
    form = {"page": "chance", "option": bench.option.id, "target": bench.verdict.target.id}
    before = Odds.of(bench).targets[0].quantiles("injectors")
    data = {**form, "base": bench.stored.number, "path": "tolerances/consumption/spread_pct", "value": "1"}
    soup(client.post(f"/builds/{curlew}/edit", data=data))
    after = workshop.judging.bench(curlew)
    assert after.build.tolerances.consumption.spread_pct == 1
    narrowed = Odds.of(after).targets[0].quantiles("injectors")
    assert narrowed[2] - narrowed[0] < before[2] - before[0]
    data = {**form, "base": after.stored.number, "path": "tolerances/consumption/spread_pct", "value": "90"}
    refused = soup(client.post(f"/builds/{curlew}/edit", data=data), 422)
    assert refused.select_one("[data-path='tolerances/consumption/spread_pct'] .field-error")


def test_what_matters_and_the_corners_come_when_looked_at(reader, reading):
    for row in reading.garage.page().rows[: 2 if LONG else 1]:
        bench = reading.judging.bench(row.id)
        component, found = Odds.matters(bench)
        page = soup(reader.get(f"/builds/{row.id}/chance/matters"))
        assert component in page.text.replace("pump suction", "suction").replace("pump wiring", "wiring") or found
        corners = soup(reader.get(f"/builds/{row.id}/chance/corners"))
        assert len(corners.select("tbody tr")) == len(Odds.corners(bench))
        assert len(corners.select("thead th")) == len(bench.build.targets) + 1
        first = Odds.corners(bench)[0]
        assert [one.first_out.load for one in first.verdicts] == [
            one.first_out.load for one in bench.judged.verdicts
        ] or all(abs(a.first_out.load / b.first_out.load - 1) < 1e-9
                 for a, b in zip(first.verdicts, bench.judged.verdicts, strict=True))  # fmt: skip
