"""Every number of a table opens, on the number that stands in the table."""

import math
import re
from urllib.parse import parse_qs, urlsplit

import pytest

from iron_gulp.core.account.numbers import NOTHING_MOVES
from iron_gulp.units import BenchUnits
from iron_gulp.web.benches.fuel.calculators import CALCULATORS
from iron_gulp.web.benches.injectors.calculators import INJECTOR_CALCULATORS
from iron_gulp.web.parts.calculators import opened
from tests.draws import LONG
from tests.web.parsing import parsed

PIECES = (
    "ceilings/envelope",
    "ceilings/envelope?axis=rpm",
    "ceilings/envelope?rising=true",
    "ceilings/permitted",
    "ceilings/fuels",
    "chance/dots",
    "chance/matters",
    "chance/brackets",
    "chance/corners",
    "injectors/idle",
    "injectors/window",
    "season",
    "references",
    "values/sheet",
    "injectors",
    "fuel",
)
QUICK = (
    "ceilings/envelope",
    "ceilings/permitted",
    "chance/dots",
    "chance/corners",
    "injectors/idle",
    "season",
    "values/sheet",
    "fuel",
)
CASES = ("measured-set", "both-sets", "fill", "arrives")
NUMBER = re.compile(r"[−+]?\d[\d\u202f]*(?:\.\d+)?")


def plain(text):
    """The last number of a text: what comes before it is words."""
    found = NUMBER.findall(text)
    return float(found[-1].replace("\u202f", "").replace("−", "-")), found[-1]


def coarse(text):
    """Half of the last digit that is shown."""
    digits = text.replace("\u202f", "").lstrip("+−")
    if "." in digits:
        return 0.5 * 10 ** -len(digits.split(".")[1])
    return 0.5 * 10 ** max(len(digits.rstrip("0")) and len(digits) - max(len(digits.rstrip("0")), 3), 0)


def kind_of(address):
    """Which number an address opens: its kind, and its case where that is one of a few."""
    if "/number/" not in address:
        return address.split("?")[0].split("/calculator/")[1]
    parts = urlsplit(address)
    kind, case = parts.path.split("/number/")[1], parse_qs(parts.query).get("case", [""])[0]
    return f"{kind} {case}" if kind in CASES else kind


def typed_around(button):
    """What stands in the form that a button sends along."""
    form = button.find_parent("form") if button.get("hx-include") == "closest form" else None
    return {field["name"]: field["value"] for field in form.select("input[name]")} if form else {}


def buttons(reader, address):
    answer = reader.get(address)
    assert answer.status_code in (200, 204), address
    return parsed(answer.text).select("button.number")


@pytest.mark.parametrize("name", ["Curlew", "Dunlin", "Fieldfare", "Saltern"] if LONG else ["Curlew"])
def test_every_number_opens_on_itself(reader, reading, name):
    build = next(row.id for row in reading.garage.page().rows if row.name.startswith(name))
    kinds = set() if LONG else {"chance", "share", "permitted-boost", "permitted-power"}
    own = ("injectors?option=two-sets",) if name == "Curlew" else ()
    for piece in (*PIECES, "pump", *own) if LONG else (*QUICK, *own):
        for number, button in enumerate(buttons(reader, f"/builds/{build}/{piece}")):
            kind = kind_of(button["hx-get"])
            if kind in kinds and (number % 7 or not LONG or kind == "chance"):
                continue
            kinds.add(kind)
            answer = reader.get(button["hx-get"], params=typed_around(button) or None)
            assert answer.status_code == 200, (button["hx-get"], answer.text[:200])
            view = parsed(answer.text)
            if "none left" in button.text or "than" in button.text:
                continue
            shown = plain(button.text if kind != "chance" else button.text.split(" of ")[0])
            found = plain(view.select_one(".explain-value").text.split("\n")[0])[0]
            assert abs(found - shown[0]) <= coarse(shown[1]) * 1.2, (button["hx-get"], button.text, view.text)
            moves = [row.select("td")[2:] for row in view.select(".explain-table tbody tr")]
            if kind not in ("share", "bracket", "sheet"):
                moved = any(one.text != "–" for row in moves for one in row)
                assert moved or NOTHING_MOVES in view.text, button["hx-get"]
    everywhere = {"load", "ceiling", "limit", "chance", "gain"}
    sheet = {"sheet", "arrives rail load", "mixing/strong_l", "proof/off_points"}
    if name == "Curlew":
        sheet |= {"measured-set error", "both-sets step", "fill off", "drain/keep_l", "swap/trim_pct", "claim/carried_kw"}
    assert sheet <= kinds
    assert everywhere | ({"load-on", "pulse", "permitted-boost", "runs-on"} if name == "Curlew" else set()) <= kinds


