"""An output period cut where something turns: what each leg is told in every slot, and whether it is dead there."""

from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rhombos.core.modulation.sine_pwm import Leg

Array = NDArray[np.float64]
Truths = NDArray[np.bool_]
LEAST = 1e-12
"""Of a period: what is shorter is no slot."""
ALIKE = 1e-11
"""Of a period: slots whose lengths differ by less are as long as one another."""


@dataclass(frozen=True)
class Slots:
    """Slots of a period, in s: from `begins` on for `lengths`; by leg whether its upper switch is told to be on, and whether both are off."""

    begins: Array
    lengths: Array
    high: tuple[Truths, Truths]
    dead: tuple[Truths, Truths]

    @property
    def either_dead(self) -> Truths:
        """Where the current chooses what a leg does."""
        return self.dead[0] | self.dead[1]

    def half(self) -> "Slots | None":
        """The first half, where the second is its mirror image: the legs do what the other one did, or each the opposite of what it did."""
        count, rest = divmod(len(self.begins), 2)
        first, second = slice(0, count), slice(count, None)
        if rest or np.abs(self.lengths[first] - self.lengths[second]).max(initial=0.0) > ALIKE * self.lengths.sum():
            return None
        for one, other, turned in ((0, 1, False), (0, 0, True)):
            legs = ((one, other), (1 - one, 1 - other))
            dead = all((self.dead[a][first] == self.dead[b][second]).all() for a, b in legs)
            high = all(((self.high[a][first] ^ turned) == self.high[b][second])[~self.dead[a][first]].all() for a, b in legs)
            if dead and high:
                return Slots(self.begins[first], self.lengths[first], _halves(self.high, count), _halves(self.dead, count))
        return None


def _halves(legs: tuple[Truths, Truths], count: int) -> tuple[Truths, Truths]:
    return legs[0][:count], legs[1][:count]


def slots_of(legs: tuple[Leg, Leg], period: float, dead_time: float) -> Slots:
    """Cut a period at every edge and a dead time after it, and in its middle. A leg that is turned again within its dead time stays dead."""
    turns = np.concatenate([leg.times for leg in legs]) % period
    bounds = np.unique(np.concatenate([[0.0, period / 2], turns, (turns + dead_time) % period if dead_time > 0 else turns]))
    kept = np.diff(np.append(bounds, period)) > LEAST * period
    begins = bounds[kept]
    lengths = np.diff(np.append(begins, period))
    # As long as one another to the last digit, whatever the difference of two times leaves of it.
    lengths[np.abs(lengths - dead_time) < LEAST * period] = dead_time
    middle = begins + lengths / 2
    high, dead = zip(*(_told(leg, middle, period, dead_time) for leg in legs), strict=True)
    return Slots(begins, lengths, (high[0], high[1]), (dead[0], dead[1]))


def _told(leg: Leg, at: Array, period: float, dead_time: float) -> tuple[Truths, Truths]:
    last = np.searchsorted(leg.times, at, side="right") - 1
    since = at - leg.times[last] + np.where(last < 0, period, 0.0)
    return leg.up[last], since < dead_time
