"""Where loops and first passes begin: starting values at the scale of the brief."""

from collections.abc import Callable, Iterable
from typing import Any

import numpy as np

from rhombos.core.graph.wiring import Wiring


def grown(wiring: Wiring, value: Callable[[int], Any], nodes: Iterable[int]) -> dict[int, Any]:
    """The starting values of nodes, grown with the sizes of the brief as they stand (`value` of a node): each a number, or (variants, 1).

    A size that is not known, or nothing, counts as the usual one.
    """
    ratios = {name: _ratio(value(index), usual) for name, (index, usual) in wiring.sizes.items()}
    found = {}
    for i in nodes:
        figure = wiring.nodes[i].figure
        start: Any = float(figure.start or 0.0)
        for name, power in figure.grows.items():
            start = start * ratios.get(name, 1.0) ** power
        found[i] = start
    return found


def _ratio(value: Any, usual: float) -> Any:
    """A size over the usual one, in the mean of its corners: a number, or (variants, 1)."""
    if value is None:
        return 1.0
    numbers = np.asarray(value, dtype=float)
    mean = numbers.mean(axis=-1, keepdims=numbers.ndim > 1) if numbers.ndim else numbers
    ratio = np.where(np.isfinite(mean) & (mean > 0), mean / usual, 1.0)
    return ratio if ratio.ndim else float(ratio)
