"""Build files in and out, and the solution as data."""

from fastapi import APIRouter, HTTPException, Request, Response, UploadFile
from fastapi.responses import FileResponse, JSONResponse, RedirectResponse

from iron_gulp.formats import parts_list_csv
from iron_gulp.services.workshop import BuildFileError

from ..parts.rendering import page, units_of, workshop_of
from ..parts.types import BuildId

router = APIRouter()


@router.post("/builds/import")
def import_build(request: Request, file: UploadFile) -> Response:
    """Read a build file; every problem is listed when it is refused."""
    workshop = workshop_of(request)
    try:
        build_id = workshop.garage.import_file(file.file)
    except BuildFileError as error:
        found = workshop.garage.page()
        return page(
            request,
            "garage.html",
            422,
            found=found,
            q="",
            sort="touched",
            archived=False,
            at=1,
            units=units_of(request),
            problems=error.problems,
            file_name=file.filename or "the file",
        )
    return RedirectResponse(f"/builds/{build_id}/ask", 303)


@router.get("/builds/{build_id}/export")
def export(request: Request, build_id: BuildId) -> Response:
    """The build file."""
    name, text = workshop_of(request).documents.export(build_id)
    headers = {"Content-Disposition": f'attachment; filename="{name}"'}
    return Response(text, media_type="application/json", headers=headers)


@router.get("/builds/{build_id}/parts-list.csv")
def parts_list(request: Request, build_id: BuildId, option: str | None = None) -> Response:
    """The parts list of an option."""
    workshop = workshop_of(request)
    text = parts_list_csv.write(workshop.documents.parts_list(workshop.judging.bench(build_id, option)))
    headers = {"Content-Disposition": 'attachment; filename="parts-list.csv"'}
    return Response(text, media_type="text/csv", headers=headers)


@router.get("/builds/{build_id}/solution.json")
def solution(request: Request, build_id: BuildId, option: str | None = None, target: str | None = None) -> Response:
    """The complete solution, the same as the command line prints."""
    try:
        return JSONResponse(workshop_of(request).documents.solution(build_id, option, target))
    except KeyError as error:
        raise HTTPException(404, str(error.args[0])) from None


@router.post("/backup")
def backup(request: Request) -> Response:
    """The whole garage in one checked file, kept among its backups and handed over."""
    copy = workshop_of(request).backup()
    return FileResponse(copy, filename=f"iron-gulp-{copy.name}", media_type="application/zip")
