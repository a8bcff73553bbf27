"""The circuits of clock, control supply, sensors, gauge and trip against the closed forms of their sheets."""

import numpy as np
import pytest

from rhombos.core.circuit.solved import looked
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.control.circuits_small import LIMIT, UPPER
from rhombos.formats.design import model_for
from tests.core.trial import of_sample


def solved(place, choice=None, corner="nominal_full", **givens):
    """A place of the sample design as it is looked at: the place, and its run."""
    design = of_sample("ferrite_push_pull_link_bridge")
    model, inputs = design.model(), design.inputs()
    if choice is not None:
        inputs = Inputs(inputs.givens, {**inputs.choices, f"{place}.{choice[0]}": choice[1]}, inputs.pins)
    for name, value in givens.items():
        inputs = inputs.with_given(f"{place}.{name}", value)
    sheet = model.solve(inputs)
    seen = Seen(model, sheet, model.wiring.lineup.place(place), sheet.corners.ids.index(corner))
    return seen, looked(seen.place.stage.schematic, seen.at, seen.place.stage.looks[0].fn(seen))


def alone(name, family):
    model = model_for(f"{name}_alone", ())
    sheet = model.solve(Inputs({}, {f"{name}.family": family}))
    seen = Seen(model, sheet, model.wiring.lineup.place(name), 0)
    return seen, looked(seen.place.stage.schematic, seen.at, seen.place.stage.looks[0].fn(seen))


def test_the_hold_up_capacitor_carries_the_rail_above_lock_out_for_the_longest_dip():
    seen, run = solved("supply")
    times = run.times(4000)
    lowest = run.voltage("rail", "0", times).min()
    resistance = seen.at("hold_up_resistance")
    fallen = seen.at("supplied_current") * (seen.at("dip_time") / seen.at("hold_up_capacitor") + resistance + LIMIT)
    assert lowest == pytest.approx(float(np.nanmin(seen.each("control_rail"))) - fallen, rel=2e-3)
    assert (lowest > seen.at("control_lockout")) == (
        seen.at("ridden_through") > seen.at("dip_time") * (1 + resistance * seen.at("hold_up_capacitor") / seen.at("dip_time"))
    )


def test_a_smaller_capacitor_lets_the_rail_fall_through_lock_out():
    design = of_sample("ferrite_push_pull_link_bridge")
    model, inputs = design.model(), design.inputs()
    whole = model.solve(inputs)
    fitted = float(whole.values[model.wiring.index["supply.hold_up_capacitor"]])
    sheet = model.solve(inputs.with_pin("supply.hold_up_capacitor", fitted / 4))
    seen = Seen(model, sheet, model.wiring.lineup.place("supply"), 0)
    run = looked(seen.place.stage.schematic, seen.at, seen.place.stage.looks[0].fn(seen))
    assert run.voltage("rail", "0", run.times(4000)).min() < seen.at("control_lockout")
    assert seen.at("ridden_through") < seen.at("dip_time")


@pytest.mark.parametrize("sensor", ["transformer_each", "transformer_common"])
def test_the_sensors_reading_droops_as_its_formula_says_and_its_core_comes_back(sensor):
    seen, run = solved("sensing", ("method", sensor))
    just = np.array([1e-9, seen.at("pulse_time") * (1 - 1e-6)])
    first, last = run.voltage("reading", "0", just)
    level = seen.at("front_trip_level") / seen.at("sensor_turns") * seen.at("burden")
    assert first == pytest.approx(level, rel=0.01)
    # The formula counts the first moment's volts for the whole pulse, over the trip level; the diode's slope is left out of it.
    assert (first - last) / first == pytest.approx(np.asarray(seen.each("droop"))[seen.corner], rel=0.1)
    core = run.current("core", np.array([0.0, run.seconds * (1 - 1e-9)]))
    assert core[0] == pytest.approx(core[1], abs=1e-6)


def test_behind_a_shunt_and_on_the_drain_ohms_law_is_read():
    for sensor, name in (("shunt", "shunt_voltage"), ("drain", "drain_trip_voltage")):
        seen, run = solved("sensing", ("method", sensor), corner="highest_full")
        read = run.voltage("reading", "0", np.array([seen.at("pulse_time") / 2]))[0]
        expected = seen.at(name) if sensor == "shunt" else seen.at("front_trip_level") * seen.at("hot_resistance") / seen.at("switch_quantity")
        assert read == pytest.approx(expected, rel=0.06 if sensor == "shunt" else 1e-4), "a shunt has a preferred value"


@pytest.mark.parametrize("family", ["pin", "discharge", "single_ended", "flip_flop"])
def test_a_clock_by_resistor_and_capacitor_turns_back_where_its_family_does(family):
    """Its times are those of the sheet; that the capacitor then stands where the controller turns back ties them to the parts."""
    seen, run = alone("oscillator", family)
    times = run.times(20_000)
    ramp = run.voltage("ramp", "0", times)
    assert ramp.max() == pytest.approx(UPPER, rel=0.02 if family != "discharge" else 0.06)
    if family == "flip_flop":
        assert ramp.min() == pytest.approx(UPPER / 2, rel=0.01)
    rises = np.count_nonzero((ramp[:-1] < 0.75 * UPPER) & (ramp[1:] >= 0.75 * UPPER))
    assert rises / run.seconds == pytest.approx(seen.at("oscillator_frequency"), rel=1e-6)


@pytest.mark.parametrize("family", ["pin", "discharge", "timer", "timer_both_ways", "flip_flop"])
def test_between_two_outputs_lies_the_dead_time(family):
    seen, run = alone("oscillator", family)
    times = np.linspace(0, run.seconds, 40_001)[:-1]
    a, b = (run.voltage(name, "0", times) > UPPER / 2 for name in "ab")
    assert not (a & b).any()
    neither = np.count_nonzero(~a & ~b) / len(times) * run.seconds
    assert neither == pytest.approx(2 * seen.at("available_dead_time"), rel=0.02, abs=2 * run.seconds / len(times))


def test_the_gauges_tap_is_what_the_counts_are_of_and_the_clamp_rests():
    seen, run = solved("gauge")
    scale = 2 ** seen.at("adc_bits") / seen.at("adc_reference")
    for k, counts in ((0, "counts_empty"), (3, "counts_charging")):
        assert run.voltage("tap", "0", np.array([k + 0.5]))[0] * scale == pytest.approx(seen.at(counts), abs=1.5)
    assert run.voltage("tap", "0", np.array([4.5]))[0] < seen.at("adc_reference")
    assert abs(run.current("clamp", np.array([4.5]))[0]) < 1e-6


def test_a_short_is_off_below_what_the_choke_and_the_switches_stand():
    seen, run = solved("trip")
    times = run.times(8000)
    current = run.current("choke", times)
    peak = seen.at("output_trip_level") + seen.at("highest_link") * seen.at("time_to_act") / seen.at("lowest_inductance")
    assert current.max() == pytest.approx(peak, rel=2e-3)
    assert current.max() <= seen.at("choke_saturation_current")
    assert current[-1] < current.max(), "it runs down in the diodes"
