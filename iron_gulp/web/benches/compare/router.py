"""Options beside each other: the piece that shows them, the choice, what is fitted today, and a sheet for the client."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, Request, Response

from ...parts.rendering import page, workshop_of
from ...parts.types import Base, BuildId, Line
from ..changes import Here, repaint
from ..showing import piece
from .picture import multiples
from .rows import client_ways, figure_rows, parts_rows
from .view import View

router = APIRouter(prefix="/builds/{build_id}/compare")


def _context(request: Request, build_id: int, option: str | None, target: str | None) -> dict[str, Any]:
    workshop, view = workshop_of(request), piece(request, build_id, "compare", option, target)
    assert isinstance(view, View)
    found = workshop.comparing.of(view.bench)
    return {
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


@router.get("/sheet")
def sheet(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """A sheet for the client that informs and does not decide."""
    return page(request, "compare/sheet.html", **_context(request, build_id, option, target))


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
