"""The states of a switched circuit, made when first met and kept, compiled by Numba."""

from typing import NamedTuple

import numpy as np

from rhombos.core.circuit.compiled import Array, Complex, Net, Places, applied, compiled, eigen, exponential, solved_rows


class Plan(NamedTuple):
    """A circuit without the state of its switches, in numbers."""

    net: Net
    ohms: Array
    """(2, resistors): of resistors, switches and diodes in this order, off and on."""
    first: Places
    """The first switch and the first diode among them, and how many diodes there are."""
    forward: Array
    storages: Array
    """(2^cores, states, states): the inverse of what stores, by which cores are saturated."""
    cores: Places
    """Of every core the place of its inductor among the elements; `limits` its current at saturation."""
    limits: Array
    waving: Array
    """(size, size): how sines turn into one another."""
    driven: Array
    """(levels, sources, drives): what every source is of sine, cosine and one."""
    driving: Array
    """(levels,): the greatest volts or amperes that drive."""


class Table(NamedTuple):
    """The states met so far."""

    counts: Places
    """How many states there are, and how many are remembered in `led_from`."""
    keys: Places
    """(room, 3): switches that are on and what has turned, as bits, and the levels."""
    modes: Places
    """How many modes a state has; none where they cannot be told apart."""
    matrix: Array
    rows: Array
    against: Array
    """(room, turning, size): the volts across each diode less its forward voltage, each core's current less that at which it saturates: above zero it turns."""
    values: Complex
    vectors: Complex
    inverse: Complex
    shares: Complex
    """(room, turning, size): how each mode shows in `against`."""
    led_from: Places
    led_to: Places
    """By a state that was tried first, what conducted in the end: that is tried first the next time."""


@compiled
def _make(plan: Plan, table: Table, slot: int, on: int, conducting: int, level: int) -> None:
    """A state's equations and modes, into a slot of the table."""
    switches, diodes, count = plan.first
    n, size, cores = len(plan.net.storing), len(plan.waving), len(plan.cores)
    ohms, drops = plan.ohms[0].copy(), np.zeros(plan.ohms.shape[1])
    for k in range(switches, diodes):
        if on >> (k - switches) & 1:
            ohms[k] = plan.ohms[1, k]
    for k in range(count):
        if conducting >> k & 1:
            ohms[diodes + k], drops[diodes + k] = plan.ohms[1, diodes + k], plan.forward[k]
    full = 0
    for k in range(cores):
        if conducting >> (count + 2 * k) & 3:
            full |= 1 << k
    solved = solved_rows(plan.net, ohms, drops, plan.storages[full])
    rows, matrix, against = table.rows[slot], table.matrix[slot], table.against[slot]
    for r in range(len(rows)):
        for c in range(size):
            if c < n:
                rows[r, c] = solved[r, c]
                continue
            # What hangs on sources hangs on what drives them, and on one.
            rows[r, c] = solved[r, -1] if c == size - 1 else 0.0
            for k in range(plan.driven.shape[1]):
                rows[r, c] += solved[r, n + k] * plan.driven[level, k, c - n]
    branches = n + plan.net.joins.shape[1]
    for c in range(size):
        for r in range(size):
            matrix[r, c] = rows[r, c] if r < n else plan.waving[r, c]
        for k in range(count):
            against[k, c] = rows[len(rows) - count + k, c]
        for k in range(cores):
            against[count + 2 * k, c] = rows[branches + plan.cores[k], c]
            against[count + 2 * k + 1, c] = -rows[branches + plan.cores[k], c]
    for k in range(count):
        against[k, size - 1] -= plan.forward[k]
    for k in range(cores):
        against[count + 2 * k, size - 1] -= plan.limits[k]
        against[count + 2 * k + 1, size - 1] -= plan.limits[k]
    m = eigen(matrix, table.values[slot], table.vectors[slot], table.inverse[slot])
    table.modes[slot] = m
    shares, vectors = table.shares[slot], table.vectors[slot]
    for d in range(len(against)):
        for j in range(m):
            shares[d, j] = 0.0
            for i in range(size):
                shares[d, j] += against[d, i] * vectors[i, j]


@compiled
def find(plan: Plan, table: Table, on: int, conducting: int, level: int) -> int:
    """The slot of a state, made where it has not been met; below none where there is no room left."""
    for slot in range(table.counts[0]):
        if table.keys[slot, 1] == conducting and table.keys[slot, 0] == on and table.keys[slot, 2] == level:
            return slot
    slot = table.counts[0]
    if slot >= len(table.keys):
        return -1
    _make(plan, table, slot, on, conducting, level)
    table.keys[slot, 0], table.keys[slot, 1], table.keys[slot, 2] = on, conducting, level
    table.counts[0] = slot + 1
    return int(slot)


@compiled
def amounts_of(table: Table, slot: int, x: Array) -> Complex:
    """How much of every mode a state holds."""
    m = table.modes[slot]
    found = np.zeros(m, dtype=np.complex128)
    for j in range(m):
        for i in range(len(x)):
            found[j] += table.inverse[slot, j, i] * x[i]
    return found


@compiled
def after(table: Table, slot: int, x: Array, grown: Complex, seconds: float) -> Array:
    """What turns of itself, (turning,), where the modes have grown to so much (without modes: the state after so long)."""
    against = table.against[slot]
    found = np.zeros(len(against))
    if table.modes[slot] == 0:
        return applied(against, applied(exponential(table.matrix[slot], seconds), x))
    for d in range(len(found)):
        for j in range(len(grown)):
            found[d] += (table.shares[slot, d, j] * grown[j]).real
    return found


@compiled
def step(table: Table, slot: int, seconds: float) -> Array:
    """e^(M·t)."""
    m, size = table.modes[slot], table.matrix.shape[1]
    if m == 0:
        return exponential(table.matrix[slot], seconds)
    found = np.zeros((size, size))
    for j in range(m):
        growth = np.exp(table.values[slot, j] * seconds)
        for i in range(size):
            part = table.vectors[slot, i, j] * growth
            for k in range(size):
                found[i, k] += (part * table.inverse[slot, j, k]).real
    return found
