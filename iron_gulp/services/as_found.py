"""A system as it stands in the car, from what a new user knows of it: rated flows and bores, nothing of who made it."""

from typing import TypeVar

from iron_gulp.core.model import (
    InjectorPart,
    LinePart,
    Option,
    Part,
    PumpPart,
    RegulatorPart,
    flow_at,
    rated_at_300_kpa,
    same_work,
)
from iron_gulp.core.plan import Answers, bare
from iron_gulp.core.plan.design import Kept
from iron_gulp.shelf import Shelf

AS_FOUND = "As it stands"
INJECTORS_KPA, PUMP_KPA, FLOATS_KPA = 300.0, 400.0, 30.0  # where nothing is said of the pressure
PROVENANCE = "as said; the rest as parts of this size have it"
Sold = TypeVar("Sold", bound=Part)


def as_found(shelf: Shelf, option: Option, answers: Answers) -> tuple[Option, tuple[Kept, ...]]:
    """An option with the parts that are fitted in it, and what of them must stay."""
    keep: list[Kept] = []
    changed: dict[str, object] = {}
    if answers.injector_cc_min is not None and option.injectors is not None:
        part = _injector(shelf, answers.injector_cc_min, answers.injector_at_kpa or INJECTORS_KPA)
        changed["injectors"] = option.injectors.model_copy(update={"part": part})
        keep += ["injectors"] if answers.injectors == "must stay" else []
    if answers.pump_l_h is not None:
        usual = FLOATS_KPA if option.carburettor is not None else PUMP_KPA
        pump = _pump(shelf, option, answers.pump_l_h, usual if answers.pump_at_kpa is None else answers.pump_at_kpa)
        changed["pumps"] = (option.pumps[0].model_copy(update={"part": pump}),)
        keep += ["pumps"] if answers.pumps == "must stay" else []
    if answers.feed_mm is not None:
        line = _line(shelf, option.feed.part, answers.feed_mm)
        changed["feed"] = option.feed.model_copy(update={"part": line})
        keep += ["lines"] if answers.lines == "must stay" else []
    if answers.regulator_kpa is not None:
        held = _regulator(shelf, option, answers.regulator_kpa, answers.regulator_l_h)
        fitted = {"part": held, "base_kpa": answers.regulator_kpa}
        changed["regulator"] = option.regulator.model_copy(update=fitted)
        keep += ["regulator"] if answers.regulator == "must stay" else []
    return option.model_copy(update=changed), tuple(keep)


def bought(option: Option, answers: Answers) -> Option:
    """What of an as-found option is paid already: what was said to be fitted, nothing else."""
    known: dict[str, object] = {}
    if answers.injector_cc_min is not None:
        known["injectors"] = option.injectors
    if answers.pump_l_h is not None:
        known["pumps"] = option.pumps
    if answers.feed_mm is not None:
        known["feed"] = option.feed
    if answers.regulator_kpa is not None:
        known["regulator"] = option.regulator
    return bare(option).model_copy(update=known)


def _own(part: Sold, name: str, **data: object) -> Sold:
    """A part of one's own with the data of the nearest on the shelf where nothing is known."""
    said = {"name": name, "shelf_id": None, "price": None, "provenance": PROVENANCE}
    return part.model_copy(update={**said, **data})


def _injector(shelf: Shelf, cc_min: float, at_kpa: float) -> InjectorPart:
    size = cc_min * (INJECTORS_KPA / at_kpa) ** 0.5
    near = min(shelf.catalogue.injectors, key=lambda one: abs(rated_at_300_kpa(one) - size))
    return _own(
        near,
        "Injector as found",
        rated_flow_cc_min=cc_min,
        rated_pressure_kpa=at_kpa,
        min_pulse_ms=None,
    )


def _pump(shelf: Shelf, option: Option, l_h: float, at_kpa: float) -> PumpPart:
    fitted = option.pumps[0].part
    kin = [one for one in shelf.catalogue.pumps if one.kind == fitted.kind and same_work(one, fitted)]
    alike = [one for one in kin if flow_at(one, at_kpa) > 0]
    near = min(alike or [fitted], key=lambda one: abs(flow_at(one, at_kpa) - l_h))
    share = l_h / flow_at(near, at_kpa) if flow_at(near, at_kpa) > 0 else 1.0
    curves = tuple(
        one.model_copy(
            update={
                "flow_l_h": tuple(round(flow * share, 2) for flow in one.flow_l_h),
                "current_a": tuple(round(amps * share, 3) for amps in one.current_a),
            }
        )
        for one in near.curves
    )
    return _own(near, "Pump as found", curves=curves, pigtail_a=None)


def _regulator(shelf: Shelf, option: Option, base_kpa: float, l_h: float | None) -> RegulatorPart:
    fitted = option.regulator.part
    kin = [one for one in shelf.catalogue.regulators if one.works == fitted.works]

    def apart(one: RegulatorPart) -> tuple[float, float]:
        beyond = max(one.min_base_kpa - base_kpa, base_kpa - one.max_base_kpa, 0.0)
        return beyond, abs(one.capacity_l_h - (fitted.capacity_l_h if l_h is None else l_h))

    near = min(kin or [fitted], key=apart)
    return _own(
        near,
        "Regulator as found",
        min_base_kpa=min(near.min_base_kpa, base_kpa),
        max_base_kpa=max(near.max_base_kpa, base_kpa),
        capacity_l_h=near.capacity_l_h if l_h is None else l_h,
    )


def _line(shelf: Shelf, fitted: LinePart, bore_mm: float) -> LinePart:
    alike = [one for one in shelf.catalogue.lines if one.construction == fitted.construction]
    near = min(alike or [fitted], key=lambda one: abs(one.bore_mm - bore_mm))
    return _own(
        near, f"{fitted.construction} as found", bore_mm=bore_mm, size=near.size if near.bore_mm == bore_mm else ""
    )
