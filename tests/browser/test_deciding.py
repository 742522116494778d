"""A new user to a sized car in a few entries; two options and a reason; locks and a search: in the real interface."""

import pytest

from tests.draws import LONG

pytestmark = pytest.mark.browser


def changed(page, before):
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)


def test_a_new_user_has_a_sized_car_in_under_a_dozen_entries(page):
    entries = 0
    page.goto("/")
    page.locator(".garage-tools").get_by_role("link", name="New build").click()
    for label, text in (("Call it", "Siskin"), ("Engine", "1.8 l"), ("Cylinders", "4"), ("Power wanted", "140 hp")):
        page.get_by_label(label, exact=True).fill(text)
        entries += 1
    page.get_by_label("Breathes").select_option("naturally aspirated")
    page.get_by_role("button", name="Size it for me").click()
    page.wait_for_url("**/ask*", timeout=60_000)
    assert entries + 2 < 12
    assert "Siskin" in page.locator("h1").inner_text()
    assert page.locator(".why-list li").count() >= 6
    assert page.locator(".findings-jump").count() == 0
    assert page.locator(".target-chips .mark-over").count() == 0


def test_a_wrong_answer_keeps_what_was_typed(page):
    page.goto("/new")
    page.get_by_label("Call it", exact=True).fill("Siskin")
    page.get_by_label("Power wanted", exact=True).fill("a lot")
    page.get_by_role("button", name="Size it for me").click()
    page.wait_for_selector(".field-error")
    assert page.get_by_label("Power wanted", exact=True).input_value() == "a lot"
    assert page.get_by_label("Call it", exact=True).input_value() == "Siskin"


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_two_options_are_compared_and_one_chosen_with_a_reason(page):
    page.goto("/")
    page.get_by_role("link", name="Curlew").first.click()
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Compare").click()
    page.wait_for_selector("#compare-table .compared")
    before = page.locator("#saved").inner_text()
    page.locator(".compare form select[name=choice]").select_option(label="Two sets of injectors")
    page.locator("#chosen-why").fill("it idles on pump fuel and carries the hill")
    page.get_by_role("button", name="Choose it").click()
    changed(page, before)
    assert "it idles on pump fuel" in page.locator(".compare").inner_text()
    page.get_by_role("link", name="Sheet for the client").click()
    page.wait_for_selector("main.client-sheet section")
    page.go_back()
    before = page.locator("#saved").inner_text()
    page.locator("#undo").click()
    changed(page, before)


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_a_real_part_is_refused_where_it_is_typed_and_judged_when_it_is_right(page):
    page.goto("/")
    page.get_by_role("link", name="Curlew").first.click()
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Compare").click()
    page.locator("#real").scroll_into_view_if_needed()
    line = page.locator("#real-injectors")
    line.locator("summary").click()
    line.get_by_label("Name").fill("Injector as delivered")
    line.get_by_label("Offers").fill("lots")
    line.get_by_role("button").click()
    line.locator(".field-error").wait_for()
    assert line.get_by_label("Name").input_value() == "Injector as delivered"
    before = page.locator("#saved").inner_text()
    line.get_by_label("Offers").fill("1400")
    line.get_by_role("button").click()
    changed(page, before)
    page.locator("#real").scroll_into_view_if_needed()
    page.wait_for_selector("#real-injectors :text('in place of')")
    before = page.locator("#saved").inner_text()
    page.locator("#undo").click()
    changed(page, before)


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_locks_are_closed_and_a_search_finds_and_opens_a_design(page):
    page.goto("/")
    page.get_by_role("link", name="Fieldfare").first.click()
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Design").click()
    page.get_by_label("my regulator").check()
    page.get_by_label("Headroom wanted, %").fill("5")
    page.get_by_role("button", name="Search", exact=True).click()
    page.wait_for_selector("#search :text('Why nothing cheaper works')", timeout=90_000)
    page.get_by_role("button", name="Stop", exact=True).wait_for(state="detached", timeout=90_000)
    assert page.get_by_label("my regulator").is_checked()
    if page.locator(".designs tbody").count():
        page.locator("#road").scroll_into_view_if_needed()
        page.wait_for_selector("#road svg.lanes")
        assert page.locator(".road-steps li").count() >= 2
        before = page.locator("#saved").inner_text()
        page.get_by_role("button", name="Open design 1 as an option").click()
        changed(page, before)
        before = page.locator("#saved").inner_text()
        page.locator("#undo").click()
        changed(page, before)
    else:
        assert "No system carries every target" in page.locator("#search").inner_text()
