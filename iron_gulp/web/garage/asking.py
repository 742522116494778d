"""A new build from a few questions on one screen, everything else a visible default."""

import re
import secrets
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Annotated, get_args
from urllib.parse import quote, urlencode

from fastapi import APIRouter, Path, Request, Response
from fastapi.responses import RedirectResponse

from iron_gulp.services.answers import Refused, meant_by, read_answers
from iron_gulp.services.sizing import Answers
from iron_gulp.services.typed import units_said
from iron_gulp.units import BenchUnits, as_input, quantity_of

from ..parts.rendering import page, units_of, workshop_of

router = APIRouter()
FORM = re.compile(r"[A-Za-z0-9_-]{8,40}")
DRAFT_POWER = "160 kW"
NAMES = frozenset(Answers.model_fields)
ASKED = ("name", "displacement_l", "cylinders", "induction", "feeding", "power_kw", "power_at", "fuel")
FOUND = (
    *("injector_cc_min", "injector_at_kpa", "injectors", "pump_l_h", "pump_at_kpa", "pumps", "feed_mm", "lines"),
    *("regulator_kpa", "regulator_l_h", "regulator", "regulator_sits", "pumps_sit", "tank_l", "pickup"),
)


@dataclass(frozen=True)
class Question:
    """A question: its field, what was typed or its default, choices, unit, what is wrong."""

    name: str
    title: str
    text: str
    unit: str
    empty: str
    error: str
    choices: tuple[str, ...]
    meant: tuple[str, ...] = ()

    @property
    def answered(self) -> str:
        """What was typed as it is shown back: with the bench's unit where none was typed."""
        bare = self.unit and self.text.strip()[-1:].isdigit()
        return f"{self.text} {self.unit}" if bare else self.text


def questions(typed: Mapping[str, str], problems: Mapping[str, str], units: BenchUnits) -> list[Question]:
    """Every question, with what was typed before."""
    found = []
    for name, field in Answers.model_fields.items():
        choices = get_args(field.annotation)
        listed = tuple(str(one) for one in choices) if choices and all(isinstance(one, str) for one in choices) else ()
        start = "" if field.is_required() or field.default is None else field.default
        shown = as_input(start, name, units) if isinstance(start, float) else str(start)
        unit = "" if listed or name in ("name", "cylinders") else units.unit(quantity_of(name)).key
        empty = Answers.when_empty.get(name, "")
        text, error = typed.get(name, shown), problems.get(name, "")
        meant = meant_by(name, text, units) if error else ()
        found.append(Question(name, str(field.title), text, unit, empty, error, listed, meant))
    return found


@router.get("/new")
def ask(request: Request) -> Response:
    """The questions."""
    return _asked(request, {}, {}, 200)


@router.post("/new")
async def answer(request: Request) -> Response:
    """Answers begin to become a build with a sized system; the page that follows waits for it."""
    form = await request.form(max_fields=60)
    typed = {name: str(value)[:300] for name, value in form.items() if isinstance(value, str)}
    units = units_of(request)
    if "draft" in typed and not typed.get("power_kw", "").strip():
        typed["power_kw"] = DRAFT_POWER  # a draft may be begun before anybody knows
    try:
        answers = read_answers(typed, units, workshop_of(request).shelf.catalogue.lines)
    except Refused as error:
        return _asked(request, typed, error.problems, 422)
    form_id = _form_id(typed)
    if "draft" in typed:
        build_id = workshop_of(request).sizing.draft(answers, units, units.chosen["wire"], units_said(typed, units))
        return RedirectResponse(f"/builds/{build_id}/ask", 303)
    workshop_of(request).sizing.start_build(answers, units, units.chosen["wire"], form_id, units_said(typed, units))
    return RedirectResponse(
        f"/new/{form_id}?{urlencode({name: typed[name] for name in sorted(typed) if name in NAMES})}", 303
    )


@router.get("/new/{form_id}")
def wait(request: Request, form_id: Annotated[str, Path(max_length=40)]) -> Response:
    """The build that was asked for, once it is there; reloading asks for nothing again."""
    made = workshop_of(request).sizing.made(form_id)
    typed = {name: value[:300] for name, value in request.query_params.items() if name in NAMES}
    if made is None:
        return _asked(request, typed, {}, 200)
    if made.running:
        asked = questions(typed, {}, units_of(request))
        come = made.progress.in_words(workshop_of(request).roads.rates())
        return page(request, "new_wait.html", made=made, asked=asked, form_id=form_id, come=come)
    if made.build_id is not None:
        return RedirectResponse(f"/builds/{made.build_id}/ask", 303)
    return _asked(request, typed, {"feeding": made.told}, 422)


@router.post("/new/{form_id}/stop")
def stop(request: Request, form_id: Annotated[str, Path(max_length=40)]) -> Response:
    """End it; no build comes of it, and the answers are asked again."""
    workshop_of(request).sizing.stop_build(form_id)
    return RedirectResponse(f"/new/{quote(form_id)}?{request.url.query}", 303)


def _form_id(typed: Mapping[str, str]) -> str:
    """The name of a form that was handed out, so that what it sends twice is done once; another for who has none."""
    told = typed.get("form", "")
    return told if FORM.fullmatch(told) else secrets.token_urlsafe(12)


def _asked(request: Request, typed: Mapping[str, str], problems: Mapping[str, str], status: int) -> Response:
    every = questions(typed, problems, units_of(request))
    first = [one for one in every if one.name in ASKED]
    found = [one for one in every if one.name in FOUND]
    rest = [one for one in every if one.name not in (*ASKED, *FOUND)]
    told = any(one.text and not one.choices for one in found)
    opened = told or any(one.error for one in found)
    context = {"first": first, "found": found, "rest": rest, "opened": opened}
    return page(request, "new.html", status, form_id=_form_id(typed), **context)
