"""The pages that decide: a few answers to a sized build, options beside each other, a search with its locks."""

import json
import time
from threading import Thread
from types import SimpleNamespace

import pytest
from typer.testing import CliRunner

from iron_gulp.cli import app
from iron_gulp.core.model import flow_at
from iron_gulp.core.plan import Answers, Locks, lanes
from iron_gulp.services.designs import read_locks
from iron_gulp.services.sizing import processes
from iron_gulp.services.workshop import Workshop
from tests.core.test_design import MODEST, modest
from tests.core.test_upgrade import later
from tests.draws import LONG
from tests.web.parsing import parsed

KW = {
    "name": "Linnet",
    "displacement_l": "1.8",
    "cylinders": "4",
    "power_kw": "130 hp",
    "induction": "naturally aspirated",
}


def test_a_build_is_sized_in_the_background_and_its_option_shown(client, workshop, monkeypatch):
    small = SimpleNamespace(catalogue=MODEST, parts=lambda kind: [])
    monkeypatch.setattr(workshop.sizing, "_shelf_of", SimpleNamespace(shelf=small))
    build = workshop.garage.add(modest(), "made for a test")
    bench = Bench(client, workshop, build, "ask")
    assert client.get(f"/builds/{build}/size").status_code == 204
    started = bench.post("size")
    assert "Sizing" in started.text
    workshop.sizing.wait(build)
    answer = client.get(f"/builds/{build}/size")
    option = bench.now.build.options[-1]
    assert option.name == "Sized for these targets"
    assert f"option={option.id}" in answer.headers["HX-Redirect"]
    assert not soup(answer).select("[hx-trigger]")
    assert len(option.why.splitlines()) >= 4
    assert client.post("/builds/999/size", data={"base": 1}).status_code == 404
    assert client.post(f"/builds/{build}/size", data={"base": 99}).status_code == 404


def number(text):
    return float("".join(one for one in text if one in "0123456789."))


def soup(answer, status=200):
    assert answer.status_code == status, answer.text[:300]
    return parsed(answer.text)


class Bench:
    """A build as a browser works on one of its pages."""

    def __init__(self, client, workshop, build, page):
        self.client, self.workshop, self.build, self.page = client, workshop, build, page

    @property
    def now(self):
        return self.workshop.judging.bench(self.build)

    def post(self, address, status=200, option=None, **data):
        form = {"page": self.page, "option": option or self.now.option.id, "target": self.now.verdict.target.id}
        form |= {"base": self.now.stored.number, **data}
        return soup(self.client.post(f"/builds/{self.build}/{address}", data=form), status)


@pytest.fixture(autouse=True)
def in_this_process(monkeypatch):
    """Short searches are done sooner without other processes."""
    monkeypatch.setattr("iron_gulp.services.sizing.WORKERS", 1)
    monkeypatch.setattr("iron_gulp.services.designs.CHANCE_DRAWS", 40)


def test_a_few_answers_become_a_sized_build_with_the_reason_for_every_part(client, workshop):
    page = soup(client.get("/new"))
    assert {one["name"] for one in page.select("#new-form [name]")} == {"form", "draft", *Answers.model_fields}
    assert len(page.select("#new-form .fields")[0].select(".field")) <= 8
    form = {**KW, "form": page.select_one("[name=form]")["value"]}
    waits = soup(client.post("/new", data=form))
    assert "Sizing" in waits.text
    soup(client.post("/new", data=form))  # pressed twice, reloaded: one build
    workshop.sizing.made(form["form"]).task.ended.wait()
    made = soup(client.get(f"/new/{form['form']}"))
    assert len(workshop.garage.page("Linnet").rows) == 1
    assert "Linnet" in made.h1.text
    assert len(made.select(".why-list li")) >= 6
    row = next(one for one in workshop.garage.page("Linnet").rows)
    bench = workshop.judging.bench(row.id)
    assert not [one for one in bench.judged.findings if one.severity != "note"]
    assert len(made.select("#assumed li")) == len(bench.build.assumed) >= 3
    assert not made.select(".stale")
    assert bench.build.targets[0].power_kw == pytest.approx(130 * 0.745699872)


