"""Marching a switched circuit through time: from event to event exactly, diodes turned at the zero crossing of the solution."""

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.switched.elements import Event, Switched
from rhombos.core.circuit.switched.modes import WAYS, Modes, State, States

Array = NDArray[np.float64]
AHEAD = 1e-7
"""So far ahead, of the time to the next event, a choice of conducting diodes must hold."""
NONE = 1e-9
"""Volts across a diode that count as none, of the greatest that drive or stand in the circuit."""
ON = 1e-3
"""Of those, across one that conducts: its resistance is small."""
SOON = 1e-3
MOST_TURNS = 2000
"""So many turns of diodes between two events, and they chatter."""


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
    stretches: tuple[Stretch, ...]
    start: Array
    end: Array
    sensitivity: Array

    @property
    def seconds(self) -> float:
        """How long it is."""
        return self.stretches[-1].end - self.stretches[0].begin

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
        begins = np.array([s.begin for s in self.stretches])
        at = np.clip(np.searchsorted(begins, times, side="right") - 1, 0, len(begins) - 1)
        for k in np.unique(at).tolist():
            s, where = self.stretches[k], at == k
            out[where] = s.modes.read(row(s.modes), s.amounts, times[where] - s.begin)
        return out

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

    def energy(self) -> tuple[float, float, float]:
        """What the sources gave, what was turned into heat, and by how much the stored energy rose, in J, all exact."""
        given = heat = 0.0
        kinds = {e.name: {"V": "source", "I": "source", "R": "heat"}.get(e.kind, "stored") for e in self.states.circuit.elements}
        for s in self.stretches:
            # The forward voltage of a diode that conducts is a part of that diode.
            names = [n for n in s.modes.branches if n in s.modes.across and kinds.get(n, "heat") != "stored"]
            across, through = (np.array([rows[n] for n in names]) for rows in (s.modes.across, s.modes.branches))
            energies = s.modes.integrals(across, through, s.amounts, s.end - s.begin)
            sources = np.array([kinds.get(n) == "source" for n in names], dtype=bool)
            given -= float(energies[sources].sum())
            heat += float(energies[~sources].sum())
        return given, heat, self.states.stored(self.end) - self.states.stored(self.start)


