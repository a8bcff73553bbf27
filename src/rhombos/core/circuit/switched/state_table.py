"""The states of a switched circuit, made when first met and kept, compiled by Numba."""

from typing import NamedTuple

import numpy as np

from rhombos.core.circuit.compiled import WIDE, Array, Complex, Net, Places, applied, compiled, eigen, eliminated, exponential, placed, solved_rows

ALIKE = 1e-9
"""Of the greatest entry of its row, what a mirror image's equations may differ by."""


class Plan(NamedTuple):
    """A circuit without the state of its switches, in numbers."""

    net: Net
    ohms: Array
    """(2, resistors): of resistors, switches and diodes in this order, off and on."""
    first: Places
    """The first switch and the first diode among them, and how many diodes there are."""
    forward: Array
    stores: Array
    """(2^cores, states, states): capacitances, inductances and mutual inductances, by which cores are saturated; `storages` their inverse."""
    storages: Array
    cores: Places
    """Of every core the place of its inductor among the elements; `limits` its current at saturation."""
    limits: Array
    waving: Array
    """(size, size): how sines turn into one another."""
    driven: Array
    """(levels, sources, drives): what every source is of sine, cosine and one."""
    driving: Array
    """(levels,): the greatest volts or amperes that drive."""
    pace: Array
    """One number: seconds about as long as what is looked at closely; modes are best told apart beside it."""


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
    beside: Array
    """(room, 2, blocks, size, WIDE): their real parts and their imaginary ones, `WIDE` of what turns beside one another."""
    led_from: Places
    led_to: Places
    """By a state that was tried first, what conducted in the end: that is tried first the next time."""


@compiled
def _equations(plan: Plan, table: Table, slot: int, on: int, conducting: int, level: int) -> int:
    """A state's equations, into a slot of the table: which cores are saturated, as bits."""
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
    return full


@compiled
def _told_apart(plan: Plan, table: Table, slot: int, full: int) -> None:
    """The modes of a state whose equations stand in its slot."""
    n, size, branches = len(plan.net.storing), len(plan.waving), len(plan.net.storing) + plan.net.joins.shape[1]
    driven = np.zeros((size, size))
    for r in range(size):
        of = r if r >= n else (branches if plan.net.holding[r] else branches + len(plan.net.joins)) + plan.net.storing[r]
        for c in range(size):
            driven[r, c] = plan.waving[r, c] if r >= n else table.rows[slot, of, c]
    m = eigen(_resolvent(plan.stores[full], driven, plan.pace[0]), table.values[slot], table.vectors[slot], table.inverse[slot])
    _unfold(table.values[slot], m, plan.pace[0])
    table.modes[slot] = m


