"""One figure over many values of a given, the build held: the same as sheet by sheet, by the tape and by native functions."""

from functools import cache

import numpy as np
import pytest

from rhombos.catalogue.loader import load
from rhombos.core.graph.engine import sweeping
from rhombos.core.graph.engine.fused import LEAST, stretches
from rhombos.core.graph.engine.template import CODE, WORDS
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.model import Model
from rhombos.core.graph.sweep import WORTH_WHILE, sweep, sweeps
from rhombos.core.lineups import TITLES, lineup
from rhombos.formats.design import of_sample

COUNT = WORTH_WHILE + 1
EVERY = 97
QUESTIONS = [("load_3.rated_power", "totals.efficiency"), ("input.cable_length", "bridge.junction_temperature"), ("bridge.pad_resistance", "link.link_ripple")]


@cache
def solved(id):
    model = Model(lineup(id, tuple(row.place for row in of_sample(id).loads)), load())
    return model, model.solve(of_sample(id).inputs())


def over(id, key):
    """Values of a given about what it is."""
    return np.linspace(0.7, 1.2, COUNT) * solved(id)[1].value(key)[0]


def one_by_one(id, key, values, goal):
    """The same by sheets, each by itself."""
    model, sheet = solved(id)
    sheets = [model.solve(sheet.inputs.with_given(key, float(v)), build=model.build_of(sheet)) for v in values]
    return np.array([np.broadcast_to(s.value(goal), len(s.corners.ids)) for s in sheets])


@pytest.mark.parametrize(("key", "goal"), QUESTIONS)
@pytest.mark.parametrize("id", TITLES)
def test_a_sweep_gives_what_sheets_give_and_native_functions_the_same_to_the_last_bit(id, key, goal, monkeypatch):
    model, sheet = solved(id)
    values = over(id, key)
    by_tape = sweep(model, sheet, key, values, goal)
    np.testing.assert_allclose(by_tape[::EVERY], one_by_one(id, key, values[::EVERY], goal), rtol=1e-7)
    wanted = model.sweeping(sheet.pinned, len(sheet.corners.ids), (model.wiring.index[key],), (model.wiring.index[goal],))
    assert wanted is not None
    wanted.fuse()
    monkeypatch.setattr(Model, "solve", only_few(Model.solve))
    np.testing.assert_array_equal(sweep(model, sheet, key, values, goal), by_tape)


def only_few(solve):
    """A solve that refuses the values of a sweep: they are to be answered without sheets, but for the knots."""

    def few(self, inputs, corners=None, build=None):
        many = max((np.size(v) for v in inputs.givens.values()), default=0)
        assert many <= COUNT // 32 + 2, f"{many} values were solved as sheets"
        return solve(self, inputs, corners, build)

    return few


def test_what_is_not_known_is_told_as_sheets_tell_it():
    id, key, goal = "ferrite_push_pull_link_bridge", "load_3.rated_power", "totals.efficiency"
    model, sheet = solved(id)
    values = np.linspace(300.0, 9000.0, COUNT)
    found = sweep(model, sheet, key, values, goal)
    alone = one_by_one(id, key, values[::EVERY], goal)
    assert np.isnan(alone).any()
    assert np.isfinite(alone).any()
    np.testing.assert_allclose(found[::EVERY], alone, rtol=1e-7)


def test_a_goal_that_nothing_moves_is_what_it_was_and_a_value_outside_is_refused():
    model, sheet = solved("ferrite_push_pull_link_bridge")
    found = sweep(model, sheet, "bridge.pad_resistance", over("ferrite_push_pull_link_bridge", "bridge.pad_resistance"), "input.cable_resistance")
    np.testing.assert_array_equal(found, np.broadcast_to(sheet.value("input.cable_resistance"), found.shape))
    with pytest.raises(InputError, match="outside"):
        sweep(model, sheet, "bridge.pad_resistance", np.linspace(-1.0, 1.0, COUNT), "totals.efficiency")


