"""What is unknown, as the machine marks it: against the masks that NumPy carries from figure to figure, one by one."""

import numpy as np
import pytest

from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.marked import Marked
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.lineups import TITLES
from rhombos.formats.design import of_sample
from tests.campaign.briefs import briefs


def by_numpy(model: Model, inputs: Inputs, monkeypatch: pytest.MonkeyPatch, **more) -> Sheet:
    """The same solve, its masks made by NumPy."""
    monkeypatch.setattr("rhombos.core.graph.inner.Marked", lambda *_: None)
    sheet = model.solve(inputs, **more)
    monkeypatch.undo()
    return sheet


def assert_alike(model: Model, one: Sheet, other: Sheet) -> int:
    """Masks, values and sentences agree; returns how many figures are unknown somewhere."""
    assert one.masks.keys() == other.masks.keys(), [model.wiring.nodes[i].key for i in one.masks.keys() ^ other.masks.keys()][:9]
    for index, mask in one.masks.items():
        np.testing.assert_array_equal(mask, np.broadcast_to(other.masks[index], mask.shape), model.wiring.nodes[index].key)
    for node in model.wiring.nodes:
        if one.values[node.index] is not None:
            np.testing.assert_allclose(one.values[node.index], other.values[node.index], rtol=1e-8, err_msg=node.key)
    for index, mask in one.masks.items():
        for corner in np.flatnonzero(mask.reshape(-1, mask.shape[-1])[0]).tolist():
            assert one.why_missing(index, corner) == other.why_missing(index, corner), model.wiring.nodes[index].key
        assert one.reduced_without(index) == other.reduced_without(index)
    return len(one.masks)


@pytest.mark.parametrize("id", TITLES)
@pytest.mark.parametrize("watts", [400.0, 2500.0, 6000.0, 9000.0, 16000.0])
def test_the_machine_marks_what_numpy_marks(id, watts, monkeypatch):
    design = of_sample(id)
    model, inputs = design.model(), design.inputs().with_given("load_3.rated_power", watts)
    sheet = model.solve(inputs)
    assert assert_alike(model, sheet, by_numpy(model, inputs, monkeypatch)) >= 1, "without load there is no efficiency"
    build = model.build_of(model.solve(design.inputs()))
    assert_alike(model, model.solve(inputs, build=build), by_numpy(model, inputs, monkeypatch, build=build))


def test_of_many_sheets_each_has_its_own_marks(monkeypatch):
    design = of_sample("ferrite_push_pull_link_bridge")
    model = design.model()
    build = model.build_of(model.solve(design.inputs()))
    watts = np.linspace(300, 9000, 21)
    together = model.solve(design.inputs().with_given("load_3.rated_power", watts[:, None]), build=build)
    assert_alike(model, together, by_numpy(model, design.inputs().with_given("load_3.rated_power", watts[:, None]), monkeypatch, build=build))
    for k, watt in enumerate(watts):
        alone = model.solve(design.inputs().with_given("load_3.rated_power", float(watt)), build=build)
        for index, mask in together.masks.items():
            expected = alone.masks.get(index, np.zeros(1))
            np.testing.assert_array_equal(np.broadcast_to(mask, (len(watts), mask.shape[-1]))[k], np.broadcast_to(expected, mask.shape[-1]))


def test_ordinary_briefs_in_every_line_up_are_marked_alike(monkeypatch):
    lost = 0
    for design in briefs(7, 30):
        for id in TITLES:
            drawn = design.model_copy(update={"lineup": id})
            model, inputs = drawn.model(), drawn.inputs()
            sheet = model.solve(inputs)
            if len(sheet.masks) > 9:
                lost += assert_alike(model, sheet, by_numpy(model, inputs, monkeypatch)) > 9
    assert lost >= 3, "some of these have no operation in some line-up"


def test_nothing_is_made_ready_where_all_is_known():
    design = of_sample("ferrite_push_pull_link_bridge")
    model = design.model()
    sheet = model.solve(design.inputs())
    marked = Marked(sheet.values.layout, sheet.values)
    assert not marked.spreading
    assert marked.masks() == {}
    partly = {"battery.run_time", "totals.efficiency", "filter.rectifier_crest_factor", "filter.rectifier_power_factor"}
    assert {model.wiring.nodes[i].key for i in sheet.masks} == partly, "they do not apply everywhere"
    # Nothing reads those, so no program that marks was written: that would cost every sheet a quarter more.
    made = vars(sheet.values.layout)
    made.pop("marking", None)
    model.solve(design.inputs())
    assert "marking" not in made
