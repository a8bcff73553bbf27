"""Bringing a loop to rest: fixed-point passes, sped up by a secant step wherever the loop contracts.

Elements (corners, variants) converge on their own and freeze once converged. A loop whose gain is one or more
is never helped by the secant, which would land on an unstable point: it is left to run away and reported.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.numeric import Values

TOLERANCE = 1e-9
MOST_PASSES = 50
STEEPEST_GAIN = 0.9

Step = tuple[Callable[..., Any], tuple[int, ...], int]
Failure = tuple[NDArray[np.bool_], Values, int]


def iterate(values: list[Any], steps: Sequence[Step], tears: Sequence[int]) -> tuple[dict[int, Failure], int]:
    """Iterate `steps` on `values` until every tear rests at 1e-9 relative, or 50 passes are spent.

    Returns the elements of each tear that did not settle with their residual, and the passes used.
    """
    previous: dict[int, tuple[Values, Values]] = {}
    residual: dict[int, Values] = {}
    passes = 0
    while passes < MOST_PASSES:
        passes += 1
        guess = {tear: values[tear] for tear in tears}
        for fn, args, index in steps:
            out = fn(*[values[a] for a in args])
            values[index] = out if type(out) is np.ndarray and out.ndim else np.atleast_1d(np.asarray(out, dtype=float))
        done = True
        for tear in tears:
            x, g = guess[tear], values[tear]
            gap = np.abs(g - x)
            open_ = ~(gap <= TOLERANCE * np.abs(g))
            residual[tear] = gap / np.maximum(np.abs(g), 1e-300)
            if open_.any():
                done = False
                values[tear] = np.where(open_, _next(x, g, previous.get(tear)), x) if passes > 1 else g
                previous[tear] = (x, g)
            else:
                values[tear] = x if x.shape == g.shape else g
        if done:
            return {}, passes
    failed = {tear: (~(residual[tear] <= TOLERANCE), residual[tear], passes) for tear in tears}
    return {tear: failure for tear, failure in failed.items() if failure[0].any()}, passes


def _next(x: Values, g: Values, before: tuple[Values, Values] | None) -> Values:
    """The next trial: the secant's crossing where the measured gain contracts, else the plain image."""
    if before is None:
        return g
    x0, g0 = before
    step = x - x0
    with np.errstate(all="ignore"):
        gain = (g - g0) / step
        better = (g - gain * x) / (1 - gain)
    return np.where(np.isfinite(better) & (np.abs(gain) < STEEPEST_GAIN), better, g)
