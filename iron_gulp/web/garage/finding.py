"""Find, and the glossary."""

from fastapi import APIRouter, Request, Response

from ..benches.searching import search
from ..parts.glossary import GLOSSARY
from ..parts.rendering import page, workshop_of
from ..parts.types import AskedBuild

router = APIRouter()
LONGEST = 80


@router.get("/find")
def find(request: Request, q: str = "", build: AskedBuild = None, option: str = "", target: str = "") -> Response:
    """What answers to some words, as a list of links; says so when nothing does."""
    words = q.strip()[:LONGEST]
    hits = search(workshop_of(request), words, build, option, target)
    return page(request, "found.html", hits=hits, q=words, asked=bool(words))


@router.get("/glossary")
def glossary(request: Request) -> Response:
    """The trade's words as this tool uses them."""
    return page(request, "glossary.html", glossary=GLOSSARY)
