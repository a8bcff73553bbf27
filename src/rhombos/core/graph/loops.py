"""Bringing a loop to rest: fixed-point passes with Anderson's mixing over the last three.

Elements (corners, variants) settle on their own and freeze once settled. An element whose residual does not shrink
is never helped: mixing could land on an unstable point. It is left to run away, and that is the verdict.
"""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values

TOLERANCE = 1e-9
MOST_PASSES = 50

Failure = tuple[NDArray[Any], Values, int]


def iterate(evaluate: Callable[[], None], tears: "Tears", tolerance: float = TOLERANCE) -> tuple[NDArray[np.bool_] | None, Values, int]:
    """Evaluate a loop until its starting values, `tears`, rest at `tolerance`, relative.

    Returns the elements (blocks, corners, lanes) that did not settle in 50 passes, or stand still at what is no number, or None, with the residual
    (blocks, tears, corners, lanes) and the passes used. In the last pass every node is computed from tears that rest,
    so its values stand.
    """
    history: list[tuple[Values, Values]] = []
    norms: list[Values] = []
    guess = tears.read()
    for passes in range(1, MOST_PASSES + 1):
        evaluate()
        image = tears.read()
        size = np.abs(image)
        gap = np.abs(image - guess)
        settled = gap <= tolerance * size
        if settled.all() and size.max() < np.inf:
            return None, gap, passes
        open_: NDArray[np.bool_] = np.logical_not(settled.all(axis=1) & np.isfinite(size).all(axis=1))
        if passes == MOST_PASSES or not (~settled & (image != guess) & ~(np.isnan(image) & np.isnan(guess))).any():
            break
        change = (image - guess) / (size + 1e-300)
        norms.append(np.sqrt(_dot(change, change)))
        history.append((image, change))
        guess = np.where(open_[:, None], _mix(history[-3:], norms[-2:]), guess) if passes > 1 else image
        tears.write(guess)
    return open_, gap / (size + 1e-300), passes


class Tears:
    """A loop's starting values in a sheet's buffer (blocks, vectors, lanes): `rows` is (tears, vectors of corners)."""

    def __init__(self, buffer: Values, rows: NDArray[np.intp]) -> None:
        self._all = buffer
        self._rows = rows.reshape(-1)
        self._shape = (buffer.shape[0], *rows.shape, buffer.shape[2])

    def read(self) -> Values:
        """(blocks, tears, corners, lanes), a copy."""
        return self._all[:, self._rows, :].reshape(self._shape)

    def write(self, values: Values) -> None:
        """Put back what `read` gave, moved."""
        self._all[:, self._rows, :] = values.reshape(self._shape[0], -1, self._shape[3])


def _dot(a: Values, b: Values) -> Values:
    """The product summed over the tears, per element."""
    total: Values = np.add.reduce(a * b, axis=1)
    return total


def _mix(history: Sequence[tuple[Values, Values]], norms: Sequence[Values]) -> Values:
    """The combination of the last images whose combined change is least, per element; plain where it does not help."""
    image, change = history[-1]
    if len(history) < 2:
        return image
    image_1, change_1 = history[-2]
    d1 = change - change_1
    a11, b1 = _dot(d1, d1), _dot(d1, change)
    if len(history) < 3:
        mixed = image - (b1 / a11)[:, None] * (image - image_1)
    else:
        image_2, change_2 = history[-3]
        d2 = change_1 - change_2
        a12, a22, b2 = _dot(d1, d2), _dot(d2, d2), _dot(d2, change)
        determinant = a11 * a22 - a12 * a12
        well = determinant > 1e-10 * a11 * a22
        g1 = np.where(well, (b1 * a22 - b2 * a12) / determinant, b1 / a11)
        g2 = np.where(well, (a11 * b2 - a12 * b1) / determinant, 0.0)
        mixed = image - g1[:, None] * (image - image_1) - g2[:, None] * (image_1 - image_2)
    helps = (norms[-1] < norms[-2])[:, None]
    return np.where(helps & np.isfinite(mixed) & (mixed * image > 0), mixed, image)


def from_nearest(value: Values, nearest: NDArray[np.intp], otherwise: float | Values) -> Values:
    """Where a value is not a number, that of the nearest corner that has one (`nearest`: for each corner all of them, nearest first), else `otherwise`."""
    known = np.isfinite(value)
    if known.all():
        return value
    if value.shape[-1] != len(nearest):
        return np.where(known, value, otherwise)
    everywhere: NDArray[np.bool_] = np.logical_and.reduce(known, axis=0)
    if value.ndim == 2 and everywhere.any() and (everywhere | ~np.logical_or.reduce(known, axis=0)).all():
        # Where all are known at the same corners one place tells for all.
        return value[:, nearest[np.arange(len(nearest)), everywhere[nearest].argmax(axis=-1)]]
    first = np.argmax(known[..., nearest], axis=-1)
    taken = np.take_along_axis(value, nearest[np.arange(len(nearest)), first], axis=-1)
    return np.where(known, value, np.where(np.isfinite(taken), taken, otherwise))
