"""Where a solve has come to rest: what it can go back to, and what it would change."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.picked import PickState


@dataclass(frozen=True)
class Kept:
    """The numbers of a sheet as they were, and of its picks what was remembered: first of all the candidate of every variant."""

    buffer: NDArray[np.float64]
    picked: tuple[NDArray[Any], ...]


def _none() -> NDArray[np.int64]:
    return np.zeros(1, dtype=np.int64)


@dataclass
class Rest:
    """A state that no pass changed any more, or the last one there was time for: then `alternating` are the nodes that still changed.

    Of every variant `held` is the number of decisions that keep to their safe side only because they turned once, `wants`
    that of the decisions and picks which would be others if nothing were remembered.
    """

    members: NDArray[np.intp]
    """The variants that have come to rest here."""
    numbers: Kept | None
    """None as long as all still stands as it came to rest."""
    picks: Mapping[int, PickState]
    alternating: tuple[int, ...]
    held: NDArray[np.int64] = field(default_factory=_none)
    wants: NDArray[np.int64] = field(default_factory=_none)
