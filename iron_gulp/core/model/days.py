"""Days as they are written in a build."""

from datetime import date
from typing import Annotated

from pydantic import AfterValidator, Field


def a_day(text: str) -> str:
    """A day written 2026-05-31, or nothing. Raises ValueError for anything else."""
    if text:
        try:
            date.fromisoformat(text)
        except ValueError:
            raise ValueError("a day is written 2026-05-31, or left empty") from None
    return text


Day = Annotated[str, Field(max_length=10), AfterValidator(a_day)]
