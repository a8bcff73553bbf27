"""Operating corners: the conditions at which a sheet is solved, all at once."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

LOWEST, NOMINAL, HIGHEST = 0.0, 1.0, 2.0


@dataclass(frozen=True)
class Corner:
    """One condition.

    `level` is the source level (0 lowest, 1 nominal, 2 highest; between them interpolated), `load` the fraction
    of the brief's full load, `surge` whether a start is drawn instead for its seconds: the one with the highest VA,
    or with `by_watts` the one with the most watts.
    """

    id: str
    title: str
    level: float
    load: float
    surge: bool = False
    by_watts: bool = False


@dataclass(frozen=True)
class CornerSet:
    """An ordered set of corners; the last axis of every array follows it."""

    corners: tuple[Corner, ...]

    @cached_property
    def ids(self) -> tuple[str, ...]:
        return tuple(c.id for c in self.corners)

    @cached_property
    def lasting(self) -> NDArray[np.bool_]:
        """True at the corners that last; a set of surges only counts as lasting, so that reductions have a value."""
        mask = np.array([not c.surge for c in self.corners])
        return mask if mask.any() else ~mask

    @cached_property
    def before_surge(self) -> NDArray[np.intp]:
        """For each corner the index of the state it starts from: full load of the same level for a surge, else itself."""
        index = []
        for i, corner in enumerate(self.corners):
            full = [j for j, c in enumerate(self.corners) if not c.surge and c.level == corner.level and c.load == 1.0]
            index.append(full[0] if corner.surge and full else i)
        return np.array(index, dtype=np.intp)

    @cached_property
    def level(self) -> NDArray[np.float64]:
        return np.array([c.level for c in self.corners])

    @cached_property
    def load(self) -> NDArray[np.float64]:
        return np.array([c.load for c in self.corners])

    @cached_property
    def surge(self) -> NDArray[np.float64]:
        return np.array([1.0 if c.surge else 0.0 for c in self.corners])

    @cached_property
    def by_watts(self) -> NDArray[np.float64]:
        return np.array([1.0 if c.by_watts else 0.0 for c in self.corners])


STANDARD = CornerSet(
    (
        Corner("lowest_full", "lowest full", LOWEST, 1.0),
        Corner("lowest_surge", "lowest surge, VA", LOWEST, 1.0, surge=True),
        Corner("nominal_full", "nominal full", NOMINAL, 1.0),
        Corner("nominal_half", "nominal half", NOMINAL, 0.5),
        Corner("nominal_tenth", "nominal tenth", NOMINAL, 0.1),
        Corner("nominal_none", "nominal none", NOMINAL, 0.0),
        Corner("highest_full", "highest full", HIGHEST, 1.0),
        Corner("highest_surge", "highest surge, VA", HIGHEST, 1.0, surge=True),
        Corner("highest_none", "highest none", HIGHEST, 0.0),
        Corner("lowest_surge_watts", "lowest surge, W", LOWEST, 1.0, surge=True, by_watts=True),
        Corner("highest_surge_watts", "highest surge, W", HIGHEST, 1.0, surge=True, by_watts=True),
    )
)
