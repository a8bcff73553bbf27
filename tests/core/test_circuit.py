"""The circuit engine and sine PWM against independent references."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.linalg import expm
from scipy.special import jv

from rhombos.core.circuit.network import CircuitError, Element, state_space
from rhombos.core.circuit.periodic import steady_state
from rhombos.core.circuit.scope import Setting, circuit, meter, node_meter, picture, reduce_to, setting_from
from rhombos.core.modulation.sine_pwm import sine_pwm
from rhombos.demo import tern_islet

SETTING = Setting(370.0, 0.88, 50.0, 2000.0, 8e-3, 0.2, 3e-6, 9e-6, 47.0, 800.0, 300.0, 230.0, True, False)


def changed(**values) -> Setting:
    return Setting(**{**SETTING.__dict__, **values})


@pytest.mark.parametrize(
    "setting",
    [
        SETTING,
        changed(unipolar=False),
        changed(natural=True),
        changed(reactive_power=0.0),
        changed(power=0.0, reactive_power=0.0),
        changed(power=30.0, reactive_power=500.0),
    ],
)
def test_steady_state_repeats_and_agrees_with_an_adaptive_solver(setting):
    edges = sine_pwm(setting.link, setting.index, setting.frequency, setting.carrier, unipolar=setting.unipolar, natural=setting.natural)
    system = state_space(circuit(setting))
    points = np.array([0.0, 0.0031, 0.0077, 0.0124, 0.0199])
    ours = steady_state(system, edges, points)
    bounds = np.concatenate([[0.0], edges.times, [edges.period]])
    levels = np.concatenate([[edges.start], edges.levels])
    x = ours.states[:, 0]
    scale = np.max(np.abs(steady_state(system, edges, np.linspace(0, 0.0199, 400)).states), axis=1)
    for first, last, level in zip(bounds[:-1], bounds[1:], levels, strict=True):
        if last > first:
            solved = solve_ivp(
                lambda _, y, u=level: system.a @ y + system.b[:, 0] * u, (first, last), x, method="DOP853", rtol=1e-10, atol=1e-12, dense_output=True
            )
            for k, point in enumerate(points):
                if first <= point < last:
                    assert np.all(np.abs(solved.sol(point) - ours.states[:, k]) <= 1e-6 * scale)
            x = solved.y[:, -1]
    assert np.all(np.abs(x - ours.states[:, 0]) <= 1e-6 * scale), "the period repeats"


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
    system = state_space([Element("V", "u", "1", "0"), Element("R", "r", "1", "2", 3.0), Element("L", "l", "2", "3", 0.5), Element("C", "c", "3", "0", 0.02)])
    np.testing.assert_allclose(system.a, [[-6, -2], [50, 0]])
    np.testing.assert_allclose(system.b, [[2], [0]])
    np.testing.assert_allclose(expm(system.a * 0.0), np.eye(2))


def test_a_circuit_without_a_solution_is_refused():
    with pytest.raises(CircuitError, match="no unique solution"):
        state_space([Element("V", "u", "1", "0"), Element("C", "c", "1", "0", 1e-6)])


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


def test_the_node_meter_is_exact():
    edges = sine_pwm(200.0, 0.7, 50.0, 5000.0, unipolar=False, natural=True)
    assert node_meter(edges).true_rms == pytest.approx(200.0), "two levels: rms is the link"


def test_bucket_reduction_keeps_every_extreme():
    times = np.linspace(0, 1, 5000)
    wave = np.sin(40 * times) * times
    t, v = reduce_to(times, wave, 120)
    assert len(t) == len(v) == 240
    assert max(v) == wave.max()
    assert min(v) == wave.min()
    assert np.all(np.diff(t) >= 0)


def test_the_picture_of_the_demo_meets_its_brief():
    design = tern_islet.first()
    sheet = design.model().solve(design.inputs())
    seen = picture(setting_from(sheet, "nominal_full"))
    assert seen.meters["output"].true_rms == pytest.approx(230, rel=5e-3)
    assert seen.thd < sheet.value("output.thd_limit")[0]
    assert 0.001 < seen.residue < 0.02
    assert seen.choke_ripple == pytest.approx(sheet.at("filter.filter_ripple", "nominal_full"), rel=0.1), "the worst-duty formula bounds the drawn ripple"
    with pytest.raises(ValueError, match="not one of"):
        setting_from(sheet, "nominal_full", load="toaster")


@pytest.mark.parametrize("power", [0.0, 800.0])
def test_peaks_are_read_at_the_edges_however_coarse_the_picture(power):
    """A thousandth of a turn between samples passes by what an edge holds; the peak of a triangle is its corner."""
    setting = changed(power=power, reactive_power=0.0, carrier=20e3)
    fine, coarse = picture(setting, samples=65536), picture(setting, samples=1024)
    assert coarse.choke_peak == pytest.approx(fine.choke_peak, rel=1e-6)
    assert coarse.choke_ripple == pytest.approx(fine.choke_ripple, rel=0.01), "its sine is fitted to the samples"
