"""Every check can fail: a design that fails it and one that holds it, both solved, for every check of every line-up."""

import functools

import numpy as np
import pytest

from rhombos.core.graph.inputs import Inputs, PartChoice, Pin
from rhombos.core.lineups import TITLES
from rhombos.core.lineups.tools import TOOLS
from rhombos.formats.design import model_for, of_sample
from tests.core import failing

FAILS, TIGHT, HOLDS = 0, 2, 3


def _part(code: str, quantity: int = 1) -> PartChoice:
    return PartChoice(code, quantity)


FAILING: dict[str, dict[str, object]] = {
    "battery.deliverable": {"pin battery.cell_resistance": 0.02},
    "cutoff.no_trip_in_service": {"pin battery.cell_resistance": 3.2e-3, "pin cutoff.filter_time": 0.05},
    "cutoff.rebound": {"pin cutoff.feedback_resistor": 1e6},
    "cutoff.restart": {"pin cutoff.feedback_resistor": 47e3},
    "cutoff.guards_cells": {"pin cutoff.upper_resistor": 60e3},
    "input.fuse_carries": {"pin input.fuse": _part("FB80-30")},
    "input.fuse_protects_cable": {"pin input.cable_area": 4e-6},
    "input.fuse_voltage": {"pin input.fuse": _part("FB32-60"), "battery.cells": 9.0},
    "input.fuse_breaks": {"pin battery.cell_resistance": 0.1e-3, "pin input.fuse": _part("FB80-60")},
    "input.bulk_voltage": {"pin input.bulk": _part("EB25-2200", 8)},
    "input.bulk_ripple": {"pin input.bulk": _part("EB35-1000")},
    "input.bulk_capacitance": {"pin input.bulk": _part("EB35-1000"), "input.bulk_ripple_share": 0.002},
    "input.bulk_resistance": {"pin input.bulk": _part("EB35-1000")},
    "input.bulk_cold": {"pin input.bulk": _part("EB35-1000")},
    "precharge.energy": {"pin precharge.resistor_pulse_energy": 5.0},
    "precharge.closing": {"pin precharge.closing_fraction": 0.6, "precharge.contactor_closing_current": 60.0},
    "precharge.time": {"pin precharge.precharge_resistor": 4700.0},
    "front.junction": {"pin front.switch": _part("NM100-7R5"), "pin front.sink_resistance": 12.0},
    "front.current_rating": {"pin front.switch": _part("NM100-7R5"), "front.trust_factor": 0.3},
    "front.static_voltage_rating": {"pin front.switch": _part("NM60-3R2"), "battery.cells": 16.0},
    "front.dynamic_voltage_rating": {"pin front.switch": _part("NM100-7R5"), "pin clamp.clamp_resistor": 3e3, "front.bus_inductance": 60e-9},
    "front.pulsed_rating_check": {"pin front.switch": _part("NM100-7R5"), "front.trust_factor": 0.3},
    "oscillator.frequency_slip": {"pin oscillator.timing_resistor": 6.81e3},
    "front_gates.gate_window": {"pin front.switch": _part("NM100-7R5"), "choose front_gates.gate_supply": "source"},
    "front_gates.fully_on": {"front_gates.gate_supply_voltage": 6.0},
    "front_gates.boosted_supply": {"pin front_gates.boosted": 1.0, "front_gates.boost_rating": 0.05},
    "front_gates.driver_current": {"pin front_gates.gate_resistor_off": 1.0, "front_gates.driver_current_limit": 1.0},
    "front_gates.dead_time": {"front_gates.wanted_off_plateau": 0.6e-6},
    "clamp.clamp_room": {"pin front.switch": _part("NM60-3R2")},
    "clamp.clamp_resistor_power": {"pin clamp.clamp_resistor_rating": 1.0},
    "clamp.leakage_share": {"transformer.loop_inductance": 60e-9},
    "transformer.flux": {"pin transformer.primary_turns": 1.0},
    "transformer.flux_full": {"pin transformer.primary_turns": 1.0},
    "transformer.flux_first": {"pin transformer.primary_turns": 1.0, "transformer.first_pulse_duty": 0.9},
    "transformer.flux_step": {"pin transformer.primary_turns": 1.0},
    "transformer.floor": {"pin transformer.secondary_turns": 45.0},
    "transformer.copper_fill": {"pin transformer.core": _part("ETD34"), "transformer.current_density": 4e6},
    "transformer.insulated_fill": {"pin transformer.core": _part("ETD34"), "transformer.current_density": 4e6},
    "transformer.rise": {"pin transformer.core": _part("ETD34")},
    "rectifier.reverse_voltage": {"pin rectifier.diode": _part("RF400-8")},
    "input.fuse_inrush": {"pin input.fuse": _part("FB80-5"), "pin precharge.closing_fraction": 0.2},
    "precharge.settles": {"precharge.bus_load_resistance": 30.0},
    "precharge.wakes": {"precharge.bus_load_power": 20.0, "precharge.wake_voltage": 2.0},
    "precharge.standing": {"choose precharge.school": "permanent"},
    "precharge.body": {"precharge.resistor_body": 20.0},
    "precharge.release": {"precharge.coil_clamp": 0.7, "precharge.coil_time": 60e-3},
    "rectifier.diode_current": {"pin rectifier.diode": _part("SD1200-5"), "load_3.rated_power": 4200.0},
    "rectifier.diode_junction": {"pin rectifier.diode_sink_resistance": 60.0},
    "rectifier.recovery": {"pin rectifier.diode": _part("RS1000-6")},
    "link.window_low": {"pin link.link_setpoint": 350.0},
    "link.capacitor_voltage": {"pin link.capacitor": _part("EL400-470"), "pin link.link_setpoint": 400.0},
    "link.capacitor_ripple": {"pin link.capacitor": _part("EL450-150")},
    "link.discharge": {"choose link.discharge_school": "bleeder", "pin link.bleeder": 150e3},
    "link.bleeder_alone": {"choose link.discharge_school": "switched", "pin link.bleeder": 680e3},
    "link.discharge_pulse": {"choose link.discharge_school": "switched", "pin link.discharge_pulse_energy": 22.0},
    "link.discharge_switch": {"choose link.discharge_school": "switched", "pin link.discharge_resistor": 68.0},
    "link.bleeder_voltage": {"pin link.bleeder_pieces": 1.0},
    "link.bleeder_power": {"choose link.discharge_school": "bleeder", "pin link.bleeder_pieces": 1.0},
    "link.life": {"pin link.capacitor": _part("EL450-150"), "link.can_resistance": 100.0},
    "link.ripple": {"pin link.capacitor": _part("EL450-150"), "link.ripple_fraction": 0.03},
    "bridge.junction": {"pin bridge.switch": _part("NM600-190"), "pin bridge.sink_resistance": 12.0},
    "bridge.current_rating": {"pin bridge.switch": _part("NM600-190"), "bridge.trust_factor": 0.1},
    "bridge.link_rating": {"pin bridge.switch": _part("NM300-52")},
    "bridge.modulation": {"pin link.link_setpoint": 340.0},
    "bridge.whole_ratio": {"pin bridge.carrier_frequency": 20025.0},
    "bridge.silent": {"bridge.wanted_carrier": 8000.0},
    "bridge.distortion": {"output.thd_limit": 0.005},
    "bridge_gates.gate_window": {"choose bridge_gates.gate_supply": "source", "battery.cells": 9.0},
    "bridge_gates.fully_on": {"bridge_gates.gate_supply_voltage": 6.0},
    "bridge_gates.boosted_supply": {"pin bridge_gates.boosted": 1.0, "bridge_gates.boost_rating": 0.05},
    "bridge_gates.driver_current": {"pin bridge_gates.gate_resistor_off": 1.0, "bridge_gates.driver_current_limit": 1.0},
    "bridge_gates.dead_time": {"bridge.dead_time": 10e-9},
    "bootstrap.droop": {"bridge_gates.gate_supply_voltage": 10.4},
    "bootstrap.refresh": {"pin bootstrap.bootstrap_resistor": 47.0},
    "front_bootstrap.droop": {"front_gates.gate_supply_voltage": 9.0},
    "front_bootstrap.refresh": {"pin front_bootstrap.bootstrap_resistor": 47.0},
    "filter.corner_high": {"pin filter.capacitor": _part("FA275-0R1")},
    "filter.corner_low": {"pin filter.filter_inductance": 0.1, "pin filter.capacitor": _part("FA275-10")},
    "filter.reactive": {"pin filter.capacitor": _part("FA275-10")},
    "filter.capacitor_voltage": {"pin filter.capacitor": _part("FA160-2R2")},
    "filter.capacitor_current": {"pin filter.filter_inductance": 0.2e-3, "pin filter.capacitor": _part("FA275-0R47")},
    "filter.damper_voltage": {"pin filter.damper": _part("FA160-2R2", 2)},
    "filter.damper_current": {"pin filter.filter_inductance": 0.1e-3, "pin filter.damping_resistor": 1.0, "pin filter.damper": _part("FA275-1")},
    "output.surge_duration": {"pin load_1.start_time": 8.0},
    "trip.below_weakest": {"pin bridge.switch": _part("NM600-190"), "pin trip.output_trip_level": 60.0},
    "trip.above_working": {"pin trip.output_trip_level": 8.0},
    "trip.choke_slows": {"pin bridge.switch": _part("NM600-190"), "pin trip.output_trip_level": 60.0},
    **failing.FAILING,
}
"""What of a line-up's sample is moved so that a check fails: givens, "pin" a figure or a part, "choose" an option. The sample itself holds them all."""
ELSEWHERE: dict[tuple[str, str], dict[str, object]] = {
    ("boost_link_bridge", "input.fuse_protects_cable"): {"pin input.cable_area": 1.5e-6},
    ("boost_link_bridge", "front.diode_temperature_check"): {"pin front.sink_resistance": 8.0},
    ("boost_link_bridge", "front.junction"): {"pin front.switch": _part("NM500-150", 2), "pin front.sink_resistance": 4.0},
    ("boost_link_bridge", "front.current_rating"): {"pin front.switch": _part("NM500-150", 2), "front.trust_factor": 0.1},
    ("boost_link_bridge", "front.static_voltage_rating"): {"pin front.switch": _part("NM300-52")},
    ("boost_link_bridge", "front.dynamic_voltage_rating"): {"pin front.switch": _part("NM300-52")},
    ("boost_link_bridge", "front.pulsed_rating_check"): {"pin front.switch": _part("NM500-150", 2), "front.trust_factor": 0.1},
    ("boost_link_bridge", "front.reverse_voltage"): {"pin front.diode": _part("RF400-8")},
    ("boost_link_bridge", "front.diode_current"): {"pin front.diode": _part("SD1200-5"), "load_1.rated_power": 4200.0},
    ("boost_link_bridge", "front.recovery"): {"pin front.diode": _part("RS1000-6")},
    ("boost_link_bridge", "front.reach"): {"battery.cells": 6.0, "oscillator.off_fraction": 0.3},
    ("boost_link_bridge", "front.source_below_link"): {"battery.cells": 120.0},
    ("boost_link_bridge", "front_gates.gate_window"): {"choose front_gates.gate_supply": "source"},
    ("boost_link_bridge", "input.fuse_carries"): {"pin input.fuse": _part("FB80-15")},
    ("boost_link_bridge", "cutoff.no_trip_in_service"): {"pin battery.cell_resistance": 8e-3, "pin cutoff.filter_time": 0.05},
    ("boost_link_bridge", "battery.deliverable"): {"pin battery.cell_resistance": 0.1},
    **{
        ("boost_link_bridge", f"input.bulk_{name}"): {
            "pin front.choke_inductance": 8e-6,
            "input.bulk_ripple_share": 1e-3,
            "pin input.bulk": _part("EB100-1000"),
            "oscillator.wanted_frequency": 5e3,
        }
        for name in ("ripple", "capacitance", "resistance", "cold")
    },
}
"""The same where a line-up has it otherwise."""

