"""Like terms of several formulas are worked out once; what loops hang on stands when they come to rest; starting values that cut."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.tape import Writer, program_of
from rhombos.core.graph.engine.template import WORDS, template
from rhombos.core.graph.engine.terms import like_terms
from rhombos.core.graph.engine.told import context_of
from rhombos.core.graph.ordering import cut
from rhombos.core.lineups import LINE_UPS
from rhombos.formats.design import of_sample

ROWS = 8
FORMULAS = (
    lambda a, b: np.exp(a) * np.sin(b) + a,
    lambda a, b: np.exp(a) * np.sin(b) - b,
    lambda a, b: np.sin(b) / (1 + np.exp(a)),
    lambda a, b: np.maximum(a, b) * np.exp(a),
)


@given(st.lists(st.tuples(st.sampled_from(FORMULAS), st.integers(0, 3), st.integers(0, 3), st.integers(0, ROWS - 1)), min_size=2, max_size=12), st.data())
def test_the_same_numbers_come_out_with_like_terms_worked_out_once(uses, data):
    """Rows are written over on the way, as a loop writes its starting values: what was read before is another term afterwards."""

    def worked(sparing: bool) -> tuple[np.ndarray, int]:
        writer = Writer(1, 0)
        programs = [
            program_of([words for fn, a, b, out in uses[k::2] for words in writer.write(template(fn, 2), [(a, False), (b, False)], out, wide=False)])
            for k in range(2)
        ]
        programs = like_terms(programs) if sparing else programs
        writer.settle(programs)
        block, bench = numbers.copy(), writer.bench(LANES)
        context = context_of(0, 0, 0, bench.ctypes.data)
        MACHINE.ready()
        for program in programs:
            check(program, ROWS, writer.vectors, 0)
            if len(program):
                MACHINE.run(block.ctypes.data, program.ctypes.data, len(program), context.ctypes.data, 1, ROWS)
        return block, sum(len(p) for p in programs) // WORDS

    numbers = np.array([data.draw(st.floats(-2, 2)) for _ in range(ROWS)])[:, None] * np.ones(LANES)
    (plain, all_of_them), (spared, left) = worked(False), worked(True)
    np.testing.assert_array_equal(spared, plain)
    assert left <= all_of_them


def test_a_term_of_two_formulas_is_worked_out_once():
    writer = Writer(1, 0)
    records = [w for fn, out in zip(FORMULAS[:2], (2, 3), strict=True) for w in writer.write(template(fn, 2), [(0, False), (1, False)], out, wide=False)]
    (program,) = like_terms([program_of(records)])
    # exp and sin once, then a sum and a difference of their product.
    assert len(program) // WORDS == 4


@pytest.mark.parametrize("id", LINE_UPS)
def test_loops_come_to_rest_behind_all_that_leads_to_them_and_follows_from_decisions(id):
    plan = of_sample(id).model().plan(frozenset())
    loops = [item for item in plan.items if item.tears]
    assert [item for item in plan.to_rest if item.tears] == loops
    stands: set[int] = set()
    moving, computed = set(plan.moving), {i for item in plan.items for i in item.nodes}
    for item in plan.to_rest:
        waiting = {a for i in item.nodes for a in plan.args[i] if a in computed and a in moving and a not in item.nodes}
        assert waiting <= stands, [plan.wiring.nodes[i].key for i in waiting - stands]
        stands.update(item.nodes)


@given(st.integers(3, 14), st.data())
def test_what_cut_the_loops_of_a_graph_cuts_those_that_are_left_of_it(count, data):
    """A pinned figure reads nothing any more: the cuts of the free graph are taken again, and the order has arguments first."""
    args = [tuple(data.draw(st.sets(st.integers(0, count - 1), max_size=3)) - {i}) for i in range(count)]
    nodes = list(range(count))
    found = cut(nodes, args, nodes)
    assert found is not None
    gone = data.draw(st.integers(0, count - 1))
    left = [() if i == gone else a for i, a in enumerate(args)]
    again = cut(nodes, left, nodes, before=found[1])
    assert again is not None
    order, tears = again
    place = {n: k for k, n in enumerate(order)}
    assert sorted(order) == nodes
    assert all(a in tears or place[a] < place[i] for i in nodes for a in left[i])
    if found[1]:
        assert set(tears) == set(found[1])
