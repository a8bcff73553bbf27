"""Remedies: each does what it says, moves by what can be had, and says what it costs elsewhere."""

import numpy as np
import pytest

from rhombos.core.formulas.numeric import SERIES
from rhombos.core.graph.inputs import Inputs, PartChoice
from rhombos.core.graph.remedies import remedies
from rhombos.core.graph.verdicts import FAILS, HOLDS
from rhombos.demo import tern_islet
from rhombos.formats.design import of_sample
from tests.core.trial import applied


def sample(id: str, **givens: float):
    design = of_sample(id)
    model, inputs = design.model(), design.inputs()
    for key, value in givens.items():
        inputs = inputs.with_given(key.replace("__", "."), value)
    return model, inputs, model.solve(inputs)


def test_what_the_parts_and_the_surroundings_are_is_told_after_what_a_designer_sets():
    """A push-pull whose leakage takes too much: the frequency is a setting, the loop's inductance is what the copper makes it."""
    design = of_sample("ferrite_push_pull_link_bridge")
    model, inputs = design.model(), design.inputs().with_given("transformer.loop_inductance", 14e-9)
    sheet = model.solve(inputs)
    found = [r for r in remedies(model, sheet, "clamp") if r.check == "clamp.leakage_share"]
    kinds = {r.key: r.offered for r in found}
    assert kinds.pop("transformer.loop_inductance") is False
    assert all(kinds.values())
    assert [r.offered for r in found] == sorted((r.offered for r in found), reverse=True), "what is offered comes first"


def test_remedies_name_exactly_what_else_they_break():
    design = tern_islet.second()
    model, inputs = design.model(), design.inputs()
    sheet = model.solve(inputs)
    before = sheet.judge().code.min(axis=1)
    found = remedies(model, sheet)
    assert found
    for remedy in found:
        free = Inputs(inputs.givens, inputs.choices, {k: p for k, p in inputs.pins.items() if k != remedy.key})
        moved = applied(free, remedy)
        after = model.solve(moved).judge().code.min(axis=1)
        broken = {c.check.title for c, was, now in zip(model.wiring.checks, before, after, strict=True) if now == FAILS and was != FAILS}
        assert set(remedy.breaks) == broken, remedy.sentence
        assert remedy.title.lower()[:6] in remedy.sentence.lower()


def test_whole_givens_are_moved_by_ones_and_a_larger_pack_is_offered():
    """A small pack before a start: more ampere-hours or one more cell, never a part of a cell."""
    design = of_sample("ferrite_bridge_link_bridge")
    inputs = Inputs({**design.inputs().givens, "battery.capacity": 25_000.0}, design.inputs().choices, {})
    model = design.model()
    sheet = model.solve(inputs)
    row, _ = sheet.check("battery.deliverable")
    assert sheet.judge().code[row].min() < HOLDS
    found = {r.key: r for r in remedies(model, sheet, "battery", most=9) if r.check == "battery.deliverable" and r.offered}
    assert {"battery.capacity", "battery.cells"} <= set(found)
    assert found["battery.cells"].after == round(found["battery.cells"].after)
    for remedy in found.values():
        assert model.solve(applied(inputs, remedy)).judge().code[row].min() == HOLDS


def test_a_part_is_moved_to_the_next_rows_of_the_catalogue():
    model, inputs, _ = sample("ferrite_push_pull_link_bridge")
    small = inputs.with_pin("input.fuse", PartChoice("FB80-40"), "what is in the drawer")
    sheet = model.solve(small)
    row, _ = sheet.check("input.fuse_carries")
    assert sheet.judge().code[row].min() < HOLDS
    (remedy,) = [r for r in remedies(model, sheet, "input") if r.check == "input.fuse_carries"]
    table = model.candidates[model.wiring.index["input.fuse"]].table
    assert remedy.kind == "part"
    assert remedy.part in table.codes
    assert remedy.after == table.columns["rated_current"][table.row_of[remedy.part]] > remedy.before
    assert remedy.sentence.startswith("Fit ")
    assert model.solve(applied(small, remedy)).judge().code[row].min() == HOLDS


@pytest.mark.parametrize(("key", "check", "pinned"), [("cutoff.feedback_resistor", "cutoff.rebound", 300e3), ("link.bleeder", "link.discharge", 220e3)])
def test_resistors_are_moved_along_their_series(key, check, pinned):
    model, inputs, _ = sample("ferrite_push_pull_link_bridge")
    sheet = model.solve(inputs.with_pin(key, pinned, "from another project"))
    (remedy,) = [r for r in remedies(model, sheet, key.split(".")[0], most=9) if r.check == check and r.key == key]
    mantissa = remedy.after / 10 ** np.floor(np.log10(remedy.after) + 1e-9)
    assert min(abs(mantissa / value - 1) for value in SERIES["E96" if key.startswith("cutoff") else "E24"]) < 1e-9
    assert remedy.after < remedy.before


def test_what_is_mended_only_by_going_back_says_so_and_comes_last():
    model, inputs, _ = sample("ferrite_push_pull_link_bridge")
    sheet = model.solve(inputs.with_pin("cutoff.feedback_resistor", 300e3, "to restart early"))
    found = [r for r in remedies(model, sheet, "cutoff", most=9) if r.check == "cutoff.rebound"]
    assert [r.returns for r in found] == sorted(r.returns for r in found)
    for remedy in found:
        assert not remedy.returns or remedy.breaks, "only what breaks something can lead back"


def test_where_no_part_is_good_enough_it_says_which_one_is_missing():
    """A start from 30 cells into 5 kW: no core of the catalogue stays cool, or no can carries the ripple."""
    design = of_sample("ferrite_bridge_link_bridge")
    inputs = design.inputs().with_given("load_3.rated_power", 18_000.0).with_given("battery.cells", 30.0).with_given("battery.capacity", 7.2e6)
    model = design.model()
    sheet = model.solve(inputs)
    wishes = [r for r in remedies(model, sheet) if r.kind == "wish"]
    assert wishes
    for wish in wishes:
        assert not wish.offered
        assert wish.sentence.endswith(": add one")
        assert wish.after > wish.before
        state = sheet.picks[model.wiring.index[wish.key]]
        assert not state.fits
