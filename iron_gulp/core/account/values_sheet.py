"""The controller values sheet: what is entered in the controller, and what is tuned again when one of it changes.

A row's name ends in the unit it is kept in. Rows keep their names from sheet to sheet, so two sheets can be compared.
"""

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

import numpy as np

from ..judge import TargetVerdict
from ..model import Build, InjectorPart, Option, base_fuel
from ..physics import M3_S_PER_L_H, blend, ethanol_signal, floats
from ..physics import injectors as inj
from ..solve import PEAK, injector_count, outlet_kpa, packed
from ..study import Permitted

VOLTS = (8.0, 10.0, 12.0, 13.5, 15.0)
BLENDS = tuple(float(one) for one in range(0, 101, 10))
GASOLINE_AFR, GASOLINE_15C_KG_M3 = 14.7, 745.0
SMALLEST_CHANGE = 1e-6  # relative: below it a value is the same
FULL_PULSE = "pulse = air of a full cylinder at 101.3 kPa and 21.1 °C ÷ 14.7 ÷ flow of the open injector at base pressure"
PARTS_OWN = "as published for the part; where nothing is, a class figure by its size"
DEAD_TIME = "read out of the part's table of dead times, between its points along straight lines"
PUMPS_THERE = "out of the coupled solution at the target that loads the pumps most"
AS_AFR = "AFR = λ × stoichiometric AFR of this fuel"
BY_MASS = "stoichiometric AFR = mass share of ethanol × 9.0 + mass share of base fuel × its own"
PERMITTED = "boost whose power the fuel system carries on that blend, with the margin kept, no more than the targets'"
SENSOR_PROOF, SENSOR_LAW = "the proof against a known mix", "frequency = 50 Hz + ethanol content in %"


@dataclass(frozen=True)
class SheetRow:
    """One value: its name (the last words its unit), its label, what is tuned anew if it changes, how it is known.

    `formula` says where one that was not entered comes from.
    """

    name: str
    label: str
    value: float | str
    retune: str = ""
    known: Literal["entered", "estimate", "constant"] = "entered"
    formula: str = ""


@dataclass(frozen=True)
class SheetSection:
    """Values of one kind."""

    title: str
    rows: tuple[SheetRow, ...]


@dataclass(frozen=True)
class Changed:
    """A value that is another than on the sheet before; None where it was not there, or is not any more."""

    section: str
    row: SheetRow
    before: float | str | None
    after: float | str | None


def values_sheet(
    build: Build, option: Option, verdicts: Sequence[TargetVerdict], boost: Sequence[Permitted] = ()
) -> tuple[SheetSection, ...]:
    """Every section that this option has something to say in; `boost` is what is permitted on each blend."""
    every = (
        ("Engine and injector scalar", _engine(build, option)),
        ("Port injectors", _port(build, option, verdicts)),
        ("Dead times, port injectors", _dead_times(option, verdicts)),
        ("Second injectors", _second(build, option, verdicts)),
        ("Direct injectors and high-pressure pumps", _direct(option)),
        ("Delivery", _delivery(option)),
        ("Pumps", _pumps(option, verdicts)),
        ("Targets", _targets(verdicts)),
        ("Fuel over ethanol content", _fuel(build, verdicts)),
        ("Boost permitted", _boost(boost)),
        ("Ethanol sensor", _ethanol(verdicts)),
        ("Sensors", _sensors(option)),
    )
    sections = ((title, tuple(rows)) for title, rows in every)
    return tuple(SheetSection(title, rows) for title, rows in sections if rows)


def _engine(build: Build, option: Option) -> Iterator[SheetRow]:
    engine = build.engine
    yield SheetRow("displacement_l", "Displacement", engine.displacement_l, "the whole fuel table")
    yield SheetRow("cylinders", "Cylinders", float(engine.cylinders), "the whole fuel table")
    if option.injectors is None:
        return
    part, base = option.injectors.part, option.regulator.base_kpa
    opened = inj.open_flow_kg_s(part.heptane_cc_min, part.rated_pressure_kpa, base, GASOLINE_15C_KG_M3)
    pulse = inj.required_fuel_ms(engine.displacement_l / injector_count(build, option.injectors), opened, GASOLINE_AFR)
    label = "Full-cylinder pulse on gasoline at base pressure"
    yield SheetRow("full_cylinder_pulse_ms", label, float(pulse), "the whole fuel table", "estimate", FULL_PULSE)
    yield SheetRow("squirts_a_cycle", "Squirts a cycle", float(option.injectors.squirts), "idle, and every short pulse")


