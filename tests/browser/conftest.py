"""Headless Chromium from Debian's packages on the real server."""

import shutil

import pytest
from playwright.sync_api import sync_playwright

from tests.browser.running import ARGUMENTS, CHROMIUM, Server


@pytest.fixture(scope="session")
def chromium(request, tmp_path_factory):
    if request.config.getoption("loadgroup", False):
        # Fails on the second worker that wants a browser: the group has fallen apart, which nothing else would tell.
        (tmp_path_factory.getbasetemp().parent / "the browser").touch(exist_ok=False)
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield browser
        browser.close()


@pytest.fixture(scope="session")
def server(tmp_path_factory, demo_database):
    """The real server on a garage with the demo builds, which need not be loaded again."""
    data = tmp_path_factory.mktemp("garage")
    shutil.copy(demo_database, data / "iron_gulp.sqlite3")
    running = Server(data).start()
    yield running
    running.kill()


@pytest.fixture(scope="session")
def visitor(chromium, server):
    """One visitor for all tests, so that scripts, styles and fonts are fetched once; nothing else stays behind."""
    context = chromium.new_context(
        viewport={"width": 1280, "height": 800}, base_url=server.url, reduced_motion="reduce", locale="ja-JP"
    )
    yield context
    context.close()


@pytest.fixture
def page(visitor, server, request):
    """A page on the server. Console errors and requests that leave loopback fail the test."""
    context = visitor
    opened = context.new_page()
    trouble = []
    cut = request.node.get_closest_marker("network_cut") is not None

    def on_console(message):
        # A refused edit answers 422, which Chromium itself reports; that is no fault of the page.
        expected = "422" in message.text or cut
        if message.type == "error" and not expected:
            trouble.append(message.text)

    opened.on("console", on_console)
    opened.on("pageerror", lambda error: trouble.append(str(error)))
    opened.on("request", lambda request: trouble.append(request.url) if not _local(request.url, server) else None)
    yield opened
    context.set_offline(False)
    opened.evaluate("() => { localStorage.clear(); sessionStorage.clear() }")
    opened.close()
    context.clear_cookies()
    assert trouble == []


def _local(url, server):
    return url.startswith((server.url, "data:", "blob:"))
