"""From a list of elements to state equations x' = A·x + B·u, written down once for all resistances that its switches may have.

States are inductor currents and capacitor voltages, in the order of the elements. Each capacitor stands as a
voltage source and each inductor as a current source in a resistive network solved by nodal analysis; what then
flows through the capacitors and stands across the inductors gives the derivatives. Coupled inductors share their flux:
what stands across them gives the derivatives of their currents by the inverse of their inductances. A resistance may have a
drop of its own behind it (a diode's forward voltage): then it conducts what stands across it beyond that.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache
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


@dataclass(frozen=True)
class _Joined:
    """How elements are joined: what hangs on no value of theirs."""

    nodes: tuple[str, ...]
    net: Net
    ends: tuple[int, int, int]


@lru_cache(maxsize=256)
def _joined(shape: tuple[tuple[str, str, str, str], ...]) -> _Joined:
    """The same of elements given by kind, name, plus and minus; every corner of a design asks for one of them."""
    nodes = tuple(sorted({n for _, _, plus, minus in shape for n in (plus, minus)} - {GROUND}))
    at = {n: k for k, n in enumerate(nodes)}
    joins = np.zeros((len(shape), len(nodes)))
    for k, (_, _, *two) in enumerate(shape):
        for node, sign in zip(two, (1.0, -1.0), strict=True):
            if node != GROUND:
                joins[k, at[node]] += sign
    of = {kinds: np.array([k for k, e in enumerate(shape) if e[0] in kinds], dtype=np.int64) for kinds in ("R", "LC", "VI", "CV")}
    columns = np.concatenate([of["LC"], of["VI"]])
    count, fixed = len(nodes), of["CV"]
    ends = (len(of["LC"]), len(of["LC"]) + count, len(of["LC"]) + count + len(shape))
    base, right = np.zeros((count + len(fixed), count + len(fixed))), np.zeros((count + len(fixed), len(columns) + 1))
    base[:count, count:], base[count:, :count] = joins[fixed].T, joins[fixed]
    rows = np.zeros((ends[2] + len(shape), len(columns) + 1))
    held = {k: row for row, k in enumerate(fixed.tolist())}
    for column, k in enumerate(columns.tolist()):
        if k in held:
            right[count + held[k], column] = 1.0
        else:
            # A current of its own.
            right[:count, column] -= joins[k]
            rows[ends[1] + k, column] = 1.0
    holding = np.array([shape[k][0] == "C" for k in of["LC"]], dtype=np.bool_)
    return _Joined(nodes, Net(base, right, joins, of["R"], of["LC"], fixed, holding, rows), ends)


class Network:
    """The elements of a circuit and how they are joined. Raises CircuitError where it has no unique solution, whatever its resistances."""

    def __init__(self, elements: Sequence[Element], couplings: Sequence[Coupling] = ()) -> None:
        self.elements = elements
        self.states = tuple(e for e in elements if e.kind in ("L", "C"))
        self.sources = tuple(e for e in elements if e.kind in ("V", "I"))
        self.resistors = tuple(e for e in elements if e.kind == "R")
        self._couplings = couplings
        joined = _joined(tuple((e.kind, e.name, e.plus, e.minus) for e in elements))
        self.nodes, self.net, self.ends = joined.nodes, joined.net, joined.ends
        self._storages: dict[tuple[float, ...], tuple[Array, Array]] = {}
        self._shape = tuple((e.kind, e.plus, e.minus) for e in elements)

    def solved(self, resistances: Array, drops: Array, inductances: Mapping[str, float] = NONE_OTHER) -> Solved:
        """With so many ohms, and volts behind them, in the order of `resistors`; inductors may have other values than their own."""
        self.refuse(resistances)
        try:
            return Solved(solved_rows(self.net, resistances, drops, self.storage(inductances)[1]), self.ends)
        except ArithmeticError:
            raise self.no_solution() from None

    def refuse(self, resistances: Array) -> None:
        """Raise CircuitError where there is no one solution whatever the resistances, of which these are some."""
        if self._shape in _SOUND:
            return
        matrix, joins = self.net.base.copy(), self.net.joins[self.net.ohmic]
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

    def storage(self, inductances: Mapping[str, float] = NONE_OTHER) -> tuple[Array, Array]:
        """Capacitances and inductances on the diagonal, mutual inductances beside it; and the inverse."""
        key = tuple(inductances.get(e.name, e.value) for e in self.states)
        if key not in self._storages:
            stores = _stores(self.states, key, self._couplings)
            self._storages[key] = stores, np.asarray(np.linalg.inv(stores), dtype=float)
        return self._storages[key]


def _stores(states: Sequence[Element], values: Sequence[float], couplings: Sequence[Coupling]) -> Array:
    storage = np.diag(values)
    at = {e.name: k for k, e in enumerate(states)}
    for pair in couplings:
        for one, other in ((pair.one, pair.other), (pair.other, pair.one)):
            storage[at[one], at[other]] = pair.mutual
    if couplings and np.linalg.eigvalsh(storage).min() <= 0:
        raise CircuitError("the windings are coupled more than wholly: " + ", ".join(f"{c.one} with {c.other}" for c in couplings))
    return storage
