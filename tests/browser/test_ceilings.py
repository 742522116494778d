"""A target dragged in the envelope: the path follows on the way, the drop is one revision, by mouse and by keyboard."""

import pytest

pytestmark = pytest.mark.browser


def open_ceilings(page):
    page.goto("/")
    page.get_by_role("link", name="Curlew").first.click()
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Ceilings").click()
    page.wait_for_selector("#envelope .handle")


def saved(page):
    return page.locator("#saved").inner_text()


def test_a_target_is_dragged_and_the_path_follows(page):
    open_ceilings(page)
    before, fuel = saved(page), page.locator(".station-fuel .station-line").inner_text()
    diamond = page.locator(".handle").first.locator("path").bounding_box()
    x, y = diamond["x"] + diamond["width"] / 2, diamond["y"] + diamond["height"] / 2
    page.mouse.move(x, y)
    page.mouse.down()
    page.mouse.move(x + 100, y - 10, steps=5)
    page.wait_for_function("(was) => document.querySelector('.station-fuel .station-line').innerText !== was", arg=fuel)
    assert "limit" in page.locator("#ceiling-says").inner_text()
    assert saved(page) == before
    page.mouse.up()
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)
    chip = page.locator(".target-chips .chip-fuel").first.inner_text()
    page.wait_for_selector(f"#envelope .handle[data-ethanol='{chip[1:]}']")
    assert page.locator(".station-fuel .station-line").inner_text() != fuel
    # The same by keyboard, and back by undo.
    dragged = saved(page)
    page.locator(".handle").first.focus()
    page.keyboard.press("Shift+ArrowLeft")
    page.keyboard.press("Enter")
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=dragged)
    blend = page.locator(".target-chips .chip-fuel").first.inner_text()
    assert float(blend[1:]) == max(float(chip[1:]) - 10, 0)
    page.keyboard.press("Control+z")
    page.wait_for_function("(was) => document.querySelector('.target-chips .chip-fuel').innerText === was", arg=chip)
