"""The plumbing diagram, drawn from the model with ISO 1219-style symbols; nothing is placed by hand for a build.

Elements come in flow order; the layout gives each a column. Pump groups share a column and stack. The return runs
underneath, back to the tank. Everything is black line work with words, so it prints and exports as it is.
"""

from dataclasses import replace

from markupsafe import Markup, escape

from iron_gulp.core.judge import TargetVerdict
from iron_gulp.core.model import InLine, Option, Pickup, in_branch, restrictions
from iron_gulp.core.physics import M3_S_PER_L_H, floats
from iron_gulp.core.solve import PEAK, State, passage_loss_kpa, pump_doing, rails_joined, through_feed_m3_s
from iron_gulp.core.study import legs

from ...parts.path import limit_words
from .high_side import height_of, high_side
from .symbols import STYLE, Drawing, Element, Mark, body_of, symbol
from .words import Text, line_element, size_of, sprays

COLUMN, ROW, LEFT = 128, 132, 96
SMALLEST = 0.82  # words are not drawn smaller than this; a wider system scrolls
NARROWEST = 1180.0  # smaller systems are drawn at the same scale, not blown up


def draw(verdict: TargetVerdict, injectors: tuple[int, int], text: Text, live: bool = True) -> Markup:
    """The diagram at the judged operating point as SVG, with so many port and direct injectors. `text(value, name)`
    gives a quantity in bench units.
    """
    option = verdict.option
    arrangement = option.regulator.arrangement
    first = verdict.first_out
    worst = Mark(first.component, limit_words(first))
    feed = _feed(option, verdict, text)
    rows = max(len(option.pumps), 0 if option.split is None else len(option.split.branches))
    half = (rows - 1) * ROW / 2
    above = max(height_of(verdict) - half, 0.0)
    out = Drawing(mid=80 + half + above, low=80 + 2 * half + 120 + above)
    x = _tank(out, option, verdict, text, worst)
    x = _column(out, x, _suction(option, verdict, text), worst)
    x = _pumps(out, x, verdict, text, worst)
    regulator = _regulator_element(option, verdict, text)
    if arrangement == "carburettor, deadhead":
        feed.append(regulator)
    for element in feed:
        if element.kind == "line" and arrangement == "bypass near the tank":
            x = _bypass(out, x, regulator, worst, verdict, text, last=False)
        x = _column(out, x, (element,), worst)
    over = high_side(out, x, verdict, injectors[1], text, worst) if verdict.points.direct is not None else x
    if option.high_side is None or option.injectors is not None:
        rails = _rails if option.split else _rail
        x = rails(out, x, verdict, injectors[0], text, worst)
    out.add(f'<path d="M{x} {out.mid}H{max(x, over)}"/>' if over > x else "")
    x = max(x, over)
    if arrangement in ("bypass after the rail", "carburettor, bypass"):
        x = _bypass(out, x, regulator, worst, verdict, text, last=True)
    width, height = max(x + 60, NARROWEST), out.low + 76
    title = f"{option.name}: {verdict.target.name}"
    # On the bench it fills its place but keeps its words readable; as a file it has a size and a ground of its own.
    sized = f'class="diagram-svg" style="min-width:{width * SMALLEST:.0f}px"'
    ground = ""
    if not live:
        sized = f'width="{width:.0f}" height="{height:.0f}"'
        ground = f'<rect {sized} fill="#fff"/>'
    head = (
        f'<svg xmlns="http://www.w3.org/2000/svg" {sized} viewBox="0 0 {width:.0f} {height:.0f}" role="group" '
        f'aria-label="Plumbing diagram, {escape(title)}"><style>{STYLE}</style>{ground}<g class="d">'
    )
    return Markup(head + "".join(out.parts) + "</g></svg>")


def _column(out: Drawing, x: float, elements: tuple[Element, ...], worst: Mark) -> float:
    """Elements on the main line, one column each."""
    mid = out.mid
    for element in elements:
        centre = x + COLUMN / 2
        out.add(f'<path d="M{x} {mid}H{x + COLUMN}"/>')
        out.add(symbol(element, centre, mid, body_of(element.kind, centre, mid), worst))
        x += COLUMN
    return x


