"""Words of a build that would be scripts are words in Chromium, too: on every page and in its pieces."""

import json
from importlib import resources

import pytest

from iron_gulp.web.parts.stations import PAGES
from tests.browser.test_journey import settle
from tests.draws import LONG

pytestmark = pytest.mark.browser
SITES = (
    '<img src=x onerror="window.ran=1">',
    '"><script>window.ran=1</script>',
    "'-(window.ran=1)-'",
    "{{7*7}}${window.ran=1}",
)


def hostile(value, pick, name=""):
    """A build whose free texts are scripts, each at least once."""
    if isinstance(value, dict):
        return {key: hostile(one, pick, key) for key, one in value.items()}
    if isinstance(value, list):
        return [hostile(one, pick, name) for one in value]
    if isinstance(value, str) and name in (
        "name",
        "notes",
        "client",
        "description",
        "provenance",
        "supplier",
        "why",
        "note",
        "part",
    ):
        return next(pick)[:80]
    return value


@pytest.mark.skipif(not LONG, reason="every page opened; what is sent is looked at without a browser in tests/web")
def test_no_word_of_a_build_runs(page):
    def sites():
        number = 0
        while True:
            yield SITES[number % len(SITES)]
            number += 1

    data = json.loads(resources.files("iron_gulp.demo").joinpath("curlew.json").read_text())
    text = json.dumps(hostile(data, sites()))
    assert text.count("window.ran") > 40
    said = []
    page.on("dialog", lambda one: (said.append(one.message), one.dismiss()))
    page.goto("/")
    body = {"name": "a.json", "mimeType": "application/json", "buffer": text.encode()}
    page.locator("input[type=file]").set_input_files(body)
    page.wait_for_url("**/ask")
    build = page.url.split("/builds/")[1].split("/")[0]
    for key in PAGES:
        page.goto(f"/builds/{build}/{key}")
        settle(page)
        page.evaluate("() => window.scrollTo(0, document.body.scrollHeight)")
        settle(page)
        assert page.evaluate("() => window.ran") is None, key
    page.goto("/")
    page.keyboard.press("Escape")
    assert page.evaluate("() => window.ran") is None
    page.goto(f"/builds/{build}/ask")
    page.locator("[data-open=find-dialog]").click()
    page.locator("#find-text").fill(SITES[0])
    settle(page)
    assert page.evaluate("() => window.ran") is None
    assert said == []
    page.evaluate(f"() => fetch('/builds/{build}/archive', {{method: 'POST'}}).then(() => null)")
