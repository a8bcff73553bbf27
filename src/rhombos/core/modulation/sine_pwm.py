"""Sine PWM of an H-bridge: unipolar or bipolar, natural or regular (asymmetric) sampling, as exact edges [HL]."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

Array = NDArray[np.float64]


@dataclass(frozen=True)
class Leg:
    """When a leg is told to turn (s, ascending, within the period), and whether up (its upper switch on) or down."""

    times: Array
    up: NDArray[np.bool_]


def sine_legs(index: float, frequency: float, carrier: float, *, unipolar: bool, natural: bool) -> tuple[Leg, Leg]:
    """The two legs over one output period; both begin high where the modulation is unipolar, else B goes against A.

    `index` M (0 to 1), `frequency` and `carrier` in Hz, the carrier a whole multiple (it is rounded to one). Each half
    carrier holds one edge of each leg; natural sampling solves the crossing, regular sampling takes the reference at
    the carrier's peaks.
    """
    halves = 2 * max(1, round(carrier / frequency))
    width = 1 / frequency / halves
    begin = np.arange(halves) * width
    rising = np.arange(halves) % 2 == 0
    omega = 2 * np.pi * frequency

    def leg(sign: float) -> Leg:
        reference = sign * index * np.sin(omega * begin)
        share = np.where(rising, (reference + 1) / 2, (1 - reference) / 2)
        if natural:
            for _ in range(6):
                at = begin + share * width
                value, slope = sign * index * np.sin(omega * at), sign * index * omega * np.cos(omega * at) * width
                error = np.where(rising, 2 * share - 1 - value, 1 - 2 * share - value)
                share = share - error / np.where(rising, 2 - slope, -2 - slope)
        return Leg(begin + np.clip(share, 0, 1) * width, ~rising)

    first = leg(1.0)
    return first, leg(-1.0) if unipolar else Leg(first.times, ~first.up)
