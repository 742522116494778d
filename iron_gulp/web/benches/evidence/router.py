"""Files of a build: taken in, shown small and whole."""

from typing import Annotated

from fastapi import APIRouter, Form, HTTPException, Path, Request, Response, UploadFile
from fastapi.responses import FileResponse

from ...parts.rendering import workshop_of
from ...parts.types import Base, BuildId
from ..changes import Here, repaint

router = APIRouter(prefix="/builds/{build_id}/evidence")
Hash = Annotated[str, Path(pattern=r"^[0-9a-f]{64}$")]


@router.post("/files")
def attach(
    request: Request,
    build_id: BuildId,
    here: Here,
    base: Base,
    file: UploadFile,
    of: Annotated[str, Form(max_length=32)] = "",
) -> Response:
    """Keep a file with the build."""
    outcome = workshop_of(request).evidence.attach(build_id, base, file.file, file.filename or "file", of)
    return repaint(request, build_id, here, outcome)


@router.get("/files/{sha256}")
def kept(request: Request, build_id: BuildId, sha256: Hash) -> Response:
    """A kept file; only pictures are shown in the browser, all else is handed over."""
    return _answer(request, build_id, sha256, small=False)


@router.get("/files/{sha256}/small")
def small(request: Request, build_id: BuildId, sha256: Hash) -> Response:
    """The small picture of a kept picture."""
    return _answer(request, build_id, sha256, small=True)


def _answer(request: Request, build_id: int, sha256: str, small: bool) -> Response:
    workshop = workshop_of(request)
    files = workshop.judging.bench(build_id).build.files
    found = workshop.evidence.find(files, sha256, small)
    if found is None:
        raise HTTPException(404, "This file is not kept with this build, or is not on this machine.")
    name = next(one.name for one in files if one.sha256 == sha256)
    shown = found.media_type.startswith("image/")
    return FileResponse(
        found.path,
        media_type=found.media_type,
        filename=None if shown else name,
        content_disposition_type="inline" if shown else "attachment",
    )
