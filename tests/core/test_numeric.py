"""What formulas may use beside plain NumPy: reductions, conditions, rounding, and what a solve lets them see."""

import math

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import special

from rhombos.core.formulas.numeric import applies, before_surge, bounded, context, gamma, highest, highest_lasting, known, lowest, next_of, seen, up_to_step
from rhombos.core.graph.corners import STANDARD, CornerSet, corner
from rhombos.core.graph.picked import ratio
from rhombos.demo import tern_islet

COUNT = len(STANDARD.ids)


def test_reductions_keep_an_axis_and_leave_single_numbers_alone():
    many = np.array([[1.0, math.nan, 3.0], [math.nan, math.nan, math.nan]])
    np.testing.assert_array_equal(highest(many), [[3.0], [math.nan]])
    np.testing.assert_array_equal(lowest(many), [[1.0], [math.nan]])
    assert highest(2.0) == lowest(2.0) == highest_lasting(2.0) == 2.0


def test_what_lasts_is_the_solve_s_own_corners():
    values = np.arange(float(COUNT))
    surges = np.flatnonzero(STANDARD.along("surge")).tolist()
    values[surges] = 100.0
    with seen(STANDARD):
        assert highest_lasting(values)[0] < 100
        moved = before_surge(values)
        for i in surges:
            level, load, surge = (STANDARD.along(name) for name in ("source_level", "load_fraction", "surge"))
            (full,) = np.flatnonzero((level == level[i]) & (load == 1) & (surge == 0))
            assert moved[i] == values[full]
    assert highest_lasting(values)[0] == 100, "outside a solve every value counts"


def test_a_set_of_surges_alone_counts_as_lasting():
    only = CornerSet((corner("a", "a", 0.0, surge=True), corner("b", "b", 2.0, surge=True)))
    assert only.lasting.all()
    np.testing.assert_array_equal(only.before, [0, 1])


def test_what_a_solve_lets_formulas_see_ends_with_it_even_when_it_fails():
    def fails() -> None:
        with seen(STANDARD):
            known(np.array([False]), np.array([1.0]), "never")
            context.iterating = True
            raise ZeroDivisionError

    before = list(context.causes)
    with pytest.raises(ZeroDivisionError):
        fails()
    assert context.lasting is None
    assert context.before_surge is None
    assert not context.iterating
    assert context.causes == before


@pytest.mark.parametrize(("mark", "kind"), [(known, 2), (applies, 1)])
def test_a_condition_takes_the_value_away_and_says_why(mark, kind):
    with seen(STANDARD):
        value = mark(np.array([True, False, True]), np.array([1.0, 2.0, 3.0]), "no {x}", x=7)
        (cause,) = context.causes
        assert (cause.kind, cause.sentence, cause.numbers) == (kind, "no {x}", {"x": 7})
        np.testing.assert_array_equal(cause.where, [False, True, False])
    np.testing.assert_array_equal(value, [1.0, math.nan, 3.0])


def test_a_bound_judges_the_settled_state_without_it():
    with seen(STANDARD):
        assert bounded(np.array([5.0]), 3.0) == 5.0
        context.iterating = True
        np.testing.assert_array_equal(bounded(np.array([5.0, math.nan, 1.0]), 3.0), [3.0, 3.0, 1.0])


@given(x=st.floats(0.05, 30))
def test_the_gamma_function_is_scipy_s(x):
    assert float(gamma(x)) == pytest.approx(float(special.gamma(x)), rel=1e-12)
    np.testing.assert_allclose(gamma(np.array([[x], [x + 1]])), special.gamma([[x], [x + 1]]), rtol=1e-12)


@given(x=st.floats(0.1, 400), step=st.floats(0.1, 50))
def test_steps_and_sizes_never_fall_short(x, step):
    stepped = float(up_to_step(x, step))
    assert stepped >= x * (1 - 1e-8)
    assert stepped - x < step * (1 + 1e-8)
    sizes = [1.0, 2.5, 10.0, 95.0]
    found = float(next_of(sizes, x))
    assert found == next((s for s in sizes if s >= x * (1 - 1e-9)), 95.0)


@pytest.mark.parametrize(
    ("capability", "demand", "margin"), [(10, 4, 2.5), (10, 0, math.inf), (10, -1, math.inf), (10, math.nan, math.nan), (math.nan, 1, math.nan)]
)
def test_the_margin_of_a_need(capability, demand, margin):
    with np.errstate(all="ignore"):
        np.testing.assert_equal(float(ratio(np.float64(capability), np.float64(demand))), margin)


def test_a_pick_whose_columns_are_all_pinned_is_still_made():
    """Each column of the fuse held at a measured value: nothing is left to publish, and the sheet is solved."""
    design = tern_islet.first()
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(inputs)
    wired = next(p for p in model.wiring.picks if p.key == "input.fuse")
    for _, index in wired.published:
        key = model.wiring.nodes[index].key
        inputs = inputs.with_pin(key, float(sheet.value(key)[0]), "measured")
    held = model.solve(inputs)
    np.testing.assert_allclose(held.value("totals.efficiency"), sheet.value("totals.efficiency"), rtol=1e-9)
    np.testing.assert_allclose(held.computed[wired.published[0][1]], sheet.value(model.wiring.nodes[wired.published[0][1]].key))
