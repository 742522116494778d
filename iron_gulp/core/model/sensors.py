"""Sensors as parts: what they read and how far, where they sit, who reads them."""

from typing import Literal

from pydantic import Field

from .parts import PRESSURES, Identifier, Model, SensorPart


class Sensor(SensorPart):
    """A sensor in its place, who reads it, and what it was seen to read with the engine stopped."""

    not_asked = ("id", "shelf_id", "name", "provenance", "alcohol_ok")
    in_groups = {"Signal": ("low_v", "high_v", "supply", "stopped_kpa")}
    shown_when = {
        **SensorPart.shown_when,
        "place": ("measures", "manifold pressure"),
        "stopped_kpa": ("measures", PRESSURES),
    }
    when_empty = {**SensorPart.when_empty, "stopped_kpa": "not looked at"}

    id: Identifier
    place: Literal["after the throttle", "before the throttle"] = Field("after the throttle", title="Sits")
    read_by: Literal["engine controller", "port controller", "logger alone"] = Field("engine controller", title="Read by")
    stopped_kpa: float | None = Field(None, ge=-100, le=120_000, title="Seen with the engine stopped")


class EthanolSensor(Model):
    """An ethanol sensor in the feed: an element of the line, with a highest flow and a direction."""

    in_groups = {"As an element of the line": ("bore_mm", "length_m", "k_sum")}
    when_empty = {"flow_to_l_h": "not said"}
    not_asked = ()

    bore_mm: float = Field(7.0, ge=2, le=25, title="Bore")
    length_m: float = Field(0.06, ge=0, le=1, title="Length")
    k_sum: float = Field(2.0, ge=0, le=100, title="K")
    flow_to_l_h: float | None = Field(None, ge=10, le=5_000, title="Flow at most")
    fitted: Literal["as its arrow says", "backwards"] = Field("as its arrow says", title="Fitted")
    place: Literal["in the feed, before the split", "in the return", "in one branch"] = Field(
        "in the feed, before the split", title="Sits"
    )
