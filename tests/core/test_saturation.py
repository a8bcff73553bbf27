"""Cores that saturate, as two slopes: against closed forms, SciPy with events, and the balance of energy."""

from dataclasses import replace

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rhombos.core.circuit.network import CircuitError, Coupling, Element
from rhombos.core.circuit.solved import probed
from rhombos.core.circuit.switched.elements import Event, Saturation, Sine, Switched
from rhombos.core.circuit.switched.march import march
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.graph.pictures import Seen
from tests.core.looking import alone, run

VOLTS, OHMS, HENRY, FULL, BEYOND = 24.0, 0.5, 1e-3, 8.0, 1e-4


def choke(volts=VOLTS, ohms=OHMS, full=FULL, beyond=BEYOND, **more):
    elements = (Element("V", "source", "in", "0", volts), Element("R", "way", "in", "mid", ohms), Element("L", "choke", "mid", "0", HENRY))
    return Switched(elements, cores={"choke": Saturation(full, beyond)}, **more)


@given(volts=st.floats(-200, 200).filter(lambda v: abs(v) > 6), ohms=st.floats(0.01, 0.7), full=st.floats(1, 8), share=st.floats(0.02, 0.9))
def test_a_current_climbs_by_one_slope_and_then_by_the_other(volts, ohms, full, share):
    """V = R·i + L·di/dt: by the closed form up to the bound, from there on with the other time constant."""
    beyond, last = share * HENRY, abs(volts) / ohms
    seconds = 3 * HENRY / ohms
    found = march(choke(volts, ohms, full, beyond), (), seconds)
    times = np.linspace(0, seconds, 60)
    ours = found.current("choke", times) * np.sign(volts)
    turn = -HENRY / ohms * np.log(1 - full / last) if full < last else np.inf
    assert turn < np.inf, "the ranges are such that it saturates"
    climbs = np.where(times <= turn, last * (1 - np.exp(-times * ohms / HENRY)), last + (full - last) * np.exp(-(times - turn) * ohms / beyond))
    np.testing.assert_allclose(ours, climbs, rtol=1e-9, atol=1e-9 * last)
    assert found.saturated == ["choke"]
    ((begin, end),) = found.spans("choke")
    assert begin == pytest.approx(turn, rel=1e-6)
    assert end == pytest.approx(seconds)
    assert found.energy().error < 1e-9


def test_on_a_sine_its_period_is_what_scipy_comes_to():
    circuit = replace(choke(0.0, beyond=0.05 * HENRY), sines={"source": Sine(12.0, 50.0)})
    period = repeat(circuit, (), 0.02)

    def rate(t, x):
        return [(12.0 * np.sin(100 * np.pi * t) - OHMS * x[0]) / (HENRY if abs(x[0]) < FULL else 0.05 * HENRY)]

    def bound(_, x):
        return abs(x[0]) - FULL

    times = np.linspace(0, 0.02, 400, endpoint=False)
    x, found = np.zeros(1), None
    for _ in range(8):
        # A step does not reach across the kink: it ends there.
        at, pieces = 0.0, []
        while at < 0.02 - 1e-15:
            step = solve_ivp(rate, (at, 0.02), x, rtol=1e-10, atol=1e-12, max_step=1e-4, dense_output=True)
            pieces.append((at, step.sol))
            at, x = step.t[-1], step.y[:, -1]
        found = pieces[-1][1](times)[0]
    ours = period.current("choke", times)
    assert np.abs(ours).max() > 1.5 * FULL
    np.testing.assert_allclose(ours, found, atol=2e-4 * np.abs(found).max())
    energy = period.energy()
    assert energy.given - energy.taken == pytest.approx(energy.heat, rel=1e-8)
    assert abs(energy.stored) < 1e-9 * energy.given
    assert bound(0, [FULL + 1]) == 1
    assert len(period.spans("choke")) >= 2, "both ways"


def test_below_its_bound_a_core_is_an_inductor():
    plain = replace(choke(3.0), cores={})
    with_core = march(choke(3.0), (Event(1e-3, {}, {"source": -3.0}),), 4e-3)
    without = march(plain, (Event(1e-3, {}, {"source": -3.0}),), 4e-3)
    times = np.linspace(0, 4e-3, 50)
    np.testing.assert_array_equal(with_core.current("choke", times), without.current("choke", times))
    assert with_core.saturated == []


@pytest.mark.parametrize(
    ("make", "told"),
    [
        (lambda: replace(choke(), cores={"way": Saturation(1.0, 1e-4)}), "way has a core that saturates"),
        (lambda: choke(full=0.0), "choke saturates at 0 A"),
        (lambda: choke(beyond=2 * HENRY), "less than its 0.001 H"),
        (
            lambda: replace(choke(), elements=(*choke().elements, Element("L", "other", "in", "0", 1.0)), couplings=(Coupling("choke", "other", 0.01),)),
            "coupled to no other",
        ),
    ],
)
def test_a_core_that_cannot_be_is_refused_by_name(make, told):
    with pytest.raises(CircuitError, match=told):
        make()


@pytest.mark.parametrize("share", [0.5, 1.05])
def test_a_choke_that_is_too_small_saturates_in_its_stages_circuit(share):
    """As if one had been wound that saturates below its peak: its ripple is that of what is left of its inductance, and a lane says when."""
    sound = alone("rectifier")
    linear = run(sound)
    times = np.linspace(0, linear.seconds, 2000)
    was = linear.current("choke", times)
    assert linear.saturated == []
    pinned = sound.sheet.inputs.with_pin("rectifier.choke_saturation_current", float(share * was.mean()))
    small = Seen(sound.model, sound.model.solve(pinned), sound.place, sound.corner)
    found = run(small)
    now = found.current("choke", times)
    assert found.saturated == ["choke"]
    assert np.ptp(now) > 2 * np.ptp(was)
    assert now.mean() == pytest.approx(was.mean(), rel=5e-3), "the link draws what it drew"
    stage = sound.place.stage
    assert [g.name for g in probed(stage.schematic, found, ["i choke"]).gates if g.spans] == ["Averaging choke saturated"]
