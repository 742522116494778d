"""A client on a fresh garage with the demo builds."""

import pytest
from fastapi.testclient import TestClient

from iron_gulp.web.app import create_app


@pytest.fixture
def client(workshop):
    return TestClient(create_app(workshop), raise_server_exceptions=True, follow_redirects=True)


@pytest.fixture(scope="session")
def reader(reading):
    """A client for tests that change nothing: what one of them had judged serves the others."""
    return TestClient(create_app(reading), raise_server_exceptions=True, follow_redirects=True)


@pytest.fixture
def curlew(workshop):
    return workshop.garage.page("curlew").rows[0].id
