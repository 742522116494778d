"""The build file: JSON after the published schema (`docs/build-file.schema.json`), exact in both directions."""

import json
from typing import Any

from pydantic import ValidationError

from iron_gulp.core.model import SCHEMA_VERSION, Build, Problem, completed, problems_of, upgraded

from .bounded import told as told_shortly
from .bounded import too_long, too_many

LARGEST_BYTES = 4_000_000


class BuildFileError(ValueError):
    """A file that is not a build file; carries every problem at its path."""

    def __init__(self, problems: list[Problem]):
        super().__init__("; ".join(f"{problem.path or 'file'}: {problem.message}" for problem in problems))
        self.problems = problems


def write(build: Build) -> str:
    """A build as build-file text: UTF-8 JSON, every number as stored. What is not fitted or not told is left out.

    So a new kind of component changes no file that does not hold it.
    """
    return build.model_dump_json(indent=2, by_alias=True, exclude_none=True) + "\n"


def read(content: str | bytes) -> Build:
    """Read build-file text. Raises BuildFileError with every problem listed at its path; nothing is coerced.

    Files of former versions take the steps since, and problems are told at their places in today's.
    """
    if len(content) > LARGEST_BYTES:
        raise BuildFileError([Problem("", f"the file is larger than {LARGEST_BYTES // 1_000_000} MB")])
    try:
        text = content.decode("utf-8-sig") if isinstance(content, bytes) else content
        if too_many(text):
            raise BuildFileError([Problem("", "the file holds more entries than a build can have")])
        data = json.loads(text, parse_constant=_refuse_constant)
    except UnicodeDecodeError:
        raise BuildFileError([Problem("", "the file is not UTF-8 text")]) from None
    except (ValueError, RecursionError) as error:
        raise BuildFileError([Problem("", f"the file is not JSON: {error}")]) from None
    if not isinstance(data, dict) or "schema_version" not in data:
        raise BuildFileError([Problem("", "this is JSON, but not a build file: schema_version is missing")])
    if data["schema_version"] != SCHEMA_VERSION:
        told, data = data["schema_version"], upgraded(data)
        if data["schema_version"] != SCHEMA_VERSION:
            message = f"version {told!r} is not known here; this application reads versions 1 to {SCHEMA_VERSION}"
            raise BuildFileError([Problem("schema_version", message)])
        text = json.dumps(data)
    whole = completed(data)
    if whole is not data:
        data, text = whole, json.dumps(whole)
    long = too_long(data)
    if long:
        raise BuildFileError(told_shortly(long))
    try:
        return Build.model_validate_json(text.encode(), strict=True)
    except ValidationError as error:
        raise BuildFileError(told_shortly(problems_of(error))) from None


def _refuse_constant(name: str) -> None:
    raise ValueError(f"{name} is not a number")


def schema() -> dict[str, Any]:
    """The JSON Schema of the build file."""
    published = Build.model_json_schema(by_alias=True, mode="validation")
    return {
        "$schema": "https://json-schema.org/draft/2020-12/schema",
        "title": "Iron Gulp build file",
        **{key: value for key, value in published.items() if key != "title"},
    }
