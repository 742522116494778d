"""The parts shelf: search, compare, own parts, CSV in and out, flow-bottle test."""

from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Query, Request, Response, UploadFile
from fastapi.responses import RedirectResponse

from iron_gulp.formats.parts_csv import PartsFileError

from ..parts.rendering import page, units_of, workshop_of
from .view import bottle_view, read_bottle, shelf_view

router = APIRouter(prefix="/shelf")
LARGEST_UPLOAD = 2_000_001


def _page(
    request: Request,
    kind: str,
    status: int = 200,
    q: str = "",
    compare: list[str] | None = None,
    typed: dict[str, str] | None = None,
    error: PartsFileError | None = None,
    at: int = 1,
    taken: list[str] | None = None,
) -> Response:
    units = units_of(request)
    try:
        view = shelf_view(workshop_of(request).shelf, units, kind, q, compare, typed, error, at)
    except KeyError:
        raise HTTPException(404) from None
    return page(request, "shelf.html", status, s=view, q=q, taken=taken, units=units)


@router.get("/bottle")
def bottle_form(request: Request) -> Response:
    """The flow-bottle test, empty."""
    units = units_of(request)
    _, rows = read_bottle({}, units)
    view = bottle_view({}, units, rows, None, "")
    return page(request, "bottle.html", b=view, pumps=workshop_of(request).shelf.parts("pumps"), units=units)


@router.post("/bottle")
async def bottle(request: Request) -> Response:
    """The flow-bottle test answered; with `keep` the measured pump goes on the shelf."""
    form = {key: str(value) for key, value in (await request.form()).items()}
    units, workshop = units_of(request), workshop_of(request)
    readings, rows = read_bottle(form, units)
    test, error = None, ""
    if not any(cell.error for row in rows for cell in row):
        try:
            test = workshop.parts.bottle(readings, form.get("claim") or None)
        except (ValueError, KeyError) as problem:
            error = str(problem.args[0]).splitlines()[0]
    if test is not None and form.get("keep"):
        workshop.parts.keep_bottle(test, form.get("name", "").strip()[:80] or "Measured pump")
        return RedirectResponse("/shelf/pumps?q=measured", 303)
    view = bottle_view(form, units, rows, test, error)
    status = 200 if test is not None else 422
    return page(request, "bottle.html", status, b=view, pumps=workshop.shelf.parts("pumps"), units=units)


@router.get("")
def shelf() -> Response:
    """The shelf opens on pumps."""
    return RedirectResponse("/shelf/pumps", 303)


@router.get("/{kind}")
def parts(
    request: Request,
    kind: str,
    q: Annotated[str, Query(max_length=200)] = "",
    compare: Annotated[list[str] | None, Query()] = None,
    at: Annotated[int, Query(ge=1, le=1_000_000)] = 1,
) -> Response:
    """Parts of a kind, searched and compared, a page of them."""
    return _page(request, kind, q=q, compare=compare, at=at)


@router.get("/{kind}/parts.csv")
def export(request: Request, kind: str) -> Response:
    """Parts of a kind as CSV."""
    try:
        text = workshop_of(request).parts.export_csv(kind)
    except KeyError:
        raise HTTPException(404) from None
    headers = {"Content-Disposition": f'attachment; filename="{kind}.csv"'}
    return Response(text, media_type="text/csv; charset=utf-8", headers=headers)


@router.post("/{kind}/add")
async def add(request: Request, kind: str) -> Response:
    """Add a part of one's own."""
    typed = {key: str(value)[:2000] for key, value in (await request.form()).items()}
    try:
        shelf_id = workshop_of(request).parts.add(kind, typed)
    except PartsFileError as error:
        return _page(request, kind, 422, typed=typed, error=error)
    except KeyError:
        raise HTTPException(404) from None
    return RedirectResponse(f"/shelf/{kind}?compare={shelf_id}#part-{shelf_id}", 303)


@router.post("/{kind}/import")
def import_csv(request: Request, kind: str, file: UploadFile) -> Response:
    """Add every part of a CSV file; a file with any faulty row is refused whole, every row reported."""
    try:
        workshop_of(request).parts.import_csv(kind, file.file.read(LARGEST_UPLOAD))
    except PartsFileError as error:
        return _page(request, kind, 422, error=error)
    except KeyError:
        raise HTTPException(404) from None
    return RedirectResponse(f"/shelf/{kind}", 303)


@router.post("/{kind}/remove/{shelf_id}")
def remove(request: Request, kind: str, shelf_id: str) -> Response:
    """Take one's own part off the shelf."""
    if not workshop_of(request).parts.remove([shelf_id]):
        raise HTTPException(404, "This part is not one of your own.")
    return RedirectResponse(f"/shelf/{kind}", 303)


@router.post("/{kind}/remove")
def remove_found(request: Request, kind: str, q: Annotated[str, Form(max_length=200)] = "") -> Response:
    """Take every part of one's own that answers to a search off the shelf; they can be put back at once."""
    parts = workshop_of(request).parts
    try:
        taken = parts.remove([str(part.shelf_id) for part in parts.own(kind, q)])
    except KeyError:
        raise HTTPException(404) from None
    return _page(request, kind, q=q, taken=taken)


@router.post("/{kind}/put-back")
def put_back(request: Request, kind: str, taken: Annotated[str, Form(max_length=1_000_000)]) -> Response:
    """Put parts that were taken off the shelf back."""
    try:
        workshop_of(request).parts.put_back(kind, taken.split())
    except KeyError:
        raise HTTPException(404) from None
    return RedirectResponse(f"/shelf/{kind}", 303)
