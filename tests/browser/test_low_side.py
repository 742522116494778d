"""Journeys through staging, the live diagram, wiring and the shelf."""

import re

import pytest
from playwright.sync_api import expect

from tests.browser.test_journey import CURLEW, settle, type_into
from tests.draws import LONG

pytestmark = pytest.mark.browser
SALTERN = 1


def test_staging_journey_from_all_on_to_a_base_that_holds(page):
    page.goto(f"/builds/{SALTERN}/regulator?option=three-on&target=record")
    expect(page.locator(".station-regulator .status-word")).to_have_text("over")
    page.get_by_role("button", name=re.compile("^Stage: idle on one pump")).click()
    settle(page)
    expect(page.locator(".station-regulator .status-word")).to_have_text("ok")
    page.get_by_role("link", name="Stage", exact=True).click()
    expect(page.locator("#chart-field svg")).to_be_visible()
    before = page.locator("#chart-field svg").inner_html()
    page.locator("#field-layer").select_option("bypass_l_h")
    assert page.locator("#chart-field svg").inner_html() != before
    page.locator("#switches").scroll_into_view_if_needed()
    expect(page.get_by_role("heading", name="If a stage does not come")).to_be_visible()
    revision = page.locator("#saved").inner_text()
    page.locator(".results .remedy").first.click()
    settle(page)
    expect(page.locator("#saved")).not_to_have_text(revision)


def test_diagram_journey_drag_read_and_come_back(page):
    page.goto(f"/builds/{CURLEW}/draw?target=hill")
    state = page.locator(".diagram-state b")
    expect(state).to_have_text("Regulating")
    rail = page.locator("[data-name^=Rail]").get_attribute("data-name")
    volts = page.get_by_label("System voltage")
    for _ in range(30):
        volts.press("ArrowLeft")
    boost = page.get_by_label("Manifold pressure")
    boost.press("End")
    expect(state).to_have_text("Starved")
    expect(page.locator("output").nth(3)).to_contain_text("10.6")
    page.get_by_role("button", name="Back to the target").click()
    expect(state).to_have_text("Regulating")
    expect(page.locator("[data-name^=Rail]")).to_have_attribute("data-name", rail)
    page.locator(".el").first.focus()
    expect(page.locator("#element-figures")).to_contain_text("Tank")
    page.locator("[data-name=Filter]").hover()
    expect(page.locator("#element-figures")).to_contain_text("drop")
    with page.expect_download() as waiting:
        page.get_by_role("link", name="Export SVG").click()
    assert waiting.value.suggested_filename == "plumbing.svg"


def overlapping_words(page):
    """Pairs of words in the diagram that lie on each other."""
    return page.evaluate(
        """() => {
          const boxes = [...document.querySelectorAll('.diagram-svg text')].filter((t) => t.textContent.trim())
            .map((t) => ({ words: t.textContent, box: t.getBoundingClientRect() }));
          const hits = [];
          boxes.forEach((a, i) => boxes.slice(i + 1).forEach((b) => {
            const x = Math.min(a.box.right, b.box.right) - Math.max(a.box.left, b.box.left);
            const y = Math.min(a.box.bottom, b.box.bottom) - Math.max(a.box.top, b.box.top);
            if (x > 2 && y > 4) hits.push([a.words, b.words]);
          }));
          return hits;
        }"""
    )


@pytest.mark.parametrize(
    "where",
    [
        "1/draw?option=two-rails&target=record",
        "2/draw",
        *(("1/draw", "1/draw?option=staged", "2/draw?option=bypass", "3/draw") if LONG else ()),
    ],
)
def test_diagram_words_do_not_lie_on_each_other(page, where):
    page.goto(f"/builds/{where}")
    expect(page.locator(".diagram-svg .el").first).to_be_visible()
    assert overlapping_words(page) == []


@pytest.mark.skipif(not LONG, reason="a picture of its own; the usual ones are looked at each time")
def test_the_fullest_system_still_reads(page):
    page.goto("/")
    origin = page.url.rstrip("/")
    where = {"page": "draw", "option": "two-rails", "target": "record"}
    for number, what in enumerate(("suction/line", "feed_passages", "return_passages", "split/branches"), start=1):
        form, here = {**where, "base": str(number), "what": what}, {"origin": origin}
        answer = page.request.post(f"/builds/{SALTERN}/add", form=form, headers=here)
        assert answer.ok
    page.goto(f"/builds/{SALTERN}/draw?option=two-rails&target=record")
    names = page.locator(".diagram-svg .el").evaluate_all("all => all.map((one) => one.dataset.name.split(',')[0])")
    wanted = ["Tank", "Cell with trap doors", "2 lift pumps", "Surge tank", "Pre-filter", "Suction line", "Filter"]
    wanted += ["Hanger tube", "Feed", "Branch 1", "Rail 1", "Branch 3", "Rail 3", "Regulator", "Return"]
    assert [name for name in wanted if name in names] == wanted
    assert sum("Turbine pump" in name for name in names) == 3
    assert overlapping_words(page) == []


