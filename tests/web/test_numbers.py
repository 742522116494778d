"""Every number of a table opens, on the number that stands in the table."""

import re

import pytest
from bs4 import BeautifulSoup

from iron_gulp.core.account.numbers import NOTHING_MOVES
from tests.draws import LONG

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
)
QUICK = ("ceilings/envelope", "ceilings/permitted", "chance/dots", "chance/corners", "injectors/idle", "season", "pump")
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


def buttons(reader, address):
    answer = reader.get(address)
    assert answer.status_code in (200, 204), address
    return BeautifulSoup(answer.text, "html.parser").select("button.number")


@pytest.mark.parametrize("name", ["Curlew", "Dunlin", "Fieldfare", "Saltern"] if LONG else ["Curlew"])
def test_every_number_opens_on_itself(reader, reading, name):
    build = next(row.id for row in reading.garage.page().rows if row.name.startswith(name))
    kinds = set() if LONG else {"chance", "share", "arranged", "permitted-power", "size-idle"}
    for piece in (*PIECES, "pump") if LONG else QUICK:
        for number, button in enumerate(buttons(reader, f"/builds/{build}/{piece}")):
            kind = button["hx-get"].split("/number/")[1].split("?")[0]
            if kind in kinds and (number % 7 or not LONG or kind == "chance"):
                continue
            kinds.add(kind)
            answer = reader.get(button["hx-get"])
            assert answer.status_code == 200, (button["hx-get"], answer.text[:200])
            view = BeautifulSoup(answer.text, "html.parser")
            if "none left" in button.text or "than" in button.text:
                continue
            shown = plain(button.text if kind != "chance" else button.text.split(" of ")[0])
            found = plain(view.select_one(".explain-value").text.split("\n")[0])[0]
            assert abs(found - shown[0]) <= coarse(shown[1]) * 1.2, (button["hx-get"], button.text, view.text)
            moves = [row.select("td")[2:] for row in view.select(".explain-table tbody tr")]
            if kind not in ("share", "bracket"):
                moved = any(one.text != "–" for row in moves for one in row)
                assert moved or NOTHING_MOVES in view.text, button["hx-get"]
    everywhere = {"load", "ceiling", "limit", "chance"}
    assert everywhere | ({"load-on", "pulse", "permitted-boost"} if name == "Curlew" else set()) <= kinds


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
