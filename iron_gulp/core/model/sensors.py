"""Sensors as parts: what they read and how far, where they sit, who reads them."""

from typing import Literal

from pydantic import Field

from .parts import Identifier, Model, Name


class Sensor(Model):
    """A pressure sensor. A manifold sensor reads absolute pressure, a rail sensor gauge."""

    not_asked = ("id",)

    id: Identifier
    name: Name = Field("Pressure sensor", title="Sensor")
    measures: Literal["manifold pressure", "low rail pressure", "direct rail pressure"] = Field(
        "low rail pressure", title="Reads"
    )
    reads_to_kpa: float = Field(1_000.0, ge=50, le=120_000, title="up to")
    low_kpa: float = Field(0.0, ge=-100, le=100_000, title="from")
    supply: Literal["5 V", "battery"] = Field("5 V", title="Supply")
    read_by: Literal["engine controller", "port controller", "logger alone"] = Field("engine controller", title="Read by")


class EthanolSensor(Model):
    """An ethanol sensor in the feed: an element of the line, with a highest flow and a direction."""

    in_groups = {"As an element of the line": ("bore_mm", "length_m", "k_sum")}
    not_asked = ()

    bore_mm: float = Field(7.0, ge=2, le=25, title="Bore")
    length_m: float = Field(0.06, ge=0, le=1, title="Length")
    k_sum: float = Field(2.0, ge=0, le=100, title="K")
    flow_to_l_h: float = Field(200.0, ge=10, le=5_000, title="Flow at most")
    fitted: Literal["as its arrow says", "backwards"] = Field("as its arrow says", title="Fitted")
    place: Literal["in the feed, before the split", "in the return", "in one branch"] = Field(
        "in the feed, before the split", title="Sits"
    )
