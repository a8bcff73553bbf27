"""The circuit engine and sine PWM against independent references."""

import math
from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.special import jv

from rhombos.core.circuit.network import CircuitError, Element, Network
from rhombos.core.circuit.output.period import solve
from rhombos.core.circuit.output.reading import Reading
from rhombos.core.circuit.output.slots import slots_of
from rhombos.core.circuit.scope import Setting, circuit, loads, meter, node_meter, picture, reduce_to, setting_from, stepped_harmonics
from rhombos.core.graph.errors import InputError
from rhombos.core.modulation.sine_pwm import sine_legs
from rhombos.demo import tern_islet
from tests.core.edges import sine_pwm

SETTING = Setting(370.0, 0.88, 50.0, 2000.0, 8e-3, 0.2, 3e-6, 9e-6, 47.0, 800.0, 300.0, 230.0, True, False)


def changed(**values) -> Setting:
    return Setting(**{**SETTING.__dict__, **values})


IDEAL = [
    SETTING,
    changed(unipolar=False),
    changed(natural=True),
    changed(reactive_power=0.0),
    changed(power=0.0, reactive_power=0.0),
    changed(power=30.0, reactive_power=500.0),
]


@pytest.mark.parametrize("setting", IDEAL)
def test_the_steady_state_of_ideal_edges_is_the_sum_of_its_harmonics(setting):
    """Phasors of every harmonic of the exact edges through the filter, against the states at rest."""
    made = circuit(setting)
    legs = sine_legs(setting.index, setting.frequency, setting.carrier, unipolar=setting.unipolar, natural=setting.natural)
    seen = Reading(made, solve(made, slots_of(legs, 1 / setting.frequency, 0.0), np.ones(1, dtype=int)))
    times = np.linspace(0, 0.02, 37, endpoint=False)
    edges = sine_pwm(setting.link, setting.index, setting.frequency, setting.carrier, unipolar=setting.unipolar, natural=setting.natural)
    orders = np.arange(1, 40_000)
    coefficients = np.array([np.exp(-2j * np.pi * k * orders / edges.period) for k in edges.times]).T @ edges.steps / (2j * np.pi * orders)
    omega = 2j * np.pi * setting.frequency * orders
    of = made.filter
    shunt = omega * of.capacitance + 1 / (of.damping_resistance + 1 / (omega * of.damping_capacitance))
    shunt = shunt + (0 if setting.power == 0 else 1 / (of.load_resistance + omega * of.load_inductance))
    output = coefficients / shunt / (setting.resistance + omega * of.inductance + 1 / shunt)
    waves = [2 * (x @ np.exp(np.outer(2j * np.pi * orders / edges.period, times))).real for x in (output, output * shunt)]
    for name, wave in zip(("output", "choke"), waves, strict=True):
        assert np.abs(seen.at(name, times) - wave).max() < 5e-5 * np.abs(wave).max(), "what is left of the series"


@given(link=st.floats(50, 800), index=st.floats(0.05, 0.99), ratio=st.integers(5, 60), unipolar=st.booleans(), natural=st.booleans())
@settings(max_examples=60, deadline=None)
def test_edges_are_in_order_and_the_fundamental_is_the_index(link, index, ratio, unipolar, natural):
    edges = sine_pwm(link, index, 50.0, 50.0 * ratio, unipolar=unipolar, natural=natural)
    assert np.all(np.diff(edges.times) >= -1e-12)
    assert np.all((edges.times >= 0) & (edges.times <= edges.period * (1 + 1e-12)))
    assert np.abs(edges.levels).max() <= link * (1 + 1e-9)
    assert edges.levels[-1] == pytest.approx(edges.start, abs=1e-6 * link)
    if natural and ratio >= 15:
        assert edges.harmonics(np.array([1.0]))[0] == pytest.approx(index * link, rel=2e-3)


@pytest.mark.parametrize("index", [0.3, 0.6, 0.9])
def test_unipolar_harmonics_are_the_bessel_series(index):
    """Naturally sampled three-level wave: at 2m·f_c ± (2n − 1)·f_o the peak is 4·V/(2m·π)·J_(2n−1)(m·π·M)."""
    ratio, link = 400, 380.0
    edges = sine_pwm(link, index, 50.0, 50.0 * ratio, unipolar=True, natural=True)
    for m in (1, 2):
        for order in (1, 3, 5):
            expected = 4 * link / (2 * m * np.pi) * abs(jv(order, m * np.pi * index))
            for sign in (-1, 1):
                found = edges.harmonics(np.array([2.0 * m * ratio + sign * order]))[0]
                assert found == pytest.approx(expected, rel=1e-3, abs=1e-3 * link)


