"""Steps of a linear circuit x' = M·x by power series, exact to the last digits: of many slots, and a way through all of them. Compiled by Numba."""

import math

import numpy as np

from rhombos.core.circuit.compiled import Array, Places, compiled

ROUGHLY = 2.0
"""Size of a step up to which its power series is summed at once."""
EXACT = 1e-15


@compiled
def order(size: float) -> int:
    """How many terms of a power series make a step of that size exact."""
    term, count = 1.0, 0
    while term > EXACT * max(1.0, size):
        count += 1
        term *= size / count
    return count


@compiled
def _summed(step: Array, terms: Array, seconds: float, count: int) -> None:
    """A power series of so many terms, each number of the step by itself."""
    step[:] = terms[count]
    for n in range(count):
        of = terms[count - 1 - n]
        for i in range(step.size):
            step[i] = step[i] * seconds + of[i]


@compiled
def exact_steps(matrices: Array, which: Places, lengths: Array, rates: Array) -> Array:
    """(slots, states, states): e^(M·h) of every slot, whose mode's matrix is `which` and which takes `lengths` seconds.

    The power series of each mode is written down once; a step that is large (rate times seconds) is halved and squared.
    """
    modes, m = matrices.shape[0], matrices.shape[1]
    out = np.empty((len(which), m, m))
    most = np.zeros(modes)
    for k in range(len(which)):
        most[which[k]] = max(most[which[k]], rates[which[k]] * lengths[k])
    halvings, orders = np.zeros(modes, dtype=np.int64), np.zeros(modes, dtype=np.int64)
    for mode in range(modes):
        if most[mode] > ROUGHLY:
            halvings[mode] = max(0, math.ceil(math.log2(most[mode] / ROUGHLY)))
        orders[mode] = order(most[mode] / 2.0 ** halvings[mode])
    terms = np.zeros((modes, orders.max() + 1, m * m)) if modes else np.zeros((0, 1, m * m))
    for mode in range(modes):
        term = np.eye(m)
        for n in range(orders[mode] + 1):
            terms[mode, n] = term.reshape(-1)
            term = term @ matrices[mode] / (n + 1)
    for k in range(len(which)):
        mode = which[k]
        short = lengths[k] / 2.0 ** halvings[mode]
        # A dead time is much shorter than what lies between.
        _summed(out[k].reshape(-1), terms[mode], short, min(order(rates[mode] * short), orders[mode]))
        for _ in range(halvings[mode]):
            out[k] = out[k] @ out[k]
    return out


@compiled
def through(steps: Array, weights: Array, row: int) -> tuple[Array, Array]:
    """All steps one after the other as one matrix; and the mean of a state (`row`) behind each, weighed, as what it is by the state at the beginning."""
    m = steps.shape[1]
    whole, following, mean = np.eye(m), np.empty((m, m)), np.zeros(m)
    for k in range(len(steps)):
        for i in range(m):
            for n in range(m):
                following[i, n] = steps[k, i, 0] * whole[0, n]
            for j in range(1, m):
                for n in range(m):
                    following[i, n] += steps[k, i, j] * whole[j, n]
        whole, following = following, whole
        for n in range(m):
            mean[n] += weights[k] * whole[row, n]
    return whole, mean


@compiled
def along(steps: Array, start: Array) -> Array:
    """(slots + 1, states): the state at every bound."""
    m = steps.shape[1]
    states = np.zeros((len(steps) + 1, m))
    states[0] = start
    for k in range(len(steps)):
        for i in range(m):
            total = 0.0
            for j in range(m):
                total += steps[k, i, j] * states[k, j]
            states[k + 1, i] = total
    return states


@compiled
def terms(matrix: Array, x: Array, size: float) -> Array:
    """(order + 1, states): the power series of a state over time, exact to a time at which the matrix is of that `size` (its rate times the seconds)."""
    count, m = order(size), len(x)
    out = np.zeros((count + 1, m))
    out[0] = x
    for n in range(1, count + 1):
        for i in range(m):
            total = 0.0
            for j in range(m):
                total += matrix[i, j] * out[n - 1, j]
            out[n, i] = total / n
    return out


@compiled
def after(series: Array, seconds: float) -> Array:
    """A state so long after, by its power series."""
    last = len(series) - 1
    at: Array = series[last].copy()
    for n in range(last):
        at = at * seconds + series[last - 1 - n]
    return at


@compiled
def crossing(series: Array, row: int, length: float) -> float:
    """When a state, of number `row`, comes to nothing within a slot in which it does: Newton's steps on the slot's own power series, kept between bounds."""
    last, first = len(series) - 1, series[0, row]
    low, high, at = 0.0, length, length / 2
    for _ in range(60):
        value, slope = 0.0, 0.0
        for n in range(last + 1):
            slope = slope * at + value
            value = value * at + series[last - n, row]
        if value * first > 0:
            low = at
        else:
            high = at
        following = at - value / slope if slope != 0.0 else low
        if abs(following - at) <= 1e-13 * length:
            break
        at = following if low < following < high else (low + high) / 2
    return at
