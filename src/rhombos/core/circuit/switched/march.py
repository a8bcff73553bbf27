"""Marching a switched circuit through time: from event to event exactly, diodes turned at the zero crossing of the solution."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cached_property
from typing import NamedTuple, TypeVar

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.compiled import Array
from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.switched.compiled_march import CHATTER, DONE, FULL, Trace, Way, marched
from rhombos.core.circuit.switched.compiled_repeat import sought
from rhombos.core.circuit.switched.elements import Event, Switched
from rhombos.core.circuit.switched.modes import WAYS, Modes, States

T = TypeVar("T")
FIRST_ROOM = 64
"""Of stretches in a run at first."""


class Energy(NamedTuple):
    """In J: what sources gave and what they took, what was turned into heat, and by how much what is stored rose."""

    given: float
    taken: float
    heat: float
    stored: float

    @property
    def error(self) -> float:
        """By what part of the greatest of them they do not balance."""
        missing = self.given - self.taken - self.heat - self.stored
        return abs(missing) / max(self.given, self.taken, abs(self.heat), abs(self.stored), 1e-30)


@dataclass(frozen=True)
class Stretch:
    """From `begin` to `end` nothing turns: the state's modes, how much of each there is, which diodes conduct, which switches are on."""

    begin: float
    end: float
    modes: Modes
    amounts: NDArray[np.complex128]
    conducting: frozenset[str]
    on: frozenset[str]
    state: Array
    """The state at its beginning."""


