"""Switches, missing stages and proposals, worked out when looked at."""

from fastapi import APIRouter, Request, Response

from ...parts.rendering import page
from ...parts.types import BuildId
from ..showing import piece

router = APIRouter(prefix="/builds/{build_id}")


@router.get("/stage/switches")
def switches(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """What happens at each switch, and what is proposed."""
    view = piece(request, build_id, "stage", option, target)
    return page(request, "stage/switches.html", v=view, units=view.units)
