"""A stage alone, and the questions that follow from the graph, on the real line-ups."""

import functools
import re

import numpy as np
import pytest

from rhombos.catalogue.loader import load
from rhombos.core.alone import CORNER, AloneError, Worked, work_alone
from rhombos.core.graph.curves import over_load, over_source
from rhombos.core.graph.errors import InputError, Unknown
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.pictures import pictures_of
from rhombos.core.graph.remedies import remedies
from rhombos.core.graph.seek import goal_seek
from rhombos.core.graph.sensitivity import sensitivity
from rhombos.core.graph.why import why
from rhombos.core.lineups import ALONE, STAGES, lineup
from rhombos.core.magnetics.card import winding_cards
from rhombos.core.units import QuantityError, parse, show
from rhombos.core.vocabulary import VOCABULARY
from rhombos.demo import tern_islet


@pytest.fixture(scope="module", name="solved")
def _solved():
    design = tern_islet.second()
    model = design.model()
    return model, design.inputs(), model.solve(design.inputs())


@functools.cache
def model_of(stage: str) -> Model:
    return Model(lineup(stage + ALONE), load())


@pytest.mark.parametrize("name", sorted(STAGES))
def test_alone_a_stage_has_its_pictures_whatever_is_chosen(name):
    """The feedback's asked for a figure that only the link has: it had none."""
    model = model_of(name)
    place = model.wiring.lineup.place(name)
    chosen = [{}, *({f"{name}.{key}": option} for key, choice in STAGES[name].choices.items() for option in choice.options)]
    for choices in chosen:
        sheet = model.solve(Inputs({}, choices))
        drawn = pictures_of(model, sheet, place, sheet.corners.ids.index(CORNER))
        assert drawn or not STAGES[name].pictures, choices


def alone(wanted: str, typed: dict[str, str], corner: str = CORNER) -> Worked:
    """`stage.figure` worked out with the stage alone."""
    stage, _, name = wanted.partition(".")
    return work_alone(model_of(stage), name, typed, corner)


GATES = {"switch_quantity": "1", "gate_frequency": "20k", "gate_on_voltage": "12", "low_side_drop": "0.3"}


def test_just_a_bootstrap_capacitor():
    worked = alone("bootstrap.bootstrap_capacitor", {"gate_charge": "60n", **GATES})
    charge = 60e-9 + 5e-9 + (300e-6 + 11 / 10e3) * 50e-6 + 10e-9
    assert worked.values == [pytest.approx(470e-9)]
    assert 1.6 * 2 * charge / (12 - 1 - 0.3 - 9.7) <= 470e-9
    assert worked.used == {"gate_charge": "60n", **GATES}


def test_what_was_not_typed_is_said_with_its_usual_value():
    worked = alone("precharge.precharge_time", {"highest_source_voltage": "29.2"})
    assert worked.unused == ()
    assert "bank_capacitance" in worked.usual
    again = alone("precharge.precharge_time", {"highest_source_voltage": "29.2", **worked.usual})
    assert again.values == pytest.approx(worked.values, rel=1e-3), "a usual value, typed, changes nothing"
    assert again.usual == {}


def test_an_intermediate_figure_counts_as_a_pin_and_a_semicolon_separates_values():
    worked = alone("precharge.precharge_time", {"time_constant": "0.1; 0.2", "closing_fraction": "0.95"})
    np.testing.assert_allclose(worked.values, [0.29957, 0.59915], rtol=1e-4)
    assert "bank_capacitance" not in worked.usual, "what stands behind a pin is not hung on"


@pytest.mark.parametrize(
    ("figure", "values", "match"),
    [
        ("battery.nothing", {}, "has no figure"),
        ("precharge.time_constant", {"precharge_resistor": "1", "bank_capacitance": "1m", "colour": "2"}, "reads no 'colour'"),
        ("precharge.time_constant", {"precharge_resister": "1"}, "did you mean precharge_resistor"),
        ("battery.terminal_voltage", {"output_power": "1e6", "line_resistance": "1m"}, "cannot deliver"),
    ],
)
def test_mistakes_alone_are_named(figure, values, match):
    with pytest.raises(AloneError, match=match):
        alone(figure, values)
    with pytest.raises(QuantityError):
        alone("precharge.time_constant", {"precharge_resistor": "many", "bank_capacitance": "1m"})
    with pytest.raises(InputError, match="is outside"):
        alone("precharge.precharge_resistor", {"highest_source_voltage": "29", "current_limit": "5000"})
    with pytest.raises(AloneError, match="no corner 'noon'; there are lowest_full"):
        alone("battery.terminal_voltage", {}, "noon")


