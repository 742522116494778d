"""Bench units of this browser."""

import json

from fastapi import APIRouter, Request, Response

from iron_gulp.units import PRESETS, BenchUnits

from .rendering import UNITS_COOKIE, units_of

router = APIRouter()
YEAR_S = 31_536_000


@router.get("/alive")
def alive() -> Response:
    """An empty page: says that the server answers, and is the yardstick of the benchmark."""
    return Response("", media_type="text/html")


@router.post("/units")
async def choose(request: Request) -> Response:
    """Choose a preset or a unit of one dimension; the page is then shown again."""
    form = await request.form()
    preset = PRESETS.get(str(form.get("preset", "")))
    asked = {str(key): str(value) for key, value in form.items()}
    chosen = BenchUnits(preset or {**units_of(request).chosen, **asked}).chosen
    response = Response(status_code=204, headers={"HX-Refresh": "true"})
    response.set_cookie(UNITS_COOKIE, json.dumps(chosen), max_age=YEAR_S, samesite="lax", httponly=True)
    return response
