"""A small campaign in every run of the tests: what a newcomer's brief is worth at its defaults. `make campaign` runs the whole."""

import random

import numpy as np
import pytest

from rhombos.core.lineups import TITLES
from tests.campaign.briefs import CHEMISTRIES, LEAST_WATTS, MOST_WATTS, brief, briefs
from tests.campaign.run import answer, campaign, causes, table


@pytest.fixture(scope="module", name="done")
def _done():
    return campaign(seed=4, count=40)


def test_most_briefs_have_a_first_answer_in_which_nothing_fails(done):
    shares = dict(table(done))
    assert shares["nothing fails in at least one line-up"] >= 88
    assert shares["nothing fails in the one that the project opens with"] >= 85
    assert shares["hold everywhere in the one that the project opens with"] >= 75
    assert shares["hold after at most three clicks on what is offered"] >= 92
    assert shares["a decision is held in the one that the project opens with"] <= 5


def test_clicks_are_few_where_it_holds_and_none_where_it_holds_at_once(done):
    assert len(done.clicks) == len(done.opened)
    for clicks, opened in zip(done.clicks, done.opened, strict=True):
        assert (clicks == 0) == opened.holds
        assert clicks is None or clicks <= 3


def test_what_holds_holds_by_the_sheet_and_what_fails_is_named(done):
    for row in done.answers:
        for a in row:
            assert a.holds == (not a.fails and not a.tight and not a.unknown)
            assert not (a.fails & a.unknown) or a.corners_unknown
    named = {key for key, *_ in causes(done)}
    spoilt = [min(row, key=lambda a: (len(a.unknown), len(a.fails), len(a.tight))) for row in done.answers]
    assert all(a.holds or (a.fails | a.tight | a.unknown) for a in spoilt)
    assert bool(named) == any(not a.holds for a in spoilt)


def test_the_same_brief_has_the_same_answer_whatever_was_solved_before(done):
    for design in done.designs[:6]:
        for id in TITLES:
            (one, first), (other, again) = answer(design, id), answer(design, id)
            assert (one.fails, one.tight, one.unknown) == (other.fails, other.tight, other.unknown)
            for node in first.wiring.nodes:
                if node.figure.kind != "pick":
                    np.testing.assert_array_equal(first.value(node.key), again.value(node.key), err_msg=node.key)


def test_briefs_are_the_same_for_a_seed_and_as_varied_as_is_said():
    assert list(briefs(9, 5)) == list(briefs(9, 5))
    assert list(briefs(9, 5)) != list(briefs(10, 5))
    dice = random.Random(1)
    many = [brief(dice) for _ in range(300)]
    watts = [sum(v for k, v in d.givens.items() if k.endswith("rated_power")) for d in many]
    assert {d.choices["battery.chemistry"] for d in many} == set(CHEMISTRIES)
    assert {d.givens["output.output_frequency"] for d in many} == {50.0, 60.0}
    # Rounded to two digits, load by load.
    assert 0.9 * LEAST_WATTS < min(watts) < 100
    assert 3500 < max(watts) < 1.1 * MOST_WATTS
