"""The fill log: what was poured into the tank, and what was measured afterwards."""

from typing import Literal

from pydantic import Field

from .days import Day
from .parts import Identifier, Model


class Fill(Model):
    """One fill: what was left in the tank, what was poured on it, and the blend measured after it, where it was."""

    not_asked = ("id",)
    when_empty = {"measured_pct": "not measured", "grade": "not said", "price_each": "not said"}

    id: Identifier
    day: Day = Field("", title="Day")
    left_l: float = Field(ge=0, le=1000, title="Left in it")
    poured_l: float = Field(ge=0, le=1000, title="Poured")
    poured_pct: float = Field(ge=0, le=100, title="at ethanol")
    measured_pct: float | None = Field(None, ge=0, le=100, title="Measured after it")
    grade: float | None = Field(None, ge=70, le=130, title="Knock grade")
    grade_system: Literal["RON", "(R+M)/2"] = Field("RON", title="by")
    price_each: float | None = Field(None, ge=0, le=1000, title="A litre cost")
