"""A design search: started with its locks, watched, stopped; a design opened as an option."""

from typing import Annotated, Any

from fastapi import APIRouter, Query, Request, Response

from iron_gulp.services.designs import read_locks

from ...parts.locks import TypedLocks
from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import Base, BuildId, Count
from ..changes import Here, repaint
from .picture import front_picture
from .road import road_view
from .rows import nearest, progress, reasons, rows, unlocked

router = APIRouter(prefix="/builds/{build_id}/design")


def state_piece(request: Request, build_id: int, option: str | None, target: str | None, problem: str = "") -> Response:
    """The search of an option as it stands; where locks were refused, why."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    job = workshop.designs.of(build_id, bench.option.id)
    url = f"/builds/{build_id}"
    context: dict[str, Any] = {"job": job, "url": url, "problem": problem, "rows": [], "picture": None}
    if job is not None:
        rates = workshop.roads.rates()
        front = job.front
        wanted = bench.build.rules.headroom_pct if job.locks.headroom_pct is None else job.locks.headroom_pct
        context |= {
            "rows": rows(job, rates),
            "picture": front_picture(front, wanted, rates.currency) if front else None,
            "progress": progress(job),
            "reasons": reasons(job),
            "unlocked": unlocked(job, rates),
            "nearest": nearest(job, rates),
            "road": f"{url}/design/road?option={bench.option.id}&target={bench.verdict.target.id}",
            "stale": job.number != bench.stored.number,
            "address": f"{url}/design/state?option={bench.option.id}&target={bench.verdict.target.id}",
        }
    return page(request, "design/state.html", 422 if problem else 200, **context)


@router.get("/state")
def state(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The search of an option as it stands."""
    return state_piece(request, build_id, option, target)


@router.get("/road")
def road(
    request: Request,
    build_id: BuildId,
    number: Annotated[int, Query(ge=0, le=999)] = 0,
    option: str | None = None,
    target: str | None = None,
) -> Response:
    """The upgrade road to a design of the front."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    job = workshop.designs.of(build_id, bench.option.id)
    if job is None or job.number != bench.stored.number or number >= len(job.front):
        return Response(status_code=204)
    ways = workshop.designs.ways(bench, number)
    view = None if ways is None else road_view(bench.build, ways, workshop.roads.rates(), units)
    context: dict[str, Any] = {"others": range(len(job.front)), "chosen": number, "url": f"/builds/{build_id}"}
    return page(request, "design/road.html", r=view, **context, **place_of(bench))


@router.post("/start")
def start(
    request: Request,
    build_id: BuildId,
    here: Here,
    typed: TypedLocks,
    fewest: bool = False,
) -> Response:
    """Begin a search, or (`fewest`) one that changes as few kinds of parts as do."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, here.option, here.target)
    locks, problem = read_locks(*typed)
    if locks is not None:
        workshop.designs.start(bench, locks, fewest)
    return state_piece(request, build_id, here.option, here.target, problem)


@router.post("/stop")
def stop(request: Request, build_id: BuildId, here: Here) -> Response:
    """End a search."""
    workshop_of(request).designs.stop(build_id, here.option)
    return state_piece(request, build_id, here.option, here.target)


@router.post("/open")
def open_design(request: Request, build_id: BuildId, here: Here, base: Base, number: Count) -> Response:
    """A design becomes an option of its own."""
    return repaint(request, build_id, here, workshop_of(request).designs.open(build_id, base, here.option, number))
