"""The modes of a circuit in one state of its switches and diodes.

All that drives it stands in the state as well: a constant one, and sine and cosine of every frequency. So x' = M·x with
nothing beside it, and in the eigenvectors of M every quantity is a sum of exponentials: exact at any time.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray
from scipy.linalg import expm

from rhombos.core.circuit.compiled import WIDE, Array, Complex
from rhombos.core.circuit.network import CircuitError, Element, Network, Solved
from rhombos.core.circuit.switched.elements import Diode, Switch, Switched
from rhombos.core.circuit.switched.state_table import Plan, Table

FIRST_ROOM, LED = 32, 1024
"""Of states in a table at first, and of what is remembered of who conducted in the end."""
MOST_BITS = 60
WAYS = {" +": 1.0, " -": -1.0}
"""Behind a core's name: which way it is saturated."""


@dataclass(frozen=True)
class Places:
    """The names of nodes and of elements, in the order in which rows read them."""

    nodes: tuple[str, ...]
    elements: tuple[str, ...]


@dataclass(frozen=True)
class Modes:
    """One state: M, its eigenvalues and eigenvectors, and rows that read nodes, branches and diodes from the state.

    Of two modes that are each other's conjugate one stands for both, its eigenvector twice: what is read is the real part.
    """

    matrix: Array
    values: Complex
    vectors: Complex
    inverse: Complex
    places: Places
    rows: Solved
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

    def amounts(self, x: Array) -> Complex:
        """How much of every mode a state holds; without modes the state itself."""
        amounts: Complex = self.inverse @ x
        return amounts

    def grown(self, amounts: Complex, times: Array) -> Array:
        """What the modes have grown to so long after, (real and imaginary parts of modes, times); without modes the state itself."""
        if not self.apart:
            return np.stack([self.step(t) @ amounts.real for t in times.tolist()], axis=1)
        # What does not ring needs no sine and cosine.
        rates = self.values if self.values.imag.any() else self.values.real
        modes = np.exp(np.multiply.outer(rates, times)) * amounts[:, None]
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
        grown: Array = ((self.vectors * np.expm1(self.values * seconds)) @ self.inverse).real
        return np.eye(len(grown)) + grown

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
    """A circuit's states, made when first met and kept: the tables that a march reads and writes."""

    def __init__(self, circuit: Switched) -> None:
        self.circuit = circuit
        self.storing = [e for e in circuit.elements if e.kind in ("L", "C")]
        self.waves = sorted({s.frequency for s in circuit.sines.values()})
        self.size = len(self.storing) + 2 * len(self.waves) + 1
        self.turning = (*(d.name for d in circuit.diodes), *(name + way for name in circuit.cores for way in WAYS))
        """What turns of itself: diodes, and every core either way."""
        if len(circuit.switches) > MOST_BITS or len(self.turning) > MOST_BITS:
            raise CircuitError(f"{len(circuit.switches)} switches and {len(self.turning)} diodes and cores: at most {MOST_BITS} of each are marched through")
        turning: list[Switch | Diode] = [*circuit.switches, *circuit.diodes]
        self._network = Network([*circuit.elements, *(Element("R", t.name, t.plus, t.minus, t.off) for t in turning)], circuit.couplings)
        self._places = Places(self._network.nodes, tuple(e.name for e in self._network.elements))
        self._levels: list[Mapping[str, float]] = []
        self.plan = self._planned()
        self.table = self._room(FIRST_ROOM)
        self._made: dict[int, Modes] = {}

    def _planned(self) -> Plan:
        """The circuit in numbers, before anything drives it."""
        circuit, network = self.circuit, self._network
        ohms = [e.value for e in circuit.elements if e.kind == "R"]
        turning: list[Switch | Diode] = [*circuit.switches, *circuit.diodes]
        first = np.array([len(ohms), len(ohms) + len(circuit.switches), len(circuit.diodes)], dtype=np.int64)
        both = np.array([[*ohms, *(t.off for t in turning)], [*ohms, *(t.on for t in turning)]], dtype=float)
        network.refuse(both[0])
        waving = np.zeros((self.size, self.size))
        for k, frequency in enumerate(self.waves):
            at, omega = len(self.storing) + 2 * k, 2 * np.pi * frequency
            waving[at, at + 1], waving[at + 1, at] = omega, -omega
        branch, cores = {name: k for k, name in enumerate(self._places.elements)}, list(circuit.cores.items())
        full = [{name: core.beyond for k, (name, core) in enumerate(cores) if bits >> k & 1} for bits in range(1 << len(cores))]
        stores, inverses = np.array([network.storage(some) for some in full]).reshape(len(full), 2, len(self.storing), len(self.storing)).swapaxes(0, 1).copy()
        return Plan(
            network.net,
            both,
            first,
            np.array([d.forward for d in circuit.diodes], dtype=float),
            stores,
            inverses,
            np.array([branch[name] for name, _ in cores], dtype=np.int64),
            np.array([core.current for _, core in cores], dtype=float),
            waving,
            np.zeros((0, len(network.sources), self.size - len(self.storing))),
            np.zeros(0),
            np.zeros(1),
        )

    def paced(self, seconds: float) -> None:
        """That so long is looked at: asked for before the first state is made."""
        if self.plan.pace[0] == 0.0:
            self.plan.pace[0] = seconds

    def _room(self, room: int) -> Table:
        """A table with room for so many states, those that there are in it."""
        size, rows, turning = self.size, len(self.plan.net.rows), len(self.turning)
        shapes = ((turning, size), (size,), (size, size), (size, size), (turning, size))
        # Whatever is read of it has been written before, but for the places beside the last of what turns.
        against, values, vectors, inverse, shares = (np.empty((room, *shape), dtype=complex if k else float) for k, shape in enumerate(shapes))
        keys, led = np.empty((room, 3), dtype=np.int64), np.empty((LED, 3), dtype=np.int64)
        wide = np.empty((room, size, size)), np.empty((room, rows, size)), against, values, vectors, inverse, shares
        beside = np.zeros((room, 2, -(-turning // WIDE), size, WIDE))
        return Table(np.zeros(2, dtype=np.int64), keys, np.empty(room, dtype=np.int64), *wide, beside, led, np.empty(LED, dtype=np.int64))

    def widen(self) -> None:
        """Make room for twice as many states."""
        former, self.table = self.table, self._room(2 * len(self.table.keys))
        for now, then in zip(self.table, former, strict=True):
            now[: len(then)] = then

    def drive(self) -> Array:
        """What stands in a state beside the circuit's own, at time zero: sine and cosine of every frequency, and one."""
        return np.array([v for _ in self.waves for v in (0.0, 1.0)] + [1.0])

    def level(self, levels: Mapping[str, float]) -> int:
        """The number of a setting of the sources, by name."""
        if levels in self._levels:
            return self._levels.index(levels)
        self._levels.append(dict(levels))
        driving = max(1.0, *(abs(v) for v in levels.values()), *(s.amplitude for s in self.circuit.sines.values()), 0.0)
        driven = np.concatenate((self.plan.driven, self._driven(levels)[None]))
        self.plan = self.plan._replace(driven=driven, driving=np.append(self.plan.driving, driving))
        return len(self._levels) - 1

    def _driven(self, level: Mapping[str, float]) -> Array:
        """(sources, what drives): what every source is of sine, cosine and one."""
        given = np.zeros(self.plan.driven.shape[1:])
        for k, source in enumerate(self._network.sources):
            sine = self.circuit.sines.get(source.name)
            if sine is None:
                given[k, -1] = level[source.name]
            else:
                at = 2 * self.waves.index(sine.frequency)
                given[k, at : at + 2] = sine.amplitude * np.cos(sine.phase), sine.amplitude * np.sin(sine.phase)
        return given

    def modes(self, slot: int) -> Modes:
        """The modes of a state that has been met, to be read."""
        if slot not in self._made:
            table, m = self.table, int(self.table.modes[slot])
            rows = Solved(table.rows[slot], self._network.ends)
            apart = m > 0
            values, vectors, inverse = table.values[slot, :m], table.vectors[slot, :, :m], table.inverse[slot, :m]
            if not apart:
                values, vectors, inverse = np.zeros(self.size, dtype=complex), np.eye(self.size, dtype=complex), np.eye(self.size, dtype=complex)
            self._made[slot] = Modes(table.matrix[slot], values, vectors, inverse, self._places, rows, apart)
        return self._made[slot]

    def switched_on(self, slot: int) -> frozenset[str]:
        """The switches that are on in a state."""
        return frozenset(s.name for k, s in enumerate(self.circuit.switches) if self.table.keys[slot, 0] >> k & 1)

    def turned(self, conducting: int) -> frozenset[str]:
        """What has turned of itself, by name."""
        return frozenset(name for k, name in enumerate(self.turning) if conducting >> k & 1)

    def no_solution(self) -> CircuitError:
        """What is said where a state has none."""
        return self._network.no_solution()

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