def _tank(out: Drawing, option: Option, verdict: TargetVerdict, text: Text, worst: Mark) -> float:
    """Tank, and lift stage with surge tank when fitted; gives the x where the main suction starts."""
    mid, low = out.mid, out.low
    tank = Element(
        "tank",
        "Tank",
        (text(option.tank.volume_l, "volume_l"),),
        (
            ("volume", text(option.tank.volume_l, "volume_l")),
            ("pressure", text(option.tank.pressure_kpa, "pressure_kpa")),
        ),
        None if option.lift else "suction",
    )
    x, y = LEFT, low + 8
    open_top = f'<path class="thin" d="M{x - 44} {y - 20}V{y + 26}H{x + 44}V{y - 20}"/>'
    out.add(symbol(tank, x, y, open_top, worst, name_dy=79, words_dy=18))
    if option.pickup is not None:
        out.add(_pickup(option.pickup, verdict, text, x - 24, y + 12))
    if option.lift is None:
        out.add(f'<path d="M{x - 24} {y + 12}V{mid}H{x + 24}"/>')
        return x + 24
    lift = option.lift
    solved = verdict.lift
    assert solved is not None
    element = Element(
        "pump",
        "Lift pump" if lift.count == 1 else f"{lift.count} lift pumps",
        (text(solved.flow_m3_s / M3_S_PER_L_H, "flow_l_h"), size_of(lift.line, text)),
        (
            ("part", lift.part.name),
            ("line", lift.line.part.name),
            ("flow", text(solved.flow_m3_s / M3_S_PER_L_H, "flow_l_h")),
            ("voltage", text(solved.volts, "pump_v")),
            ("current", text(solved.amps, "current_a")),
        ),
        "lift",
    )
    out.add(f'<path d="M{x - 24} {y + 12}V{mid}H{x + 96}"/>')
    out.add(symbol(element, x + 48, mid, body_of("pump", x + 48, mid), worst))
    surge_x = x + 48 + COLUMN
    surge = Element(
        "tank",
        "Surge tank",
        (text(lift.surge_l, "surge_l"),),
        (("volume", text(lift.surge_l, "surge_l")), ("return goes to the", lift.return_to)),
        "suction",
    )
    out.add(f'<path d="M{x + 96} {mid}H{surge_x - 26}"/>')
    body = f'<path class="paper" d="M{surge_x - 26} {mid - 28}V{mid + 28}H{surge_x + 26}V{mid - 28}"/>'
    out.add(symbol(surge, surge_x, mid, body, worst, words_dx=40))
    # The overflow leaves at the top of the surge tank and goes back to the main tank.
    out.add(f'<path class="pilot" d="M{surge_x - 26} {mid - 20}h-14V{low - 34}H{x + 30}V{low - 12}"/>')
    out.add(f'<text class="q" x="{surge_x - 70}" y="{low - 40}">overflow</text>')
    return surge_x + 26


def _pickup(pickup: Pickup, verdict: TargetVerdict, text: Text, x: float, y: float) -> str:
    """The end of the pipe in the tank; its words stand in its figures only, the tank has little room."""
    leg = next(leg for leg in legs(verdict) if leg.name == "Pickup")
    figures = (
        ("bore", text(pickup.bore_mm, "bore_mm")),
        ("flow", text(leg.flow_m3_s / M3_S_PER_L_H, "flow_l_h")),
        ("drop", text(leg.drop_kpa, "drop_kpa")),
    )
    sock = f'<path class="pilot" d="M{x - 9} {y - 16}h18v18h-18z"/>'
    return symbol(Element("pickup", pickup.kind.capitalize(), (), figures), x, y, sock, Mark("engine", ""), named=False)


def _suction(option: Option, verdict: TargetVerdict, text: Text) -> tuple[Element, ...]:
    hyd, suction, found = verdict.points.hydraulics, option.suction, []
    inlet = ("pump inlet", text(float(hyd.inlet_kpa[PEAK]), "inlet_kpa"))
    if suction.line is not None:
        words = (
            suction.line.part.size or text(suction.line.part.bore_mm, "bore_mm"),
            text(suction.line.length_m, "length_m"),
        )
        found.append(Element("line", "Suction line", words, (("part", suction.line.part.name), inlet), "suction"))
    if suction.filter is not None:
        part = suction.filter.part
        found.append(
            Element("filter", "Pre-filter", (text(part.grade_um, "grade_um"),), (("part", part.name), inlet), "suction")
        )
    return tuple(found)


