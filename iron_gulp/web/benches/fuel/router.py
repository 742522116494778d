"""The calculators of the fuel bench."""

from fastapi import APIRouter, HTTPException, Request, Response

from ...parts.calculators import answered, opened
from ...parts.claims import CLAIM, flow_claim, flow_claim_view
from ...parts.explaining import explanation_view
from ...parts.rendering import page, place_of, units_of, workshop_of
from ...parts.types import BuildId
from ..injectors.calculators import INJECTOR_CALCULATORS
from .calculators import CALCULATORS
from .season import season_rows

router = APIRouter(prefix="/builds/{build_id}")
FLOW_CLAIM = "flow-claim"
EVERY = {**CALCULATORS, **INJECTOR_CALCULATORS, "claim": CLAIM}


@router.get("/season")
def season(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """Targets on a strong blend at both ends of what is sold as one."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    return page(request, "fuel/season.html", rows=season_rows(bench), units=units_of(request), **place_of(bench))


@router.get("/calculator/{key}")
def calculator(
    request: Request, build_id: BuildId, key: str, option: str | None = None, target: str | None = None
) -> Response:
    """A bench calculator, answered."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    units = units_of(request)
    if key == FLOW_CLAIM:
        view = flow_claim_view(bench, units, request.query_params)
        return page(request, "calculator.html", c=view, build_id=build_id, units=units)
    try:
        found = answered(key, EVERY[key], request.query_params, units)
    except KeyError:
        raise HTTPException(404, "There is no such calculator.") from None
    return page(request, "calculator.html", c=found, build_id=build_id, units=units)


@router.get("/calculator/{key}/{name}")
def number(
    request: Request, build_id: BuildId, key: str, name: str, option: str | None = None, target: str | None = None
) -> Response:
    """A number of a calculator's answer opened."""
    bench = workshop_of(request).judging.bench(build_id, option, target)
    units = units_of(request)
    try:
        known = flow_claim(bench) if key == FLOW_CLAIM else EVERY[key]
        found = opened(known, name, request.query_params, units)
    except KeyError:
        raise HTTPException(404, "There is no such number.") from None
    return page(request, "explanation.html", x=explanation_view(found, units), units=units)
