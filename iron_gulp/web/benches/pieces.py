"""Pieces of any bench: figures opened, charts, remedies, sizes; they come when someone looks at them."""

from typing import Annotated

from fastapi import APIRouter, HTTPException, Query, Request, Response
from fastapi.responses import RedirectResponse

from iron_gulp.services.ceilings import Axis
from iron_gulp.services.judging import Component, Place

from ..parts.bench_names import in_bench_units
from ..parts.explaining import explanation_view
from ..parts.rendering import page, units_of, workshop_of
from ..parts.stations import PAGES
from ..parts.types import BuildId, FindingNumber
from .showing import piece, show, show_revisions, show_sheets

router = APIRouter(prefix="/builds/{build_id}")


@router.get("")
def build(request: Request, build_id: BuildId) -> Response:
    """A build opens on its Ask page."""
    workshop_of(request).judging.bench(build_id)
    return RedirectResponse(f"/builds/{build_id}/ask", 303)


@router.get("/figure/{key}")
def figure(
    request: Request, build_id: BuildId, key: str, option: str | None = None, target: str | None = None
) -> Response:
    """A figure opened: formula, values, source, sensitivity."""
    judging, units = workshop_of(request).judging, units_of(request)
    try:
        found = judging.explain(judging.bench(build_id, option, target), key)
    except KeyError:
        raise HTTPException(404, "There is no such figure.") from None
    return page(request, "explanation.html", x=explanation_view(found, units), units=units)


Spot = Annotated[float, Query(ge=0, le=1e5, allow_inf_nan=False)]
Word = Annotated[str, Query(max_length=80)]


@router.get("/number/{kind}")
def number(
    request: Request,
    build_id: BuildId,
    kind: str,
    option: str | None = None,
    target: str | None = None,
    component: Component | None = None,
    axis: Axis = "ethanol_pct",
    at: Spot = 0.0,
    rising: bool = False,
    row: Annotated[int, Query(ge=0, le=99)] = 0,
    fuel: Word = "gasoline",
    case: Word = "",
    every: bool = False,
    pulse: Spot | None = None,
) -> Response:
    """A number of a table opened."""
    judging, units = workshop_of(request).judging, units_of(request)
    place = Place(component, axis, at, rising, row, fuel, case, every, pulse)
    try:
        found = judging.number(judging.bench(build_id, option, target), kind, place)
    except KeyError:
        raise HTTPException(404, "There is no such number.") from None
    return page(request, "explanation.html", x=explanation_view(found, units), units=units)


@router.get("/revisions")
def revisions(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    at: Annotated[int, Query(ge=1, le=1_000_000)] = 1,
) -> Response:
    """The build's revisions, a page of them."""
    return show_revisions(request, build_id, option, target, at)


@router.get("/{page_key}/chart/{name}")
def chart(
    request: Request, build_id: BuildId, page_key: str, name: str, option: str | None = None, target: str | None = None
) -> Response:
    """A chart's data."""
    view = piece(request, build_id, page_key, option, target)
    try:
        return Response(in_bench_units(view.chart(name), units_of(request)), media_type="application/json")
    except KeyError:
        if name in view.charts:  # the system became another kind since the page was drawn
            return Response(status_code=204)
        raise HTTPException(404, "There is no such chart.") from None


@router.get("/{page_key}/remedies")
def remedies(
    request: Request,
    build_id: BuildId,
    page_key: str,
    number: Annotated[list[FindingNumber] | None, Query()] = None,
    option: str | None = None,
    target: str | None = None,
) -> Response:
    """What to do about findings, tried on the model: a piece for each that is still there."""
    view = piece(request, build_id, page_key, option, target)
    count = len(view.bench.judged.findings)
    asked = [one for one in dict.fromkeys(number or ()) if one < count]
    return page(request, "remedies.html", v=view, numbers=asked, units=view.units)


@router.get("/{page_key}/put-right")
def put_right(
    request: Request, build_id: BuildId, page_key: str, option: str | None = None, target: str | None = None
) -> Response:
    """The list of what would put everything right, before it is done."""
    view = piece(request, build_id, page_key, option, target)
    plan = workshop_of(request).judging.put_right(view.bench)
    return page(request, "put_right.html", v=view, plan=view.plan(plan), units=view.units)


@router.get("/sizes")
def sizes(
    request: Request,
    build_id: BuildId,
    path: Annotated[str, Query(max_length=300)],
    option: str | None = None,
    target: str | None = None,
) -> Response:
    """One size up and down of the part at a path, with what each changes."""
    view = piece(request, build_id, "feed", option, target)
    try:
        view.sizes(path)
    except ValueError:
        raise HTTPException(404, "There is no such part.") from None
    return page(request, "sizes.html", v=view, path=path, units=view.units)


@router.get("/sheets")
def sheets(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The whole build, ready to print."""
    return show_sheets(request, build_id, option, target)


@router.get("/{page_key}")
def bench(
    request: Request, build_id: BuildId, page_key: str, option: str | None = None, target: str | None = None
) -> Response:
    """A page of a build."""
    if page_key not in PAGES:
        raise HTTPException(404)
    return show(request, build_id, page_key, option, target)
