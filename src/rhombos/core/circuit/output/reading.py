"""Reading an output period that has been solved: any quantity at any time, exactly, by the power series of its slot."""

from dataclasses import replace
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.output.circuit import CHOKE, DAMPER, FRONT, LOAD, OUTPUT, Circuit
from rhombos.core.circuit.output.compiled_reading import slots_at, within
from rhombos.core.circuit.output.compiled_steps import REACHES, ROUGHLY, exact_steps
from rhombos.core.circuit.output.period import Solved
from rhombos.core.circuit.output.slots import Array

TERMS = len(REACHES)
"""Of the power series: exact to the last digits over a slot of size `ROUGHLY`; a longer one is cut."""


def _sizes(circuit: Circuit, solved: Solved) -> Array:
    """Of every slot's step."""
    sizes: Array = circuit.of(solved.modes)[1][solved.which] * solved.lengths
    return sizes


def cut(circuit: Circuit, solved: Solved) -> Solved:
    """The same, its slots cut so that none is longer than a power series reaches."""
    pieces = np.maximum(1, np.ceil(_sizes(circuit, solved) / ROUGHLY)).astype(int)
    if pieces.max() == 1:
        return solved
    lengths = solved.lengths / pieces
    matrices, rates = circuit.of(solved.modes)
    through = exact_steps(matrices, solved.which, lengths, rates)
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
        self._sizes = _sizes(circuit, self.solved)
        self.period = solved.period

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
        slots = slots_at(self.solved.begins, np.asarray(times, dtype=float))
        return self._within(name, slots, times - self.solved.begins[slots])

    def _within(self, name: str, slots: NDArray[np.int64], since: Array) -> Array:
        """A quantity so long after the begin of its slot."""
        return within(slots, since, self.solved.which, self._sizes, self.solved.states, self._columns[name])

    @cached_property
    def _columns(self) -> dict[str, Array]:
        """(modes, terms, states) of everything that can be read: what reads each term of its power series from the state."""
        rows = np.stack(list(self._rows.values()), axis=1)
        out = np.empty((rows.shape[1], len(rows), TERMS, rows.shape[2]))
        for n in range(TERMS):
            out[:, :, n] = rows.transpose(1, 0, 2)
            rows = rows @ self.solved.matrices / (n + 1)
        return dict(zip(self._rows, out, strict=True))

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
