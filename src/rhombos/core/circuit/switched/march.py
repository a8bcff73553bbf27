"""Marching a switched circuit through time: from event to event exactly, diodes turned at the zero crossing of the solution."""

import cmath
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from itertools import pairwise

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import brentq

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.switched.elements import Event, Switched
from rhombos.core.circuit.switched.modes import AHEAD, ON, WAYS, Modes, State, States

Array = NDArray[np.float64]
NONE = 1e-9
"""Volts across a diode that count as none, of the greatest that drive or stand in the circuit."""
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
    _seen: "list[tuple[Array, list[tuple[Stretch, NDArray[np.intp], Array]]]]" = field(default_factory=list, compare=False, repr=False)

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
        for k in np.unique(at).tolist():
            s, where = self.stretches[k], np.flatnonzero(at == k)
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
        now, whole = first, last - first
        before: tuple[Modes, int] | None = None
        for _ in range(MOST_TURNS):
            room = self._room(x)
            state = self._state(self.conducting)
            self.conducting = self.states.led.get(state, self.conducting)
            modes = self._settled(x, whole, room)
            self.states.led[state] = self.conducting
            if before is not None:
                hangs = self._jump(*before, modes, x, hangs)
            amounts = modes.amounts(x)
            left = last - now
            crossed = self._until(modes, amounts, whole, left, room)
            length = left if crossed is None else crossed[0]
            self.stretches.append(Stretch(now, last if crossed is None else now + length, modes, amounts, self.conducting, self.on, x))
            step = modes.step(length)
            x, hangs = step @ x, step @ hangs
            if crossed is None:
                return x, hangs
            now += length
            x = self._at_none(modes.diodes[crossed[1]], x, room)
            before = modes, crossed[1]
            # Who crossed has turned, as a rule: that is tried first.
            self.conducting ^= {self.states.turning[crossed[1]]}
        turning = sorted({s.conducting ^ t.conducting for s, t in pairwise(self.stretches[-20:])}, key=len)
        names = ", ".join(sorted({n for some in turning for n in some}))
        raise CircuitError(f"{names} turn on and off without end near {now:.4g} s")

    def _at_none(self, row: Array, x: Array, room: float) -> Array:
        """The state with a diode at none, as it is where it turns: the last digits of the time would leave a current that nothing carries."""
        n = len(self.states.storing)
        size, left = float(row[:n] @ row[:n]), float(row @ x)
        if size == 0.0 or abs(left) > room * ON:
            return x
        at_none = x.copy()
        at_none[:n] -= row[:n] * (left / size)
        return at_none

    @staticmethod
    def _jump(before: Modes, diode: int, after: Modes, x: Array, hangs: Array) -> Array:
        """How a turn of a diode bends what hangs on the beginning: its time hangs on the state as well."""
        out, into = before.matrix @ x, after.matrix @ x
        row = before.diodes[diode]
        rate = float(row @ out)
        if rate == 0.0:
            return hangs
        bent: Array = hangs + np.multiply.outer(into - out, row @ hangs) / rate
        return bent

    def _wrong(self, modes: Modes, x: Array, seconds: float, room: float) -> list[float]:
        """By how many volts each diode stands against what it does; zero where it agrees. One that stands at none is looked at a little ahead.

        A current that is interrupted would be gone a little ahead, so for one that is off what stands now comes first. For
        one that conducts what comes: the last of an inductor's current may still flow the other way, and turns at once.
        """
        seen = (modes.now_and_after(AHEAD * seconds) @ x).tolist()
        count, wrong = len(seen) // 2, []
        for now, ahead, conducts in zip(seen[:count], seen[count:], modes.conducts, strict=True):
            # What crosses in the first thousandth of that has as good as crossed.
            soon = SOON * ahead
            if conducts:
                wrong.append(0.0 if now > max(room * ON, -soon) else max(-ahead - room * ON, 0.0))
            else:
                wrong.append(max((ahead if -max(room, soon) < now <= room else now) - room, 0.0))
        return wrong

    def _room(self, x: Array) -> float:
        """Volts that count as none, by those that drive the circuit and stand on its capacitors."""
        state: list[float] = x.tolist()
        return NONE * max(self._driving, *(abs(state[k]) for k in self._capacitors), 0.0)

    def _settled(self, x: Array, seconds: float, room: float) -> Modes:
        """The state in which conducts what agrees with the voltages and currents that follow from it."""
        tried: set[frozenset[str]] = set()
        turning, fewest = self.states.turning, len(self.states.turning) + 1
        while self.conducting not in tried:
            tried.add(self.conducting)
            modes = self.states.modes(self._state(self.conducting))
            wrong = self._wrong(modes, x, seconds, room)
            against = [k for k, volts in enumerate(wrong) if volts > 0.0]
            if not against:
                return modes
            if len(against) >= fewest:
                # All at once did not lead nearer.
                against = [wrong.index(max(wrong))]
            else:
                fewest = len(against)
            self.conducting ^= {turning[k] for k in against}
        # One after the other they lead back: all choices are looked at.
        choices = [frozenset(n for k, n in enumerate(turning) if bits >> k & 1) for bits in range(1 << len(turning))]
        self.conducting = min(choices, key=lambda c: max(self._wrong(self.states.modes(self._state(c)), x, seconds, room), default=0.0))
        return self.states.modes(self._state(self.conducting))

    def _until(self, modes: Modes, amounts: NDArray[np.complex128], whole: float, left: float, room: float) -> tuple[float, int] | None:
        """How long until the first diode turns, and which, in what is `left` of the `whole` time between two events; None where none does."""
        if not len(modes.diodes):
            return None
        looks = modes.looks(whole)
        count = int(np.searchsorted(looks.times, left))
        # Of what conducts the sign turned round: above zero it has turned.
        signs, limits = modes.sides
        turned: NDArray[np.bool_] = looks.diodes(amounts, count) * signs > limits * (room * ON)
        passed: NDArray[np.bool_] = np.any(turned, axis=0)
        k = int(passed.argmax()) if count else 0
        if count and passed[k]:
            which, high = turned[:, k], float(looks.times[k])
        else:
            k, high = count, left
            which = modes.diodes_after(amounts, left) * signs[:, 0] > limits[:, 0] * (room * ON)
            if not which.any():
                return None
        low = float(looks.times[k - 1]) if k else 0.0
        return min((self._crossing(d, modes, amounts, low, high), d) for d in np.flatnonzero(which).tolist())

    @staticmethod
    def _crossing(diode: int, modes: Modes, amounts: NDArray[np.complex128], low: float, high: float) -> float:
        if modes.apart:
            terms = list(zip((modes.diode_shares[diode] * amounts).tolist(), modes.rates, strict=True))

            def q(t: float) -> float:
                return sum([share * cmath.exp(rate * t) for share, rate in terms], 0j).real
        else:

            def q(t: float) -> float:
                return float(modes.diodes_after(amounts, t)[diode])

        try:
            crossing: float = brentq(q, low, high, xtol=1e-18, rtol=4e-15, full_output=False)
        except ValueError:
            # It has left none behind it within what counts as none: there is no crossing in between.
            return high
        return crossing


def march(circuit: Switched, events: Sequence[Event], seconds: float, start: Array | None = None, states: States | None = None) -> Run:
    """Through `events` for so many seconds, from a start of inductor currents and capacitor voltages (all zero where none is given)."""
    states = states or States(circuit)
    return March(states, events, seconds).run(np.zeros(len(states.storing)) if start is None else np.asarray(start, dtype=float))
