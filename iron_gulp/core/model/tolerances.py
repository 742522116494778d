"""How uncertain every input is: a spread about what is entered, and what measuring it has shown (physics §8)."""

from pydantic import Field

from .parts import Model


class Spread(Model):
    """A spread with its reason. Fields are named by their unit in each kind of spread."""

    not_asked = ()

    why: str = Field("", max_length=200, title="Why")


class ShareSpread(Spread):
    """Of a value, per cent."""

    spread_pct: float = Field(ge=0, le=50, title="Spread")
    offset_pct: float = Field(0.0, ge=-50, le=50, title="Measured off by")

    @property
    def both(self) -> tuple[float, float]:
        """Spread and offset as shares."""
        return self.spread_pct / 100.0, self.offset_pct / 100.0


class VoltSpread(Spread):
    """Volts."""

    spread_v: float = Field(ge=0, le=5, title="Spread")
    offset_v: float = Field(0.0, ge=-5, le=5, title="Measured off by")

    @property
    def both(self) -> tuple[float, float]:
        """Spread and offset, V."""
        return self.spread_v, self.offset_v


class KelvinSpread(Spread):
    """Kelvin."""

    spread_k: float = Field(ge=0, le=60, title="Spread")
    offset_k: float = Field(0.0, ge=-60, le=60, title="Measured off by")

    @property
    def both(self) -> tuple[float, float]:
        """Spread and offset, K."""
        return self.spread_k, self.offset_k


class PressureSpread(Spread):
    """Kilopascal."""

    spread_kpa: float = Field(ge=0, le=100, title="Spread")
    offset_kpa: float = Field(0.0, ge=-100, le=100, title="Measured off by")

    @property
    def both(self) -> tuple[float, float]:
        """Spread and offset, kPa."""
        return self.spread_kpa, self.offset_kpa


class Tolerances(Model):
    """Spreads of every uncertain input: standard deviations, but `pump_wear`, which is anything from none to all of it.

    Points are per cent of the whole: of driveline loss, and of ethanol. A set of injectors is off as a whole, and each of
    it by itself.
    """

    not_asked = ()

    consumption: ShareSpread = Field(ShareSpread(spread_pct=8.0), title="Consumption")
    driveline: ShareSpread = Field(ShareSpread(spread_pct=3.0), title="Driveline loss, points")
    injector_set: ShareSpread = Field(ShareSpread(spread_pct=2.0), title="Injector flow, the set")
    injector_each: ShareSpread = Field(ShareSpread(spread_pct=1.5), title="Injector flow, one to another")
    dead_time: ShareSpread = Field(ShareSpread(spread_pct=5.0), title="Dead time")
    pump_flow: ShareSpread = Field(ShareSpread(spread_pct=4.0), title="Pump flow")
    pump_wear: ShareSpread = Field(ShareSpread(spread_pct=10.0), title="Pump wear, none up to")
    voltage: VoltSpread = Field(VoltSpread(spread_v=0.3), title="Voltage")
    blend_measured: ShareSpread = Field(ShareSpread(spread_pct=2.0), title="Blend, measured, points")
    blend_assumed: ShareSpread = Field(ShareSpread(spread_pct=8.0), title="Blend, assumed, points")
    fuel_temperature: KelvinSpread = Field(KelvinSpread(spread_k=8.0), title="Fuel temperature")
    bores: ShareSpread = Field(ShareSpread(spread_pct=3.0), title="Bores of lines")
    fittings: ShareSpread = Field(ShareSpread(spread_pct=20.0), title="Losses of fittings")
    base_pressure: PressureSpread = Field(PressureSpread(spread_kpa=4.0), title="Base pressure")
