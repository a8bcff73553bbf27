"""Loops brought to rest by machine code and by NumPy: the same passes, the same verdicts, and what a root finder finds."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import brentq

from rhombos.core.graph.corners import STANDARD, CornerSet, corner
from rhombos.core.graph.declare import Stage
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.loops import from_nearest
from rhombos.core.graph.model import Model
from rhombos.core.graph.places import LineUp, Place
from tests.core.by_numpy import without_tape
from tests.core.toy import SOURCE, toy_lineup, toy_stages


def running_away(exponent: float, share: float = 0.5) -> LineUp:
    """The toy with a wire whose loss follows its own input power."""
    stages = toy_stages()
    stages.wire.figures.pop("loss")

    @stages.wire.operation(unit="W", symbol="P", start=1.0, tex=rf"{share}\,{{input_power}}^{{{exponent}}}", source="made to feed itself", title="Loss")
    def loss(input_power):
        """Grows with what it adds to."""
        return share * np.abs(input_power) ** exponent

    return toy_lineup(stages)


def both_ways(lineup: LineUp, inputs: Inputs, monkeypatch: pytest.MonkeyPatch):
    """The sheet by machine code and by NumPy alone."""
    fast = Model(lineup, {}).solve(inputs)
    with monkeypatch.context() as patch:
        without_tape(patch)
        return fast, Model(lineup, {}).solve(inputs)


def same(fast, slow) -> None:
    assert abs(fast.inner_passes - slow.inner_passes) <= 1
    for node in fast.wiring.nodes:
        if node.figure.kind == "pick" or fast.values[node.index] is None:
            continue
        one, other = fast.status(node.index), slow.status(node.index)
        assert (one is None) == (other is None), node.key
        if one is not None:
            np.testing.assert_array_equal(one, np.broadcast_to(other, one.shape), err_msg=node.key)
        mine = fast.value(node.key)
        if np.nanmax(np.abs(mine), initial=0) > 1e30:
            continue  # what ran away ran as far as rounding took it
        np.testing.assert_allclose(mine, np.broadcast_to(slow.value(node.key), mine.shape), rtol=1e-7, err_msg=node.key)


@pytest.mark.parametrize("powers", [[100.0], [50.0, 100.0, 400.0], [10.0, 200.0, 900.0, 1200.0, 1500.0], list(np.linspace(5, 1600, 23))])
def test_some_variants_settle_and_others_cannot_and_both_ways_agree_which(powers, monkeypatch):
    column = np.array(powers)[:, None] if len(powers) > 1 else powers[0]
    fast, slow = both_ways(toy_lineup(), Inputs({"heater.wanted_power": column}), monkeypatch)
    same(fast, slow)
    if max(powers) > 1500:
        assert fast.status(fast.wiring.index["source.output_voltage"]).max() == 2, "1600 W cannot be had from 24 V behind 0.1 Ω"
        assert np.isfinite(fast.value("source.output_voltage")[0]).all(), "the others are solved"


@pytest.mark.parametrize(("exponent", "share"), [(1.2, 0.5), (1.0, 0.9), (0.9, 0.5), (1.0, 1.1)])
def test_loops_that_feed_themselves_end_alike(exponent, share, monkeypatch):
    same(*both_ways(running_away(exponent, share), Inputs(), monkeypatch))


def test_a_linear_loop_just_below_one_settles_on_its_geometric_sum():
    """P = P_0 + 0.9·P: plain passes would need two hundred for 1e-9; the mix finds P_0/(1 − 0.9) well within fifty."""
    full = CornerSet((corner("nominal_full", "full"),))
    sheet = Model(running_away(1.0, 0.9), {}).solve(Inputs(), full)
    assert sheet.at("wire.input_power", "nominal_full") == pytest.approx(100 / 0.1, rel=1e-8)
    assert sheet.inner_passes < 20


def test_a_linear_loop_above_one_is_not_talked_into_its_unstable_point():
    """P = P_0 + 1.1·P has the solution −10·P_0, from which everything runs away: no mixing may land there."""
    sheet = Model(running_away(1.0, 1.1), {}).solve(Inputs())
    index = sheet.wiring.index["wire.input_power"]
    assert sheet.status(index)[2] == 2
    assert "runs away" in sheet.why_missing(index, 2)


@given(power=st.floats(1, 1300), rest=st.floats(18, 60), resistance=st.floats(1e-3, 0.1))
@settings(max_examples=60)
def test_the_stable_solution_is_found_wherever_there_is_one(power, rest, resistance):
    def gap(v: float) -> float:
        return rest - resistance * (power + (power / v) ** 2 * 0.05) / v - v

    sheet = Model(toy_lineup(), {}).solve(
        Inputs({"heater.wanted_power": power, "source.rest_voltage": rest, "source.resistance": resistance}).with_pin("wire.strands", 1.0)
    )
    v = np.linspace(rest / 200, rest, 20_000)
    gaps = np.vectorize(gap)(v)
    solvable = (gaps > 0).any()
    ours = sheet.at("source.output_voltage", "nominal_full")
    if not solvable:
        assert np.isnan(ours)
    elif power * resistance < 0.15 * rest**2:  # well on the source's side of its greatest power
        assert ours == pytest.approx(brentq(gap, v[np.argmax(gaps)], rest, xtol=1e-12), rel=1e-7)


def chain(count: int) -> LineUp:
    """Stages in a ring, each with a starting value: as many tears as a loop can have."""
    ring = Stage("ring", "Ring")
    ring.give("size", 1.0, "", "", 0, 10, "What drives the ring.")
    for k in range(count):
        before = f"value_{(k - 1) % count}"
        namespace: dict[str, object] = {}
        exec(
            f"def value_{k}({before}, size, load_fraction):\n    'A value of the ring.'\n    return size + load_fraction + 0.5 * {before} + 0 * {before}",
            namespace,
        )
        ring.operation(unit="", tex=rf"{{size}}+{{load_fraction}}+0.5{{{before}}}", source=SOURCE, start=1.0)(namespace[f"value_{k}"])
    return LineUp("ring", "Ring", (Place("ring", ring, "a"),))


@pytest.mark.parametrize("count", [1, 2, 5, 9])
def test_rings_of_any_length_settle_on_their_fixed_point(count):
    """X = s + f + x/2 all round has x = 2·(s + f), corner by corner."""
    sheet = Model(chain(count), {}).solve(Inputs({"ring.size": 3.0}))
    np.testing.assert_allclose(
        np.broadcast_to(sheet.value("ring.value_0"), len(sheet.corners.ids)), 2 * (3.0 + sheet.corners.along("load_fraction")), rtol=1e-8
    )


def test_many_variants_settle_each_on_its_own():
    sizes = np.linspace(0.5, 9.5, 37)
    sheet = Model(chain(3), {}).solve(Inputs({"ring.size": sizes[:, None]}))
    np.testing.assert_allclose(sheet.value("ring.value_2"), 2 * (sizes[:, None] + sheet.corners.along("load_fraction")), rtol=1e-8)


def test_the_nearest_corner_to_no_load_at_the_highest_source_is_no_load_at_the_nominal_one():
    ids = STANDARD.ids
    order = [ids[k] for k in STANDARD.nearest[ids.index("highest_none")]]
    assert order[:2] == ["highest_none", "nominal_none"]
    assert all(sorted(row) == list(range(len(ids))) for row in STANDARD.nearest.tolist())


@given(st.lists(st.lists(st.one_of(st.none(), st.floats(-9, 9)), min_size=11, max_size=11), min_size=1, max_size=3))
def test_a_corner_without_a_value_begins_at_its_nearest_that_has_one(rows):
    value = np.array([[np.nan if x is None else x for x in row] for row in rows])
    found = from_nearest(value, STANDARD.nearest, 77.0)
    for row, out in zip(rows, found, strict=True):
        wanted = [next((row[j] for j in STANDARD.nearest[i] if row[j] is not None), 77.0) for i in range(11)]
        assert out.tolist() == wanted
    assert from_nearest(np.array([np.nan]), STANDARD.nearest, 77.0).tolist() == [77.0]
