"""The bootstrap over an output period: against the closed law of its repetition, and against SciPy."""

import numpy as np
import pytest
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from rhombos.core.sequence.bootstrap_cycle import Cell, duties, repeated

cells = st.builds(
    Cell,
    full=st.floats(10, 16),
    edge_charge=st.floats(20e-9, 300e-9),
    current=st.floats(1e-5, 1e-3),
    pull_down=st.floats(5e3, 1e6),
    capacitor=st.floats(0.22e-6, 4.7e-6),
    resistor=st.floats(1, 22),
)


@settings(max_examples=40, deadline=None)
@given(cells, st.floats(5e3, 60e3))
def test_without_modulation_it_repeats_at_the_droop_of_the_closed_law(cell, carrier):
    """Every cycle alike: the droop at the end of the low time is Q·e/(C·(1 − e)), e = exp(−t/RC)."""
    found = repeated(cell, 0.0, carrier, carrier / 40, 0.0)
    assert found.repeats
    e = np.exp(-0.5 / carrier / (cell.resistor * cell.capacitor))
    before = found.volts[1]
    taken = (before - found.volts[2]) * cell.capacitor
    assert cell.full - before == pytest.approx(taken * e / (cell.capacitor * (1 - e)), rel=1e-6, abs=1e-9 * cell.full)


@settings(max_examples=25, deadline=None)
@given(cells, st.floats(0.1, 0.9), st.floats(0.02, 0.09))
def test_more_modulation_or_a_smaller_capacitor_leaves_less(cell, index, more):
    def lowest(cell, index):
        return repeated(cell, index, 20e3, 50, 400e-9).lowest

    assert lowest(cell, index + more) <= lowest(cell, index) + 1e-12
    smaller = Cell(cell.full, cell.edge_charge, cell.current, cell.pull_down, cell.capacitor / 2, cell.resistor)
    assert lowest(smaller, index) < lowest(cell, index) + 1e-12


def test_it_is_where_the_differential_equation_is():
    cell = Cell(14.0, 120e-9, 300e-6, 10e3, 0.68e-6, 4.7)
    carrier, output, dead = 5e3, 50.0, 1e-6
    found = repeated(cell, 0.85, carrier, output, dead)
    volts = found.volts[-1]
    for k, duty in enumerate(duties(0.85, 100)):
        high = duty / carrier
        start = volts - cell.edge_charge / cell.capacitor
        fall = solve_ivp(lambda t, v: -(cell.current + v / cell.pull_down) / cell.capacitor, (0, high), [start], rtol=1e-10, atol=1e-12).y[0, -1]
        rise = (0, 1 / carrier - high - 2 * dead)
        volts = solve_ivp(lambda t, v: (cell.full - v) / (cell.resistor * cell.capacitor), rise, [fall], rtol=1e-10, atol=1e-12).y[0, -1]
        # The pull-down is counted at the voltage that the on-time began with: a few per cent of the droop.
        assert found.volts[2 * k] == pytest.approx(fall, abs=0.015)
        assert found.volts[2 * k + 1] == pytest.approx(volts, abs=0.015)
