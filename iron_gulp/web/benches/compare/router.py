"""Options beside each other: the piece that shows them, the choice, what is fitted today, and a sheet for the client."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request, Response

from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import Base, BuildId, Line
from ..changes import Here, repaint
from ..showing import piece
from .picture import multiples
from .quote import quote_lines, quote_sums
from .real import real_row, real_rows
from .rows import client_ways, figure_rows, parts_rows, weighed_rows
from .view import View

router = APIRouter(prefix="/builds/{build_id}/compare")


def _context(request: Request, build_id: int, option: str | None, target: str | None) -> dict[str, Any]:
    workshop, view = workshop_of(request), piece(request, build_id, "compare", option, target)
    assert isinstance(view, View)
    found = workshop.comparing.of(view.bench)
    weighed, wholes = weighed_rows(*workshop.comparing.weighed(view.bench))
    return {
        "weighed": weighed,
        "wholes": wholes,
        "v": view,
        "options": found,
        "picture": multiples(found),
        "parts": parts_rows(found),
        "figures": figure_rows(found, workshop.roads.rates(), view.quantity),
        "ways": client_ways(found, workshop.roads.rates(), view.quantity),
        "left_out": view.left_out(found),
        "units": view.units,
    }


@router.get("/table")
def table(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The options beside each other."""
    return page(request, "compare/table.html", **_context(request, build_id, option, target))


@router.get("/real")
def real(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """What a real part must offer on each line of the option."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    rows = real_rows(workshop.real_parts.needs(bench), units)
    return page(request, "compare/real.html", rows=rows, units=units, **place_of(bench))


@router.post("/real")
def enter_real(
    request: Request,
    build_id: BuildId,
    here: Here,
    base: Base,
    path: Line,
    name: Annotated[str, Form(max_length=300)] = "",
    datum: Annotated[str, Form(max_length=60)] = "",
    price: Annotated[str, Form(max_length=60)] = "",
    supplier: Annotated[str, Form(max_length=300)] = "",
    lead_days: Annotated[str, Form(max_length=60)] = "",
) -> Response:
    """A real part in place of a generic one; a refused one keeps what was typed in its line."""
    workshop, units = workshop_of(request), units_of(request)
    typed = {"name": name, "datum": datum, "price": price, "supplier": supplier, "lead_days": lead_days}
    outcome = workshop.real_parts.enter(build_id, base, here.option, path, typed, units)
    bench = workshop.judging.bench(build_id, here.option, here.target)
    need = next((one for one in workshop.real_parts.needs(bench) if one.path == path), None)
    if outcome.ok or need is None:
        return repaint(request, build_id, here, outcome)
    row = real_row(need, units, typed, outcome.message)
    answer = page(request, "compare/real_row.html", 422, row=row, units=units, **place_of(bench))
    answer.headers.update({"HX-Retarget": f"#real-{row.id}", "HX-Reswap": "outerHTML"})
    return answer


@router.get("/sheet")
def sheet(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """A sheet for the client that informs and does not decide."""
    return page(request, "compare/sheet.html", **_context(request, build_id, option, target))


@router.get("/quote")
def quote(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """A quote for the option."""
    view = piece(request, build_id, "compare", option, target)
    paid, before = workshop_of(request).comparing.quote(view.bench)
    context: dict[str, Any] = {"lines": quote_lines(paid), "sums": quote_sums(paid), "from_today": before}
    context |= {"known": paid.known, "days": paid.lead_days, "units": view.units}
    return page(request, "compare/quote.html", v=view, **context)


@router.post("/choose")
def choose(
    request: Request,
    build_id: BuildId,
    here: Here,
    base: Base,
    choice: Line,
    why: Annotated[str, Form(max_length=400)] = "",
) -> Response:
    """Choose an option with a reason."""
    return repaint(request, build_id, here, workshop_of(request).comparing.choose(build_id, base, choice, why))


@router.post("/fitted")
def fitted(request: Request, build_id: BuildId, here: Here, base: Base, choice: Line) -> Response:
    """Say which option is fitted today."""
    return repaint(request, build_id, here, workshop_of(request).comparing.fitted(build_id, base, choice))
