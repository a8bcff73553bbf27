"""From a list of elements to state equations x' = A·x + B·u, written down once for all resistances that its switches may have.

States are inductor currents and capacitor voltages, in the order of the elements. Each capacitor stands as a
voltage source and each inductor as a current source in a resistive network solved by nodal analysis; what then
flows through the capacitors and stands across the inductors gives the derivatives. Coupled inductors share their flux:
what stands across them gives the derivatives of their currents by the inverse of their inductances. A resistance may have a
drop of its own behind it (a diode's forward voltage): then it conducts what stands across it beyond that.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from types import MappingProxyType
from typing import Literal

import numpy as np

from rhombos.core.circuit.compiled import Array, Net, solved_rows

GROUND = "0"
_SOUND: set[tuple[tuple[str, str, str], ...]] = set()
"""What was joined so, and had one solution: that hangs on no resistance."""
NONE_OTHER: Mapping[str, float] = MappingProxyType({})


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
class Solved:
    """A network with its resistances in place: what its states, the sources, and a constant one (the columns) make.

    `rows` are, one below the other, the states' derivatives, the volts of the nodes, the amperes of all elements and the
    volts across them; `ends` where the first three of these end.
    """

    rows: Array
    ends: tuple[int, int, int]

    @property
    def rates(self) -> Array:
        """The states' derivatives."""
        return self.rows[: self.ends[0]]

    @property
    def nodes(self) -> Array:
        """Volts of the nodes."""
        return self.rows[self.ends[0] : self.ends[1]]

    @property
    def branches(self) -> Array:
        """Amperes through the elements."""
        return self.rows[self.ends[1] : self.ends[2]]

    @property
    def across(self) -> Array:
        """Volts across the elements."""
        return self.rows[self.ends[2] :]


class Network:
    """The elements of a circuit and how they are joined. Raises CircuitError where it has no unique solution, whatever its resistances."""

    def __init__(self, elements: Sequence[Element], couplings: Sequence[Coupling] = ()) -> None:
        self.elements = elements
        self.nodes = tuple(sorted({n for e in elements for n in (e.plus, e.minus)} - {GROUND}))
        self.states = tuple(e for e in elements if e.kind in ("L", "C"))
        self.sources = tuple(e for e in elements if e.kind in ("V", "I"))
        self.resistors = tuple(e for e in elements if e.kind == "R")
        self._couplings = couplings
        self._joins = self._joined(elements)
        place = {e.name: k for k, e in enumerate(elements)}
        of_resistors, of_states = (np.array([place[e.name] for e in some], dtype=np.int64) for some in (self.resistors, self.states))
        holding = np.array([e.kind == "C" for e in self.states], dtype=np.bool_)
        fixed = [e for e in elements if e.kind in ("C", "V")]
        base, right, rows = self._drives(fixed, place)
        self.net = Net(base, right, self._joins, of_resistors, of_states, np.array([place[e.name] for e in fixed], dtype=np.int64), holding, rows)
        self._storages: dict[tuple[float, ...], Array] = {}
        self._shape = tuple((e.kind, e.plus, e.minus) for e in elements)

    def _joined(self, elements: Sequence[Element]) -> Array:
        """(elements, nodes): 1 where an element begins, −1 where it ends."""
        at = {n: k for k, n in enumerate(self.nodes)}
        joins = np.zeros((len(elements), len(self.nodes)))
        for k, e in enumerate(elements):
            for node, sign in ((e.plus, 1.0), (e.minus, -1.0)):
                if node != GROUND:
                    joins[k, at[node]] += sign
        return joins

    def _drives(self, fixed: Sequence[Element], place: Mapping[str, int]) -> tuple[Array, Array, Array]:
        """What does not hang on resistances: the equations of what holds volts, what drives them, and currents that are their own."""
        count, size = len(self.nodes), len(self.nodes) + len(fixed)
        base = np.zeros((size, size))
        holds = self._joins[[place[e.name] for e in fixed]]
        base[:count, count:], base[count:, :count] = holds.T, holds
        columns = len(self.states) + len(self.sources) + 1
        right = np.zeros((size, columns))
        self.ends = (len(self.states), len(self.states) + count, len(self.states) + count + len(self.elements))
        rows = np.zeros((self.ends[2] + len(self.elements), columns))
        own = rows[self.ends[1] : self.ends[2]]
        held = {e.name: k for k, e in enumerate(fixed)}
        for column, e in enumerate((*self.states, *self.sources)):
            if e.name in held:
                right[count + held[e.name], column] = 1.0
            else:
                right[:count, column] -= self._joins[place[e.name]]
                own[place[e.name], column] = 1.0
        return base, right, rows

    def solved(self, resistances: Array, drops: Array, inductances: Mapping[str, float] = NONE_OTHER) -> Solved:
        """With so many ohms, and volts behind them, in the order of `resistors`; inductors may have other values than their own."""
        self.refuse(resistances)
        try:
            return Solved(solved_rows(self.net, resistances, drops, self.storage(inductances)), self.ends)
        except ArithmeticError:
            raise self.no_solution() from None

    def refuse(self, resistances: Array) -> None:
        """Raise CircuitError where there is no one solution whatever the resistances, of which these are some."""
        if self._shape in _SOUND:
            return
        matrix, joins = self.net.base.copy(), self._joins[self.net.ohmic]
        count = len(self.nodes)
        matrix[:count, :count] += joins.T @ (joins / resistances[:, None])
        # Conductances lie many decades apart: every row by its greatest entry.
        greatest = np.abs(matrix).max(axis=1, keepdims=True)
        if not greatest.all() or np.linalg.matrix_rank(matrix / greatest) < len(matrix):
            raise self.no_solution()
        _SOUND.add(self._shape)

    def no_solution(self) -> CircuitError:
        """What is said of a network that has none, or more than one."""
        return CircuitError("the circuit has no unique solution: " + ", ".join(e.name for e in self.elements))

    def storage(self, inductances: Mapping[str, float] = NONE_OTHER) -> Array:
        """The inverse of capacitances and inductances on the diagonal, mutual inductances beside it."""
        key = tuple(inductances.get(e.name, e.value) for e in self.states)
        if key not in self._storages:
            self._storages[key] = np.asarray(np.linalg.inv(_storage(self.states, key, self._couplings)), dtype=float)
        return self._storages[key]


def _storage(states: Sequence[Element], values: Sequence[float], couplings: Sequence[Coupling]) -> Array:
    storage = np.diag(values)
    at = {e.name: k for k, e in enumerate(states)}
    for pair in couplings:
        for one, other in ((pair.one, pair.other), (pair.other, pair.one)):
            storage[at[one], at[other]] = pair.mutual
    inductors = [k for k, e in enumerate(states) if e.kind == "L"]
    if couplings and np.linalg.eigvalsh(storage[np.ix_(inductors, inductors)]).min() <= 0:
        raise CircuitError("the windings are coupled more than wholly: " + ", ".join(f"{c.one} with {c.other}" for c in couplings))
    return storage
