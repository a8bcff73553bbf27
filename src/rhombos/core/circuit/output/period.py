"""The periodic steady state of bridge, filter and load over one output period, with dead time, on a link that gives way.

In every slot the circuit is linear: its step is a power series (scaled and squared where it is stiff), and the steps of
a period are multiplied one after the other. What a leg does while both its switches are off hangs on the sign of
the choke's current, and the front end cannot take current back: who conducts is found by going round until nothing
changes. No transient is waited for, and no time step is taken.
"""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.compiled import nearest
from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.output.circuit import CHOKE, FRONT, LINK, STATES, Circuit, Mode, are_still, codes_of, modes_of, stilled
from rhombos.core.circuit.output.compiled_pattern import blocked_by, directions, followed
from rhombos.core.circuit.output.compiled_steps import along, exact_steps, through
from rhombos.core.circuit.output.slots import Array, Slots, Truths

MOST_ROUNDS = 40
SAME = 1e-4
"""Of the dead time: a crossing that moves by less stands; of the current that is some hundred-millionth of an ampere."""
ALTERNATES = 1e-6
"""Of its greatest, by how much an imposed current may differ half a period later, turned round."""
APART = 24
"""So many slots without a small current, and what follows hangs on other dead times."""


@dataclass(frozen=True)
class Solved:
    """A period at rest: in every slot its mode (an index of `modes`) and the state at its begin, behind which stand one and the front end's voltage."""

    begins: Array
    lengths: Array
    which: NDArray[np.intp]
    modes: tuple[Mode, ...]
    states: Array
    matrices: Array

    @property
    def period(self) -> float:
        """Seconds."""
        return float(self.begins[-1] + self.lengths[-1])

    def unfolded(self, circuit: Circuit) -> "Solved":
        """Of half a period the whole: the other half is its mirror image."""
        mirrored = [m.mirrored for m in self.modes]
        place = {mode: k for k, mode in enumerate(dict.fromkeys((*self.modes, *mirrored)))}
        other = np.array([place[m] for m in mirrored], dtype=np.intp)
        begins = np.concatenate([self.begins, self.begins + self.period])
        which, states = np.concatenate([self.which, other[self.which]]), np.concatenate([self.states, self.states * circuit.mirror()])
        lengths = np.diff(np.append(begins, 2 * self.period))
        return Solved(begins, lengths, which, tuple(place), states, circuit.of(tuple(place))[0])


@dataclass(frozen=True)
class _Pattern:
    """Who conducts: the sign of the choke's current where a leg is dead (0: none flows), how far into a slot it ends there, where the front end is blocked."""

    signs: NDArray[np.int64]
    ends: Array
    blocked: Truths

    def same(self, other: "_Pattern", dead_time: float) -> bool:
        near = np.abs(self.ends - other.ends) <= SAME * dead_time
        alike = near | (np.isnan(self.ends) & np.isnan(other.ends))
        return bool((self.signs == other.signs).all() and alike.all() and (self.blocked == other.blocked).all())


def solve(circuit: Circuit, slots: Slots, guess: NDArray[np.int64], *, imposed: Array | None = None, roughly: bool = False) -> Solved:
    """The period that repeats itself; `guess` is the sign of the choke's current in every slot.

    `imposed` is the current that something else draws from the output, at the begin of every slot, and its slope there: (2, slots).
    `roughly` goes round once only, for a first look. Raises CircuitError where no pattern stands. Where the second half of
    the period is the first's mirror image, half of the work is left.
    """
    half = slots.half()
    count = len(slots.begins) // 2
    if half is not None and (imposed is None or np.allclose(imposed[:, :count], -imposed[:, count:], rtol=0, atol=ALTERNATES * np.abs(imposed).max())):
        found = _solved(circuit, half, guess[:count], None if imposed is None else imposed[:, :count], circuit.mirror(), roughly=roughly)
        return found.unfolded(circuit)
    return _solved(circuit, slots, guess, imposed, np.ones(circuit.size), roughly=roughly)


