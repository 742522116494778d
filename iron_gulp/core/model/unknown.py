"""Data of parts that nobody knows: which, and the bracket it is believed to lie in."""

from typing import Literal, Self

from pydantic import Field, model_validator

from .parts import Identifier, Model

What = Literal[
    "regulator, wide-open flow",
    "pumps, flow",
    "port injectors, flow",
    "feed, bore",
    "return, bore",
    "filter, drop",
    "direct injectors, flow",
    "high-pressure pumps, delivery",
]


class Unknown(Model):
    """A datum that is not known: what is entered for it is a guess, and lies between two shares of it."""

    not_asked = ("id",)

    id: Identifier
    what: What = Field("regulator, wide-open flow", title="Not known")
    low_pct: float = Field(60.0, ge=5, le=100, title="at least, of what is entered")
    high_pct: float = Field(150.0, ge=100, le=1000, title="at most")

    @model_validator(mode="after")
    def _a_bracket(self) -> Self:
        if self.high_pct <= self.low_pct:
            raise ValueError("a bracket ends above where it begins")
        return self
