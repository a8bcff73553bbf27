"""Tracing: a formula called with expressions in place of numbers writes down what it computes.

Formulas are plain arithmetic on NumPy arrays, so NumPy's own protocols (`__array_ufunc__`, `__array_function__`) see
every operation. What cannot be written down (a search in a table, another library's function) raises `TraceError`,
and the figure stays with NumPy.
"""

import itertools
from collections.abc import Callable
from dataclasses import dataclass, field
from typing import Any

import numpy as np


class TraceError(TypeError):
    """The formula does something that cannot be written down as arithmetic."""


TRUTHS = ("lt", "le", "gt", "ge", "eq", "ne", "and", "or", "not", "isnan", "isfinite", "iterating", "trying")
REDUCTIONS = ("highest", "lowest", "highest_lasting")


class Expr:
    """One operation on other expressions: `op`, its arguments, and the number of a constant or parameter."""

    __slots__ = ("args", "number", "op")
    __array_priority__ = 1000.0

    def __init__(self, op: str, args: tuple["Expr", ...] = (), number: float = 0.0) -> None:
        self.op = op
        self.args = args
        self.number = number

    @property
    def truth(self) -> bool:
        """Whether it is a truth value and not a number."""
        return self.op in TRUTHS

    def __array__(self, *_: Any, **__: Any) -> Any:
        raise TraceError("an expression is not an array")

    def __bool__(self) -> bool:
        raise TraceError("an expression has no truth of its own: formulas use np.where")

    def __float__(self) -> float:
        raise TraceError("an expression is not a number")

    def __array_ufunc__(self, ufunc: np.ufunc, method: str, *inputs: Any, **options: Any) -> "Expr":
        op = _UFUNCS.get(ufunc)
        if op is None or method != "__call__" or options:
            raise TraceError(f"np.{ufunc.__name__} is not traced")
        return operation(op, *inputs)

    def __array_function__(self, function: Callable[..., Any], _types: Any, args: tuple[Any, ...], options: dict[str, Any]) -> "Expr":
        if function is np.where and len(args) == 3 and not options:
            return operation("select", *args)
        if function is np.clip and len(args) == 3 and not options:
            return operation("min", operation("max", args[0], args[1]), args[2])
        if function is np.round and len(args) == 1 and not options:
            return operation("rint", args[0])
        if function is np.interp and len(args) == 3 and not options:
            return _interpolated(*args)
        raise TraceError(f"np.{function.__name__} is not traced")

    def __add__(self, other: Any) -> "Expr":
        return operation("add", self, other)

    def __radd__(self, other: Any) -> "Expr":
        return operation("add", other, self)

    def __sub__(self, other: Any) -> "Expr":
        return operation("sub", self, other)

    def __rsub__(self, other: Any) -> "Expr":
        return operation("sub", other, self)

    def __mul__(self, other: Any) -> "Expr":
        return operation("mul", self, other)

    def __rmul__(self, other: Any) -> "Expr":
        return operation("mul", other, self)

    def __truediv__(self, other: Any) -> "Expr":
        return operation("div", self, other)

    def __rtruediv__(self, other: Any) -> "Expr":
        return operation("div", other, self)

    def __pow__(self, other: Any) -> "Expr":
        return operation("pow", self, other)

    def __rpow__(self, other: Any) -> "Expr":
        return operation("pow", other, self)

    def __neg__(self) -> "Expr":
        return operation("neg", self)

    def __abs__(self) -> "Expr":
        return operation("abs", self)

    def __lt__(self, other: Any) -> "Expr":
        return operation("lt", self, other)

    def __le__(self, other: Any) -> "Expr":
        return operation("le", self, other)

    def __gt__(self, other: Any) -> "Expr":
        return operation("gt", self, other)

    def __ge__(self, other: Any) -> "Expr":
        return operation("ge", self, other)

    def __and__(self, other: Any) -> "Expr":
        return operation("and", self, other)

    def __rand__(self, other: Any) -> "Expr":
        return operation("and", other, self)

    def __or__(self, other: Any) -> "Expr":
        return operation("or", self, other)

    def __ror__(self, other: Any) -> "Expr":
        return operation("or", other, self)

    def __invert__(self) -> "Expr":
        return operation("not", self)


