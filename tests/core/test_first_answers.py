"""What the first answer is worth: ordinary briefs typed at their defaults, and decisions that a designer would make from them."""

from itertools import islice

import numpy as np
import pytest

from rhombos.core.graph.inputs import PartChoice
from rhombos.core.lineups import TITLES
from rhombos.demo.briefs import briefs
from rhombos.formats.design import Design, LoadRow, of_sample
from tests.campaign.briefs import briefs as campaign_briefs

FAILS, UNKNOWN, HOLDS = 0, 1, 3


def brief(lineup: str, cells: int, watts: float, type: str, **givens: float) -> Design:
    return Design(
        title="A brief",
        lineup=lineup,
        loads=[LoadRow(place="load_1", title="Load")],
        givens={"battery.cells": float(cells), "load_1.rated_power": float(watts), **{k.replace("__", "."): v for k, v in givens.items()}},
        choices={"load_1.type": type},
    )


def solved(design: Design):
    model = design.model()
    return model.solve(design.inputs())


def failing(sheet) -> set[str]:
    codes = sheet.judge().code.min(axis=1)
    return {check.key for check, code in zip(sheet.wiring.checks, codes, strict=True) if code in (FAILS, UNKNOWN)}


@pytest.mark.parametrize(
    ("cells", "watts", "type"),
    [
        (4, 300, "heater"),
        (8, 250, "induction_motor"),
        (8, 500, "heater"),
        (12, 500, "universal_motor"),
        (16, 850, "heater"),
        (16, 400, "induction_motor"),
        (24, 2000, "heater"),
        (30, 1500, "heater"),
    ],
)
def test_an_ordinary_brief_at_its_defaults_has_a_line_up_in_which_nothing_fails(cells, watts, type):
    found = {id: failing(solved(brief(id, cells, watts, type))) for id in TITLES}
    assert any(not fails for fails in found.values()), found


@pytest.mark.parametrize("frequency", [50.0, 60.0, 400.0])
@pytest.mark.parametrize("wanted", [16e3, 20e3, 31.4e3])
def test_the_carrier_is_the_next_whole_multiple_of_the_output(frequency, wanted):
    sheet = solved(brief("ferrite_bridge_link_bridge", 8, 300, "heater", output__output_frequency=frequency, bridge__wanted_carrier=wanted))
    carrier = float(sheet.value("bridge.carrier_frequency")[0])
    assert carrier / frequency == pytest.approx(round(carrier / frequency), abs=1e-9)
    assert wanted * (1 - 1e-9) <= carrier < wanted + frequency
    assert "bridge.whole_ratio" not in failing(sheet)


def test_gates_that_the_pack_cannot_hold_are_supplied_by_a_boost_converter_and_no_others():
    """At 12.8 V and below the 15 V of the gates are not there; at 25.6 V they are, through a regulator."""
    low, high = solved(brief("ferrite_bridge_link_bridge", 4, 300, "heater")), solved(brief("ferrite_bridge_link_bridge", 8, 300, "heater"))
    for place in ("front_gates", "bridge_gates"):
        assert (float(low.value(f"{place}.boosted")[0]), float(high.value(f"{place}.boosted")[0])) == (1.0, 0.0)
        np.testing.assert_allclose(low.value(f"{place}.gate_on_voltage"), 15.0)
        boost, linear = low.value(f"{place}.loss"), low.value(f"{place}.gate_current") * low.value("battery.terminal_voltage")
        np.testing.assert_allclose(boost, low.value(f"{place}.gate_current") * 15 / 0.8)
        assert (boost > linear).all(), "a boost converter is no gift: it gives more than the pack has, at its own loss"
    assert {"bridge_gates.fully_on", "bootstrap.droop"}.isdisjoint(failing(low))
    plain = brief("ferrite_bridge_link_bridge", 4, 300, "heater")
    assert "bridge_gates.fully_on" in failing(solved(plain.model_copy(update={"choices": {**plain.choices, "bridge_gates.gate_supply": "regulated"}})))


@pytest.mark.parametrize("id", list(TITLES))
def test_resistors_are_bought_for_what_they_burn(id):
    """In the steps that are sold: above what is needed with its reserve, and the step below is not."""
    sheet = solved(of_sample(id))
    joules, needed = (float(sheet.value(f"precharge.{name}")[0]) for name in ("resistor_pulse_energy", "energy_needed"))
    assert 1.25 * needed <= joules < 1.25 * needed * 1.5 * (1 + 1e-9)
    if "clamp.clamp_resistor_rating" in sheet.wiring.index:
        row, _ = sheet.check("clamp.clamp_resistor_power")
        assert sheet.judge().margin[row].min() >= 2.0


def test_the_cut_off_sees_of_a_start_what_its_filter_lets_through():
    """Its time constant is made for the longest start, so that what trips is what lasts; a filter too quick for it trips."""
    design = brief("ferrite_push_pull_link_bridge", 8, 350, "induction_motor")
    model, inputs = design.model(), design.inputs().with_pin("battery.cell_resistance", 2.4e-3, "tired").with_pin("load_1.start_time", 2.0, "measured")
    made, quick = model.solve(inputs), model.solve(inputs.with_pin("cutoff.filter_time", 0.05, "as it was"))
    assert (made.value("cutoff.filter_time")[0], quick.value("cutoff.filter_time")[0]) == (8.0, 0.05)
    full, surge = made.corners.ids.index("lowest_full"), made.corners.ids.index("lowest_surge")
    for sheet, seconds in ((made, 8.0), (quick, 0.05)):
        resting, seen = sheet.value("battery.resting_pack_voltage"), sheet.value("cutoff.sensed_voltage")
        share = 1 - np.exp(-2.0 / seconds)
        assert seen[surge] == pytest.approx(resting[full] + share * (resting[surge] - resting[full]), rel=1e-12)
        assert seen[full] == resting[full]
    assert "cutoff.no_trip_in_service" in failing(quick)
    assert "cutoff.no_trip_in_service" not in failing(made)