def test_a_draft_keeps_all_that_was_typed_and_may_be_begun_before_the_power_is_known(client, workshop):
    typed = {**KW, "name": "Avocet", "draft": "yes", "use": "rally", "injector_cc_min": "440", "later_kw": "200 hp"}
    page = soup(client.post("/new", data=typed))
    assert "Avocet" in page.h1.text
    (row,) = workshop.garage.page("Avocet").rows
    build = workshop.judging.bench(row.id).build
    assert (build.car.use, len(build.options), len(build.targets)) == ("rally", 1, 2)
    assert build.options[0].injectors.part.rated_flow_cc_min == 440
    assert build.options[0].lift is not None
    assert len(build.assumed) >= 4
    assert build.notes == ""
    client.post("/new", data={"draft": "yes", "name": "Avocet two", "power_kw": ""})
    assert workshop.garage.page("Avocet two").rows
    refused = soup(client.post("/new", data={**typed, "later_kw": "20 hp"}), 422)
    assert refused.select_one("[data-path=later_kw] .field-error")
    assert refused.select_one("#q-injector_cc_min")["value"] == "440"
    assert refused.select_one("details.fold").has_attr("open")


@pytest.mark.parametrize(
    ("name", "typed", "says"),
    [
        ("power_kw", "", "must be answered"),
        ("power_kw", "lots", "not a number"),
        ("power_kw", "-5", "must lie from"),
        ("displacement_l", "NaN", "not a number"),
        ("cylinders", "4.5", "whole number"),
        ("fuel", "kerosene", "pump fuel"),
        ("boost_kpa", "9000", "must lie from"),
        ("rpm", "12 psi", "does not fit"),
    ],
)
def test_a_wrong_answer_is_told_at_its_question_and_kept(client, workshop, name, typed, says):
    before = workshop.garage.page().total
    page = soup(client.post("/new", data={**KW, name: typed}), 422)
    field = page.select_one(f"[data-path='{name}']")
    assert says in field.select_one(".field-error").text
    if field.select_one("input") is not None:
        assert field.select_one("input").get("value", "") == typed
    assert page.select_one("[name='name']")["value"] == "Linnet"
    assert workshop.garage.page().total == before


def test_options_stand_beside_each_other_and_one_is_chosen_with_its_reason_and_figures(client, workshop, curlew):
    bench = Bench(client, workshop, curlew, "compare")
    table = soup(client.get(f"/builds/{curlew}/compare/table"))
    options = bench.now.build.options
    assert len(table.select(".compared")[0].select("thead th")) == 1 + len(options)
    assert len(table.select("svg.multiples .s-limit")) == len(options) * len(bench.now.build.targets)
    assert "today" in table.select(".compared thead")[0].text
    refused = bench.post("compare/choose", 422, choice=options[1].id, why=" ")
    assert "has a reason" in refused.text
    page = bench.post("compare/choose", choice=options[1].id, why="one pump is easier to watch")
    build = bench.now.build
    assert (build.chosen, build.chosen_why) == (options[1].id, "one pump is easier to watch")
    assert build.chosen_on
    assert "all in" in build.chosen_says
    assert "easier to watch" in page.text
    bench.post("compare/fitted", choice=options[1].id)
    assert bench.now.build.fitted_today == options[1].id
    free = soup(client.get(f"/builds/{curlew}/compare/table"))
    costs = next(one for one in free.select(".compared") if "All in" in one.text)
    assert costs.select("tbody tr")[-1].select("td")[0].text.split()[0] == "0"  # what is fitted costs nothing
    weighing = table.select_one(".weighed")
    inputs = soup(client.get(f"/builds/{curlew}/compare")).select("[data-path^='weights/'] input")
    assert len(inputs) == len(weighing.select("tbody tr")) - 1
    first = weighing.select("tbody tr")[-1].text
    bench.post("edit", path="weights/cost", value="0")
    assert soup(client.get(f"/builds/{curlew}/compare/table")).select(".weighed tbody tr")[-1].text != first
    assert "must lie" in bench.post("edit", 422, path="weights/cost", value="11").text
    bench.post("undo")
    one = bench.now.build.options[2]
    quote = soup(client.get(f"/builds/{curlew}/compare/quote?option={one.id}"))
    paid, _ = workshop.comparing.quote(workshop.judging.bench(curlew, one.id))
    assert len(quote.select("tbody tr")) == len(paid.rows) + 5
    rows = [number(each.select("td")[-1].text) for each in quote.select("tbody tr")]
    assert sum(rows[:-1]) == pytest.approx(rows[-1], abs=0.03)
    assert rows[-1] == pytest.approx(paid.quoted, abs=0.006)
    assert "Nothing is bought" in soup(client.get(f"/builds/{curlew}/compare/quote?option={options[1].id}")).text
    sheet = soup(client.get(f"/builds/{curlew}/compare/sheet"))
    assert len(sheet.select("main section")) == len(options)
    assert "the decision is yours" in sheet.text
    bench.post("undo")
    bench.post("undo")
    assert bench.now.build.chosen == ""