SHARED = {
    "cutoff.rebound": "the feedback resistor is made for the width needed; it fails where the resistor is another",
    "clamp.leakage_share": "both follow the power; their ratio is leakage, current and frequency against it",
    "input.bulk_cold": "the warm resistance is in both kinds of ripple; capability is a share of the source's volts",
    "clamp.clamp_room": "both stand on the highest source: what the switch's rating leaves above it against it",
    "precharge.energy": "the resistor is bought for what it must stand; it fails where another is fitted",
    "clamp.clamp_resistor_power": "the resistor is bought for what it burns; it fails where another is fitted, or none is large enough",
    "bootstrap.refresh": "the resistor is made for the refresh allowed; it fails where another is fitted, or no droop is left",
    "front_bootstrap.refresh": "the resistor is made for the refresh allowed; it fails where another is fitted, or no droop is left",
    "link.discharge": "the bleeder is made for the time wanted; it fails where another is fitted",
    "link.bleeder_alone": "the bleeder is made for the time that is left to it; it fails where another is fitted",
    "link.discharge_pulse": "the resistor is bought for the energy; it fails where a smaller one is fitted",
    "link.bleeder_power": "the number of pieces is made for the watts; it fails where fewer are fitted",
    "link.bleeder_voltage": "the number of pieces is made for the volts; it fails where fewer are fitted",
    "front.reach": "the ripple counted with the set-point is that of the link as it stands; it fails where the source is too low for the set-point",
    "front.source_below_link": "the ripple counted with the set-point is that of the link as it stands; it fails where the source is as high as the link",
    "trip.above_working": "the trip is set from the highest working peak; it fails where it is set lower",
    "trip.below_weakest": "the switches are picked for the trip; it fails where the trip is set higher or another part is fitted",
    "transformer.flux": "the turns are made for the limit; it fails where fewer are wound, or the duty outruns the ratio",
    **failing.SHARED,
}
"""Checks whose one side is made from the other's deciding term, with the reason why they may stand."""


