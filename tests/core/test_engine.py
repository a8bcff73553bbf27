"""The tape against NumPy: operation by operation, figure by figure, sheet by sheet; and what it refuses."""

import math
from bisect import bisect_left, bisect_right
from decimal import Decimal
from functools import cache
from typing import Any

import numpy as np
import pytest
from hypothesis import assume, given
from hypothesis import strategies as st

from rhombos.core.formulas.expression import TraceError, trace
from rhombos.core.formulas.functions import dowell
from rhombos.core.formulas.numeric import before_surge, bounded, highest, highest_lasting, known, lowest, nearest_in, next_of, seen, up, up_to_step
from rhombos.core.graph.corners import STANDARD
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.bounds import BoundsError, check
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.tape import Records, Writer, program_of
from rhombos.core.graph.engine.template import CODE, WORDS, template
from rhombos.core.graph.engine.told import COMPARE, DOWN, FREE, NOT, SAFE_SIDE, TURNED, UP, context_of
from tests.core.tape_bench import Bench

CORNERS = len(STANDARD.ids)
NUMBERS = st.floats(-1e6, 1e6, allow_subnormal=False)
ANYTHING = st.sampled_from([0.0, -0.0, 1.0, -2.5, 1e300, math.inf, -math.inf, math.nan])


OPERATIONS = {
    "sums": lambda x, y: x + y - 2 * x + (-y) + abs(x) + 0 * y,
    "products": lambda x, y: x * y / 3 + 7 / y,
    "powers": lambda x, y: abs(x) ** 1.5 + x**2 + x**3 + 2 ** (y / 1e6) + abs(y) ** 0.5 + y**-1,
    "roots": lambda x, y: np.sqrt(x) + np.sqrt(np.abs(y)),
    "exponentials": lambda x, y: np.exp(x / 1e5) + np.log(np.abs(y)) + np.log10(np.abs(x)),
    "circles": lambda x, y: np.sin(x) + np.cos(y) + np.tan(x / 1e6) + np.arctan(y) + np.arctan2(x, y),
    "hyperbolas": lambda x, y: np.sinh(x / 1e6) + np.cosh(y / 1e6) + np.tanh(x) + np.arctanh(y / 1.1e6),
    "extremes": lambda x, y: np.maximum(x, y) - 3 * np.minimum(x, 2 * y),
    "forgiving extremes": lambda x, y: np.fmax(x, y) - 3 * np.fmin(x, 2 * y),
    "choices": lambda x, y: np.where((x > y) & ~(y >= 3) | (x == y), x, np.where(x != 2 * y, y, 5.0)),
    "truth as number": lambda x, y: 2.0 * (x < y) + (x <= y) * y,
    "truth of a number": lambda x, y: np.where(x, y, -1.0),
    "tests": lambda x, y: np.where(np.isnan(x) | ~np.isfinite(y), 1.0, 2.0),
    "rounding": lambda x, y: np.floor(x / 7) + np.ceil(y / 7) + np.round(x / 5) + up(y) + up_to_step(x, 5.0),
    "limits": lambda x, y: np.clip(x, -100.0, y),
    "table": lambda x, y: np.interp(x, [-1e5, 0.0, 10.0, 1e5], [3.0, -1.0, 4.0, 4.5]) + 0 * y,
    "two at once": lambda x, y: (
        (x + y) * 3 - (x - 2) / (y * 7) + (4 - x * y) + (5 - (y + 1)) / (x / 3) + 6 / (x - y) + 8 / (x / y) + (9 - (x / y)) + (1 - (x - y))
    ),
    # Of a thinner layer the last digits of the exponential are not those of its factor.
    "skin effect": lambda x, y: dowell(1e-3 + np.abs(x) / 1e4, 1 + np.abs(y) / 1e5),
    "sizes": lambda x, y: next_of([1.0, 10.0, 1e3, 1e5], x) + 0 * y,
}


@pytest.mark.parametrize("across", [False, True])
@pytest.mark.parametrize("name", OPERATIONS)
@given(x=st.one_of(NUMBERS, ANYTHING), y=st.one_of(NUMBERS, ANYTHING))
def test_every_operation_gives_what_numpy_gives(name, across, x, y):
    fn = OPERATIONS[name]
    with np.errstate(all="ignore"):
        expected = fn(np.array([x]), np.array([y]))
    np.testing.assert_allclose(Bench(fn, 2, across)(x, y), expected[0], rtol=1e-12, atol=1e-12 * (1 + min(abs(x), 1e6) if x == x else 1))


REDUCTIONS = {
    "highest": lambda x, y: highest(x * y),
    "lowest": lambda x, y: lowest(x + y),
    "highest that lasts": lambda x, y: highest_lasting(x - y) + 1,
    "before surge": lambda x, y: before_surge(x) * 2 + y,
    "one of the other": lambda x, y: highest(x - lowest(y)) + highest_lasting(before_surge(x)),
    "with the corner": lambda x, y: x / highest(x) + lowest(y),
}


