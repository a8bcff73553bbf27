"""A figure with one given moved at a time, the build held: what each is when it is typed by itself."""

import numpy as np
import pytest

from rhombos.core.formulas.numeric import UNKNOWN
from rhombos.core.graph import one_at_a_time as module
from rhombos.core.graph.one_at_a_time import one_at_a_time
from rhombos.core.graph.why import upstream
from rhombos.core.lineups import TITLES
from tests.core.test_sweep import solved

EVERY = 7
GOALS = ("totals.efficiency", "bridge.junction_temperature", "battery.pack_voltage")


def ends(sheet, goal):
    """Every given that the goal hangs on, 5 % down and up, within its range."""
    givens = [n for n in upstream(sheet, goal) if sheet.value(n.key)[0] and not n.figure.whole]
    return {n.key: tuple(np.clip(sheet.value(n.key)[0] * np.array([0.95, 1.05]), n.figure.low, n.figure.high)) for n in givens}


def by_itself(model, sheet, key, value, goal):
    found = model.solve(sheet.inputs.with_given(key, float(value)), sheet.corners, model.build_of(sheet))
    return np.broadcast_to(found.value(goal), len(sheet.corners.ids))


@pytest.mark.parametrize("goal", GOALS)
@pytest.mark.parametrize("id", TITLES)
def test_each_is_what_it_is_when_typed_by_itself(id, goal, monkeypatch):
    model, sheet = solved(id)
    moved = ends(sheet, goal)
    some = list(moved)[::EVERY]
    wanted = [[by_itself(model, sheet, key, value, goal) for value in moved[key]] for key in some]
    monkeypatch.setattr(module._Question, "by_sheets", None)  # nothing is left to whole sheets
    found = one_at_a_time(model, sheet, moved, goal)
    assert found.shape == (len(moved), 2, len(sheet.corners.ids))
    np.testing.assert_allclose(found[::EVERY], wanted, rtol=1e-7)
    assert (found != sheet.value(goal)).any(), "something moves it"


@pytest.mark.parametrize("id", TITLES)
def test_where_one_runs_away_that_one_is_unknown_and_the_others_are_what_they_are(id, monkeypatch):
    model, sheet = solved(id)
    moved = ends(sheet, "totals.efficiency") | {"load_3.rated_power": (300.0, 20_000.0)}
    sheets = []
    whole = module._Question.by_sheets
    monkeypatch.setattr(module._Question, "by_sheets", lambda self, variants: sheets.append(len(variants)) or whole(self, variants))
    found = dict(zip(moved, one_at_a_time(model, sheet, moved, "totals.efficiency"), strict=True))
    full = sheet.corners.ids.index("nominal_full")
    assert np.isfinite(sheet.value("totals.efficiency")[full])
    assert np.isnan(found["load_3.rated_power"][1, full])
    lost = model.solve(sheet.inputs.with_given("load_3.rated_power", 20_000.0), sheet.corners, model.build_of(sheet))
    assert (lost.status(model.wiring.index["totals.efficiency"])[full]) == UNKNOWN
    assert np.isfinite(found["load_3.rated_power"][0, full])
    assert all(np.isfinite(values[:, full]).all() for key, values in found.items() if key != "load_3.rated_power")
    assert sum(sheets) < len(moved), "only what lies beside it was solved as sheets"


def test_what_leads_nowhere_moves_nothing():
    model, sheet = solved("ferrite_push_pull_link_bridge")
    length, resistance = sheet.value("input.cable_length")[0], sheet.value("input.cable_resistance")
    found = one_at_a_time(model, sheet, {"bridge.pad_resistance": (0.3, 0.9), "input.cable_length": (0.5 * length, 3 * length)}, "input.cable_resistance")
    np.testing.assert_array_equal(found[0], np.broadcast_to(resistance, found[0].shape))
    np.testing.assert_allclose(found[1], np.multiply.outer([0.5, 3], np.broadcast_to(resistance, found.shape[-1])), rtol=1e-12)
