"""What the hand did stays and arrives, in its order, on a slow network: every kind of control that a template holds."""

import io
import re
from pathlib import Path

import pytest
from PIL import Image
from playwright.sync_api import expect

from iron_gulp import web
from tests.browser.test_journey import CURLEW, DUNLIN, settle
from tests.draws import LONG

pytestmark = pytest.mark.browser
LATENCY_MS = 900 if LONG else 200
ROOM = Path(web.__file__).parent


PLAIN = ("dialogs.html", "enter.html", "units_menu.html")


def kinds_in_templates():
    """Every kind of control that a page of a build can show."""
    found = set()
    for path in (*ROOM.rglob("*.html"), *ROOM.rglob("*.py")):
        if path.parts[-2] in ("garage", "shelf", "rates") or path.name in (
            "dialogs.html",
            "enter.html",
            "units_menu.html",
        ):
            continue  # pages of plain forms, which nothing repaints
        text = path.read_text()
        inputs = re.findall(r"<input[^>]*", text)
        found |= {name for name in ("select", "textarea") if f"<{name}" in text}
        found |= {re.search(r'type="(\w+)"', one).group(1) if 'type="' in one else "text" for one in inputs}
        found |= {"button"} if "<button" in text else set()
        found |= {"dragged point"} if 'class="handle"' in text else set()
    return found - {"hidden"}


class Unanswered:
    """A page whose changes get no answer until the hand is done: each is held, and those behind it wait."""

    def __init__(self, page, build, name):
        page.goto(f"/builds/{build}/{name}")
        page.wait_for_function("() => window.htmx && document.readyState === 'complete'")
        self.page, self.posts, self.held = page, [], []
        page.on("request", lambda one: self.posts.append(one.url) if one.method == "POST" else None)
        self.changes = f"**/builds/{build}/**"
        self.over = False
        page.route(self.changes, self._route)
        self.base = self.revision()

    def _route(self, route):
        if route.request.method == "POST" and not self.over:
            self.held.append(route)
        else:
            route.continue_()

    def revision(self):
        return int(re.search(r"\d+", self.page.locator("#saved").inner_text()).group(0))

    def done(self, sent):
        """Everything was done before the first answer; now all is sent and answered: so many changes."""
        assert len(self.posts) == len(self.held) == 1, self.posts
        self.over = True
        self.held.pop().continue_()
        self.page.wait_for_function("() => !hand.busy()")
        self.page.unroute(self.changes)
        assert len(self.posts) == sent, self.posts
        return self.page


def copy_of(page, build):
    page.goto("/")
    asked = f"fetch('/builds/{build}/duplicate', {{method: 'POST'}}).then((one) => one.url)"
    return int(re.search(r"builds/(\d+)", page.evaluate(asked)).group(1))


def kept(page, build):
    return page.request.get(f"/builds/{build}/export").json()


def ask(page, build):
    """Text, choices, a long text and buttons, one of them refused."""
    slow = Unanswered(page, build, "ask")
    page.locator("#f-targets-hill-rpm").fill("6710")
    page.locator("#f-car-drivetrain").select_option("FWD")
    page.locator("#f-notes").fill("in the order of the hand")
    page.locator("#f-car-use").select_option("rally")
    page.locator("#f-targets-hill-boost_kpa").fill("plenty")
    page.get_by_role("button", name="Add a target").click()
    page.locator("#f-car-drivetrain").select_option("AWD")
    page.locator("#f-targets-later-rpm").fill("6910")
    page.locator("#f-targets-pump-fuel-name").fill("half typed")
    slow.done(8)
    told = kept(page, build)
    assert (told["car"]["drivetrain"], told["car"]["use"]) == ("AWD", "rally")
    assert told["notes"] == "in the order of the hand"
    assert [one["rpm"] for one in told["targets"]][1:3] == [6710.0, 6910.0]
    assert len(told["targets"]) == 4
    assert slow.revision() == slow.base + 7
    for name, text in (
        ("targets-hill-rpm", "6710"),
        ("car-drivetrain", "AWD"),
        ("car-use", "rally"),
        ("targets-later-rpm", "6910"),
    ):
        expect(page.locator(f"#f-{name}")).to_have_value(text)
    expect(page.locator("#f-targets-hill-boost_kpa")).to_have_value("plenty")
    expect(page.locator("#w-f-targets-hill-boost_kpa .field-error")).to_contain_text("not a number")
    expect(page.locator("#f-targets-pump-fuel-name")).to_have_value("half typed")


