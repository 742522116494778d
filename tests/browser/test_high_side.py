"""Journeys on a direct-injected car: what gives in first over engine speed, a starved pump, which road to take."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_journey import settle, type_into
from tests.draws import LONG

pytestmark = pytest.mark.browser
DUNLIN = 4


def test_the_limit_over_engine_speed_is_found_and_the_starved_bank_fed(page):
    page.goto(f"/builds/{DUNLIN}/ask?option=as-found&target=blend")
    page.locator(".station-high").click()
    expect(page.locator("figure.picture svg")).to_be_visible()
    expect(page.locator(".answer")).to_contain_text(re.compile(r"gives in first, from about [\d\u202f]+\u00a0rpm"))
    expect(page.locator(".answer")).to_contain_text("window closed, sagging")
    rows = page.locator("table:has-text('Bank 2') tbody tr")
    first, second = (float(rows.nth(n).locator("td").nth(4).inner_text().strip("× ")) for n in (0, 1))
    assert second > first > 1
    starved = page.locator(".finding", has_text="High-pressure pump 2 starved")
    starved.locator(".remedy", has_text="line of its own").click()
    settle(page)
    expect(page.locator(".finding", has_text="starved")).to_have_count(0)
    first, second = (float(rows.nth(n).locator("td").nth(4).inner_text().strip("× ")) for n in (0, 1))
    assert first == second
    page.locator("#undo").click()
    settle(page)
    expect(page.locator(".finding h3", has_text="High-pressure pump 2 starved")).to_have_count(1)


def test_a_rail_target_above_what_its_parts_bear_is_refused_in_its_field(page):
    page.goto(f"/builds/{DUNLIN}/high?option=split&target=road")
    path = "options/split/high_side/target/kpa/2"
    type_into(page, "Rail target, point 3", "30000 kPa")
    field = page.locator(f"[data-path='{path}']")
    expect(field.locator(".field-error")).to_contain_text("bear 24 000 kPa at most")
    expect(field.locator("input")).to_have_value("30000 kPa")


@pytest.mark.skipif(not LONG, reason="what it presses is tested without a browser")
def test_a_road_is_chosen_priced_and_opened(page):
    page.goto(f"/builds/{DUNLIN}/high?option=as-found&target=blend")
    page.get_by_role("link", name="Road", exact=True).click()
    expect(page.locator(".road-card")).to_have_count(7)
    expect(page.locator(".road-chosen h3")).to_contain_text("carries every target")
    expect(page.locator(".advice-road ol li").first).to_contain_text("line of its own")
    expect(page.locator(".grid-table").first).to_contain_text("adds nothing")
    opened = page.locator(".chip-option", has_text="A port rail beside it")
    before = opened.count()
    page.locator(".road-chosen").get_by_role("button", name="Open as an option").click()
    settle(page)
    expect(opened).to_have_count(before + 1)
    page.goto("/rates")
    page.locator("#rate-port_rail_set").fill("9000")
    page.get_by_role("button", name="Keep these rates").click()
    expect(page.get_by_role("status")).to_contain_text("Kept")
    page.goto(f"/builds/{DUNLIN}/road?option=as-found&target=blend")
    expect(page.locator(".road-chosen h3")).to_contain_text("Larger direct hardware")
    page.goto("/rates")
    page.get_by_label("An hour of fitting").fill("lots")
    page.get_by_role("button", name="Keep these rates").click()
    expect(page.locator(".field-error")).to_have_count(1)
    expect(page.get_by_label("An hour of fitting")).to_have_value("lots")


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_direct_injection_is_added_to_a_port_car_and_taken_away_again(page):
    page.goto("/builds/3/injectors?option=as-built&target=hill")
    expect(page.locator(".station-high")).to_have_count(0)
    page.get_by_role("button", name="Add direct injection").click()
    settle(page)
    page.locator(".station-high").click()
    expect(page.get_by_role("heading", name="High-pressure pump", exact=True)).to_be_visible()
    page.get_by_role("button", name="Add a pump").click()
    settle(page)
    expect(page.locator("[aria-label='Remove pump 2']")).to_be_visible()
    page.get_by_role("button", name="Port injection alone").click()
    settle(page)
    expect(page.locator(".station-high")).to_have_count(0)
