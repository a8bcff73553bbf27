"""Calls made up from the published interface, and real designs with one thing wrong in them: what is sent, and what may come back."""

import copy
import json
import math
from collections import Counter
from typing import Any

import schemathesis
from hypothesis import strategies as st
from schemathesis.checks import not_a_server_error
from schemathesis.specs.openapi.checks import content_type_conformance, response_schema_conformance, status_code_conformance

from rhombos.api.app import make_app
from rhombos.core.graph.declare import Figure
from rhombos.demo import tern_islet
from rhombos.demo.briefs import briefs
from rhombos.formats.design import Design, write_design
from rhombos.store.repository import Store

HERE = "http://127.0.0.1:8765"
CHECKS = (not_a_server_error, status_code_conformance, content_type_conformance, response_schema_conformance)
"""No fault of ours, no status that is not declared, and answers of the shape that is declared."""
DESIGNS = [json.loads(write_design(d)) for d in (tern_islet.first(), tern_islet.second(), *briefs())]
CORNER = "nominal_full"
BODIES: dict[str, dict[str, Any]] = {
    "/api/solve": {"place": "transformer"},
    "/api/pictures": {"place": "link", "corner": CORNER},
    "/api/remedies": {"place": "bridge"},
    "/api/why": {"key": "link.link_setpoint", "corner": CORNER},
    "/api/pick": {"key": "transformer.core", "corner": CORNER},
    "/api/sensitivity": {"key": "totals.efficiency", "corner": CORNER},
    "/api/seek": {"key": "battery.run_time", "corner": CORNER, "wanted": "2 h", "move": "battery.capacity"},
    "/api/compare": {},
    "/api/scope": {"corner": CORNER, "pixels": 200},
    "/api/build": {},
    "/api/hold": {"reason": "parts ordered"},
}
"""What is asked of a design besides itself."""

ODD = st.one_of(
    st.none(),
    st.booleans(),
    st.integers(-(2**70), 2**70),
    st.floats(allow_nan=False, allow_infinity=False),
    st.sampled_from(["", "0", "\u0000", "\ud800", "load_1", "corner.surge", "battery.cells", "ETD59", "a" * 3000, "−3", "é"]),
    st.text(max_size=20),
    # Made anew each time: what is disturbed twice must not leave a trace in the next call.
    st.builds(list),
    st.builds(dict),
    st.builds(lambda: [[[[]]]]),
)
SCALES = st.sampled_from([0.0, -1.0, 1e-300, 1e-9, 0.1, 0.5, 2.0, 10.0, 1e3, 1e9, 1e300])


@st.composite
def disturbed(draw: st.DrawFn) -> tuple[str, dict[str, Any]]:
    """A question as the page asks it, of a real design, with one or two things changed: a value scaled or replaced, an entry taken or added."""
    path = draw(st.sampled_from(sorted(BODIES)))
    body = {"design": copy.deepcopy(draw(st.sampled_from(DESIGNS))), **BODIES[path]}
    for _ in range(draw(st.integers(1, 2))):
        _disturb(draw, body)
    return path, body


@st.composite
def extreme(draw: st.DrawFn) -> tuple[str, dict[str, Any]]:
    """A question about a real design with up to four givens anywhere in their ranges, and now and then a figure pinned anywhere in its own."""
    path = draw(st.sampled_from(sorted(BODIES)))
    design = copy.deepcopy(draw(st.sampled_from(DESIGNS)))
    nodes = [n for n in Design.model_validate(design).model().wiring.nodes if n.place not in ("corner", "outside")]
    givens = [n for n in nodes if n.figure.kind == "given"]
    for node in draw(st.lists(st.sampled_from(givens), min_size=1, max_size=4)):
        design["givens"][node.key] = draw(_within(node.figure))
    if draw(st.booleans()):
        node = draw(st.sampled_from([n for n in nodes if n.figure.kind == "build"]))
        design["pins"][node.key] = {"value": draw(_within(node.figure)), "part": None, "quantity": 1, "reason": "to see"}
    return path, {"design": design, **BODIES[path]}


def _within(figure: Figure) -> st.SearchStrategy[float]:
    """Anywhere that is allowed, in decades where the range is wide; its ends often."""
    low = -1e9 if figure.low is None else figure.low
    high = 1e9 if figure.high is None else figure.high
    inside = st.floats(math.log(low), math.log(high)).map(lambda x: min(max(math.exp(x), low), high)) if low > 0 and high / low > 100 else st.floats(low, high)
    return (st.sampled_from([low, high]) | inside).map(lambda x: float(min(max(round(x), low), high)) if figure.whole else x)


def _disturb(draw: st.DrawFn, body: dict[str, Any]) -> None:
    at: Any = body
    while True:
        keys = sorted(at) if isinstance(at, dict) else list(range(len(at)))
        if not keys:
            return
        key = draw(st.sampled_from(keys))
        if not isinstance(at[key], dict | list) or draw(st.integers(0, 9)) == 0:
            break
        at = at[key]
    match draw(st.sampled_from(["scale", "scale", "replace", "drop", "add"])):
        case "scale" if isinstance(at[key], float):
            # What JSON has no number for is refused before it is read: tests/api/test_hostile.py.
            at[key] = max(-1e308, min(1e308, at[key] * draw(SCALES)))
        case "drop":
            del at[key]
        case "add" if isinstance(at, dict):
            at[draw(st.sampled_from(["battery.cells", "link.link_setpoint", "nothing.here", "x", ""]))] = draw(ODD)
        case _:
            at[key] = draw(ODD)


sent: Counter[int] = Counter()
"""How many calls were answered, by status."""


def judge(case: schemathesis.Case) -> None:
    """Send a call and hold the answer to what is declared. Every other call about a project is about one that there is."""
    for name in ("id", "number"):
        if isinstance((case.path_parameters or {}).get(name), int) and sum(sent.values()) % 2:
            case.path_parameters[name] = 1
    answer = case.call(base_url=HERE)
    sent[answer.status_code] += 1
    case.validate_response(answer, checks=list(CHECKS))


OPERATIONS = [
    (path, method.upper()) for path, methods in make_app(Store("mysql+pymysql://nobody@127.0.0.1:1/none")).openapi()["paths"].items() for method in methods
]
"""What is published: path and method."""