def _pumps(out: Drawing, x: float, verdict: TargetVerdict, text: Text, worst: Mark) -> float:
    """Pump groups stacked between a splitting and a joining line."""
    option, hyd = verdict.option, verdict.points.hydraulics
    rows = len(option.pumps)
    mid = out.mid
    top, bottom = mid - (rows - 1) * ROW / 2, mid + (rows - 1) * ROW / 2
    right = x + COLUMN * 1.7
    if rows > 1:
        out.add(f'<path d="M{x + 8} {top}V{bottom}M{right - 8} {top}V{bottom}"/>')
    out.add(f'<path d="M{x} {mid}H{x + 8}M{right - 8} {mid}H{right}"/>')
    controlled = option.regulator.arrangement == "returnless, speed-controlled"
    for index, group in enumerate(option.pumps):
        y = top + index * ROW
        doing = pump_doing(option, hyd, index, PEAK)
        flow = text(float(hyd.group_flow_m3_s[index, PEAK]) / M3_S_PER_L_H, "flow_l_h")
        volts = text(float(hyd.volts[index, PEAK]), "pump_v")
        speed = (("speed", text(float(hyd.speed[PEAK]) * 100, "speed_pct")),) if controlled else ()
        element = Element(
            "speed pump" if controlled else "pump",
            text.named(f"{group.count} × {group.part.name}"),
            {"off": ("off",), "running": (flow, volts)}.get(doing, (doing, volts)),
            (
                ("part", group.part.name),
                ("state", doing),
                ("flow", flow),
                ("rise", text(float(hyd.pump_rise_kpa[PEAK]), "rise_kpa")),
                ("voltage", volts),
                ("current of one", text(float(hyd.amps[index, PEAK]), "current_a")),
                *speed,
            ),
            "pumps" if index == 0 else None,
            doing != "off",
        )
        at = x + 8 + COLUMN * 0.62
        out.add(f'<path d="M{x + 8} {y}H{right - 8}"/>')
        out.add(symbol(element, at, y, body_of(element.kind, at, y), worst))
        out.add(body_of("check", right - 34, y))
    return right


def _feed(option: Option, verdict: TargetVerdict, text: Text) -> list[Element]:
    hyd, found = verdict.points.hydraulics, []
    passing = float(through_feed_m3_s(option, hyd)[PEAK])
    flow, pumped = (text(one / M3_S_PER_L_H, "flow_l_h") for one in (passing, float(hyd.supply_m3_s[PEAK])))
    if option.filter is not None:
        part = option.filter.part
        drop = text(float(hyd.filter_kpa[PEAK]), "drop_kpa")
        figures = (("part", part.name), ("drop", drop), ("grade", text(part.grade_um, "grade_um")), ("flow", pumped))
        found.append(Element("filter", "Filter", (text(part.grade_um, "grade_um"), f"−{drop}"), figures))
    found += [_inline_element(one, verdict, passing, text) for one in restrictions(option, "feed")]
    found.append(line_element("Feed", option.feed, flow, text(float(hyd.feed_kpa[PEAK]), "drop_kpa"), text, "feed"))
    return found


def _inline_element(one: InLine, verdict: TargetVerdict, flow_m3_s: float, text: Text) -> Element:
    fuel = verdict.fuel
    lost = passage_loss_kpa(one.element, floats([flow_m3_s]), fuel.density_kg_m3, fuel.viscosity_mpa_s)
    bore, drop = text(one.element.bore_mm, "bore_mm"), text(float(lost[0]), "drop_kpa")
    flow = text(flow_m3_s / M3_S_PER_L_H, "flow_l_h")
    return Element(one.kind.symbol, one.title, (bore, f"−{drop}"), (("bore", bore), ("drop", drop), ("flow", flow)))


def _duty(verdict: TargetVerdict, text: Text) -> str:
    """Duty of the first set, and of a second one."""
    points = verdict.points
    first = text(float(points.duty[PEAK]) * 100, "duty_pct")
    return first if points.second is None else f"{first} + {text(float(points.second.duty[PEAK]) * 100, 'duty_pct')}"


