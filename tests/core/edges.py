"""The bridge's voltage on a stiff link with ideal edges, and its harmonics in closed form: what the scope's period is held against."""

from dataclasses import dataclass

import numpy as np

from rhombos.core.modulation.sine_pwm import Array, sine_legs


@dataclass(frozen=True)
class Edges:
    """One period of a stepped voltage: `times` (s, ascending, within the period), the level after each, and the level at 0."""

    period: float
    times: Array
    levels: Array
    start: float

    @property
    def steps(self) -> Array:
        """The step at each edge, in V."""
        return np.diff(np.concatenate([[self.start], self.levels]))

    def harmonics(self, orders: Array) -> Array:
        """Peak amplitude of the harmonics of the output frequency, in closed form from the edges, in V."""
        angle = np.exp(-2j * np.pi * np.outer(orders, self.times) / self.period)
        coefficients = (angle @ self.steps) / (2j * np.pi * orders)
        amplitudes: Array = 2 * np.abs(coefficients)
        return amplitudes


def sine_pwm(link: float, index: float, frequency: float, carrier: float, *, unipolar: bool, natural: bool) -> Edges:
    """Edges of the bridge voltage over one output period on a stiff link of so many volts, without dead time (see `sine_legs`)."""
    legs = sine_legs(index, frequency, carrier, unipolar=unipolar, natural=natural)
    if not unipolar:
        # Leg A high and B low, then the reverse: the bridge voltage swings by twice the link.
        return Edges(1 / frequency, legs[0].times, np.where(legs[0].up, link, -link), link)
    every = np.concatenate([leg.times for leg in legs])
    step = np.concatenate([np.where(leg.up, link, -link) * sign for leg, sign in zip(legs, (1, -1), strict=True)])
    order = np.argsort(every, kind="stable")
    levels = np.cumsum(step[order])
    return Edges(1 / frequency, every[order], levels, 0.0)