@pytest.mark.parametrize("index", [0.4, 0.85])
def test_bipolar_harmonics_are_the_bessel_series(index):
    """Naturally sampled two-level wave: at m·f_c + n·f_o the peak is 4·V/(m·π)·J_n(m·π·M/2)·sin((m + n)·π/2)."""
    ratio, link = 401, 380.0
    edges = sine_pwm(link, index, 50.0, 50.0 * ratio, unipolar=False, natural=True)
    for m, n in ((1, 0), (1, 2), (1, -2), (2, 1), (2, -1), (2, 3)):
        expected = 4 * link / (m * np.pi) * abs(jv(abs(n), m * np.pi * index / 2) * np.sin((m + n) * np.pi / 2))
        assert edges.harmonics(np.array([float(m * ratio + n)]))[0] == pytest.approx(expected, rel=1e-3, abs=1e-3 * link)


def test_harmonics_from_edges_agree_with_a_fast_transform_of_a_fine_sampling():
    edges = sine_pwm(300.0, 0.8, 50.0, 1000.0, unipolar=True, natural=False)
    n = 2**18
    times = (np.arange(n) + 0.5) / n * edges.period
    wave = np.concatenate([[edges.start], edges.levels])[np.searchsorted(edges.times, times, side="right")]
    reference = 2 * np.abs(np.fft.rfft(wave))[1:60] / n
    np.testing.assert_allclose(edges.harmonics(np.arange(1.0, 60.0)), reference, atol=0.02)


def test_state_equations_of_a_known_circuit():
    """Series R-L into C: A = [[−R/L, −1/L], [1/C, 0]]."""
    network = Network([Element("V", "u", "1", "0"), Element("R", "r", "1", "2", 3.0), Element("L", "l", "2", "3", 0.5), Element("C", "c", "3", "0", 0.02)])
    solved = network.solved(np.array([3.0]), np.zeros(1))
    np.testing.assert_allclose(solved.rates, [[-6, -2, 2, 0], [50, 0, 0, 0]], atol=1e-12)
    np.testing.assert_allclose(solved.across[1], [3, 0, 0, 0], atol=1e-12)
    np.testing.assert_allclose(network.solved(np.array([6.0]), np.zeros(1), {"l": 0.25}).rates[0], [-24, -4, 4, 0], atol=1e-12)


def test_a_drop_behind_a_resistance_is_a_source_in_series_with_it():
    parts = [Element("V", "u", "1", "0"), Element("R", "r", "1", "2", 1.0), Element("R", "load", "2", "0", 9.0)]
    solved = Network(parts).solved(np.array([1.0, 9.0]), np.array([0.7, 0.0]))
    series = Network([*parts[:1], Element("R", "r", "1", "3", 1.0), Element("V", "drop", "3", "2"), *parts[2:]]).solved(np.array([1.0, 9.0]), np.zeros(2))
    currents = solved.branches[1] @ [12.0, 1.0]
    assert currents == pytest.approx((12.0 - 0.7) / 10)
    assert currents == pytest.approx(series.branches[1] @ [12.0, 0.7, 1.0])


def test_a_circuit_without_a_solution_is_refused():
    with pytest.raises(CircuitError, match="no unique solution"):
        Network([Element("V", "u", "1", "0"), Element("C", "c", "1", "0", 1e-6)]).solved(np.zeros(0), np.zeros(0))


def test_output_follows_the_transfer_function_at_the_fundamental():
    seen = picture(changed(carrier=20e3))
    omega = 2 * np.pi * 50
    load = 230.0**2 / (800 - 300j)
    shunt = 1 / (1j * omega * 3e-6 + 1 / (47 + 1 / (1j * omega * 9e-6)) + 1 / load)
    ratio = abs(shunt / (shunt + 0.2 + 1j * omega * 8e-3))
    assert seen.amplitudes[0] == pytest.approx(seen.node_amplitudes[0] * ratio, rel=1e-6)


def test_meters_on_waves_of_known_form():
    turn = np.linspace(0, 2 * np.pi, 20000, endpoint=False)
    sine = meter(325.27 * np.sin(turn))
    assert sine.true_rms == pytest.approx(230, rel=1e-4)
    assert sine.average == pytest.approx(230, rel=1e-4)
    assert sine.peak_scaled == pytest.approx(230, rel=1e-4)
    square = meter(np.where(turn < np.pi, 100.0, -100.0))
    assert square.true_rms == pytest.approx(100)
    assert square.average == pytest.approx(111.07, rel=1e-3)
    assert square.peak_scaled == pytest.approx(70.71, rel=1e-3)


def corners_of(edges) -> tuple[np.ndarray, np.ndarray]:
    """A stepped wave as the corners of its line."""
    return np.repeat(np.concatenate([[0.0], edges.times, [edges.period]]), 2)[1:-1], np.repeat(np.concatenate([[edges.start], edges.levels]), 2)


def test_the_node_meter_is_exact():
    edges = sine_pwm(200.0, 0.7, 50.0, 5000.0, unipolar=False, natural=True)
    assert node_meter(*corners_of(edges)).true_rms == pytest.approx(200.0), "two levels: rms is the link"
    ramp = node_meter(np.array([0.0, 1.0, 1.0, 2.0]), np.array([0.0, 3.0, 3.0, 0.0]))
    assert ramp.true_rms == pytest.approx(3 / np.sqrt(3)), "a triangle"


