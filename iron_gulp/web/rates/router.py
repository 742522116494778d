"""The shop's rates: one page."""

from fastapi import APIRouter, Request, Response

from ..parts.rendering import page, units_of, workshop_of
from .view import rates_view, refused

router = APIRouter(prefix="/rates")


@router.get("")
def rates(request: Request) -> Response:
    """What hours and parts cost here."""
    view = rates_view(workshop_of(request).roads.rates())
    return page(request, "rates.html", r=view, units=units_of(request))


@router.post("")
async def set_rates(request: Request) -> Response:
    """Keep the rates typed, or say what is wrong beside each."""
    form = await request.form(max_fields=60)
    typed = {name: value for name, value in form.items() if isinstance(value, str)}
    outcome = workshop_of(request).roads.set_rates(typed)
    view, wrong = rates_view(workshop_of(request).roads.rates(), typed, outcome), refused(outcome)
    return page(request, "rates.html", 422 if wrong else 200, r=view, units=units_of(request))