def test_a_search_is_started_watched_and_its_design_opened(client, workshop, monkeypatch):
    small = SimpleNamespace(catalogue=MODEST, parts=lambda kind: [])
    monkeypatch.setattr(workshop.sizing, "_shelf_of", SimpleNamespace(shelf=small))
    build = workshop.garage.add(later(), "made for a test")
    bench = Bench(client, workshop, build, "design")
    bench.post("compare/fitted", choice=bench.now.option.id)
    empty = soup(client.get(f"/builds/{build}/design/state"))
    assert "press Search" in empty.text
    refused = bench.post("design/start", 422, most_pumps="many")
    assert "Pumps at most" in refused.select_one(".field-error").text
    bench.post("design/start", returns="with a return", most_pumps="2")
    workshop.designs.wait(build, bench.now.option.id)
    done = soup(client.get(f"/builds/{build}/design/state"))
    job = workshop.designs.of(build, bench.now.option.id)
    assert len(done.select(".designs tbody")) == len(job.front) >= 1
    assert len(done.select("svg.front circle")) == len(job.front)
    assert not done.select("[hx-trigger='every 1s']")
    assert "Combinations fell to" in done.text
    assert "of 100" in done.select_one(".designs").text
    road = soup(client.get(f"/builds/{build}/design/road"))
    ways = workshop.designs.ways(bench.now, 0)
    assert [one.h3.text.split(":")[0] for one in road.select(".road-steps li")] == ["Today", "Step 1", "Step 2"]
    assert len(road.select("svg.lanes rect")) == len(lanes(bench.now.build, ways.least_waste))
    assert "Safe meanwhile" in road.text
    assert len(road.select("tr.own-row ~ tr")) == 2
    assert ways.each_time.total >= ways.least_waste.total - 1.0
    assert client.get(f"/builds/{build}/design/road?number=77").status_code == 204
    bench.post("design/open", number="0")
    assert client.get(f"/builds/{build}/design/road").status_code == 204  # of another revision
    opened = bench.now.build.options[-1]
    assert opened.pumps == job.front[0].option.pumps
    assert "has changed since" in soup(client.get(f"/builds/{build}/design/state")).text
    bench.post("design/open", 422, number="77")
    if not LONG:
        return
    bench.post("design/start?fewest=true", returns="with a return", most_pumps="2")
    workshop.designs.wait(build, bench.now.option.id)
    few = soup(client.get(f"/builds/{build}/design/state"))
    assert "The fewest parts that put it right" in few.text
    assert len(few.select(".designs tbody")) == len(workshop.designs.of(build, bench.now.option.id).front) >= 1
    bench.post("design/start", budget="1", returns="with a return")
    workshop.designs.wait(build, bench.now.option.id)
    nothing = soup(client.get(f"/builds/{build}/design/state"))
    assert "No system carries every target" in nothing.text
    assert "Without “Budget, all in”: from" in nothing.text
    count = len(bench.now.build.options)
    bench.post("design/open", 422, number="9")
    bench.post("design/open", number="0")
    assert len(bench.now.build.options) == count + 1
    assert bench.now.build.options[-1].name.startswith("With another lock open")
    bench.post("design/stop")


def test_a_real_part_takes_the_place_of_a_generic_one(client, workshop, curlew):
    bench = Bench(client, workshop, curlew, "compare")
    page = soup(client.get(f"/builds/{curlew}/compare/real"))
    lines = {one.select_one("[name=path]")["value"]: one for one in page.select(".real-line")}
    assert {"lift", "filter", "feed", "injectors", "regulator", "return_line"} < set(lines)
    assert "at least" in lines["injectors"].text
    number = bench.now.stored.number
    for typed, says in (
        ({"name": "Real one", "datum": "many"}, "not a number"),
        ({"name": "Real one", "datum": "-5"}, "more than nothing"),
        ({"name": "Real one", "price": "-5"}, "0"),
        ({"name": "Real one", "lead_days": "2.5"}, "whole days"),
        ({"datum": "1300"}, "has a name"),
        ({"name": "Real one", "datum": "1e9"}, "at most 20000"),
    ):
        refused = bench.post("compare/real", 422, path="injectors", **typed)
        assert says in refused.select_one(".field-error").text
        assert [one["value"] for one in refused.select("[name=datum]")] == [typed.get("datum", "")]
    bench.post("compare/real", 422, path="carburettor", name="Real one")
    assert bench.now.stored.number == number
    bench.post("compare/real", path="injectors", name="Real one", datum="1300", price="99", lead_days="12")
    part = bench.now.option.injectors.part
    assert (part.name, part.rated_flow_cc_min, part.price, part.lead_days) == ("Real one", 1300, 99, 12)
    assert part.shelf_id is None
    if LONG:
        group = bench.now.option.pumps[0]
        need = next(one for one in workshop.real_parts.needs(bench.now) if one.path == f"pumps/{group.id}")
        bench.post("compare/real", path=need.path, name="Real pump", datum=f"{need.has * 1.1}")
        assert flow_at(bench.now.option.pumps[0].part, need.rise_kpa) == pytest.approx(need.has * 1.1, rel=2e-3)
    shown = soup(client.get(f"/builds/{curlew}/compare/real")).text
    assert "Real one (in place of Port injector, 800 cc/min at 300 kPa)" in shown
    bench.post("undo")
    if LONG:
        bench.post("undo")
    assert bench.now.option.injectors.part.name == "Port injector, 800 cc/min at 300 kPa"