@functools.cache
def demo(id: str):
    design = of_sample(id)
    model, inputs = design.model(), design.inputs()
    return model, inputs, model.solve(inputs)


def moved(inputs: Inputs, index: dict[str, int], choices: object, change: dict[str, object]) -> Inputs:
    givens, chosen, pins = dict(inputs.givens), dict(inputs.choices), dict(inputs.pins)
    for key, value in change.items():
        kind, _, name = key.rpartition(" ")
        if kind == "pin" and name in index:
            pins[name] = Pin(value, "to see the check fail")
        elif kind == "choose":
            chosen[name] = value
        elif not kind and name in index:
            givens[name] = value
    return Inputs(givens, chosen, pins)


@pytest.mark.parametrize("key", sorted({c for s in TOOLS for c in (f"{s.name}.{check}" for check in s.checks)}))
def test_each_check_of_a_stage_alone_fails_in_one_design_and_holds_in_another(key):
    model = model_for(f"{key.split('.')[0]}_alone", ())
    sheet = model.solve(Inputs())
    row, _ = sheet.check(key)
    assert sheet.judge().code[row].min() == HOLDS
    bad = model.solve(moved(Inputs(), model.wiring.index, model.choices, failing.TOOLS[key]))
    assert bad.judge().code[row].min() == FAILS


