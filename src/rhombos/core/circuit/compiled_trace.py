"""A wave reduced to what is drawn and metered of it, compiled by Numba."""

import numpy as np

from rhombos.core.circuit.compiled import Array, compiled


@compiled
def reduced(times: Array, wave: Array, buckets: int) -> tuple[Array, Array]:
    """Minimum and maximum in each bucket of a wave, in the order in which they occur: when and what. Of what stands still the first and the last."""
    count = len(wave)
    at, values = np.empty(2 * buckets), np.empty(2 * buckets)
    for bucket in range(buckets):
        begin, end = count * bucket // buckets, count * (bucket + 1) // buckets
        low = high = begin
        for k in range(begin + 1, end):
            if wave[k] < wave[low]:
                low = k
            if wave[k] > wave[high]:
                high = k
        first, last = (begin, end - 1) if low == high else (min(low, high), max(low, high))
        at[2 * bucket], at[2 * bucket + 1] = times[first], times[last]
        values[2 * bucket], values[2 * bucket + 1] = wave[first], wave[last]
    return at, values


@compiled
def sums(wave: Array) -> tuple[float, float, float]:
    """Of an evenly sampled wave the mean of the squares and of the magnitudes, and the greatest magnitude."""
    squares = magnitudes = greatest = 0.0
    for value in wave:
        size = abs(value)
        squares += size * size
        magnitudes += size
        greatest = max(greatest, size)
    count = max(len(wave), 1)
    return squares / count, magnitudes / count, greatest
