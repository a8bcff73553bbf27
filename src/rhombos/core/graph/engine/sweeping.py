"""Figures over many values of a given, or of several at once, the build held: only what lies between is computed, the rest stands.

What the givens move and the figures hang on has rows in a block, a value in every lane; all else that is read lies on the
bench, the same for every value. What hangs on nothing that moves is worked out once for all values, what a loop does not
move once for a block of them.
"""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from threading import Lock, Thread

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.desk import Settling
from rhombos.core.graph.engine.fused import fused
from rhombos.core.graph.engine.layout import Layout
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.steps import LoopSteps, Program
from rhombos.core.graph.engine.tape import Loop, Place, Records, Writer, program_of
from rhombos.core.graph.engine.template import CODE, WORDS
from rhombos.core.graph.engine.terms import like_terms
from rhombos.core.graph.engine.told import CONTEXT_ITERATING, context_of
from rhombos.core.graph.loops import TOLERANCE
from rhombos.core.graph.plan import Item, Plan

GOAL, FLAGS = 1, 2
"""The flag that a goal raises where it is not known itself, if no other figure of the question reads it: its value says so. All others share the first."""

POWERS = 4
"""Coefficients of the curves on which loops begin: cubics."""
FUSED_FROM = 30_000
"""Values of one question from which on it is made into native functions."""


@dataclass(frozen=True)
class Question:
    """What moves and what is asked for, by node, and what lies between them in the order of the held solve. Each given that moves leads somewhere."""

    moved: tuple[int, ...]
    goals: tuple[int, ...]
    items: tuple[Item, ...]

    @property
    def nodes(self) -> tuple[int, ...]:
        """All that is computed."""
        return tuple(i for item in self.items for i in item.nodes)


def moved_with(plan: Plan, moved: tuple[int, ...], held: frozenset[int]) -> set[int]:
    """What hangs on givens, themselves among it, while what is `held` stands."""
    reached = set(moved)
    while True:
        more = {i for item in plan.items for i in item.nodes if i not in reached and i not in held and not reached.isdisjoint(plan.args[i])}
        if not more:
            return reached
        reached |= more


def between(layout: Layout, moved: tuple[int, ...], goals: tuple[int, ...], held: frozenset[int]) -> Question | None:
    """The question as parts of the held solve; None where a formula in it is left to NumPy, or a loop is asked for in part only."""
    plan = layout.plan
    reached = moved_with(plan, moved, held)
    needed: set[int] = set()
    queue = list(goals)
    while queue:
        i = queue.pop()
        if i in reached and i not in needed:
            needed.add(i)
            queue.extend(plan.args[i])
    needed.difference_update(moved)
    read = {a for i in needed for a in plan.args[i]}
    items = [Item(tuple(i for i in item.nodes if i in needed), item.tears) for item in plan.items if not needed.isdisjoint(item.nodes)]
    if any(layout.templates[i] is None for i in needed) or any(item.tears and not needed.issuperset(item.tears) for item in items):
        return None
    # Of several givens those alone that lead there.
    return Question(tuple(i for i in moved if i in read) or moved[:1], goals, tuple(items))


