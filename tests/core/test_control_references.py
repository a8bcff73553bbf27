"""Feedback, sensing, clocks and starts against second routes: networks solved as matrices, equations marched through time, brute force."""

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import quad, solve_ivp

from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.pictures import pictures_of
from rhombos.core.stages.feedback.output_sensing import stepped_response
from rhombos.core.stages.feedback.single_faults import Path, faults
from rhombos.formats.design import model_for, of_sample
from tests.core.formula import figure

PATHS = st.builds(
    Path,
    reference=st.floats(1, 5),
    upper_piece=st.floats(50e3, 500e3),
    upper_pieces=st.integers(1, 4),
    lower_fixed=st.floats(1e3, 10e3),
    trim_pot=st.floats(100, 1e3),
    wiper=st.floats(0.2, 0.8),
    ceiling=st.floats(3e3, 5e3),
)


def tap(link: float, resistors: list[float], below: list[float]) -> float:
    """Voltage of the tap between two strings of resistors, from the node equations of every joint."""
    string = [*resistors, *below]
    count = len(string) - 1
    matrix, right = np.zeros((count, count)), np.zeros(count)
    for k, ohms in enumerate(string):
        for node in (k - 1, k):
            if 0 <= node < count:
                matrix[node, node] += 1 / ohms
        if 0 < k < count:
            matrix[k - 1, k] -= 1 / ohms
            matrix[k, k - 1] -= 1 / ohms
    right[0] = link / string[0]
    return float(np.linalg.solve(matrix, right)[len(resistors) - 1])


@given(PATHS)
def test_where_a_fault_lets_the_link_go_the_tap_stands_at_the_reference(path):
    upper, lower = [path.upper_piece] * path.upper_pieces, [path.lower_fixed, path.wiper * path.trim_pot]
    networks = {
        ("lower resistor", "shorted"): (upper, [1e-6, lower[1]]),
        ("pot", "turned to its upper end"): (upper, [path.lower_fixed, 1e-6]),
        ("pot", "turned to its lower end"): (upper, [path.lower_fixed, path.trim_pot]),
    }
    if path.upper_pieces > 1:
        networks["upper resistor", "one shorted"] = (upper[1:], lower)
    told = {(f.part, f.what): f.link for f in faults(path)}
    for name, (above, below) in networks.items():
        if told[name] < path.ceiling * 0.999:
            assert tap(told[name], above, below) == pytest.approx(path.reference, rel=1e-4)
    assert told["upper resistor", "open"] == path.ceiling
    assert told["optocoupler's diode", "open"] == path.ceiling
    assert all(path.floor <= volts <= path.ceiling for volts in told.values())


@given(reference=st.floats(0.005, 0.05), legs=st.floats(0.001, 0.05))
def test_the_spread_is_that_of_the_worst_of_all_corners(reference, legs):
    ratio = 150.0
    found = [(1 + r * reference) * (1 + ratio * (1 + u * legs) / (1 + d * legs)) / (1 + ratio) - 1 for r, u, d in itertools.product((-1, 0, 1), repeat=3)]
    told = figure("feedback", "parts_spread", level_tolerance=reference, leg_tolerance=legs)
    assert max(found) == pytest.approx(told, rel=0.01)
    assert told >= max(found), "the one in 1 + R_u/R_l is left out on the safe side"


@given(volts=st.floats(300, 420), room=st.floats(1.02, 1.3), watts=st.floats(100, 5e3), farads=st.floats(1e-4, 2e-3))
def test_the_time_to_a_rating_is_the_energy_s(volts, room, watts, farads):
    time = figure("feedback", "time_to_rating", link_capacitance=farads, weakest_link_rating=room * volts, link_setpoint=volts, surplus_power=watts)
    end = solve_ivp(lambda _, v: watts / (farads * v), (0, time), [volts], rtol=1e-10, atol=1e-9).y[0, -1]
    assert end == pytest.approx(room * volts, rel=1e-7)


@given(start=st.floats(20, 100), trip=st.floats(1.1, 1.5), fault=st.floats(2, 6))
def test_an_averaging_limit_acts_when_its_filter_has_come_up(start, trip, fault):
    limits = {"reading_filter": 0.2e-6, "front_sense_delay": 0.3e-6, "front_drive_delay": 0.2e-6, "heat_time": 10.0, "averages": 1.0, "by_heat": 0.0}
    level, top = trip * start, fault * trip * start
    time = figure(
        "current_sensing", "limit_time", mean_filter=1e-3, pulsed_rating=top, peak_current=start, front_trip_level=level, mean_crossover=1e9, **limits
    )
    reading = solve_ivp(lambda _, i: (top - i) / 1e-3, (0, time), [start], rtol=1e-10, atol=1e-12).y[0, -1]
    assert reading == pytest.approx(level, rel=1e-6)


