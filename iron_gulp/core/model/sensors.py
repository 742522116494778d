"""Sensors as parts: what they read and how far, where they sit, who reads them."""

from typing import Literal

from pydantic import Field

from .parts import Identifier, Model, SensorPart


class Sensor(SensorPart):
    """A pressure sensor in its place, and who reads it."""

    not_asked = ("id", "shelf_id", "name", "provenance", "alcohol_ok")

    id: Identifier
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
