"""The fuel path with its stations and loads, the target chips, and the limit in a sentence."""

from collections.abc import Sequence
from typing import Any

from markupsafe import Markup

from iron_gulp.core.judge import Load, TargetVerdict
from iron_gulp.core.model import RULES, stations_of
from iron_gulp.core.physics import M3_S_PER_L_H

from .context import Context
from .pressure_line import pressure_line
from .stations import STATIONS, station_of
from .views import LoadView, StationView

BAR_FULL = 1.25  # the load bar ends at 125 % so that an overload still shows by how much


LIMIT_WORDS = {
    "over": "past the limit",
    "close": "next to run out",
    "ok": "nearest the limit",
    "outside": "outside the shop's rule",
}


PAST = 1.005  # what shows as 100 % is at its limit, not past it


def limit_words(load: Load) -> str:
    """How a load stands to its limit."""
    return "at the limit" if 1.0 < load.load < PAST else LIMIT_WORDS[load.status]


class PathStrip(Context):
    """Makes what the path, the chips and the loads show."""

    @property
    def limit_station(self) -> str:
        """The station of the first component to run out."""
        return station_of(self.verdict.first_out.component)

    def stations(self) -> list[StationView]:
        """The fuel path on the target chosen."""
        return [self._station(key, STATIONS[key]) for key in stations_of(self.option)]

    def _station(self, key: str, title: str) -> StationView:
        here = [one for one in self.verdict.loads if station_of(one.component) == key]
        outside = tuple(f"{one.title} {percent(one)}" for one in here if one.status == "outside")
        top = foremost(here)
        problems = sum(f.station == key and f.severity != "note" for f in self.bench.judged.findings)
        return StationView(
            key,
            "Carburettor" if key == "injectors" and self.option.carburettor else title,
            getattr(self, f"_{key}_line")(),
            percent(top),
            bar(top),
            top.status if top else "",
            key == self.limit_station,
            self.page == key,
            problems,
            self._whisker(key),
            outside,
        )

    def band(self, station: str) -> tuple[float, float] | None:
        """How uncertain a station's load is, lowest and highest; on pages that know."""
        return None

    def _whisker(self, station: str) -> tuple[float, float] | None:
        """Start and width of a station's band on its bar, %."""
        found = self.band(station)
        if found is None:
            return None
        low, high = (min(max(one, 0.0) / BAR_FULL, 1.0) * 100 for one in found)
        return round(low, 1), round(max(high - low, 0.8), 1)

    @property
    def columns(self) -> int:
        """Stations in a row; the return runs underneath."""
        return len(stations_of(self.option)) - 1

    def pressure_line(self) -> Markup:
        """Gauge pressure along the path, drawn above it."""
        return pressure_line(self.verdict, self.units)

    def _fuel_line(self) -> str:
        return f"{self.fuel_name(self.verdict)} · {self.quantity(self.verdict.fuel.density_kg_m3, 'density_kg_m3')}"

    def _pump_line(self) -> str:
        hyd = self.verdict.points.hydraulics
        running = sum(group.count for group, on in zip(self.option.pumps, hyd.running[:, 0], strict=True) if on)
        return f"{running} running · {self.quantity(float(hyd.volts[:, 0].max()), 'pump_v')}"

    def _feed_line(self) -> str:
        part, lost = self.option.feed.part, float(self.verdict.points.hydraulics.feed_kpa[0])
        return f"{part.size or part.name} · {self.quantity(lost, 'feed_kpa')}"

    def _high_line(self) -> str:
        direct = self.verdict.points.direct
        if direct is None:
            return "not at work"
        rail = self.quantity(float(direct.worst.rail_kpa[0]), "rail_kpa")
        return f"{rail} rail · {float(direct.worst.window_used[0]) * 100:.0f}\u00a0% window"

    def _injectors_line(self) -> str:
        if self.option.carburettor is not None:
            return f"{self.quantity(float(self.verdict.points.hydraulics.rail_kpa[0]), 'inlet_kpa')} at the floats"
        return f"{self.quantity(float(self.verdict.points.duty[0]) * 100, 'duty_pct')} duty"

    def _demand_line(self) -> str:
        need = self.verdict.demand.chosen_kg_s / self.verdict.fuel.density_kg_m3 / M3_S_PER_L_H
        return f"{self.quantity(self.target.power_kw, 'power_kw')} · {self.quantity(need, 'fuel_l_h')}"

    def _regulator_line(self) -> str:
        where = "rail" if self.option.high_side is None or self.option.injectors is not None else "at the node"
        return f"{self.quantity(float(self.verdict.points.hydraulics.rail_kpa[0]), 'rail_kpa')} {where}"

    def fuel_name(self, verdict: TargetVerdict) -> str:
        """The blend in a word: E70, gasoline, methanol."""
        pct, base = verdict.target.ethanol_pct, verdict.target.base_fuel
        blend = f"E{pct:.3g}"
        return blend if base == "gasoline" else base if pct == 0 else f"{blend} in {base}"

    def loads(self) -> list[LoadView]:
        """Every component's load on the target chosen."""
        expected = self._expected_loads()
        return [
            LoadView(
                load.title,
                percent(load),
                bar(load),
                load.status,
                load.measure,
                station_of(load.component),
                self._ceiling(load),
                load.component,
                load.ceiling_kw is not None,
                percent(expected[load.component]) if load.component in expected else "",
            )
            for load in self.verdict.loads
        ]

    def _expected_loads(self) -> dict[str, Load]:
        """Loads on the target chosen at what the engine is expected to burn; none where the air or a log sizes it."""
        if self.target.school != "consumption":
            return {}
        judged = self.bench.judged.expected_verdict(self.target.id)
        return {one.component: one for one in judged.loads if one.component not in ("engine", "compressor")}

    def sized_beside(self) -> str:
        """Why two figures stand beside each other, with what they are."""
        demand, density = self.verdict.demand, self.verdict.fuel.density_kg_m3 * M3_S_PER_L_H
        large, small = (self.quantity(one / density, "fuel_l_h") for one in (demand.chosen_kg_s, demand.expected_kg_s))
        if self.target.school != "consumption":
            return f"Sized for {large}; air and logs hold no reserve: it is the expected figure too."
        return (
            f"Shares are at the {large} it is sized for, which hold a reserve on purpose; “expected” is at the {small} "
            "this engine should burn."
        )

    def _ceiling(self, load: Load) -> str:
        """The power at which a component runs out; what it is judged by where that does not move with power."""
        if load.ceiling_kw is not None:
            return self.quantity(load.ceiling_kw, "power_kw")
        if load.component in RULES:
            return "a rule"
        return "idle" if load.title.endswith("at idle") else "–"

    @property
    def limit_word(self) -> str:
        """What the most loaded component is: nothing within its limit is called run out."""
        return limit_words(self.verdict.first_out)

    def limit_sentence(self) -> str:
        """The answer to "what is the limit?" on this target, in two sentences; the air beside it where it is first."""
        first, power, air = self.verdict.first_out, self.verdict.power_limit, self.verdict.load("engine")
        where = "at the wheels" if self.target.power_at == "wheels" else "at the crank"
        verb = "are" if first.title in ("Pumps", "Injectors", "Float needles", "Direct injectors") else "is"
        text = f"{first.title} {verb} {limit_words(first)} ({percent(first)})."
        if power.ceiling_kw is None:
            return f"{text} Demand is sized by the air and does not move with the power asked."
        if power.ceiling_kw == 0:
            return f"{text} Fuel carries no power at all: {power.title.lower()} too small at any."
        at = self.quantity(power.ceiling_kw, "power_kw")
        text += f" Fuel is good for about {at} {where}, limited by {power.title.lower()}"
        turbo = self.verdict.load("compressor").ceiling_kw
        if turbo is not None and turbo < power.ceiling_kw and turbo < (air.ceiling_kw or turbo + 1.0):
            return f"{text}; the compressor only for about {self.quantity(turbo, 'power_kw')}."
        if air.ceiling_kw is not None and air.ceiling_kw < power.ceiling_kw:
            return f"{text}; the air at this boost only for about {self.quantity(air.ceiling_kw, 'power_kw')}."
        return f"{text}."

    def targets(self) -> list[dict[str, Any]]:
        """The target chips: id, name, fuel, status."""
        return [
            {
                "id": verdict.target.id,
                "name": verdict.target.name,
                "fuel": self.fuel_name(verdict),
                "status": verdict.status,
                "when": verdict.target.when,
                "percent": percent(verdict.first_out),
            }
            for verdict in self.bench.judged.verdicts
        ]


def foremost(loads: Sequence[Load]) -> Load | None:
    """The highest load of a station: of its limits, or of the shop's rules where nothing there limits."""
    limits = [one for one in loads if one.component not in RULES]
    return max(limits or loads, key=lambda load: load.load, default=None)


def percent(load: Load | None) -> str:
    """A load in words."""
    if load is None:
        return ""
    return f"{load.load * 100:.0f}\u00a0%" if load.load < 100 else "none left"


def bar(load: Load | None) -> float:
    """Width of a load's bar, % of its place."""
    return 0.0 if load is None else round(min(load.load / BAR_FULL, 1.0) * 100, 1)
