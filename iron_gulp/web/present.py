"""What templates show: figures, fields, the fuel path, findings and charts, in bench units. No rule lives here."""

import json
from dataclasses import replace
from typing import Any

from iron_gulp.core.account import FIGURES
from iron_gulp.core.account import value as figure_value
from iron_gulp.core.advise import Finding
from iron_gulp.core.judge import AIR_TOLERANCE, DutyVerdict, Load
from iron_gulp.core.model import DRIVELINE_LOSS, EditError, Line, value_at
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.study import Neighbour, legs, neighbours, sweeps
from iron_gulp.services.fields import Field, field_at
from iron_gulp.services.workshop import Bench, Outcome
from iron_gulp.shelf import Shelf
from iron_gulp.units import BenchUnits, as_input, quantity_of, show, show_text

from .calculators import CalculatorView, calculator_view
from .chart_view import chart_json
from .circuit_view import CircuitView, circuit_views
from .diagram_view import DiagramView, diagram_view
from .line_view import LineView, line_view
from .parts_list_view import ItemView, parts_list_view
from .staging_view import StagingView, staging_view
from .stations import STATIONS, Station, station_of
from .views import FieldView, FigureView, FindingView, LoadView, RemedyView, SizeView, StationView

SEVERITY_WORDS = {"stop": "Stop", "warn": "Check", "note": "Note"}
PAGE_STATIONS = {"stage": "pump", "wire": "pump"}
ASK_STATIONS = ("demand", "fuel")
BAR_FULL = 1.25  # the load bar ends at 125 % so that an overload still shows by how much