def test_a_72_volt_pack_finds_its_fuse_and_its_capacitors():
    sheet = solved(brief("ferrite_bridge_link_bridge", 24, 1200, "heater"))
    assert {"input.fuse_voltage", "input.fuse_breaks", "input.bulk_voltage"}.isdisjoint(failing(sheet))


def test_the_bridge_s_switches_leave_room_for_their_bootstrap():
    """The low-side switch lifts the foot of the capacitor: a cheap one under a start leaves no droop."""
    design = briefs()[2]
    model = design.model()
    assert "bootstrap.droop" not in failing(model.solve(design.inputs()))
    weak = model.solve(design.inputs().with_pin("bridge.switch", PartChoice("NM600-190", 1), "cheapest"))
    assert "bootstrap.droop" in failing(weak)


@pytest.mark.parametrize("share", [0.05, 0.01, 0.005])
def test_the_bootstrap_s_resistor_lets_a_cycle_s_charge_back_in_the_time_allowed(share):
    """Stepped cycle by cycle: charge taken, then returned through the resistor for the time allowed, the droop stays within what is allowed."""
    sheet = solved(brief("ferrite_bridge_link_bridge", 8, 500, "heater", bootstrap__refresh_share=share))
    value = {n: float(np.max(sheet.value(f"bootstrap.{n}"))) for n in ("bootstrap_resistor", "bootstrap_capacitor", "capacitance_derating", "cycle_charge")}
    seconds, allowed = float(sheet.value("bootstrap.allowed_refresh")[0]), float(np.min(sheet.value("bootstrap.allowed_droop")))
    capacitance, down = value["bootstrap_capacitor"] / value["capacitance_derating"], 0.0
    for _ in range(4000):
        down += value["cycle_charge"] / capacitance
        worst, down = down, down * np.exp(-seconds / (value["bootstrap_resistor"] * capacitance))
    assert worst <= allowed
    assert value["bootstrap_resistor"] in (1.0, 1.2, 1.5, 1.8, 2.2, 2.7, 3.3, 3.9, 4.7)
    assert "bootstrap.refresh" not in failing(sheet)


@pytest.mark.parametrize("id", TITLES)
def test_the_least_output_that_may_be_asked_for_has_an_answer(id):
    """24 V: its link stands below the 60 V to which one is discharged, so nothing has to be."""
    design = brief(id, 4, 100.0, "heater", battery__capacity=3.6e5, output__rated_output_voltage=24.0)
    sheet = design.model().solve(design.inputs())
    assert (sheet.judge().code == HOLDS).all()
    assert sheet.value("link.bleeder")[0] < 1e6, "it is emptied all the same"
    if sheet.value("link.highest_link")[0] < 60:
        assert sheet.value("link.time_to_60")[0] == 0.0


@pytest.mark.parametrize(("chemistry", "cells", "amp_hours", "watts", "cable", "output"), [("nimh", 10, 27, 140, 0.8, 230.0), ("nmc", 3, 10, 52, 2.3, 110.0)])
def test_a_start_near_what_the_pack_can_give_is_felt_until_it_has_an_operation(chemistry, cells, amp_hours, watts, cable, output):
    """Ten times the watts at once: with parts for what lasts there is no operation, the parts that the start asks for have one.

    What is told is that the pack is asked for more than half of what it has, not that forty checks have no value.
    """
    givens = {"battery__capacity": 3600.0 * amp_hours, "input__cable_length": cable, "output__rated_output_voltage": output}
    design = brief("ferrite_bridge_link_bridge", cells, watts, "rectifier", **givens)
    sheet = solved(design.model_copy(update={"choices": {**design.choices, "battery.chemistry": chemistry}}))
    code = sheet.judge().code.min(axis=1)
    assert {check.key for check, c in zip(sheet.wiring.checks, code, strict=True) if c < HOLDS} == {"battery.deliverable"}
    ids = list(sheet.corners.ids)
    volts, amperes, rest, ohms = (
        np.broadcast_to(sheet.value(f"battery.{name}"), len(ids))
        for name in ("terminal_voltage", "source_current", "open_circuit_voltage", "source_resistance")
    )
    start, before = ids.index("lowest_surge"), ids.index("lowest_full")
    assert volts[start] == pytest.approx(rest[start] - ohms[start] * amperes[start], rel=1e-6)
    # Five milliseconds of ten times the watts: some of it comes from the link, the rest from the pack, and what is lost as well.
    assert amperes[start] > 7 * amperes[before]
    assert sheet.value("link.input_power")[start] < volts[start] * amperes[start] < 10 * watts


@pytest.mark.parametrize("id", ["ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge"])
def test_where_no_cable_is_thick_enough_for_a_start_it_is_as_thick_as_it_may_be(id):
    """As thin as lasting current asks for with nothing left to the cable, four times that with a hair left: the two took turns, and the cable was held."""
    design = next(islice(campaign_briefs(1, 25), 24, None)).model_copy(update={"lineup": id})
    sheet = solved(design)
    assert np.nanmin(sheet.value("input.cable_allowance")) < 0
    assert not sheet.held_decisions()
    lasting, most = sheet.value("input.lasting_cable_area")[0], sheet.value("input.cable_thickening")[0]
    assert sheet.value("input.needed_cable_area")[0] == pytest.approx(most * lasting)
    assert sheet.value("input.cable_area")[0] >= most * lasting
