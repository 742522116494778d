"""The injectors bench, or the carburettor's."""

from functools import cached_property

from markupsafe import Markup

from iron_gulp.core.model import InjectorPart
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.solve import injector_count
from iron_gulp.core.study import Matched, dead_time_over_volts, duty_over_speed, matched, sweeps
from iron_gulp.units import signed

from ...parts.calculators import CalculatorView, answered
from ...parts.claims import CLAIM, of_claim
from ...parts.figures import Rows
from ...parts.page import Page
from .calculators import INJECTOR_CALCULATORS
from .picture import cycle_bars

EVEN = 0.02  # a set whose spread is no wider is even


def rounded(value: float) -> float:
    """A start for a field, to three digits."""
    return float(f"{value:.3g}")


class View(Page):
    """What meters the fuel."""

    charts = {
        "injector_flow": (
            "One injector held open, across vacuum and boost",
            lambda v: sweeps.injector_flow(v.build, v.verdict),
        ),
        "duty_over_speed": (
            "Injector duty over engine speed at this boost",
            lambda v: duty_over_speed(v.build, v.verdict),
        ),
        "dead_time": ("Dead time over voltage", lambda v: dead_time_over_volts(v.build, v.verdict)),
    }

    def picture(self) -> Markup:
        """The cycle of every target as a bar."""
        if self.option.injectors is None:
            return Markup("")
        return cycle_bars(self.build, self.option.injectors, self.bench.judged.verdicts, self.target.id, self.units)

    def calculators(self) -> list[CalculatorView]:
        """What an unmarked injector is, and what a swap does, starting from those fitted."""
        fitted, points = self.option.injectors, self.verdict.points
        if fitted is None:
            return []
        part = fitted.part
        starts = {
            "told_cc_min": part.rated_flow_cc_min,
            "fitted_cc_min": part.rated_flow_cc_min * 1.25,
            "told_dead_ms": rounded(float(points.dead_ms[0])),
            "fitted_dead_ms": rounded(float(points.dead_ms[0])),
            "idle_pulse_ms": rounded(max(float(points.effective_ms[1]), 0.05)),
            "load_pulse_ms": rounded(min(float(points.effective_ms[0]), 100.0)),
            "meant_lambda": self.target.lambda_,
        }
        flow = float(points.open_kg_s[0]) / self.verdict.fuel.density_kg_m3 / M3_S_PER_L_H
        own = {**starts, **of_claim(self.verdict), "pieces": injector_count(self.build, fitted)}
        own["flow_l_h"] = rounded(max(flow, 1.0))
        every = {**INJECTOR_CALCULATORS, "claim": CLAIM}
        found = [answered(key, one, {}, self.units, own) for key, one in every.items()]
        return [*found, self.flow_claim("injector")]

    @staticmethod
    def cell(part: InjectorPart, column: int, row: int) -> int:
        """Where a further pressure's dead time at a voltage stands in the table as kept."""
        return column * len(part.dead_time_v) + row

    @cached_property
    def matched(self) -> Matched | None:
        """The measured set; None where it was not measured."""
        fitted = self.option.injectors
        if fitted is None or not fitted.flows_cc_min:
            return None
        return matched(fitted.flows_cc_min, self.option.rail.count)

    def matched_rows(self) -> list[tuple[int, float, float, int, Markup]]:
        """Cylinder, flow, mixture error in per cent, bank, and the error as it reads."""
        found, fitted = self.matched, self.option.injectors
        if found is None or fitted is None:
            return []
        bank = {at: number for number, one in enumerate(found.order, start=1) for at in one}

        def told(at: int) -> tuple[float, int, Markup]:
            error = round(found.errors[at] * 100.0, 2)
            way = " lean" if error > 0 else " rich" if error < 0 else ""
            words = self.opens("measured-set", f"{signed(error, 1)}\u00a0%{way}", row=at, case="error")
            return error, bank[at], words

        return [(at + 1, flow, *told(at)) for at, flow in enumerate(fitted.flows_cc_min)]

    def matched_words(self) -> Markup:
        """What the set is like, and what to do."""
        found, fitted = self.matched, self.option.injectors
        assert found is not None
        assert fitted is not None
        flows = fitted.flows_cc_min
        count = injector_count(self.build, fitted)

        def share(value: float, case: str, digits: int = 1) -> Markup:
            return self.opens("measured-set", f"{value * 100:.{digits}f}\u00a0%", case=case)

        mean = self.opens("measured-set", self.quantity(found.mean, "mean_cc_min"), case="mean")
        told = Markup("Spread {} about {}.").format(share(found.spread, "spread"), mean)
        if len(flows) != count:
            told += f" {len(flows)} were measured, {count} are fitted."
        worst = max(range(len(flows)), key=lambda at: found.errors[at])
        lean = self.opens("measured-set", f"{found.errors[worst] * 100:.1f}\u00a0%", row=worst, case="error")
        told += Markup(" Cylinder {} runs {} leaner than the mean.").format(worst + 1, lean)
        if found.spread > EVEN and found.after < found.spread * 0.8:
            after = share(found.after, "after")
            told += Markup(" Replacing number {} brings the spread to {}.").format(found.swap + 1, after)
        if len(found.order) == 2:
            banks = " and ".join(", ".join(str(at + 1) for at in one) for one in found.order)
            apart = share(found.apart, "apart", 2)
            told += Markup(" Banks nearest each other ({} apart): {}.").format(apart, banks)
        return told

    def both_sets(self) -> list[list[str | Markup]]:
        """Duty of both sets on every target, the second's share of the fuel, and the hand-over."""
        rows: list[list[str | Markup]] = []
        for verdict in self.bench.judged.verdicts:
            points = verdict.points
            second = points.second
            if second is None or float(points.metered_kg_s[0]) <= 0:
                continue
            share = float(second.metered_kg_s[0] / points.metered_kg_s[0])
            target = verdict.target.id

            def told(value: float, case: str, digits: int = 0, target: str = target) -> Markup:
                return self.opens("both-sets", f"{value * 100:.{digits}f}\u00a0%", target=target, case=case)

            step = Markup("mixture steps by about {}").format(told(float(second.step[0]), "step", 1))
            rows.append(
                [
                    verdict.target.name,
                    told(float(points.duty[0]), "first"),
                    told(float(second.duty[0]), "second") if share > 0 else "at rest",
                    told(share, "share"),
                    step if share > 0 else "not reached",
                ]
            )
        return rows

    def rows(self) -> Rows:
        """Figures by topic."""
        if self.option.injectors is None and self.option.carburettor is None:
            return []
        if self.option.carburettor is not None:
            return [
                ("Pressure", [("pump.rail_kpa", "At the floats", True), ("regulator.idle_rail_kpa", "at idle")]),
                ("Fuel", ["pump.delivered_l_h", "pump.lambda_factor"]),
            ]
        peak = ["injector.pulse_ms", "injector.open_g_s", "injector.differential_kpa"]
        return [
            ("Peak", [("injector.duty_pct", "", True), *peak]),
            ("Idle", ["injector.idle_pulse_ms"]),
            ("Controller", ["injector.required_fuel_ms"]),
            ("Rail", ["injector.rail_drop_kpa", "injector.pulsation_kpa"]),
        ]
