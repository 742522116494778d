"""Pieces of the injector bench: the window of sizes, and a measured set as a file."""

import csv
import io

from fastapi import APIRouter, HTTPException, Request, Response

from ...parts.numbers import opener
from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import BuildId
from ..showing import piece
from .pulses import pulse_rows
from .window import size_rows, window_picture, window_sentence

router = APIRouter(prefix="/builds/{build_id}/injectors")


@router.get("/window")
def window(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Which sizes carry every target and still idle."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    found = workshop.judging.size_window(bench)
    if found is None:
        return Response(status_code=204)
    place = place_of(bench)
    return page(
        request,
        "injectors/window.html",
        svg=window_picture(found, units),
        says=window_sentence(found, units, opener(place["build"], place["where"])),
        rows=size_rows(found),
        units=units,
        **place,
    )


@router.get("/idle")
def idle(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Idle pulses of every target, cold and hot."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    found = workshop.judging.idle_pulses(bench)
    if not found:
        return Response(status_code=204)
    ids = [one.id for one in bench.build.targets]
    rows = pulse_rows(found, units)
    return page(request, "injectors/idle.html", rows=rows, ids=ids, units=units, **place_of(bench))


@router.get("/set.csv")
def set_csv(request: Request, build_id: BuildId, option: str | None = None) -> Response:
    """The measured set: cylinder, flow, mixture error, bank."""
    view = piece(request, build_id, "injectors", option, None)
    rows = view.matched_rows() if hasattr(view, "matched_rows") else []
    if not rows:
        raise HTTPException(404, "This set was not measured.")
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(["cylinder", "flow_cc_min", "mixture_error_pct", "bank"])
    writer.writerows(row[:4] for row in rows)
    headers = {"Content-Disposition": 'attachment; filename="injector-set.csv"'}
    return Response(out.getvalue(), media_type="text/csv; charset=utf-8", headers=headers)