@pytest.mark.parametrize("across", [False, True])
@pytest.mark.parametrize("name", REDUCTIONS)
# Of 0 and −0 neither is the higher, and NumPy and the processor may take either: only 0 is drawn.
@given(x=st.lists(st.one_of(NUMBERS, ANYTHING).map(lambda v: v + 0.0), min_size=CORNERS, max_size=CORNERS), y=st.one_of(NUMBERS, st.just(math.nan)))
def test_reductions_over_the_corners_skip_what_is_unknown(name, across, x, y):
    fn, many = REDUCTIONS[name], np.array(x)
    with np.errstate(all="ignore"), seen(STANDARD):
        expected = np.atleast_1d(fn(many, np.array([y])))
        narrow = np.atleast_1d(fn(np.array([x[0]]), np.array([y])))
    np.testing.assert_allclose(np.atleast_1d(Bench(fn, 2, across)(many, y)), expected, rtol=1e-12, atol=1e-6)
    np.testing.assert_allclose(Bench(fn, 2, across)(x[0], y), narrow[0], rtol=1e-12, atol=1e-6)


def test_a_condition_raises_the_flag_and_lets_the_value_pass():
    bench = Bench(lambda x: highest(known(x > 2, 3 * x, "{x} is too little", x=x)), 1)
    many = np.linspace(3, 4, CORNERS)
    assert bench(many) == pytest.approx(12)
    assert not bench.flags[0]
    many[4] = 1.0
    assert bench(many) == pytest.approx(12)
    assert bench.flags[0]
    many[4] = math.nan
    bench(many)
    assert bench.flags[0], "what is not a number meets no condition"


def test_a_bound_holds_only_while_a_loop_is_iterated():
    bench = Bench(lambda x, most: bounded(x, most), 2)
    assert bench(5.0, 3.0) == 5.0
    assert bench(5.0, 3.0, iterating=True) == 3.0
    assert bench(math.nan, 3.0, iterating=True) == 3.0
    assert bench(2.0, 3.0, iterating=True) == 2.0


@cache
def rungs_of(series: str) -> list[Decimal]:
    """All preferred numbers of a series as exact decimals."""
    e24 = [
        "1.0",
        "1.1",
        "1.2",
        "1.3",
        "1.5",
        "1.6",
        "1.8",
        "2.0",
        "2.2",
        "2.4",
        "2.7",
        "3.0",
        "3.3",
        "3.6",
        "3.9",
        "4.3",
        "4.7",
        "5.1",
        "5.6",
        "6.2",
        "6.8",
        "7.5",
        "8.2",
        "9.1",
    ]
    step = {"E6": 4, "E12": 2, "E24": 1}
    mantissas = e24[:: step[series]] if series in step else [f"{10 ** (k / 96):.2f}" for k in range(96)]
    return [Decimal(m).scaleb(k) for k in range(-14, 12) for m in mantissas]


def reference(rungs: list[Decimal], side: str, x: float) -> float:
    wanted = Decimal(x)
    if side == "up":
        return float(rungs[bisect_left(rungs, wanted * (1 - Decimal("1e-9")))])
    if side == "down":
        return float(rungs[bisect_right(rungs, wanted * (1 + Decimal("1e-9"))) - 1])
    below, above = rungs[bisect_right(rungs, wanted) - 1 :][:2]
    return float(below if wanted * wanted <= below * above else above)  # which is nearer by ratio


@pytest.mark.parametrize("series", ["E6", "E12", "E24", "E96"])
@pytest.mark.parametrize("side", ["up", "down", "nearest"])
@given(x=st.floats(1e-12, 1e9))
def test_preferred_values_are_the_doubles_nearest_to_their_decimals(series, side, x):
    pick, rungs = nearest_in(series, side), rungs_of(series)
    bench = Bench(pick, 1)
    at = bisect_left(rungs, Decimal(x))
    assume(not any(0 < abs(x / float(r) - 1) < 1e-8 for r in rungs[at - 1 : at + 1]))  # where the forgiveness of rounding noise decides
    wanted = reference(rungs, side, x)
    assert bench(x) == wanted == pick(x)
    assert bench(wanted) == wanted, "a preferred value is its own"


@pytest.mark.parametrize("x", [0.0, -1.0, math.nan, math.inf])
def test_there_is_no_preferred_value_of_nothing(x):
    assert math.isnan(Bench(nearest_in("E12", "up"), 1)(x))


@pytest.mark.parametrize(
    "fn", [lambda x: x if x > 1 else 2 * x, lambda x: np.sort(x), lambda x: x * np.array([1.0, 2.0]), lambda x: float(x), lambda x: math.sin(x)]
)
def test_what_is_not_arithmetic_is_left_to_numpy(fn):
    with pytest.raises(TraceError):
        trace(fn, 1)
    assert template(fn, 1) is None


