"""The modes of a circuit in one state of its switches and diodes.

All that drives it stands in the state as well: a constant one, and sine and cosine of every frequency. So x' = M·x with
nothing beside it, and in the eigenvectors of M every quantity is a sum of exponentials: exact at any time.
"""

from dataclasses import dataclass, replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import expm

from rhombos.core.circuit.network import Element, state_space
from rhombos.core.circuit.switched.elements import Diode, Switch, Switched

Array = NDArray[np.float64]
Complex = NDArray[np.complex128]

WORST = 1e11
"""Condition of the eigenvectors up to which they are used: some five digits are left beyond what is promised."""

WAYS = {" +": 1.0, " -": -1.0}
"""Behind a core's name: which way it is saturated."""

State = tuple[frozenset[str], frozenset[str], tuple[tuple[str, float], ...]]
"""Switches that are on, what has turned of itself (diodes that conduct, cores that are saturated), and the levels of the sources."""


@dataclass(frozen=True)
class Modes:
    """One state: M, its eigenvalues and eigenvectors, and rows that read nodes, branches and diodes from the state.

    `diodes`: per diode the voltage across it less its forward voltage, then per core and way its current less that at
    which it saturates: above zero it turns.
    """

    matrix: Array
    values: Complex
    vectors: Complex
    inverse: Complex
    nodes: dict[str, Array]
    branches: dict[str, Array]
    across: dict[str, Array]
    diodes: Array
    apart: bool
    """Whether there are as many modes as states. An inductor without resistance on a source has not: its current climbs in a line."""

    @cached_property
    def diode_shares(self) -> Complex:
        """(diodes, modes): how each mode shows across each diode."""
        shares: Complex = self.diodes @ self.vectors
        return shares

    def diodes_after(self, amounts: Complex, times: Array) -> Array:
        """(diodes, times): the voltage across each diode less its forward voltage, so long after."""
        if not self.apart:
            return self.diodes @ self.state(amounts, times)
        volts: Array = ((self.diode_shares * amounts) @ np.exp(np.multiply.outer(self.values, times))).real
        return volts

    def amounts(self, x: Array) -> Complex:
        """How much of every mode a state holds; without modes the state itself."""
        amounts: Complex = self.inverse @ x.astype(complex)
        return amounts

    def state(self, amounts: Complex, times: Array) -> Array:
        """(states, times): the state so long after."""
        if not self.apart:
            return np.stack([self.step(t) @ amounts.real for t in times], axis=1)
        grown = np.exp(np.multiply.outer(self.values, times)) * amounts[:, None]
        states: Array = (self.vectors @ grown).real
        return states

    def read(self, row: Array, amounts: Complex, times: Array) -> Array:
        """One quantity so long after, (times,)."""
        if not self.apart:
            return row @ self.state(amounts, times)
        shares = (row @ self.vectors) * amounts
        values: Array = (shares @ np.exp(np.multiply.outer(self.values, times))).real
        return values

    def step(self, seconds: float) -> Array:
        """e^(M·t)."""
        if not self.apart:
            return np.asarray(expm(self.matrix * seconds))
        grown: Array = ((self.vectors * np.exp(self.values * seconds)) @ self.inverse).real
        return grown

    def integrals(self, ones: Array, others: Array, amounts: Complex, seconds: float) -> Array:
        """∫ one·x × other·x dt of every pair of rows, exact: every product of two modes is an exponential (without modes: of the block matrix of Van Loan)."""
        if not self.apart:
            return np.array([self._van_loan(np.outer(one, other), amounts.real, seconds) for one, other in zip(ones, others, strict=True)])
        a, b = (ones @ self.vectors) * amounts, (others @ self.vectors) * amounts
        rates = np.add.outer(self.values, self.values) * seconds
        small = np.abs(rates) < 1e-9
        areas = np.where(small, 1 + rates / 2, np.expm1(rates) / np.where(small, 1, rates))
        found: Array = np.einsum("ki,ij,kj->k", a, areas, b).real * seconds
        return found

    def _van_loan(self, weight: Array, x: Array, seconds: float) -> float:
        n = len(self.matrix)
        block = np.block([[-self.matrix.T, weight], [np.zeros((n, n)), self.matrix]])
        grown = expm(block * seconds)
        return float(x @ grown[n:, n:].T @ grown[:n, n:] @ x)


