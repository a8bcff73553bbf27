"""Where each node's numbers lie in a sheet's buffer, and the programs that compute runs of nodes there."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.compiled.contest import Input, contests
from rhombos.core.graph.compiled.driver import Side
from rhombos.core.graph.compiled.machine import MACHINE, Code
from rhombos.core.graph.nodes import WiredPick
from rhombos.core.graph.plan import Item, Plan
from rhombos.core.parts.table import Candidates


@dataclass(frozen=True)
class Program:
    """Nodes that machine code computes one after the other: the records, and where they lie."""

    nodes: tuple[int, ...]
    records: NDArray[np.int64]
    address: int
    length: int
    decided: tuple[int, ...]


Step = Program | int
"""A run of compiled nodes, or one node that is computed by itself (a pick, or what is left to NumPy)."""


@dataclass(frozen=True)
class LoopSteps:
    """A loop: what is prepared once, the steps of a pass, and the rows of its starting values (tears, corners)."""

    item: Item
    preparation: Program
    steps: tuple[Step, ...]
    tear_rows: NDArray[np.intp]


class Layout:
    """Rows of a buffer for one plan, a number of corners and the leaves that have a value for each corner.

    A node has one row, or one for each corner: what a formula reads without reducing it decides which.
    """

    def __init__(
        self, plan: Plan, wide_leaves: frozenset[int], corners: int, picks: Mapping[int, tuple[WiredPick, Candidates]], defaults: Mapping[int, float]
    ) -> None:
        self.plan = plan
        self.corners = corners
        nodes = plan.wiring.nodes
        codes = MACHINE.compile([(n.fn, len(n.args)) for n in nodes if n.fn is not None and n.args])
        self.codes: list[Code | None] = [codes[n.fn, len(n.args)] if n.fn is not None and n.args else None for n in nodes]
        self.wide = self._widths(wide_leaves)
        self.count = [corners if w else 1 for w in self.wide]
        rows = np.concatenate([[0], np.cumsum([n + (c.prepared if c else 0) for n, c in zip(self.count, self.codes, strict=True)])])
        self.row: list[int] = rows[:-1].tolist()
        self.rows = int(rows[-1])
        self.beginning, self.filled = self._begin(defaults)
        self.still = self.steps(plan.still)
        self.moving = self.steps(plan.moving)
        self.held = self._items(plan.items)
        self.after_loops = self._items(plan.after_loops)
        self.contests = contests(picks, {i: [Input(a, self.row[a], self.count[a], self.wide[a]) for a in plan.args[i]] for i in picks})
        self.published = {i: self._published(*pick) for i, pick in picks.items()}

    def _widths(self, wide_leaves: frozenset[int]) -> list[bool]:
        """Whether each node has a value for every corner; loops are gone through until nothing more widens."""
        plan, nodes = self.plan, self.plan.wiring.nodes
        wide = [i in wide_leaves for i in range(len(nodes))]
        loops = [item.tears for item in plan.items if item.tears]
        while True:
            before = list(wide)
            for i in plan.order:
                if plan.kinds[i] in ("operation", "collected") and i not in plan.pinned:
                    wide[i] = wide[i] or any(wide[plan.args[i][p]] for p in self._handing_on(i))
            for tears in loops:
                # The values a loop is iterated on move corner by corner together.
                if any(wide[t] for t in tears):
                    for t in tears:
                        wide[t] = wide[t] or plan.kinds[t] == "operation"
            if not self._left_to_numpy(wide) and wide == before:
                return wide

    def _left_to_numpy(self, wide: list[bool]) -> bool:
        """Give up code that these widths forbid; whether there was any. NumPy computes it, or says what is wrong."""
        plan, found = self.plan, False
        for i in plan.order:
            code = self.codes[i]
            if code is None:
                continue
            not_one = plan.kinds[i] == "build" and any(wide[plan.args[i][p]] for p in code.unreduced)
            if not_one or any(wide[plan.args[i][p]] for p in code.steady):
                self.codes[i] = None
                found = True
        return found

    def _begin(self, defaults: Mapping[int, float]) -> tuple[tuple[NDArray[np.intp], NDArray[np.float64]], list[bool]]:
        """What every solve begins with: rows and numbers of defaults and of loops' starting values; and which nodes have values."""
        starts = {i: float(self.plan.wiring.nodes[i].figure.start or 0.0) for i in self.plan.starts}
        pairs = [(self.row[i] + k, value) for i, value in {**defaults, **starts}.items() for k in range(self.count[i])]
        computed = (bool(args) and kind != "pick" for args, kind in zip(self.plan.args, self.plan.kinds, strict=True))
        beginning = np.array([row for row, _ in pairs], dtype=np.intp), np.array([value for _, value in pairs], dtype=float)
        return beginning, [here or i in defaults for i, here in enumerate(computed)]

    def _handing_on(self, index: int) -> Sequence[int]:
        code = self.codes[index]
        return range(len(self.plan.args[index])) if code is None else sorted(code.unreduced)

    def steps(self, nodes: Sequence[int], prepared: frozenset[int] = frozenset()) -> tuple[Step, ...]:
        """The nodes in their order, compiled ones gathered into programs; those in `prepared` have been prepared before."""
        out: list[Step] = []
        run: list[int] = []
        for i in (*(n for n in nodes if self.plan.kinds[n] != "published"), -1):
            if i >= 0 and self.codes[i] is not None and self.plan.args[i]:
                run.append(i)
                continue
            if run:
                out.append(self._program(run, prepared))
                run = []
            if i >= 0:
                out.append(i)
        return tuple(out)

    def _program(self, nodes: Sequence[int], prepared: frozenset[int]) -> Program:
        records: list[int] = []
        for i in nodes:
            if i not in prepared:
                records += self._preparation(i)
            records += self._record(i)
        return self._written(nodes, records)

    def _written(self, nodes: Sequence[int], records: list[int]) -> Program:
        words = np.array(records, dtype=np.int64)
        return Program(tuple(nodes), words, int(words.ctypes.data), len(words), tuple(i for i in nodes if i in self.plan.decided))

    def _record(self, index: int) -> list[int]:
        code = self.codes[index]
        assert code is not None
        side = Side.FOLLOWS
        if index in self.plan.decided:
            side = {"up": Side.UP, "down": Side.DOWN, None: Side.FREE}[self.plan.wiring.nodes[index].figure.safe]
        record = [0, code.address, self.row[index], self.count[index], index, int(side), *self._arguments(index)]
        for j in range(code.prepared):
            record += [self.row[index] + self.count[index] + j, 0]
        return [len(record), *record[1:]]

    def _preparation(self, index: int) -> list[int]:
        """The record that works out what a node's formula takes to be the same at all corners, into rows behind its own."""
        code = self.codes[index]
        if code is None or not code.prepared:
            return []
        record = [0, code.preparation, self.row[index] + self.count[index], 1, index, int(Side.FOLLOWS), *self._arguments(index)]
        return [len(record), *record[1:]]

    def _arguments(self, index: int) -> list[int]:
        return [word for a in self.plan.args[index] for word in (self.row[a], int(self.wide[a]))]

    def _published(self, wired: WiredPick, candidates: Candidates) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
        """Rows of what a pick publishes, and its numbers for every candidate: (candidates, rows)."""
        shown = [(column, i) for column, i in wired.published if i not in self.plan.pinned]
        table = [candidates.quantity if column == "quantity" else candidates.columns[column] for column, _ in shown]
        return np.array([self.row[i] for _, i in shown], dtype=np.intp), np.array(table, dtype=float).reshape(len(shown), len(candidates.rows)).T.copy()

    def _items(self, items: Sequence[Item]) -> tuple[LoopSteps | tuple[Step, ...], ...]:
        """The held solve: runs of nodes and loops, in their order."""
        out: list[LoopSteps | tuple[Step, ...]] = []
        run: list[int] = []
        for item in (*items, None):
            if item is not None and not item.tears:
                run.extend(item.nodes)
                continue
            if run:
                out.append(self.steps(run))
                run = []
            if item is not None:
                out.append(self._loop(item))
        return tuple(out)

    def _loop(self, item: Item) -> LoopSteps:
        widest = max(self.count[t] for t in item.tears)
        rows = [[self.row[t] + (k if self.wide[t] else 0) for k in range(widest)] for t in item.tears]
        inside = frozenset(item.nodes)
        prepared = frozenset(i for i in item.nodes if (c := self.codes[i]) and c.prepared and inside.isdisjoint(self.plan.args[i][p] for p in c.steady))
        preparation = self._written((), [word for i in sorted(prepared) for word in self._preparation(i)])
        return LoopSteps(item, preparation, self.steps(item.nodes, prepared), np.array(rows, dtype=np.intp))
