"""From a frozen list of elements to state equations x' = A·x + B·u.

States are inductor currents and capacitor voltages, in the order of the elements. Each capacitor stands as a
voltage source and each inductor as a current source in a resistive network solved by nodal analysis; what then
flows through the capacitors and stands across the inductors gives the derivatives. Coupled inductors share their flux:
what stands across them gives the derivatives of their currents by the inverse of their inductances.
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
    """A resistor (Ω), inductor (H), capacitor (F), voltage or current source (its value is an input) between two nodes.

    Its current is counted from `plus` through it to `minus`.
    """

    kind: Literal["R", "L", "C", "V", "I"]
    name: str
    plus: str
    minus: str
    value: float = 0.0


@dataclass(frozen=True)
class Coupling:
    """Two inductors, by name, that share flux: their mutual inductance in H."""

    one: str
    other: str
    mutual: float


class CircuitError(ValueError):
    """A circuit has no unique solution: a loop of capacitors and sources, or a cut of inductors."""


@dataclass(frozen=True)
class StateSpace:
    """x' = A·x + B·u with the names of states and inputs; `node_x`, `node_u` give the node voltages, `branch_x`, `branch_u` the currents of all elements."""

    a: Array
    b: Array
    states: tuple[str, ...]
    inputs: tuple[str, ...]
    nodes: tuple[str, ...]
    node_x: NDArray[Any]
    node_u: NDArray[Any]
    branches: tuple[str, ...]
    branch_x: NDArray[Any]
    branch_u: NDArray[Any]


def state_space(elements: Sequence[Element], couplings: Sequence[Coupling] = ()) -> StateSpace:
    """The state equations of a circuit without switches in it. Raises CircuitError."""
    nodes = tuple(sorted({n for e in elements for n in (e.plus, e.minus)} - {GROUND}))
    at = {n: i for i, n in enumerate(nodes)}
    states = [e for e in elements if e.kind in ("L", "C")]
    sources = [e for e in elements if e.kind in ("V", "I")]
    fixed = [e for e in elements if e.kind in ("C", "V")]
    size = len(nodes) + len(fixed)
    matrix = np.zeros((size, size))
    right = np.zeros((size, len(states) + len(sources)))
    column = {e.name: k for k, e in enumerate([*states, *sources])}
    held = {e.name: k for k, e in enumerate(fixed)}

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
        elif e.kind in ("L", "I"):
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
    # Conductances lie many decades apart: every row by its greatest entry.
    greatest = np.abs(matrix).max(axis=1, keepdims=True)
    if not greatest.all() or np.linalg.matrix_rank(matrix / greatest) < size:
        raise CircuitError("the circuit has no unique solution: " + ", ".join(e.name for e in elements))
    solution = np.linalg.solve(matrix, right)
    n, count = len(states), len(nodes)

    def across(e: Element) -> Array:
        total = np.zeros(right.shape[1])
        for node, sign in ((e.plus, 1.0), (e.minus, -1.0)):
            if node != GROUND:
                total += sign * solution[at[node]]
        return total

    def through(e: Element) -> Array:
        if e.name in held:
            return np.asarray(solution[count + held[e.name]])
        if e.kind == "R":
            return across(e) / e.value
        own = np.zeros(right.shape[1])
        own[column[e.name]] = 1.0
        return own

    driven = np.array([through(e) if e.kind == "C" else across(e) for e in states]).reshape(n, right.shape[1])
    rates = np.linalg.solve(_storage(states, couplings), driven)
    branches = np.array([through(e) for e in elements]).reshape(len(elements), right.shape[1])
    return StateSpace(
        rates[:, :n],
        rates[:, n:],
        tuple(e.name for e in states),
        tuple(e.name for e in sources),
        nodes,
        solution[:count, :n],
        solution[:count, n:],
        tuple(e.name for e in elements),
        branches[:, :n],
        branches[:, n:],
    )


def _storage(states: Sequence[Element], couplings: Sequence[Coupling]) -> Array:
    """Capacitances and inductances on the diagonal, mutual inductances beside it."""
    storage = np.diag([e.value for e in states])
    at = {e.name: k for k, e in enumerate(states)}
    for pair in couplings:
        for one, other in ((pair.one, pair.other), (pair.other, pair.one)):
            storage[at[one], at[other]] = pair.mutual
    inductors = [k for k, e in enumerate(states) if e.kind == "L"]
    if couplings and np.linalg.eigvalsh(storage[np.ix_(inductors, inductors)]).min() <= 0:
        raise CircuitError("the windings are coupled more than wholly: " + ", ".join(f"{c.one} with {c.other}" for c in couplings))
    return storage
