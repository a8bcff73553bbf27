"""Where a comparator with divider and positive feedback turns, over the tolerances of its parts (2.4)."""

import itertools
from functools import reduce

import numpy as np

RESISTORS, REFERENCES = (0.01, 0.005, 0.001), (0.01, 0.005, 0.002)
"""Tolerances that resistors and references are sold in: usual, close, precise."""
ROOM = 1.005
"""What the checks leave between a threshold and the voltage that it must not reach."""


def threshold(reference, upper, lower, feedback, output):
    """Pack voltage at which the comparator turns, from the node equation of the divider, in V."""
    return reference * (1 + upper / lower + upper / feedback) - output * upper / feedback


def extremes(reference, upper, lower, feedback, output, resistor_tolerance, reference_tolerance):
    """The threshold at every corner of the tolerances: it is monotone in each part, so its extremes lie there."""
    for r, u, d, f in itertools.product((-1, 1), repeat=4):
        yield threshold(
            reference * (1 + r * reference_tolerance),
            upper * (1 + u * resistor_tolerance),
            lower * (1 + d * resistor_tolerance),
            feedback * (1 + f * resistor_tolerance),
            output,
        )


def coarsest(parts, high, low, sensed, rested):
    """The coarsest class of tolerances with which the comparator falls below `sensed` and rises below `rested`; the finest where none does."""
    reference, upper, lower, feedback = parts

    def highest_of(output, k):
        return reduce(np.maximum, extremes(reference, upper, lower, feedback, output, RESISTORS[k], REFERENCES[k]))

    def fits(k):
        falls = np.where(highest_of(high, k) * ROOM <= sensed, 1.0, 0.0)
        return falls * np.where(highest_of(low, k) * ROOM <= rested, 1.0, 0.0)

    return np.where(fits(0) > 0, 0.0, np.where(fits(1) > 0, 1.0, 2.0))
