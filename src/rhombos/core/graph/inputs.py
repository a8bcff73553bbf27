"""What a person decides, and what a solve decided."""

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.picked import PickState


@dataclass(frozen=True)
class PartChoice:
    """A pinned pick: this part, this many in parallel."""

    part: str
    quantity: int = 1


@dataclass(frozen=True)
class Pin:
    """A figure held at a value (one, or one per corner), or a pick held at a part, with the reason."""

    value: Any
    reason: str = ""


@dataclass(frozen=True)
class Inputs:
    """What a person decides: givens, choices and pins by `place.name`. An array (variants, 1) makes a sweep."""

    givens: Mapping[str, Any] = field(default_factory=dict)
    choices: Mapping[str, str] = field(default_factory=dict)
    pins: Mapping[str, Pin] = field(default_factory=dict)

    def with_given(self, key: str, value: Any) -> "Inputs":
        return Inputs({**self.givens, key: value}, self.choices, self.pins)

    def with_pin(self, key: str, value: Any, reason: str = "") -> "Inputs":
        return Inputs(self.givens, self.choices, {**self.pins, key: Pin(value, reason)})


@dataclass(frozen=True)
class Leaves:
    """What a solve is given beside the defaults, checked: choices, corners, givens, and what is pinned."""

    nodes: NDArray[np.intp]
    """What has a plain number, and,"""
    numbers: NDArray[np.float64]
    """in the same order, the number."""
    arrays: Mapping[int, NDArray[np.float64]]
    """By node what has several, corners last."""
    pinned: frozenset[int]

    @property
    def wide(self) -> frozenset[int]:
        """What differs from corner to corner."""
        return frozenset(i for i, value in self.arrays.items() if value.shape[-1] > 1)

    @property
    def variants(self) -> int | None:
        """How many variants there are, None for a single sheet."""
        return max((value.shape[0] for value in self.arrays.values() if value.ndim > 1), default=None)


@dataclass(frozen=True)
class Build:
    """Everything a sheet decided: decisions and published columns by node.

    `rest` is where the sheet's loops came to rest: a held solve at the same corners starts there.
    """

    values: Mapping[int, Any]
    picks: Mapping[int, PickState]
    rest: Mapping[int, Any] = field(default_factory=dict)
    laid: dict[object, NDArray[np.float64]] = field(default_factory=dict, compare=False, repr=False)
    """By layout what a single sheet's buffer begins with."""
