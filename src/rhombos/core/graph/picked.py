"""What a pick decided, and why."""

from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.numeric import Values


@dataclass(frozen=True)
class Reason:
    """The need that decided about a candidate, with its numbers."""

    name: str
    capability: float
    demand: float
    unit: str
    margin: float


@dataclass
class PickState:
    """What a pick decided: candidate index per variant, and every candidate's margin for each need."""

    chosen: NDArray[np.intp]
    fits: NDArray[np.bool_]
    rejected: NDArray[np.bool_]
    needs: list[Any] = field(default_factory=list)
    margins: list[Values] = field(default_factory=list)
