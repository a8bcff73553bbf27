"""What formulas may use beside plain NumPy: reductions over the corners, rounding, and saying why a value is unknown.

Every array's last axis is the corner (length 1 or all corners); leading axes are variants or candidates.
NaN marks a value that is not known at a corner; reductions skip it.
"""

import itertools
import math
import threading
from collections.abc import Callable, Iterable, Iterator, Sequence
from contextlib import contextmanager
from functools import lru_cache
from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.expression import Expr, condition, operation

if TYPE_CHECKING:
    from rhombos.core.graph.corners import CornerSet

Values = NDArray[np.float64]

UNKNOWN = 2
DOES_NOT_APPLY = 1


class Cause:
    """Why a value is missing: the elements concerned, a sentence, and the numbers that stand in it."""

    __slots__ = ("kind", "numbers", "sentence", "where")

    def __init__(self, kind: int, where: NDArray[np.bool_], sentence: str, numbers: dict[str, Any]) -> None:
        self.kind = kind
        self.where = where
        self.sentence = sentence
        self.numbers = numbers

    def beyond(self, masks: Iterable[NDArray[np.int8]]) -> "Cause":
        """The same without the elements that were unknown before: what is said of those is no cause."""
        where = np.atleast_1d(self.where)
        for mask in masks:
            before = mask > 0
            where = where & ~(before.all(axis=-1, keepdims=True) if before.shape[-1] > where.shape[-1] else before)
        return Cause(self.kind, where, self.sentence, self.numbers)


class Context(threading.local):
    """What the running solve lets formulas see: which corners last, and whether a loop is still being iterated."""

    def __init__(self) -> None:
        self.lasting: NDArray[np.bool_] | None = None
        self.before_surge: NDArray[np.intp] | None = None
        self.iterating = False
        self.trying = False
        """A candidate is tried: what it runs into is a number to judge it by, as it is."""
        self.doubtful = False
        self.causes: list[Cause] = []


context = Context()


@contextmanager
def seen(corners: "CornerSet") -> Iterator[None]:
    """Let formulas see these corners while the block runs, then what they saw before."""
    former = context.lasting, context.before_surge, context.iterating, list(context.causes)
    context.lasting, context.before_surge = corners.lasting, corners.before
    context.causes.clear()
    try:
        yield
    finally:
        context.lasting, context.before_surge, context.iterating, context.causes[:] = former


def _bare(x: Any) -> Any:
    return getattr(x, "magnitude", x)


def _dressed(like: Any, value: Any) -> Any:
    """Give `value` the unit of `like`: quantities with units pass through when units are proved."""
    return type(like)(value, like.units) if hasattr(like, "magnitude") else value


def like(value: float, x: Any) -> Any:
    """A constant of a formula with the unit of `x`, where units are proved; else the plain number."""
    return _dressed(x, value)


def one_of(unit: str, x: Any) -> Any:
    """One of a unit (in words: "1/kilogram") where `x` has one, so that units are proved; else the plain number 1."""
    return type(x)(1.0, unit) if hasattr(x, "magnitude") else 1.0


def applied(fn: Callable[..., Any], values: Iterable[Any]) -> Any:
    """A formula at values: a plain number divides and overflows as an array does, to infinity, and raises nothing."""
    return fn(*[np.float64(v) if type(v) is float else v for v in values])


def said(fn: Callable[..., Any], values: Iterable[Any]) -> list[Cause]:
    """What a formula says at values that are judged: why it is not known, and where."""
    iterating, context.iterating = context.iterating, False
    before, context.causes = context.causes, []
    try:
        applied(fn, values)
        return context.causes
    finally:
        context.causes, context.iterating = before, iterating


def highest(x: Any) -> Any:
    """The highest value over the corners, kept as an axis of length one; unknown corners are skipped."""
    if type(x) is float:
        return x
    if isinstance(x, Expr):
        return operation("highest", x)
    bare = np.asarray(_bare(x))
    return x if bare.ndim == 0 or bare.shape[-1] == 1 else _dressed(x, np.fmax.reduce(bare, axis=-1, keepdims=True))


