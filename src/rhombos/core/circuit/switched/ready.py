"""Compiles what marches through circuits, and the kernels of sheets, once on a machine: `python -m rhombos.core.circuit.switched.ready`, as the set-up does."""

import numpy as np

from rhombos.core.circuit.compiled import WIDE, nearest
from rhombos.core.circuit.compiled_trace import reduced, sums
from rhombos.core.circuit.network import Element
from rhombos.core.circuit.output.compiled_pattern import blocked_by, directions, followed
from rhombos.core.circuit.output.compiled_reading import slots_at, within
from rhombos.core.circuit.output.compiled_steps import along, exact_steps, through
from rhombos.core.circuit.switched.elements import Diode, Event, Sine, Switched
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.graph.engine.machine import MACHINE


def load() -> None:
    """March through a half-wave rectifier, turn a period over, and step through a circuit of one state: whatever is compiled is asked for on the way. What is kept from before is read: a third of a second."""
    MACHINE.ready()
    sums(reduced(np.ones(1), np.ones(1), 1)[1])
    one = np.zeros(1, dtype=np.int64)
    matrix, numbers = np.zeros((1, WIDE, WIDE)), np.ones(WIDE)
    steps = exact_steps(matrix, one, np.ones(1), np.ones(1))
    through(steps, np.ones(1), 0, 1)
    states = along(steps, numbers)
    within(slots_at(np.zeros(1), np.ones(1)), np.ones(1), one, np.ones(1), states, matrix)
    directions(np.ones(1), np.ones(1, dtype=np.bool_), 1.0, 1)
    blocked_by(states, one, np.ones((1, WIDE)), 0, np.ones(1, dtype=np.bool_))
    followed(matrix, np.ones(1), steps, np.ones(1), np.zeros((1, 4), dtype=np.int64), np.array([[0, 1]]), states, (0, 1), np.zeros((0, 0)), one, np.ones(1))
    parts = (Element("V", "mains", "a", "0"), Element("C", "c", "b", "0", 1e-3), Element("R", "load", "b", "0", 10.0))
    repeat(Switched(parts, diodes=(Diode("d", "a", "b", 0.7, 0.01),), sines={"mains": Sine(10.0, 50.0)}), [], 0.02)
    turning = [Event(time, levels={"u": volts}) for time, volts in ((0.0, 1.0), (1.0, -1.0))]
    repeat(Switched((Element("V", "u", "a", "0"), Element("L", "l", "a", "b", 1.0), Element("R", "r", "b", "0", 1.0))), turning, 2.0, mirror={"l": ("l", -1.0)})
    nearest(np.eye(1), np.ones(1))


if __name__ == "__main__":
    load()
