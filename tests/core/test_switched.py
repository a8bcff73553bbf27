"""The switched circuit engine against closed forms, SciPy marched with events, and its own balance of energy."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.optimize import brentq

from rhombos.core.circuit.network import CircuitError, Coupling
from rhombos.core.circuit.network import Element as E
from rhombos.core.circuit.switched.elements import Diode, Event, Sine, Switch, Switched
from rhombos.core.circuit.switched.march import march
from rhombos.core.circuit.switched.repeat import NotSettled, repeat
from tests.core.rectifiers import by_scipy, half_wave, settled_by_scipy


def test_a_rectifier_marches_as_scipy_does():
    circuit = half_wave()
    run = march(circuit, [], 0.04, np.array([50.0]))
    value, turns = by_scipy(circuit, 50.0, 0.04)
    assert run.end[0] == pytest.approx(value, rel=1e-6)
    assert [s.begin for s in run.stretches[1:]] == pytest.approx(turns, abs=1e-9)


def test_what_repeats_is_where_scipy_comes_to_by_waiting():
    circuit = half_wave()
    found = repeat(circuit, [], 0.02)
    value, _ = settled_by_scipy(circuit, 1e-7)
    _, turns = by_scipy(circuit, value, 0.02)
    assert found.end[0] == pytest.approx(value, rel=1e-4)
    assert [s.begin for s in found.stretches[1:]] == pytest.approx(turns, abs=1e-7)


@given(st.floats(20, 2000), st.floats(10e-6, 2e-3), st.floats(0.2, 10), st.floats(10, 400))
def test_energy_is_balanced_and_what_repeats_comes_back(resistance, capacitance, source, amplitude):
    run = repeat(half_wave(resistance, capacitance, source, amplitude), [], 0.02)
    assert run.energy().error < 1e-6
    assert run.end[0] == pytest.approx(run.start[0], rel=1e-8)
    times = run.times()
    through = run.current("diode", times)
    assert through.min() > -amplitude / 1e6
    assert run.voltage("c", "0", times).max() < amplitude - 0.8 + 1e-6


def test_the_conduction_angle_of_a_stiff_rectifier_is_the_closed_form():
    """Without source resistance the capacitor follows the crest and is left at tan(ωt) = −ωRC; it is met again where the exponential cuts the sine."""
    resistance, capacitance, omega = 200.0, 100e-6, 2 * np.pi * 50
    run = repeat(half_wave(resistance, capacitance, 1e-4, 325.0, 1e-6, 1e-4), [], 0.02)
    leaves = (np.pi - np.arctan(omega * resistance * capacitance)) / omega
    meets = brentq(lambda t: np.sin(omega * leaves) * np.exp(-(t + 0.02 - leaves) / (resistance * capacitance)) - np.sin(omega * t), 1e-4, 4.9e-3)
    on = [s for s in run.stretches if s.conducting]
    assert on[0].begin == pytest.approx(meets, abs=5e-6)
    assert on[-1].end == pytest.approx(leaves, abs=5e-6)


def test_a_closing_contactor_rings_as_the_closed_form_says():
    """Series R-L-C on a step, underdamped."""
    r, henry, c, v = 0.01, 2e-6, 5e-3, 1.5
    circuit = Switched(
        (E("V", "source", "a", "0", v), E("R", "r", "a", "b", r), E("L", "l", "d", "e", henry), E("C", "c", "e", "0", c)), (Switch("k", "b", "d", 1e-9),)
    )
    run = march(circuit, [Event(0.0, {"k": True})], 1e-3)
    alpha, natural = r / (2 * henry), 1 / np.sqrt(henry * c)
    ringing = np.sqrt(natural**2 - alpha**2)
    times = np.linspace(0, 1e-3, 300)
    np.testing.assert_allclose(
        run.current("l", times), v / (ringing * henry) * np.exp(-alpha * times) * np.sin(ringing * times), atol=1e-6 * v / (natural * henry)
    )


def test_a_boost_converter_repeats_at_the_voltage_that_its_duty_makes():
    """Ideal, continuous: V/(1 − D) less the drops, and its choke's ripple V·D/(L·f)."""
    circuit = Switched(
        (E("V", "source", "a", "0", 24.0), E("L", "choke", "a", "b", 200e-6), E("C", "link", "c", "0", 100e-6), E("R", "load", "c", "0", 20.0)),
        (Switch("switch", "b", "0", 1e-6),),
        (Diode("diode", "b", "c", 1e-6, 1e-6),),
    )
    run = repeat(circuit, [Event(0.0, {"switch": True}), Event(5e-6, {"switch": False})], 1e-5)
    times = run.times()
    assert run.voltage("c", "0", times).mean() == pytest.approx(48.0, rel=2e-3)
    assert np.ptp(run.current("choke", times)) == pytest.approx(24 * 5e-6 / 200e-6, rel=2e-3)


