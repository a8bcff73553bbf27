"""Bringing a loop to rest: fixed-point passes with Anderson's mixing over the last three.

Elements (corners, variants) settle on their own and freeze once settled. An element whose residual does not shrink
is never helped: mixing could land on an unstable point. It is left to run away, and that is the verdict.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.numeric import Values, context

TOLERANCE = 1e-9
MOST_PASSES = 50

Step = tuple[Callable[..., Any], tuple[int, ...], int]
Failure = tuple[NDArray[np.bool_], Values, int]


def iterate(values: list[Any], steps: Sequence[Step], tears: Sequence[int], tolerance: float = TOLERANCE) -> tuple[dict[int, Failure], int]:
    """Iterate `steps` on `values` until every tear rests at `tolerance`, relative, or 50 passes are spent.

    Returns the elements of each tear that did not settle with their residual, and the passes used. In the last pass
    every node is computed from tears that rest, so its values stand; `context.doubtful` says whether one of them
    would call a corner unknown.
    """
    history: list[tuple[Values, Values]] = []
    norms: list[Values] = []
    for passes in range(1, MOST_PASSES + 1):
        before = [values[tear] for tear in tears]
        context.doubtful = False
        for fn, args, index in steps:
            out = fn(*[values[a] for a in args])
            values[index] = out if type(out) is np.ndarray and out.ndim else np.atleast_1d(np.asarray(out, dtype=float))
        image = _stack([values[tear] for tear in tears])
        guess = _stack(before, image.shape[1:])
        size = np.abs(image)
        gap = np.abs(image - guess)
        open_ = ~((gap <= tolerance * size).all(axis=0) & np.isfinite(size).all(axis=0))
        if not open_.any():
            for k, tear in enumerate(tears):
                values[tear] = image[k]
            return {}, passes
        change = (image - guess) / (size + 1e-300)
        norms.append(np.sqrt(np.sum(change * change, axis=0)))
        history.append((image, change))
        mixed = _mix(history[-3:], norms[-2:])
        for k, tear in enumerate(tears):
            values[tear] = np.where(open_, mixed[k], guess[k]) if passes > 1 else image[k]
    residual = gap / (size + 1e-300)
    failed = {tear: (np.broadcast_to(open_, residual[k].shape), residual[k], MOST_PASSES) for k, tear in enumerate(tears)}
    return {tear: failure for tear, failure in failed.items() if failure[0].any()}, MOST_PASSES


def _stack(arrays: Sequence[Values], shape: tuple[int, ...] | None = None) -> Values:
    shape = shape or np.broadcast_shapes(*(np.shape(a) for a in arrays))
    if all(np.shape(a) == shape for a in arrays):
        return np.array(arrays)
    return np.array([np.broadcast_to(a, shape) for a in arrays])


def _mix(history: Sequence[tuple[Values, Values]], norms: Sequence[Values]) -> Values:
    """The combination of the last images whose combined change is least, per element; plain where it does not help."""
    image, change = history[-1]
    if len(history) < 2:
        return image
    image_1, change_1 = history[-2]
    d1 = change - change_1
    with np.errstate(all="ignore"):
        a11 = np.sum(d1 * d1, axis=0)
        b1 = np.sum(d1 * change, axis=0)
        if len(history) < 3:
            mixed = image - (b1 / a11) * (image - image_1)
        else:
            image_2, change_2 = history[-3]
            d2 = change_1 - change_2
            a12, a22, b2 = np.sum(d1 * d2, axis=0), np.sum(d2 * d2, axis=0), np.sum(d2 * change, axis=0)
            determinant = a11 * a22 - a12 * a12
            well = determinant > 1e-10 * a11 * a22
            g1 = np.where(well, (b1 * a22 - b2 * a12) / determinant, b1 / a11)
            g2 = np.where(well, (a11 * b2 - a12 * b1) / determinant, 0.0)
            mixed = image - g1 * (image - image_1) - g2 * (image_1 - image_2)
        helps = norms[-1] < norms[-2]
    return np.where(helps & np.isfinite(mixed) & (mixed * image > 0), mixed, image)