@pytest.mark.parametrize("unipolar", [True, False])
def test_harmonics_of_a_stepped_line_are_those_of_its_edges(unipolar):
    edges = sine_pwm(380.0, 0.85, 50.0, 20e3, unipolar=unipolar, natural=False)
    found = stepped_harmonics(*corners_of(edges), edges.period, 1700)
    np.testing.assert_allclose(found, edges.harmonics(np.arange(1.0, 1701.0)), atol=2e-3 * 380)


def test_bucket_reduction_keeps_every_extreme():
    times = np.linspace(0, 1, 5000)
    wave = np.sin(40 * times) * times
    t, v = reduce_to(times, wave, 120)
    assert len(t) == len(v) == 240
    assert max(v) == pytest.approx(wave.max(), abs=1e-6)
    assert min(v) == pytest.approx(wave.min(), abs=1e-6)
    assert np.all(np.diff(t) >= 0)
    np.testing.assert_allclose(np.interp(t, times, wave), v, atol=3e-5)


@pytest.mark.parametrize("scale", [1e-9, 3.7, 2.5e7])
def test_a_trace_is_told_with_six_digits_of_its_greatest(scale):
    """A few samples are told as they are, a long trace by its buckets; times never go back, whatever stands twice at an edge."""
    times = np.sort(np.concatenate([np.linspace(0, 2e-5, 4096), [1e-5, np.nextafter(1e-5, 0)]]))
    wave = scale * np.sin(3e6 * times) * (times > 1e-5)
    for buckets in (5000, 700):
        t, v = reduce_to(times, wave, buckets)
        assert np.all(np.diff(t) >= 0)
        assert np.abs(v).max() == pytest.approx(np.abs(wave).max(), rel=1e-5)
        assert all(len(repr(x).replace(".", "").replace("-", "").lstrip("0").split("e")[0].rstrip("0")) <= 8 for x in (*t.tolist(), *v.tolist()))


def test_the_picture_of_the_demo_meets_its_brief():
    design = tern_islet.first()
    sheet = design.model().solve(design.inputs())
    seen = picture(setting_from(sheet, "nominal_full"))
    assert seen.meters["output"].true_rms == pytest.approx(230, rel=5e-3)
    assert seen.thd < sheet.value("output.thd_limit")[0]
    assert 0.001 < seen.residue < 0.02
    assert seen.choke_ripple == pytest.approx(sheet.at("filter.filter_ripple", "nominal_full"), rel=0.1), "the worst-duty formula bounds the drawn ripple"
    assert seen.link_ripple == pytest.approx(sheet.at("link.link_ripple", "nominal_full"), rel=0.05)
    assert 0.8 < seen.choke_peak / sheet.at("filter.choke_peak_current", "nominal_full") < 1.01, "the sheet adds the worst ripple to the crest"
    with pytest.raises(InputError, match="no load 'toaster'"):
        setting_from(sheet, "nominal_full", load="toaster")


@pytest.mark.parametrize("corner", ["lowest_full", "nominal_full", "nominal_half", "highest_full"])
def test_what_dead_time_and_link_add_is_what_the_sheet_expects(corner):
    """Each alone as its formula says, to a tenth; together no more than in quadrature, which is what is judged."""
    design = tern_islet.first()
    sheet = design.model().solve(design.inputs())
    setting = setting_from(sheet, corner)
    dead, link, both = (picture(replace(setting, **c)).thd for c in ({"link_capacitance": math.inf}, {"dead_time": 0.0, "forward": 0.0}, {}))
    assert dead == pytest.approx(sheet.at("bridge.dead_time_distortion", corner), rel=0.15)
    assert link == pytest.approx(sheet.at("bridge.link_distortion", corner), rel=0.1)
    assert both < sheet.at("bridge.expected_distortion", corner) * 1.02


def test_each_load_of_the_list_can_hang_there_alone():
    design = tern_islet.second()
    sheet = design.model().solve(design.inputs())
    alone = [setting_from(sheet, "nominal_full", load=place) for place in loads(sheet)[3:]]
    whole = setting_from(sheet, "nominal_full")
    assert len(alone) == len(design.loads)
    assert sum(s.power for s in alone) == pytest.approx(whole.power, rel=1e-6)
    assert sum(s.reactive_power for s in alone) == pytest.approx(whole.reactive_power, rel=1e-6)


@pytest.mark.parametrize("power", [0.0, 800.0])
def test_peaks_are_read_at_the_edges_however_coarse_the_picture(power):
    """A thousandth of a turn between samples passes by what an edge holds; the peak of a triangle is its corner."""
    setting = changed(power=power, reactive_power=0.0, carrier=20e3)
    fine, coarse = picture(setting, samples=65536), picture(setting, samples=1024)
    assert coarse.choke_peak == pytest.approx(fine.choke_peak, rel=1e-6)
    assert coarse.choke_ripple == pytest.approx(fine.choke_ripple, rel=0.01), "its sine is fitted to the samples"
