"""Formulas that are declared alike under several names."""

import inspect
from collections.abc import Callable
from typing import Any


def with_names(fn: Callable[..., Any], *names: str, **collectors: Any) -> Callable[..., Any]:
    """A formula whose parameters carry the names that wire it: plain names first, then collectors by keyword."""

    def formula(*values: Any) -> Any:
        return fn(*values)

    kind = inspect.Parameter.POSITIONAL_OR_KEYWORD
    parameters = [inspect.Parameter(n, kind) for n in names] + [inspect.Parameter(n, kind, default=c) for n, c in collectors.items()]
    formula.__signature__ = inspect.Signature(parameters)  # type: ignore[attr-defined]
    formula.__name__, formula.__doc__ = fn.__name__, fn.__doc__
    return formula
