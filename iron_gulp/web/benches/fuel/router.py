"""The calculators of the fuel bench."""

from fastapi import APIRouter, HTTPException, Request, Response

from ...parts.rendering import page, units_of, workshop_of
from ...parts.types import BuildId
from .calculators import calculator_view

router = APIRouter(prefix="/builds/{build_id}")


@router.get("/calculator/{key}")
def calculator(request: Request, build_id: BuildId, key: str) -> Response:
    """A bench calculator, answered."""
    workshop_of(request).judging.bench(build_id)
    units = units_of(request)
    try:
        answered = calculator_view(key, request.query_params, units)
    except KeyError:
        raise HTTPException(404, "There is no such calculator.") from None
    return page(request, "fuel/calculator.html", c=answered, build_id=build_id, units=units)