@pytest.mark.skipif(not LONG, reason="what it presses is tested without a browser")
def test_fittings_journey_on_the_feed_bench(page):
    page.goto(f"/builds/{CURLEW}/feed?target=hill")
    drop = page.locator("#fig-feed-drop_kpa b")
    before = float(drop.inner_text())
    page.get_by_role("button", name="Add a fitting to the feed").click()
    settle(page)
    page.locator("#f-options-as-built-feed-fittings-f3-kind").select_option("drilled block, 90°")
    settle(page)
    type_into(page, "Count", "4", ".fitting >> nth=2")
    expect(page.locator("#fit-options-as-built-feed summary")).to_contain_text("9 fitted")
    assert float(drop.inner_text()) > before + 5.0
    type_into(page, "Bore", "0", ".fitting >> nth=2")
    expect(page.locator(".fitting >> nth=2").get_by_role("alert")).to_contain_text("must lie")
    page.get_by_role("button", name="Remove the fitting drilled block, 90° of the feed").click()
    settle(page)
    assert float(drop.inner_text()) == before


def test_wiring_fault_is_fixed_in_place(page):
    page.goto(f"/builds/{CURLEW}/wire?target=hill")
    expect(page.locator(".circuit").nth(1)).to_contain_text("fuse larger than the wire carries")
    type_into(page, "Wire", "4", ".circuit >> nth=1")
    expect(page.locator(".circuit").nth(1)).to_contain_text("fuse larger than a segment carries")
    type_into(page, "Fuse", "20", ".circuit >> nth=1")
    expect(page.locator(".circuit").nth(1)).to_contain_text("circuit holds")


@pytest.mark.skipif(not LONG, reason="what it presses is tested without a browser")
def test_a_size_up_is_one_click(page):
    page.goto(f"/builds/{CURLEW}/feed?target=hill")
    page.locator(".lazy-fold summary").first.click()
    page.get_by_role("button", name=re.compile("^Up PTFE-lined hose, dash 8")).click()
    settle(page)
    expect(page.get_by_label("From the shelf").first).to_have_value("ptfe-8")
    # The open fold follows the change.
    expect(page.get_by_role("button", name=re.compile("^Up PTFE-lined hose, dash 10"))).to_be_visible()


@pytest.mark.skipif(not LONG, reason="tests/web does the same without a browser")
def test_carburettor_and_back(page):
    page.goto(page.request.post("/builds", headers={"sec-fetch-site": "same-origin"}).url)
    page.locator("[data-station=injectors]").click()
    settle(page)
    page.get_by_role("button", name="Make this a carburettor system").click()
    settle(page)
    expect(page.locator(".station-injectors .station-title")).to_have_text("Carburettor")
    for key in ("fuel", "pump", "feed", "demand", "regulator"):
        page.locator(f"[data-station={key}]").click()
        expect(page.locator("h1")).to_be_visible()
    page.locator("[data-station=injectors]").click()
    settle(page)
    page.get_by_role("button", name="Convert to port injection").click()
    settle(page)
    expect(page.locator(".station-injectors .station-title")).to_have_text("Injectors")


@pytest.mark.skipif(not LONG, reason="what it presses is tested without a browser")
def test_shelf_compare_and_counterfeit(page):
    page.goto("/shelf/pumps")
    page.get_by_label("Compare Turbine pump, 250 L/h at 400 kPa").check()
    page.get_by_label("Compare Turbine pump, 315 L/h at 400 kPa").check()
    page.get_by_role("button", name="Search and compare").click()
    expect(page.locator("#chart-compare-1 svg")).to_be_visible()
    page.get_by_role("link", name="Flow-bottle test").click()
    page.get_by_label("It claims to be").select_option("pump-315")
    for line, (kpa, seconds) in enumerate(((200, 14.5), (300, 16.5), (400, 19.0)), start=1):
        for name, value in (("Pressure", kpa), ("Caught", 1), ("in", seconds), ("Voltage", 13.5), ("Current", 10)):
            page.get_by_label(f"{name}, line {line}", exact=True).fill(str(value))
    page.get_by_role("button", name="Work it out").click()
    expect(page.locator("#bottle-answer")).to_contain_text("does not match its claim")


@pytest.mark.skipif(not LONG, reason="what it presses is tested without a browser")
def test_arrangements_side_by_side_are_worked_out_when_opened(page):
    page.goto(f"/builds/{CURLEW}/regulator?target=hill")
    fold = page.locator("#references")
    expect(fold.locator("table")).to_have_count(0)
    fold.locator("summary").first.click()
    expect(fold.locator("table")).to_have_count(2)
    expect(fold.locator(".chart svg").first).to_be_visible()
    row = fold.locator("table").last.locator("tbody tr").first
    before = row.inner_text()
    type_into(page, "Base pressure", "350")
    expect(row).not_to_have_text(before)
