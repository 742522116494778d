"""Every regulator arrangement side by side."""

from fastapi import APIRouter, Request, Response

from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import BuildId
from .references import references_view

router = APIRouter(prefix="/builds/{build_id}")


@router.get("/references")
def references(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The option under every regulator arrangement."""
    found, units = workshop_of(request).judging.bench(build_id, option, target), units_of(request)
    return page(request, "regulator/references.html", r=references_view(found, units), units=units, **place_of(found))
