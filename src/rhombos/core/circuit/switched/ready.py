"""Compiles what marches through circuits, and the kernels of sheets, once on a machine: `python -m rhombos.core.circuit.switched.ready`, as the set-up does."""

import numpy as np

from rhombos.core.circuit.network import Element
from rhombos.core.circuit.output.compiled_steps import after, along, crossing, exact_steps, terms, through
from rhombos.core.circuit.switched.elements import Diode, Sine, Switched
from rhombos.core.circuit.switched.march import march
from rhombos.core.graph.engine.machine import MACHINE


def load() -> None:
    """March through a half-wave rectifier, and step through a circuit of one state: whatever is compiled is asked for on the way. What is kept from before is read: a third of a second."""
    MACHINE.ready()
    steps = exact_steps(np.zeros((1, 1, 1)), np.zeros(2, dtype=np.intp), np.ones(2), np.ones(1))
    through(steps, np.ones(2), 0)
    along(steps, np.ones(1))
    series = terms(np.zeros((1, 1)), np.ones(1), 1.0)
    after(series, 1.0)
    crossing(series, 0, 1.0)
    parts = (Element("V", "mains", "a", "0"), Element("C", "c", "b", "0", 1e-3), Element("R", "load", "b", "0", 10.0))
    march(Switched(parts, diodes=(Diode("d", "a", "b", 0.7, 0.01),), sines={"mains": Sine(10.0, 50.0)}), [], 0.02)


if __name__ == "__main__":
    load()
