"""A client on a fresh garage with the demo builds."""

import pytest
from fastapi.testclient import TestClient

from iron_gulp.web.app import create_app


@pytest.fixture(scope="session")
def application(reading):
    """One application for all tests: its routes are worked out on the first request, which takes a second."""
    return create_app(reading)


@pytest.fixture
def client(application, workshop):
    before, application.state.workshop = application.state.workshop, workshop
    yield TestClient(application, raise_server_exceptions=True, follow_redirects=True)
    application.state.workshop = before


@pytest.fixture(scope="session")
def reader(application):
    """A client for tests that change nothing: what one of them had judged serves the others."""
    return TestClient(application, raise_server_exceptions=True, follow_redirects=True)


@pytest.fixture
def curlew(workshop):
    return workshop.garage.page("curlew").rows[0].id
