"""Variants solved together are what each is alone: whatever way it goes, whoever goes beside it."""

from itertools import islice

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhombos.catalogue.loader import load
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.parted import lanes_of, moved_up
from rhombos.core.graph.model import Model
from rhombos.core.graph.passes import Passes
from rhombos.core.graph.side_by_side import SideBySide
from rhombos.core.lineups import LINE_UPS, lineup
from rhombos.formats.design import of_sample
from tests.campaign.briefs import briefs
from tests.core.by_numpy import without_tape

LOAD = "load_1.rated_power"


def differences(model, inputs, watts):
    """Nodes and picks that a variant has otherwise than the same sheet alone, with how many passes each took."""
    together = model.solve(inputs.with_given(LOAD, watts[:, None]))
    found, passes = [], []
    for k, value in enumerate(watts):
        alone = model.solve(inputs.with_given(LOAD, float(value)))
        passes.append(alone.passes)
        found += [(value, i) for i in alone.picks if int(alone.picks[i].chosen) != np.broadcast_to(together.picks[i].chosen, len(watts))[k]]
        for node in model.wiring.nodes:
            one, many = alone.values[node.index], together.values[node.index]
            if one is None:
                continue
            one, many = np.atleast_1d(one), np.atleast_1d(many)
            many = many[k] if many.ndim > 1 else many
            # What is a difference of great numbers is known as well as they are.
            size = np.nanmax(np.abs(one), initial=0.0)
            if not np.allclose(many, one, rtol=1e-6, atol=1e-9 * size if np.isfinite(size) else 0.0, equal_nan=True):
                found.append((value, node.key, one.tolist(), many.tolist()))
            status = [
                np.broadcast_to(0 if s is None else s, shape)
                for s, shape in ((alone.status(node.index), one.shape), (together.status(node.index), (len(watts), *one.shape)))
            ]
            if not np.array_equal(status[0], status[1][k]):
                found.append((value, node.key, "what is known"))
    return found, passes


@pytest.mark.parametrize("id", LINE_UPS)
@pytest.mark.parametrize(("seed", "first"), [(3, 12), (4, 57)])
def test_variants_are_what_each_is_alone(id, seed, first):
    """Loads from a tenth of what a made-up brief asks to four times of it, where starts are lost and nothing stands any more."""
    ways = set()
    for design in islice(briefs(seed, first + 2), first, None):
        design = design.model_copy(update={"lineup": id})
        found, passes = differences(design.model(), design.inputs(), design.givens[LOAD] * np.linspace(0.1, 4.0, 11))
        assert not found, found[:4]
        ways.update(passes)
    assert len(ways) > 2, "they do not all go the same way"


def test_what_numpy_decides_goes_the_same_way(monkeypatch):
    """Without the tape picks are judged by NumPy, and their states are parted and put together as well."""
    with monkeypatch.context() as patched:
        without_tape(patched)
        design = of_sample("ferrite_push_pull_link_bridge")
        # One of its own: what is kept of a line-up is for all.
        found, passes = differences(
            Model(lineup(design.lineup, tuple(row.place for row in design.loads)), load()), design.inputs(), design.givens[LOAD] * np.array([0.5, 1.0, 2.5])
        )
    assert not found, found[:4]
    assert len(set(passes)) > 1


def test_who_has_come_to_rest_costs_nothing_more(monkeypatch):
    design = of_sample("ferrite_push_pull_link_bridge")
    model, inputs = design.model(), design.inputs()
    watts = design.givens[LOAD] * np.linspace(0.5, 1.5, 24)
    worked = []
    made = Passes._pass

    def counted(self):
        worked.append(self.values.lanes)
        return made(self)

    alone = sum(model.solve(inputs.with_given(LOAD, float(value))).passes - 1 for value in watts)
    monkeypatch.setattr(Passes, "_pass", counted)
    model.solve(inputs.with_given(LOAD, watts[:, None]))
    # One sheet alone may spare itself a free pass where it sees that nothing hangs on what it remembers.
    assert alone <= sum(worked) <= 1.1 * alone


@given(st.integers(1, 40), st.data())
def test_variants_move_up_where_others_have_left(count, data):
    left = np.array(sorted(data.draw(st.sets(st.integers(0, count - 1), min_size=1))))
    order = moved_up(left)
    assert sorted(order) == left.tolist()
    stays = left[left < len(left)]
    assert (order[stays] == stays).all(), "who is among the first stays where he is"
    blocks = -(-count // LANES)
    buffer = np.arange(blocks * 3 * LANES, dtype=float).reshape(blocks, 3, LANES)
    taken = lanes_of(buffer, order).transpose(0, 2, 1).reshape(-1, 3)
    np.testing.assert_array_equal(taken[: len(order)], buffer.transpose(0, 2, 1).reshape(-1, 3)[order])
    np.testing.assert_array_equal(taken[len(order) :], np.broadcast_to(taken[len(order) - 1], taken[len(order) :].shape))


def test_a_fault_in_one_half_is_told(monkeypatch):
    """What fails beside the others fails the whole solve, and its desk is not left taken."""
    design = of_sample("ferrite_push_pull_link_bridge")
    model, inputs = design.model(), design.inputs()

    def failing(self):
        raise FloatingPointError("half")

    with monkeypatch.context() as patched:
        patched.setattr(SideBySide, "end", failing)
        with pytest.raises(FloatingPointError, match="half"):
            model.solve(inputs.with_given(LOAD, np.linspace(100, 200, 12)[:, None]))
    assert model.solve(inputs.with_given(LOAD, np.linspace(100, 200, 12)[:, None])).value("totals.efficiency").shape[0] == 12
