"""The tank and fuel bench."""

from markupsafe import Markup

from iron_gulp.core.study import arrival, sweeps, tank_log
from iron_gulp.units import signed

from ...parts.calculators import CalculatorView
from ...parts.figures import Rows
from ...parts.page import Page
from .calculators import CALCULATORS, calculator_view
from .curves import properties
from .lap import surge_level
from .picture import head_stair


class View(Page):
    """Fuel, tank, suction and lift stage, with the bench calculators."""

    charts = {
        "fuel_volume": (
            "Fuel volume for this target against ethanol content",
            lambda v: sweeps.fuel_volume(v.build, v.verdict),
        )
    }

    def picture(self) -> Markup:
        """From the tank to the pump inlet, against boiling."""
        return head_stair(self.build, self.verdict, self.units)

    def lap(self) -> Markup | None:
        """The surge tank over a lap; None without one."""
        return surge_level(self.verdict, self.units)

    def properties(self) -> Markup:
        """What the fuel is over ethanol content, this target marked."""
        return properties(self.build, self.verdict, self.units)

    def arrives(self) -> list[tuple[str, Markup, Markup]]:
        """When a new blend is at the sensor and at the rail, at idle and at full load."""
        found = arrival(self.verdict)

        def told(minutes: float | None, case: str) -> Markup:
            if minutes is None:
                return Markup("never: nothing flows")
            text = f"{minutes:.1f}\u00a0min" if minutes < 10 else f"{minutes:.0f}\u00a0min"
            return self.opens("arrives", text if minutes >= 1 else f"{max(minutes * 60, 1):.0f}\u00a0s", case=case)

        return [
            ("at idle", told(found.sensor_idle_min, "sensor idle"), told(found.rail_idle_min, "rail idle")),
            ("at full load", told(found.sensor_load_min, "sensor load"), told(found.rail_load_min, "rail load")),
        ]

    def log(self) -> list[tuple[str, Markup, Markup | str, Markup | str]]:
        """(path of the fill, level, blend by arithmetic, what measurement says of it)."""
        rows = []
        for at, one in enumerate(tank_log(self.build.fills)):
            computed: Markup | str = "not known"
            if one.computed_pct is not None:
                computed = self.opens("fill", f"E{one.computed_pct:.1f}", row=at, case="computed")
            says: Markup | str = "" if one.fill.measured_pct is None else "known from here on"
            if one.off_points is not None:
                off = self.opens("fill", f"{signed(one.off_points, 1)} points", row=at, case="off")
                says = off + (": they part, prove the sensor" if one.parted else "")
            level = self.opens("fill", self.quantity(one.level_l, "level_l"), row=at, case="level")
            rows.append((f"fills/{one.fill.id}", level, computed, says))
        return rows

    def in_tank(self) -> Markup:
        """What is in the tank now."""
        found = tank_log(self.build.fills)
        if not found or found[-1].held_pct is None:
            return Markup("")
        known = "measured" if found[-1].fill.measured_pct is not None else "by arithmetic"
        held = self.opens("fill", f"E{found[-1].held_pct:.1f}", row=len(found) - 1, case="held")
        told = Markup("In the tank after the last fill: {}, {}").format(held, known)
        grade = found[-1].grade
        if grade is not None:
            told += f"; it counts as {grade[0]:g} {grade[1]}, the lowest of any tenth"
        spent = sum(one.poured_l * one.price_each for one in self.build.fills if one.price_each is not None)
        return told + (f". Poured so far: {spent:.2f} at the prices entered." if spent > 0 else ".")

    def calculators(self) -> list[CalculatorView]:
        """The bench calculators, starting from this tank and target."""
        mixing = {"tank_l": self.option.tank.volume_l, "wanted_pct": self.target.ethanol_pct}
        hyd = self.verdict.points.hydraulics
        moves = float(f"{float(hyd.supply_m3_s[0]) * 3.6e6:.3g}")
        draws = float(f"{float((hyd.amps[:, 0] * [one.count for one in self.option.pumps]).sum()):.3g}")
        drain = {**mixing, "held_l": round(0.6 * self.option.tank.volume_l, 1), "flow_l_h": moves, "current_a": draws}
        signal = {"ethanol_pct": self.target.ethanol_pct, "temp_c": self.target.fuel_temp_c}
        starts = {"mixing": mixing, "cans": mixing, "drain": drain, "signal": signal}
        return [calculator_view(key, {}, self.units, starts.get(key)) for key in CALCULATORS]

    def rows(self) -> Rows:
        """Figures by topic."""
        blend = ["fuel.vapour_kpa_abs", "fuel.same_air_ratio", "fuel.same_energy_ratio"]
        properties = ["fuel.density_kg_m3", "fuel.stoich_afr", "fuel.lhv_mj_kg", "fuel.viscosity_mpa_s"]
        lift: Rows = [("Lift", list(one.kind.figures)) for one in self.fitted("fuel") if one.kind.key == "lift"]
        return [
            ("Fuel", [*properties, "fuel.mass_fraction_pct"]),
            ("Blend", blend),
            ("Suction", ["suction.inlet_kpa", "suction.available_kpa", "suction.warming_k_h"]),
            *lift,
        ]
