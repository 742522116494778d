"""The high side in the diagram: after the split, a row a pump, its line before it and its rail behind it."""

from dataclasses import replace

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import Component, Line
from iron_gulp.core.physics import M3_S_PER_L_H
from iron_gulp.core.solve import PEAK, STATE_WORDS, DirectRails, RailState
from iron_gulp.core.study import legs

from .symbols import Drawing, Element, Mark, body_of, symbol
from .words import Text, line_element, sprays

COLUMN, ROW, RAIL = 128, 126, 150


def height_of(verdict: TargetVerdict) -> float:
    """How far the high side stands above the main line."""
    direct = verdict.points.direct
    return 0.0 if direct is None else ROW * len(direct.pumps)


def high_side(out: Drawing, x: float, verdict: TargetVerdict, injectors: int, text: Text, worst: Mark) -> float:
    """Pumps, rails and direct injectors above the main line, which goes on under them; gives the x of their end."""
    direct, high, mid = verdict.points.direct, verdict.option.high_side, out.mid
    assert direct is not None
    assert high is not None
    found = {leg.name: leg for leg in legs(verdict)}
    series, count = high.feed == "series", len(direct.pumps)
    columns = count if series else 1
    rail_x = x + 12 + COLUMN * (columns + 1)
    end = rail_x + RAIL
    tops = [mid - ROW * (number + 1) for number in range(count)]
    out.add(f'<path d="M{x} {mid}h12"/>')
    if not series:
        out.add(f'<path d="M{x + 12} {mid}V{tops[-1]}"/>')
    else:
        out.add(f'<path d="M{x + 12} {mid}V{tops[0]}"/>')
    owner = {pump: rail for rail, pumps in enumerate(_rails_of(verdict)) for pump in pumps}
    for number, (y, pump) in enumerate(zip(tops, direct.pumps, strict=True)):
        start = x + 12 + (COLUMN * number if series else 0)
        linked = series and number > 0
        leg = found[f"Link {number}-{number + 1}" if linked else f"High-pressure feed {number + 1}"]
        if linked:
            out.add(f'<path d="M{start} {tops[number - 1]}V{y}"/>')
        out.add(f'<path d="M{start} {y}H{rail_x}"/>')
        centre = start + COLUMN / 2
        line: Line | None = high.branches[number] if high.branches else None
        if line is not None:
            flow, drop = text(leg.flow_m3_s / M3_S_PER_L_H, "flow_l_h"), text(leg.drop_kpa, "drop_kpa")
            name: Component = "high-pressure inlet"
            drawn = line_element(leg.name, line, flow, drop, text, name)
            drawn = drawn if number == _thirstiest(verdict) else replace(drawn, component=None)
            out.add(symbol(drawn, centre, y, body_of("line", centre, y), worst))
        at = rail_x - COLUMN / 2
        capacity = text(float(pump.capacity_kg_s[PEAK]) * 3600.0, "fuel_kg_h")
        inlet, fill = text(float(pump.inlet_kpa[PEAK]), "inlet_kpa"), f"{float(pump.fill[PEAK]) * 100:.0f} % filled"
        element = Element(
            "high pump",
            f"High pump {number + 1}" if count > 1 else "High pump",
            (f"inlet {inlet}", f"brings {capacity}"),
            (
                ("part", high.pumps[number].part.name),
                ("inlet", inlet),
                ("stroke", fill),
                ("brings at the target", capacity),
                ("delivers", text(float(pump.delivered_kg_s[PEAK]) * 3600.0, "fuel_kg_h")),
                ("drive", text(float(pump.power_w[PEAK]), "power_w")),
            ),
            "high-pressure pump" if number == 0 else None,
        )
        out.add(symbol(element, at, y, body_of("high pump", at, y), worst, words_dy=8))
        rail = direct.rails[owner[number]]
        share = injectors // count + (number < injectors % count)
        out.add(_rail(rail, number, len(direct.rails), rail_x, y, share, verdict, text, worst))
    if len(direct.rails) == 1 and count > 1:
        out.add(f'<path d="M{end} {tops[0]}h10V{tops[-1]}h-10"/>')
    return end + 24


def _rail(
    rail: DirectRails,
    number: int,
    rails: int,
    x: float,
    y: float,
    injectors: int,
    verdict: TargetVerdict,
    text: Text,
    worst: Mark,
) -> str:
    high = verdict.option.high_side
    assert high is not None
    pressure, state = text(float(rail.rail_kpa[PEAK]), "rail_kpa"), STATE_WORDS[RailState(int(rail.state[PEAK]))]
    window = f"{float(rail.window_used[PEAK]) * 100:.0f} % of the window"
    lean = float(rail.lambda_factor[PEAK])
    element = Element(
        "direct rail",
        f"Rail {number + 1}, {pressure}" if rails > 1 else f"Direct rail {pressure}",
        ("", window, state if lean <= 1.0005 else f"λ {text(lean, 'lean_factor')}"),
        (
            ("rail", pressure),
            ("state", state),
            ("window", window),
            ("mixture", text(lean, "lean_factor")),
            ("injectors", high.injectors.part.name),
        ),
        "direct injectors" if number == 0 else None,
    )
    body = f'<rect class="fill" x="{x}" y="{y - 8}" width="{RAIL}" height="16" rx="3"/>' + sprays(x, y, RAIL, injectors)
    return symbol(element, x + RAIL / 2, y, body, worst)


def _rails_of(verdict: TargetVerdict) -> list[list[int]]:
    high = verdict.option.high_side
    assert high is not None
    if high.rails == "common":
        return [list(range(len(high.pumps)))]
    return [[n for n, pump in enumerate(high.pumps) if pump.bank == bank + 1] for bank in range(high.banks)]


def _thirstiest(verdict: TargetVerdict) -> int:
    """The pump whose inlet has least of what it needs."""
    direct = verdict.points.direct
    assert direct is not None
    spare = [float(pump.head_kpa[PEAK] - pump.head_needed_kpa[PEAK]) for pump in direct.pumps]
    return spare.index(min(spare))
