"""Jinja set-up, unit choice from the cookie, and whole pages against fragments."""

import json
from collections.abc import Hashable
from datetime import UTC, datetime
from functools import lru_cache
from pathlib import Path
from typing import Any

from fastapi import Request, Response
from fastapi.templating import Jinja2Templates
from jinja2 import Environment, FileSystemLoader, StrictUndefined, select_autoescape
from jinja2.filters import do_urlencode
from markupsafe import Markup

from iron_gulp import __version__
from iron_gulp.services.latest import Latest
from iron_gulp.services.workshop import Bench, Workshop
from iron_gulp.units import CHOICES, PRESETS, BenchUnits, show

from ..garage.small_path import small_path
from .bench_names import in_bench_units
from .formulas import mathml, symbols
from .numbers import opening
from .paging import at_page, page_numbers
from .stations import PHASES
from .views import FieldView

UNITS_COOKIE, LONGEST_COOKIE = "iron_gulp_units", 2000
WEB = Path(__file__).parents[1]
_environment = Environment(
    loader=FileSystemLoader([WEB / room for room in ("parts", "benches", "garage", "shelf", "rates")]),
    autoescape=select_autoescape(default=True),
    undefined=StrictUndefined,
    auto_reload=False,  # templates come with the application: no look at the disk for each of a page's pieces
    trim_blocks=True,
    lstrip_blocks=True,
)
templates = Jinja2Templates(env=_environment)


def _ago(moment: datetime) -> str:
    """How long ago, in words."""
    seconds = (datetime.now(UTC).replace(tzinfo=None) - moment).total_seconds()
    for size, word in ((86400, "day"), (3600, "hour"), (60, "minute")):
        count = int(seconds // size)
        if count >= 1:
            return f"{count} {word}{'s' if count > 1 else ''} ago"
    return "just now"


def _today() -> str:
    """The date on a sheet."""
    return datetime.now(UTC).strftime("%Y-%m-%d")


def _percent(share: float | None) -> str:
    """A load as a percentage."""
    return "none left" if share is None else f"{share * 100:.0f}\u00a0%"


@lru_cache(maxsize=512)
def _encoded(where: tuple[tuple[str, str], ...]) -> str:
    return do_urlencode(where)


def _urlencode(where: Any) -> str:
    """Text or pairs as part of an address; one page asks for the same dozens of times."""
    if isinstance(where, dict) and all(isinstance(value, str) for value in where.values()):
        return _encoded(tuple(where.items()))
    return do_urlencode(where)


def _quantity(value: float | None, name: str, units: BenchUnits) -> str:
    """A value with its unit."""
    number, unit = show(value, name, units)
    return f"{number}\u00a0{unit}"


_environment.filters.update(
    ago=_ago,
    percent=_percent,
    quantity=_quantity,
    urlencode=_urlencode,
    page_numbers=page_numbers,
    at_page=at_page,
    mathml=mathml,
    symbols=symbols,
)
_environment.globals.update(
    unit_choices=CHOICES,
    small_path=small_path,
    opening=opening,
    today=_today,
    unit_presets=list(PRESETS),
    version=__version__,
    phases=PHASES,
    asset_version=__version__,
)


def workshop_of(request: Request) -> Workshop:
    """The workshop this application serves."""
    found: Workshop = request.app.state.workshop
    return found


def preset_of(languages: str) -> str:
    """The preset that a browser's first language suggests."""
    first = languages.split(",")[0].split(";")[0].strip().lower()
    if first.startswith("en"):
        return {"en-us": "US", "en": "US"}.get(first, "Metric, kPa and hp")
    return "Metric, bar" if first and not first.startswith(("ja", "ko", "zh")) and first[0].isalpha() else "Metric, kPa"


def place_of(bench: Bench) -> dict[str, Any]:
    """Where numbers of a piece open: the build's address, and the option and target on the bench."""
    where = {"option": bench.option.id, "target": bench.verdict.target.id}
    return {"build": f"/builds/{bench.stored.id}", "where": where}


def units_of(request: Request) -> BenchUnits:
    """The bench units chosen in this browser; on the first visit those of its language; else the default."""
    if UNITS_COOKIE not in request.cookies:
        return BenchUnits(PRESETS[preset_of(request.headers.get("accept-language", ""))])
    told = request.cookies.get(UNITS_COOKIE, "{}")
    try:
        chosen = json.loads(told) if len(told) <= LONGEST_COOKIE else {}
    except (ValueError, RecursionError):
        chosen = {}
    return BenchUnits({str(k): str(v) for k, v in chosen.items()} if isinstance(chosen, dict) else {})


def page(request: Request, template: str, status: int = 200, **context: Any) -> Response:
    """A whole page or fragment from a template."""
    units = context.setdefault("units", units_of(request))
    response = templates.TemplateResponse(request, template, context, status_code=status)
    plain = bytes(response.body).decode()
    named = in_bench_units(plain, units)
    if named is not plain:
        response.body = response.render(named)
        response.headers["content-length"] = str(len(response.body))
    return response


@lru_cache(maxsize=8192)
def field_html(field: FieldView, url: str, wide: bool, bare: bool) -> Markup:
    """A field's input; most fields of a page are what they were before the edit, so they are kept."""
    return Markup(_environment.get_template("field.html").render(f=field, url=url, wide=wide, bare=bare))


_PIECES: Latest[Markup] = Latest(256)


def kept_piece(template: str, key: Hashable, **context: Any) -> Markup:
    """A piece of a page, rendered once for all that it shows (`key`); the latest are kept. None is never kept."""
    whole = (template, key)
    kept = None if key is None else _PIECES.get(whole)
    if kept is not None:
        return kept
    made = Markup(_environment.get_template(template).render(**context))
    return made if key is None else _PIECES.put(whole, made)


def error_page(request: Request, status: int, message: str) -> Response:
    """A plain page that says what is wrong."""
    return page(request, "error.html", status, message=message, status_code=status)
