"""The second half of a period made of the first, its mirror image, compiled by Numba."""

from typing import NamedTuple

import numpy as np

from rhombos.core.circuit.compiled import Array, Places, compiled
from rhombos.core.circuit.switched.compiled_march import Trace, Way
from rhombos.core.circuit.switched.state_table import Plan, Table, image_of, known

SAME = 1e-12
"""Of half a period, what its events may lie apart from those of the other half."""


class Image(NamedTuple):
    """A mirror in numbers: of what stands in a state the partner and the sign, of every switch and of what turns of itself the bit of its partner."""

    partners: Places
    signs: Array
    switches: Places
    turning: Places


@compiled
def changed(bits: int, places: Places) -> int:
    """Bits, every one of them at the place of its partner."""
    found = 0
    for k in range(len(places)):
        found |= (bits >> k & 1) << places[k]
    return found


@compiled
def alike(way: Way, switches: Places) -> bool:
    """Whether what is turned in the second half of a way are the partners of what is turned in the first, at the same times."""
    middle = len(way.on) // 2
    half = way.bounds[middle] - way.bounds[0]
    same = 2 * middle == len(way.on)
    for k in range(middle):
        same &= abs(way.bounds[k] + half - way.bounds[middle + k]) <= SAME * half and changed(way.on[k], switches) == way.on[middle + k]
    return same


@compiled
def turned_over(plan: Plan, table: Table, way: Way, trace: Trace, over: Image) -> tuple[bool, Trace]:
    """The first half's stretches, then once more as their mirror images; not, where a state's image is no state of the circuit's or there is no room for it left."""
    count, size, middle = trace.length[0], trace.states.shape[1], len(way.on) // 2
    half = way.bounds[middle] - way.bounds[0]
    begins, ends, states = np.empty(2 * count), np.empty(2 * count), np.empty((2 * count, size))
    slots, conducting = np.empty(2 * count, dtype=np.int64), np.empty(2 * count, dtype=np.int64)
    both, interval = Trace(np.array([2 * count]), begins, ends, slots, conducting, states), 0
    for k in range(count):
        while trace.begins[k] >= way.bounds[interval + 1]:
            interval += 1
        turned = changed(trace.conducting[k], over.turning)
        on, level = way.on[middle + interval], way.levels[middle + interval]
        there = known(table, on, turned, level)
        if there < 0:
            there = image_of(plan, table, trace.slots[k], (on, turned, level), over.partners, over.signs)
        if there < 0:
            return False, both
        begins[k], ends[k], slots[k], conducting[k] = trace.begins[k], trace.ends[k], trace.slots[k], trace.conducting[k]
        begins[count + k], ends[count + k], slots[count + k], conducting[count + k] = trace.begins[k] + half, trace.ends[k] + half, there, turned
        for i in range(size):
            states[k, i], states[count + k, i] = trace.states[k, i], over.signs[i] * trace.states[k, over.partners[i]]
    return True, both
