"""Roads over HTTP: shown at once, searched as whole systems by themselves."""

from dataclasses import replace
from threading import Event

from iron_gulp.core.plan import Locks
from iron_gulp.services import roads as service
from iron_gulp.units import BenchUnits
from tests.web.parsing import parsed


def test_roads_are_searched_as_whole_systems_once_asked_and_kept_while_nothing_moves(workshop, client, monkeypatch):
    asked = []

    def found(before, road, searches, rates, stop, workers):
        asked.append((road.kind, searches(road.option, Locks()).before.id, before.id))
        return replace(road, title=f"{road.title}, whole")

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
    assert [kind for kind, _, _ in asked] == ["direct", "port", "plenum", "both"]
    assert {had for _, *both in asked for had in both} == {bench.build.fitted_today or "as-found"}
    shown = parsed(client.get(page).text)
    assert shown.select("div[hx-post]") == []
    assert "cheapest whole system" in shown.text
    assert sum("whole" in one.text for one in shown.select(".road-card h3")) == 4
    client.post(f"/builds/{number}/road/search", data=where)
    assert len(asked) == 4  # what is known is not asked again
    workshop.edits.edit(number, bench.stored.number, "options/as-found/feed/length_m", "3.3 m", BenchUnits())
    assert "Search each as a whole system" in client.get(page).text
    assert client.post(f"/builds/{number}/road/stop", data=where).status_code == 200


def test_while_nothing_new_was_found_the_page_stays_as_it_is(workshop, client, monkeypatch):
    begun, go_on = Event(), Event()

    def waiting(before, road, searches, rates, stop, workers):
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
