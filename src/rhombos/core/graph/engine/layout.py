"""Where each node's numbers lie in a sheet's buffer, and the programs that compute runs of nodes there."""

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.contest import Contest, Ground, contests
from rhombos.core.graph.engine.desk import Desk
from rhombos.core.graph.engine.marking import Marking
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.tape import Loop, Place, Records, Writer, program_of
from rhombos.core.graph.engine.template import Template, template
from rhombos.core.graph.engine.terms import like_terms
from rhombos.core.graph.engine.told import DOWN, FREE, UP
from rhombos.core.graph.nodes import WiredPick
from rhombos.core.graph.plan import Item, Plan
from rhombos.core.graph.starts import Starts
from rhombos.core.parts.table import Candidates

MOST_DESKS = 4


class Layout:
    """Rows of a buffer for one plan, a number of corners and the leaves that have a value for each corner.

    For many variants a row is one vector of variants, and a node has one row, or one for each corner: what a formula
    reads without reducing it decides which. For a single sheet (`across`) every node has as many vectors as its corners
    need when they lie across the lanes. Picks that no pin concerns are written down as they are in the layout that is `free` of pins.
    """

    def __init__(
        self,
        plan: Plan,
        wide_leaves: frozenset[int],
        corners: int,
        picks: Mapping[int, tuple[WiredPick, Candidates]],
        defaults: Mapping[int, float],
        *,
        across: bool,
        free: "Layout | None" = None,
    ) -> None:
        self.plan = plan
        self.corners = corners
        self.across = -(-corners // LANES) if across else 0
        nodes = plan.wiring.nodes
        self.templates: list[Template | None] = [template(n.fn, len(n.args)) if n.fn is not None and n.args else None for n in nodes]
        self.wide = self._widths(wide_leaves)
        self.count = [corners if w else 1 for w in self.wide]
        self.size = [self.across or c for c in self.count]
        one = self.across or 1
        rows = np.concatenate([[0], np.cumsum(self.size)])
        self.row: list[int] = rows[:-1].tolist()
        self.courses = {i: int(rows[-1]) + k * one for k, i in enumerate(i for i, n in enumerate(nodes) if i in plan.decided or n.figure.safe is not None)}
        """Where it lies, behind the numbers themselves, which way each decision went and whether it has turned (see `told.TURNED`)."""
        self.rows = int(rows[-1]) + len(self.courses) * one
        self.writer = Writer(corners, self.across)
        self.beside = self.writer.keep(one)
        self._loops: dict[Item, LoopSteps] = {}
        self._programs: list[NDArray[np.int64]] = []
        self.still = self.steps(plan.still)
        self.first = self.steps(plan.first)
        self.moving = self.steps(plan.moving)
        self.behind = self.steps(plan.behind)
        self.held = self._items(plan.items)
        self.loops = tuple(part for part in self.held if isinstance(part, LoopSteps))
        self.to_rest = self._items(plan.to_rest)
        self.starts = Starts(plan.wiring, sorted(plan.starts - plan.pinned))
        self.tears = self.starts.places([t for part in self.to_rest if isinstance(part, LoopSteps) for t in part.item.tears])
        """Which of these are the loops', one loop's behind the other's."""
        self.writer.settle(self._programs)
        for program in self._programs:
            check(program, self.rows, self.writer.vectors, len(nodes), self.across)
        self.rows_of = np.array(self.row, dtype=np.intp)
        self.vectors = np.arange(self.across or 1)
        self.decided = tuple(sorted(plan.decided))
        self.decided_rows = np.array([self.row[i] for i in self.decided], dtype=np.intp)
        self.following = {i: np.array([self.courses[f] + k for f in followers for k in range(one)], dtype=np.intp) for i, followers in plan.followers.items()}
        """By decision or pick, where the courses lie of the decisions that follow it."""
        self.course_rows = np.array([row + k for row in self.courses.values() for k in range(one)], dtype=np.intp)
        self.sided_rows = np.array([row for i, row in self.courses.items() if nodes[i].figure.safe is not None], dtype=np.intp)
        """Where the courses lie of what may be held to a side."""
        self._desks: list[Desk] = []
        self._told: tuple[CornerSet, tuple[NDArray[np.generic], ...]] | None = None
        self._nearest: tuple[CornerSet, NDArray[np.int64]] | None = None
        self.blank = self._blank(defaults)
        former: Mapping[int, Contest] = free.contests if free else {}
        self.contests: dict[int, Contest] = contests(Ground(plan, self.templates, self.row, self.courses, self.wide, corners, across), picks, former)
        self.rooms = {i: contest.blocks * LANES for i, contest in self.contests.items()}
        """By pick for how many candidates there is room."""
        self.published = {i: self._published(*pick) for i, pick in picks.items()}
        self.whole = len(self.contests) == len(picks)
        """Whether the machine can judge every pick."""
        self.calms = bool(across) and self.whole and self._left_to_the_machine()
        """Whether the machine can make passes and settle the loops between them: nothing of it is left to NumPy."""
        self.markable = all(isinstance(step, Program) for part in self.held for step in (part.steps if isinstance(part, LoopSteps) else part))
        """Whether the machine can say what is unknown: no figure is left to NumPy."""

    def _left_to_the_machine(self) -> bool:
        """Whether no step of a pass or between passes is left to NumPy, and each loop is one program."""
        single = all(len(part.passes) == len(part.steps) == 1 for part in self.to_rest if isinstance(part, LoopSteps))
        between = [step for part in self.to_rest for step in (part.passes if isinstance(part, LoopSteps) else part)]
        return single and all(isinstance(step, Program) for step in between) and all(isinstance(step, Program) or step in self.contests for step in self.moving)

    def desk(self) -> Desk:
        """A desk that nobody works at."""
        try:
            return self._desks.pop()
        except IndexError:
            return Desk(self)

    def give_back(self, desk: Desk) -> None:
        """Let the next solve have the desk."""
        if len(self._desks) < MOST_DESKS:
            self._desks.append(desk)

    def told_of(self, corners: CornerSet) -> tuple[NDArray[np.generic], ...]:
        """Which corners last and what went before each: as the sheet has them, then as contests do, which have them in rows.

        In rows one number each; across the lanes one for every lane, spare ones as the last corner.
        """
        if self._told is None or self._told[0] is not corners:
            spare = (0, self.across * LANES - self.corners if self.across else 0)
            own = np.pad(corners.lasting.astype(np.float64 if self.across else np.int64), spare, mode="edge")
            before = np.pad(corners.before.astype(np.int64), spare, mode="edge")
            self._told = corners, (own, before, corners.lasting.astype(np.int64), corners.before.astype(np.int64))
        return self._told[1]

    def nearest_of(self, corners: CornerSet) -> NDArray[np.int64]:
        """(lanes, corners): of the corner in each lane all corners, the nearest first; a spare lane is as the last corner."""
        if self._nearest is None or self._nearest[0] is not corners:
            spare = (0, self.across * LANES - self.corners), (0, 0)
            self._nearest = corners, np.ascontiguousarray(np.pad(corners.nearest, spare, mode="edge"), dtype=np.int64)
        return self._nearest[1]

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
        """Take off the tape what these widths forbid; whether there was any. NumPy computes it, or says what is wrong."""
        plan, found = self.plan, False
        for i in plan.order:
            of = self.templates[i]
            if of is None:
                continue
            if plan.kinds[i] == "build" and any(wide[plan.args[i][p]] for p in of.reads):
                self.templates[i] = None
                found = True
        return found

    def _blank(self, defaults: Mapping[int, float]) -> NDArray[np.float64]:
        """What every solve begins with, (vectors, LANES): defaults, the usual starting values, no decision turned; all else is no number.

        A pick may look at what is not computed yet, and a loop may begin at what has no number.
        """
        blank = np.full((self.rows, LANES), np.nan)
        starts = {i: float(self.plan.wiring.nodes[i].figure.start or 0.0) for i in self.plan.starts}
        for i, value in {**defaults, **starts}.items():
            blank[self.row[i] : self.row[i] + self.size[i]] = value
        blank[self.course_rows] = 0.0
        return blank

    def _handing_on(self, index: int) -> Sequence[int]:
        of = self.templates[index]
        return range(len(self.plan.args[index])) if of is None else sorted(of.reads)

    def steps(self, nodes: Sequence[int], moving: frozenset[int] | None = None, before: list[Records] | None = None) -> tuple[Step, ...]:
        """The nodes in their order, those on the tape gathered into programs; in a loop what hangs on nothing `moving` goes `before` it."""
        out: list[Step] = []
        run: list[int] = []
        for i in (*(n for n in nodes if self.plan.kinds[n] != "published"), -1):
            if i >= 0 and self.templates[i] is not None and self.plan.args[i]:
                run.append(i)
                continue
            if run:
                out.append(self._program(run, moving, before))
                run = []
            if i >= 0:
                out.append(i)
        return tuple(out)

    def _program(self, nodes: Sequence[int], moving: frozenset[int] | None, before: list[Records] | None) -> Program:
        return self._written(nodes, [some for i in nodes for some in self._records(i, moving, before)])

    def _written(self, nodes: Sequence[int], records: list[Records]) -> Program:
        return self._standing(nodes, program_of(records))

    def _standing(self, nodes: Sequence[int], words: NDArray[np.int64]) -> Program:
        """A program that is not written again."""
        self._programs.append(words)
        return Program(tuple(nodes), words, int(words.ctypes.data), len(words), tuple(i for i in nodes if i in self.plan.decided))

    def _records(self, index: int, moving: frozenset[int] | None, before: list[Records] | None) -> list[Records]:
        of = self.templates[index]
        assert of is not None
        places = self.places_of(index)
        if index in self.plan.decided:
            # A decision is worked out beside its place, and then weighed against what stands there.
            words = self.writer.write(of, places, self.beside, wide=False, flag=index)
            side = {"up": UP, "down": DOWN, None: FREE}[self.plan.wiring.nodes[index].figure.safe]
            return [*words, self.writer.decide(self.row[index], self.beside, index, side, self.courses[index])]
        loops = []
        if moving is not None and before is not None:
            loops.append(Loop(frozenset(k for k, a in enumerate(self.plan.args[index]) if a in moving), before))
        return self.writer.write(of, places, self.row[index], wide=self.wide[index], flag=index, loops=loops)

    def places_of(self, index: int) -> list[Place]:
        """Where what a figure is computed from lies."""
        return [(self.row[a], self.wide[a]) for a in self.plan.args[index]]

    @cached_property
    def checks(self) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
        """(4, checks, corners) and (4, checks): where in a block what every check reads lies at each corner, and the levels that are plain numbers."""
        asked = self.plan.wiring.checks
        places = np.zeros((4, len(asked), self.corners), dtype=np.intp)
        levels = np.full((4, len(asked)), np.nan)
        step = 1 if self.across else LANES
        for row, one in enumerate(asked):
            for k, item in enumerate((one.demand, one.capability, one.fail, one.hold)):
                if isinstance(item, float):
                    levels[k, row] = item
                else:
                    places[k, row] = self.row[item] * LANES + step * (np.arange(self.corners) if self.wide[item] else 0)
        return places, levels

    @cached_property
    def by_corners(self) -> tuple[tuple[list[int], NDArray[np.intp]], ...]:
        """Of a single sheet the nodes with one number, and those with one for every corner; and where in the block those lie: (nodes,) and (nodes, corners)."""
        known = [i for i, kind in enumerate(self.plan.kinds) if kind != "pick"]
        one, many = ([i for i in known if (self.count[i] > 1) is wide] for wide in (False, True))
        return (one, self.rows_of[one] * LANES), (many, self.rows_of[many][:, None] * LANES + np.arange(self.corners))

    @cached_property
    def end_kinds(self) -> NDArray[np.int8]:
        """By node in which way it can be missing, of those that nothing reads and that have one way only; 0 of all others."""
        children = self.plan.wiring.children
        ways = [set(of.kinds) if of is not None and not children[i] else set() for i, of in enumerate(self.templates)]
        return np.array([next(iter(found)) if len(found) == 1 else 0 for found in ways], dtype=np.int8)

    @cached_property
    def marking(self) -> Marking:
        """The programs that say what is unknown, made when something is."""
        return Marking(self)

    def _published(self, wired: WiredPick, candidates: Candidates) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
        """Vectors of what a pick publishes, and its numbers for every candidate: (candidates, vectors)."""
        shown = [(column, i) for column, i in wired.published if i not in self.plan.pinned]
        one = self.writer.one
        table = [candidates.quantity if column == "quantity" else candidates.columns[column] for column, _ in shown for _ in range(one)]
        rows = np.array([self.row[i] + k for _, i in shown for k in range(one)], dtype=np.intp)
        return rows, np.array(table, dtype=float).reshape(len(rows), len(candidates.rows)).T.copy()

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
                if item not in self._loops:
                    self._loops[item] = self._loop(item)
                out.append(self._loops[item])
        return tuple(out)

    def _loop(self, item: Item) -> LoopSteps:
        widest = max(self.size[t] for t in item.tears)
        stepping = [self.wide[t] or self.across > 0 for t in item.tears]
        rows = [[self.row[t] + (k if steps else 0) for k in range(widest)] for t, steps in zip(item.tears, stepping, strict=True)]
        before: list[Records] = []
        passes = self.steps(item.nodes, frozenset(item.nodes), before)
        preparation = self._written((), before)
        match passes:
            case (Program() as program,):
                words = like_terms([preparation.records, program.records])
                del self._programs[-2:]
                preparation, passes = self._standing((), words[0]), (self._standing(program.nodes, words[1]),)
        return LoopSteps(item, preparation, passes, self.steps(item.nodes), np.array(rows, dtype=np.intp))