@dataclass(frozen=True)
class Run:
    """A circuit over some time: its stretches in order, the state at the end, and how the end hangs on the beginning."""

    states: States
    trace: Trace
    start: Array
    end: Array
    sensitivity: Array
    _seen: "list[tuple[Array, list[tuple[Stretch, NDArray[np.intp], Array]]]]" = field(default_factory=list, compare=False, repr=False)

    @cached_property
    def stretches(self) -> tuple[Stretch, ...]:
        """Its stretches in order."""
        found, states = [], self.states
        for begin, end, slot, conducting, x in zip(*self.trace[1:], strict=True):
            modes = states.modes(int(slot))
            found.append(Stretch(float(begin), float(end), modes, modes.amounts(x), states.turned(int(conducting)), states.switched_on(int(slot)), x))
        return tuple(found)

    @property
    def seconds(self) -> float:
        """How long it is."""
        return float(self.trace.ends[-1] - self.trace.begins[0])

    def voltage(self, plus: str, minus: str, times: Array) -> Array:
        """Between two nodes, V."""
        return self._read(lambda m: m.nodes[plus] - m.nodes[minus], times)

    def current(self, element: str, times: Array) -> Array:
        """Through an element from plus to minus, A."""
        return self._read(lambda m: m.branches[element], times)

    def across(self, element: str, times: Array) -> Array:
        """From plus to minus of an element, V."""
        return self._read(lambda m: m.across[element], times)

    def _read(self, row: Callable[[Modes], Array], times: Array) -> Array:
        out = np.empty(len(times))
        for stretch, where, grown in self._along(times):
            out[where] = stretch.modes.read(row(stretch.modes), grown)
        return out

    def _along(self, times: Array) -> "list[tuple[Stretch, NDArray[np.intp], Array]]":
        """What is looked at of each stretch at some times, and what its modes have grown to by then; kept for the next that is read at the same times."""
        if self._seen and self._seen[0][0] is times:
            return self._seen[0][1]
        begins = np.array([s.begin for s in self.stretches])
        at = np.clip(np.searchsorted(begins, times, side="right") - 1, 0, len(begins) - 1)
        found = []
        order = np.argsort(at, kind="stable")
        for where in np.split(order, np.flatnonzero(np.diff(at[order])) + 1) if len(order) else []:
            s = self.stretches[at[where[0]]]
            found.append((s, where, s.modes.grown(s.amounts, times[where] - s.begin)))
        self._seen[:] = [(times, found)]
        return found

    def times(self, most: int = 2000) -> Array:
        """When to look so that nothing is passed by: evenly, and on both sides of every turn."""
        first, last = self.stretches[0].begin, self.stretches[-1].end
        edges = np.array([s.begin for s in self.stretches[1:]])
        return np.unique(np.concatenate([np.linspace(first, last, most), edges, np.nextafter(edges, first)]))

    def heat(self, *names: str) -> float:
        """What so many elements turned into heat, in J, exact."""
        total = 0.0
        for s in self.stretches:
            across, through = (np.array([rows[n] for n in names]) for rows in (s.modes.across, s.modes.branches))
            total += float(s.modes.integrals(across, through, s.amounts, s.end - s.begin).sum())
        return total

    @property
    def turns(self) -> int:
        """How often something turned."""
        return len(self.stretches) - 1

    def told(self, nodes: Sequence[str], parts: Sequence[str]) -> tuple[list[tuple[float, float]], list[tuple[float, float]]]:
        """Mean and rms of the volts of nodes and the amperes of parts, exact."""
        return self._told(lambda m: np.array([m.nodes[n] for n in nodes])), self._told(lambda m: np.array([m.branches[n] for n in parts]))

    def _told(self, rows: Callable[[Modes], Array]) -> list[tuple[float, float]]:
        return list(zip(self.means(rows).tolist(), self.effective(rows).tolist(), strict=True))

    def means(self, rows: Callable[[Modes], Array]) -> Array:
        """Means over the run of so many quantities (rows of a matrix), exact."""

        def one(wanted: Array) -> Array:
            found = np.zeros_like(wanted)
            found[:, -1] = 1.0
            return found

        return self._over(rows, one)

    def effective(self, rows: Callable[[Modes], Array]) -> Array:
        """Their rms values, exact."""
        rms: Array = np.sqrt(np.maximum(self._over(rows, lambda wanted: wanted), 0.0))
        return rms

    def _over(self, rows: Callable[[Modes], Array], others: Callable[[Array], Array]) -> Array:
        found = [s.modes.integrals(wanted := rows(s.modes), others(wanted), s.amounts, s.end - s.begin) for s in self.stretches]
        mean: Array = np.sum(found, axis=0) / self.seconds
        return mean

    @property
    def switches(self) -> frozenset[str]:
        """What is turned on and off in it."""
        return frozenset(s.name for s in self.states.circuit.switches)

    def has(self, part: str) -> bool:
        """Whether a part is there."""
        return part in self.stretches[0].modes.branches

    @property
    def saturated(self) -> list[str]:
        """The cores that saturate in it."""
        return [name for name in self.states.circuit.cores if self.spans(name)]

    def spans(self, name: str) -> list[tuple[float, float]]:
        """From when to when a switch was on, or a core saturated."""
        found: list[tuple[float, float]] = []
        for s in self.stretches:
            if name not in s.on and not any(name + way in s.conducting for way in WAYS):
                continue
            if found and found[-1][1] == s.begin:
                found[-1] = found[-1][0], s.end
            else:
                found.append((s.begin, s.end))
        return found

    def energy(self) -> Energy:
        """Where energy came from and went, all exact; what a source gives at one time it may take at another."""
        given = taken = heat = 0.0
        kinds = {e.name: {"V": "source", "I": "source", "R": "heat"}.get(e.kind, "stored") for e in self.states.circuit.elements}
        for s in self.stretches:
            # The forward voltage of a diode that conducts is a part of that diode.
            names = [n for n in s.modes.branches if n in s.modes.across and kinds.get(n, "heat") != "stored"]
            across, through = (np.array([rows[n] for n in names]) for rows in (s.modes.across, s.modes.branches))
            energies = s.modes.integrals(across, through, s.amounts, s.end - s.begin)
            sources = np.array([kinds.get(n) == "source" for n in names], dtype=bool)
            given -= float(np.minimum(energies[sources], 0.0).sum())
            taken += float(np.maximum(energies[sources], 0.0).sum())
            heat += float(energies[~sources].sum())
        return Energy(given, taken, heat, self.states.stored(self.end) - self.states.stored(self.start))


