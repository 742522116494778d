"""The garage: list, new, duplicate, put away, take out."""

from typing import Annotated, Literal

from fastapi import APIRouter, Query, Request, Response
from fastapi.responses import RedirectResponse

from ..parts.rendering import page, units_of, workshop_of
from ..parts.types import Base, BuildId, Line

router = APIRouter()


@router.get("/")
def garage(
    request: Request,
    q: Annotated[str, Query(max_length=200)] = "",
    sort: Literal["touched", "name", "load"] = "touched",
    archived: bool = False,
    at: Annotated[int, Query(ge=1, le=1_000_000)] = 1,
) -> Response:
    """The list of builds; the list alone for a fragment."""
    found = workshop_of(request).garage.page(q, sort, archived, at)
    template = "garage_list.html" if request.headers.get("hx-target") == "garage-list" else "garage.html"
    return page(
        request, template, found=found, q=q, sort=sort, archived=archived, at=at, units=units_of(request), problems=[]
    )


@router.post("/builds")
def create(request: Request) -> Response:
    """A new build, opened on its Ask page."""
    return RedirectResponse(f"/builds/{workshop_of(request).garage.create(units_of(request).chosen['wire'])}/ask", 303)


@router.post("/builds/{build_id}/duplicate")
def duplicate(request: Request, build_id: BuildId) -> Response:
    """A copy of a build, opened."""
    return RedirectResponse(f"/builds/{workshop_of(request).garage.duplicate(build_id)}/ask", 303)


@router.post("/builds/{build_id}/count-alcohol")
def count_alcohol(request: Request, build_id: BuildId, base: Base, school: Line) -> Response:
    """Count a build's alcohol by another school, from its row; what changed meanwhile is shown by the list."""
    workshop_of(request).edits.count_alcohol(build_id, base, school)
    return RedirectResponse("/", 303)


@router.post("/builds/{build_id}/archive")
def archive(request: Request, build_id: BuildId) -> Response:
    """Put a build away."""
    workshop_of(request).garage.set_archived(build_id, True)
    return RedirectResponse("/", 303)


@router.post("/builds/{build_id}/unarchive")
def unarchive(request: Request, build_id: BuildId) -> Response:
    """Take a build out again."""
    workshop_of(request).garage.set_archived(build_id, False)
    return RedirectResponse("/", 303)
