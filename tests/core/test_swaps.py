"""Where no setting mends a check, the line-up in which it holds is offered: less is wrong there, and isolation is not given up."""

from functools import partial

import pytest

from rhombos.core.comparison import is_isolated
from rhombos.core.graph.remedies import remedies
from rhombos.core.graph.verdicts import HOLDS
from rhombos.core.lineups import LINE_UPS
from rhombos.core.swaps import swaps
from rhombos.formats.design import Design, of_sample

PUSH_PULL, BRIDGE, BOOST = "ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge", "boost_link_bridge"


def solved(design: Design):
    model = design.model()
    return model, model.solve(design.inputs())


def heavy() -> Design:
    """A brief of 24 V and 1.5 kW, for which the push-pull's leakage costs more than it may."""
    design = of_sample(PUSH_PULL)
    return design.model_copy(update={"givens": {**design.givens, "load_3.rated_power": 1500.0}})


def others(design: Design):
    return {id: partial(solved, design.model_copy(update={"lineup": id})) for id in LINE_UPS if id != design.lineup}


@pytest.fixture(scope="module", name="push_pull")
def _push_pull():
    design = heavy()
    return design, *solved(design)


def test_the_line_up_in_which_a_check_holds_is_offered_with_what_fails_there(push_pull):
    design, model, sheet = push_pull
    found = remedies(model, sheet, "clamp")
    offered = swaps((model, sheet), others(design), found, "clamp")
    assert [r.check for r in offered] == ["clamp.leakage_share"]
    (swap,) = offered
    assert (swap.kind, swap.part, swap.offered) == ("line-up", BRIDGE, True)
    other, there = others(design)[BRIDGE]()
    code = there.judge().code.min(axis=1)
    fails = {c.check.title for c, worst in zip(other.wiring.checks, code, strict=True) if worst == 0}
    assert set(swap.breaks) <= fails
    assert swap.after == (code < HOLDS).sum() < swap.before == (sheet.judge().code.min(axis=1) < HOLDS).sum()


def test_isolation_is_not_given_up_and_what_is_mended_at_hand_asks_for_no_other_line_up(push_pull):
    design, model, sheet = push_pull
    only_boost = {BOOST: others(design)[BOOST]}
    assert not is_isolated(only_boost[BOOST]()[0])
    assert is_isolated(model)
    assert swaps((model, sheet), only_boost, [], None) == []
    every = swaps((model, sheet), others(design), [], None)
    mended = {r.check for r in remedies(model, sheet) if r.offered and not r.breaks}
    left = swaps((model, sheet), others(design), remedies(model, sheet), None)
    assert {r.check for r in left} == {r.check for r in every} - mended


def test_where_all_holds_nothing_else_is_solved():
    def never():
        raise AssertionError("nobody asked")

    design = of_sample(BRIDGE)
    model, sheet = solved(design)
    assert (sheet.judge().code == HOLDS).all()
    assert swaps((model, sheet), {PUSH_PULL: never}, [], None) == []