def high_side(page, build):
    """Eight fields in the order they stand, none of them known beforehand."""
    slow = Unanswered(page, build, "high")
    fields = page.locator("#work .field:visible :is(select, input)[hx-post$='/edit']")
    chosen = []
    for number in range(fields.count()):
        field = fields.nth(number)
        if field.evaluate("one => one.tagName") == "SELECT":
            now = field.input_value()
            other = next(
                (
                    one
                    for one in field.locator("option").evaluate_all("every => every.map((one) => one.value)")
                    if one != now
                ),
                None,
            )
            if other is not None:
                chosen.append((field.get_attribute("id"), other))
        elif re.fullmatch(r"\d+(\.\d+)?", field.input_value()):
            now = float(field.input_value())
            chosen.append((field.get_attribute("id"), f"{now + (1 if now >= 10 else 0.1):.6g}"))
        if len(chosen) == 8:
            break
    for name, value in chosen:
        control = page.locator(f"#{name}")
        if control.evaluate("one => one.tagName") == "SELECT":
            control.select_option(value)
        else:
            control.fill(value)
    page.keyboard.press("Tab")
    slow.done(8)
    stands = [(name, page.locator(f"#{name}")) for name, _ in chosen]
    for (_, value), (_, control) in zip(chosen, stands, strict=True):
        if control.count():  # what a choice takes away goes with it
            expect(control).to_have_value(value)
    assert slow.revision() + page.locator("#work .field.bad").count() >= slow.base + 6


def evidence(page, build):
    """A file with its choice, a list that adds, buttons."""
    out = io.BytesIO()
    Image.new("RGB", (60, 40), (70, 90, 110)).save(out, "PNG")
    slow = Unanswered(page, build, "evidence")
    page.locator("#add-reading").select_option(label="Fuel temperature")
    page.locator("#evidence-file").set_input_files(
        {"name": "probe.png", "mimeType": "image/png", "buffer": out.getvalue()}
    )
    page.get_by_role("button", name="Add a pull").click()
    page.get_by_role("button", name="Keep it").click()
    slow.done(3)
    told, before = kept(page, build), kept(page, CURLEW)
    for name in ("readings", "pulls", "files"):
        assert len(told.get(name, ())) == len(before.get(name, ())) + 1, name
    assert slow.revision() == slow.base + 3


def ceilings(page, build):
    """Two points dragged one after the other."""
    slow = Unanswered(page, build, "ceilings")
    page.wait_for_selector("#envelope .handle")
    before = [one["ethanol_pct"] for one in kept(page, build)["targets"]]
    for number in (0, 1):
        page.locator(".handle").nth(number).focus()
        page.keyboard.press("Shift+ArrowRight")
        page.keyboard.press("Enter")
    slow.done(2)
    after = [one["ethanol_pct"] for one in kept(page, build)["targets"]]
    assert [min(one + 10, 100) for one in before[:2]] == after[:2]
    for number in (0, 1):
        expect(page.locator(".handle").nth(number)).to_have_attribute("data-ethanol", f"{after[number]:g}")


def locks_and_sliders(page, build):
    """What is set and not sent stays through the answer to something else."""
    slow = Unanswered(page, build, "design")
    page.get_by_role("button", name="Undo").click()
    page.locator("#locks [name=keep]").first.check()
    page.locator("#locks [name=budget]").fill("900")
    page.locator("#locks [name=returns]").select_option("returnless")
    slow.done(1)
    assert page.locator("#locks [name=keep]").first.is_checked()
    expect(page.locator("#locks [name=budget]")).to_have_value("900")
    expect(page.locator("#locks [name=returns]")).to_have_value("returnless")
    slow = Unanswered(page, build, "draw")
    page.get_by_role("button", name="Redo").click()
    slider = page.locator("#sliders input[type=range]").first
    far = slider.get_attribute("max")
    slider.fill(far)
    slow.done(1)
    assert float(slider.input_value()) == float(far)


WAYS = {
    "text": ask,
    "select": ask,
    "textarea": ask,
    "button": evidence,
    "file": evidence,
    "dragged point": ceilings,
    "checkbox": locks_and_sliders,
    "range": locks_and_sliders,
}


def test_every_kind_of_control_has_its_way_here():
    assert kinds_in_templates() == set(WAYS)


def test_eight_controls_used_faster_than_the_network_all_arrive_and_stand(page):
    build = copy_of(page, CURLEW)
    for way in dict.fromkeys(WAYS.values()):
        way(page, build)
    if LONG:
        high_side(page, copy_of(page, DUNLIN))