@pytest.mark.parametrize(
    "address",
    [
        "number/nothing",
        "number/load?row=98",
        "number/load?row=-1",
        "number/bracket?case=best",
        "number/share?case=nothing",
        "number/pulse?case=lukewarm",
        "number/fuel-power?fuel=water",
        "number/ceiling?component=needles",
        "number/arranged?case=rail+north",
        "number/arranged?case=rail+idle&row=77",
        "number/size-load?at=0",
        "number/limit?at=500",
        "number/limit?axis=rpm&at=0",
        "number/limit?axis=base_kpa&at=99999",
        "number/permitted-boost?at=100.5",
        "number/load-on?at=300",
        "number/load-on?axis=rpm&at=3000&target=hill",
    ],
)
def test_what_is_no_number_is_not_there(reader, reading, address):
    build = next(row.id for row in reading.garage.page().rows if row.name == "Curlew")
    assert reader.get(f"/builds/{build}/{address}").status_code == 404
    assert reader.get(f"/builds/{build}/number/limit?at=nan").status_code == 404
    assert reader.get(f"/builds/{build}/number/limit?axis=width").status_code == 404


def test_a_value_of_the_sheet_says_whence_it_comes_and_what_moves_it(reader, reading):
    build = next(row.id for row in reading.garage.page().rows if row.name.startswith("Curlew"))

    def view(case):
        return parsed(reader.get(f"/builds/{build}/number/sheet?case={case}").text)

    entered = view("displacement_l")
    assert "as entered" in entered.text
    assert not entered.select(".explain-table tbody tr")
    static = {
        row.select("td")[0].text.strip(): row.select("td") for row in view("static_at_base_cc_min").select("tbody tr")
    }
    moved = next(cells for label, cells in static.items() if "Base pressure" in label)
    less, more = (plain(cell.text)[0] for cell in moved[2:4])
    assert more / less == pytest.approx((1.1 / 0.9) ** 0.5, rel=2e-3)
    assert reader.get(f"/builds/{build}/number/sheet?case=reference").status_code == 404
    assert reader.get(f"/builds/{build}/number/sheet?case=needles").status_code == 404


EVERY = {**CALCULATORS, **INJECTOR_CALCULATORS}
PRICED = {"price_strong": "1.4", "price_weak": "1.9"}


@pytest.mark.parametrize(("key", "typed"), [(key, typed) for key in EVERY for typed in ({}, PRICED)])
def test_a_formula_of_a_calculator_gives_its_number(key, typed):
    """The formula as it is shown, worked out with the values beside it, is the number."""
    calculator, units = EVERY[key], BenchUnits()
    seen = 0
    for name in calculator.opens:
        try:
            found = opened(calculator, name, typed, units)
        except KeyError:
            continue
        right = found.formula.split("=", 1)[-1].split(", at ")[0]
        sums = right.replace("·", "*").replace("÷", "/").replace("−", "-").replace("√", "math.sqrt")
        if re.search(r"[a-z]{2,}", sums.replace("math.sqrt", "")):
            continue
        worth = eval(sums, {"math": math}, {one.symbol: one.value for one in found.inputs})
        share = 100.0 if name == "trim_pct" else 1.0
        assert worth * share == pytest.approx(found.value, rel=1e-9), (name, found.formula)
        seen += 1
    assert seen or key == "cans"
