"""What a pick decided, and why."""

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property
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
    """What a pick decided: the candidate per variant, whether it meets every need, and which were rejected.

    `judge` works out every need with its margins; few ask for them, so it is called when the first does.
    """

    chosen: NDArray[np.intp]
    fits: NDArray[np.bool_]
    rejected: NDArray[np.bool_]
    judge: Callable[[], tuple[list[Any], list[Values]]]

    @cached_property
    def judged(self) -> tuple[list[Any], list[Values]]:
        """Needs, and for each the margins of all candidates."""
        return self.judge()

    @property
    def needs(self) -> list[Any]:
        return self.judged[0]

    @property
    def margins(self) -> list[Values]:
        return self.judged[1]