def test_one_search_at_a_time_has_processes_of_its_own(monkeypatch):
    monkeypatch.setattr("iron_gulp.services.sizing.WORKERS", 2)
    for _ in range(2):
        with processes() as first, processes() as second:
            assert (first, second) == (2, 1)
    with processes() as again:
        assert again == 2


@pytest.mark.skipif(not LONG, reason="processes of a search take a while to come")
@pytest.mark.parametrize("wait_s", [0.0, 4.0])
def test_a_workshop_closes_while_a_search_runs_on_processes(workshop, curlew, monkeypatch, wait_s):
    monkeypatch.setattr("iron_gulp.services.sizing.WORKERS", 2)
    monkeypatch.setattr("iron_gulp.services.jobs.ENDS_WITHIN_S", 0.0)  # as on a machine too busy to end in time
    bench = workshop.judging.bench(curlew)
    workshop.designs.start(bench, Locks())
    time.sleep(wait_s)
    closing = Thread(target=workshop.close, daemon=True)
    closing.start()
    closing.join(60.0)
    assert not closing.is_alive()
    # And the next search, of the next server, works.
    again = Workshop(workshop._path)
    bench = again.judging.bench(curlew)
    again.designs.start(bench, Locks(keep=("injectors", "lines", "regulator"), most_pumps=1))
    again.designs.wait(curlew, bench.option.id)
    assert not again.designs.of(curlew, bench.option.id).failed
    again.close()


@pytest.mark.parametrize(
    ("typed", "keep", "field"),
    [
        ({"budget": "-1"}, [], "Budget"),
        ({"most_pumps": "0"}, [], "Pumps at most"),
        ({"headroom_pct": "NaN"}, [], "Headroom"),
        ({"returns": "sideways"}, [], "Return"),
        ({}, ["the engine"], "Keep"),
    ],
)
def test_locks_that_cannot_be_are_told_by_name(typed, keep, field):
    locks, problem = read_locks(typed, keep)
    assert locks is None
    assert problem.startswith(field)
    assert read_locks({"budget": "", "headroom_pct": "12,5"}, ["pumps"])[0] == Locks(keep=("pumps",), headroom_pct=12.5)


def test_the_command_line_prints_the_same_front(tmp_path, workshop, monkeypatch):
    from iron_gulp.core.model import Rates
    from iron_gulp.core.plan import Search
    from iron_gulp.formats.build_file import write

    monkeypatch.setattr("iron_gulp.cli.computing.load_shelf", lambda: type("Shelf", (), {"catalogue": MODEST})())
    file = tmp_path / "modest.json"
    file.write_text(write(modest()), encoding="utf-8")
    answer = CliRunner().invoke(app, ["design", str(file), "--returns", "with a return", "--most-pumps", "2"])
    told = json.loads(answer.stdout)
    build = modest()
    search = Search(build, build.options[0], MODEST, Rates(), Locks(returns="with a return", most_pumps=2))
    for _ in search.run():
        pass
    assert [one["cost"] for one in told["designs"]] == [
        round(one.bill.total, 2) for one in sorted(search.found.front, key=lambda each: each.score)
    ]
    assert told["done"]
    for wrong in (["--returns", "sideways"], ["--booster", "maybe"], ["--option", "none"], ["--budget", "-3"]):
        assert CliRunner().invoke(app, ["design", str(file), *wrong]).exit_code == 2