def _solved(circuit: Circuit, slots: Slots, guess: NDArray[np.int64], imposed: Array | None, becomes: Array, *, roughly: bool) -> Solved:
    """The slots after which every state is what it was, times what it `becomes`."""
    count = len(slots.begins)
    pattern = _Pattern(np.where(slots.either_dead, guess, 0), np.full(count, np.nan), np.zeros(count, dtype=np.bool_))
    if roughly:
        return _Period(circuit, slots, pattern, imposed, becomes).solved()
    period: _Period | None = None
    for rounds in range(1, MOST_ROUNDS + 1):
        period = _Period(circuit, slots, pattern, imposed, becomes, period)
        following = period.pattern(rounds)
        if following.same(pattern, float(slots.lengths[slots.either_dead].max(initial=0.0))):
            return period.solved()
        pattern = following
    turning = int(np.count_nonzero(following.signs != pattern.signs))
    raise CircuitError(f"the output period does not settle: in {turning} of its dead times the current's direction leads back and forth")


class _Period:
    """One round: the period that repeats itself if so much conducts. What conducts as in the `former` round steps as it did there."""

    def __init__(self, circuit: Circuit, slots: Slots, pattern: _Pattern, imposed: Array | None, becomes: Array, former: "_Period | None" = None) -> None:
        self.circuit, self.slots, self.told, self.imposed, self.becomes = circuit, slots, pattern, imposed, becomes
        codes = self.codes = codes_of(slots, pattern.signs, pattern.blocked)
        self.ending = np.flatnonzero(~np.isnan(pattern.ends))
        # What is left of a slot in which the current ends is still; it comes behind the others.
        self.modes, which = modes_of(np.concatenate([codes, stilled(codes[self.ending])]))
        self.which, self.rest = which[: len(codes)], which[len(codes) :]
        self.matrices, self.rates = circuit.of(self.modes)
        if former is None:
            self.whole = exact_steps(self.matrices, self.which, slots.lengths, self.rates)
        else:
            other = np.flatnonzero((codes != former.codes) | former.changed)
            self.whole = former.whole
            self.whole[other] = exact_steps(self.matrices, self.which[other], slots.lengths[other], self.rates)
        self._walk()

    def _walk(self) -> None:
        circuit, slots, steps = self.circuit, self.slots, self.whole
        still, blocked = np.flatnonzero(are_still(self.codes)), np.flatnonzero(self.told.blocked)
        # What is not the mode's own step any more.
        self.changed = np.zeros(len(steps), dtype=np.bool_)
        for these in (self.ending, still, blocked):
            self.changed[these] = True
        if len(self.ending):
            ends = self.told.ends[self.ending]
            first = exact_steps(self.matrices, self.which[self.ending], ends, self.rates)
            then = exact_steps(self.matrices, self.rest, slots.lengths[self.ending] - ends, self.rates)
            self.at_end = first
            steps[self.ending] = then @ (_without(CHOKE, first))
        steps[still, :, CHOKE] = 0.0
        steps[blocked, :, FRONT] = 0.0
        if self.imposed is not None:
            # It comes from outside in every slot: it hangs on nothing but the one.
            drawn = np.einsum("kij,jk->ki", steps[:, :, self._outside], self.imposed)
            steps = np.delete(np.delete(steps, self._outside, axis=1), self._outside, axis=2)
            steps[:, :, STATES] += np.delete(drawn, self._outside, axis=1)
        self.states = _repeating(steps, slots.lengths, circuit, self.becomes)
        if self.imposed is not None:
            self.states = np.insert(self.states, [circuit.current] * 2, 0.0, axis=1)
            self.states[:-1, self._outside] = self.imposed.T

    @property
    def _outside(self) -> slice:
        return slice(self.circuit.current, self.circuit.current + 2)

    def pattern(self, round: int) -> _Pattern:
        """Who conducts by what flows: what should have been told.

        Where the current is small one dead time decides about the next, so there slot follows slot.
        """
        slots, dead = self.slots, self.slots.either_dead
        near = self.circuit.drive.link * slots.lengths[dead].max(initial=0.0) / self.circuit.filter.inductance
        signs, spans = directions(np.ascontiguousarray(self.states[:-1, CHOKE]), dead, 2 * near, APART)
        ends = np.full(len(signs), np.nan)
        if len(spans):
            self._follow(spans, signs, ends)
        if round > MOST_ROUNDS // 2:
            # A direction that leads back and forth stands at no current.
            signs = np.where(signs * self.told.signs < 0, 0, signs)
        return _Pattern(signs, ends, self._blocked())

    def _follow(self, spans: NDArray[np.intp], signs: NDArray[np.int64], ends: Array) -> None:
        """Slot by slot from the first one's state: write down the current's sign where a leg is dead, and when it ends."""
        blocked, slots = self.told.blocked, self.slots
        back, forth = (codes_of(slots, np.full_like(signs, sign), blocked) for sign in (-1, 1))
        modes, which = modes_of(np.concatenate([back, stilled(forth), forth]))
        ways = np.empty((len(signs), 4), dtype=np.int64)
        ways[:, :3], ways[:, 3] = which.reshape(3, -1).T, blocked
        ways[~slots.either_dead, 0] = -1
        imposed = np.zeros((0, 0)) if self.imposed is None else self.imposed
        followed(*self.circuit.of(modes), self.whole, slots.lengths, ways, spans, self.states, (CHOKE, FRONT), imposed, signs, ends)

    def _blocked(self) -> Truths:
        """Where the front end gives nothing: its current would turn round, or the link stands above what it has."""
        if self.circuit.stiff:
            return self.told.blocked
        rows = np.array([self.circuit.link(m.lift) for m in self.modes])
        found: Truths = blocked_by(self.states, self.which, rows, FRONT, self.told.blocked)
        return found

    def solved(self) -> Solved:
        """What has been found, slots in which the current ends cut in two."""
        slots, which, states = self.slots, self.which, self.states[:-1].copy()
        states[are_still(self.codes), CHOKE] = 0.0
        states[self.told.blocked, FRONT] = 0.0
        begins, lengths = slots.begins, slots.lengths
        if len(self.ending):
            ends = self.told.ends[self.ending]
            there = np.einsum("kij,kj->ki", self.at_end, states[self.ending])
            there[:, CHOKE] = 0.0
            lengths = lengths.copy()
            rest = lengths[self.ending] - ends
            lengths[self.ending] = ends
            # What is left of a slot comes right behind it.
            places = np.insert(np.arange(len(begins)), self.ending + 1, len(begins) + np.arange(len(ends)))
            begins, lengths = (np.concatenate(two)[places] for two in ((begins, begins[self.ending] + ends), (lengths, rest)))
            which, states = np.concatenate([which, self.rest])[places], np.concatenate([states, there])[places]
        return Solved(begins, lengths, which, self.modes, states, self.matrices)


