"""The values sheet: on the page, as files, and given out."""

import json
from typing import Annotated, Literal

from fastapi import APIRouter, Form, Request, Response

from iron_gulp.services.tables import Told

from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import Base, BuildId
from ..changes import Here, repaint
from .grid import grid_of
from .rows import as_csv, as_data, changes_of, sections_of

router = APIRouter(prefix="/builds/{build_id}/values")


@router.get("/sheet")
def sheet(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The sheet of the option, with what has changed since it was given out."""
    workshop, units = workshop_of(request), units_of(request)
    bench = workshop.judging.bench(build_id, option, target)
    found = workshop.sheets.of(bench)
    return page(
        request,
        "values/sheet.html",
        sections=sections_of(found, units),
        changes=changes_of(found.changed, units),
        issued=found.issued,
        number=bench.stored.number,
        url=f"/builds/{build_id}/values",
        option=bench.option.id,
        units=units,
        **place_of(bench),
    )


@router.get("/sheet.csv")
def sheet_csv(request: Request, build_id: BuildId, option: str | None = None) -> Response:
    """The sheet as CSV, in the units chosen."""
    workshop = workshop_of(request)
    found = workshop.sheets.of(workshop.judging.bench(build_id, option))
    headers = {"Content-Disposition": 'attachment; filename="controller-values.csv"'}
    return Response(as_csv(found, units_of(request)), media_type="text/csv; charset=utf-8", headers=headers)


@router.get("/sheet.json")
def sheet_json(request: Request, build_id: BuildId, option: str | None = None) -> Response:
    """The sheet as data, in the units its names say."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, option)
    about = {"build": bench.build.name, "option": bench.option.id, "revision": bench.stored.number}
    text = json.dumps(as_data(workshop.sheets.of(bench), about), indent=2, ensure_ascii=False)
    headers = {"Content-Disposition": 'attachment; filename="controller-values.json"'}
    return Response(text, media_type="application/json", headers=headers)


@router.post("/table")
def table(
    request: Request,
    build_id: BuildId,
    here: Here,
    base: Base,
    text: Annotated[str, Form(max_length=200_000)] = "",
    what: Annotated[Told, Form()] = "mixture",
    unit: Annotated[Literal["kPa", "bar", "psi"], Form()] = "kPa",
    axis: Annotated[Literal["absolute", "gauge"], Form()] = "absolute",
    only: Annotated[str, Form(max_length=32)] = "",
) -> Response:
    """A table of the controller is pasted."""
    units = units_of(request)
    outcome = workshop_of(request).tables.paste(build_id, base, text, what, unit, axis, only, units)
    return repaint(request, build_id, here, outcome)


@router.get("/table/{table_id}")
def cells(
    request: Request, build_id: BuildId, table_id: str, option: str | None = None, target: str | None = None
) -> Response:
    """A table with what runs in each cell, and where that is too little."""
    workshop, units = workshop_of(request), units_of(request)
    found = workshop.tables.cells(workshop.judging.bench(build_id, option, target), table_id)
    return page(request, "values/table.html", grid=grid_of(found, units), units=units)


@router.post("/issue")
def issue(request: Request, build_id: BuildId, here: Here, base: Base) -> Response:
    """The sheet is given out as it is; answers with the sheet that says so."""
    workshop = workshop_of(request)
    bench = workshop.judging.bench(build_id, here.option)
    workshop.sheets.issue(build_id, bench.option.id, base)
    return sheet(request, build_id, here.option, here.target)
