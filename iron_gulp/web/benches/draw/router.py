"""The diagram at other operating points, and as a file."""

from fastapi import APIRouter, Request, Response

from ...parts.bench_names import in_bench_units
from ...parts.rendering import page, units_of, workshop_of
from ...parts.types import BuildId
from .diagram import diagram_file, diagram_view

router = APIRouter(prefix="/builds/{build_id}")


@router.get("/diagram")
def diagram(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The diagram at the sliders' operating point."""
    units = units_of(request)
    found = workshop_of(request).judging.bench(build_id, option, target)
    return page(request, "draw/diagram.html", d=diagram_view(found, units, request.query_params), units=units)


@router.get("/diagram.svg")
def diagram_svg(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The diagram as a file."""
    found = workshop_of(request).judging.bench(build_id, option, target)
    headers = {"Content-Disposition": 'attachment; filename="plumbing.svg"'}
    units = units_of(request)
    return Response(in_bench_units(diagram_file(found, units), units), media_type="image/svg+xml", headers=headers)