def lowest(x: Any) -> Any:
    """The lowest value over the corners, kept as an axis of length one; unknown corners are skipped."""
    if type(x) is float:
        return x
    if isinstance(x, Expr):
        return operation("lowest", x)
    bare = np.asarray(_bare(x))
    return x if bare.ndim == 0 or bare.shape[-1] == 1 else _dressed(x, np.fmin.reduce(bare, axis=-1, keepdims=True))


def _lasting(bare: Values) -> Values:
    mask = context.lasting
    return bare if mask is None or bare.shape[-1] != mask.size or mask.all() else bare[..., mask]


def highest_lasting(x: Any) -> Any:
    """The highest value over the corners that last (surge left out): for whatever heats or ages."""
    if type(x) is float:
        return x
    if isinstance(x, Expr):
        return operation("highest_lasting", x)
    bare = np.asarray(_bare(x))
    if bare.ndim == 0 or bare.shape[-1] == 1:
        return x
    return _dressed(x, np.fmax.reduce(_lasting(bare), axis=-1, keepdims=True))


def lowest_lasting(x: Any) -> Any:
    """The lowest value over the corners that last."""
    return -highest_lasting(-x)


def before_surge(x: Any) -> Any:
    """At a surge corner the value at the lasting full-load corner of the same source level; elsewhere itself."""
    if isinstance(x, Expr):
        return operation("before_surge", x)
    index = context.before_surge
    if index is None or type(x) is float:
        return x
    bare = np.asarray(_bare(x))
    if bare.ndim == 0 or bare.shape[-1] != index.size:
        return x
    return _dressed(x, bare[..., index])


_gammas = np.frompyfunc(math.gamma, 1, 1)


def gamma(x: Any) -> Any:
    """Euler's gamma function of plain numbers."""
    if isinstance(x, Expr):
        return operation("tgamma", x)
    return _gammas(_bare(x)) if np.ndim(_bare(x)) == 0 else _gammas(_bare(x)).astype(float)


def up(x: Any) -> Any:
    """Round up to a whole number, forgiving a relative 1e-9 of rounding noise."""
    if type(x) is float:
        return float(math.ceil(x * (1 - 1e-9))) if math.isfinite(x) else x
    return _dressed(x, np.ceil(_bare(x) * (1 - 1e-9)))


def down(x: Any) -> Any:
    """Round down to a whole number, forgiving a relative 1e-9 of rounding noise."""
    return _dressed(x, np.floor(_bare(x) * (1 + 1e-9)))


def up_to_step(x: Any, step: Any) -> Any:
    """Round up to the next multiple of `step` (same unit as `x`)."""
    return up(x / step) * step


def known(ok: Any, value: Any, because: str, **numbers: Any) -> Any:
    """Return `value`, unknown wherever `ok` is false.

    `because` is a sentence; `{name}` in it stands for the number of that name at the corner concerned.
    While a loop is still being iterated the value passes through, so that a first overshoot does not
    condemn a corner; the converged state is judged.
    """
    return _missing(UNKNOWN, ok, value, because, numbers)


def applies(ok: Any, value: Any, because: str, **numbers: Any) -> Any:
    """Return `value`; wherever `ok` is false the figure does not apply (neither unknown nor a failure)."""
    return _missing(DOES_NOT_APPLY, ok, value, because, numbers)


def _missing(kind: int, ok: Any, value: Any, because: str, numbers: dict[str, Any]) -> Any:
    if ok is True:
        return value
    if isinstance(ok, Expr):
        condition(ok, kind)
        return operation("select", operation("or", ok, Expr("trying")), value, np.nan)
    good = np.asarray(_bare(ok), dtype=bool)
    if good.all():
        return value
    if context.iterating or context.trying:
        context.doubtful = True
        return value
    context.causes.append(Cause(kind, ~good, because, {k: _bare(v) for k, v in numbers.items()}))
    bare = np.where(good, _bare(value), np.nan)
    return _dressed(value, bare)


