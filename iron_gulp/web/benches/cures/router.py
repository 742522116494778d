"""Cures of a finding: searched, watched, fitted."""

from fastapi import APIRouter, HTTPException, Request, Response

from ...parts.rendering import page, workshop_of
from ...parts.types import Base, BuildId, Count
from ..changes import Here, repaint
from .rows import cure_rows

router = APIRouter(prefix="/builds/{build_id}/cures")


@router.get("/{code}")
def state(
    request: Request, build_id: BuildId, code: str, option: str | None = None, target: str | None = None
) -> Response:
    """What has been found so far; asked for the first time, the search begins."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    try:
        searched = workshop.cures.of(bench, code)
    except LookupError as error:
        raise HTTPException(404, str(error)) from None
    where = {"option": bench.option.id, "target": bench.verdict.target.id}
    rows = cure_rows(searched.found, workshop.roads.rates())
    url = f"/builds/{build_id}"
    return page(request, "cures/cures.html", url=url, where=where, searched=searched, rows=rows)


@router.post("/{code}")
def take(request: Request, build_id: BuildId, here: Here, base: Base, code: str, index: Count) -> Response:
    """Fit one of them."""
    outcome = workshop_of(request).cures.take(build_id, base, here.option, code, index)
    return repaint(request, build_id, here, outcome)
