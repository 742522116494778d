"""Three jobs from start to choice: the car as it stands, a direct-injected one without a return, a road bought."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_high_side import DUNLIN
from tests.browser.test_journey import settle
from tests.draws import LONG

pytestmark = [pytest.mark.browser, pytest.mark.skipif(not LONG, reason="sizes whole systems")]


def new_build(page, **typed):
    page.goto("/new")
    for label, text in typed.items():
        field = page.get_by_label(label.replace("_", " "), exact=True)
        if field.evaluate("one => one.tagName") == "SELECT":
            field.select_option(text)
        else:
            field.fill(text)


def size(page):
    page.get_by_role("button", name="Size it for me").click()
    page.wait_for_url("**/ask*", timeout=120_000)


def test_a_car_as_it_stands_keeps_its_injectors_within_a_budget(page):
    new_build(page, Call_it="Whinchat", Engine="2.0 L", Cylinders="4", Power_wanted="190 kW")
    page.get_by_text("What is fitted, what must stay").click()
    page.get_by_label("Injectors fitted", exact=True).fill("630 cc/min")
    page.get_by_label("The injectors", exact=True).select_option("must stay")
    page.get_by_label("Pump fitted", exact=True).fill("160 L/h")
    page.get_by_label("Budget, all in", exact=True).fill("3000")
    size(page)
    why = page.locator(".why-list").first
    expect(why).to_contain_text("Injector as found")
    expect(why).to_contain_text("It stays, as asked.")
    # The car as it stands is there beside it, and only what is bought is paid.
    expect(page.locator(".chip-option", has_text="As it stands")).to_have_count(1)
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Compare").click()
    page.wait_for_selector("#compare-table .compared")
    costs = page.locator("#compare-table").inner_text().replace("\u202f", "").replace("\u00a0", " ")
    euros = [int(one) for one in re.findall(r"(\d+) €", costs)]
    assert any(0 < one <= 3000 for one in euros)


def test_a_direct_injected_six_is_fed_without_a_return(page):
    new_build(page, Call_it="Garganey", Engine="3.0 L", Cylinders="6", Power_wanted="330 kW")
    page.get_by_label("Fed by", exact=True).select_option("direct injection")
    page.get_by_label("On", exact=True).select_option("half blend, E50")
    page.get_by_label("Fuel return", exact=True).select_option("returnless")
    size(page)
    expect(page.locator(".why-list").first).to_contain_text("Nothing returns")
    expect(page.locator(".why-list").first).to_contain_text("Cam pump")
    expect(page.locator(".target-chips .mark-over")).to_have_count(0)
    expect(page.locator(".station-high")).to_have_count(1)
    page.locator(".station-high").click()
    expect(page.locator(".severity-stop, .severity-check")).to_have_count(0)


def test_a_road_is_searched_as_a_whole_opened_and_chosen_with_its_price(page):
    page.goto(f"/builds/{DUNLIN}/road?option=as-found&target=blend")
    expect(page.get_by_text("cheapest whole system")).to_be_visible(timeout=180_000)
    card = page.locator(".road-chosen")
    expect(card.locator("h3")).to_contain_text("carries every target")
    name, price = card.locator("h3").inner_text(), card.locator("dd strong").first.inner_text()
    card.get_by_role("button", name="Open as an option").click()
    settle(page)
    title = name.split("carries")[0].strip()
    expect(page.locator(".chip-option", has_text=title)).to_have_count(1)
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Compare").click()
    page.wait_for_selector("#compare-table .compared")
    # One bill: the same sum on both pages.
    expect(page.locator("#compare-table")).to_contain_text(price)
    page.locator(".compare form select[name=choice]").select_option(label=title)
    page.locator("#chosen-why").fill("the cheapest that carries both blends")
    before = page.locator("#saved").inner_text()
    page.get_by_role("button", name="Choose it").click()
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)
    page.goto(page.url.replace("/compare", "/values"))
    expect(page.locator("h1")).to_contain_text("Dunlin")