class Sweeping:
    """A question written down for the kernels. In a block the given comes first, then the loops' starting values, then all that others read."""

    def __init__(self, layout: Layout, question: Question) -> None:
        self.layout, self.question = layout, question
        self.writer = Writer(layout.corners, 0)
        self.tears = tuple(t for item in question.items for t in item.tears)
        parts = _gathered(question.items)
        self.row: dict[int, int] = {}
        self.rows = 0
        inside = {*question.moved, *question.nodes}
        self.asked = [i for i in question.goals if i in inside]
        """Of the goals those that move: the others stand."""
        read = {a for i in question.nodes for a in layout.plan.args[i]}
        self._last = {i for i in self.asked if i not in read}
        for i in dict.fromkeys((*question.moved, *self.tears, *self.asked, *_crossing(parts, layout))):
            self.row[i], self.rows = self.rows, self.rows + layout.size[i]
        ends = {i: (self.row[i], self.row[i] + layout.size[i]) for i in self.asked}
        self.told = min((first for first, _ in ends.values()), default=0), max((last for _, last in ends.values()), default=0)
        """From which row to before which one the goals lie."""
        self.columns = {i: slice(first - self.told[0], last - self.told[0]) for i, (first, last) in ends.items()}
        self._way = {i: self.writer.room(layout.size[i]) for i in question.nodes if i not in self.row}
        """What one part alone reads is worked out on the way."""
        self.read = {a: self.writer.keep(layout.size[a]) for i in question.nodes for a in layout.plan.args[i] if a not in inside}
        """Where on the bench lies what does not move."""
        starting = sum(layout.size[t] for t in self.tears)
        self.powers = np.array([self.writer.keep(1) for _ in range(POWERS * starting)], dtype=np.int64).reshape(POWERS, starting)
        """Where the coefficients lie of the curves on which the loops begin, the highest power first."""
        self.origin = self.writer.keep(1)
        once: list[Records] = []
        outer = frozenset(inside), once
        self.parts: list[LoopSteps | Program] = [self._words(self._beginning())]
        self.parts += [self._loop(item, outer) if item.tears else self._program(item.nodes, (outer,)) for item in parts]
        self.once = self._words(once)
        programs = [self.once, *(p for part in self.parts for p in _programs(part))]
        self.shared = self.writer.settle([p.records for p in programs])
        for program in programs:
            check(program.records, self.rows, self.writer.vectors, FLAGS)
        self._worked, self._fusing = 0, Lock()
        self._native: object = None
        """The native code, to live as long as this does."""

    def worked(self, values: int) -> None:
        """So many values more have been asked for: from some tens of thousands on it pays to make native functions, beside the work."""
        before, self._worked = self._worked, self._worked + values
        if before < FUSED_FROM <= self._worked:
            Thread(target=self.fuse, daemon=True).start()

    def fuse(self) -> None:
        """Make what is done for every value into native functions."""
        with self._fusing:
            programs = [p for part in self.parts for p in _programs(part)]
            if any(CODE["fused"] in p.records[::WORDS] for p in programs):
                return
            ends = frozenset(self.row[i] + k for i in (*self.tears, *self.asked) for k in range(self.layout.size[i]))
            words, self._native = fused([p.records for p in programs], self.shared, ends)
            made = iter([_program_of(w) for w in words])
            # A part is exchanged as a whole: whoever is at work reads either.
            self.parts = [next(made) if isinstance(part, Program) else _with(part, next(made), next(made)) for part in self.parts]

    def _beginning(self) -> list[Records]:
        """The loops' starting values by Horner's rule, in what the (first) given is above the origin of its stretch."""
        above, made = self.writer.room(1), []
        made.append(self.writer.record("sub", above, 1, [(self.row[self.question.moved[0]], False), (self.origin, False)]))
        rows = [self.row[t] + k for t in self.tears for k in range(self.layout.size[t])]
        for row, (highest, *others) in zip(rows, self.powers.T.tolist(), strict=True):
            so_far = highest
            for k, coefficient in enumerate(others):
                product, total = self.writer.room(1), row if k == len(others) - 1 else self.writer.room(1)
                made.append(self.writer.record("mul", product, 1, [(so_far, False), (above, False)]))
                made.append(self.writer.record("add", total, 1, [(product, False), (coefficient, False)]))
                so_far = total
        return made

    def _place(self, index: int) -> int:
        return self.row[index] if index in self.row else self._way[index] if index in self._way else self.read[index]

    def _program(self, nodes: Sequence[int], levels: Sequence[tuple[frozenset[int], list[Records]]]) -> Program:
        layout, records = self.layout, []
        for i in nodes:
            of, args = layout.templates[i], layout.plan.args[i]
            assert of is not None, "what is left to NumPy is no question for the kernels"
            places: list[Place] = [(self._place(a), layout.wide[a]) for a in args]
            loops = [Loop(frozenset(k for k, a in enumerate(args) if a in moving), before, apart=k == 0) for k, (moving, before) in enumerate(levels)]
            records += self.writer.write(of, places, self._place(i), wide=layout.wide[i], flag=GOAL if i in self._last else 0, loops=loops)
        return self._words(records)

    def _words(self, records: list[Records]) -> Program:
        return _program_of(program_of(records))

    def _loop(self, item: Item, outer: tuple[frozenset[int], list[Records]]) -> LoopSteps:
        before: list[Records] = []
        passes = self._program(item.nodes, (outer, (frozenset(item.nodes), before)))
        widest = max(self.layout.size[t] for t in item.tears)
        rows = [[self.row[t] + (k if self.layout.wide[t] else 0) for k in range(widest)] for t in item.tears]
        prepared, passed = (_program_of(words) for words in like_terms([program_of(before), passes.records]))
        return LoopSteps(item, prepared, (passed,), (passed,), np.array(rows, dtype=np.intp))


