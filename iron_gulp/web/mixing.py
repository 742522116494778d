"""The tank-mixing form: what is typed, what is wrong with it, and the answer."""

from collections.abc import Mapping
from dataclasses import dataclass

from iron_gulp.core.mixing import Fill, fill_to_target
from iron_gulp.units import BenchUnits, Unreadable, as_input, quantity_of, read_quantity, show

# name, title, default, lowest, highest (in the unit of the name)
FIELDS: tuple[tuple[str, str, float, float, float], ...] = (
    ("tank_l", "Tank", 60.0, 0.1, 1000.0),
    ("held_l", "In it now", 8.0, 0.0, 1000.0),
    ("held_pct", "at ethanol", 12.0, 0.0, 100.0),
    ("target_pct", "Wanted", 50.0, 0.0, 100.0),
    ("strong_pct", "Strong fuel", 85.0, 0.0, 100.0),
    ("weak_pct", "Weak fuel", 10.0, 0.0, 100.0),
)


@dataclass(frozen=True)
class MixField:
    name: str
    title: str
    text: str
    unit: str
    error: str


@dataclass(frozen=True)
class MixView:
    fields: tuple[MixField, ...]
    answer: str


def mix_view(
    typed: Mapping[str, str], units: BenchUnits, tank_l: float | None = None, target_pct: float | None = None
) -> MixView:
    """The form with the answer; `typed` holds texts by field name, missing ones start from defaults."""
    given = {"tank_l": tank_l, "target_pct": target_pct}
    fields, values = [], {}
    for name, title, default, low, high in FIELDS:
        start = default if given.get(name) is None else given[name]
        text = typed.get(name, as_input(start, name, units))[:100]
        error = ""
        try:
            values[name] = read_quantity(text, name, units)
            if not low <= values[name] <= high:
                error = f"from {show(low, name, units)[0]} to {' '.join(show(high, name, units))}"
        except Unreadable as problem:
            error = str(problem)
        fields.append(MixField(name, title, text, units.unit(quantity_of(name)).key, error))
    if any(field.error for field in fields):
        return MixView(tuple(fields), "")
    try:
        return MixView(tuple(fields), _answer(fill_to_target(**values), units))
    except ValueError as problem:
        return MixView(tuple(fields), f"Cannot be mixed: {problem}.")


def _answer(fill: Fill, units: BenchUnits) -> str:
    strong, weak = (" ".join(show(litres, "fill_l", units)) for litres in (fill.strong_l, fill.weak_l))
    how = f"Fill to the top with {strong} of the strong fuel and {weak} of the weak fuel"
    if fill.reachable:
        return f"{how}: E{fill.reached_pct:.3g}."
    return (
        f"E{fill.target_pct:.3g} cannot be reached in this tank: from E{fill.lowest_pct:.3g} to E{fill.highest_pct:.3g} "
        f"can. Nearest: {how[0].lower()}{how[1:]}, giving E{fill.reached_pct:.3g}."
    )