def test_whoever_leaves_at_once_leaves_nothing_behind(page):
    build = copy_of(page, CURLEW)
    page.goto(f"/builds/{build}/ask")
    page.wait_for_function("() => window.htmx && document.readyState === 'complete'")
    posts = []
    page.on("request", lambda one: posts.append(one.url) if one.method == "POST" else None)
    slow = {"offline": False, "latency": LATENCY_MS, "downloadThroughput": -1, "uploadThroughput": -1}
    network = page.context.new_cdp_session(page)
    network.send("Network.enable")
    network.send("Network.emulateNetworkConditions", slow)
    page.locator("#f-car-use").select_option("drag")
    page.locator("#f-car-drivetrain").select_option("AWD")
    page.locator("#f-targets-hill-rpm").fill("6711")
    page.locator("[data-station=injectors]").click()
    page.wait_for_url("**/injectors*")
    assert len(posts) == 3
    told = kept(page, build)
    assert (told["car"]["use"], told["car"]["drivetrain"], told["targets"][1]["rpm"]) == ("drag", "AWD", 6711.0)


@pytest.mark.skipif(not LONG, reason="three pages opened; the customers' journeys press buttons")
def test_enter_sends_the_form_a_field_stands_in(page):
    page.goto("/new")
    page.locator("#q-name").fill("By Enter")
    page.locator("#q-power_kw").fill("lots")
    page.locator("#q-power_kw").press("Enter")
    expect(page.locator("[data-path=power_kw] .field-error")).to_contain_text("not a number")
    build = copy_of(page, CURLEW)
    page.goto(f"/builds/{build}/design")
    page.locator("#locks [name=most_pumps]").fill("many")
    page.locator("#locks [name=most_pumps]").press("Enter")
    expect(page.locator("#search .field-error")).to_contain_text("Pumps at most")
    page.goto(f"/builds/{build}/compare")
    page.locator("[name=why]").first.fill("it idles")
    page.locator("[name=why]").first.press("Enter")
    settle(page)
    assert kept(page, build)["chosen_why"] == "it idles"


@pytest.mark.network_cut
def test_what_could_not_be_sent_waits_and_is_sent_in_its_order(page):
    build = copy_of(page, CURLEW)
    page.goto(f"/builds/{build}/ask")
    page.wait_for_load_state("networkidle")
    page.context.set_offline(True)
    page.locator("#f-car-drivetrain").select_option("AWD")
    page.locator("#f-car-use").select_option("rally")
    page.locator("#f-car-drivetrain").select_option("FWD")
    expect(page.locator("#offline")).to_contain_text("sent again")
    expect(page.locator("#f-car-drivetrain")).to_have_value("FWD")
    page.context.set_offline(False)
    settle(page)
    told = kept(page, build)
    assert (told["car"]["drivetrain"], told["car"]["use"]) == ("FWD", "rally")


@pytest.mark.skipif(not LONG, reason="a page loaded anew; the order of the queue is the quick run's")
def test_units_chosen_in_between_lose_no_change_and_ask_nothing(page):
    build, said = copy_of(page, CURLEW), []
    page.on("dialog", lambda one: (said.append(one.type), one.accept()))
    page.goto(f"/builds/{build}/ask")
    page.wait_for_function("() => window.htmx && document.readyState === 'complete'")
    page.mouse.click(5, 5)
    page.locator("#f-car-use").select_option("rally")
    page.locator(".units-menu summary").click()
    with page.expect_navigation():
        page.locator(".units-panel select").first.select_option(index=1)
        page.locator("#f-car-drivetrain").select_option("AWD")
    settle(page)
    told = kept(page, build)
    assert (told["car"]["use"], told["car"]["drivetrain"], said) == ("rally", "AWD", [])


@pytest.mark.skipif(not LONG, reason="a page that breaks on purpose")
def test_an_answer_that_cannot_be_shown_stops_nothing_behind_it(page, visitor):
    build = copy_of(page, CURLEW)
    other = visitor.new_page()  # whose errors are meant
    other.goto(f"/builds/{build}/ask")
    other.wait_for_function("() => window.htmx && document.readyState === 'complete'")
    breaks = "const real = Idiomorph.morph; Idiomorph.morph = () => { Idiomorph.morph = real; throw new Error('torn') }"
    other.evaluate(f"() => {{ {breaks} }}")
    other.locator("#f-car-use").select_option("rally")
    other.locator("#f-car-drivetrain").select_option("AWD")
    other.wait_for_function("() => !hand.busy()")
    told = kept(page, build)
    assert (told["car"]["use"], told["car"]["drivetrain"]) == ("rally", "AWD")
    other.close()
