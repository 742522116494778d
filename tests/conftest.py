"""A garage with the demo builds, made once and copied for whoever changes it."""

import gc
import os
import shutil

import pytest
from hypothesis import settings

# A slow machine is no failing property.
settings.register_profile("patient", deadline=None)
settings.load_profile("patient")


def pytest_collection_finish():
    """Thousands of tests collected are no garbage: they are not looked through again and again."""
    gc.collect()
    gc.freeze()
    gc.set_threshold(100_000, 50, 100)


@pytest.hookimpl(tryfirst=True)  # before groups are read
def pytest_collection_modifyitems(items):
    """Tests that share something costly go to one worker: it is made once, and what was judged serves the next."""
    for item in items:
        for shared in ("browser", "reader"):
            if item.get_closest_marker(shared) or shared in item.fixturenames:
                item.add_marker(pytest.mark.xdist_group(shared))


@pytest.hookimpl(tryfirst=True)
def pytest_runtest_logreport(report):
    """A test is told by its own name, without its group's behind it: so the one that failed is found and run again."""
    worker = "PYTEST_XDIST_WORKER" in os.environ  # which goes by the longer name
    if not worker and report.nodeid.rfind("@") > report.nodeid.rfind("]"):
        report.nodeid = report.nodeid.rpartition("@")[0]


def _opened(path):
    # Whoever tests the core alone needs neither database nor services.
    from iron_gulp.services.workshop import Workshop

    return Workshop(path)


@pytest.fixture(scope="session")
def demo_database(tmp_path_factory):
    """The database file of a garage with the demo builds. Not to be changed."""
    path = tmp_path_factory.mktemp("demo") / "garage.sqlite3"
    made = _opened(path)
    made.load_demo()
    made.close()
    return path


@pytest.fixture(scope="session")
def reading(tmp_path_factory, demo_database):
    """A garage with the demo builds for tests that change nothing."""
    path = tmp_path_factory.mktemp("reading") / "garage.sqlite3"
    shutil.copy(demo_database, path)
    found = _opened(path)
    yield found
    found.close()


@pytest.fixture
def workshop(tmp_path, demo_database):
    """A garage of one's own with the demo builds."""
    path = tmp_path / "garage.sqlite3"
    shutil.copy(demo_database, path)
    found = _opened(path)
    yield found
    found.close()
