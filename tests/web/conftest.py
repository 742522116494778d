"""A client on a fresh garage with the demo builds."""

import asyncio
from concurrent.futures import ThreadPoolExecutor

import pytest
from anyio.from_thread import start_blocking_portal
from fastapi.testclient import TestClient

from iron_gulp.web.app import create_app


@pytest.fixture(scope="session")
def application(reading):
    """One application for all tests: its routes are worked out on the first request, which takes a second."""
    return create_app(reading)


def in_a_loop(work):
    """What a coroutine gives, in an event loop of its own: the browser's may run in this very thread."""
    with ThreadPoolExecutor(1) as thread:
        return thread.submit(asyncio.run, work).result()


@pytest.fixture(scope="session")
def portal():
    """One event loop for all clients: each request would start one of its own, at half its cost."""
    with start_blocking_portal() as opened:
        yield opened


def _client(application, portal):
    opened = TestClient(application, base_url="http://localhost", raise_server_exceptions=True, follow_redirects=True)
    opened.portal = portal
    return opened


@pytest.fixture
def client(application, portal, workshop):
    before, application.state.workshop = application.state.workshop, workshop
    yield _client(application, portal)
    application.state.workshop = before


@pytest.fixture(scope="session")
def reader(application, portal):
    """A client for tests that change nothing: what one of them had judged serves the others."""
    return _client(application, portal)


@pytest.fixture
def curlew(workshop):
    return workshop.garage.page("curlew").rows[0].id
