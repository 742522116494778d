"""The shop's rates as a form: groups of fields, what is generic, what is wrong."""

from collections.abc import Mapping
from dataclasses import dataclass

from iron_gulp.core.model import GENERIC_RATES, Rates
from iron_gulp.services.roads import Refused


@dataclass(frozen=True)
class RateField:
    name: str
    title: str
    value: str
    unit: str
    empty: str
    generic: bool
    error: str


@dataclass(frozen=True)
class RatesView:
    groups: tuple[tuple[str, tuple[RateField, ...]], ...]
    saved: bool
    error: str


def refused(outcome: Rates | Refused | None) -> bool:
    """Whether what was typed was not kept."""
    return isinstance(outcome, Refused)


def rates_view(rates: Rates, typed: Mapping[str, str] | None = None, outcome: Rates | Refused | None = None) -> RatesView:
    """The form with the rates kept, or with what was typed where that was refused."""
    problems = outcome.problems if isinstance(outcome, Refused) else {}
    elsewhere = {name for names in Rates.in_groups.values() for name in names}
    groups = {"Hours and small parts": tuple(name for name in Rates.model_fields if name not in elsewhere)}
    shown = tuple(
        (title, tuple(_field(name, rates, typed if problems else None, problems) for name in names))
        for title, names in (groups | Rates.in_groups).items()
    )
    return RatesView(shown, isinstance(outcome, Rates), "; ".join(problems.values()) if "" in problems else "")


def _field(name: str, rates: Rates, typed: Mapping[str, str] | None, problems: Mapping[str, str]) -> RateField:
    kept = getattr(rates, name)
    text = "" if kept is None else kept if isinstance(kept, str) else f"{kept:g}"
    unit = "" if name == "currency" else "h" if name.endswith("_h") else "%" if name.endswith("_pct") else rates.currency
    return RateField(
        name,
        Rates.model_fields[name].title or name,
        text if typed is None else typed.get(name, text),
        unit,
        Rates.when_empty.get(name, ""),
        kept == getattr(GENERIC_RATES, name),
        problems.get(name, ""),
    )
