"""Roads over HTTP: shown at once, searched as whole systems by themselves."""

from dataclasses import replace
from threading import Event

from iron_gulp.core.plan import Locks
from iron_gulp.services import roads as service
from iron_gulp.units import BenchUnits
from tests.web.parsing import parsed


def test_roads_are_searched_as_whole_systems_once_asked_and_kept_while_nothing_moves(workshop, client, monkeypatch):
    asked = []

    def found(build, before, road, searches, rates, stop, workers, low_side, direct):
        asked.append((road.kind, searches(build, road.option, Locks()).before.id, before.id))
        assert (direct is None) == (road.kind == "direct")
        return None if road.kind == "pump" else replace(road, title=f"{road.title}, whole")

    monkeypatch.setattr(service, "whole_road", found)
    number = next(one.id for one in workshop.garage.page("").rows if one.name == "Dunlin")
    where = {"option": "as-found", "target": ""}
    page = f"/builds/{number}/road/roads?option=as-found"
    fresh = parsed(client.get(page).text)
    assert "Search each as a whole system" in fresh.text
    assert (
        "delay" in fresh.select_one(f'div[hx-post="/builds/{number}/road/search"]')["hx-trigger"]
    )  # it begins by itself
    client.post(f"/builds/{number}/road/search", data=where)
    workshop.roads.wait(number, "as-found")
    bench = workshop.judging.bench(number, "as-found")
    assert [kind for kind, _, _ in asked] == ["direct", "pump", "port", "plenum", "both", "blend"]
    assert {had for _, *both in asked for had in both} == {bench.build.fitted_today or "as-found"}
    shown = parsed(client.get(page).text)
    assert shown.select("div[hx-post]") == []
    assert "cheapest whole system" in shown.text
    assert sum("whole" in one.text for one in shown.select(".road-card h3")) == 5
    # What larger hardware buys no injectors for has no step with pumps alone.
    assert not any("Pumps now" in one.text for one in shown.select(".road-card h3"))
    client.post(f"/builds/{number}/road/search", data=where)
    assert len(asked) == 6  # what is known is not asked again
    workshop.edits.edit(number, bench.stored.number, "options/as-found/feed/length_m", "3.3 m", BenchUnits())
    assert "Search each as a whole system" in client.get(page).text
    assert client.post(f"/builds/{number}/road/stop", data=where).status_code == 200


def test_while_nothing_new_was_found_the_page_stays_as_it_is(workshop, client, monkeypatch):
    begun, go_on = Event(), Event()

    def waiting(build, before, road, *how):
        begun.set()
        assert go_on.wait(20)
        return road

    monkeypatch.setattr(service, "whole_road", waiting)
    number = next(one.id for one in workshop.garage.page("").rows if one.name == "Dunlin")
    page, where = f"/builds/{number}/road/roads?option=as-found", {"option": "as-found", "target": ""}
    running = parsed(client.post(f"/builds/{number}/road/search", data=where).text).select_one("div[hx-get]")
    assert begun.wait(20)
    assert running["hx-get"].endswith("seen=0")
    assert client.get(f"{page}&seen=0").status_code == 204
    assert client.get(f"{page}&seen=1").status_code == 200
    go_on.set()
    workshop.roads.wait(number, "as-found")
    assert client.get(f"{page}&seen=4").status_code == 200


def test_the_low_side_asked_for_is_searched_kept_and_said_where_nothing_is_so(workshop, client, monkeypatch):
    asked = []

    def found(build, before, road, searches, rates, stop, workers, low_side, direct):
        asked.append(low_side)
        return replace(road, as_asked=road.kind != "port")

    monkeypatch.setattr(service, "whole_road", found)
    number = next(one.id for one in workshop.garage.page("").rows if one.name == "Dunlin")
    where = {"option": "as-found", "target": ""}

    def shown():
        workshop.roads.wait(number, "as-found")
        return parsed(client.get(f"/builds/{number}/road/roads?option=as-found").text)

    def chosen(page):
        return [one.text for one in page.select("select[name=low_side] option[selected]")]

    assert chosen(shown()) == ["as on the car"]
    client.post(f"/builds/{number}/road/search", data=where)
    shown()
    assert set(asked) == {"as on the car"}
    asked.clear()
    client.post(f"/builds/{number}/road/search", data=where | {"low_side": "returnless"})
    page = shown()
    assert set(asked) == {"returnless"}
    assert chosen(page) == ["returnless"]
    said = [one for one in page.select(".road-card") if "Nothing on the shelf carries it returnless" in one.text]
    assert [one.h3.text.split("  ")[0].strip()[:11] for one in said] == ["A port rail"]
    wrong = client.post(f"/builds/{number}/road/search", data=where | {"low_side": "none at all"})
    assert wrong.status_code == 400
    assert "Traceback" not in wrong.text
