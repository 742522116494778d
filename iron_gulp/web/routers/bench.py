"""Pages of a build, and figures opened."""

from typing import Annotated

from fastapi import APIRouter, HTTPException, Query, Request, Response
from fastapi.responses import RedirectResponse

from ..calculators import calculator_view
from ..diagram_view import diagram_file, diagram_view
from ..explaining import explanation_view
from ..references_view import references_view
from ..rendering import bench_page, page, part_sizes, units_of, workshop_of
from ..stations import PAGES
from .types import BuildId

router = APIRouter()


@router.get("/builds/{build_id}")
def build(request: Request, build_id: BuildId) -> Response:
    """A build opens on its Ask page."""
    workshop_of(request).bench(build_id)
    return RedirectResponse(f"/builds/{build_id}/ask", 303)


@router.get("/builds/{build_id}/figure/{key}")
def figure(request: Request, build_id: BuildId, key: str, option: str | None = None, duty: str | None = None) -> Response:
    """A figure opened: formula, values, source, sensitivity."""
    workshop, units = workshop_of(request), units_of(request)
    try:
        found = workshop.explain(workshop.bench(build_id, option, duty), key)
    except KeyError:
        raise HTTPException(404, "There is no such figure.") from None
    return page(request, "explanation.html", x=explanation_view(found, units), units=units)


@router.get("/builds/{build_id}/diagram")
def diagram(request: Request, build_id: BuildId, option: str | None = None, duty: str | None = None) -> Response:
    """The diagram at the sliders' operating point."""
    units = units_of(request)
    found = workshop_of(request).bench(build_id, option, duty)
    return page(request, "diagram.html", d=diagram_view(found, units, request.query_params), units=units)


@router.get("/builds/{build_id}/diagram.svg")
def diagram_svg(request: Request, build_id: BuildId, option: str | None = None, duty: str | None = None) -> Response:
    """The diagram as a file."""
    found = workshop_of(request).bench(build_id, option, duty)
    text = diagram_file(found, units_of(request))
    headers = {"Content-Disposition": 'attachment; filename="plumbing.svg"'}
    return Response(text, media_type="image/svg+xml", headers=headers)


@router.get("/builds/{build_id}/sizes")
def sizes(
    request: Request,
    build_id: BuildId,
    path: Annotated[str, Query(max_length=300)],
    option: str | None = None,
    duty: str | None = None,
) -> Response:
    """One size up and down of the part at a path, with what each changes."""
    found = workshop_of(request).bench(build_id, option, duty)
    try:
        return part_sizes(request, found, path)
    except ValueError:
        raise HTTPException(404, "There is no such part.") from None


@router.get("/builds/{build_id}/references")
def references(request: Request, build_id: BuildId, option: str | None = None, duty: str | None = None) -> Response:
    """The option under every regulator arrangement."""
    found, units = workshop_of(request).bench(build_id, option, duty), units_of(request)
    return page(request, "references.html", r=references_view(found, units), units=units)


@router.get("/builds/{build_id}/calculator/{key}")
def calculator(request: Request, build_id: BuildId, key: str) -> Response:
    """A bench calculator, answered."""
    workshop_of(request).bench(build_id)
    units = units_of(request)
    try:
        answered = calculator_view(key, request.query_params, units)
    except KeyError:
        raise HTTPException(404, "There is no such calculator.") from None
    return page(request, "calculator.html", c=answered, build_id=build_id, units=units)


@router.get("/builds/{build_id}/{page_key}")
def bench(
    request: Request, build_id: BuildId, page_key: str, option: str | None = None, duty: str | None = None
) -> Response:
    """A page of a build."""
    if page_key not in PAGES:
        raise HTTPException(404)
    found = workshop_of(request).bench(build_id, option, duty)
    fragment = request.headers.get("hx-target") == "work"
    return bench_page(request, found, page_key, fragment=fragment)
