"""Who conducts in an output period: modes by number, and where the current is small the slots one after the other. Compiled by Numba."""

import math

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.compiled import Array, Places, applied, compiled
from rhombos.core.circuit.output.compiled_steps import ROUGHLY, order


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
