"""A client on a fresh garage with the demo builds."""

import pytest
from fastapi.testclient import TestClient

from iron_gulp.services.workshop import Workshop
from iron_gulp.web.app import create_app


@pytest.fixture
def workshop(tmp_path):
    found = Workshop(tmp_path / "garage.sqlite3")
    found.load_demo()
    return found


@pytest.fixture
def client(workshop):
    return TestClient(create_app(workshop), raise_server_exceptions=True, follow_redirects=True)


@pytest.fixture
def curlew(workshop):
    return workshop.garage("curlew").rows[0].id
