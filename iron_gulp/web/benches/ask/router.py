"""Sizing from the Ask page: begun, watched, and its option shown when it is there."""

from urllib.parse import urlencode

from fastapi import APIRouter, Request, Response

from iron_gulp.services.designs import read_locks
from iron_gulp.services.sizing import Work

from ...parts.locks import TypedLocks
from ...parts.rendering import page, units_of, workshop_of
from ...parts.types import Base, BuildId, Line
from ..changes import Here

router = APIRouter(prefix="/builds/{build_id}/size")


@router.post("")
def size(request: Request, build_id: BuildId, here: Here, base: Base, typed: TypedLocks, sets: Line = "") -> Response:
    """Begin to put the cheapest sensible system for the targets beside the others, with what must stay."""
    locks, problem = read_locks(*typed)
    if locks is None:
        return page(request, "ask/sizing.html", 422, url=f"/builds/{build_id}", work=None, problem=problem)
    sizing, one_alone = workshop_of(request).sizing, sets == "one alone"
    work = sizing.start(build_id, base, here.option, here.target, units_of(request), locks, one_alone)
    return _shown(request, build_id, work)


@router.post("/stop")
def stop(request: Request, build_id: BuildId) -> Response:
    """End it; nothing is added to the build."""
    workshop_of(request).sizing.stop(build_id)
    return state(request, build_id)


@router.get("")
def state(request: Request, build_id: BuildId) -> Response:
    """How it goes; the option it made is shown when it is there."""
    workshop = workshop_of(request)
    workshop.judging.bench(build_id)
    work = workshop.sizing.of(build_id)
    if work is None:
        return Response(status_code=204)
    answer = _shown(request, build_id, work)
    if work.told is not None and work.told.ok:
        where = urlencode({"option": work.option_id, "target": work.target})
        answer.headers["HX-Redirect"] = f"/builds/{build_id}/ask?{where}"
    return answer


def _shown(request: Request, build_id: int, work: Work) -> Response:
    come = work.progress.in_words(workshop_of(request).roads.rates())
    return page(request, "ask/sizing.html", url=f"/builds/{build_id}", work=work, come=come)
