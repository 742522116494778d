"""A published API fuzzer on every operation: no server error, whatever it sends, and the garage stays whole."""

import pytest
from hypothesis import HealthCheck, Phase, given, settings

from iron_gulp.services.workshop import Workshop
from iron_gulp.web.app import create_app
from iron_gulp.web.door import Door
from tests.draws import LONG

EXAMPLES = 200
pytestmark = pytest.mark.skipif(not LONG, reason="some ten thousand requests: in the long run")


@pytest.fixture(scope="module")
def app(tmp_path_factory):
    workshop = Workshop(tmp_path_factory.mktemp("fuzzed") / "garage.sqlite3")
    workshop.garage.load_demo()
    app = create_app(workshop, Door(hosts=("testserver",)))  # as the fuzzer calls it
    app.state.schema = app.openapi()
    app.openapi_url = "/openapi.json"
    app.setup()
    yield app
    workshop.close()


@pytest.fixture(scope="module")
def operations(app):
    import schemathesis  # takes seconds to load

    schema = schemathesis.openapi.from_asgi("/openapi.json", app)
    return [found.ok() for found in schema.get_all_operations()]


def test_no_operation_breaks_on_what_a_fuzzer_sends(operations):
    from schemathesis.checks import not_a_server_error

    assert len(operations) > 25
    for operation in operations:

        @settings(max_examples=EXAMPLES, deadline=None, suppress_health_check=list(HealthCheck), phases=[Phase.generate])
        @given(operation.as_strategy())
        def sent(case):
            answer = case.call(timeout=120)  # a machine under load is slow, not broken
            case.validate_response(answer, checks=[not_a_server_error])
            assert b"Traceback" not in answer.content

        sent()


def test_the_garage_outlives_the_fuzzer(app):
    workshop = app.state.workshop
    assert workshop.garage.page().total + workshop.garage.page(archived=True).total >= 3
    for row in (*workshop.garage.page().rows, *workshop.garage.page(archived=True).rows):
        assert workshop.judging.bench(row.id).judged.verdicts
