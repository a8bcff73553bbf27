"""Where loops and first passes begin: starting values at the scale of the brief, and of the corner."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.wiring import Wiring

LEAST = 0.01
"""The least that a corner has of a usual size: without load something flows all the same."""


class Starts:
    """The starting values of some nodes, in the order of their numbers, grown with the sizes of a brief.

    A figure that has a number at every corner begins with the sizes of that corner, one without corners with their mean.
    """

    def __init__(self, wiring: Wiring, nodes: Sequence[int]) -> None:
        figures = [wiring.nodes[i].figure for i in nodes]
        self.nodes = np.array(nodes, dtype=np.intp)
        self.usual = np.array([float(figure.start or 0.0) for figure in figures])
        """What they are in the usual brief."""
        self._sizes = list(wiring.sizes.values())
        powers = [[float(figure.kind == "operation"), *(figure.grows.get(name, 0.0) for name in wiring.sizes)] for figure in figures]
        ways, self._way = np.unique(np.array(powers).reshape(len(nodes), 1 + len(self._sizes)), axis=0, return_inverse=True)
        self._at_corners, self._powers = ways[:, 0].astype(np.intp), ways[:, 1:]

    def places(self, nodes: Sequence[int]) -> NDArray[np.intp]:
        """Which of the starting values are those of `nodes`."""
        return np.searchsorted(self.nodes, nodes)

    def grown(self, value: Callable[[int], Any]) -> Values:
        """The starting values with the sizes as they stand (`value` of a node): (nodes, corners or 1), or (nodes, variants, corners or 1).

        A size that is not known, or nothing at all corners, counts as the usual one.
        """
        ratios = [_ratio(value(index), usual) for index, usual in self._sizes]
        shape = np.broadcast_shapes((1,), *(r.shape for r in ratios))
        table = np.ones((2, len(ratios), *shape))
        for k, ratio in enumerate(ratios):
            table[0, k] = np.add.reduce(ratio, axis=-1, keepdims=True) / ratio.shape[-1]
            table[1, k] = ratio
        more = [1] * len(shape)
        grown = np.multiply.reduce(table[self._at_corners] ** self._powers.reshape(*self._powers.shape, *more), axis=1)
        found: Values = self.usual.reshape(-1, *more) * grown[self._way]
        return found


def _ratio(value: Any, usual: float) -> Values:
    """A size over the usual one: (1,), (corners,), (variants, 1) or (variants, corners)."""
    if value is None:
        return np.ones(1)
    numbers = np.atleast_1d(np.asarray(value, dtype=float))
    known = np.isfinite(numbers) & (numbers > 0)
    ratio = np.where(known, np.maximum(numbers / usual, LEAST), LEAST)
    found: Values = np.where(np.logical_or.reduce(known, axis=-1, keepdims=True), ratio, 1.0)
    return found