def test_what_a_figure_does_not_need_is_taken_and_said():
    worked = alone("precharge.time_constant", {"precharge_resistor": "6R8", "bank_capacitance": "8m", "current_limit": "5"})
    assert worked.values == [pytest.approx(54.4e-3)]
    assert worked.unused == ("current_limit",)


def test_one_figure_between_stands_for_many_far_ones():
    done = alone("clamp.drain_peak_voltage", {"input_voltage": "24", "clamp_voltage": "60", "clamp_ripple": "3"})
    assert done.values == [pytest.approx(85.5)]
    assert not {"switch_rated_voltage", "peak_current"} & done.usual.keys()


def test_each_corner_speaks_for_itself():
    full, empty = (alone("battery.open_circuit_voltage", {}, corner).values[0] for corner in ("highest_full", "lowest_full"))
    assert full > empty


def test_a_result_fed_back_is_the_same_number():
    charge = alone("bootstrap.cycle_charge", {"gate_charge": "60 nC", "switch_quantity": "1", "full_voltage": "11", "gate_frequency": "20k"})
    again = alone("bootstrap.on_time_charge", {"cycle_charge": repr(charge.values[0])})
    assert again.values[0] == pytest.approx(charge.values[0] + 10e-9, rel=1e-12)


def test_a_resistor_may_be_left_out():
    common = {"gate_charge": "60 nC", "switch_quantity": "1", "gate_frequency": "20k", "full_voltage": "11"}
    with_, without = (alone("bootstrap.cycle_charge", {**common, "pull_down": r}).values[0] for r in ("10k", "not fitted"))
    assert with_ - without == pytest.approx(11 / 10e3 * 50e-6, rel=1e-6)


@pytest.mark.parametrize("name", [n for n in STAGES if n != "totals"])
def test_every_name_that_a_stage_reads_alone_can_be_typed(name):
    """Every figure of the stage hangs on its own givens and on ports that the vocabulary knows: all may be typed as they are shown."""
    model = model_of(name)
    for node in model.wiring.nodes:
        if node.figure.kind == "given" and node.place not in (name, "corner"):
            assert node.key.partition(".")[2] in VOCABULARY, node.key
            assert node.figure.sentence, node.key


def test_why_walks_from_every_figure_without_a_gap(solved):
    model, _, sheet = solved
    for node in model.wiring.nodes:
        if node.place == "corner" or node.figure.kind == "pick":
            continue
        answer = why(sheet, node.key, "nominal_full")
        for neighbour in (*answer.comes_from, *answer.carries_on_to):
            assert neighbour.key in model.wiring.index
        assert "{" + "x}" not in answer.numbers
        assert answer.numbers.count("{") == answer.numbers.count("}")


def test_a_pinned_figure_shows_its_own_formula_beside_it(solved):
    _, _, sheet = solved
    answer = why(sheet, "transformer.primary_turns", "nominal_full")
    assert answer.pinned
    assert answer.value == 2
    assert float(answer.computed) > 2
    assert answer.reason == "the foil at hand makes two turns"


def test_remedies_reach_hold_when_they_are_applied(solved):
    model, inputs, sheet = solved
    found = remedies(model, sheet)
    assert {r.check for r in found} >= {"transformer.flux"}
    for remedy in found:
        moved = inputs.with_given(remedy.key, remedy.after) if remedy.kind == "given" else inputs.with_pin(remedy.key, remedy.after)
        row, _ = sheet.check(remedy.check)
        assert model.solve(moved).judge().code[row].min() == 3, remedy
        assert remedy.before != remedy.after


def test_sensitivity_of_flux_to_turns_and_frequency(solved):
    model, _, sheet = solved
    bars = {b.key: b for b in sensitivity(model, sheet, "transformer.full_duty_flux", "nominal_full", most=30)}
    assert bars["battery.cells"].held == pytest.approx(1 / 8, abs=0.02), "one cell more than eight"
    assert all(b.held is None or np.isfinite(b.held) for b in bars.values())


