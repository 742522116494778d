"""The shop's own rates: what hours and parts cost where a part has no price of its own. Generic until edited."""

from pydantic import Field

from .parts import Model


class Rates(Model):
    """Prices in the shop's currency, hours of work; an empty price is one the shop does not know."""

    in_groups = {
        "A part without a price of its own": (
            *("low_pump", "high_pump", "direct_injector", "port_injector", "regulator", "filter", "line_per_m"),
            *("port_rail_set", "port_controller", "port_loom", "speed_controller", "booster"),
        ),
        "Hours to fit": (
            *("low_pump_h", "high_pump_h", "direct_injectors_h", "port_injectors_h", "port_rail_h", "regulator_h"),
            *("line_h", "speed_controller_h", "booster_h"),
        ),
        "Hours to calibrate": ("direct_calibration_h", "port_calibration_h", "base_calibration_h", "blend_calibration_h"),
    }
    not_asked = ()
    when_empty = dict.fromkeys(
        ("low_pump", "high_pump", "direct_injector", "port_injector", "regulator", "filter", "line_per_m"), "not known"
    ) | {"port_rail_set": "not known", "port_controller": "not known", "port_loom": "not known"}
    when_empty |= {"speed_controller": "not known", "booster": "not known"}

    currency: str = Field("€", min_length=1, max_length=8, title="Currency")
    labour: float = Field(95.0, ge=0, le=10_000, title="An hour of fitting")
    calibration: float = Field(140.0, ge=0, le=10_000, title="An hour of calibration, cell included")
    fittings_pct: float = Field(20.0, ge=0, le=200, title="Fittings, seals, small parts, of the parts")
    markup_pct: float = Field(0.0, ge=0, le=300, title="Markup on parts, in a quote")
    tax_pct: float = Field(0.0, ge=0, le=100, title="Tax on all of it, in a quote")
    low_pump: float | None = Field(190.0, ge=0, le=100_000, title="Low-pressure pump")
    high_pump: float | None = Field(680.0, ge=0, le=100_000, title="High-pressure pump")
    direct_injector: float | None = Field(125.0, ge=0, le=100_000, title="Direct injector")
    port_injector: float | None = Field(75.0, ge=0, le=100_000, title="Port injector")
    regulator: float | None = Field(150.0, ge=0, le=100_000, title="Regulator")
    filter: float | None = Field(70.0, ge=0, le=100_000, title="Filter")
    line_per_m: float | None = Field(28.0, ge=0, le=10_000, title="A metre of line with its ends")
    port_rail_set: float | None = Field(420.0, ge=0, le=100_000, title="Port rails with bungs and mounts")
    port_controller: float | None = Field(650.0, ge=0, le=100_000, title="Controller and loom of a port side")
    port_loom: float | None = Field(180.0, ge=0, le=100_000, title="Loom of a port side to the engine controller")
    speed_controller: float | None = Field(260.0, ge=0, le=100_000, title="Controller of pump speed, returnless")
    booster: float | None = Field(320.0, ge=0, le=100_000, title="Voltage booster")
    low_pump_h: float = Field(3.0, ge=0, le=200, title="Low-pressure pump, each")
    high_pump_h: float = Field(3.5, ge=0, le=200, title="High-pressure pump, each")
    direct_injectors_h: float = Field(7.0, ge=0, le=200, title="Set of direct injectors")
    port_injectors_h: float = Field(2.0, ge=0, le=200, title="Set of port injectors")
    port_rail_h: float = Field(12.0, ge=0, le=200, title="Port rails, bungs, loom")
    regulator_h: float = Field(1.0, ge=0, le=200, title="Regulator")
    line_h: float = Field(1.0, ge=0, le=200, title="A line")
    speed_controller_h: float = Field(3.0, ge=0, le=200, title="Controller of pump speed")
    booster_h: float = Field(2.0, ge=0, le=200, title="Voltage booster")
    direct_calibration_h: float = Field(6.0, ge=0, le=500, title="New direct hardware")
    port_calibration_h: float = Field(10.0, ge=0, le=500, title="A port side beside it")
    base_calibration_h: float = Field(2.0, ge=0, le=500, title="Another base pressure, same port injectors")
    blend_calibration_h: float = Field(3.0, ge=0, le=500, title="Another blend")


GENERIC_RATES = Rates()