class Presenter:
    """Everything one page of a build shows, in the units chosen; `outcome` is a refused edit to show at its field."""

    def __init__(self, bench: Bench, page: str, units: BenchUnits, shelf: Shelf, outcome: Outcome | None = None):
        self.bench, self.page, self.units, self.shelf = bench, page, units, shelf
        self.build, self.option, self.verdict = bench.build, bench.option, bench.verdict
        self.duty = bench.verdict.duty
        self.outcome = outcome if outcome is not None and not outcome.ok else None
        self._shown_error = False

    # Figures and fields

    def figure(self, key: str) -> FigureView:
        """A figure by its key, in bench units."""
        figure = FIGURES[key]
        number, unit = show(figure_value(key, self.bench.figures), figure.name, self.units)
        return FigureView(key, figure.label, number, unit)

    def quantity(self, value: float | None, name: str) -> str:
        """A value with its unit; `name` ends in the unit it is kept in."""
        number, unit = show(value, name, self.units)
        return f"{number}\u00a0{unit}" if unit else number

    def at(self, tail: str) -> str:
        """The edit path of a field of the option on the bench."""
        return f"options/{self.option.id}/{tail}"

    def of_duty(self, tail: str, duty_id: str | None = None) -> str:
        """The edit path of a field of a duty (the one on the bench unless given)."""
        return f"duties/{duty_id or self.duty.id}/{tail}"

    def field(self, path: str, title: str = "") -> FieldView:
        """A field of the build as an input, with the error and the text typed when an edit of it was refused."""
        spec = field_at(path)
        labels: tuple[tuple[str, str], ...] = ()
        if spec.name == "base_fuel":
            labels = tuple((fuel.id, fuel.name) for fuel in self.build.fuels)
            spec = replace(spec, kind="choice", choices=("gasoline", "methanol", *(key for key, _ in labels)))
        stored = value_at(self.build, path)
        refused = self.outcome if self.outcome is not None and self.outcome.path == path else None
        if refused is not None:
            self._shown_error = True
        value = refused.typed if refused is not None else self._text(stored, spec)
        symbol = self.units.unit(quantity_of(spec.name)).key if spec.kind in ("number", "whole") else ""
        view_id = "f-" + path.replace("/", "-")
        error = refused.message if refused is not None else ""
        return FieldView(
            path, view_id, title or spec.title, value, symbol, spec, error, self._shelf_value(path, stored, spec), labels
        )

    def _text(self, stored: Any, spec: Field) -> str:
        if spec.kind == "switch":
            return "yes" if stored else "no"
        if spec.kind in ("number", "whole"):
            return as_input(stored, spec.name, self.units)
        return "" if stored is None else str(stored)

    def _shelf_value(self, path: str, stored: Any, spec: Field) -> str:
        """What the shelf part says, when this build overrides it."""
        holder, _, tail = path.partition("/part/")
        if not tail or tail in ("name", "shelf_id", "provenance"):
            return ""
        try:
            shelf_id = value_at(self.build, f"{holder}/part/shelf_id")
            found = self.shelf.part(self.kind_of(f"{holder}/part"), shelf_id) if shelf_id else None
        except (KeyError, EditError):
            return ""
        value: Any = found.model_dump(mode="json") if found else None
        for step in tail.split("/"):
            if value is None:
                return ""
            # A table of one's own may be longer than the shelf's.
            value = dict(enumerate(value)).get(int(step)) if isinstance(value, list) else value.get(step)
        return self._text(value, spec) if value is not None and value != stored else ""

    @staticmethod
    def kind_of(part_path: str) -> str:
        """The shelf kind of the part at a path."""
        kinds = {"pumps": "pumps", "injectors": "injectors", "regulator": "regulators", "filter": "filters"}
        return next((kind for step, kind in kinds.items() if f"/{step}/" in part_path), "lines")

    def choices(self, part_path: str) -> list[tuple[str, str]]:
        """(shelf id, name) of every shelf part that fits a place."""
        return [(part.shelf_id or "", part.name) for part in self.shelf.parts(self.kind_of(part_path))]

    def part_id(self, part_path: str) -> str:
        """The shelf id of the part at a path; empty for own data."""
        return str(value_at(self.build, f"{part_path}/shelf_id") or "")

    def unit(self, name: str) -> str:
        """The unit a quantity is shown in."""
        return self.units.unit(quantity_of(name)).key

    @property
    def default_loss(self) -> str:
        """The driveline loss used when none is entered."""
        return f"{DRIVELINE_LOSS[self.build.car.drivetrain] * 100:.0f}"

    @property
    def default_bsfc(self) -> str:
        """The consumption used when none is entered."""
        return f"{show(self.verdict.demand.gasoline_bsfc_kg_kwh, 'bsfc_kg_kwh', self.units)[0]}"

    def legs(self) -> list[list[str]]:
        """Every leg on this duty: name, flow, velocity, drop, pressure behind it."""
        return [
            [
                leg.name,
                self.quantity(leg.flow_m3_s / M3_S_PER_L_H, "flow_l_h"),
                "" if leg.velocity_m_s is None else self.quantity(leg.velocity_m_s, "velocity_m_s"),
                self.quantity(round(leg.drop_kpa, 2), "drop_kpa"),
                self.quantity(round(leg.after_kpa, 2), "after_kpa"),
            ]
            for leg in legs(self.verdict)
        ]

    def sizes(self, part_path: str) -> list[SizeView]:
        """One size up and down of the part at a path, with what each changes on this duty."""
        return [
            SizeView(one.way, one.part.shelf_id or "", one.part.name, self._effect(one))
            for one in neighbours(self.build, self.verdict, part_path, self.shelf.catalogue)
        ]

    def _effect(self, one: Neighbour) -> str:
        changes = (
            ("supply", one.supply_change_m3_s / M3_S_PER_L_H, "supply_l_h", 0.05),
            ("lifted", one.lift_change_m3_s / M3_S_PER_L_H, "lift_l_h", 0.05),
            ("feed side", one.loss_change_kpa, "loss_kpa", 0.01),
            ("pump inlet", one.inlet_change_kpa, "inlet_kpa", 0.01),
            ("return at idle", one.return_change_kpa, "return_kpa", 0.05),
            ("idle rail", one.idle_change_kpa, "rail_kpa", 0.05),
        )
        told = [f"{label} {self._signed(value, name)}" for label, value, name, least in changes if abs(value) >= least]
        return ", ".join(told) or "changes nothing on this duty"

    def _signed(self, value: float, name: str) -> str:
        return ("+" if value > 0 else "") + self.quantity(value, name)

    def line_at(self, path: str) -> LineView:
        """The fittings of the line at a path."""
        return line_view(Line.model_validate(value_at(self.build, path)))

    def inside_option(self, path: str) -> str:
        """A path of this option without the option itself."""
        return path.removeprefix(self.at(""))

    def passages(self, which: str) -> tuple[Any, ...]:
        """The small passages of the feed or the return."""
        found: tuple[Any, ...] = getattr(self.option, which)
        return found

    def parts_list(self) -> list[tuple[str, list[ItemView]]]:
        """Every part of the option, by section."""
        return parts_list_view(self.bench, self.units)

    def diagram(self) -> DiagramView:
        """The plumbing diagram at the duty's own point."""
        return diagram_view(self.bench, self.units, {})

    def staging(self) -> StagingView:
        """The staging page's data."""
        return staging_view(self.bench, self.units)

    def circuits(self) -> list[CircuitView]:
        """The wiring page's circuits."""
        return circuit_views(self.bench, self.units)

    def calculators(self) -> list[CalculatorView]:
        """The bench calculators, starting from this tank and duty."""
        mixing = {"tank_l": self.option.tank.volume_l, "target_pct": self.duty.ethanol_pct}
        return [
            calculator_view("mixing", {}, self.units, mixing),
            calculator_view("sensor", {}, self.units),
        ]

    @property
    def limit_station(self) -> str:
        """The station of the first component to run out."""
        return station_of(self.verdict.first_out.component)

    @property
    def loose_error(self) -> str:
        """The message of a refused change that belongs to no field on this page (call after the fields)."""
        return self.outcome.message if self.outcome is not None and not self._shown_error else ""

    # Fuel path, loads, findings

    def stations(self) -> list[StationView]:
        """The fuel path on the duty chosen."""
        first = self.limit_station
        return [self._station(station, first) for station in STATIONS]

    def _station(self, station: Station, first: str) -> StationView:
        loads = [load for load in self.verdict.loads if load.component in station.loads]
        top = max(loads, key=lambda load: load.load, default=None)
        problems = sum(f.station == station.key and f.severity != "note" for f in self.bench.judged.findings)
        return StationView(
            station.key,
            "Carburettor" if station.key == "injectors" and self.option.carburettor else station.title,
            self._station_line(station.key),
            _percent(top),
            _bar(top),
            top.status if top else "",
            station.key == first,
            self.page == station.key,
            problems,
        )

    def _station_line(self, key: str) -> str:
        option, hyd = self.option, self.verdict.points.hydraulics
        if key == "fuel":
            return f"{self.fuel_name(self.verdict)} · {self.quantity(self.verdict.fuel.density_kg_m3, 'density_kg_m3')}"
        if key == "pump":
            running = sum(group.count for group, on in zip(option.pumps, hyd.running[:, 0], strict=True) if on)
            volts = self.quantity(float(hyd.volts[:, 0].max()), "pump_v")
            return f"{running} running · {volts}"
        if key == "feed":
            return (
                f"{option.feed.part.size or option.feed.part.name} · {self.quantity(float(hyd.feed_kpa[0]), 'feed_kpa')}"
            )
        if key == "injectors" and option.carburettor is not None:
            return f"{self.quantity(float(hyd.rail_kpa[0]), 'inlet_kpa')} at the floats"
        if key == "injectors":
            return f"{self.quantity(float(self.verdict.points.duty[0]) * 100, 'duty_pct')} duty"
        if key == "demand":
            need = sweeps.demand_l_h(self.verdict)
            return f"{self.quantity(self.duty.power_kw, 'power_kw')} · {self.quantity(need, 'fuel_l_h')}"
        return f"{self.quantity(float(hyd.rail_kpa[0]), 'rail_kpa')} rail"

    def fuel_name(self, verdict: DutyVerdict) -> str:
        """The blend in a word: E70, gasoline, methanol."""
        pct, base = verdict.duty.ethanol_pct, verdict.duty.base_fuel
        blend = f"E{pct:.3g}"
        return blend if base == "gasoline" else base if pct == 0 else f"{blend} in {base}"

    def loads(self) -> list[LoadView]:
        """Every component's load on the duty chosen."""
        return [
            LoadView(
                load.title,
                _percent(load),
                _bar(load),
                load.status,
                load.measure,
                station_of(load.component),
                self._ceiling(load),
            )
            for load in self.verdict.loads
        ]

    def _ceiling(self, load: Load) -> str:
        """The power at which a component runs out; what it is judged by where that does not move with power."""
        if load.ceiling_kw is not None:
            return self.quantity(load.ceiling_kw, "power_kw")
        return "idle" if load.title.endswith("at idle") else "–"

    def limit_sentence(self) -> str:
        """The answer to "what is the limit?" for this duty, in one sentence."""
        first, power = self.verdict.first_out, self.verdict.power_limit
        at = self.quantity(power.ceiling_kw, "power_kw")
        where = "at the wheels" if self.duty.power_at == "wheels" else "at the crank"
        text = f"{first.title} {'is' if first.title != 'Pumps' and first.title != 'Injectors' else 'are'}"
        text += " past the limit" if first.status == "over" else " first to run out"
        text += f" ({_percent(first)})."
        return f"{text} Fuel is good for about {at} {where}, limited by {power.title.lower()}."

    def agreement(self) -> str:
        """What the schools say of each other."""
        demand = self.verdict.demand
        off = demand.disagreement * 100
        if abs(off) <= AIR_TOLERANCE * 100:
            return f"Consumption and air agree within {abs(off):.0f} %: this boost and this power belong together."
        if off < 0:
            return f"Air falls {-off:.0f} % short of the power asked: air-limited, not fuel-limited."
        return f"Air could burn {off:.0f} % more than the power asked needs."

    def duties(self) -> list[dict[str, str]]:
        """The duty chips: id, name, fuel, status."""
        return [
            {
                "id": verdict.duty.id,
                "name": verdict.duty.name,
                "fuel": self.fuel_name(verdict),
                "status": verdict.status,
                "when": verdict.duty.when,
                "percent": _percent(verdict.first_out),
            }
            for verdict in self.bench.judged.verdicts
        ]

    @property
    def findings_here(self) -> list[FindingView]:
        """Findings of the station on the bench; all of them on the Ask page."""
        return [view for view in self._findings() if self.page == "ask" or view.station == self.bench_station]

    @property
    def findings_elsewhere(self) -> list[FindingView]:
        """Findings of the other stations."""
        return [view for view in self._findings() if self.page != "ask" and view.station != self.bench_station]

    @property
    def bench_station(self) -> str:
        """The station whose findings belong to this page."""
        return PAGE_STATIONS.get(self.page, self.page)

    def _findings(self) -> list[FindingView]:
        return [self._finding(number, finding) for number, finding in enumerate(self.bench.judged.findings)]

    def _finding(self, number: int, finding: Finding) -> FindingView:
        # Remedies are tried on the model: only for the station on the bench, and on Ask for what is asked there.
        here = finding.station == self.bench_station or (self.page == "ask" and finding.station in ASK_STATIONS)
        remedies = tuple(
            RemedyView(index, show_text(remedy.label, remedy.values, self.units), bool(remedy.edits))
            for index, remedy in enumerate(finding.remedies if here else ())
        )
        return FindingView(
            number,
            finding.code,
            finding.severity,
            SEVERITY_WORDS[finding.severity],
            finding.station,
            finding.title,
            show_text(finding.text, finding.values, self.units),
            finding.why,
            finding.duties,
            remedies,
        )

    # Charts

    def chart(self, name: str) -> str:
        """A chart's data as JSON, in bench units."""
        verdict, rules, catalogue = self.verdict, self.build.rules, self.shelf.catalogue
        sweep = {
            "fuel_volume": lambda: sweeps.fuel_volume(self.build, verdict),
            "injector_flow": lambda: sweeps.injector_flow(self.build, verdict),
            "pump_supply": lambda: sweeps.pump_supply(self.build, verdict),
            "feed_sizes": lambda: sweeps.line_sizes(verdict, catalogue, "feed", rules.feed_drop_kpa),
            "return_sizes": lambda: sweeps.line_sizes(verdict, catalogue, "return_line", rules.return_drop_kpa),
            "return_floor": lambda: sweeps.return_floor(verdict),
        }[name]()
        return chart_json(sweep, self.units)

    @staticmethod
    def chart_title(data: str) -> str:
        """The title within a chart's data."""
        return str(json.loads(data)["title"])


def _percent(load: Load | None) -> str:
    if load is None:
        return ""
    return f"{load.load * 100:.0f}\u00a0%" if load.load < 100 else "none left"


def _bar(load: Load | None) -> float:
    return 0.0 if load is None else round(min(load.load / BAR_FULL, 1.0) * 100, 1)
