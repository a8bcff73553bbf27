"""Where loops and first passes begin: starting values at the scale of the brief, and of the corner."""

import math
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
        self._usual_sizes = np.array([usual for _, usual in self._sizes])
        powers = [[float(figure.kind == "operation"), *(figure.grows.get(name, 0.0) for name in wiring.sizes)] for figure in figures]
        ways, self._way = np.unique(np.array(powers).reshape(len(nodes), 1 + len(self._sizes)), axis=0, return_inverse=True)
        self._at_corners, self._powers, self._each = ways[:, 0].astype(np.intp), ways[:, 1:], np.arange(len(ways))

    def places(self, nodes: Sequence[int]) -> NDArray[np.intp]:
        """Which of the starting values are those of `nodes`."""
        return np.searchsorted(self.nodes, nodes)

    def grown(self, value: Callable[[int], Any]) -> Values:
        """The starting values with the sizes as they stand (`value` of a node): (nodes, corners or 1), or (nodes, variants, corners or 1).

        A size that is not known, or nothing at all corners, counts as the usual one.
        """
        values = [value(index) for index, _ in self._sizes]
        shape = np.broadcast_shapes((1,), *(np.shape(v) for v in values if v is not None))
        more = [1] * len(shape)
        sizes = np.empty((len(values), *shape))
        for k, v in enumerate(values):
            sizes[k] = np.nan if v is None else v
        known = (sizes > 0) & (sizes < np.inf)
        ratios = np.where(known, np.maximum(sizes / self._usual_sizes.reshape(-1, *more), LEAST), LEAST)
        ratios[~np.logical_or.reduce(known, axis=-1)] = 1.0
        # Of the mean of the corners, and of each.
        table = np.empty((2, *ratios.shape))
        table[0], table[1] = np.add.reduce(ratios, axis=-1, keepdims=True) / shape[-1], ratios
        grown = np.exp(self._powers @ np.log(table).reshape(2, len(values), math.prod(shape)))[self._at_corners, self._each]
        found: Values = self.usual.reshape(-1, *more) * grown.reshape(-1, *shape)[self._way]
        return found
