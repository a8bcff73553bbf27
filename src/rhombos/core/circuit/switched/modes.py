"""The modes of a circuit in one state of its switches and diodes.

All that drives it stands in the state as well: a constant one, and sine and cosine of every frequency. So x' = M·x with
nothing beside it, and in the eigenvectors of M every quantity is a sum of exponentials: exact at any time.
"""

from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import expm
from scipy.linalg.lapack import dgeev, dgetrf, dgetri

from rhombos.core.circuit.network import Element, Network, Solved
from rhombos.core.circuit.switched.elements import Diode, Switch, Switched

Array = NDArray[np.float64]
Complex = NDArray[np.complex128]

WORST = 1e11
"""Condition of the eigenvectors up to which they are used: some five digits are left beyond what is promised."""

ON = 1e-3
"""Of the volts that count as none across a diode that is off, those across one that conducts: its resistance is small."""

AHEAD = 1e-7
"""So far ahead, of the time between two events, a choice of conducting diodes must hold; from there on they are looked at."""

WAYS = {" +": 1.0, " -": -1.0}
"""Behind a core's name: which way it is saturated."""


@dataclass(frozen=True)
class Places:
    """The names of nodes and of elements, in the order in which rows read them."""

    nodes: tuple[str, ...]
    elements: tuple[str, ...]


State = tuple[frozenset[str], frozenset[str], tuple[tuple[str, float], ...]]
"""Switches that are on, what has turned of itself (diodes that conduct, cores that are saturated), and the levels of the sources."""


@dataclass(frozen=True)
class Looks:
    """When the diodes are looked at in the time between two events, (times,), and what every mode has grown to by then."""

    modes: "Modes"
    times: Array
    grown: Array
    """(real and imaginary parts of modes, times); without modes (times, diodes, states)."""

    def diodes(self, amounts: Complex, count: int) -> Array:
        """(diodes, count): the volts across each diode less its forward voltage, at the first `count` times."""
        if not self.modes.apart:
            return (self.grown[:count] @ amounts.real).T
        shares = self.modes.diode_shares * amounts
        volts: Array = np.concatenate((shares.real, -shares.imag), axis=1) @ self.grown[:, :count]
        return volts