_UFUNCS: dict[Any, str] = {
    np.add: "add",
    np.subtract: "sub",
    np.multiply: "mul",
    np.divide: "div",
    np.power: "pow",
    np.float_power: "pow",
    np.negative: "neg",
    np.absolute: "abs",
    np.sqrt: "sqrt",
    np.exp: "exp",
    np.log: "log",
    np.log10: "log10",
    np.sin: "sin",
    np.cos: "cos",
    np.tan: "tan",
    np.arctan: "atan",
    np.arctan2: "atan2",
    np.sinh: "sinh",
    np.cosh: "cosh",
    np.tanh: "tanh",
    np.arctanh: "atanh",
    np.ceil: "ceil",
    np.floor: "floor",
    np.rint: "rint",
    np.maximum: "max",
    np.minimum: "min",
    np.fmax: "fmax",
    np.fmin: "fmin",
    np.less: "lt",
    np.less_equal: "le",
    np.greater: "gt",
    np.greater_equal: "ge",
    np.equal: "eq",
    np.not_equal: "ne",
    np.logical_and: "and",
    np.bitwise_and: "and",
    np.logical_or: "or",
    np.bitwise_or: "or",
    np.logical_not: "not",
    np.invert: "not",
    np.isnan: "isnan",
    np.isfinite: "isfinite",
}


def operation(op: str, *args: Any) -> Expr:
    """The expression of an operation on expressions and plain numbers; both kinds may be mixed."""
    lifted = [lift(a) for a in args]
    if op in ("and", "or", "not"):
        lifted = [a if a.truth else Expr("ne", (a, constant(0.0))) for a in lifted]
    elif op == "select":
        if not lifted[0].truth:
            lifted[0] = Expr("ne", (lifted[0], constant(0.0)))
        lifted[1:] = [_number(a) for a in lifted[1:]]
    else:
        lifted = [_number(a) for a in lifted]
    return Expr(op, tuple(lifted))


def constant(number: float) -> Expr:
    """A number written in a formula."""
    return Expr("constant", (), float(number))


def lift(x: Any) -> Expr:
    """An expression for what stands in a formula: an expression, or one plain number."""
    if isinstance(x, Expr):
        return x
    if isinstance(x, bool | np.bool_ | int | float | np.integer | np.floating):
        return constant(float(x))
    if isinstance(x, np.ndarray) and x.size == 1 and x.ndim == 0:
        return constant(float(x))
    raise TraceError(f"{type(x).__name__} is not traced")


def _number(a: Expr) -> Expr:
    """A truth value counts as 1 or 0 in arithmetic."""
    return Expr("select", (a, constant(1.0), constant(0.0))) if a.truth else a


def _interpolated(x: Any, points: Any, levels: Any) -> Expr:
    """np.interp over a table of plain numbers: straight lines, level beyond both ends."""
    xs, ys = np.asarray(points, dtype=float).tolist(), np.asarray(levels, dtype=float).tolist()
    value: Any = ys[0]
    for (x0, y0), (x1, y1) in itertools.pairwise(zip(xs, ys, strict=True)):
        value = operation("select", operation("gt", x, x0), operation("add", operation("mul", operation("sub", x, x0), (y1 - y0) / (x1 - x0)), y0), value)
    return operation("select", operation("ge", x, xs[-1]), ys[-1], operation("select", operation("isnan", x), x, value))


@dataclass
class Tracing:
    """What a trace gathers beside the result: conditions under which a value is known, each with what it is where one does not hold."""

    conditions: list[tuple[Expr, int]] = field(default_factory=list)


_current: list[Tracing] = []


def condition(ok: Any, kind: int) -> None:
    """Note, while tracing, that the value is only known where `ok` holds; elsewhere it is of a `kind` (`numeric.UNKNOWN`, …)."""
    if isinstance(ok, Expr):
        _current[-1].conditions.append((ok if ok.truth else operation("ne", ok, 0.0), kind))
    elif not np.all(ok):
        raise TraceError("a formula that is never known is not traced")


@dataclass(frozen=True)
class Traced:
    """A formula written down: its result, and the conditions under which it is known, with what it is elsewhere."""

    result: Expr
    conditions: tuple[tuple[Expr, int], ...]


def trace(fn: Callable[..., Any], count: int) -> Traced:
    """Call `fn` with `count` expressions and return what it computes; raises TraceError where that cannot be said."""
    tracing = Tracing()
    _current.append(tracing)
    try:
        result = fn(*[Expr("parameter", (), float(k)) for k in range(count)])
    except TypeError as error:
        raise TraceError(str(error)) from error
    finally:
        _current.pop()
    return Traced(_number(lift(result)), tuple(tracing.conditions))
