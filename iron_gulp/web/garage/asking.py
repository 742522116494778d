"""A new build from a few questions on one screen, everything else a visible default."""

from collections.abc import Mapping
from dataclasses import dataclass
from typing import get_args

from fastapi import APIRouter, Request, Response
from fastapi.concurrency import run_in_threadpool
from fastapi.responses import RedirectResponse

from iron_gulp.services.answers import Refused, read_answers
from iron_gulp.services.sizing import Answers
from iron_gulp.units import BenchUnits, as_input, quantity_of

from ..parts.rendering import page, units_of, workshop_of

router = APIRouter()
ASKED = ("name", "displacement_l", "cylinders", "induction", "feeding", "power_kw", "power_at", "fuel")


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
        found.append(
            Question(name, str(field.title), typed.get(name, shown), unit, empty, problems.get(name, ""), listed)
        )
    return found


@router.get("/new")
def ask(request: Request) -> Response:
    """The questions."""
    return _asked(request, {}, {}, 200)


@router.post("/new")
async def answer(request: Request) -> Response:
    """Answers become a build with a sized system, opened on its Ask page."""
    form = await request.form(max_fields=60)
    typed = {name: str(value)[:300] for name, value in form.items() if isinstance(value, str)}
    units = units_of(request)
    try:
        answers = read_answers(typed, units)
    except Refused as error:
        return _asked(request, typed, error.problems, 422)
    create = workshop_of(request).sizing.create
    try:
        build_id = await run_in_threadpool(create, answers, units, units.chosen["wire"])
    except LookupError as error:
        return _asked(request, typed, {"feeding": str(error)}, 422)
    return RedirectResponse(f"/builds/{build_id}/ask", 303)


def _asked(request: Request, typed: Mapping[str, str], problems: Mapping[str, str], status: int) -> Response:
    every = questions(typed, problems, units_of(request))
    first = [one for one in every if one.name in ASKED]
    rest = [one for one in every if one.name not in ASKED]
    return page(request, "new.html", status, first=first, rest=rest)