class March:
    """One march in progress."""

    def __init__(self, states: States, events: Sequence[Event], seconds: float) -> None:
        self.states = states
        self.circuit: Switched = states.circuit
        self.events = sorted(events, key=lambda e: e.time)
        self.seconds = seconds
        self.on: frozenset[str] = frozenset()
        self.levels = {e.name: e.value for e in self.circuit.elements if e.kind in ("V", "I")}
        self.conducting: frozenset[str] = frozenset()
        self.stretches: list[Stretch] = []
        self._capacitors = [k for k, e in enumerate(states.storing) if e.kind == "C"]
        self._told: dict[frozenset[str], NDArray[np.bool_]] = {}
        self._turned: dict[frozenset[str], tuple[Array, Array]] = {}
        self._drives()

    def _drives(self) -> None:
        """Volts and amperes that drive the circuit now."""
        self._levels = tuple(sorted(self.levels.items()))
        self._driving = max(1.0, *(abs(v) for v in self.levels.values()), *(s.amplitude for s in self.circuit.sines.values()), 0.0)

    def run(self, start: Array) -> Run:
        """From the state `start`, of inductors and capacitors in the order of the elements, through all events to the end."""
        x = np.concatenate([start, self.states.drive()])
        n = len(start)
        begin, hangs = x, np.eye(self.states.size)[:, :n]
        bounds = sorted({0.0, self.seconds, *(e.time for e in self.events if 0 < e.time < self.seconds)})
        due = iter([*self.events, None])
        event = next(due)
        for first, last in pairwise(bounds):
            while event is not None and event.time <= first:
                self._take(event)
                event = next(due)
            x, hangs = self._between(x, hangs, first, last)
        return Run(self.states, tuple(self.stretches), begin, x, hangs[:n])

    def _take(self, event: Event) -> None:
        on = set(self.on)
        for name, turned in event.turns.items():
            (on.add if turned else on.discard)(name)
        self.on, self.levels = frozenset(on), self.levels | dict(event.levels)
        self._drives()

    def _state(self, conducting: frozenset[str]) -> State:
        return self.on, conducting, self._levels

    def _between(self, x: Array, hangs: Array, first: float, last: float) -> tuple[Array, Array]:
        """From one event to the next, turning diodes on the way."""
        now, before = first, None
        for _ in range(MOST_TURNS):
            room = self._room(x)
            self.conducting = self._settled(x, last - now, room)
            modes = self.states.modes(self._state(self.conducting))
            if before is not None:
                hangs = self._jump(before, modes, x, hangs)
            amounts = modes.amounts(x)
            seconds, turns = self._until(modes, amounts, last - now, room)
            self.stretches.append(Stretch(now, last if seconds is None else now + seconds, modes, amounts, self.conducting, self.on, x))
            length = last - now if seconds is None else seconds
            step = modes.step(length)
            x, hangs = step @ x, step @ hangs
            if seconds is None:
                return x, hangs
            now += seconds
            before = modes
            # Who crossed has turned, as a rule: that is tried first.
            self.conducting ^= turns
        turning = sorted({s.conducting ^ t.conducting for s, t in pairwise(self.stretches[-20:])}, key=len)
        names = ", ".join(sorted({n for some in turning for n in some}))
        raise CircuitError(f"{names} turn on and off without end near {now:.4g} s")

    def _jump(self, before: Modes, after: Modes, x: Array, hangs: Array) -> Array:
        """How a turn of a diode bends what hangs on the beginning: its time hangs on the state as well."""
        out, into = before.matrix @ x, after.matrix @ x
        q = before.diodes @ x
        k = int(np.argmin(np.abs(q)))
        rate = float(before.diodes[k] @ out)
        if rate == 0.0:
            return hangs
        return hangs + np.outer(into - out, before.diodes[k] @ hangs) / rate

    def _wrong(self, x: Array, conducting: frozenset[str], seconds: float, room: float) -> Array:
        """By how many volts each diode stands against what it does; zero where it agrees. One that stands at none is looked at a little ahead.

        A current that is interrupted would be gone a little ahead, so for one that is off what stands now comes first. For
        one that conducts what comes: the last of an inductor's current may still flow the other way, and turns at once.
        """
        modes = self.states.modes(self._state(conducting))
        now = modes.diodes @ x
        ahead = modes.diodes_soon(x, AHEAD * seconds)
        # What crosses in the first thousandth of that has as good as crossed.
        soon = SOON * ahead
        against = np.where(now > np.maximum(room * ON, -soon), 0.0, np.maximum(-ahead - room * ON, 0.0))
        comes = np.where(now > -np.maximum(room, soon), ahead, now)
        return np.where(self._conducts(conducting), against, np.maximum(np.where(now > room, now, comes) - room, 0.0))

    def _room(self, x: Array) -> float:
        """Volts that count as none, by those that drive the circuit and stand on its capacitors."""
        stored = np.abs(x[self._capacitors])
        return NONE * float(max(self._driving, stored.max(initial=0.0)))

    def _conducts(self, conducting: frozenset[str]) -> NDArray[np.bool_]:
        """By diode whether it is one of them."""
        if conducting not in self._told:
            self._told[conducting] = np.array([name in conducting for name in self.states.turning], dtype=np.bool_)
        return self._told[conducting]

    def _sides(self, conducting: frozenset[str]) -> tuple[Array, Array]:
        """By diode, as columns: −1 where it conducts, and how many times the room its volts must be beyond none."""
        if conducting not in self._turned:
            on = self._conducts(conducting)[:, None]
            self._turned[conducting] = np.where(on, -1.0, 1.0), np.where(on, ON, 1.0)
        return self._turned[conducting]

    def _settled(self, x: Array, seconds: float, room: float) -> frozenset[str]:
        """Who conducts: what agrees with the voltages and currents that follow from it."""
        names = self.states.turning
        if not names:
            return self.conducting
        conducting, tried = self.conducting, set()
        while conducting not in tried:
            tried.add(conducting)
            wrong = self._wrong(x, conducting, seconds, room)
            if not wrong.any():
                return conducting
            conducting = conducting ^ {names[int(np.argmax(wrong))]}
        # One after the other they lead back: all choices are looked at.
        choices = [frozenset(n for k, n in enumerate(names) if bits >> k & 1) for bits in range(1 << len(names))]
        return min(choices, key=lambda c: float(self._wrong(x, c, seconds, room).max(initial=0.0)))

    def _until(self, modes: Modes, amounts: NDArray[np.complex128], seconds: float, room: float) -> tuple[float | None, frozenset[str]]:
        """How long until the first diode turns, and which; None where none does."""
        if not len(modes.diodes):
            return None, frozenset()
        count = min(max(int(16 * modes.fastest * seconds / (2 * np.pi)), 48), 4096)
        times = _looks(1 << (count - 1).bit_length()) * seconds
        q = modes.diodes_after(amounts, times)
        # Of what conducts the sign turned round: above zero it has turned.
        signs, limits = self._sides(self.conducting)
        against = q * signs > limits * room
        turned: NDArray[np.bool_] = np.any(against, axis=0)
        k = int(turned.argmax())
        if not turned[k]:
            return None, frozenset()
        low, high = (times[k - 1] if k else 0.0), times[k]
        found, which = min((self._crossing(d, modes, amounts, low, high), d) for d in np.flatnonzero(against[:, k]).tolist())
        return found, frozenset((self.states.turning[which],))

    @staticmethod
    def _crossing(diode: int, modes: Modes, amounts: NDArray[np.complex128], low: float, high: float) -> float:
        shares, values = modes.diode_shares[diode] * amounts, modes.values

        def q(t: float) -> float:
            if modes.apart:
                return float((shares @ np.exp(values * t)).real)
            return float(modes.diodes_after(amounts, np.array([t]))[diode, 0])

        if q(low) * q(high) >= 0:
            return high
        crossing: float = brentq(q, low, high, xtol=1e-18, rtol=4e-15, full_output=False)
        return crossing


@lru_cache(maxsize=16)
def _looks(count: int) -> Array:
    """When a diode is looked at on the way to the next event, as shares of it: close together at first, then evenly."""
    return np.unique(np.concatenate([np.geomspace(AHEAD, 0.05, 24), np.linspace(0, 1, count + 1)[1:]]))


def march(circuit: Switched, events: Sequence[Event], seconds: float, start: Array | None = None, states: States | None = None) -> Run:
    """Through `events` for so many seconds, from a start of inductor currents and capacitor voltages (all zero where none is given)."""
    states = states or States(circuit)
    return March(states, events, seconds).run(np.zeros(len(states.storing)) if start is None else np.asarray(start, dtype=float))
