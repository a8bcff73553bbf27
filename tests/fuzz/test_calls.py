"""Some thousand made-up calls in every run of the tests; `make fuzz` makes many more."""

import os
from collections.abc import Iterator

import pytest
import schemathesis
from hypothesis import HealthCheck, Phase, given, settings

from rhombos.api.app import make_app
from rhombos.launch.seed import load_demo
from rhombos.store.migrate import migrate
from rhombos.store.repository import Store
from tests.fuzz.calls import OPERATIONS, disturbed, extreme, judge, sent

TIMES = int(os.environ.get("RHOMBOS_FUZZ", "1"))
"""How many times as many calls as in an ordinary run."""
PLAIN = settings(
    max_examples=60 * TIMES,
    deadline=None,
    derandomize=TIMES == 1,
    database=None,
    phases=(Phase.explicit, Phase.generate),
    suppress_health_check=list(HealthCheck),
)


@pytest.fixture(scope="module", name="interface")
def _interface(own_database: str) -> Iterator[schemathesis.BaseSchema]:
    migrate(own_database)
    store = Store(own_database)
    load_demo(store)
    yield schemathesis.openapi.from_asgi("/openapi.json", make_app(store), headers={"host": "127.0.0.1"})
    store.engine.dispose()


@pytest.mark.parametrize(("path", "method"), OPERATIONS)
def test_every_call_is_answered_as_declared(interface, path, method):
    @PLAIN
    @given(case=interface[path][method].as_strategy())
    def calls(case):
        judge(case)

    calls()


@given(asked=disturbed() | extreme())
@settings(PLAIN, max_examples=140 * TIMES)
def test_a_question_about_a_disturbed_or_an_extreme_design_is_answered_as_declared(interface, asked):
    path, body = asked
    judge(interface[path]["POST"].Case(body=body, media_type="application/json"))


def test_the_calls_were_many_and_of_every_kind():
    """Fewer, or all of them refused, would prove nothing."""
    print(dict(sent))
    assert sum(sent.values()) >= 1500 * TIMES
    assert sum(n for status, n in sent.items() if status < 300) >= 150 * TIMES
    assert {200, 404, 422} <= sent.keys()