def bounded(value: Any, most: Any) -> Any:
    """While a loop is being iterated, `value` or at most `most` (also where it is not a number); settled, `value` itself.

    A first guess may stand beyond what exists (a thermal runaway, say); the bound keeps it finite until better
    guesses arrive, and the settled state is judged without it: a loop at rest at the bound is doubtful.
    """
    if isinstance(value, Expr):
        beyond = operation("and", Expr("iterating"), ~(value < most))
        condition(~beyond, UNKNOWN)
        return operation("select", beyond, most, value)
    if not context.iterating:
        return value
    bare, bound = _bare(value), _bare(most)
    context.doubtful = context.doubtful or not np.all(bare < bound)
    return _dressed(value, np.where(bare < bound, bare, bound))


def next_of(sizes: Sequence[float] | Values, x: Any) -> Any:
    """The least of `sizes` (rising, in the unit of `x`) that reaches `x`, the greatest where none does."""
    bare = _bare(x) * (1 - 1e-9)
    found: Any = sizes[-1]
    for size in reversed(sizes[:-1]):
        found = np.where(bare <= size, size, found)
    return _dressed(x, found)


# IEC 60063; E24 and below are rounded by tradition, so they are tables.
_E24 = (1.0, 1.1, 1.2, 1.3, 1.5, 1.6, 1.8, 2.0, 2.2, 2.4, 2.7, 3.0, 3.3, 3.6, 3.9, 4.3, 4.7, 5.1, 5.6, 6.2, 6.8, 7.5, 8.2, 9.1)
SERIES: dict[str, Values] = {"E6": np.array(_E24[::4]), "E12": np.array(_E24[::2]), "E24": np.array(_E24), "E96": np.round(10 ** (np.arange(96) / 96), 2)}


@lru_cache(maxsize=32)
def nearest_in(series: str, side: str = "nearest") -> Callable[[Any], Any]:
    """Return a function to preferred values of a series (IEC 60063): `side` is "up", "down" or "nearest" (by ratio)."""

    def pick(x: Any) -> Any:
        bare = _bare(x)
        with np.errstate(all="ignore"):
            exponent = np.floor(np.log10(bare))
            mantissa = bare / 10.0**exponent
            found = _chosen(mantissa, _rungs_about(series, mantissa), side)
            value = np.where(exponent >= 3, found * 10.0 ** (exponent - 3), found / 10.0 ** (3 - exponent))
            value = np.where((bare > 0) & np.isfinite(bare), value, np.nan)
        return float(value) if type(x) is float else _dressed(x, value)

    return pick


def _rungs_about(series: str, mantissa: Any) -> list[Any]:
    """Rungs of a series about a mantissa, rising: those next to it among them.

    In whole thousandths: with exact powers of ten they give the double nearest to the decimal.
    """
    if series != "E96":
        base = [float(round(1000 * r)) for r in SERIES[series]]
        return [round(base[-1] / 10), *base, 10 * base[0]]
    # Rounded to two decimals no rung lies further than a quarter of a step from its place.
    below = np.floor(96 * np.log10(mantissa))
    rungs = [np.round(100 * 10.0 ** ((below + k) / 96)) * 10 for k in (-1, 0, 1, 2)]
    return [np.where(below > 0, rungs[0], 976.0), *rungs[1:]]


def _chosen(mantissa: Any, rungs: Sequence[Any], side: str) -> Any:
    """The rung that a mantissa goes to, of several that rise."""
    if side == "up":
        found = rungs[-1]
        for rung in reversed(rungs[:-1]):
            found = np.where(mantissa * (1 - 1e-9) <= rung / 1000, rung, found)
        return found
    found = rungs[0]
    for lower, rung in itertools.pairwise(rungs):
        passed = mantissa * (1 + 1e-9) >= rung / 1000 if side == "down" else mantissa > np.sqrt(lower * rung) / 1000
        found = np.where(passed, rung, found)
    return found