def test_goal_seek_on_the_real_line(solved):
    model, inputs, _ = solved
    found = goal_seek(model, inputs, "precharge.precharge_time", "nominal_full", 0.5, "precharge.usual_closing_fraction")
    assert found.exact
    again = model.solve(inputs.with_given("precharge.usual_closing_fraction", found.value))
    assert again.value("precharge.precharge_time")[0] == pytest.approx(0.5, rel=1e-4)


def test_held_curves_pass_through_the_corners(solved):
    model, _, sheet = solved
    curve = over_load(model, sheet, "totals.efficiency", count=22)
    at = int(np.argmin(np.abs(np.array(curve.x) - 1.0)))
    assert curve.x[at] == pytest.approx(1.0)
    for name, corner in (("lowest source", "lowest_full"), ("nominal source", "nominal_full"), ("highest source", "highest_full")):
        assert curve.series[name][at] == pytest.approx(sheet.at("totals.efficiency", corner), rel=1e-6)
    duty = over_source(model, sheet, "battery.terminal_voltage", ["front.total_duty"])
    assert duty.x[0] == pytest.approx(sheet.at("battery.terminal_voltage", "lowest_full"), rel=1e-6)
    assert np.all(np.diff(duty.series["front.total_duty"]) < 0), "a higher battery asks for less duty"


def test_the_winding_card_agrees_with_the_sheet(solved):
    _, _, sheet = solved
    (card,) = winding_cards(sheet)
    assert card["order"][0]["turns"] == sheet.value("transformer.primary_turns")[0] == 2
    assert card["expected"]["ratio"] == pytest.approx(card["order"][1]["turns"] / 2)
    assert card["expected"]["primary_resistance_cold"] < sheet.value("transformer.primary_dc_resistance")[0]


def test_a_value_outside_its_formula_s_validity_stays_and_warns(solved):
    model, inputs, sheet = solved
    index = model.wiring.index["transformer.flux_limit"]
    assert sheet.warnings(index) == []
    low = model.solve(inputs.with_given("oscillator.wanted_frequency", 9e3))
    assert "outside 15000 to 300000" in low.warnings(index)[0]
    assert np.isfinite(low.value("transformer.flux_limit")).all()


def test_a_lineup_that_is_not_there_is_named():
    with pytest.raises(Unknown, match="no line-up 'perpetual'"):
        lineup("perpetual")
    with pytest.raises(Exception, match="no choice"):
        tern_islet.first().model().solve(Inputs(choices={"battery.flavour": "salt"}))


@pytest.mark.parametrize("name", STAGES)
def test_usual_values_are_read_back_as_they_are_meant(name):
    """What is shown can be typed: with its unit, and within the limits of a given."""
    for node in model_of(name).wiring.nodes:
        if node.figure.kind == "given" and isinstance(node.figure.default, float):
            assert parse(show(node.figure.default, node.figure.unit, 6), node.figure.unit) == pytest.approx(node.figure.default, rel=1e-5), node.key


def test_a_charge_without_a_unit_is_in_coulombs_at_a_gate_and_in_ampere_hours_at_a_battery():
    bare, spelt = (alone("bootstrap.bootstrap_capacitor", {**GATES, "gate_charge": q}).values for q in ("6e-8", "60 nC"))
    assert bare == spelt
    assert parse("200", STAGES["battery"].figures["capacity"].unit) == 200 * 3600


def test_the_formula_stands_with_symbols_and_with_the_first_numbers_in_their_order():
    few = alone("bootstrap.full_voltage", {})
    assert r"V_{F,b}" in few.formula
    all_ = alone("bootstrap.full_voltage", {"gate_on_voltage": "12 V; 11.5 V"})
    assert all_.formula == few.formula
    assert re.findall(r"[\d.]+", all_.numbers)[:2] == ["12", "1"], "the first value's numbers, in the formula's order"
    assert all_.values == pytest.approx([11.0, 10.5], abs=0.51)
    assert (all_.sentence, all_.source) == (few.sentence, few.source) != ("", "")