@dataclass(frozen=True)
class Modes:
    """One state: M, its eigenvalues and eigenvectors, and rows that read nodes, branches and diodes from the state.

    Of two modes that are each other's conjugate one stands for both, its eigenvector twice: what is read is the real part.

    `diodes`: per diode the voltage across it less its forward voltage, then per core and way its current less that at
    which it saturates: above zero it turns. `conducts`: by diode, core and way, whether it has turned.
    """

    matrix: Array
    values: Complex
    vectors: Complex
    inverse: Complex
    places: Places
    rows: Solved
    diodes: Array
    conducts: tuple[bool, ...]
    apart: bool
    """Whether there are as many modes as states. An inductor without resistance on a source has not: its current climbs in a line."""

    @cached_property
    def nodes(self) -> dict[str, Array]:
        """By node the row that reads its volts."""
        return {"0": np.zeros(len(self.matrix)), **dict(zip(self.places.nodes, self.rows.nodes, strict=True))}

    @cached_property
    def branches(self) -> dict[str, Array]:
        """By element the row that reads its amperes."""
        return dict(zip(self.places.elements, self.rows.branches, strict=True))

    @cached_property
    def across(self) -> dict[str, Array]:
        """By element the row that reads the volts across it."""
        return dict(zip(self.places.elements, self.rows.across, strict=True))

    @cached_property
    def diode_shares(self) -> Complex:
        """(diodes, modes): how each mode shows across each diode."""
        shares: Complex = self.diodes @ self.vectors
        return shares

    @cached_property
    def rates(self) -> list[complex]:
        """The eigenvalues, as plain numbers."""
        rates: list[complex] = self.values.tolist()
        return rates

    @cached_property
    def sides(self) -> tuple[Array, Array]:
        """By diode, as columns: −1 where it conducts, and how many times what is none across one that conducts its volts must be beyond none."""
        on = np.array(self.conducts, dtype=np.bool_)[:, None]
        return np.where(on, -1.0, 1.0), np.where(on, 1.0, 1 / ON)

    @cached_property
    def _kept(self) -> dict[tuple[str, float], Any]:
        return {}

    def looks(self, seconds: float) -> Looks:
        """When to look at the diodes in so much time between two events: close together at first, then evenly and often enough for the fastest ringing."""
        found: Looks | None = self._kept.get(("looks", seconds))
        if found is None:
            fastest = float(np.abs(self.values.imag).max(initial=0.0))
            count = min(max(int(16 * fastest * seconds / (2 * np.pi)), 48), 4096)
            times = _shares(1 << (count - 1).bit_length()) * seconds
            if self.apart:
                complexes = np.exp(np.multiply.outer(self.values, times))
                grown = np.concatenate((complexes.real, complexes.imag))
            else:
                grown = np.array([self.diodes @ self.step(t) for t in times.tolist()])
            found = self._kept["looks", seconds] = Looks(self, times, grown)
        return found

    def now_and_after(self, seconds: float) -> Array:
        """(twice the diodes, states): the rows that read the diodes from a state, and those that read what they will be so long after."""
        found: Array | None = self._kept.get(("after", seconds))
        if found is None:
            found = self._kept["after", seconds] = np.concatenate((self.diodes, self.diodes @ self.step(seconds)))
        return found

    def diodes_after(self, amounts: Complex, seconds: float) -> Array:
        """(diodes,): the voltage across each diode less its forward voltage, so long after."""
        if not self.apart:
            return self.diodes @ (self.step(seconds) @ amounts.real)
        volts: Array = (self.diode_shares @ (amounts * np.exp(self.values * seconds))).real
        return volts

    def amounts(self, x: Array) -> Complex:
        """How much of every mode a state holds; without modes the state itself."""
        amounts: Complex = self.inverse @ x
        return amounts

    def grown(self, amounts: Complex, times: Array) -> Array:
        """What the modes have grown to so long after, (real and imaginary parts of modes, times); without modes the state itself."""
        if not self.apart:
            return np.stack([self.step(t) @ amounts.real for t in times.tolist()], axis=1)
        modes = np.exp(np.multiply.outer(self.values, times)) * amounts[:, None]
        return np.concatenate((modes.real, modes.imag))

    def read(self, row: Array, grown: Array) -> Array:
        """One quantity along what the modes have grown to, (times,)."""
        if not self.apart:
            return row @ grown
        shares = row @ self.vectors
        return np.concatenate((shares.real, -shares.imag)) @ grown

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
        self.led: dict[State, frozenset[str]] = {}
        """By a state that was tried first, what conducted in the end: that is tried first the next time."""
        turning: list[Switch | Diode] = [*circuit.switches, *circuit.diodes]
        self._network = Network([*circuit.elements, *(Element("R", t.name, t.plus, t.minus, t.off) for t in turning)], circuit.couplings)
        self._ohms = [e.value for e in circuit.elements if e.kind == "R"]
        self._waving = np.zeros((self.size, self.size))
        for k, frequency in enumerate(self.waves):
            at, omega = len(self.storing) + 2 * k, 2 * np.pi * frequency
            self._waving[at, at + 1], self._waving[at + 1, at] = omega, -omega
        self._places = Places(self._network.nodes, tuple(e.name for e in self._network.elements))
        self._forward = [d.forward for d in circuit.diodes]
        branch = {name: k for k, name in enumerate(self._places.elements)}
        self._cores = [(branch[name], sign, core.current) for name, core in circuit.cores.items() for sign in WAYS.values()]
        self._drives: dict[tuple[tuple[str, float], ...], Array] = {}
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
        rows = np.empty((len(solved.rows), size))
        rows[:, :n] = solved.rows[:, :n]
        # What hangs on sources hangs on what drives them, and on one.
        np.matmul(solved.rows[:, n:-1], self._driven(levels), out=rows[:, n:])
        rows[:, -1] += solved.rows[:, -1]
        read = Solved(rows, solved.ends)
        matrix = self._waving.copy()
        matrix[:n] = read.rates
        against = np.empty((len(self.turning), size))
        count = len(circuit.diodes)
        against[:count] = rows[len(rows) - count :]
        against[:count, -1] -= self._forward
        for k, (at, sign, current) in enumerate(self._cores):
            against[count + k] = sign * read.branches[at]
            against[count + k, -1] -= current
        found = _eigen(matrix)
        values, vectors, inverse = found or (np.zeros(size, dtype=complex), np.eye(size, dtype=complex), np.eye(size, dtype=complex))
        conducts = tuple(name in conducting for name in self.turning)
        return Modes(matrix, values, vectors, inverse, self._places, read, against, conducts, found is not None)

    def _driven(self, levels: tuple[tuple[str, float], ...]) -> Array:
        """(sources, what drives): what every source is of sine, cosine and one."""
        if levels not in self._drives:
            level, n = dict(levels), len(self.storing)
            given = np.zeros((len(self._network.sources), self.size - n))
            for k, source in enumerate(self._network.sources):
                sine = self.circuit.sines.get(source.name)
                if sine is None:
                    given[k, -1] = level[source.name]
                else:
                    at = 2 * self.waves.index(sine.frequency)
                    given[k, at : at + 2] = sine.amplitude * np.cos(sine.phase), sine.amplitude * np.sin(sine.phase)
            self._drives[levels] = given
        return self._drives[levels]

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
    """Eigenvalues, eigenvectors and their inverse, of conjugates one; None where they cannot be told apart well enough.

    The inverse is that of the real and imaginary parts side by side: of a pair's two columns the rows are twice the parts of its own.
    """
    real, imaginary, _, parts, _ = dgeev(matrix, compute_vl=0)
    factors, pivots, singular = dgetrf(parts)
    if singular:
        return None
    inverse, singular = dgetri(factors, pivots)
    # The condition by Frobenius' norm: never less than that by the greatest and least stretch.
    if singular or not float(np.vdot(parts, parts)) * float(np.vdot(inverse, inverse)) <= WORST**2:
        return None
    at = np.flatnonzero(imaginary > 0)
    vectors, rows = parts.astype(complex), inverse.astype(complex)
    vectors[:, at] = 2 * (parts[:, at] + 1j * parts[:, at + 1])
    rows[at] = (inverse[at] - 1j * inverse[at + 1]) / 2
    one = np.flatnonzero(imaginary >= 0)
    return real[one] + 1j * imaginary[one], vectors[:, one], rows[one]


@lru_cache(maxsize=16)
def _shares(count: int) -> Array:
    """When a diode is looked at on the way to the next event, as shares of it: close together at first, then evenly."""
    return np.unique(np.concatenate([np.geomspace(AHEAD, 0.05, 24), np.linspace(0, 1, count + 1)[1:]]))