@given(watts=st.floats(100, 3e3), farads=st.floats(1e-4, 2e-3), volts=st.floats(150, 450), share=st.floats(1.1, 3))
def test_a_link_charged_by_power_takes_the_time_that_its_energy_says(watts, farads, volts, share):
    power = figure("soft_start", "charging_power", rated_active_power=watts, start_input_share=share, loaded_share=0.0)
    numbers = {"link_capacitance": farads, "link_setpoint": volts, "charging_power": power, "charging_current": 1.0}
    time = figure("soft_start", "link_charging_time", by_power=1.0, **numbers)
    assert power * time == pytest.approx(farads * volts**2 / 2)
    first = 0.05 * volts
    rest = solve_ivp(lambda _, v: power / (farads * v), (0, time * (1 - 0.05**2)), [first], rtol=1e-10, atol=1e-9).y[0, -1]
    assert rest == pytest.approx(volts, rel=1e-7)


def test_a_two_timer_charges_and_discharges_between_a_third_and_two_thirds():
    sheet = model_for("duty_timer_alone", ()).solve(Inputs({"duty_timer.pot_place": 0.3}))
    low, pot, high, c = (float(sheet.value(f"duty_timer.{n}")[0]) for n in ("low_stop", "duty_pot", "high_stop", "timer_capacitor"))

    def seconds(ohms, start, to, toward):
        return quad(lambda v: ohms * c / (toward - v), start, to)[0]

    up, down = seconds(low + 0.3 * pot, 1 / 3, 2 / 3, 1.0), seconds(high + 0.7 * pot, 2 / 3, 1 / 3, 0.0)
    assert sheet.value("duty_timer.timer_frequency")[0] == pytest.approx(1 / (up + down), rel=2e-3)
    assert sheet.value("duty_timer.timer_duty")[0] == pytest.approx(up / (up + down), rel=1e-9)


def test_the_mean_of_a_resonant_driver_s_centre_tap_is_its_source():
    source = 24.0
    half = figure("resonant_driver", "off_peak", resonant_source=source) / 2
    mean = quad(lambda t: half * abs(np.sin(t)), 0, np.pi)[0] / np.pi
    assert mean == pytest.approx(source)
    whole = figure("resonant_driver", "whole_inductance", measured_inductance=15e-6, half_measured=1.0)
    assert whole == 4 * 15e-6, "one half in place of the whole is a factor of two in frequency"


@given(volts=st.floats(5, 50), turns=st.integers(2, 50), flux=st.floats(0.1, 0.5), area=st.floats(2e-5, 5e-4), amperes=st.floats(0.5, 20))
def test_both_laws_of_a_self_oscillator_agree_where_the_core_saturates_at_the_gain_s_current(volts, turns, flux, area, amperes):
    numbers = {"half_voltage": volts, "half_turns": float(turns), "saturation_flux": flux, "oscillator_area": area}
    numbers |= {"half_inductance": turns * flux * area / amperes, "turning_current": amperes}
    by_core, by_gain = (figure("self_oscillator", "half_frequency", by_gain=k, **numbers) for k in (0.0, 1.0))
    assert by_core == pytest.approx(by_gain, rel=1e-9)


def test_the_other_form_of_hysteresis_turns_where_its_network_does():
    """Divider to the inverting input, reference and output through their resistors to the other: solved as two nodes."""
    model = model_for("cutoff_alone", ())
    sheet = model.solve(Inputs())

    def one(name):
        return float(np.reshape(sheet.value(f"cutoff.{name}"), -1)[0])

    for name, output in (("other_falling", "output_low"), ("other_rising", "output_high")):
        plus = tap(one("reference_voltage") - one(output), [one("reference_series")], [one("other_feedback")]) + one(output)
        minus = tap(one(name), [one("other_upper")], [one("lower_resistor")])
        assert minus == pytest.approx(plus, rel=1e-9)
    assert one("other_falling") <= one("wanted_cutoff") * 1.001
    assert one("other_rising") - one("other_falling") >= 0.97 * one("needed_hysteresis")


