"""What calibrating direct and port injection together involves, by who runs the port side and how the fuel is parted."""

from collections.abc import Iterator

from ..model import Build, Delivery, Option


def calibration_of(build: Build, option: Option) -> tuple[str, ...]:
    """What is to be entered, mapped and proven, in order; nothing unless both sides deliver."""
    if option.high_side is None or option.injectors is None or option.mode in ("direct only", "port only"):
        return ()
    told = option.delivery or Delivery()
    return tuple(_tasks(build, option, told))


def _tasks(build: Build, option: Option, told: Delivery) -> Iterator[str]:
    yield "Enter flow and dead times of both sets of injectors, at the pressures they really see."
    if told.runs == "the engine controller":
        yield "It needs a driver for every port injector beside those of the direct side: count them first."
        yield f"Tell it the split: {_split(told)}. It meters the sum, so one fuel table serves both sides."
    else:
        yield (
            "Give the port controller engine speed, manifold pressure after the throttle and a cut from the engine "
            "controller, so that both stop together."
        )
        yield f"Map the port side by hand: {_split(told)}."
        yield (
            "The engine controller knows nothing of that fuel: take as much out of its own table in the same cells, or "
            "its closed loop trims the port fuel away and carries the trim to where the port side is at rest."
        )
        if len({target.ethanol_pct for target in build.targets}) > 1:
            yield "Lead the ethanol signal to both controllers: the port side's share of the blend is its own correction."
    if told.mode == "threshold" and told.width == 0:
        yield "Prove the hand-over: the port side joins all at once, so compare mixture just below and just above it."
    elif told.mode != "share":
        yield "Prove the hand-over: mixture steady while the port side fades in, at slow and at fast throttle."
    yield "Port fuel wets the walls and direct fuel does not: transient enrichment is for the port share alone."
    if told.mode == "share":
        yield "Prove the smallest pulses of both sides at idle: each gets only its share of little fuel."
    if option.regulator.arrangement == "returnless, speed-controlled":
        yield "Tune the pump's controller with both sides drawing, then with the port side at rest."
    if told.port_base_kpa is not None:
        yield "Set the port rail's own regulator with its pumps running and the direct side drawing."
    yield "Stop the port side once at light load and see that whoever watches it notices."


def _split(told: Delivery) -> str:
    signal = {"manifold_kpa": "manifold pressure", "rpm": "engine speed", "flow_l_h": "fuel flow"}[told.signal]
    if told.mode == "share":
        return "a fixed share of the fuel in every cell"
    if told.mode == "ceiling":
        return "the port side carries what is above the direct side's ceiling, so it follows fuel asked and engine speed"
    return f"the port side joins on {signal}"