def _port(build: Build, option: Option, verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    fitted = option.injectors
    if fitted is None:
        return
    part, verdict = fitted.part, verdicts[0]
    yield SheetRow("port_injectors", "Injectors", float(injector_count(build, fitted)), "the injector scalar")
    rated = f"Rated flow at {part.rated_pressure_kpa:g} kPa, {part.rated_on}"
    yield SheetRow("port_rated_cc_min", rated, part.rated_flow_cc_min, "the injector scalar, then idle and full load")
    base = option.regulator.base_kpa
    yield SheetRow("base_pressure_kpa", "Base pressure", base, "the injector scalar and every dead time")
    static = part.heptane_cc_min * (base / part.rated_pressure_kpa) ** 0.5
    yield SheetRow(
        "static_at_base_cc_min",
        "Static flow at base pressure, n-heptane",
        static,
        "the injector scalar",
        "estimate",
        "static flow = rated flow on n-heptane × √(base pressure ÷ rated pressure)",
    )
    outlet = outlet_kpa(packed(option), floats(verdict.target.boost_kpa))
    across = float(verdict.points.hydraulics.set_kpa[PEAK] - outlet)
    reference = f"{option.regulator.reference}, {option.regulator.reference_ratio:g} to 1"
    yield SheetRow("reference", "Reference of the regulator", reference, "pressure correction")
    yield SheetRow(
        "differential_at_peak_kpa",
        "Pressure across them at peak",
        across,
        "pressure correction",
        "estimate",
        "across = rail pressure the regulator is set to there − pressure at the outlet",
    )
    yield SheetRow(
        "port_smallest_pulse_ms",
        "Smallest repeatable pulse",
        part.smallest_pulse_ms,
        "idle and tip-in",
        "estimate",
        PARTS_OWN,
    )


def _dead_times(option: Option, verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    if option.injectors is None:
        return
    part: InjectorPart = option.injectors.part
    base = option.regulator.base_kpa
    pressures = sorted({base, *(round(float(one.points.hydraulics.differential_kpa[PEAK]), -1) for one in verdicts)})
    pressures = [one for one in pressures if one > 0] or [base]
    if part.dead_more_kpa:
        pressures = sorted({*pressures, *part.dead_rows[0]})
    elif part.dead_time_ms_per_100_kpa == 0:
        pressures = [base]
    for kpa in pressures:
        for volts in VOLTS:
            found = part.dead_ms_at(volts, kpa)
            name = f"port_dead_time_{volts:g}v_{kpa:.0f}kpa_ms".replace(".", "_")
            label = f"{volts:g} V" if len(pressures) == 1 else f"{volts:g} V, {kpa:.0f} kPa across"
            yield SheetRow(name, label, float(found), "idle, and every short pulse", "estimate", DEAD_TIME)


def _second(build: Build, option: Option, verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    second = None if option.injectors is None else option.injectors.second
    if second is None:
        return
    part, again = second.part, "hand-over to the second set, coming and going"
    count = build.engine.cylinders if second.count is None else second.count
    yield SheetRow("second_injectors", "Injectors", float(count), again)
    yield SheetRow("second_rated_cc_min", f"Rated flow at {part.rated_pressure_kpa:g} kPa", part.rated_flow_cc_min, again)
    yield SheetRow("second_joins_pct", "Joins above a duty of the first", second.joins_pct, again)
    yield SheetRow(
        "second_smallest_pulse_ms", "Smallest repeatable pulse", part.smallest_pulse_ms, again, "estimate", PARTS_OWN
    )
    for volts in VOLTS:
        found = part.dead_ms_at(volts, option.regulator.base_kpa)
        name = f"second_dead_time_{volts:g}v_ms".replace(".", "_")
        yield SheetRow(name, f"Dead time at {volts:g} V", float(found), again, "estimate", DEAD_TIME)
    worst = max(verdicts, key=lambda one: 0.0 if one.points.second is None else float(one.points.second.step[PEAK]))
    if worst.points.second is not None:
        step = float(worst.points.second.step[PEAK]) * 100.0
        formula = "step = fuel of its smallest pulses ÷ all fuel there × 5 % of its dead time ÷ its smallest pulse"
        yield SheetRow("second_step_pct", "Mixture step as it joins, estimate", step, again, "estimate", formula)


def _direct(option: Option) -> Iterator[SheetRow]:
    high = option.high_side
    if high is None:
        return
    part = high.injectors.part
    again = "direct injector scalar, then full load"
    rated = f"Rated flow at {part.rated_pressure_kpa / 1000:g} MPa"
    yield SheetRow("direct_rated_cc_min", rated, part.rated_flow_cc_min, again)
    yield SheetRow("direct_dead_time_ms", "Dead time", part.dead_ms, "idle")
    yield SheetRow("direct_smallest_pulse_ms", "Smallest pulse", part.min_pulse_ms, "idle")
    yield SheetRow("injection_window_deg", "Injection window", high.window_deg, "end of injection")
    for number, pump in enumerate(high.pumps, start=1):
        swept = np.pi / 4.0 * pump.part.plunger_mm**2 * pump.part.stroke_mm * pump.part.strokes_a_turn * pump.turns
        label = f"Pump {number}, displacement a turn of the engine"
        yield SheetRow(
            f"high_pump_{number}_mm3",
            label,
            float(swept),
            "pump control: displacement and its limits",
            "estimate",
            "displacement = π ÷ 4 × plunger² × stroke × strokes a turn of the cam × turns of the cam a turn",
        )
    for rpm, kpa in zip(high.target.rpm, high.target.kpa, strict=True):
        yield SheetRow(f"rail_target_{rpm:.0f}rpm_kpa", f"Rail target at {rpm:.0f} rpm", kpa, "rail control")
    yield SheetRow("rail_target_idle_kpa", "Rail target at idle", high.idle_target_kpa, "idle")


def _delivery(option: Option) -> Iterator[SheetRow]:
    told = option.delivery
    if told is None or option.high_side is None or option.injectors is None:
        return
    again = "hand-over between direct and port, at slow and fast throttle"
    yield SheetRow("delivery", "Fuel goes by", told.mode, again)
    if told.mode == "share":
        yield SheetRow("direct_share_pct", "Direct share", told.direct_share_pct, again)
    if told.mode == "ceiling":
        yield SheetRow("direct_up_to_pct", "Direct up to, of what it holds", told.ceiling_use_pct, again)
    if told.mode == "threshold":
        suffix = {"manifold_kpa": "kpa", "rpm": "rpm", "flow_l_h": "l_h"}[told.signal]
        yield SheetRow(f"port_joins_from_{suffix}", "Port joins from", told.start, again)
        yield SheetRow(f"port_fades_over_{suffix}", "fading in over", told.width, again)
        yield SheetRow("port_share_pct", "to a port share of", told.port_share_pct, again)


def _pumps(option: Option, verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    worst = max(verdicts, key=lambda one: one.load("pumps").load)
    hyd = worst.points.hydraulics
    for number, group in enumerate(option.pumps):
        name = f"Group {number + 1}"
        flow = float(hyd.group_flow_m3_s[number, PEAK]) / M3_S_PER_L_H
        again = "pump control and the test of its output"
        label = f"{name}, {group.count} × brings at peak"
        yield SheetRow(f"pump_{number + 1}_flow_l_h", label, flow, again, "estimate", PUMPS_THERE)
        label, amps = f"{name}, each draws", float(hyd.amps[number, PEAK])
        yield SheetRow(f"pump_{number + 1}_a", label, amps, "fuse and wire", "estimate", PUMPS_THERE)
        for suffix, label, value in (
            ("kpa", "joins above boost", group.on_above_kpa),
            ("rpm", "joins above speed", group.on_above_rpm),
            ("l_h", "joins above flow", group.on_above_l_h),
            ("pct", "joins above duty", group.on_above_duty_pct),
            ("lambda", "joins richer than", group.on_below_lambda),
        ):
            if value is not None:
                yield SheetRow(f"pump_{number + 1}_joins_{suffix}", f"{name} {label}", value, "the step when it joins")
    if option.regulator.arrangement == "returnless, speed-controlled":
        least = option.regulator.slowest_pct
        yield SheetRow("pump_least_speed_pct", "Least speed", least, "pressure at idle and on overrun")


def _targets(verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    for verdict in verdicts:
        target, key = verdict.target, verdict.target.id.replace("-", "_")
        afr = target.lambda_ * verdict.fuel.stoich_afr
        again = f"mixture on {target.name}"
        yield SheetRow(f"{key}_lambda", f"{target.name}: mixture", target.lambda_, again)
        yield SheetRow(f"{key}_afr", f"{target.name}: the same as air to this fuel", afr, again, "constant", AS_AFR)
        yield SheetRow(
            f"{key}_gasoline_afr",
            f"{target.name}: on a gauge set to gasoline",
            target.lambda_ * GASOLINE_AFR,
            again,
            "constant",
            "reading = λ × 14.7, whatever the fuel",
        )
        yield SheetRow(f"{key}_boost_kpa", f"{target.name}: boost", target.boost_kpa, f"boost on {target.name}")


def _fuel(build: Build, verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    target = verdicts[0].target
    base = base_fuel(build, target.base_fuel)
    for pct in BLENDS:
        mix, label = blend(pct / 100.0, 15.0, base), f"E{pct:.0f}"
        again = "the ethanol correction"
        yield SheetRow(
            f"e{pct:.0f}_stoich_afr", f"{label}: stoichiometric", float(mix.stoich_afr), again, "constant", BY_MASS
        )
        yield SheetRow(
            f"e{pct:.0f}_density_kg_m3",
            f"{label}: density at 15 °C",
            float(mix.density_kg_m3),
            again,
            "constant",
            "density = share of ethanol × its density + share of base fuel × its density, by volume",
        )


def _boost(rows: Sequence[Permitted]) -> Iterator[SheetRow]:
    for one in rows:
        if one.boost_kpa is not None and not one.without_boost:
            again = "boost control, stepped up to with a log"
            yield SheetRow(
                f"boost_e{one.ethanol_pct:.0f}_kpa",
                f"E{one.ethanol_pct:g} read",
                one.boost_kpa,
                again,
                "estimate",
                PERMITTED,
            )


def _ethanol(verdicts: Sequence[TargetVerdict]) -> Iterator[SheetRow]:
    if len({one.target.ethanol_pct for one in verdicts}) < 2:
        return
    for pct in (0.0, 50.0, 100.0):
        found = ethanol_signal(pct, 20.0)
        yield SheetRow(
            f"ethanol_{pct:.0f}_hz", f"E{pct:.0f} is", found.frequency_hz, SENSOR_PROOF, "constant", SENSOR_LAW
        )


def _sensors(option: Option) -> Iterator[SheetRow]:
    for sensor in option.sensors:
        low, high, unit = sensor.reach
        key, again = sensor.id.replace("-", "_"), f"what {sensor.measures} is read from"
        for volts, value in ((sensor.low_v, low), (sensor.high_v, high)):
            name = f"{key}_at_{volts:g}v_{unit}".replace(".", "_").replace("-", "minus_")
            yield SheetRow(name, f"{sensor.name}: {volts:g} V", value, again)


def sheet_changes(before: Sequence[SheetSection], after: Sequence[SheetSection]) -> tuple[Changed, ...]:
    """What is another on the later sheet, what is new on it, and what has gone."""
    was = {row.name: (section.title, row) for section in before for row in section.rows}
    now = {row.name: (section.title, row) for section in after for row in section.rows}
    found = []
    for name, (section, row) in now.items():
        old = was[name][1].value if name in was else None
        if old is None or not _same(old, row.value):
            found.append(Changed(section, row, old, row.value))
    for name, (section, row) in was.items():
        if name not in now:
            found.append(Changed(section, row, row.value, None))
    return tuple(found)


def _same(one: float | str, other: float | str) -> bool:
    if isinstance(one, str) or isinstance(other, str):
        return one == other
    return abs(one - other) <= SMALLEST_CHANGE * max(abs(one), abs(other), 1e-12)