class States:
    """A circuit's states, made when first met and kept."""

    def __init__(self, circuit: Switched) -> None:
        self.circuit = circuit
        self.storing = [e for e in circuit.elements if e.kind in ("L", "C")]
        self.waves = sorted({s.frequency for s in circuit.sines.values()})
        self.size = len(self.storing) + 2 * len(self.waves) + 1
        self._made: dict[State, Modes] = {}
        self.turning = (*(d.name for d in circuit.diodes), *(name + way for name in circuit.cores for way in WAYS))
        """What turns of itself: diodes, and every core either way."""

    def drive(self) -> Array:
        """What stands in a state beside the circuit's own, at time zero: sine and cosine of every frequency, and one."""
        return np.array([v for _ in self.waves for v in (0.0, 1.0)] + [1.0])

    def modes(self, state: State) -> Modes:
        """The modes of one state."""
        if state not in self._made:
            self._made[state] = self._make(state)
        return self._made[state]

    def _make(self, state: State) -> Modes:
        on, conducting, levels = state
        circuit = self.circuit
        elements = [replace(e, value=circuit.cores[e.name].beyond) if self._full(e.name, conducting) else e for e in circuit.elements]
        elements += [Element("R", s.name, s.plus, s.minus, s.on if s.name in on else s.off) for s in circuit.switches]
        drops: dict[str, float] = {}
        for d in circuit.diodes:
            if d.name in conducting:
                inner, drop = f"{d.name}'", f"{d.name} forward"
                elements += [Element("R", d.name, d.plus, inner, d.on), Element("V", drop, inner, d.minus)]
                drops[drop] = d.forward
            else:
                elements.append(Element("R", d.name, d.plus, d.minus, d.off))
        space = state_space(elements, circuit.couplings)
        n, size = len(self.storing), self.size
        given, level = np.zeros((len(space.inputs), size - n)), dict(levels)
        for k, name in enumerate(space.inputs):
            sine = circuit.sines.get(name)
            if sine is None:
                given[k, -1] = drops[name] if name in drops else level[name]
            else:
                at = 2 * self.waves.index(sine.frequency)
                given[k, at : at + 2] = sine.amplitude * np.cos(sine.phase), sine.amplitude * np.sin(sine.phase)
        matrix = np.zeros((size, size))
        matrix[:n] = np.hstack([space.a, space.b @ given])
        for k, frequency in enumerate(self.waves):
            at, omega = n + 2 * k, 2 * np.pi * frequency
            matrix[at, at + 1], matrix[at + 1, at] = omega, -omega
        nodes = dict(zip(space.nodes, np.hstack([space.node_x, space.node_u @ given]), strict=True))
        nodes["0"] = np.zeros(size)
        branches = dict(zip(space.branches, np.hstack([space.branch_x, space.branch_u @ given]), strict=True))
        parts: list[Element | Switch | Diode] = [*circuit.elements, *circuit.switches, *circuit.diodes]
        across = {e.name: nodes[e.plus] - nodes[e.minus] for e in parts}
        one = np.zeros(size)
        one[-1] = 1.0
        against = [across[d.name] - d.forward * one for d in circuit.diodes]
        against += [sign * branches[name] - core.current * one for name, core in circuit.cores.items() for sign in WAYS.values()]
        diodes = np.array(against).reshape(len(self.turning), size)
        found = _eigen(matrix)
        values, vectors, inverse = found or (np.zeros(size, dtype=complex), np.eye(size, dtype=complex), np.eye(size, dtype=complex))
        return Modes(matrix, values, vectors, inverse, nodes, branches, across, diodes, found is not None)

    @staticmethod
    def _full(name: str, conducting: frozenset[str]) -> bool:
        """Whether a core is saturated, either way."""
        return any(name + way in conducting for way in WAYS)

    def stored(self, x: Array) -> float:
        """The energy of a state, J: what a saturated core takes for more current is less."""
        total = float(x @ self.energies @ x)
        at = {e.name: (k, e.value) for k, e in enumerate(self.storing)}
        for name, core in self.circuit.cores.items():
            k, inductance = at[name]
            total -= (inductance - core.beyond) / 2 * max(float(x[k]) ** 2 - core.current**2, 0.0)
        return total

    @cached_property
    def energies(self) -> Array:
        """The matrix of ½·C·v² and ½·L·i² with what coupled inductors share: stored energy is x'·E·x, in J, of cores that are not saturated."""
        matrix = np.zeros((self.size, self.size))
        at = {e.name: k for k, e in enumerate(self.storing)}
        for e in self.storing:
            matrix[at[e.name], at[e.name]] = e.value / 2
        for pair in self.circuit.couplings:
            matrix[at[pair.one], at[pair.other]] = matrix[at[pair.other], at[pair.one]] = pair.mutual / 2
        return matrix


def _eigen(matrix: Array) -> tuple[Complex, Complex, Complex] | None:
    """Eigenvalues, eigenvectors and their inverse; None where they cannot be told apart well enough."""
    values, vectors = np.linalg.eig(matrix)
    if not np.isfinite(vectors).all() or np.linalg.cond(vectors) > WORST:
        return None
    return values.astype(complex), vectors.astype(complex), np.linalg.inv(vectors).astype(complex)
