"""Cures of a finding: searched, watched, fitted."""

from fastapi import APIRouter, HTTPException, Request, Response

from iron_gulp.services.cures import Searched
from iron_gulp.services.workshop import Bench

from ...parts.rendering import page, workshop_of
from ...parts.types import Base, BuildId, Count
from ..changes import Here, repaint
from .rows import cure_rows

router = APIRouter(prefix="/builds/{build_id}/cures")


@router.get("/{code}")
def state(
    request: Request, build_id: BuildId, code: str, option: str | None = None, target: str | None = None
) -> Response:
    """What has been found so far; before anybody searched, a button that does."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    try:
        return _piece(request, bench, code, workshop_of(request).cures.of(bench, code))
    except LookupError as error:
        raise HTTPException(404, str(error)) from None


@router.post("/{code}/search")
def search(request: Request, build_id: BuildId, here: Here, code: str) -> Response:
    """Begin to search; what is under way goes on."""
    bench = workshop_of(request).judging.bench(build_id, here.option, here.target)
    try:
        return _piece(request, bench, code, workshop_of(request).cures.start(bench, code))
    except LookupError as error:
        raise HTTPException(404, str(error)) from None


@router.post("/{code}/stop")
def stop(request: Request, build_id: BuildId, here: Here, code: str) -> Response:
    """End the search; what it has found stays."""
    bench = workshop_of(request).judging.bench(build_id, here.option, here.target)
    workshop_of(request).cures.stop(bench, code)
    return state(request, build_id, code, here.option, here.target)


def _piece(request: Request, bench: Bench, code: str, searched: Searched | None) -> Response:
    where = {"option": bench.option.id, "target": bench.verdict.target.id}
    rows = cure_rows(searched.found if searched else [], workshop_of(request).roads.rates())
    url = f"/builds/{bench.stored.id}"
    return page(request, "cures/cures.html", url=url, where=where, searched=searched, code=code, rows=rows)


@router.post("/{code}")
def take(request: Request, build_id: BuildId, here: Here, base: Base, code: str, index: Count) -> Response:
    """Fit one of them."""
    outcome = workshop_of(request).cures.take(build_id, base, here.option, code, index)
    return repaint(request, build_id, here, outcome)
