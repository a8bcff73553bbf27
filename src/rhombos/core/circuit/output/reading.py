"""Reading an output period that has been solved: any quantity at any time, exactly, by the power series of its slot."""

from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.output.circuit import CHOKE, DAMPER, FRONT, LOAD, OUTPUT, Circuit
from rhombos.core.circuit.output.compiled_steps import ROUGHLY, exact_steps
from rhombos.core.circuit.output.period import Solved
from rhombos.core.circuit.output.slots import Array

TERMS = 20
"""Of the power series: exact to the last digits over a slot of size `ROUGHLY`; a longer one is cut."""


def cut(circuit: Circuit, solved: Solved) -> Solved:
    """The same, its slots cut so that none is longer than a power series reaches."""
    rates = np.array([circuit.rate(m) for m in solved.modes])
    pieces = np.maximum(1, np.ceil(rates[solved.which] * solved.lengths / ROUGHLY)).astype(int)
    if pieces.max() == 1:
        return solved
    lengths = solved.lengths / pieces
    through = exact_steps(solved.matrices, solved.which, lengths, rates)
    states = [solved.states]
    for _ in range(1, int(pieces.max())):
        states.append(np.einsum("kij,kj->ki", through, states[-1]))
    which = np.repeat(np.arange(len(pieces)), pieces)
    place = np.arange(len(which)) - np.repeat(np.cumsum(pieces) - pieces, pieces)
    begins = solved.begins[which] + place * lengths[which]
    return replace(solved, begins=begins, lengths=lengths[which], which=solved.which[which], states=np.array(states)[place, which])


class Reading:
    """The quantities of a solved period by name: "choke", "output", "damper", "link", "front", "load" (all that is drawn), "rectifier", "node", and what follows from them."""

    def __init__(self, circuit: Circuit, solved: Solved) -> None:
        self.circuit, self.solved = circuit, cut(circuit, solved)
        self.period = solved.period
        self._made: dict[str, Array] = {}

    @cached_property
    def _rows(self) -> dict[str, Array]:
        """(modes, states) of everything that can be read."""
        of, unit = self.circuit.filter, np.eye(self.circuit.size)
        damping = (unit[OUTPUT] - unit[DAMPER]) / of.damping_resistance
        load = unit[LOAD] if self.circuit.inductive else unit[OUTPUT] / of.load_resistance
        imposed = unit[self.circuit.current] if self.circuit.imposed else np.zeros(self.circuit.size)
        load = load + imposed
        same = {
            "choke": unit[CHOKE],
            "output": unit[OUTPUT],
            "damper": unit[DAMPER],
            "front": unit[FRONT],
            "damping": damping,
            "load": load,
            "rectifier": imposed,
            "capacitor": unit[CHOKE] - damping - load,
        }
        rows = {name: np.repeat(row[None], len(self.solved.modes), axis=0) for name, row in same.items()}
        rows["link"] = np.array([self.circuit.link(m.lift) for m in self.solved.modes])
        rows["node"] = np.array([self.circuit.node(m) for m in self.solved.modes])
        return rows

    def at(self, name: str, times: Array) -> Array:
        """A quantity at times (ascending or not, within the period)."""
        solved = self.solved
        slot = np.clip(np.searchsorted(solved.begins, times, side="right") - 1, 0, len(solved.begins) - 1)
        return self._within(name, slot, times - solved.begins[slot])

    def _within(self, name: str, slot: NDArray[np.intp], since: Array) -> Array:
        """A quantity so long after the begin of its slot."""
        if name not in self._made:
            self._made[name] = self._coefficients(name)
        coefficients = self._made[name]
        out: Array = coefficients[slot, TERMS - 1]
        for n in range(TERMS - 2, -1, -1):
            out = out * since + coefficients[slot, n]
        return out

    def _coefficients(self, name: str) -> Array:
        """(slots, terms): the power series of a quantity in every slot."""
        solved = self.solved
        out = np.empty((len(solved.begins), TERMS))
        for k, matrix in enumerate(solved.matrices):
            mine = solved.which == k
            row = self._rows[name][k]
            columns = np.empty((len(row), TERMS))
            for n in range(TERMS):
                columns[:, n] = row
                row = row @ matrix / (n + 1)
            out[mine] = solved.states[mine] @ columns
        return out

    def node(self) -> tuple[Array, Array]:
        """The bridge's stepped voltage as the corners of its line: (times, V). Slots with the same level are one piece."""
        solved = self.solved
        lifts = np.array([3 if m.still else m.lift for m in solved.modes])[solved.which]
        first = np.concatenate([[True], lifts[1:] != lifts[:-1]])
        begin = np.flatnonzero(first)
        last = np.append(begin[1:], len(lifts)) - 1
        before = self._within("node", begin, np.zeros(len(begin)))
        after = self._within("node", last, solved.lengths[last])
        times = np.stack([solved.begins[begin], solved.begins[last] + solved.lengths[last]], axis=1).reshape(-1)
        return times, np.stack([before, after], axis=1).reshape(-1)
