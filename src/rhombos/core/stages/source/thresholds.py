"""Where a comparator with divider and positive feedback turns, over the tolerances of its parts (2.4)."""

import itertools
from functools import reduce

import numpy as np

RESISTORS, REFERENCES = (0.01, 0.005, 0.001), (0.01, 0.005, 0.002)
"""Tolerances that resistors and references are sold in: usual, close, precise."""


def threshold(reference, upper, lower, feedback, output):
    """Pack voltage at which the comparator turns, from the node equation of the divider, in V."""
    return reference * (1 + upper / lower + upper / feedback) - output * upper / feedback


def extreme(side, parts, output, tolerances):
    """Highest or lowest threshold over all tolerances, in V: exact, since it is linear in each part alone.

    Its extremes stand at corners of the tolerances. A higher reference (with the comparator's offset) and a lower
    output and lower resistor always raise it; only what upper and feedback resistor do hangs on the others, so four
    of all the corners are left to compare.

    side: +1 the highest, -1 the lowest. parts: reference, upper, lower and feedback resistor. output: the comparator's
    level, in V. tolerances: of resistors and reference, as fractions; offset, in V; of the output's level, as a fraction;
    what a pot in the lower leg drifts with temperature, as a fraction of that leg.
    """
    reference, upper, lower, feedback = parts
    of_resistors, of_reference, offset, of_output, drift = tolerances
    least = (reference * (1 + side * of_reference) + side * offset, lower * (1 - side * (of_resistors + drift)), output * (1 - side * of_output))
    found = [
        threshold(least[0], upper * (1 + u * of_resistors), least[1], feedback * (1 + f * of_resistors), least[2])
        for u, f in itertools.product((-1, 1), repeat=2)
    ]
    return reduce(np.maximum if side > 0 else np.minimum, found)


def coarsest(parts, levels, others, sensed, rested, deep):
    """The coarsest class of tolerances with which the comparator falls below `sensed` and not below `deep`, and rises below `rested`; the finest where none does.

    levels: the comparator's output, high and low, in V. others: its offset, in V, the tolerance of its output, the pot's drift.
    """
    high, low = levels

    def fits(k):
        tolerances = (RESISTORS[k], REFERENCES[k], *others)
        falls = np.where(extreme(1, parts, high, tolerances) <= sensed, 1.0, 0.0)
        guards = np.where(extreme(-1, parts, high, tolerances) >= deep, 1.0, 0.0)
        return falls * guards * np.where(extreme(1, parts, low, tolerances) <= rested, 1.0, 0.0)

    return np.where(fits(0) > 0, 0.0, np.where(fits(1) > 0, 1.0, 2.0))
