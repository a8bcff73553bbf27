"""Two operations as one record: nothing is lost, nothing is done twice, and the numbers are the same to the last bit."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhombos.core.graph.engine.kept_code import kept
from rhombos.core.graph.engine.pairs import PAIRS, PLAIN, paired
from tests.core.tape_bench import Bench

WORKS = {"add": np.add, "sub": np.subtract, "mul": np.multiply, "div": np.divide}


@st.composite
def rows_of_operations(draw):
    """Plain operations, each on parameters or results of earlier ones, and what is read of them at the end."""
    steps, count = [], draw(st.integers(1, 14))
    for k in range(count):
        operand = st.tuples(st.just("p"), st.integers(0, 2)) | (st.tuples(st.just("t"), st.integers(0, k - 1)) if k else st.nothing())
        steps.append((draw(st.sampled_from(PLAIN)), (draw(operand), draw(operand))))
    read = draw(st.sets(st.integers(0, count - 1), max_size=3)) | {count - 1}
    return steps, sorted(("t", k) for k in read)


@given(rows_of_operations(), st.lists(st.floats(0.1, 10), min_size=3, max_size=3))
def test_what_is_read_comes_out_of_pairs_as_of_single_operations(row, numbers):
    steps, read = row

    def result(operation, found):
        name, operands = operation
        values = [np.float64(numbers[at]) if kind == "p" else found[at] for kind, at in operands]
        inner, outer, first = PAIRS.get(name, (None, name, True))
        if inner is not None:
            values = [WORKS[inner](*values[:2]), values[2]] if first else [values[0], WORKS[inner](*values[1:])]
        return WORKS[outer](*values)

    def worked(operations):
        found = {}
        with np.errstate(all="ignore"):
            for k, operation in enumerate(operations):
                if operation is not None:
                    found[k] = result(operation, found)
        return [found[k] for _, k in read]

    found = paired(steps, read)
    np.testing.assert_array_equal(worked(found), worked(steps))
    done = sum(0 if operation is None else 2 if operation[0] in PAIRS else 1 for operation in found)
    assert done == len(steps), "each is done once"


@pytest.mark.parametrize("name", PAIRS)
@pytest.mark.parametrize("across", [False, True])
def test_every_pair_rounds_between(name, across):
    """Multiplied and added at once, without rounding between, 1/3 · 3 − 1 would not be none."""
    inner, outer, first = PAIRS[name]
    rng = np.random.default_rng(5)

    def formula(x, y, z):
        return WORKS[outer](WORKS[inner](x, y), z) if first else WORKS[outer](x, WORKS[inner](y, z))

    bench = Bench(formula, 3, across)
    assert [step.op for step in bench.of.steps] == [name]
    for _ in range(50):
        values = rng.uniform(-2, 2, 3).tolist()
        assert bench(*values) == formula(*map(np.float64, values))


def test_native_code_is_kept_by_what_it_is_made_from_and_for_which_processor(tmp_path, monkeypatch):
    source, made = tmp_path / "kernels.py", []
    source.write_text("as it was")
    monkeypatch.setattr("rhombos.core.graph.engine.kept_code.SOURCES", (source,))
    monkeypatch.setattr("rhombos.core.graph.engine.kept_code._KEPT", tmp_path / "cache")

    def make():
        made.append(len(made))
        return b"code %d" % len(made)

    assert kept("one", make) == kept("one", make) == b"code 1"
    assert kept("another", make) == b"code 2"
    source.write_text("as it is now")
    assert kept("another", make) == kept("another", make) == b"code 3"
    assert len(list((tmp_path / "cache").iterdir())) == 1, "what former sources made is gone"
    (tmp_path / "cache" / next((tmp_path / "cache").iterdir()).name).unlink()
    (tmp_path / "cache").rmdir()
    (tmp_path / "cache").write_text("no folder")
    assert kept("another", make) == b"code 4", "where nothing can be kept it is made anew"
    assert made == [0, 1, 2, 3]