def _without(row: int, steps: Array) -> Array:
    steps = steps.copy()
    steps[:, row, :] = 0.0
    return steps


def _repeating(steps: Array, lengths: Array, circuit: Circuit, becomes: Array) -> Array:
    """(slots + 1, states + 2): the states at every bound, so that the end is what the beginning `becomes` and the link has its mean."""
    # Half of the slots on either side of a bound: between two bounds the capacitor's voltage is as good as straight.
    weights = (lengths + np.append(lengths[1:], lengths[0])) / 2 / lengths.sum()
    whole, mean = through(steps, weights, LINK, STATES)
    n, m = STATES, len(whole)
    equations = np.zeros((n + 1, n + 1))
    equations[:n, :n] = np.diag(becomes[:n]) - whole[:n, :n]
    equations[:n, n] = -whole[:n, m - 1]
    equations[n, :n], equations[n, n] = mean[:n], mean[m - 1]
    right = np.append(whole[:n, n], circuit.drive.link - mean[n])
    scale = np.append(circuit.scale()[:n], 1.0)
    found = nearest(equations / scale[None, :], right) / scale
    if not np.isfinite(found).all():
        raise CircuitError("the output period has no steady state")
    return along(steps, np.concatenate([found[:n], [1.0], np.zeros(m - n - 2), found[n:]]))