def _rail(out: Drawing, x: float, verdict: TargetVerdict, injectors: int, text: Text, worst: Mark) -> float:
    """The rail with its injectors."""
    mid = out.mid
    hyd, option = verdict.points.hydraulics, verdict.option
    if option.carburettor is not None:
        return _carburettor(out, x, verdict, text, worst)
    assert option.injectors is not None
    width, rail = 170, text(float(hyd.rail_kpa[PEAK]), "rail_kpa")
    across = text(float(hyd.differential_kpa[PEAK]), "differential_kpa")
    duty = _duty(verdict, text)
    arrows = sprays(x + 9, mid, width - 18, injectors)
    element = Element(
        "rail",
        f"Rail {rail}" if option.rail.count == 1 else f"{option.rail.count} rails {rail}",
        ("", f"{across} across", f"{duty} duty"),
        (
            ("rail", rail),
            ("set", text(float(hyd.set_kpa[PEAK]), "set_kpa")),
            ("across the injectors", across),
            ("injectors", option.injectors.part.name),
            ("duty", duty),
            ("state", State(int(hyd.state[PEAK])).name.lower().replace("_", " ")),
        ),
        "injectors",
    )
    body = f'<rect class="paper" x="{x + 5}" y="{mid - 8}" width="{width - 10}" height="16" rx="3"/>' + arrows
    lifted = -12.0 * (option.rail.count - 1)
    for extra in range(1, option.rail.count):
        # Further rails are fed through a split and stand behind the first.
        y = mid - 8 - 12 * extra
        body = f'<path d="M{x} {mid}V{y + 4}h8m{width - 16} 0h8V{mid}"/>' + (
            f'<rect class="paper" x="{x + 8}" y="{y}" width="{width - 16}" height="8" rx="3"/>' + body
        )
    out.add(
        f'<path d="M{x} {mid}h{width}"/>',
        symbol(element, x + width / 2, mid, body, worst, name_dy=lifted),
    )
    return x + width


def _rails(out: Drawing, x: float, verdict: TargetVerdict, injectors: int, text: Text, worst: Mark) -> float:
    """The feed parted to several rails, one row each, joined again where the regulator sits behind them."""
    option, hyd, mid = verdict.option, verdict.points.hydraulics, out.mid
    assert option.split is not None
    assert option.injectors is not None
    branches, joined = option.split.branches, rails_joined(option)
    found = {leg.name: leg for leg in legs(verdict)}
    top = mid - (len(branches) - 1) * ROW / 2
    rail_x, width = x + 12 + COLUMN, 150
    end = rail_x + width + 12
    rail, across = (
        text(float(hyd.rail_kpa[PEAK]), "rail_kpa"),
        text(float(hyd.differential_kpa[PEAK]), "differential_kpa"),
    )
    duty = _duty(verdict, text)
    out.add(f'<path d="M{x} {mid}h12M{x + 12} {top}V{top + (len(branches) - 1) * ROW}"/>')
    if joined:
        out.add(f'<path d="M{end} {top}V{top + (len(branches) - 1) * ROW}M{end} {mid}h12"/>')
    for number, branch in enumerate(branches, start=1):
        y, leg = top + (number - 1) * ROW, found[f"Branch {number}"]
        flow, drop = text(leg.flow_m3_s / M3_S_PER_L_H, "flow_l_h"), text(leg.drop_kpa, "drop_kpa")
        named = f"Branch {number}" + (" with the ethanol sensor" if number == 1 and in_branch(option) else "")
        line = line_element(named, branch.line, flow, drop, text, "feed")
        at = x + 12 + COLUMN / 2
        out.add(f'<path d="M{x + 12} {y}H{rail_x}"/>' + (f'<path d="M{rail_x + width} {y}H{end}"/>' if joined else ""))
        out.add(symbol(replace(line, component=None), at, y, body_of("line", at, y), worst))
        element = Element(
            "rail",
            f"Rail {number}, {rail}",
            ("", across + " across", duty + " duty"),
            (
                ("rail", rail),
                ("set", text(float(hyd.set_kpa[PEAK]), "set_kpa")),
                ("across the injectors", across),
                ("injectors", option.injectors.part.name),
                ("duty", duty),
                ("state", State(int(hyd.state[PEAK])).name.lower().replace("_", " ")),
            ),
            "injectors" if number == 1 else None,
        )
        own = injectors // len(branches) + (number <= injectors % len(branches))
        rail_body = f'<rect class="paper" x="{rail_x}" y="{y - 8}" width="{width}" height="16" rx="3"/>'
        body = rail_body + sprays(rail_x, y, width, own)
        out.add(symbol(element, rail_x + width / 2, y, body, worst))
    return end + 12 if joined else end


