"""What a march relies on: times over which it is sure that nothing turns, slow modes beside fast ones, and mirror images."""

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from rhombos.core.circuit.network import Element
from rhombos.core.circuit.switched.compiled_march import _sure
from rhombos.core.circuit.switched.elements import Diode, Event, Switch, Switched
from rhombos.core.circuit.switched.march import March, march
from rhombos.core.circuit.switched.mirror import image, unfolded
from rhombos.core.circuit.switched.modes import States
from rhombos.core.circuit.switched.repeat import repeat


@given(st.integers(0, 2**32 - 1), st.integers(1, 5), st.integers(1, 4))
def test_where_it_is_sure_nothing_turns(seed, modes, turning):
    dice = np.random.default_rng(seed)
    values = -(10 ** dice.uniform(0, 9, modes)) + 1j * np.where(dice.random(modes) < 0.5, 0.0, 10 ** dice.uniform(3, 9, modes))
    if dice.random() < 0.3:
        values[0] = dice.choice([0.0, 10 ** dice.uniform(0, 4)])
    shares, grown = (dice.normal(size=shape) + 1j * dice.normal(size=shape) * (values.imag > 0) for shape in ((turning, modes), modes))
    # Something that stands, so that there is often a time to be sure of.
    values, shares, grown = np.append(values, 0.0), np.column_stack([shares, dice.normal(size=turning) * 4]), np.append(grown, 1.0)
    now = (shares * grown).real.sum(axis=1)
    conducting = sum(1 << d for d in range(turning) if now[d] > 0)
    seconds = _sure(values, shares, grown, conducting, (1e-3, 1e-12))
    times = np.concatenate([np.linspace(0, seconds, 500), seconds * np.geomspace(1e-9, 1, 500)])
    then = ((shares * grown) @ np.exp(np.multiply.outer(values, times))).real
    assert (np.sign(then) == np.sign(now)[:, None]).all()
    assert seconds == 0.0 or 1e-12 <= seconds <= 1e-3


def test_it_is_sure_of_what_only_stands_and_not_of_what_may_ring_through_none():
    stands = np.array([-2e3 + 0j, -1e6 + 6e6j])
    shares, quiet, loud = np.ones((1, 2), dtype=complex), np.array([10.0 + 0j, 0.1]), np.array([10.0 + 0j, 12.0])
    assert _sure(stands, shares, quiet, 1, (1e-4, 1e-9)) == 1e-4
    assert _sure(stands, shares, loud, 1, (1e-4, 1e-7)) == 0.0
    assert _sure(stands, shares, quiet, 0, (1e-4, 1e-9)) == 0.0, "what is off stands at ten volts: it has to turn"


def test_a_slow_mode_beside_one_of_ten_to_the_fourteen_keeps_its_digits():
    """A capacitor of joules beside ten nanohenries that lead into a megohm: eigenvalues of the state matrix would be good to some hundredths per second."""
    parts = (
        Element("V", "u", "top", "0", 24.0),
        Element("R", "line", "top", "c", 1.0),
        Element("C", "bank", "c", "0", 10e-3),
        Element("L", "stray", "c", "open", 10e-9),
        Element("R", "off", "open", "0", 1e6),
    )
    seconds = 25e-6
    run = march(Switched(parts), [Event(0.0)], seconds, np.array([20.0, 0.0]))
    slow = 1 / (1e6 / (1e6 + 1.0) * 1.0 * 10e-3)
    last = 24.0 * 1e6 / (1e6 + 1.0)
    risen = (last - 20.0) * -np.expm1(-slow * seconds)
    # The inductor's own millionth of a millionth of the time constant is left out.
    assert run.end[0] - 20.0 == pytest.approx(risen, rel=1e-9)
    assert run.energy().error < 1e-11


def chopper(other: float) -> Switched:
    """Two legs that feed a coil to either side in turn, the other's switch of other ohms."""
    parts = (
        Element("V", "up", "p", "0", 12.0),
        Element("V", "down", "0", "m", 12.0),
        Element("L", "coil", "a", "b", 1e-3),
        Element("R", "load", "b", "0", 5.0),
        Element("C", "held", "b", "0", 1e-6),
    )
    diodes = (Diode("upper", "a", "p", 0.7, 0.02), Diode("lower", "m", "a", 0.7, 0.02))
    return Switched(parts, (Switch("high", "p", "a", 0.1), Switch("low", "a", "m", other)), diodes)


PERIOD = 100e-6
MIRROR = {
    "coil": ("coil", -1.0),
    "held": ("held", -1.0),
    **{a: (b, 1.0) for a, b in (("high", "low"), ("low", "high"), ("upper", "lower"), ("lower", "upper"))},
}
EVENTS = [Event(t * PERIOD, {name: on}) for t, name, on in ((0.0, "high", True), (0.3, "high", False), (0.5, "low", True), (0.8, "low", False))]


@pytest.mark.parametrize(
    ("other", "mirror", "turned"), [(0.1, MIRROR, True), (0.3, MIRROR, False), (0.1, {"coil": ("coil", -1.0), "held": ("held", -1.0)}, False)]
)
def test_a_period_is_turned_over_where_its_halves_are_alike_and_marched_where_not(other, mirror, turned):
    circuit = chopper(other)
    states = States(circuit)
    first, whole = (March(states, [e for e in EVENTS if e.time < end], end) for end in (PERIOD / 2, PERIOD))
    start = repeat(circuit, EVENTS, PERIOD).start[:2]
    assert (unfolded(first.run(start), whole, image(states, mirror)) is not None) == turned
    found, known = (repeat(circuit, EVENTS, PERIOD, mirror=m) for m in (mirror, None))
    times = np.linspace(0, PERIOD, 1999)
    for part in ("coil", "upper", "lower"):
        a, b = found.current(part, times), known.current(part, times)
        assert np.quantile(np.abs(a - b), 0.995) < 1e-6 * np.abs(known.current("coil", times)).max()
    assert found.energy().error < 1e-9
    np.testing.assert_allclose(found.sensitivity, known.sensitivity, atol=1e-6)


def test_switches_at_other_times_are_not_taken_for_a_mirror_image():
    late = [Event(e.time + (0.01 * PERIOD if e.time == 0.8 * PERIOD else 0.0), e.turns) for e in EVENTS]
    found, known = (repeat(chopper(0.1), late, PERIOD, mirror=m) for m in (MIRROR, None))
    assert found.end == pytest.approx(known.end, rel=1e-6)
    assert found.end[0] != pytest.approx(repeat(chopper(0.1), EVENTS, PERIOD).end[0], rel=1e-3)
