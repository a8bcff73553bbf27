"""Steps of a linear circuit x' = M·x by power series, exact to the last digits: of many slots, and ways through all of them. Compiled by Numba."""

import math

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.compiled import WIDE, Array, Places, applied, compiled, product, summing

ROUGHLY = 2.0
"""Size of a step up to which its power series is summed at once."""
EXACT = 1e-15


@compiled
def codes(
    first_high: NDArray[np.bool_],
    second_high: NDArray[np.bool_],
    first_dead: NDArray[np.bool_],
    second_dead: NDArray[np.bool_],
    signs: Places,
    blocked: NDArray[np.bool_],
) -> Places:
    """The mode of every slot as a number (see `circuit.MODES`): what each leg is told, where it is dead and does as the current wants, whether the front end is blocked."""
    found = np.empty(len(signs), dtype=np.int64)
    for k in range(len(found)):
        one = signs[k] < 0 if first_dead[k] else first_high[k]
        other = signs[k] > 0 if second_dead[k] else second_high[k]
        dead = int(first_dead[k]) + int(second_dead[k])
        found[k] = int(one) - int(other) + 1 + 3 * (2 - signs[k] * dead) + 15 * int(dead > 0 and signs[k] == 0) + 30 * int(blocked[k])
    return found


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


@compiled
def passed(matrix: Array, rate: float, x: Array, seconds: float, row: int) -> tuple[Array, float]:
    """A state so long after, and when its number `row` came to nothing before that (none: it did not), where the state is given as it was then.

    In pieces over which the power series may be summed at once.
    """
    pieces = max(1, math.ceil(rate * seconds / ROUGHLY))
    length = seconds / pieces
    for piece in range(pieces):
        series = terms(matrix, x, rate * length)
        following = after(series, length)
        if following[row] * x[row] < 0.0:
            end = crossing(series, row, length)
            return after(series, end), piece * length + end
        x = following
    return x, np.nan


@compiled
def followed(
    matrices: Array,
    rates: Array,
    whole: Array,
    lengths: Array,
    ways: Places,
    spans: Places,
    states: Array,
    blanks: tuple[int, int],
    imposed: Array,
    signs: Places,
    ends: Array,
) -> None:
    """Slot by slot from the first state of each span (first slot, one behind the last): writes down the choke current's sign in every slot that chooses, and when it ends there.

    `ways` (slots, 4) are the modes of such a slot if the current goes one way, if none flows, if it goes the other way (below none: the slot
    chooses nothing, and steps as a whole), and whether the front end is blocked. `blanks` are the choke's and the front end's current among the states; `imposed` stands
    in the last ones but one in every slot.
    """
    choke, front = blanks
    for span in range(len(spans)):
        x = states[spans[span, 0]].copy()
        for k in range(spans[span, 0], spans[span, 1]):
            for j in range(len(imposed)):
                x[len(x) - 1 - len(imposed) + j] = imposed[j, k]
            if ways[k, 3]:
                x[front] = 0.0
            if ways[k, 0] < 0:
                x = applied(whole[k], x)
                continue
            sign = 1 if x[choke] > 0.0 else -1 if x[choke] < 0.0 else 0
            signs[k], left, still = sign, lengths[k], ways[k, 1]
            if sign:
                mode = ways[k, 1 + sign]
                x, end = passed(matrices[mode], rates[mode], x, left, choke)
                if np.isnan(end):
                    continue
                ends[k] = end
                left -= end
            x[choke] = 0.0
            x, _ = passed(matrices[still], rates[still], x, left, choke)


@compiled
def directions(currents: Array, dead: NDArray[np.bool_], small: float, apart: int) -> tuple[Places, Places]:
    """The sign of the current in every slot that chooses by it, and the spans (first slot, one behind the last) in which it is `small` there: no more than so many slots `apart` are one."""
    signs, spans, count, last = np.zeros(len(dead), dtype=np.int64), np.empty((len(dead), 2), dtype=np.int64), 0, -1
    for k in range(len(dead)):
        if dead[k]:
            signs[k] = int(currents[k] > 0.0) - int(currents[k] < 0.0)
            if abs(currents[k]) < small:
                if last < 0 or k - last > apart:
                    spans[count, 0] = k
                    count += 1
                spans[count - 1, 1] = k + 1
                last = k
    return signs, spans[:count]


@compiled
def blocked_by(states: Array, which: Places, rows: Array, front: int, told: NDArray[np.bool_]) -> NDArray[np.bool_]:
    """Where the front end gives nothing: what it has (the last state) is no more than the link, which `rows` read in each mode; or, where it did give, its current would turn round."""
    found = np.empty(len(which), dtype=np.bool_)
    for k in range(len(which)):
        if told[k]:
            stands = 0.0
            for i in range(states.shape[1]):
                stands += rows[which[k], i] * states[k, i]
            found[k] = stands >= states[k, -1]
        else:
            found[k] = states[k + 1, front] < 0.0
    return found