class March:
    """A circuit's way through its events, to be gone from any state."""

    def __init__(self, states: States, events: Sequence[Event], seconds: float) -> None:
        self.states = states
        states.paced(seconds)
        circuit = states.circuit
        due = sorted(events, key=lambda e: e.time)
        bounds = sorted({0.0, seconds, *(e.time for e in due if 0 < e.time < seconds)})
        bit = {s.name: k for k, s in enumerate(circuit.switches)}
        levels = {e.name: e.value for e in circuit.elements if e.kind in ("V", "I")}
        on, taken = 0, 0
        ons, sets = [], []
        for first in bounds[:-1]:
            while taken < len(due) and due[taken].time <= first:
                for name, turned in due[taken].turns.items():
                    # A switch that is not fitted is turned by nobody.
                    mask = 1 << bit[name] if name in bit else 0
                    on = on | mask if turned else on & ~mask
                levels |= due[taken].levels
                taken += 1
            ons.append(on)
            sets.append(states.level(levels))
        self.way = Way(np.array(bounds), np.array(ons, dtype=np.int64), np.array(sets, dtype=np.int64))

    def run(self, start: Array) -> Run:
        """From the state `start`, of inductors and capacitors in the order of the elements, through all events to the end. Raises CircuitError."""
        states, n = self.states, len(start)
        begin = np.concatenate([start, states.drive()])

        def once(trace: Trace) -> tuple[int, Array, Array, float]:
            how, end, hangs, _, now = marched(states.plan, states.table, self.way, trace, begin.copy(), np.eye(states.size)[:, :n].copy(), 0)
            return how, end, hangs, now

        trace, (_, end, hangs, _) = self._with_room(once, lambda found: (found[0], found[-1]))
        return Run(states, trace, begin, end, hangs[:n])

    def repeated(self, start: Array, turned: Array, warm: int, enough: float, *, again: bool) -> tuple[bool, Array, Run]:
        """From a guess to a state that, `turned`, stands at the end again but for `enough`: whether it was found, the state with Newton's last step, and the run it was found by, or `again` the one from there. Raises CircuitError."""
        states, n = self.states, len(start)

        def search(trace: Trace) -> tuple[int, Array, Array, Array, Array, float]:
            found = sought(states.plan, states.table, self.way, trace, np.asarray(start, dtype=float), states.drive(), turned, warm, enough, again)
            return found  # type: ignore[no-any-return]

        trace, (how, x, begin, end, hangs, _) = self._with_room(search, lambda found: (found[0], found[-1]))
        return how == DONE, x, Run(states, trace, begin, end, hangs[:n])

    def _with_room(self, once: Callable[[Trace], T], ended: Callable[[T], tuple[int, float]]) -> tuple[Trace, T]:
        """What comes of a march, done again with more room as long as there was too little; `ended` tells how and when it ended."""
        states, room = self.states, FIRST_ROOM
        while True:
            trace = _trace(room, states.size)
            try:
                found = once(trace)
            except ArithmeticError:
                raise states.no_solution() from None
            how, now = ended(found)
            if how != FULL:
                break
            room *= 2
            states.widen()
        count = int(trace.length[0])
        passed = Trace._make([trace.length, *(column[:count] for column in trace[1:])])
        if how == CHATTER:
            turning = {int(bits) for bits in passed.conducting[-20:-1] ^ passed.conducting[-19:]}
            names = ", ".join(sorted({name for bits in turning for name in states.turned(bits)}))
            raise CircuitError(f"{names} turn on and off without end near {now:.4g} s")
        return passed, found


def _trace(room: int, size: int) -> Trace:
    """Room for so many stretches."""
    whole = np.zeros(1, dtype=np.int64), np.zeros(room), np.zeros(room), np.zeros(room, dtype=np.int64), np.zeros(room, dtype=np.int64)
    return Trace(*whole, np.zeros((room, size)))


def march(circuit: Switched, events: Sequence[Event], seconds: float, start: Array | None = None, states: States | None = None) -> Run:
    """Through `events` for so many seconds, from a start of inductor currents and capacitor voltages (all zero where none is given)."""
    states = states or States(circuit)
    return March(states, events, seconds).run(np.zeros(len(states.storing)) if start is None else np.asarray(start, dtype=float))
