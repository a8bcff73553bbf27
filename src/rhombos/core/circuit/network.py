"""From a frozen list of elements to state equations x' = A·x + B·u.

States are inductor currents and capacitor voltages, in the order of the elements. Each capacitor stands as a
voltage source and each inductor as a current source in a resistive network solved by nodal analysis; what then
flows through the capacitors and stands across the inductors gives the derivatives.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]
GROUND = "0"


@dataclass(frozen=True)
class Element:
    """A resistor (Ω), inductor (H), capacitor (F) or voltage source (its value is an input) between two nodes."""

    kind: Literal["R", "L", "C", "V"]
    name: str
    plus: str
    minus: str
    value: float = 0.0


class CircuitError(ValueError):
    """A circuit has no unique solution: a loop of capacitors and sources, or a cut of inductors."""


@dataclass(frozen=True)
class StateSpace:
    """x' = A·x + B·u with the names of states and inputs; `node_x`, `node_u` give the node voltages."""

    a: Array
    b: Array
    states: tuple[str, ...]
    inputs: tuple[str, ...]
    nodes: tuple[str, ...]
    node_x: NDArray[Any]
    node_u: NDArray[Any]


def state_space(elements: Sequence[Element]) -> StateSpace:
    """The state equations of a circuit without switches in it. Raises CircuitError."""
    nodes = tuple(sorted({n for e in elements for n in (e.plus, e.minus)} - {GROUND}))
    at = {n: i for i, n in enumerate(nodes)}
    states = [e for e in elements if e.kind in ("L", "C")]
    sources = [e for e in elements if e.kind == "V"]
    fixed = [e for e in elements if e.kind in ("C", "V")]
    size = len(nodes) + len(fixed)
    matrix = np.zeros((size, size))
    right = np.zeros((size, len(states) + len(sources)))
    column = {e.name: k for k, e in enumerate([*states, *sources])}

    def stamp(row: str, value: float, col: int | str) -> None:
        if row != GROUND:
            if isinstance(col, int):
                matrix[at[row], col] += value
            elif col != GROUND:
                matrix[at[row], at[col]] += value

    for e in elements:
        if e.kind == "R":
            g = 1 / e.value
            for one, two in ((e.plus, e.minus), (e.minus, e.plus)):
                stamp(one, g, one)
                stamp(one, -g, two)
        elif e.kind == "L":
            for node, sign in ((e.plus, -1.0), (e.minus, 1.0)):
                if node != GROUND:
                    right[at[node], column[e.name]] += sign
    for k, e in enumerate(fixed):
        row = len(nodes) + k
        for node, sign in ((e.plus, 1.0), (e.minus, -1.0)):
            if node != GROUND:
                matrix[at[node], row] += sign
                matrix[row, at[node]] += sign
        right[row, column[e.name]] = 1.0
    if np.linalg.matrix_rank(matrix) < size:
        raise CircuitError("the circuit has no unique solution: " + ", ".join(e.name for e in elements))
    solution = np.linalg.solve(matrix, right)
    rates = np.zeros((len(states), right.shape[1]))
    for k, e in enumerate(states):
        if e.kind == "C":
            rates[k] = solution[len(nodes) + fixed.index(e)] / e.value
        else:
            across = sum(sign * solution[at[node]] for node, sign in ((e.plus, 1.0), (e.minus, -1.0)) if node != GROUND)
            rates[k] = np.asarray(across) / e.value
    n = len(states)
    return StateSpace(
        rates[:, :n], rates[:, n:], tuple(e.name for e in states), tuple(e.name for e in sources), nodes, solution[: len(nodes), :n], solution[: len(nodes), n:]
    )