def _carburettor(out: Drawing, x: float, verdict: TargetVerdict, text: Text, worst: Mark) -> float:
    """A float chamber with its needle and the engine's draught."""
    fitted, hyd, mid = verdict.option.carburettor, verdict.points.hydraulics, out.mid
    assert fitted is not None
    at, inlet = x + COLUMN / 2, text(float(hyd.rail_kpa[PEAK]), "inlet_kpa")
    flow = text(float(hyd.delivered_m3_s[PEAK]) / M3_S_PER_L_H, "flow_l_h")
    element = Element(
        "carburettor",
        fitted.name,
        ("", inlet, flow),
        (
            ("inlet", inlet),
            ("flow", flow),
            ("needles", str(fitted.needles)),
            ("seat", text(fitted.needle_mm, "needle_mm")),
            ("floats hold against", text(fitted.highest_kpa, "highest_kpa")),
        ),
        "needles" if worst.component != "float" else "float",
    )
    body = (
        f'<path class="paper" d="M{at - 26} {mid - 22}H{at + 26}V{mid + 24}H{at - 26}z"/>'
        f'<path class="thin" d="M{at - 26} {mid + 4}q6 -5 13 0t13 0t13 0t13 0"/>'
        f'<circle class="paper" cx="{at}" cy="{mid}" r="7"/>'
        f'<path class="fill" d="M{at - 26} {mid - 14}l10 4l-10 4z"/>'
    )
    out.add(f'<path d="M{x} {mid - 10}H{at - 26}M{x} {mid}v-10"/>', symbol(element, at, mid, body, worst))
    if verdict.option.regulator.arrangement == "carburettor, bypass":
        out.add(f'<path d="M{x} {mid}V{mid - 86}H{x + COLUMN}V{mid}"/>')
    return x + COLUMN


def _regulator_element(option: Option, verdict: TargetVerdict, text: Text) -> Element:
    regulator, hyd = option.regulator, verdict.points.hydraulics
    base = text(regulator.base_kpa, "base_kpa")
    bypass = text(float(hyd.bypass_m3_s[PEAK]) / M3_S_PER_L_H, "bypass_l_h")
    return Element(
        "regulator",
        "Regulator",
        (f"base {base}", f"passes {bypass}"),
        (
            ("part", regulator.part.name),
            ("base", base),
            ("reference", regulator.reference),
            ("set now", text(float(hyd.set_kpa[PEAK]), "set_kpa")),
            ("passes", bypass),
            ("lowest rail at this flow", text(float(hyd.floor_kpa[PEAK]), "floor_kpa")),
        ),
        "regulator",
    )


def _bypass(
    out: Drawing, x: float, element: Element, worst: Mark, verdict: TargetVerdict, text: Text, last: bool
) -> float:
    """The regulator on the line and its return underneath, back to the tank or surge tank."""
    option, hyd, mid, low = verdict.option, verdict.points.hydraulics, out.mid, out.low
    centre = x + COLUMN / 2
    through = f"M{x} {mid}H{centre}" if last else f"M{x} {mid}H{x + COLUMN}"
    out.add(f'<path d="{through}"/>')
    to_surge = option.lift is not None and option.lift.return_to == "surge tank"
    end = LEFT + 48 + COLUMN if to_surge else LEFT + 16
    up = f"V{mid + 28}" if to_surge else f"V{low + 20}"
    out.add(f'<path d="M{centre} {mid + 20}V{low}H{end}{up}"/>')
    out.add(symbol(element, centre, mid, body_of("regulator", centre, mid), worst, words_dx=62))
    if option.regulator.reference != "atmosphere":
        out.add(f'<path class="pilot" d="M{centre - 12} {mid - 20}V{mid - 32}H{centre + 86}V{mid - 58}"/>')
        out.add(f'<text class="q" x="{centre + 86}" y="{mid - 64}">manifold</text>')
    flow = text(float(hyd.bypass_m3_s[PEAK]) / M3_S_PER_L_H, "bypass_l_h")
    line = line_element("Return", option.return_line, flow, text(float(hyd.return_kpa[PEAK]), "drop_kpa"), text, "return")
    at = (centre + end) / 2
    out.add(symbol(line, at, low, f'<path class="fill" d="M{at - 8} {low}l14 -6v12z"/>', worst, name_dy=28, words_dy=-18))
    for index, standing in enumerate(restrictions(option, "return")):
        place = at - 150 - index * 130
        one = _inline_element(standing, verdict, float(hyd.bypass_m3_s[PEAK]), text)
        out.add(symbol(one, place, low, body_of(one.kind, place, low), worst, name_dy=5, words_dy=0))
    return x + COLUMN