class Worker:
    """One thread's bench and block, for what stands in one sheet."""

    def __init__(self, sweeping: Sweeping, standing: Mapping[int, Values], corners: CornerSet) -> None:
        self.sweeping, layout = sweeping, sweeping.layout
        self._told = layout.told_of(corners)
        self._flags = np.zeros(FLAGS, dtype=np.uint8)
        self._bench = sweeping.writer.bench(LANES)
        if sweeping.read:
            places = [-1 - place + k for node, place in sweeping.read.items() for k in range(layout.size[node])]
            self._bench[places] = np.concatenate([_spread(standing[node], layout.size[node]) for node in sweeping.read])[:, None]
        own, before = (a.ctypes.data for a in self._told[:2])
        self._context = context_of(own, before, self._flags.ctypes.data, self._bench.ctypes.data)
        self._powers = -1 - sweeping.powers
        self._buffer = aligned(0, sweeping.rows, LANES)
        self._room: dict[int, Settling] = {}
        self._run(sweeping.once, aligned(1, sweeping.rows, LANES))

    def _run(self, program: Program, buffer: Values) -> None:
        self._context[CONTEXT_ITERATING] = False
        MACHINE.run(buffer.ctypes.data, program.address, program.length, self._context.ctypes.data, len(buffer), self.sweeping.rows)

    def solve(self, values: Values, origin: float, powers: Values) -> Values | None:
        """Every goal that moves for each of so many values, (values, givens), as a table (values, columns as `Sweeping.columns` says); None where something is not known or does not settle.

        The loops' starting values are polynomials in what a value is above `origin`: `powers` are their coefficients,
        the highest power first, (POWERS, starting values and their corners).
        """
        sweeping, blocks = self.sweeping, -(-len(values) // LANES)
        if len(self._buffer) != blocks:
            self._buffer = aligned(blocks, sweeping.rows, LANES)
            self._room.clear()
        buffer = self._buffer
        # Spare lanes are as the last.
        spare = np.pad(values, ((0, blocks * LANES - len(values)), (0, 0)), mode="edge")
        buffer[:, [sweeping.row[i] for i in sweeping.question.moved], :] = spare.reshape(blocks, LANES, -1).swapaxes(1, 2)
        self._bench[self._powers] = powers[..., None]
        self._bench[-1 - sweeping.origin] = origin
        self._flags.fill(0)
        if not all(self._settles(part, buffer) if isinstance(part, LoopSteps) else self._computes(part, buffer) for part in sweeping.parts):
            return None
        first, last = sweeping.told
        return np.array(buffer[:, first:last, :].transpose(0, 2, 1)).reshape(-1, last - first)[: len(values)]

    def _computes(self, program: Program, buffer: Values) -> bool:
        self._run(program, buffer)
        return not self._flags[:GOAL].any()

    def _settles(self, loop: LoopSteps, buffer: Values) -> bool:
        key = loop.item.nodes[0]
        room = self._room.get(key)
        if room is None or room.loop is not loop:
            room = self._room[key] = Settling(loop, len(buffer), FLAGS)
        (program,) = loop.passes
        assert isinstance(program, Program), "a loop in a question is one program"
        self._context[CONTEXT_ITERATING] = True
        context = self._context.ctypes.data
        MACHINE.iterate(buffer.ctypes.data, program.address, program.length, context, len(buffer), self.sweeping.rows, TOLERANCE, room.address)
        failed, _, _, doubtful = room.outcome()
        self._flags.fill(0)
        return failed is None and not doubtful and not room.nowhere


def _spread(value: Values | float, size: int) -> NDArray[np.float64]:
    """A value that stands as so many numbers."""
    numbers = np.asarray(value, dtype=float).reshape(-1)
    return numbers if numbers.size == size else np.full(size, numbers[0])


def _gathered(items: Sequence[Item]) -> list[Item]:
    """The items, runs of single nodes joined."""
    out: list[Item] = []
    for item in items:
        if out and not item.tears and not out[-1].tears:
            out[-1] = Item(out[-1].nodes + item.nodes)
        else:
            out.append(item)
    return out


def _crossing(parts: Sequence[Item], layout: Layout) -> list[int]:
    """What one part leaves to another."""
    found = []
    for item in parts:
        others = {a for other in parts if other is not item for i in other.nodes for a in layout.plan.args[i]}
        found += [i for i in item.nodes if i in others]
    return found


def _programs(part: LoopSteps | Program) -> list[Program]:
    if isinstance(part, Program):
        return [part]
    return [part.preparation, *(p for p in part.passes if isinstance(p, Program))]


def _program_of(words: NDArray[np.int64]) -> Program:
    return Program((), words, int(words.ctypes.data), len(words), ())


def _with(loop: LoopSteps, preparation: Program, passes: Program) -> LoopSteps:
    return replace(loop, preparation=preparation, passes=(passes,), steps=(passes,))
