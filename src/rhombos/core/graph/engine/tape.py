"""The tape: formulas written down as a row of plain operations on rows of numbers, for the kernels to work through.

A formula is traced once for the whole process (`template`). Where it is used, every one of its operations becomes a
record: what is done, where the result goes, over how many vectors, and where the operands lie. Nothing is compiled.
"""

from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.expression import REDUCTIONS, Expr, TraceError, trace
from rhombos.core.graph.engine.room import ON_THE_WAY, aligned, assign

OPERATIONS = (
    *("copy", "add", "sub", "mul", "div", "neg", "abs", "sqrt", "exp", "log", "log10", "sin", "cos", "pow", "ceil", "floor", "rint"),
    *("tan", "atan", "atan2", "sinh", "cosh", "tanh", "atanh", "tgamma", "max", "min", "fmax", "fmin"),
    *("lt", "le", "gt", "ge", "eq", "ne", "and", "or", "not", "isnan", "isfinite", "select", "iterating", "trying"),
    *("highest", "lowest", "highest_lasting", "highest_across", "lowest_across", "highest_lasting_across", "before_surge", "before_surge_across"),
    *("doubt", "decide"),
)
"""What the kernels can do. Truth is 1 or 0. `…_across` are the forms for corners that lie across the lanes."""
CODE = {name: k for k, name in enumerate(OPERATIONS)}
WORDS = 9
"""Words of a record: operation, result, vectors, then three operands with where they lie and how they step."""

Operand = tuple[str, float]
"""A parameter ("p", k), an earlier result ("t", k) or a constant ("c", number)."""


@dataclass(frozen=True)
class Step:
    """One operation of a template; `reads` are the parameters whose corners are its own, `hangs_on` all that it is worked out from."""

    op: str
    operands: tuple[Operand, ...]
    reads: frozenset[int]
    hangs_on: frozenset[int]


@dataclass(frozen=True)
class Template:
    """A formula as steps: its result, and the conditions under which it is known; `reads` hand their corners on to the result."""

    steps: tuple[Step, ...]
    result: Operand
    conditions: tuple[Operand, ...]
    reads: frozenset[int]


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
    conditions = tuple(writing.operand(c) for c in traced.conditions)
    return Template(tuple(writing.steps), result, conditions, writing.reads(result))


@dataclass(frozen=True)
class Loop:
    """How a formula stands in a loop: the parameters that change from pass to pass, and the records that go before the passes."""

    moving: frozenset[int]
    before: list[int]


