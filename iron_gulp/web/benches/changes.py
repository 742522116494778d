"""Changes to a build. Each answers with the repainted bench; a refused one with the error at its field."""

from collections.abc import Callable
from typing import Annotated

from fastapi import APIRouter, Depends, Request, Response
from fastapi.responses import RedirectResponse
from pydantic import BaseModel

from iron_gulp.services.workshop import Conflict, Outcome

from ..parts.rendering import units_of, workshop_of
from ..parts.types import Base, BuildId, Count, Line, Typed
from .showing import bench_page

ON_TOP = "Somebody else changed this build meanwhile; nothing was taken back. This is how it stands now."
router = APIRouter(prefix="/builds/{build_id}")


class Where(BaseModel):
    """The page, option and target on the bench when the change was made."""

    page: str
    option: str
    target: str


def where(page: Line = "ask", option: Line = "", target: Line = "") -> Where:
    """Where the change was made, from the form."""
    return Where(page=page, option=option, target=target)


Here = Annotated[Where, Depends(where)]


def repaint(request: Request, build_id: int, here: Where, outcome: Outcome | None = None) -> Response:
    """The bench after a change."""
    bench = workshop_of(request).judging.bench(build_id, here.option, here.target)
    return bench_page(request, bench, here.page, outcome, fragment=True)


@router.post("/edit")
def edit(
    request: Request, build_id: BuildId, here: Here, base: Base, path: Line, value: Typed = "", unit: Line = ""
) -> Response:
    """Set one field to what was typed; a bare number is in the unit that the field was shown in."""
    outcome = workshop_of(request).edits.edit(build_id, base, path, value, units_of(request), unit)
    return repaint(request, build_id, here, outcome)


@router.post("/part")
def part(request: Request, build_id: BuildId, here: Here, base: Base, path: Line, kind: Line, value: Line) -> Response:
    """Fit a shelf part."""
    return repaint(request, build_id, here, workshop_of(request).edits.choose_part(build_id, base, path, kind, value))


@router.post("/remedy")
def remedy(
    request: Request, build_id: BuildId, here: Here, base: Base, finding: Count, code: Line, index: Count
) -> Response:
    """Try a finding's remedy."""
    outcome = workshop_of(request).edits.remedy(build_id, base, here.option, finding, code, index)
    return repaint(request, build_id, here, outcome)


@router.post("/alcohol")
def alcohol(request: Request, build_id: BuildId, here: Here, base: Base, school: Line) -> Response:
    """Count alcohol by another school on every target."""
    return repaint(request, build_id, here, workshop_of(request).edits.count_alcohol(build_id, base, school))


@router.post("/moved/read")
def moved_read(request: Request, build_id: BuildId, here: Here) -> Response:
    """What a new version changed for this build has been read."""
    workshop_of(request).movements.read(build_id)
    return repaint(request, build_id, here)


@router.post("/put-right")
def put_right(request: Request, build_id: BuildId, here: Here, base: Base) -> Response:
    """Do everything that clears the option's stops and checks; one undo takes it back."""
    return repaint(request, build_id, here, workshop_of(request).edits.put_right(build_id, base, here.option))


@router.post("/add")
def add(request: Request, build_id: BuildId, here: Here, base: Base, what: Line, like: Line = "") -> Response:
    """Add a target, option, pump group, filter or measured run."""
    outcome = workshop_of(request).edits.add(build_id, base, what, here.option, like or None)
    return repaint(request, build_id, here, outcome)


@router.post("/remove")
def remove(request: Request, build_id: BuildId, here: Here, base: Base, path: Line) -> Response:
    """Remove a target, option, pump group, filter or measured run."""
    return repaint(request, build_id, here, workshop_of(request).edits.remove(build_id, base, path))


@router.post("/undo")
def undo(request: Request, build_id: BuildId, here: Here, base: Base) -> Response:
    """Step back one revision, unless somebody else's change is on top."""
    return _step(request, build_id, here, lambda: workshop_of(request).garage.undo(build_id, base))


@router.post("/redo")
def redo(request: Request, build_id: BuildId, here: Here, base: Base) -> Response:
    """Step forward one revision, unless somebody else's change is on top."""
    return _step(request, build_id, here, lambda: workshop_of(request).garage.redo(build_id, base))


def _step(request: Request, build_id: int, here: Where, step: Callable[[], bool]) -> Response:
    try:
        step()
    except Conflict:
        return repaint(request, build_id, here, Outcome(False, message=ON_TOP))
    return repaint(request, build_id, here)


@router.post("/restore-whole")
def restore_whole(request: Request, build_id: BuildId, number: Base) -> Response:
    """Bring the last revision back that can be read, of a build that cannot be shown; it is opened then."""
    workshop_of(request).garage.restore(build_id, number)
    return RedirectResponse(f"/builds/{build_id}/ask", 303)


@router.post("/restore")
def restore(request: Request, build_id: BuildId, here: Here, number: Base) -> Response:
    """Bring an old revision back."""
    workshop_of(request).garage.restore(build_id, number)
    return repaint(request, build_id, here)
