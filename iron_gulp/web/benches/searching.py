"""Find: fields, figures, findings and stations of a build, shelf parts, other builds and the glossary, by their words."""

from collections.abc import Iterator
from dataclasses import dataclass
from typing import Any

from iron_gulp.core.account import FIGURES
from iron_gulp.core.model import Build, Option, Part, dump, stations_of
from iron_gulp.services.fields import field_at, model_at
from iron_gulp.services.workshop import Bench, NotFound, Workshop
from iron_gulp.shelf import KINDS, Shelf
from iron_gulp.units import BenchUnits

from ..parts.glossary import GLOSSARY
from ..parts.stations import PAGES
from .places import PAGE_OF_BUILD, PAGE_OF_PLACE, PAGE_OF_TARGET, page_of
from .showing import VIEWS

MOST = 24
# Fields that pages lay out by themselves, outside their element's groups.
LAID_OUT = (
    *("length_m", "bore_mm", "k_sum", "runs", "count", "kind", "name", "notes", "client"),
    *("return_entry", "voltage_v"),
)
SKIPPED = {"id", "shelf_id", "provenance", "schema_version", "why", "why_for", "assumed"}
SKIPPED |= {"fitted_today", "chosen", "chosen_why", "chosen_on", "chosen_says"}  # a choice is made on a page of its own


@dataclass(frozen=True)
class Hit:
    """Something found: its words, what it is, and where it stands."""

    words: str
    kind: str
    url: str


def search(workshop: Workshop, words: str, build: int | None, option: str, target: str) -> list[Hit]:
    """What answers to all of some words: of a build first, then builds, parts and the glossary."""
    wanted, hits = words.lower().split()[:8], []
    if wanted:
        for hit in _everything(workshop, build, option, target, words):
            if all(word in hit.words.lower() for word in wanted) and hit not in hits:
                hits.append(hit)
            if len(hits) >= MOST:
                break
    return hits


def _everything(workshop: Workshop, build: int | None, option: str, target: str, text: str) -> Iterator[Hit]:
    if build is not None:
        try:
            bench = workshop.judging.bench(build, option, target)
        except NotFound:
            bench = None
        if bench is not None:
            yield from of_build(bench, workshop.shelf)
    for row in workshop.garage.page(text).rows:
        yield Hit(row.name, "build", f"/builds/{row.id}/ask")
    for kind in KINDS:
        for part in workshop.shelf.parts(kind):
            yield Hit(part.name, "part", f"/shelf/{kind}#part-{part.shelf_id}")
    for number, (term, meaning) in enumerate(GLOSSARY):
        yield Hit(f"{term}: {meaning}", "word", f"/glossary#word-{number}")


def of_build(bench: Bench, shelf: Shelf) -> Iterator[Hit]:
    """Everything of a build on the bench: findings, figures by their pages' rows, and the fields that are shown."""
    where = f"?option={bench.option.id}&target={bench.verdict.target.id}"
    start = f"/builds/{bench.stored.id}"
    for finding in bench.judged.findings:
        page_key: str = finding.station if finding.station in PAGES else "ask"
        yield Hit(finding.title, "finding", f"{start}/{page_key}{where}#findings")
    for page_key in stations_of(bench.option):
        view = VIEWS[page_key](bench, page_key, BenchUnits(), shelf)
        for _, row in view.rows():
            for one in row:
                key = one if isinstance(one, str) else one[0]
                anchor = f"fig-{key.replace('.', '-')}"
                yield Hit(FIGURES[key].label, "figure", f"{start}/{page_key}{where}#{anchor}")
    asked = VIEWS["ask"](bench, "ask", BenchUnits(), shelf)
    for path, page_key in _fields(bench.build, bench.option, bench.verdict.target.id):
        holder, _, name = path.rpartition("/")
        spec = field_at(path)
        if name == "name" and issubclass(model_at(holder), Part):
            continue  # chosen from the shelf, not typed
        shown = any(path in group.paths for group in asked.groups(holder)) or name in LAID_OUT
        if shown and spec.kind != "other":
            yield Hit(f"{spec.title}, {_place(path)}", "field", f"{start}/{page_key}{where}#f-{path.replace('/', '-')}")


def _fields(build: Build, option: Option, target_id: str) -> Iterator[tuple[str, str]]:
    """Edit paths of single fields, each with the page it stands on."""
    whole = dump(build)
    for name, value in whole.items():
        if name == "options":
            data = next(one for one in value if one["id"] == option.id)
            for place, inside in data.items():
                if place in PAGE_OF_PLACE:
                    for path in _leaves(f"options/{option.id}/{place}", inside):
                        page_key = page_of(place, path)
                        # A carburettor's bench shows no rail and tells no controller of injectors.
                        if page_key != "injectors" or option.injectors is not None or place == "carburettor":
                            yield path, page_key
        elif name not in SKIPPED:
            for path in _leaves(name, value):
                on_page = PAGE_OF_TARGET.get(path.rsplit("/", 1)[-1]) if name == "targets" else PAGE_OF_BUILD.get(name)
                # What stands on a bench stands there for the target chosen alone.
                if name != "targets" or on_page is None or f"/{target_id}/" in path:
                    yield path, on_page or "ask"


def _leaves(path: str, value: Any) -> Iterator[str]:
    if isinstance(value, dict):
        for name, inside in value.items():
            if name not in SKIPPED and not (name == "name" and path.endswith("/part")):
                yield from _leaves(f"{path}/{name}", inside)
    elif isinstance(value, list):
        for item in value:
            if isinstance(item, dict) and "id" in item:
                yield from _leaves(f"{path}/{item['id']}", item)
    else:
        yield path


def _place(path: str) -> str:
    """Where a field belongs, in words: its element, and which one."""
    steps = path.split("/")
    steps = steps[2:-1] if steps[0] == "options" else steps[:-1]
    words = [step.replace("_", " ") for step in steps if step != "part"]
    return " ".join(words) or "the build"