@dataclass
class Writer:
    """Writes records: where constants and intermediate results lie, and how many vectors a corner's worth takes.

    Both lie on the bench, the same for every block; a place there is written as −1 less its vector, to tell it from one
    in the block. Corners lie either in rows, one vector each (`across` is 0), or across the lanes of `across` vectors: then every
    number takes that many, and what is the same at all corners stands in all of them.
    """

    corners: int
    across: int
    constants: dict[float, int] = field(default_factory=dict)
    _places: dict[float | str, int] = field(default_factory=dict)
    taken: int = 0
    """Vectors of the bench that are taken for good: the constants, and what is asked for by `keep`."""
    vectors: int = 0
    """Vectors of the bench in all, known once all is written."""
    _sizes: list[int] = field(default_factory=list)
    """How many vectors each thing worked out on the way needs."""
    _known: dict[Any, tuple[int, bool]] = field(default_factory=dict)
    _written: dict[int, int] = field(default_factory=dict)

    @property
    def one(self) -> int:
        """Vectors that a number without corners takes."""
        return self.across or 1

    def size(self, *, wide: bool) -> int:
        """Vectors that a number takes."""
        return self.across or (self.corners if wide else 1)

    def constant(self, number: float) -> int:
        """Where a constant lies (NaN stands for itself)."""
        key = "nan" if number != number else number
        if key not in self._places:
            self.constants[number] = self._places[key] = self.keep(self.one)
        return self._places[key]

    def begin(self) -> None:
        """Begin a program: it knows nothing of what another one has worked out on the way."""
        self._known.clear()
        self._written.clear()

    def write(
        self, of: Template, places: Sequence[tuple[int, bool]], result: int, *, wide: bool, flag: int = -1, loop: Loop | None = None, judged: bool = True
    ) -> list[int]:
        """The records of a template: `places` of its parameters (vector, wide), where its result goes, and the flag its conditions raise.

        Not `judged`, it raises none: what it is worked out for is a trial.

        What an earlier formula of the program has worked out from the same numbers is not worked out again. Within a
        `loop` what hangs on none of the parameters that move is written before its passes.
        """
        words: list[int] = []
        at: list[tuple[int, bool]] = []

        def place(operand: Operand) -> tuple[int, bool]:
            kind, value = operand
            if kind == "p":
                return places[int(value)]
            return at[int(value)] if kind == "t" else (self.constant(value), False)

        last = int(of.result[1]) if of.result[0] == "t" and result not in {p for p, _ in places} else -1
        for k, step in enumerate(of.steps):
            operands = [place(o) for o in step.operands]
            # A row that is written in the course of the program is another number from then on.
            key = (step.op, tuple((row, self._written.get(row, 0)) for row, _ in operands))
            found = self._known.get(key)
            if found is not None:
                at.append(found)
                continue
            own_wide = any(places[p][1] for p in step.reads)
            still = loop is not None and step.op not in ("iterating", "trying") and step.hangs_on.isdisjoint(loop.moving)
            own = k == last and not still and self.size(wide=own_wide) == self.size(wide=wide)
            target = result if own else self._room(self.size(wide=own_wide))
            at.append((target, own_wide))
            if not own:
                self._known[key] = at[-1]
            (loop.before if still and loop is not None else words).extend(self._record(step.op, target, own_wide, operands))
        source = place(of.result)
        if source[0] != result:
            words += self.record("copy", result, self.size(wide=wide), [source])
        self._written[result] = self._written.get(result, 0) + 1
        for operand in of.conditions if judged else ():
            source = place(operand)
            words += self.record("doubt", flag, self.size(wide=source[1]), [source])
        return words

    def _room(self, size: int) -> int:
        self._sizes.append(size)
        return ON_THE_WAY + len(self._sizes) - 1

    def keep(self, size: int) -> int:
        """Room on the bench that no later formula writes over."""
        self.taken += size
        return -1 - (self.taken - size)

    def settle(self, programs: Sequence[NDArray[np.int64]]) -> None:
        """Say in all programs where on the bench the room lies that is used over and over, now that it is known what else lies there."""
        self.vectors = assign(programs, self._sizes, self.taken, WORDS)

    def bench(self, lanes: int) -> NDArray[np.float64]:
        """Room for what is worked out on the way, the constants in place."""
        made = aligned(self.vectors, lanes)
        for number, place in self.constants.items():
            made[-1 - place : -1 - place + self.one] = number
        return made

    def _record(self, op: str, target: int, wide: bool, operands: Sequence[tuple[int, bool]]) -> list[int]:
        if op in REDUCTIONS:
            return self.record(op if not self.across else f"{op}_across", target, self.size(wide=operands[0][1]), operands)
        if op == "before_surge":
            if not operands[0][1]:
                return self.record("copy", target, self.one, operands)
            return self.record(op if not self.across else f"{op}_across", target, self.size(wide=True), operands)
        return self.record(op, target, self.size(wide=wide), operands)

    def record(self, op: str, target: int, count: int, operands: Sequence[tuple[int, bool]]) -> list[int]:
        """One record; an operand without corners does not step, unless every number takes several vectors."""
        words = [CODE[op], target, count]
        for row, wide in operands:
            words += [row, int(wide or self.across > 0)]
        return words + [0] * (WORDS - len(words))

    def decide(self, row: int, computed: int, flag: int, side: int, course: int) -> list[int]:
        """The record that weighs a decision: its row, where its formula's result lies, the flag it raises, its safe side, the row of its course."""
        self._written[row] = self._written.get(row, 0) + 1
        return [CODE["decide"], row, self.one, computed, 1, flag, side, course, 1]
