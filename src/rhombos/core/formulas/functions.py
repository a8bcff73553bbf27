"""Functions of physics that formulas ask for so often that the tape has each as one operation."""

from collections.abc import Callable
from functools import wraps
from inspect import signature
from typing import Any

import numpy as np

from rhombos.core.formulas.expression import Expr, operation

FUNCTIONS: dict[str, tuple[Callable[..., Any], int]] = {}
"""By name: the formula, and how many numbers it is of. The kernels are written from the formula itself."""


def one_operation(fn: Callable[..., Any]) -> Callable[..., Any]:
    """The formula as it is for numbers; with expressions one operation by its name."""
    FUNCTIONS[fn.__name__] = fn, len(signature(fn).parameters)

    @wraps(fn)
    def asked(*args: Any) -> Any:
        return operation(fn.__name__, *args) if any(isinstance(a, Expr) for a in args) else fn(*args)

    return asked


@one_operation
def dowell(xi: Any, layers: Any) -> Any:
    """Resistance factor F of `layers` layers whose equivalent thickness is `xi` skin depths [Dow].

    F = ξ·[(sinh 2ξ + sin 2ξ)/(cosh 2ξ − cos 2ξ) + (2(m² − 1)/3)·(sinh ξ − sin ξ)/(cosh ξ + cos ξ)], 1 for ξ → 0.
    """
    x, m = np.minimum(getattr(xi, "magnitude", xi), 300.0), getattr(layers, "magnitude", layers)
    # From one exponential: a thin layer's last digits count for nothing beside its 1.
    e, s, c = np.exp(x), np.sin(x), np.cos(x)
    sh, ch = (e - 1 / e) / 2, (e + 1 / e) / 2
    # With double angles: sinh 2ξ = 2·sh·ch, cosh 2ξ − cos 2ξ = 2·(sh² + s²).
    return x * ((sh * ch + s * c) / (sh * sh + s * s) + 2 * (m * m - 1) / 3 * (sh - s) / (ch + c))
