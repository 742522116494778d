"""The real server in a process of its own, and headless Chromium from Debian's packages."""

import os
import signal
import socket
import subprocess
import sys
import time
import urllib.request

import pytest
from playwright.sync_api import sync_playwright

CHROMIUM = os.environ.get("IRON_GULP_CHROMIUM", "/usr/bin/chromium")
ARGUMENTS = [
    "--no-sandbox",
    "--disable-gpu",
    "--disable-quic",
    "--no-first-run",
    "--disable-background-networking",
    "--disable-component-update",
    "--disable-sync",
]


class Server:
    """The application on a free loopback port; can be killed and started again on the same data."""

    def __init__(self, data):
        self.data = data
        with socket.socket() as probe:
            probe.bind(("127.0.0.1", 0))
            self.port = probe.getsockname()[1]
        self.url = f"http://127.0.0.1:{self.port}"
        self.process = None

    def start(self):
        command = [sys.executable, "-m", "iron_gulp.cli", "demo", "--data", str(self.data), "--port", str(self.port)]
        self.process = subprocess.Popen(command, stdout=subprocess.DEVNULL)
        for _ in range(240):
            try:
                urllib.request.urlopen(self.url, timeout=2).close()
                return self
            except OSError:
                time.sleep(0.25)
        raise RuntimeError("the server did not start")

    def kill(self):
        if self.process is not None:
            os.kill(self.process.pid, signal.SIGKILL)
            self.process.wait()
            self.process = None


@pytest.fixture(scope="session")
def chromium():
    with sync_playwright() as playwright:
        browser = playwright.chromium.launch(executable_path=CHROMIUM, args=ARGUMENTS)
        yield browser
        browser.close()


@pytest.fixture(scope="module")
def server(tmp_path_factory):
    running = Server(tmp_path_factory.mktemp("garage")).start()
    yield running
    running.kill()


@pytest.fixture
def page(chromium, server, request):
    """A page on the server. Console errors and requests that leave loopback fail the test."""
    context = chromium.new_context(viewport={"width": 1280, "height": 800}, base_url=server.url)
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
    context.close()
    assert trouble == []


def _local(url, server):
    return url.startswith((server.url, "data:", "blob:"))
