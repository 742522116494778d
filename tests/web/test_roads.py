"""Roads over HTTP: shown at once, searched as whole systems when asked."""

from dataclasses import replace

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
    assert "Search each as a whole system" in client.get(page).text
    client.post(f"/builds/{number}/road/search", data=where)
    workshop.roads.wait(number, "as-found")
    bench = workshop.judging.bench(number, "as-found")
    assert [kind for kind, _, _ in asked] == ["direct", "port", "both"]
    assert {had for _, *both in asked for had in both} == {bench.build.fitted_today or "as-found"}
    shown = parsed(client.get(page).text)
    assert "cheapest whole system" in shown.text
    assert sum("whole" in one.text for one in shown.select(".road-card h3")) == 3
    client.post(f"/builds/{number}/road/search", data=where)
    assert len(asked) == 3  # what is known is not asked again
    workshop.edits.edit(number, bench.stored.number, "options/as-found/feed/length_m", "3.3 m", BenchUnits())
    assert "Search each as a whole system" in client.get(page).text
    assert client.post(f"/builds/{number}/road/stop", data=where).status_code == 200