@pytest.mark.parametrize("id", ["ferrite_push_pull_link_bridge", "ferrite_bridge_link_bridge"])
def test_losses_over_frequency_are_the_sheet_s_own_and_sizing_anew_is_never_told_from_the_held(id):
    design = of_sample(id)
    model = design.model()
    sheet = model.solve(design.inputs())
    corner = sheet.corners.ids.index("nominal_full")
    (picture,) = [p for p in pictures_of(model, sheet, model.wiring.lineup.place("oscillator"), corner) if p["title"] == "Losses over frequency"]
    sized, held = (np.array(s["y"]) for s in picture["series"])
    k = int(np.argmin(np.abs(np.array(picture["series"][0]["x"]) - sheet.value("oscillator.switching_frequency")[0])))
    total = sheet.at("totals.total_loss", "nominal_full")
    assert sized[k] == pytest.approx(total, rel=1e-6)
    assert held[k] == pytest.approx(total, rel=1e-6)
    twice = design.inputs().with_pin("oscillator.switching_frequency", picture["series"][0]["x"][-1], "looked at")
    assert sized[-1] == pytest.approx(model.solve(twice).at("totals.total_loss", "nominal_full"), rel=0.03)


@pytest.mark.parametrize(
    ("three", "fraction", "told"),
    [(0, 0.8, 4.0), (0, 0.9, 7.1), (0, 0.95, 11.4), (0, 0.97, 15.8), (1, 0.8, 1.8), (1, 0.9, 2.9), (1, 0.95, 4.3), (1, 0.97, 5.7)],
)
def test_a_bank_behind_a_mains_rectifier_takes_the_table_s_time_constants(three, fraction, told):
    assert figure("mains_precharge", "needed_constants", three_phase=float(three), usual_fraction=fraction) == pytest.approx(told, abs=0.06)


def test_a_bank_behind_a_mains_rectifier_marched_through_its_half_waves():
    sheet = model_for("mains_precharge_alone", ()).solve(Inputs())
    crest, tau, time = (float(sheet.value(f"mains_precharge.{n}")[0]) for n in ("mains_crest", "mains_constant", "mains_time"))
    v, step = 0.0, 2e-6
    for t in np.arange(0, time, step):
        v += max(crest * abs(np.sin(2 * np.pi * 50 * t)) - v, 0.0) / tau * step
    assert v / crest == pytest.approx(0.9, abs=0.01)


@given(volts=st.floats(50, 400), half=st.booleans())
def test_a_rectified_sample_reads_the_mean_of_its_wave(volts, half):
    def mean(wave):
        whole = quad(lambda t: max(wave(t), 0.0) if half else abs(wave(t)), 0, 2 * np.pi, limit=400, points=[np.pi / 4, np.pi / 2, np.pi, 3 * np.pi / 2])[0]
        return whole / (2 * np.pi)

    numbers = {"sensed_output": volts, "by_samples": 0.0, "sensed_link": 2 * volts, "half_wave_duty": 0.25, "half_waved": float(half)}
    assert figure("output_sensing", "sample_mean", stepped=0.0, **numbers) == pytest.approx(mean(lambda t: np.sqrt(2) * volts * np.sin(t)), rel=1e-6)
    stepped = mean(lambda t: 2 * volts * (1.0 if t % np.pi < np.pi / 4 else 0.0) * (1 if t < np.pi else -1))
    assert figure("output_sensing", "sample_mean", stepped=1.0, **numbers) == pytest.approx(stepped, rel=1e-3)


def test_the_half_wave_loop_is_aperiodic_and_stable_as_far_as_it_is_said():
    memory = figure("output_sensing", "filter_memory", sense_frequency=50.0, loop_filter=0.1)

    def poles(gain):
        return np.roots([1, -(1 + memory), memory + gain * (1 - memory)])

    aperiodic = figure("output_sensing", "aperiodic_gain", filter_memory=memory)
    assert np.isreal(poles(0.999 * aperiodic)).all()
    assert not np.isreal(poles(1.01 * aperiodic)).all()
    damped = np.log(complex(poles(figure("output_sensing", "damped_gain", filter_memory=memory))[0]))
    assert -damped.real / abs(damped) == pytest.approx(0.7, abs=0.07)
    assert max(abs(poles(0.99))) < 1 < max(abs(poles(1.01)))
    after = stepped_response(aperiodic, memory, 400)
    assert (after <= 1 + 1e-9).all(), "no overshoot"
    assert after[-1] == pytest.approx(1, abs=1e-3)
