"""What was measured on the car: readings that replace an assumption, pulls of a dyno, files kept beside them."""

from collections.abc import Iterable
from typing import Literal, Protocol, Self, TypeVar

from pydantic import Field, model_validator

from .days import Day
from .parts import Identifier, Model

Of = Literal[
    "base pressure",
    "voltage",
    "fuel temperature",
    "pump flow",
    "injector flow",
    "ethanol sensor",
]
_SHARES = ("pump flow", "injector flow")
Counts = Literal["counts", "set aside"]


class Reading(Model):
    """One reading: of what, taken on which option with which part fitted, and how far it may be off (one sigma).

    `member` says which of several: a pump group's id, "lift", "second", "direct". A reading holds as long as its option
    and its part are what they were; a system voltage holds for the car.
    """

    not_asked = ("id", "of", "member", "option", "part")
    shown_when = {
        **dict.fromkeys(("read_kpa", "sure_kpa"), ("of", "base pressure")),
        **dict.fromkeys(("read_v", "sure_v"), ("of", "voltage")),
        **dict.fromkeys(("read_c", "sure_k"), ("of", "fuel temperature")),
        "share_pct": ("of", "pump flow"),
        "flow_cc_min": ("of", "injector flow"),
        "sure_pct": ("of", (*_SHARES, "ethanol sensor")),
        **dict.fromkeys(("sensor_pct", "known_pct"), ("of", "ethanol sensor")),
    }

    id: Identifier
    of: Of = "base pressure"
    member: str = Field("", max_length=32)
    option: str = Field("", max_length=32)
    part: str = Field("", max_length=80)
    day: Day = Field("", title="Day")
    read_kpa: float = Field(300.0, ge=0, le=1500, title="Read")
    sure_kpa: float = Field(2.0, ge=0.1, le=50, title="give or take")
    read_v: float = Field(13.8, ge=4, le=32, title="Read, all loads on")
    sure_v: float = Field(0.05, ge=0.01, le=2, title="give or take")
    read_c: float = Field(30.0, ge=-40, le=90, title="Read after a hot run")
    sure_k: float = Field(2.0, ge=0.1, le=20, title="give or take")
    share_pct: float = Field(100.0, ge=20, le=180, title="Of its published flow")
    flow_cc_min: float = Field(400.0, ge=10, le=20000, title="Mean flow, as rated")
    sensor_pct: float = Field(0.0, ge=0, le=100, title="Sensor read")
    known_pct: float = Field(0.0, ge=0, le=100, title="Known to be")
    sure_pct: float = Field(1.5, ge=0.1, le=20, title="give or take")
    how: str = Field("", max_length=120, title="With what")
    counts: Counts = Field("counts", title="Use")


class Pull(Model):
    """One pull on a dyno, as its sheet tells it. Power is the wheels' where no more is said."""

    not_asked = ("id",)
    when_empty = {
        "crank_kw": "not given",
        "correction_ratio": "not given",
        "fuel_kg_h": "not logged",
        "duty_pct": "not logged",
    }
    in_groups = {
        "Fuel then": (
            "injector_cc_min",
            "injector_rated_kpa",
            "differential_kpa",
            "duty_pct",
            "dead_time_ms",
            "squirts",
            "fuel_temp_c",
            "base_fuel",
            "fuel_kg_h",
        ),
    }

    id: Identifier
    day: Day = Field("", title="Day")
    power_kw: float = Field(ge=1, le=5000, title="Wheel power")
    crank_kw: float | None = Field(None, ge=1, le=5000, title="The dyno's own crank figure")
    rpm: float = Field(ge=300, le=20000, title="at")
    boost_kpa: float = Field(ge=-95, le=600, title="Boost")
    ethanol_pct: float = Field(ge=0, le=100, title="Ethanol")
    figures: Literal["not said", "as measured", "corrected"] = Field("not said", title="Figures are")
    correction_ratio: float | None = Field(None, ge=0.7, le=1.5, title="Corrected by")
    stopped: Literal[
        "ended as planned",
        "knock",
        "lean",
        "injectors at their limit",
        "fuel pressure fell",
        "boost fell",
        "heat",
        "other",
    ] = Field("ended as planned", title="It stopped for")
    file: str = Field("", max_length=80, title="Calibration file")
    injector_cc_min: float = Field(440.0, ge=20, le=20000, title="Injectors")
    injector_rated_kpa: float = Field(300.0, ge=50, le=2000, title="rated at")
    differential_kpa: float = Field(300.0, ge=20, le=2000, title="Differential")
    duty_pct: float | None = Field(None, gt=0, le=100, title="Duty")
    dead_time_ms: float = Field(0.9, ge=0, le=10, title="Dead time")
    squirts: int = Field(1, ge=1, le=12, title="Squirts a cycle")
    fuel_temp_c: float = Field(30.0, ge=-40, le=90, title="Fuel temperature")
    base_fuel: Identifier = Field("gasoline", title="Base fuel")
    fuel_kg_h: float | None = Field(None, ge=0.1, le=5000, title="Fuel as the controller computes it")
    counts: Counts = Field("counts", title="Use")

    @model_validator(mode="after")
    def _possible(self) -> Self:
        crank = self.crank_kw
        if crank is not None and not self.power_kw < crank <= 2.5 * self.power_kw:
            raise ValueError(
                f"{crank:.4g} kW at the crank with {self.power_kw:.4g} kW at the wheels: a driveline takes something, "
                "and less than six tenths"
            )
        if self.correction_ratio is not None and self.figures == "as measured":
            raise ValueError("figures as measured have no correction; say that they are corrected, or leave it empty")
        return self

    @property
    def as_measured_kw(self) -> float:
        """Wheel power without the sheet's weather correction, where that is given, kW: what the fuel made."""
        return self.power_kw / (self.correction_ratio or 1.0)

    @property
    def loss(self) -> float | None:
        """Driveline loss by the dyno's own crank figure, a share; None without one."""
        return None if self.crank_kw is None else 1.0 - self.power_kw / self.crank_kw


class KeptFile(Model):
    """A file kept beside the database under the hash of its content; `of` is the id of what it belongs to."""

    not_asked = ("id", "sha256", "kind", "size_bytes", "of")

    id: Identifier
    sha256: str = Field(pattern=r"^[0-9a-f]{64}$")
    name: str = Field(min_length=1, max_length=120, title="File")
    kind: Literal["picture", "document", "table"] = "picture"
    size_bytes: int = Field(0, ge=0)
    of: str = Field("", max_length=32)
    day: Day = Field("", title="Day")
    note: str = Field("", max_length=200, title="Shows")


class _Dated(Protocol):
    @property
    def day(self) -> str: ...
    @property
    def counts(self) -> str: ...


Taken = TypeVar("Taken", bound=_Dated)


def newest(taken: Iterable[Taken]) -> Taken | None:
    """The newest that counts: by day, and of one day the one entered last; None where none counts."""
    found: Taken | None = None
    for one in taken:
        if one.counts == "counts" and (found is None or one.day >= found.day):
            found = one
    return found
