"""Holding a build, and what changed since."""

import numpy as np
import pytest

from rhombos.core.lineups import TITLES
from rhombos.formats.changed import changes
from rhombos.formats.design import LoadRow, of_sample
from rhombos.formats.held import HELD, held


@pytest.fixture(params=TITLES, name="solved")
def _solved(request):
    design = of_sample(request.param)
    return design, design.model(), design.model().solve(design.inputs())


def test_a_held_build_is_the_same_sheet_and_stays_what_it_is_when_the_brief_grows(solved):
    design, model, sheet = solved
    pins = held(model, sheet, design, "parts ordered")
    same = design.model_copy(update={"pins": pins})
    again = model.solve(same.inputs())
    for node in model.wiring.nodes:
        if node.figure.kind in ("build", "operation"):
            a, b = sheet.value(node.key), again.value(node.key)
            np.testing.assert_allclose(b, np.broadcast_to(a, b.shape), rtol=2e-5, atol=1e-12, err_msg=node.key)
    load = next(k for k in same.givens if k.endswith(".rated_power"))
    grown = same.model_copy(update={"givens": {**same.givens, load: 1.6 * same.givens[load]}})
    more = model.solve(grown.inputs())
    for node in model.wiring.nodes:
        if node.figure.kind == "build" and node.figure.decided:
            np.testing.assert_array_equal(more.value(node.key), again.value(node.key), err_msg=node.key)
    told = changes((same, model, again), (grown, model, more))
    assert {c["kind"] for c in told} >= {"given", "total"}
    assert not {c["kind"] for c in told} & {"part", "decision", "pin"}, "nothing that was ordered is another"


def test_what_was_pinned_before_keeps_its_reason(solved):
    design, model, sheet = solved
    pins = held(model, sheet, design, "ordered at the quay")
    assert all(pins[k] == pin for k, pin in design.pins.items())
    new = pins.keys() - design.pins.keys()
    assert len(new) > 25
    assert all(pins[k].reason == HELD + "ordered at the quay" for k in new)


def test_what_changed_is_told_from_what_was_typed_to_what_became_of_it(solved):
    design, model, sheet = solved
    load = next(k for k in design.givens if k.endswith(".rated_power"))
    moved = design.model_copy(
        update={
            "givens": {**design.givens, load: 2.2 * design.givens[load]},
            "choices": {**design.choices, "polarity.polarity_school": "series_switch"},
            "loads": [*design.loads[:-1], LoadRow(place=design.loads[-1].place, title="Something else")],
        }
    )
    told = changes((design, model, sheet), (moved, model, model.solve(moved.inputs())))
    kinds = [c["kind"] for c in told]
    assert kinds == sorted(kinds, key=["line-up", "load", "given", "choice", "pin", "part", "decision", "judgement", "total"].index)
    assert {"load", "given", "choice", "decision", "total"} <= set(kinds)
    given = next(c for c in told if c["kind"] == "given")
    assert given["before"] != given["after"]
    assert given["place"] == load.split(".")[0]
    choice = next(c for c in told if c["kind"] == "choice")
    assert (choice["before"], choice["after"]) == ("keyed connector only", "series MOSFET")
    assert changes((design, model, sheet), (design, model, sheet)) == []


def test_another_line_up_is_told_first():
    a, b = (of_sample(id) for id in list(TITLES)[:2])
    b = b.model_copy(update={"loads": a.loads})
    told = changes(*((d, d.model(), d.model().solve(d.inputs())) for d in (a, b)))
    assert told[0]["kind"] == "line-up"
    assert any(c["kind"] == "judgement" and "not judged" in (c["before"], c["after"]) for c in told)
