"""A fill, a measured set, a values sheet, a reading with its photo: each as a new user does it, in the real interface."""

import io

import pytest
from PIL import Image

from tests.draws import LONG

pytestmark = pytest.mark.browser


def open_page(page, build, phase):
    page.goto("/")
    page.get_by_role("link", name=build).first.click()
    page.get_by_role("navigation", name="Phases").get_by_role("link", name=phase, exact=True).click()


def typed(page, label, text):
    """Type into a field, leave it, and wait until it is saved."""
    before = page.locator("#saved").inner_text()
    field = page.get_by_label(label, exact=True)
    field.fill(text)
    field.press("Tab")
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)


@pytest.fixture(autouse=True)
def as_it_was(page):
    """What a journey changed is taken back: the server serves other tests."""
    yield
    start = "revision 1"
    for _ in range(20):
        if page.locator("#undo").count() == 0 or page.locator("#undo").is_disabled():
            return
        before = page.locator("#saved").inner_text()
        if before.endswith(start):
            return
        page.locator("#undo").click()
        page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)


def pressed(page, name):
    before = page.locator("#saved").inner_text()
    page.get_by_role("button", name=name).click()
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_a_fill_is_logged_and_its_measurement_parts_from_the_arithmetic(page):
    open_page(page, "Curlew", "Size")
    page.locator(".station-fuel").click()
    rows = page.locator(".fill-log tbody tr")
    before = rows.count()
    pressed(page, "Add a fill")
    number = before + 1
    page.wait_for_function("(count) => document.querySelectorAll('.fill-log tbody tr').length === count", arg=number)
    typed(page, f"Left before fill {number}", "0")
    typed(page, f"Poured, fill {number}", "50")
    typed(page, f"Ethanol of what was poured, fill {number}", "E85")
    typed(page, f"Measured after fill {number}", "70")
    last = rows.nth(before).inner_text()
    assert "E85.0" in last
    assert "they part" in last
    page.get_by_label(f"Measured after fill {number}", exact=True).fill("120")
    page.keyboard.press("Tab")
    page.wait_for_selector(".fill-log .field-error")
    assert page.get_by_label(f"Measured after fill {number}", exact=True).input_value() == "120"


@pytest.mark.skipif(not LONG, reason="its numbers are tested on the page")
def test_a_measured_set_tells_the_leanest_cylinder_and_comes_as_a_file(page):
    open_page(page, "Curlew", "Size")
    page.locator(".station-injectors").click()
    typed(page, "Measured one by one, in cylinder order", "801; 798; 770; 802; 799")
    page.wait_for_selector("h2:has-text('The measured set')")
    assert "Cylinder 3 runs" in page.locator("main").inner_text()
    with page.expect_download() as handed:
        page.locator("a[href*='injectors/set.csv']").click()
    lines = handed.value.path().read_text(encoding="utf-8").splitlines()
    assert lines[0].startswith("cylinder,")
    assert len(lines) == 6


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_a_sheet_is_given_out_and_tells_what_changed_since(page):
    open_page(page, "Curlew", "Values")
    page.get_by_role("button", name="Given out as it is").click()
    page.wait_for_selector("#sheet :text('nothing on it has changed')")
    page.locator(".station-regulator, .station-return").first.click()
    typed(page, "Base pressure", "350 kPa")
    page.get_by_role("navigation", name="Phases").get_by_role("link", name="Values").click()
    page.wait_for_selector("#sheet .changed-values")
    told = page.locator("#sheet .changed-values").inner_text()
    assert "Base pressure" in told
    assert "350" in told


def test_a_reading_and_its_photo_are_kept_and_the_chance_follows(page, tmp_path):
    open_page(page, "Curlew", "Evidence")
    before = page.locator("#saved").inner_text()
    page.get_by_label("Add a reading").select_option(label="Fuel temperature")
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)
    typed(page, "Read after a hot run", "52 °C")
    assert "+22" in page.locator("svg.known-assumed").text_content()
    photo = tmp_path / "probe.png"
    out = io.BytesIO()
    Image.new("RGB", (600, 400), (70, 90, 110)).save(out, "PNG")
    photo.write_bytes(out.getvalue())
    page.locator("#evidence-file").set_input_files(str(photo))
    before = page.locator("#saved").inner_text()
    page.get_by_role("button", name="Keep it").click()
    page.wait_for_function("(was) => document.querySelector('#saved').innerText !== was", arg=before)
    page.wait_for_selector(".kept-file img")
    assert page.locator(".kept-file img").evaluate("one => one.decode().then(() => one.naturalWidth)") == 360
    assert (
        page.locator(".findings :text('Fuel temperature was read otherwise')").count()
        or page.get_by_text("Fuel temperature was read otherwise").count()
    )
