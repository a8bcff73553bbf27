"""The modes of a circuit in one state of its switches and diodes.

All that drives it stands in the state as well: a constant one, and sine and cosine of every frequency. So x' = M·x with
nothing beside it, and in the eigenvectors of M every quantity is a sum of exponentials: exact at any time.
"""

from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import expm

from rhombos.core.circuit.network import Element, Network
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

    Of two modes that are each other's conjugate one stands for both, its eigenvector twice: what is read is the real part.

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

    @cached_property
    def fastest(self) -> float:
        """The highest of the frequencies at which it rings, rad/s."""
        return float(np.abs(self.values.imag).max(initial=0.0))

    def diodes_after(self, amounts: Complex, times: Array) -> Array:
        """(diodes, times): the voltage across each diode less its forward voltage, so long after."""
        if not self.apart:
            return self.diodes @ self.state(amounts, times)
        volts: Array = ((self.diode_shares * amounts) @ np.exp(np.multiply.outer(self.values, times))).real
        return volts

    def diodes_soon(self, x: Array, seconds: float) -> Array:
        """The same from a state, at one time."""
        if not self.apart:
            return self.diodes @ (self.step(seconds) @ x)
        volts: Array = (self.diode_shares @ (self.inverse @ x * np.exp(self.values * seconds))).real
        return volts

    def amounts(self, x: Array) -> Complex:
        """How much of every mode a state holds; without modes the state itself."""
        amounts: Complex = self.inverse @ x
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
        # Of a pair of modes one stands for both: the product of two real parts is half that of the sum's and the difference's.
        sums, differences = (_areas(np.add.outer(self.values, other) * seconds) for other in (self.values, self.values.conj()))
        found: Array = np.einsum("ki,ij,kj->k", a, sums, b).real + np.einsum("ki,ij,kj->k", a, differences, b.conj()).real
        return found * seconds / 2

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
        turning: list[Switch | Diode] = [*circuit.switches, *circuit.diodes]
        self._network = Network([*circuit.elements, *(Element("R", t.name, t.plus, t.minus, t.off) for t in turning)], circuit.couplings)
        self._ohms = [e.value for e in circuit.elements if e.kind == "R"]
        self._waving = np.zeros((self.size, self.size))
        for k, frequency in enumerate(self.waves):
            at, omega = len(self.storing) + 2 * k, 2 * np.pi * frequency
            self._waving[at, at + 1], self._waving[at + 1, at] = omega, -omega
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
        circuit, n, size = self.circuit, len(self.storing), self.size
        diodes = [(d.on, d.forward) if d.name in conducting else (d.off, 0.0) for d in circuit.diodes]
        ohms = [*self._ohms, *(s.on if s.name in on else s.off for s in circuit.switches), *(r for r, _ in diodes)]
        drops = np.zeros(len(ohms))
        drops[len(ohms) - len(diodes) :] = [v for _, v in diodes]
        full = {name: core.beyond for name, core in circuit.cores.items() if self._full(name, conducting)}
        solved = self._network.solved(np.array(ohms), drops, full)
        drives = self._driven(dict(levels))

        def rows(of: Array) -> Array:
            """What hangs on states, sources and one, as rows that read the state with all that drives it."""
            out = np.zeros((len(of), size))
            out[:, :n], out[:, n:] = of[:, :n], of[:, n:-1] @ drives
            out[:, -1] += of[:, -1]
            return out

        matrix = self._waving.copy()
        matrix[:n] = rows(solved.rates)
        nodes = dict(zip(self._network.nodes, rows(solved.nodes), strict=True))
        nodes["0"] = np.zeros(size)
        names = [e.name for e in self._network.elements]
        all_across, all_branches = rows(solved.across), rows(solved.branches)
        across, branches = dict(zip(names, all_across, strict=True)), dict(zip(names, all_branches, strict=True))
        against = np.empty((len(self.turning), size))
        count = len(circuit.diodes)
        if count:
            against[:count] = all_across[-count:]
            against[:count, -1] -= [d.forward for d in circuit.diodes]
        for k, (name, sign, core) in enumerate((name, sign, core) for name, core in circuit.cores.items() for sign in WAYS.values()):
            against[count + k] = sign * branches[name]
            against[count + k, -1] -= core.current
        found = _eigen(matrix)
        values, vectors, inverse = found or (np.zeros(size, dtype=complex), np.eye(size, dtype=complex), np.eye(size, dtype=complex))
        return Modes(matrix, values, vectors, inverse, nodes, branches, across, against, found is not None)

    def _driven(self, level: dict[str, float]) -> Array:
        """(sources, what drives): what every source is of sine, cosine and one."""
        n = len(self.storing)
        given = np.zeros((len(self._network.sources), self.size - n))
        for k, source in enumerate(self._network.sources):
            sine = self.circuit.sines.get(source.name)
            if sine is None:
                given[k, -1] = level[source.name]
            else:
                at = 2 * self.waves.index(sine.frequency)
                given[k, at : at + 2] = sine.amplitude * np.cos(sine.phase), sine.amplitude * np.sin(sine.phase)
        return given

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


def _areas(rates: NDArray[Any]) -> Complex:
    """(e^r − 1)/r, 1 at none."""
    small = np.abs(rates) < 1e-9
    areas: Complex = np.where(small, 1 + rates / 2, np.expm1(rates) / np.where(small, 1, rates))
    return areas


def _eigen(matrix: Array) -> tuple[Complex, Complex, Complex] | None:
    """Eigenvalues, eigenvectors and their inverse, of conjugates one; None where they cannot be told apart well enough."""
    values, vectors = np.linalg.eig(matrix)
    try:
        inverse = np.linalg.inv(vectors)
    except np.linalg.LinAlgError:
        return None
    # The condition by Frobenius' norm: never less than that by the greatest and least stretch.
    with np.errstate(over="ignore"):
        worst = np.linalg.norm(vectors) * np.linalg.norm(inverse)
    if not worst <= WORST:
        return None
    one = values.imag >= 0
    twice = np.where(values.imag[one] > 0, 2.0, 1.0)
    return values[one].astype(complex), (vectors[:, one] * twice).astype(complex), inverse[one].astype(complex)