@pytest.mark.parametrize("id", TITLES)
def test_all_that_a_given_moves_is_what_sheets_say(id, monkeypatch):
    """Every figure of the line-up that hangs on a load, by the tape and by native functions; where a start has no operation as well."""
    model, sheet = solved(id)
    key = "load_3.rated_power"
    goals = model.moved_with(key, sheet.pinned)
    assert {"totals.efficiency", "battery.terminal_voltage", "front.junction_temperature"} <= set(goals)
    assert not {"link.link_setpoint", key} & set(goals), "the build is held"
    values = over(id, key)
    alone = [model.solve(sheet.inputs.with_given(key, float(v)), build=model.build_of(sheet)) for v in values[::EVERY]]
    asked = model.sweeping(sheet.pinned, len(sheet.corners.ids), (model.wiring.index[key],), tuple(model.wiring.index[goal] for goal in goals))
    assert asked is not None
    for native in (False, True):
        if native:
            asked.fuse()
            monkeypatch.setattr(Model, "solve", only_few(Model.solve))
        chunks = list(sweeps(model, sheet, key, values, goals))
        assert sum(map(len, chunks)) == COUNT
        for goal in goals:
            found = np.concatenate([chunk[goal] for chunk in chunks])
            assert found.shape == (COUNT, len(sheet.corners.ids))
            said = np.array([np.broadcast_to(s.value(goal), found.shape[-1]) for s in alone])
            np.testing.assert_allclose(found[::EVERY], said, rtol=1e-6, atol=1e-12, err_msg=goal)


def test_what_asks_whether_a_loop_is_iterated_is_not_worked_out_once_for_all():
    """Once for all nothing is iterated; in a loop's passes a junction that runs away is bounded."""
    model, sheet = solved("ferrite_push_pull_link_bridge")
    key, goal = "load_3.rated_power", "totals.efficiency"
    asked = model.sweeping(sheet.pinned, len(sheet.corners.ids), (model.wiring.index[key],), (model.wiring.index[goal],))
    assert asked is not None
    assert not {CODE["iterating"], CODE["trying"]} & set(asked.once.records[::WORDS].tolist())


def test_many_values_of_a_question_are_made_native_beside_the_work(monkeypatch):
    model, sheet = solved("ferrite_push_pull_link_bridge")
    key, goal = "load_3.rated_power", "front.junction_temperature"
    begun = []
    monkeypatch.setattr(sweeping.Sweeping, "fuse", lambda self: begun.append(self))
    monkeypatch.setattr(sweeping, "FUSED_FROM", 2 * COUNT)
    for turns in (0, 1, 1):
        sweep(model, sheet, key, over("ferrite_push_pull_link_bridge", key), goal)
        assert len(begun) == turns


def test_a_stretch_leaves_behind_what_somebody_reads():
    """A row of sums on the bench: of what is worked out on the way only what is read later, elsewhere or at the next turn is kept."""

    def record(op, target, count, *operands):
        words = [CODE[op], target, count, *(w for place in operands for w in (place, 1))]
        return words + [0] * (WORDS - len(words))

    def bench(vector):
        return -1 - vector

    sums = [record("add", bench(10 + k), 2, bench(10 + k - 2), 0) for k in range(0, 2 * LEAST, 2)]
    read_later = record("highest", 7, 2, bench(14))
    (stretch,) = stretches(np.array([*sums, record("add", 4, 2, bench(12), 0), read_later]), 13, frozenset({5}))
    # Vectors 10 to 12 lie before what is used again; 14 is read by the record behind; row 4 goes on to row 5, which others read.
    assert stretch.written == {0, 1, 2, LEAST}
    assert (stretch.first, stretch.last) == (0, LEAST + 1)
    assert not stretches(np.array(sums[: LEAST - 1]), 13, frozenset())
