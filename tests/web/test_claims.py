"""Claims as printed: what is not said stays open, what is said closes it; a flow with and without its pressure."""

import pytest

from tests.web.parsing import parsed


@pytest.fixture
def ask(reader, reading):
    number = next(row.id for row in reading.garage.page().rows if row.name == "Curlew")

    def answer(key, **typed):
        got = reader.get(f"/builds/{number}/calculator/{key}", params={"option": "as-built", "target": "hill", **typed})
        assert got.status_code == 200
        return parsed(got.text)

    return answer


def said(page):
    return page.select_one(".mix-answer").text


def test_a_power_with_nothing_left_open_means_one_flow(ask):
    asked = {"power_kw": "300 kW", "claimed_at": "crank", "claimed_breathing": "boosted", "claimed_ethanol_pct": "E85"}
    whole = said(ask("claim", **asked))
    assert "It leaves nothing open." in whole
    least, most = (
        whole.split("means ")[1].split(" at the least")[0],
        whole.split("leaves open, ")[1].split(" at the most")[0],
    )
    assert least == most
    assert "Most matters, unsaid: the fuel" in said(ask("claim", **{**asked, "claimed_ethanol_pct": ""}))
    assert "wheels or crank" in said(ask("claim", **{**asked, "claimed_at": "not said"}))
    assert "what its driveline loses" in said(ask("claim", **{**asked, "claimed_at": "wheels"}))
    page = ask("claim", **asked)
    assert page.select_one("select[name=claimed_at] option[selected]").text == "crank"


def test_a_flow_without_a_pressure_may_mean_a_range_and_with_one_is_held_against_it(ask):
    assert "Type the flow" in said(ask("flow-claim"))
    open_ = said(ask("flow-claim", printed_of="pump", printed_l_h="255"))
    assert "may mean any of them from its free flow" in open_
    more = said(ask("flow-claim", printed_of="pump", printed_l_h="255", printed_kpa="300 kPa"))
    assert "no contradiction" in more
    less = said(ask("flow-claim", printed_of="pump", printed_l_h="255", printed_kpa="700 kPa"))
    assert "short of what is printed" in less
    weak = said(ask("flow-claim", printed_of="pump", printed_l_h="255", printed_v="9 V"))
    assert "9" in weak.split("at ")[1]
    assert "at no pressure up to" in said(ask("flow-claim", printed_of="pump", printed_l_h="9000"))
    for part in ("regulator", "filter", "feed line"):
        assert "from" in said(ask("flow-claim", printed_of=part, printed_l_h="300"))


def test_its_numbers_open_and_wrong_ones_are_told(ask, reader):
    page = ask("flow-claim", printed_of="filter", printed_l_h="300", printed_kpa="20 kPa")
    for button in page.select("button.number"):
        typed = {"printed_of": "filter", "printed_l_h": "300", "printed_kpa": "20 kPa"}
        assert "option=as-built" in button["hx-get"]
        assert reader.get(button["hx-get"], params=typed).status_code == 200
    assert ask("flow-claim", printed_l_h="many").select_one(".field-error")
    assert ask("flow-claim", printed_of="a hat", printed_l_h="300").select_one("select option[selected]").text


@pytest.mark.parametrize(
    ("page", "part"),
    [("pump", "pump"), ("feed", "filter"), ("regulator", "regulator"), ("injectors", "injector")],
)
def test_each_bench_begins_with_its_own_part(reader, reading, page, part):
    number = next(row.id for row in reading.garage.page().rows if row.name == "Curlew")
    shown = parsed(reader.get(f"/builds/{number}/{page}?option=as-built").text)
    assert part in shown.select_one("#calc-flow-claim select option[selected]").text
