"""The fill log: what was poured into the tank, and what was measured afterwards."""

from datetime import date

from pydantic import Field, field_validator

from .parts import Identifier, Model


class Fill(Model):
    """One fill: what was left in the tank, what was poured on it, and the blend measured after it, where it was."""

    not_asked = ("id",)
    when_empty = {"measured_pct": "not measured"}

    id: Identifier
    day: str = Field("", max_length=10, title="Day")
    left_l: float = Field(ge=0, le=1000, title="Left in it")
    poured_l: float = Field(ge=0, le=1000, title="Poured")
    poured_pct: float = Field(ge=0, le=100, title="at ethanol")
    measured_pct: float | None = Field(None, ge=0, le=100, title="Measured after it")

    @field_validator("day")
    @classmethod
    def _a_day(cls, text: str) -> str:
        if text:
            try:
                date.fromisoformat(text)
            except ValueError:
                raise ValueError("a day is written 2026-05-31, or left empty") from None
        return text
