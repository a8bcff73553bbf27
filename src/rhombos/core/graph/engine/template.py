"""Formulas written down as a row of plain operations, once for the whole process; and how they stand in a layout.

Where a formula is used, every one of its operations becomes a record of the tape. All of a record but where things lie
is the same wherever the same of its parameters have their corners: that is worked out once (`Shaped`).
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.expression import REDUCTIONS, Expr, TraceError, trace
from rhombos.core.formulas.functions import FUNCTIONS
from rhombos.core.graph.engine.pairs import PAIRS, Operand, paired

OPERATIONS = (
    *("copy", "add", "sub", "mul", "div", "neg", "abs", "sqrt", "exp", "log", "log10", "sin", "cos", "pow", "ceil", "floor", "rint"),
    *("tan", "atan", "atan2", "sinh", "cosh", "tanh", "atanh", "tgamma", "max", "min", "fmax", "fmin"),
    *("lt", "le", "gt", "ge", "eq", "ne", "and", "or", "not", "isnan", "isfinite", "select", "iterating", "trying"),
    *("highest", "lowest", "highest_lasting", "highest_across", "lowest_across", "highest_lasting_across", "before_surge", "before_surge_across"),
    *("doubt", "decide", "fused"),
    *FUNCTIONS,
    *PAIRS,
)
"""What the kernels can do. Truth is 1 or 0. `…_across` are the forms for corners that lie across the lanes."""
CODE = {name: k for k, name in enumerate(OPERATIONS)}
WORDS, OPERANDS = 9, 3
"""Words of a record: operation, result, vectors, then three operands with where they lie and how they step."""


@dataclass(frozen=True)
class Step:
    """One operation of a template; `reads` are the parameters whose corners are its own, `hangs_on` all that it is worked out from."""

    op: str
    operands: tuple[Operand, ...]
    reads: frozenset[int]
    hangs_on: frozenset[int]


@dataclass(frozen=True, eq=False)
class Template:
    """A formula as steps: its result, and the conditions under which it is known; `reads` hand their corners on to the result.

    Where a condition does not hold the value is of its kind in `kinds`: it does not apply, or is unknown.
    """

    steps: tuple[Step, ...]
    result: Operand
    conditions: tuple[Operand, ...]
    kinds: tuple[int, ...]
    reads: frozenset[int]
    _shapes: dict[tuple[tuple[bool, ...], int, int], "Shaped"] = field(default_factory=dict)

    def shaped(self, wides: tuple[bool, ...], corners: int, across: int) -> "Shaped":
        """The same for parameters of which these have their corners (see `Writer`)."""
        key = wides, corners, across
        if key not in self._shapes:
            self._shapes[key] = _shaped(self, wides, corners, across)
        return self._shapes[key]


class _Writing:
    """Steps being written from expressions; like terms are written once."""

    def __init__(self) -> None:
        self.steps: list[Step] = []
        self._known: dict[tuple[str, tuple[Operand, ...]], Operand] = {}
        self._memo: dict[int, Operand] = {}
        self._held: list[Expr] = []

    def operand(self, e: Expr) -> Operand:
        if id(e) not in self._memo:
            self._held.append(e)  # an id stands for its expression only as long as that lives
            self._memo[id(e)] = self._written(e)
        return self._memo[id(e)]

    def _written(self, e: Expr) -> Operand:
        if e.op == "constant":
            return "c", e.number
        if e.op == "parameter":
            return "p", e.number
        operands = tuple(self.operand(a) for a in e.args)
        if e.op == "pow" and operands[1] in _PLAIN_POWERS:
            op, operands = _PLAIN_POWERS[operands[1]](operands[0])
        else:
            op = e.op
        if (op, operands) not in self._known:
            reads = frozenset() if op in REDUCTIONS else frozenset().union(*(self.reads(o) for o in operands))
            hangs_on = frozenset().union(*(self.hangs_on(o) for o in operands))
            self._known[op, operands] = "t", float(len(self.steps))
            self.steps.append(Step(op, operands, reads, hangs_on))
        return self._known[op, operands]

    def reads(self, operand: Operand) -> frozenset[int]:
        kind, value = operand
        if kind == "p":
            return frozenset((int(value),))
        return self.steps[int(value)].reads if kind == "t" else frozenset()

    def hangs_on(self, operand: Operand) -> frozenset[int]:
        kind, value = operand
        return self.steps[int(value)].hangs_on if kind == "t" else self.reads(operand)


# As NumPy: squares, roots and reciprocals of constant exponents by their own operation.
_PLAIN_POWERS: dict[Operand, Callable[[Operand], tuple[str, tuple[Operand, ...]]]] = {
    ("c", 2.0): lambda a: ("mul", (a, a)),
    ("c", 0.5): lambda a: ("sqrt", (a,)),
    ("c", -1.0): lambda a: ("div", (("c", 1.0), a)),
}


@cache
def template(fn: Callable[..., Any], count: int) -> Template | None:
    """A formula of so many arguments as steps; None for what cannot be written down, which is left to NumPy."""
    try:
        traced = trace(fn, count)
    except TraceError:
        return None
    writing = _Writing()
    result = writing.operand(traced.result)
    conditions: Sequence[Operand] = [writing.operand(c) for c, _ in traced.conditions]
    reads = writing.reads(result)
    steps, (result, *conditions) = _in_pairs(writing.steps, (result, *conditions))
    return Template(steps, result, tuple(conditions), tuple(kind for _, kind in traced.conditions), reads)


def _in_pairs(steps: Sequence[Step], read: tuple[Operand, ...]) -> tuple[tuple[Step, ...], tuple[Operand, ...]]:
    """The steps with two as one where that can be, and what is read from outside, numbered anew."""
    kept = [(k, operation) for k, operation in enumerate(paired([(s.op, s.operands) for s in steps], read)) if operation]
    number = {k: place for place, (k, _) in enumerate(kept)}

    def anew(operands: tuple[Operand, ...]) -> tuple[Operand, ...]:
        return tuple((kind, float(number[int(value)])) if kind == "t" else (kind, value) for kind, value in operands)

    return tuple(Step(op, anew(operands), steps[k].reads, steps[k].hangs_on) for k, (op, operands) in kept), anew(read)


@dataclass(frozen=True, eq=False)
class Shaped:
    """A template's records but for where things lie: `refs` says of every place in them which parameter, result on the way or constant stands there.

    They are numbered one behind the other, in that order; the last number stands for nothing. `sizes` are the vectors of
    the results on the way, `wide` says of all that is numbered whether it has its corners, `moved_by` which parameters
    each step hangs on, `asks` which hang on whether a loop is iterated.
    """

    words: NDArray[np.int64]
    refs: NDArray[np.intp]
    sizes: list[int]
    wide: list[bool]
    constants: tuple[float, ...]
    moved_by: NDArray[np.bool_]
    asks: NDArray[np.bool_]
    result: int
    conditions: tuple[int, ...]


def _shaped(of: Template, wides: tuple[bool, ...], corners: int, across: int) -> Shaped:
    numbers: dict[float | str, int] = {}
    constants: list[float] = []
    count, steps = len(wides), of.steps

    def ref(operand: Operand) -> int:
        kind, value = operand
        if kind != "c":
            return int(value) + (count if kind == "t" else 0)
        key = "nan" if value != value else value
        if key not in numbers:
            numbers[key] = count + len(steps) + len(constants)
            constants.append(value)
        return numbers[key]

    refs = [[ref(o) for o in step.operands] for step in steps]
    result, conditions = ref(of.result), tuple(ref(o) for o in of.conditions)
    wide = [*wides, *(any(wides[p] for p in step.reads) for step in steps), *(False for _ in constants)]
    words = np.zeros((len(steps), WORDS), dtype=np.int64)
    places = np.full((len(steps), OPERANDS), len(wide), dtype=np.intp)
    for k, (step, of_step) in enumerate(zip(steps, refs, strict=True)):
        reduced = (step.op in REDUCTIONS or step.op == "before_surge") and bool(across)
        op, vectors = step.op, across or (corners if wide[of_step[0] if step.op in REDUCTIONS else count + k] else 1)
        if step.op == "before_surge" and not wide[of_step[0]]:
            op, vectors, reduced = "copy", across or 1, False
        words[k, 0], words[k, 2] = CODE[f"{op}_across" if reduced else op], vectors
        places[k, : len(of_step)] = of_step
        words[k, 4 : 4 + 2 * len(of_step) : 2] = [wide[r] or across > 0 for r in of_step]
    sizes = [across or (corners if w else 1) for w in wide[count : count + len(steps)]]
    moved, asks = np.zeros((len(steps), count), dtype=np.bool_), np.zeros(len(steps), dtype=np.bool_)
    for k, step in enumerate(steps):
        moved[k, list(step.hangs_on)] = True
        asks[k] = step.op in ("iterating", "trying") or any(asks[int(value)] for kind, value in step.operands if kind == "t")
    return Shaped(words, places, sizes, wide, tuple(constants), moved, asks, result, conditions)
