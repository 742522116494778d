"""Options as columns: rows of what differs, what each costs and needs, and what it gives up."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass

from iron_gulp.core.model import Rates, Weights
from iron_gulp.core.plan import Weighed, choices_of, money
from iron_gulp.services.comparing import Compared

Quantity = Callable[[float | None, str], str]


@dataclass(frozen=True)
class Row:
    """A row over all options; `best` is the position of the best, -1 where none is better."""

    title: str
    cells: tuple[str, ...]
    best: int = -1


def parts_rows(options: Sequence[Compared]) -> list[Row]:
    """The choices that differ; what is the same everywhere is left out."""
    every = [choices_of(one.option) for one in options]
    names = list(dict.fromkeys(name for one in every for name in one))
    rows = [Row(name.capitalize(), tuple(one.get(name, "none") for one in every)) for name in names]
    return [row for row in rows if len(set(row.cells)) > 1]


def figure_rows(options: Sequence[Compared], rates: Rates, quantity: Quantity) -> list[tuple[str, list[Row]]]:
    """Figures by topic."""

    def row(title: str, text: Callable[[Compared], str], worth: Callable[[Compared], float] | None = None) -> Row:
        best = -1 if worth is None else _best([worth(one) for one in options])
        return Row(title, tuple(text(one) for one in options), best)

    def on_target(at: int) -> Row:
        name = options[0].verdicts[at].target.name
        return row(name, lambda one: _ceiling(one, at, quantity), lambda one: -one.verdicts[at].first_out.load)

    carries = [on_target(at) for at in range(len(options[0].verdicts))]
    carries += [
        row("Least headroom", lambda one: _share(one.headroom), lambda one: one.headroom),
        row("Carries every target in", lambda one: f"{one.carried * 100:.0f} of 100 cars", lambda one: one.carried),
    ]
    runs = [
        row("Idle, highest load", lambda one: _share(_idle(one)), lambda one: -_idle(one)),
        row("Pressure step as a stage joins", lambda one: quantity(one.step_kpa, "step_kpa")),
        row("Current at the peak", lambda one: quantity(one.amps, "total_a"), lambda one: -one.amps),
        row("Electrical power at idle, heat to the fuel at most", lambda one: quantity(one.idle_heat_w, "heat_w")),
    ]
    costs = [
        row("Parts and fittings", lambda one: money(one.paid.parts + one.paid.fittings, rates)),
        row("Labour", lambda one: money(one.paid.labour, rates)),
        row("Calibration", lambda one: money(one.paid.calibration, rates)),
        row("Quote, with markup and tax", lambda one: money(one.paid.quoted, rates)),
        row("Parts there in", lambda one: _days(one.paid.lead_days)),
        row("All in", lambda one: money(one.paid.total, rates), lambda one: -one.paid.total),
    ]
    needs = [
        row("Pumps, controllers", lambda one: f"{one.parts.pumps}, {one.parts.controllers}"),
        row("Relays, joints", lambda one: f"{one.parts.relays}, {one.parts.joints}"),
        row("May fail unseen", lambda one: ", ".join(one.parts.silent) or "nothing"),
        row("To be tuned", lambda one: ", ".join(one.parts.tuned) or "nothing"),
        row("Thrown away of today's", lambda one: "; ".join(one.thrown) or "nothing"),
    ]
    return [
        ("What it carries", carries),
        ("How it runs", runs),
        ("What it costs", costs),
        ("What it needs and gives up", needs),
    ]


@dataclass(frozen=True)
class WeighedRow:
    """A criterion: its weight, and each option between the worst and the best of them."""

    name: str
    title: str
    weight: str
    cells: tuple[float, ...]


def weighed_rows(weights: Mapping[str, float], found: Sequence[Weighed]) -> tuple[list[WeighedRow], list[str]]:
    """A row a criterion, and the whole of each option."""
    titles = {name: str(field.title) for name, field in Weights.model_fields.items()}
    rows = [
        WeighedRow(name, titles[name], f"{weight:g}", tuple(round(100.0 * one.shares[name], 1) for one in found))
        for name, weight in weights.items()
    ]
    return rows, [f"{one.whole:.0f}" for one in found]


def client_ways(options: Sequence[Compared], rates: Rates, quantity: Quantity) -> list[tuple[str, list[str]]]:
    """Each option in a client's words."""
    ways = []
    for one in options:
        lines = []
        for verdict in one.verdicts:
            first, kw = verdict.first_out, verdict.power_limit.ceiling_kw
            carries = first.load <= 1.0
            does = "carries it" if carries else f"does not carry it, for its {first.title.lower()}"
            enough = kw is not None and (carries or first.component == verdict.power_limit.component)
            good = f"; the fuel system is good for about {quantity(kw, 'power_kw')}" if enough and kw else ""
            lines.append(f"{verdict.target.name}: {does}{good}.")
        lines.append(f"In about {one.carried * 100:.0f} of 100 cars like this it carries everything asked.")
        silent = ", ".join(one.parts.silent)
        lines.append(f"Can fail without being noticed: {silent}." if silent else "Nothing in it fails unnoticed.")
        lines.append(f"Tuned afterwards: {', '.join(one.parts.tuned) or 'nothing'}.")
        lines.append(f"Money, all in: {money(one.paid.total, rates)}.")
        ways.append((one.option.name + (" (as the car is today)" if one.today else ""), lines))
    return ways


def _days(days: int | None) -> str:
    if days is None:
        return "not known"
    return "nothing to wait for" if days == 0 else f"{days} day{'s' * (days != 1)}"


def _share(value: float) -> str:
    return f"{value * 100:.0f}\u00a0%"


def _ceiling(one: Compared, at: int, quantity: Quantity) -> str:
    verdict = one.verdicts[at]
    first, limit = verdict.first_out, verdict.power_limit
    load = f"{first.load * 100:.0f}\u00a0%" if first.load < 100 else "none left"
    power = f", good for {quantity(limit.ceiling_kw, 'power_kw')}" if limit.ceiling_kw is not None else ""
    return f"{first.title.lower()} {load}{power}"


def _idle(one: Compared) -> float:
    names = ("injector idle", "direct injector idle", "regulator")
    return max((load.load for verdict in one.verdicts for load in verdict.loads if load.component in names), default=0.0)


def _best(worth: Sequence[float]) -> int:
    best = max(worth)
    return list(worth).index(best) if sum(abs(one - best) < 1e-9 for one in worth) == 1 else -1