@compiled
def _kept(table: Table, slot: int, on: int, conducting: int, level: int) -> None:
    """How the modes show in what turns; from here on the state is known."""
    shares, vectors, against = table.shares[slot], table.vectors[slot], table.against[slot]
    for d in range(len(against)):
        for j in range(table.modes[slot]):
            shares[d, j] = 0.0
            for i in range(len(vectors)):
                shares[d, j] += against[d, i] * vectors[i, j]
            table.beside[slot, 0, d // WIDE, j, d % WIDE] = shares[d, j].real
            table.beside[slot, 1, d // WIDE, j, d % WIDE] = shares[d, j].imag
    table.keys[slot, 0], table.keys[slot, 1], table.keys[slot, 2] = on, conducting, level
    table.counts[0] = slot + 1


@compiled
def _resolvent(stores: Array, driven: Array, pace: float) -> Array:
    """(S − pace·D)⁻¹·S of what stores and what drives it: the matrix of an implicit step, whose modes are those of S⁻¹·D.

    What is off over an inductance makes rates of 1e11 a second beside those of minutes. In S⁻¹·D they drown the slow ones,
    here they come to nothing. Every row is a voltage or a current of its own: no digits of one go into another's.
    """
    n, size = len(stores), len(driven)
    left, right = np.zeros((size, size)), np.zeros((size, size))
    for r in range(size):
        greatest = 0.0
        for c in range(size):
            right[r, c] = stores[r, c] if r < n and c < n else (1.0 if r == c else 0.0)
            left[r, c] = right[r, c] - pace * driven[r, c]
            greatest = max(greatest, abs(left[r, c]))
        for c in range(size):
            left[r, c] /= greatest
            right[r, c] /= greatest
    return eliminated(left, right)


@compiled
def _unfold(values: Complex, count: int, pace: float) -> None:
    """The rates of modes from the eigenvalues µ = 1/(1 − pace·λ) of an implicit step; of what fades at once only that it does is left."""
    for j in range(count):
        value = values[j]
        if value.real <= 0.0:
            value = complex(max(abs(value), 1e-300), 0.0)
        values[j] = (1.0 - 1.0 / value) / pace


@compiled
def known(table: Table, on: int, conducting: int, level: int) -> int:
    """The slot of a state that has been met; below none where it has not."""
    for slot in range(table.counts[0]):
        if table.keys[slot, 1] == conducting and table.keys[slot, 0] == on and table.keys[slot, 2] == level:
            return slot
    return -1


@placed
def find(plan: Plan, table: Table, on: int, conducting: int, level: int) -> int:
    """The slot of a state, made where it has not been met; below none where there is no room left."""
    slot = known(table, on, conducting, level)
    if slot < 0:
        slot = _made(plan, table, on, conducting, level)
    return slot


@compiled
def _made(plan: Plan, table: Table, on: int, conducting: int, level: int) -> int:
    slot = table.counts[0]
    if slot >= len(table.keys):
        return -1
    _told_apart(plan, table, slot, _equations(plan, table, slot, on, conducting, level))
    _kept(table, slot, on, conducting, level)
    return int(slot)


@compiled
def image_of(plan: Plan, table: Table, slot: int, key: tuple[int, int, int], partners: Places, signs: Array) -> int:
    """The slot of a state not met before that ought to be another's mirror image: its modes are the other's, partner for partner; below none where it is none, or there is no room left."""
    (on, conducting, level), image = key, table.counts[0]
    if image >= len(table.keys):
        return -1
    _equations(plan, table, image, on, conducting, level)
    size, m = len(partners), table.modes[slot]
    for i in range(size):
        greatest = apart = 0.0
        for k in range(size):
            there = table.matrix[image, i, k]
            greatest = max(greatest, abs(there))
            apart = max(apart, abs(there - signs[i] * signs[k] * table.matrix[slot, partners[i], partners[k]]))
        if not apart <= ALIKE * greatest:
            return -1
    for j in range(m):
        table.values[image, j] = table.values[slot, j]
        for i in range(size):
            table.vectors[image, i, j] = signs[i] * table.vectors[slot, partners[i], j]
            table.inverse[image, j, i] = signs[i] * table.inverse[slot, j, partners[i]]
    table.modes[image] = m
    _kept(table, image, on, conducting, level)
    return int(image)


@placed
def amounts_of(table: Table, slot: int, x: Array) -> Complex:
    """How much of every mode a state holds."""
    m = table.modes[slot]
    found = np.empty(m, dtype=np.complex128)
    for j in range(m):
        real = imaginary = 0.0
        for i in range(len(x)):
            real += table.inverse[slot, j, i].real * x[i]
            imaginary += table.inverse[slot, j, i].imag * x[i]
        found[j] = complex(real, imaginary)
    return found


@compiled
def grown_to(value: complex, seconds: float) -> complex:
    """e^(value·t); most modes only fade, and a real exponential is made sooner."""
    if value.imag == 0.0:
        return complex(np.exp(value.real * seconds), 0.0)
    return complex(np.exp(value * seconds))


@placed
def after(table: Table, slot: int, x: Array, grown: Complex, seconds: float) -> Array:
    """What turns of itself, (turning,), where the modes have grown to so much (without modes: the state after so long)."""
    against = table.against[slot]
    found = np.zeros(len(against))
    if table.modes[slot] == 0:
        return applied(against, applied(exponential(table.matrix[slot], seconds), x))
    beside = table.beside[slot]
    for block in range(beside.shape[1]):
        sums = np.zeros(WIDE)
        for j in range(len(grown)):
            one, other = grown[j].real, grown[j].imag
            for k in range(WIDE):
                sums[k] += beside[0, block, j, k] * one - beside[1, block, j, k] * other
        for k in range(min(WIDE, len(found) - block * WIDE)):
            found[block * WIDE + k] = sums[k]
    return found


@compiled
def step(table: Table, slot: int, seconds: float) -> Array:
    """e^(M·t)."""
    m, size = table.modes[slot], table.matrix.shape[1]
    if m == 0:
        return exponential(table.matrix[slot], seconds)
    # What is there and what becomes of it: no digits are lost where a great slow mode takes another away.
    found, changed, turned = np.eye(size), np.empty(size), np.empty(size)
    for j in range(m):
        growth, alone = _growth_less_one(table.values[slot, j] * seconds), table.values[slot, j].imag == 0.0
        for k in range(size):
            part = growth * table.inverse[slot, j, k]
            changed[k], turned[k] = part.real, part.imag
        for i in range(size):
            real, imaginary = table.vectors[slot, i, j].real, table.vectors[slot, i, j].imag
            if alone:
                for k in range(size):
                    found[i, k] += real * changed[k]
            else:
                for k in range(size):
                    found[i, k] += real * changed[k] - imaginary * turned[k]
    return found


@compiled
def _growth_less_one(rate: complex) -> complex:
    """e^rate − 1, however small it is."""
    half = np.sin(rate.imag / 2)
    return complex(np.expm1(rate.real) * np.cos(rate.imag) - 2 * half * half, np.exp(rate.real) * np.sin(rate.imag))
