"""Steps of a linear circuit x' = M·x by power series, exact to the last digits: of many slots, and ways through all of them. Compiled by Numba."""

import math

import numpy as np

from rhombos.core.circuit.compiled import WIDE, Array, Places, compiled, product, summing

ROUGHLY = 2.0
"""Size of a step up to which its power series is summed at once."""
EXACT = 1e-15


def _reaches() -> Array:
    """By the number of terms behind the first the largest size, up to `ROUGHLY`, that they make exact: what is left out is smaller than the last, s^n/n!, and that than `EXACT`."""
    found = [0.0]
    while found[-1] < ROUGHLY:
        n = len(found)
        left = math.factorial(n) * EXACT
        # Against one, and against the size where that is more.
        found.append(left ** (1 / n) if left <= 1 else left ** (1 / (n - 1)))
    return np.array(found)


REACHES = _reaches()


@compiled
def order(size: float) -> int:
    """How many terms of a power series make a step of that size (up to `ROUGHLY`) exact."""
    count = 1
    while REACHES[count] < size and count < len(REACHES) - 1:
        count += 1
    return count


@summing
def _summed(step: Array, terms: Array, seconds: float, count: int) -> None:
    """A power series of so many terms, each number of the step by itself, `WIDE` of them at once."""
    for i in range(len(step)):
        a, b, c, d = terms[count, i, 0], terms[count, i, 1], terms[count, i, 2], terms[count, i, 3]
        e, f, g, h = terms[count, i, 4], terms[count, i, 5], terms[count, i, 6], terms[count, i, 7]
        for n in range(count - 1, -1, -1):
            a = a * seconds + terms[n, i, 0]
            b = b * seconds + terms[n, i, 1]
            c = c * seconds + terms[n, i, 2]
            d = d * seconds + terms[n, i, 3]
            e = e * seconds + terms[n, i, 4]
            f = f * seconds + terms[n, i, 5]
            g = g * seconds + terms[n, i, 6]
            h = h * seconds + terms[n, i, 7]
        step[i, 0], step[i, 1], step[i, 2], step[i, 3], step[i, 4], step[i, 5], step[i, 6], step[i, 7] = a, b, c, d, e, f, g, h


@compiled
def exact_steps(matrices: Array, which: Places, lengths: Array, rates: Array) -> Array:
    """(slots, states, states): e^(M·h) of every slot, whose mode's matrix is `which` and which takes `lengths` seconds.

    The power series of each mode is written down once; a step that is large (rate times seconds) is halved and squared. One that
    is as long as the last of its mode that was made, as dead times are, is that one.
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
    # Room for as many numbers as are summed beside one another.
    room = -(-m * m // WIDE)
    terms = np.zeros((modes, (orders.max() if modes else 0) + 1, room, WIDE))
    for mode in range(modes):
        term = np.eye(m)
        for n in range(orders[mode] + 1):
            terms[mode, n].reshape(-1)[: m * m] = term.reshape(-1)
            if n < orders[mode]:
                term = product(matrices[mode] / (n + 1), term)
    last, made = np.full((modes, 2), -1), np.empty((room, WIDE))
    for k in range(len(which)):
        mode = which[k]
        for former in last[mode]:
            if former >= 0 and lengths[former] == lengths[k]:
                out[k] = out[former]
                break
        else:
            short = lengths[k] / 2.0 ** halvings[mode]
            # A dead time is much shorter than what lies between.
            _summed(made, terms[mode], short, min(order(rates[mode] * short), orders[mode]))
            out[k] = made.reshape(-1)[: m * m].reshape(m, m)
            for _ in range(halvings[mode]):
                out[k] = out[k] @ out[k]
            last[mode, 1], last[mode, 0] = last[mode, 0], k
    return out


@summing
def through(steps: Array, weights: Array, row: int, moving: int) -> tuple[Array, Array]:
    """All steps of `WIDE` states, of which the first ones are `moving`, one after the other as one matrix; and the mean of a state (`row`) behind each, weighed, as what it is by the state at the beginning."""
    whole, following, mean = np.eye(WIDE), np.eye(WIDE), np.zeros(WIDE)
    for k in range(len(steps)):
        for i in range(moving):
            a = b = c = d = e = f = g = h = 0.0
            for j in range(WIDE):
                share = steps[k, i, j]
                a += share * whole[j, 0]
                b += share * whole[j, 1]
                c += share * whole[j, 2]
                d += share * whole[j, 3]
                e += share * whole[j, 4]
                f += share * whole[j, 5]
                g += share * whole[j, 6]
                h += share * whole[j, 7]
            following[i, 0], following[i, 1], following[i, 2], following[i, 3] = a, b, c, d
            following[i, 4], following[i, 5], following[i, 6], following[i, 7] = e, f, g, h
        whole, following = following, whole
        for n in range(WIDE):
            mean[n] += weights[k] * whole[row, n]
    return whole, mean


@summing
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
