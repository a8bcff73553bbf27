"""What a pick decided, and why."""

from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

FITS = 1 - 1e-9
"""The margin from which a need is met."""
CLEARLY = 0.95
"""What misses a need by more than this on the first judged pass is out; closer ones are heard again on the next."""


def ratio(capability: Any, demand: Any) -> Any:
    """Capability over demand: without demand unbounded, unknown where the demand is. Arrays, numbers or expressions."""
    return np.where(demand > 0, capability / demand, np.where(np.isnan(demand), np.nan, np.inf))


@dataclass(frozen=True)
class Reason:
    """The need that decided about a candidate, with its numbers: `capability` over `demand` is to reach `level`.

    `margin` is what it reaches over what it is to reach.
    """

    name: str
    capability: float
    demand: float
    level: float
    unit: str
    margin: float


@dataclass(frozen=True)
class PickState:
    """What a pick decided: the candidate per variant, whether it meets every need, which were rejected, and its course."""

    chosen: NDArray[np.intp]
    fits: NDArray[np.bool_]
    rejected: NDArray[np.bool_]
    course: NDArray[np.int64]
    """Which way along the prices the choice went last (±1), times one more than the times it has turned."""

    def forgotten(self) -> "PickState":
        """The same choice, with nothing remembered of the way to it."""
        return PickState(self.chosen, self.fits, np.zeros_like(self.rejected), np.zeros_like(self.course))

    def where(self, these: NDArray[np.bool_], other: "PickState") -> "PickState":
        """A state that is this one for `these` variants (of a single sheet one truth), another one for the rest."""
        mask = these[0] if these.size == 1 else these
        pairs = ((self.chosen, other.chosen), (self.fits, other.fits), (self.rejected, other.rejected), (self.course, other.course))
        return PickState(*(np.where(mask, a, b) for a, b in pairs))

    def among(self, places: NDArray[np.intp]) -> "PickState":
        """The same, of the variants at `places` of their last axis; what is one for all stays so."""
        return PickState(*(a[..., places] if many else a for a, many in self._parts()))

    def put_in(self, whole: "PickState | None", places: NDArray[np.intp], variants: int) -> "PickState":
        """What is decided of `variants` in all, where those at `places` are as here; `whole` is what is known of the others."""
        out = []
        for k, (a, many) in enumerate(self._parts()):
            own = a if many else a[..., None]
            shape = (*own.shape[:-1], variants)
            of_all = np.zeros(shape, dtype=a.dtype) if whole is None else np.broadcast_to(whole._parts()[k][0], shape).copy()
            of_all[..., places] = own
            out.append(of_all)
        return PickState(*out)

    def _parts(self) -> list[tuple[NDArray[Any], bool]]:
        """The four, and whether each has one for every variant."""
        axes = (self.chosen, 1), (self.fits, 1), (self.rejected, 2), (self.course, 1)
        return [(np.asarray(a), np.ndim(a) >= count) for a, count in axes]