CASES = [(id, key) for id in TITLES for key in sorted({c.key for c in demo(id)[0].wiring.checks})]


@pytest.mark.parametrize(("id", "key"), CASES)
def test_each_check_fails_in_one_design_and_holds_in_another(id, key):
    model, inputs, sheet = demo(id)
    change = ELSEWHERE.get((id, key), FAILING.get(key))
    assert change, f"no design is known that fails {key}"
    row, _ = sheet.check(key)
    assert sheet.judge().code[row].min() == HOLDS, "the sample holds it"
    bad = model.solve(moved(inputs, model.wiring.index, model.choices, change))
    codes, margins = bad.judge().code[row], bad.judge().margin[row]
    assert codes.min() == FAILS, f"{key}: {codes}, margins {np.nanmin(margins)}"


@pytest.mark.parametrize("id", TITLES)
def test_a_check_that_is_fed_what_it_guards_is_named_with_its_reason(id):
    """Where one side is computed from the other in at most two steps, somebody has thought about whether it can fail."""
    model = demo(id)[0]
    wiring = model.wiring
    fed = set()
    for check in wiring.checks:
        for start, goal in ((check.demand, check.capability), (check.capability, check.demand)):
            if wiring.nodes[goal].figure.kind == "published":
                continue  # a part of the catalogue: it is picked for the demand, and fails where none is good enough or another is fitted
            near = set(wiring.nodes[goal].args)
            near |= {a for n in near for a in wiring.nodes[n].args}
            if start in near and wiring.nodes[start].figure.kind in ("build", "operation"):
                fed.add(check.key)
    assert fed <= set(SHARED), f"not named: {sorted(fed - set(SHARED))}"


def test_no_design_stands_for_a_check_that_is_gone():
    keys = {key for _, key in CASES}
    assert set(FAILING) | {key for _, key in ELSEWHERE} == keys
    assert set(ELSEWHERE) <= set(CASES)
    assert set(SHARED) <= keys
    assert all(len(reason) > 20 for reason in SHARED.values())
