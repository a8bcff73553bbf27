"""Operating corners: the conditions at which a sheet is solved, all at once.

A corner is a point on declared axes. What else is known of it (whether it lasts, what went before it) follows from
the axes that describe a start; a line-up with other axes (a mode, a phase) declares them and touches nothing else.
"""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

LOWEST, NOMINAL, HIGHEST = 0.0, 1.0, 2.0


@dataclass(frozen=True)
class Axis:
    """One condition that corners differ in; formulas read it by its name.

    `usual` is where a corner stands that does not name it. An axis `of_start` describes a passing event: a corner
    that leaves its usual value there does not last.
    """

    name: str
    symbol: str
    title: str
    sentence: str
    usual: float
    of_start: bool = False


SOURCE_LEVEL = Axis("source_level", r"\lambda", "Source level", "Source level of the corner: 0 lowest, 1 nominal, 2 highest.", NOMINAL)
LOAD = Axis("load_fraction", "x", "Load fraction", "Load of the corner as a fraction of the brief's full load.", 1.0)
SURGE = Axis("surge", r"\sigma", "Surge", "1 at a surge corner, else 0.", 0.0, of_start=True)
SURGE_BY_WATTS = Axis(
    "surge_by_watts",
    r"\sigma_W",
    "Surge by watts",
    "1 where the start with the most watts decides, 0 where the one with the highest VA does.",
    0.0,
    of_start=True,
)
AXES = (SOURCE_LEVEL, LOAD, SURGE, SURGE_BY_WATTS)


@dataclass(frozen=True)
class Corner:
    """One condition: where it stands on the axes that it names; on the others it stands where is usual."""

    id: str
    title: str
    at: Mapping[str, float]


def corner(id: str, title: str, source_level: float = NOMINAL, load_fraction: float = 1.0, *, surge: bool = False, by_watts: bool = False) -> Corner:
    """A corner by source level and load; `surge` stands for the start with the highest VA, or with `by_watts` for the one with the most watts."""
    return Corner(id, title, {"source_level": source_level, "load_fraction": load_fraction, "surge": float(surge), "surge_by_watts": float(by_watts)})


@dataclass(frozen=True)
class CornerSet:
    """An ordered set of corners on some axes; the last axis of every array follows it. `first` is the corner looked at first."""

    corners: tuple[Corner, ...]
    axes: tuple[Axis, ...] = AXES
    first: str = ""

    @cached_property
    def ids(self) -> tuple[str, ...]:
        return tuple(c.id for c in self.corners)

    def along(self, name: str) -> NDArray[np.float64]:
        """Where the corners stand on an axis."""
        return self._along[name]

    @cached_property
    def _along(self) -> dict[str, NDArray[np.float64]]:
        return {a.name: np.array([c.at.get(a.name, a.usual) for c in self.corners]) for a in self.axes}

    @cached_property
    def lasts(self) -> NDArray[np.bool_]:
        """True at the corners that last."""
        passing = [self.along(a.name) != a.usual for a in self.axes if a.of_start]
        return ~np.any(passing, axis=0) if passing else np.ones(len(self.corners), dtype=bool)

    @cached_property
    def lasting(self) -> NDArray[np.bool_]:
        """True at the corners that last; a set of passing corners only counts as lasting, so that reductions have a value."""
        return self.lasts if self.lasts.any() else ~self.lasts

    @cached_property
    def before(self) -> NDArray[np.intp]:
        """For each corner the index of the state it starts from: the lasting one that stands where it does on every other axis, else itself."""
        place = np.array([self.along(a.name) for a in self.axes if not a.of_start]).T
        index = []
        for i in range(len(self.corners)):
            same = np.flatnonzero(self.lasts & (place == place[i]).all(axis=1))
            index.append(int(same[0]) if same.size else i)
        return np.array(index, dtype=np.intp)

    @cached_property
    def nearest(self) -> NDArray[np.intp]:
        """For each corner all of them, the nearest first: by the sum over the axes of the distance, as a share of what the corners span there."""
        spans = [(self.along(a.name), float(np.ptp(self.along(a.name))) or 1.0) for a in self.axes]
        apart = sum(np.abs(at[:, None] - at) / span for at, span in spans)
        order: NDArray[np.intp] = np.argsort(apart, axis=-1, kind="stable")
        return order


STANDARD = CornerSet(
    (
        corner("lowest_full", "lowest full", LOWEST),
        corner("lowest_surge", "lowest surge, VA", LOWEST, surge=True),
        corner("nominal_full", "nominal full"),
        corner("nominal_half", "nominal half", load_fraction=0.5),
        corner("nominal_tenth", "nominal tenth", load_fraction=0.1),
        corner("nominal_none", "nominal none", load_fraction=0.0),
        corner("highest_full", "highest full", HIGHEST),
        corner("highest_surge", "highest surge, VA", HIGHEST, surge=True),
        corner("highest_none", "highest none", HIGHEST, 0.0),
        corner("lowest_surge_watts", "lowest surge, W", LOWEST, surge=True, by_watts=True),
        corner("highest_surge_watts", "highest surge, W", HIGHEST, surge=True, by_watts=True),
    ),
    first="nominal_full",
)
"""The corners of a line-up fed from a battery: source level by load, and the worst starts by VA and by watts."""