@given(st.floats(0.2, 0.995), st.floats(0.2, 5))
def test_coupled_windings_transform_and_leak(coupling, ratio):
    """An open secondary shows k·√(L2/L1) of the primary's voltage; with it shorted the primary shows L1·(1 − k²)."""
    l1 = 1e-3
    l2 = l1 * ratio**2
    mutual = Coupling("p", "s", coupling * np.sqrt(l1 * l2))
    for load, seen in ((1e9, l1), (1e-6, l1 * (1 - coupling**2))):
        circuit = Switched(
            (
                E("V", "source", "a", "0", 10.0),
                E("R", "r", "a", "b", 1e-6),
                E("L", "p", "b", "0", l1),
                E("L", "s", "c", "0", l2),
                E("R", "load", "c", "0", load),
            ),
            couplings=(mutual,),
        )
        run = march(circuit, [], 1e-6)
        assert run.end[0] == pytest.approx(10.0 * 1e-6 / seen, rel=1e-3)
        if load > 1:
            assert run.voltage("c", "0", np.array([1e-6]))[0] == pytest.approx(10 * coupling * ratio, rel=1e-3)


@pytest.mark.parametrize(
    ("make", "names"),
    [
        (lambda: Switched((E("R", "r", "a", "0", 0.0),)), "r is 0"),
        (lambda: Switched((E("C", "c", "a", "0", float("inf")),)), "c is inf"),
        (lambda: Switched((E("R", "r", "a", "a", 1.0),)), "both ends"),
        (lambda: Switched((E("R", "r", "a", "0", 1.0), E("L", "r", "a", "0", 1.0))), "two elements are called r"),
        (lambda: Switched((), diodes=(Diode("d", "a", "0", 0.7, 1e8, 1e7),)), "d is 1e"),
        (lambda: march(Switched((E("V", "one", "a", "0", 1.0), E("V", "two", "a", "0", 2.0))), [], 1.0), "one, two"),
        (
            lambda: march(Switched((E("L", "p", "a", "0", 1.0), E("L", "s", "a", "0", 1.0)), couplings=(Coupling("p", "s", 1.1),)), [], 1.0),
            "more than wholly|no unique",
        ),
    ],
)
def test_what_has_no_solution_is_refused_by_name(make, names):
    with pytest.raises(CircuitError, match=names):
        make()


def test_where_nothing_repeats_it_says_what_still_moves():
    """A current source into a capacitor: it climbs for ever."""
    circuit = Switched((E("I", "pump", "0", "a", 1e-3), E("C", "c", "a", "0", 1e-6)))
    with pytest.raises(NotSettled, match="c still moves") as told:
        repeat(circuit, [], 1e-3)
    assert told.value.run.stretches, "the last trace is there to be looked at"


def test_means_and_rms_values_are_those_of_fine_samples():
    run = repeat(half_wave(), [], 0.02)
    times = (np.arange(400_000) + 0.5) / 400_000 * 0.02
    names = ("diode", "load")

    def amperes(modes):
        return np.array([modes.branches[n] for n in names])

    waves = [run.current(n, times) for n in names]
    np.testing.assert_allclose(run.means(amperes), [w.mean() for w in waves], rtol=1e-5)
    np.testing.assert_allclose(run.effective(amperes), [np.sqrt(np.mean(w**2)) for w in waves], rtol=1e-5)


def test_what_flows_into_a_great_capacitor_flows_out_of_it():
    """It moves by 1e-10 of its volts in a period whatever flows: that it hardly moves proves nothing, and it stood at the guess."""
    rises, period = (0.0, 8e-6, 10e-6, 18e-6), 20e-6
    circuit = Switched(
        (
            E("V", "s", "a", "0", 400.0),
            E("R", "r", "a", "b", 2.0),
            E("L", "l", "b", "c", 10e-6),
            E("C", "link", "d", "0", 100.0),
            E("I", "load", "d", "0", 3.0),
        ),
        diodes=(Diode("d", "c", "d", 0.7, 1e-3),),
    )
    events = [Event(t, levels={"s": v}) for t, v in zip(rises, (400.0, 0.0, 400.0, 0.0), strict=True)]
    run = repeat(circuit, events, period, np.array([0.0, 389.0]))
    ((_, _),), ((mean, _),) = run.told(["d"], ["l"])
    assert mean == pytest.approx(3.0, rel=0.02)


@pytest.mark.parametrize("begun", [0.0, 200.0, 401.0, 800.0])
def test_a_capacitor_above_what_feeds_it_is_found_from_anywhere(begun):
    """While nothing feeds it a period takes a few volts off it, wherever it stands: Newton's step would have no end."""
    circuit = Switched(
        (
            *(E("V", "s", "a", "0", 400.0), E("R", "r", "a", "b", 2.0), E("L", "l", "b", "c", 2e-3), E("C", "link", "d", "0", 600e-6)),
            *(E("I", "load", "d", "0", 0.4), E("I", "swing", "d", "0", 0.0), E("R", "bleeder", "d", "0", 220e3)),
        ),
        diodes=(Diode("d", "c", "d", 1.0, 0.05, 1e7),),
        sines={"swing": Sine(1.3, 100.0)},
    )
    run = repeat(circuit, [], 10e-3, np.array([0.0, begun]))
    ((volts, _),), ((mean, _),) = run.told(["d"], ["l"])
    assert mean == pytest.approx(0.4 + volts / 220e3, rel=1e-4)
    assert 380 < volts < 401
