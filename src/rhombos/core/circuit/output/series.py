"""Steps of a linear circuit x' = M·x by power series: exact to the last digits, many of them at once."""

import numpy as np

from rhombos.core.circuit.output.compiled_steps import order
from rhombos.core.circuit.output.slots import Array


def rate(matrix: Array, scale: Array) -> float:
    """How fast a matrix is, 1/s, in the roots of energy: that times a step's seconds is the step's size."""
    return float(np.linalg.norm(matrix * scale[:, None] / scale[None, :], 2))


def terms(matrix: Array, x: Array, size: float) -> Array:
    """(order + 1, states): the power series of a state over time, exact to a time at which the matrix is of that `size` (its rate times the seconds)."""
    count = order(size)
    out = np.empty((count + 1, len(x)))
    out[0] = term = x
    for n in range(1, count + 1):
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
