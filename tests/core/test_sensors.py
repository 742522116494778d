"""Sensors as parts: silent where they reach, and what they say is the arithmetic of their own ends."""

import pytest
from pydantic import ValidationError

from iron_gulp.core.model import EthanolSensor, Sensor, SensorPart
from tests.garage import car, every_finding


def told(name, *sensors, ethanol=None):
    """What is said of sensors on a car of the garage."""
    build = car(name)
    option = build.options[0].model_copy(update={"sensors": tuple(sensors), "ethanol_sensor": ethanol})
    found = every_finding(build.model_copy(update={"options": (option,)}))
    return {one.code: one for one in found if one.code.startswith(("sensor-", "ethanol-"))}


SANE = [
    Sensor(id="m", measures="manifold pressure", low_kpa=10, reads_to_kpa=400, stopped_kpa=101.0),
    Sensor(id="b", measures="manifold pressure", low_kpa=10, reads_to_kpa=400, place="before the throttle"),
    Sensor(id="f", measures="low rail pressure", reads_to_kpa=1600, stopped_kpa=2.0),
    Sensor(id="a", measures="air flow", reads_to_kg_s=1.0),
    Sensor(id="c", measures="charge temperature"),
    Sensor(id="t", measures="fuel temperature"),
    Sensor(id="l", measures="exhaust mixture"),
]


@pytest.mark.parametrize("name", ["Mild triple", "Naturally aspirated six"])
def test_sensors_that_reach_say_nothing(name):
    assert told(name, *SANE, ethanol=EthanolSensor()) == {}


@pytest.mark.parametrize(
    ("sensor", "range_key", "worst_key"),
    [
        (Sensor(id="a", measures="air flow", reads_to_kg_s=0.02), "range_kg_s", "worst_kg_s"),
        (Sensor(id="c", measures="charge temperature", reads_to_c=20), "range_c", "worst_c"),
        (Sensor(id="t", measures="fuel temperature", reads_to_c=10), "range_c", "worst_c"),
        (Sensor(id="l", measures="exhaust mixture", low_lambda=0.95), "range_lambda", "worst_lambda"),
    ],
)
def test_a_sensor_too_short_names_its_targets_in_its_own_unit(sensor, range_key, worst_key):
    (finding,) = told("Mild triple", sensor).values()
    assert finding.code == "sensor-short"
    assert finding.targets
    low, high, _ = sensor.reach
    assert finding.values[range_key] == (low if sensor.measures == "exhaust mixture" else high)
    assert finding.values[worst_key] != finding.values[range_key]
    edits = {path.rpartition("/")[2]: value for path, value in finding.remedies[0].edits}
    if sensor.measures == "exhaust mixture":
        assert edits["low_lambda"] < finding.values[worst_key]
    else:
        assert edits[range_key.replace("range", "reads_to")] > finding.values[worst_key]


def test_a_reading_at_rest_gives_the_signal_it_should_have():
    sensor = Sensor(id="m", measures="manifold pressure", low_kpa=0, reads_to_kpa=400, low_v=0, high_v=5, stopped_kpa=80)
    finding = told("Mild triple", sensor)["sensor-scaling"]
    assert finding.values["signal_v"] == pytest.approx(finding.values["meant_kpa"] / 400 * 5)
    assert finding.values["meant_kpa"] == pytest.approx(101.325)


def test_an_ethanol_sensor_of_unknown_flow_is_not_accused_and_a_small_one_names_its_targets():
    assert "ethanol-flow" not in told("Mild triple", ethanol=EthanolSensor())
    assert told("Mild triple", ethanol=EthanolSensor(flow_to_l_h=20))["ethanol-flow"].targets


@pytest.mark.parametrize(
    ("name", "place", "severity"),
    [
        ("Mild triple", "in the return", "note"),  # what flows there was in the feed a moment before
        ("Mild triple", "in one branch", "warn"),
        ("Returnless on E30", "in the return", "stop"),
    ],
)
def test_an_ethanol_sensor_is_blamed_by_what_flows_where_it_sits(name, place, severity):
    assert told(name, ethanol=EthanolSensor(place=place))["ethanol-place"].severity == severity


@pytest.mark.parametrize(
    "wrong",
    [
        {"measures": "air flow", "reads_to_kg_s": 0},
        {"measures": "exhaust mixture", "low_lambda": 1.2, "reads_to_lambda": 1.0},
        {"measures": "charge temperature", "low_c": 130, "reads_to_c": 130},
        {"measures": "low rail pressure", "low_v": 2.0, "high_v": 2.0},
    ],
)
def test_a_range_or_signal_that_tells_nothing_is_refused(wrong):
    with pytest.raises(ValidationError):
        SensorPart(**wrong)
