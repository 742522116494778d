"""Pieces of the page of ceilings: the envelope, boost permitted, other fuels, a target dragged and dropped."""

from typing import Annotated, Any

from fastapi import APIRouter, Form, HTTPException, Query, Request, Response

from iron_gulp.formats import envelope_csv
from iron_gulp.services.ceilings import Axis, EditError
from iron_gulp.services.workshop import Bench

from ...parts.numbers import opener
from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.sketch import as_file
from ...parts.types import Base, BuildId, Line
from ..changes import Here, repaint
from ..showing import view_of
from .picture import envelope_picture, places_of
from .words import fuel_rows, moved_sentence, of_targets, past_at_power, permitted_rows, sentences, table

router = APIRouter(prefix="/builds/{build_id}/ceilings")
Power = Annotated[float, Query(gt=0, le=1e5, allow_inf_nan=False)]
Blend = Annotated[float, Form(ge=0, le=100, allow_inf_nan=False)]
Percent = Annotated[float, Query(ge=0, le=100, allow_inf_nan=False)]


def _bench(request: Request, build_id: int, option: str | None, target: str | None) -> Bench:
    return workshop_of(request).judging.bench(build_id, option, target)


def _svg(request: Request, bench: Bench, axis: Axis, rising: bool) -> Any:
    found = workshop_of(request).ceilings.envelope(bench, axis, rising)
    return found, envelope_picture(found, bench.judged.verdicts, bench.verdict, units_of(request))


@router.get("/envelope")
def envelope(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    axis: Axis = "ethanol_pct",
    rising: bool = False,
) -> Response:
    """The envelope along an axis, with its table, its words and every target."""
    bench, units = _bench(request, build_id, option, target), units_of(request)
    found, svg = _svg(request, bench, axis, rising)
    each = workshop_of(request).ceilings.on_each_target(bench) if axis == "ethanol_pct" else []
    place = place_of(bench)
    opens = opener(place["build"], place["where"])
    context: dict[str, Any] = {
        "svg": svg,
        "axis": axis,
        "rising": rising,
        "boosted": bench.build.engine.induction != "naturally aspirated",
        "says": sentences(bench.verdict, units, opens),
        "rows": table(found, places_of(found, bench.verdict), units),
        "targets": of_targets(bench.judged.verdicts, each, units, opens) if each else [],
        "past": past_at_power(found, bench.verdict.target.name),
        "target": bench.verdict.target,
        "url": f"/builds/{build_id}/ceilings",
        **place,
    }
    return page(request, "ceilings/envelope.html", units=units, **context)


@router.get("/permitted")
def permitted(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    beyond: bool = False,
) -> Response:
    """Boost permitted on each blend, for the controller; `beyond` the targets' own boost where asked for."""
    bench, units = _bench(request, build_id, option, target), units_of(request)
    rows = permitted_rows(workshop_of(request).ceilings.permitted(bench, beyond), units)
    context: dict[str, Any] = {"rows": rows, "margin": bench.build.rules.headroom_pct, "beyond": beyond, "units": units}
    return page(request, "ceilings/permitted.html", **context, **place_of(bench))


@router.post("/target-on")
def target_on(request: Request, build_id: BuildId, here: Here, base: Base, ethanol: Blend) -> Response:
    """A target like the one on the bench, on another blend."""
    outcome = workshop_of(request).ceilings.target_on(build_id, base, here.target, ethanol)
    return repaint(request, build_id, here, outcome)


@router.get("/fuels")
def fuels(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Fuels that are no blend."""
    bench, units = _bench(request, build_id, option, target), units_of(request)
    rows = fuel_rows(workshop_of(request).ceilings.on_other_fuels(bench), units)
    return page(request, "ceilings/fuels.html", rows=rows, units=units, **place_of(bench))


@router.get("/envelope.svg")
def envelope_svg(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    axis: Axis = "ethanol_pct",
    rising: bool = False,
) -> Response:
    """The picture as a file."""
    _, svg = _svg(request, _bench(request, build_id, option, target), axis, rising)
    headers = {"Content-Disposition": 'attachment; filename="ceilings.svg"'}
    return Response(as_file(svg), media_type="image/svg+xml", headers=headers)


@router.get("/envelope.csv")
def envelope_csv_file(
    request: Request,
    build_id: BuildId,
    option: str | None = None,
    target: str | None = None,
    axis: Axis = "ethanol_pct",
    rising: bool = False,
) -> Response:
    """Every ceiling along the axis as a file."""
    found = workshop_of(request).ceilings.envelope(_bench(request, build_id, option, target), axis, rising)
    headers = {"Content-Disposition": 'attachment; filename="ceilings.csv"'}
    return Response(envelope_csv.write(found), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/permitted.csv")
def permitted_csv(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Boost permitted as a file."""
    rows = workshop_of(request).ceilings.permitted(_bench(request, build_id, option, target))
    headers = {"Content-Disposition": 'attachment; filename="boost-permitted.csv"'}
    return Response(envelope_csv.write_permitted(rows), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/moved")
def moved(
    request: Request,
    build_id: BuildId,
    ethanol: Percent,
    power: Power,
    option: str = "",
    target: str = "",
    at: str = "",
) -> Response:
    """A target on its way: the path and a sentence; nothing is stored. `target` is the chosen one, `at` the dragged."""
    try:
        bench = workshop_of(request).ceilings.moved(build_id, option, at or target, ethanol, power)
    except EditError as error:
        raise HTTPException(422, "; ".join(problem.message for problem in error.problems)) from None
    units = units_of(request)
    view = view_of(request, bench, "ceilings")
    return page(request, "ceilings/moved.html", v=view, says=moved_sentence(bench.verdict, units), units=units)


@router.post("/move")
def move(request: Request, build_id: BuildId, here: Here, base: Base, at: Line, ethanol: Line, power: Line) -> Response:
    """A target dropped at another blend and power."""
    try:
        place = float(ethanol), float(power)
    except ValueError:
        raise HTTPException(400, "A blend and a power are numbers.") from None
    return repaint(request, build_id, here, workshop_of(request).ceilings.move(build_id, base, at, *place))
