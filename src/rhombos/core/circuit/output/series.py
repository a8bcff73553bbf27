"""Steps of a linear circuit x' = M·x by power series: exact to the last digits, many of them at once."""

import math

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.output.slots import Array

ROUGHLY = 2.0
"""Size of a step up to which its power series is summed at once."""
EXACT = 1e-15


def _order(size: float) -> int:
    """How many terms of a power series make a step of that size exact."""
    term, order = 1.0, 0
    while term > EXACT * max(1.0, size):
        order += 1
        term *= size / order
    return order


def rate(matrix: Array, scale: Array) -> float:
    """How fast a matrix is, 1/s, in the roots of energy: that times a step's seconds is the step's size."""
    return float(np.linalg.norm(matrix * scale[:, None] / scale[None, :], 2))


def exact_steps(matrices: Array, which: NDArray[np.intp], lengths: Array, rates: Array) -> Array:
    """e^(M·h) of every slot: the power series of each mode, all slots at once; halved and squared where a step is large."""
    m = matrices.shape[-1]
    out = np.empty((len(which), m, m))
    for k, (matrix, size) in enumerate(zip(matrices, rates.tolist(), strict=True)):
        mine = which == k
        if not mine.any():
            continue
        most = float(size * lengths[mine].max())
        halvings = max(0, math.ceil(math.log2(most / ROUGHLY))) if most > ROUGHLY else 0
        order = _order(most / 2**halvings)
        terms = np.empty((order + 1, m * m))
        term = np.eye(m)
        for n in range(order + 1):
            terms[n] = term.reshape(-1)
            term = term @ matrix / (n + 1)
        made = (np.vander(lengths[mine] / 2**halvings, order + 1, increasing=True) @ terms).reshape(-1, m, m)
        for _ in range(halvings):
            made = made @ made
        out[mine] = made
    return out


def terms(matrix: Array, x: Array, size: float) -> Array:
    """(order + 1, states): the power series of a state over time, exact to a time at which the matrix is of that `size` (its rate times the seconds)."""
    order = _order(size)
    out = np.empty((order + 1, len(x)))
    out[0] = term = x
    for n in range(1, order + 1):
        out[n] = term = matrix.dot(term) / n
    return out


def after(series: Array, seconds: float) -> Array:
    """A state so long after, by its power series."""
    at: Array = (seconds ** np.arange(len(series))).dot(series)
    return at


def crossing(series: Array, row: int, length: float) -> float:
    """When a state, of number `row`, comes to nothing within a slot in which it does: Newton's steps on the slot's own power series, kept between bounds."""
    numbers: list[float] = series[:, row].tolist()
    falling = [n * c for n, c in enumerate(numbers)][:0:-1]
    numbers, first = numbers[::-1], numbers[0]
    low, high, at = 0.0, length, length / 2
    for _ in range(60):
        value = _horner(numbers, at)
        if value * first > 0:
            low = at
        else:
            high = at
        slope = _horner(falling, at)
        following = at - value / slope if slope else low
        if abs(following - at) <= 1e-13 * length:
            break
        at = following if low < following < high else (low + high) / 2
    return at


def _horner(highest_first: list[float], at: float) -> float:
    total = 0.0
    for number in highest_first:
        total = total * at + number
    return total
