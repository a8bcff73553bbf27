"""Reading a solved output period, compiled by Numba: in which slot a time lies, and a quantity so long after the begin of one."""

import numpy as np

from rhombos.core.circuit.compiled import Array, Places, compiled
from rhombos.core.circuit.output.compiled_steps import order


@compiled
def slots_at(begins: Array, times: Array) -> Places:
    """The slot that each time lies in; what lies before the first is in the first. Quick where times ascend."""
    found = np.empty(len(times), dtype=np.int64)
    slot, last = 0, len(begins) - 1
    for n in range(len(times)):
        if slot < last and begins[slot + 1] <= times[n]:
            slot += 1
        if times[n] < begins[slot] or (slot < last and begins[slot + 1] <= times[n]):
            slot = max(np.searchsorted(begins, times[n], side="right") - 1, 0)
        found[n] = slot
    return found


@compiled
def within(slots: Places, since: Array, which: Places, sizes: Array, states: Array, columns: Array) -> Array:
    """A quantity so long after the begin of each of `slots`, by the power series that its slot's state makes of it.

    `columns` (modes, terms, states) are the rows that read its terms in a mode; `sizes` those of the slots' steps, up to which as many terms
    are exact as are summed.
    """
    found, series = np.empty(len(slots)), np.empty(columns.shape[1])
    slot, count = -1, 0
    for n in range(len(slots)):
        if slots[n] != slot:
            slot = slots[n]
            mode, count = which[slot], min(order(sizes[slot]) + 1, len(series))
            for k in range(count):
                series[k] = 0.0
                for i in range(states.shape[1]):
                    series[k] += columns[mode, k, i] * states[slot, i]
        value = 0.0
        for k in range(count - 1, -1, -1):
            value = value * since[n] + series[k]
        found[n] = value
    return found
