"""Where loops and first passes begin: starting values at the scale of the brief."""

from collections.abc import Callable, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.wiring import Wiring


class Starts:
    """The starting values of some nodes, in the order of their numbers, grown with the sizes of a brief."""

    def __init__(self, wiring: Wiring, nodes: Sequence[int]) -> None:
        figures = [wiring.nodes[i].figure for i in nodes]
        self.nodes = np.array(nodes, dtype=np.intp)
        self.usual = np.array([float(figure.start or 0.0) for figure in figures])
        """What they are in the usual brief."""
        self._sizes = list(wiring.sizes.values())
        self._powers = np.array([[figure.grows.get(name, 0.0) for name in wiring.sizes] for figure in figures]).reshape(len(nodes), len(self._sizes))

    def places(self, nodes: Sequence[int]) -> NDArray[np.intp]:
        """Which of the starting values are those of `nodes`."""
        return np.searchsorted(self.nodes, nodes)

    def grown(self, value: Callable[[int], Any]) -> Values:
        """The starting values with the sizes as they stand (`value` of a node): (nodes,), or (nodes, variants, 1).

        A size that is not known, or nothing, counts as the usual one.
        """
        ratios = [_ratio(value(index), usual) for index, usual in self._sizes]
        if not ratios:
            return self.usual
        of_many = max(np.ndim(r) for r in ratios)
        table = np.array(np.broadcast_arrays(*ratios))
        powers, usual = (a.reshape(*a.shape, *[1] * of_many) for a in (self._powers, self.usual))
        found: Values = usual * np.prod(table**powers, axis=1)
        return found


def _ratio(value: Any, usual: float) -> Any:
    """A size over the usual one, in the mean of its corners: a number, or (variants, 1)."""
    if value is None:
        return 1.0
    numbers = np.asarray(value, dtype=float)
    mean = numbers.mean(axis=-1, keepdims=numbers.ndim > 1) if numbers.ndim else numbers
    return np.where(np.isfinite(mean) & (mean > 0), mean / usual, 1.0)