def test_like_terms_are_worked_out_once():
    of = template(lambda x, y: np.exp(x) * y + np.exp(x), 2)
    assert [step.op for step in of.steps].count("exp") == 1


@pytest.mark.parametrize(("word", "value"), [(0, len(CODE)), (0, -1), (1, 10), (1, -40), (2, 0), (2, 99), (3, 12), (5, -40)], ids=lambda v: str(v))
def test_a_record_that_leaves_its_block_is_refused(word, value):
    writer = Writer(3, 0)
    good = program_of([writer.record("add", 6, 3, [(0, True), (3, True)])])
    check(good, 9, 4, 1)
    bad = good.copy()
    bad[word] = value
    with pytest.raises(BoundsError, match="record 0"):
        check(bad, 9, 4, 1)


@given(sizes=st.lists(st.sampled_from([1, 3]), min_size=1, max_size=30), data=st.data())
def test_room_used_again_never_holds_two_things_at_once(sizes, data):
    """Programs of random sums against the same sums in Python: whatever is still to be read must still be there."""
    writer = Writer(3, 0)
    block = np.arange(1.0, 4.0)[:, None] + np.zeros((1, LANES))
    made: list[tuple[Any, int]] = []
    words: list[Records] = []
    expected: list[Any] = []
    for size in sizes:
        earlier = data.draw(st.integers(-1, len(made) - 1))
        room = writer.room(size)
        source, value = ((0, True), np.arange(1.0, 4.0)) if earlier < 0 else ((made[earlier][0], made[earlier][1] > 1), expected[earlier])
        words.append(writer.record("add", room, size, [source if size > 1 or not source[1] else (source[0], False), (writer.constant(1.0), False)]))
        expected.append((value if size > 1 else np.atleast_1d(value)[:1]) + 1)
        made.append((room, size))
    words.append(writer.record("copy", 0, 3 if sizes[-1] > 1 else 1, [(made[-1][0], sizes[-1] > 1)]))
    program = program_of(words)
    writer.settle([program])
    check(program, 3, writer.vectors, 1)
    bench = writer.bench(LANES)
    context = context_of(0, 0, 0, bench.ctypes.data)
    MACHINE.run(block.ctypes.data, program.ctypes.data, len(program), context.ctypes.data, 1, 3)
    np.testing.assert_array_equal(block[: 3 if sizes[-1] > 1 else 1, 0], np.broadcast_to(expected[-1], 3 if sizes[-1] > 1 else 1))
    assert program.reshape(-1, WORDS)[:, 1].max() <= 0, "all but the last lies on the bench"


@given(before=st.floats(1, 100), after=st.floats(1, 100))
def test_decisions_are_compared_and_held_to_their_side(before, after):
    bench = Bench(lambda x: 1.0 * x, 1)

    def weighed(side: int, weigh: int, course: float = 1.0 + TURNED) -> tuple[float, bool]:
        bench.block[bench.out] = before
        bench.block[bench.course] = course if after <= before else -course
        return bench(after, side=side, weigh=weigh), bool(bench.changed[0])

    moved = abs(after - before) > 1e-7 * after
    taken = after if moved else before
    assert weighed(UP, NOT) == (after, False)
    assert weighed(FREE, SAFE_SIDE) == (taken, moved)
    assert weighed(UP, COMPARE) == (taken, moved)
    assert weighed(UP, SAFE_SIDE) == ((taken, moved) if after > before else (before, False))
    assert weighed(DOWN, SAFE_SIDE) == ((taken, moved) if after < before else (before, False))
    assert weighed(UP, SAFE_SIDE, 0.0) == (taken, moved), "what has not turned is free to go back"


@given(values=st.lists(st.sampled_from([1.0, 2.0, 3.0, math.nan]), min_size=2, max_size=12))
def test_a_decision_keeps_to_its_side_once_it_has_turned_too_often(values):
    bench = Bench(lambda x: 1.0 * x, 1)
    bench.block[bench.out] = stands = 2.0
    way, turns = 0, 0
    for value in values:
        step = 0 if math.isnan(value) or math.isnan(stands) else int(np.sign(value - stands))
        turns += step * way < 0
        way = step or way
        stands = np.fmax(stands, value) if turns > TURNED else value
        np.testing.assert_equal(bench(value, side=UP, weigh=SAFE_SIDE), stands)


def test_an_unknown_decision_gives_way_and_rests_when_it_stays_unknown():
    bench = Bench(lambda x: 1.0 * x, 1)
    for before, after, expected, changed in ((math.nan, 3.0, 3.0, True), (3.0, math.nan, 3.0, False), (math.nan, math.nan, math.nan, False)):
        bench.block[bench.out] = before
        bench.block[bench.course] = 1.0 + 2 * TURNED
        np.testing.assert_equal(bench(after, side=UP, weigh=SAFE_SIDE), expected)
        assert bool(bench.changed[0]) == changed
