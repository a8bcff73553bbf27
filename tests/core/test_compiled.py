"""What is compiled for circuits against NumPy and SciPy: elimination, modes, the exponential, and marches longer than their first room."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.linalg import expm

from rhombos.core.circuit import compiled
from rhombos.core.circuit.network import Coupling, Element
from rhombos.core.circuit.switched import march as marching
from rhombos.core.circuit.switched.elements import Diode, Event, Sine, Switch, Switched
from rhombos.core.circuit.switched.march import march
from rhombos.core.circuit.switched.modes import FIRST_ROOM, States

sizes, seeds = st.integers(1, 9), st.integers(0, 2**32 - 1)


def matrix(seed: int, size: int, decades: float = 0.0) -> np.ndarray:
    """Any matrix, its rows some decades apart as conductances are."""
    dice = np.random.default_rng(seed)
    return dice.normal(size=(size, size)) * 10 ** dice.uniform(-decades, decades, size=(size, 1))


@settings(max_examples=60)
@given(seeds, sizes, st.integers(1, 4))
def test_elimination_solves_what_lapack_solves(seed, size, columns):
    left, right = matrix(seed, size, 4.0), matrix(seed + 1, max(size, columns))[:size, :columns].copy()
    found = compiled.eliminated(left.copy(), right.copy())
    # Forward errors of elimination with pivots go with the condition, whoever does it.
    error = np.abs(found - np.linalg.solve(left, right)).max()
    assert error <= 1e-14 * np.linalg.cond(left) * np.abs(found).max()


def test_what_has_no_inverse_is_told():
    assert np.isinf(compiled.eliminated(np.array([[1.0, 2.0], [2.0, 4.0]]), np.eye(2))).all()


@settings(max_examples=60)
@given(seeds, sizes, st.floats(-2, 2))
def test_modes_make_the_matrix_again_and_of_conjugates_there_is_one(seed, size, scale):
    asked = matrix(seed, size) * 10**scale
    values, vectors, rows = np.zeros(size, complex), np.zeros((size, size), complex), np.zeros((size, size), complex)
    count = compiled.eigen(asked, values, vectors, rows)
    assert count == np.count_nonzero(np.linalg.eigvals(asked).imag >= 0)
    np.testing.assert_allclose(((vectors[:, :count] * values[:count]) @ rows[:count]).real, asked, atol=1e-9 * np.abs(asked).max())


def test_modes_that_cannot_be_told_apart_are_none():
    values, vectors, rows = np.zeros(2, complex), np.zeros((2, 2), complex), np.zeros((2, 2), complex)
    assert compiled.eigen(np.array([[0.0, 1.0], [0.0, 0.0]]), values, vectors, rows) == 0


@settings(max_examples=60)
@given(seeds, sizes, st.floats(-4, 1.5))
def test_the_exponential_is_that_of_scipy(seed, size, scale):
    asked = matrix(seed, size)
    seconds = 10**scale
    expected = expm(asked * seconds)
    np.testing.assert_allclose(compiled.exponential(asked, seconds), expected, atol=1e-11 * max(1.0, np.abs(expected).max()))


def bridge() -> Switched:
    """Four diodes on 50 Hz, their capacitor and load, and a switch that chops the load."""
    parts = (
        Element("V", "mains", "p", "q"),
        Element("C", "c", "plus", "0", 100e-6),
        Element("R", "load", "plus", "low", 40.0),
        Element("R", "leak", "q", "0", 1e6),
    )
    diodes = tuple(Diode(f"{a}{b}", a, b, 0.7, 0.05) for a, b in (("p", "plus"), ("q", "plus"), ("0", "p"), ("0", "q")))
    return Switched(parts, (Switch("chopper", "low", "0", 0.01),), diodes, sines={"mains": Sine(20.0, 50.0)})


def test_a_march_longer_than_its_first_room_is_that_of_its_parts_one_after_the_other():
    circuit, periods = bridge(), 40
    events = [Event(k * 0.02 + part, turns={"chopper": part == 0.0}) for k in range(periods) for part in (0.0, 0.011)]
    whole = march(circuit, events, periods * 0.02)
    assert len(whole.stretches) > 2 * marching.FIRST_ROOM
    x, turns = np.zeros(1), []
    for k in range(periods):
        part = march(circuit, [Event(0.0, turns={"chopper": True}), Event(0.011, turns={"chopper": False})], 0.02, x)
        x = part.end[:1]
        turns += [k * 0.02 + s.begin for s in part.stretches]
    assert whole.end[0] == pytest.approx(x[0], rel=1e-9)
    begins = np.array([s.begin for s in whole.stretches])
    assert all(np.abs(begins - turn).min() < 1e-9 for turn in turns)


def test_a_table_of_states_is_widened_and_keeps_what_it_has():
    switches = tuple(Switch(f"s{k}", f"n{k}", "0", 1.0 + k) for k in range(6))
    parts = tuple(Element("R", f"r{k}", "a", f"n{k}", 10.0) for k in range(6))
    circuit = Switched((Element("V", "u", "top", "0", 12.0), Element("R", "r", "top", "a", 5.0), Element("L", "l", "a", "0", 1e-3), *parts), switches)
    events = [Event(1e-5 * k, turns={f"s{j}": bool(k >> j & 1) for j in range(6)}) for k in range(64)]
    states = States(circuit)
    run = march(circuit, events, 64e-5, states=states)
    assert states.table.counts[0] == 64 > FIRST_ROOM
    for k in (0, 5, 63):
        legs = sum(1 / (10.0 + 1.0 + j) if k >> j & 1 else 1 / (10.0 + 1e7) for j in range(6))
        # Behind 5 Ω and beside the legs the coil sees their resistance, and climbs with it.
        rate = -1 / (1 / 5.0 + legs) / 1e-3
        at = run.stretches[k]
        assert at.modes.matrix[0, 0] == pytest.approx(rate, rel=1e-9)
        assert at.on == frozenset(f"s{j}" for j in range(6) if k >> j & 1)


def test_windings_that_share_flux_are_marched_with_it():
    """Two coupled coils, the second open but for a megohm: the first climbs with its own inductance, the second shows the turns' ratio."""
    parts = (Element("V", "u", "a", "0", 10.0), Element("L", "one", "a", "0", 1e-3), Element("L", "two", "b", "0", 4e-3), Element("R", "open", "b", "0", 1e6))
    run = march(Switched(parts, couplings=(Coupling("one", "two", 0.99 * 2e-3),)), [], 1e-4)
    assert run.end[0] == pytest.approx(10.0 / 1e-3 * 1e-4, rel=1e-3)
    assert run.voltage("b", "0", np.array([5e-5]))[0] == pytest.approx(0.99 * 2 * 10.0, rel=1e-3)
