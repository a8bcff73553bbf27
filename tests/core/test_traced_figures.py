"""The sheet's formulas against the traces of the circuits that its stages declare."""

import numpy as np
import pytest

from rhombos.core.circuit.drawn import drawn
from rhombos.core.circuit.solved import circuit_of, probed
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.front.circuits import CREST
from rhombos.core.units import show
from rhombos.formats.design import model_for
from tests.core.looking import alone, run, told


def test_the_rectifiers_choke_ripples_as_its_formula_says(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    for corner in ("lowest_full", "nominal_full", "highest_full"):
        seen = Seen(model, sheet, model.wiring.lineup.place("rectifier"), sheet.corners.ids.index(corner))
        traced = run(seen)
        times = traced.times()
        assert np.ptp(traced.current("choke", times)) == pytest.approx(seen.at("choke_ripple"), rel=0.05), "the formula leaves the drops out"
        assert traced.voltage("link", "0", times).mean() == pytest.approx(seen.at("output_voltage"), rel=0.03)
        assert traced.current("first", times).mean() == pytest.approx(seen.at("link_current") / 2, rel=0.02)


def test_the_filters_ripple_and_its_output_are_those_of_the_sheet(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("filter"), sheet.corners.ids.index("nominal_full"))
    ripple = run(seen, 1)
    assert np.ptp(ripple.current("choke", ripple.times())) == pytest.approx(seen.at("filter_ripple"), rel=0.02)
    output = run(seen, 0)
    even = np.arange(8192) / 8192 * output.seconds
    assert np.sqrt(np.mean(output.voltage("out", "0", even) ** 2)) == pytest.approx(seen.at("delivered_voltage"), rel=0.005)
    assert np.sqrt(np.mean(output.current("choke", even) ** 2)) == pytest.approx(seen.at("choke_rms_current"), rel=0.05)


def test_the_contactors_surge_and_the_precharges_time_are_those_of_the_sheet(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("precharge"), sheet.corners.ids.index("nominal_full"))
    closing = run(seen, 1)
    scale = seen.at("closing_step") / (seen.at("open_circuit_voltage") - closing.start[[e.name for e in closing.states.storing].index("bank")])
    assert closing.current("contactor", closing.times(8000)).max() * scale == pytest.approx(seen.at("closing_current"), rel=0.02)
    start = run(seen, 0)
    at = np.array([seen.at("precharge_time") * (1 - 1e-9)])
    assert start.voltage("bus", "0", at)[0] == pytest.approx(seen.at("closing_fraction") * seen.at("open_circuit_voltage"), rel=0.01)


def test_the_clamp_settles_where_the_sheet_says(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("clamp"), sheet.corners.ids.index("lowest_surge"))
    traced = run(seen)
    assert traced.voltage("clamp", "0", traced.times()).mean() == pytest.approx(alone_level(seen), rel=0.03)


def test_where_the_winding_holds_nothing_the_clamp_settles_lower(sheets):
    model, kept = sheets["ferrite_push_pull_link_bridge"]
    sheet = told("ferrite_push_pull_link_bridge", model, clamp__winding_holds="rest")
    assert sheet.value("clamp.clamp_resistor") > 1.5 * kept.value("clamp.clamp_resistor"), "the winding adds nothing"
    for corner in ("lowest_surge", "nominal_full", "nominal_half", "highest_surge"):
        seen = Seen(model, sheet, model.wiring.lineup.place("clamp"), sheet.corners.ids.index(corner))
        traced = run(seen)
        assert traced.voltage("clamp", "0", traced.times()).max() == pytest.approx(seen.at("clamp_voltage") + seen.at("clamp_ripple") / 2, rel=0.03), corner
        assert seen.at("clamp_loss") < 0.55 * kept.at("clamp.clamp_loss", corner)


def alone_level(seen):
    """The closed form of 6.1 with one drain's leakage, its current and the resistor fitted."""
    power = seen.at("leakage_inductance") * seen.at("peak_current") ** 2 / 2 * seen.at("switching_frequency")
    held = seen.at("input_voltage")
    return (held + np.sqrt(held**2 + 4 * power * seen.at("clamp_resistor"))) / 2


@pytest.mark.parametrize(
    ("id", "winding", "node", "swings"), [("ferrite_push_pull_link_bridge", "half_a", "drain A", 2), ("ferrite_bridge_link_bridge", "primary", "leg A", 1)]
)
def test_a_front_ends_currents_are_those_of_the_sheet(id, winding, node, swings, sheets):
    """The whole front end with its coupled windings: the end of a pulse is flat top, half the choke's ripple and the magnetising current's swing."""
    model, sheet = sheets[id]
    seen = Seen(model, sheet, model.wiring.lineup.place("front"), sheet.corners.ids.index("nominal_full"))
    traced = run(seen)
    times = traced.times(4000)
    link = traced.current("choke", times)
    assert link.mean() == pytest.approx(seen.sheet.at("rectifier.link_current", "nominal_full"), rel=0.03)
    assert np.ptp(link) == pytest.approx(seen.sheet.at("rectifier.choke_ripple", "nominal_full"), rel=0.05)
    ratio = seen.at("turns_ratio")
    magnetising = seen.at("input_voltage") * seen.at("total_duty") / (4 * seen.at("magnetising_inductance") * seen.at("switching_frequency"))
    assert traced.current(winding, times).max() == pytest.approx(ratio * link.max() + magnetising, rel=0.03)
    volts = traced.voltage(node, "0", times)
    assert volts.max() == pytest.approx(swings * seen.at("input_voltage"), rel=0.06), "a diode or a clamp above it, no more"
    assert volts.mean() == pytest.approx(seen.at("input_voltage") * swings / 2, rel=0.01), "no mean voltage stays on a winding"


@pytest.mark.parametrize("held", ["rail", "rest"])
@pytest.mark.parametrize("id", ["ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge", "boost_link_bridge"])
def test_in_the_crest_a_pulse_ends_where_the_sheet_says(id, held, sheets):
    """The current at the end of a pulse at every corner; a push-pull's drain where the clamp is told what the winding really holds, else below."""
    model, sheet = sheets[id]
    clamped = id == "ferrite_push_pull_link_bridge"
    if held == "rest" and not clamped:
        pytest.skip("no clamp")
    if held == "rest":
        sheet = told(id, model, clamp__winding_holds=held)
    stage = model.wiring.lineup.place("front").stage
    crest = [look.title for look in stage.looks].index(CREST)
    current = "choke" if id == "boost_link_bridge" else stage.looks[crest].probes[1].removeprefix("i ")
    for corner in ("lowest_full", "nominal_full", "nominal_half", "highest_surge"):
        seen = Seen(model, sheet, model.wiring.lineup.place("front"), sheet.corners.ids.index(corner))
        traced = run(seen, crest)
        times = traced.times(4000)
        assert traced.current(current, times).max() == pytest.approx(seen.at("peak_current"), rel=0.04), corner
        if clamped:
            peak = traced.voltage("drain A", "0", times).max()
            assert peak < 1.01 * seen.at("drain_peak_voltage"), corner
            if held == "rest":
                # Some of the leakage's energy goes into the switches' capacitances, and the rail sags.
                assert peak == pytest.approx(seen.at("drain_peak_voltage"), rel=0.035), corner
    said = drawn(seen)["looks"]
    assert show(seen.at("drain_peak_voltage"), "V", 3) in said[crest]["note"], "what the sheet counts more is said beside the trace"
    assert show(seen.at("peak_current"), "A", 3) in said[0]["note"]


def test_a_boost_lifts_its_rail_as_the_sheet_says(sheets):
    model, sheet = sheets["boost_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("front"), sheet.corners.ids.index("nominal_full"))
    traced = run(seen)
    times = traced.times()
    assert traced.voltage("link", "0", times).mean() == pytest.approx(seen.at("link_setpoint"), rel=0.03), "the switch's body of losses is in the duty"
    assert traced.current("choke", times).mean() == pytest.approx(seen.at("choke_current"), rel=0.03)
    assert np.ptp(traced.current("choke", times)) == pytest.approx(seen.at("choke_ripple"), rel=0.03)


def test_capacitor_and_front_end_share_the_swing_as_the_sheet_says(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    for corner in ("nominal_full", "nominal_half"):
        seen = Seen(model, sheet, model.wiring.lineup.place("link"), sheet.corners.ids.index(corner))
        traced = run(seen)
        times = traced.times()
        assert np.ptp(traced.voltage("link", "0", times)) == pytest.approx(seen.at("link_ripple"), rel=0.07), "the cans' own resistance is left out there"
        assert np.ptp(traced.current("front_inductance", times)) / 2 == pytest.approx(seen.at("choke_swing"), rel=0.07)
        assert traced.voltage("link", "0", times).mean() == pytest.approx(seen.at("link_voltage"), rel=0.005)


def test_the_bridges_legs_switch_with_dead_time_and_the_choke_ripples(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("bridge"), sheet.corners.ids.index("nominal_full"))
    traced = run(seen)
    times = traced.times(6000)
    leg, link = traced.voltage("leg A", "0", times), seen.at("input_voltage")
    assert leg.min() == pytest.approx(-seen.at("switch_diode_voltage"), abs=0.5), "in the dead time the lower diode conducts"
    crest = seen.at("delivered_voltage") * np.sqrt(2)
    index, choke = crest / link, traced.current("choke", times)
    falls = crest * (1 - index) / (2 * seen.at("carrier_frequency")) / seen.at("filter_inductance")
    assert np.ptp(choke[times < 0.75 / seen.at("carrier_frequency")]) > 0.8 * falls
    after = 0.5 / seen.at("carrier_frequency") * (1 + (1 + index) / 2) + seen.at("dead_time") * np.array([0.5, 1.5])
    through = traced.current("a_low_diode", after)
    assert through[0] > 0.9 * choke.min(), "between the switches all of it goes through the diode"
    assert through[1] < 0.5 * through[0], "then most through the switch"


def test_the_cut_offs_tap_stands_at_its_reference_at_the_threshold():
    seen = alone("cutoff")
    stage = seen.place.stage
    still = circuit_of(stage.schematic, lambda name: seen.at("falling_threshold" if name == "voltage_before" else name))
    settled = repeat(still, [], 1.0)
    assert settled.voltage("tap", "0", np.array([0.5]))[0] == pytest.approx(seen.at("reference_voltage"), rel=1e-9)


def test_a_gate_rises_with_the_resistances_of_its_path():
    seen = alone("gate_drive")
    traced = run(seen)
    path = seen.at("driver_resistance") + seen.at("gate_resistor_on") + seen.at("switch_internal_gate_resistance")
    tau = path * seen.at("switch_gate_charge") / seen.at("switch_charge_voltage")
    risen = traced.voltage("gate", "0", np.array([tau]))[0]
    assert risen == pytest.approx(seen.at("gate_on_voltage") * (1 - np.exp(-1)), rel=0.02)


def test_the_transformers_pulses_are_those_of_the_sheet(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("transformer"), sheet.corners.ids.index("nominal_none"))
    pulses = run(seen, 0)
    even = np.arange(20_000) / 20_000 * pulses.seconds
    assert pulses.voltage("secondary", "0", even).max() == pytest.approx(seen.at("secondary_amplitude"), rel=0.01)
    magnetising = pulses.current("primary", even) + seen.at("turns_ratio") * pulses.current("secondary", even)
    assert np.ptp(magnetising) / 2 == pytest.approx(seen.at("magnetising_current"), rel=0.05)


def test_at_its_set_point_the_feedbacks_tap_stands_at_the_reference(sheets):
    model, sheet = sheets["ferrite_push_pull_link_bridge"]
    seen = Seen(model, sheet, model.wiring.lineup.place("feedback"), sheet.corners.ids.index("nominal_full"))
    risen = run(seen, 0)
    before, after = risen.voltage("tap", "0", np.array([0.5e-3, 1.5e-3]))
    assert before == pytest.approx(seen.at("feedback_reference"), rel=0.01), "the pot's middle, to the steps of its resistors"
    assert after / before == pytest.approx(seen.at("overvoltage_trip") / seen.at("link_setpoint"), rel=1e-3)


@pytest.mark.parametrize("school", ["bleeder", "switched"])
def test_the_link_falls_to_60_volts_when_the_sheet_says(school):
    model = model_for("dc_link_alone", ())
    sheet = model.solve(Inputs({}, {"dc_link.discharge_school": school}))
    seen = Seen(model, sheet, model.wiring.lineup.place("dc_link"), sheet.corners.ids.index("nominal_full"))
    volts = probed(seen.place.stage.schematic, run(seen, 1), ["v link"]).traces[0]
    # The trace has the nominal capacitors, and what is off leaks there through some 10 MΩ; the sheet counts with capacitors at
    # the high end of their tolerance.
    reached = np.interp(-60.0, [-v for v in volts.values], volts.times)
    assert reached * (1 + seen.at("capacitance_tolerance")) == pytest.approx(seen.at("time_to_60"), rel=1e-2)
    assert volts.values[0] == pytest.approx(seen.at("highest_link"), rel=1e-3)
