"""Two customers served in the real interface, from their sentence to a sane system."""

import pytest
from playwright.sync_api import expect

from tests.browser.test_journey import settle
from tests.customers import CUSTOMERS
from tests.draws import LONG

pytestmark = pytest.mark.browser


def enter(page, path, text):
    """Type a value where it stands, on the page that holds it."""
    station = {"options/o1/pumps": "pump", "options/o1/regulator": "regulator"}.get(
        path.rsplit("/", 1)[0].rsplit("/g", 1)[0]
    )
    if station:
        page.locator(f"[data-station={station}]").click()
    else:
        page.get_by_role("link", name="Ask", exact=True).click()
    settle(page)
    box = page.locator("#f-" + path.replace("/", "-"))
    if box.evaluate("(box) => box.tagName") == "SELECT":
        box.select_option(text)
    else:
        box.fill(text)
        box.press("Enter")
    settle(page)
    expect(page.locator(".field-error")).to_have_count(0)


@pytest.mark.skipif(not LONG, reason="a new user sizes a car in test_deciding")
@pytest.mark.parametrize("name", ["strong blend four", "three-pump eight"])
def test_from_a_sentence_to_a_sane_system(page, name):
    page.goto(page.request.post("/builds", headers={"sec-fetch-site": "same-origin"}).url)
    for path, text in CUSTOMERS[name]["types"]:
        if path == "remove":
            page.get_by_role("button", name="Remove the target Pump fuel").click()
            settle(page)
        else:
            enter(page, path, text)
    expect(page.locator(".finding").first).to_be_visible()
    page.locator(".put-right summary").click()
    settle(page)
    expect(page.locator(".put-right-left li")).to_have_count(0)
    page.get_by_role("button", name="Do all of this").click()
    settle(page)
    expect(page.locator(".put-right")).to_have_count(0)
    expect(page.locator(".status-word", has_text="over")).to_have_count(0)
