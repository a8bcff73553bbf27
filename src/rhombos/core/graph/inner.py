"""The inner solve: one pass over a line-up's figures, and its physical loops brought to rest with the build held."""

from functools import partial
from heapq import heapify, heappop, heappush
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values, applied, context
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.judging import ALL_MISSES, AND_STAY, CLEAR_MISSES, NOTHING
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.told import NOT, SAFE_SIDE, SAFE_SIDE_FROM, SAME, STAYING_FROM
from rhombos.core.graph.errors import SolveError
from rhombos.core.graph.inputs import Build, Inputs, PartChoice
from rhombos.core.graph.loops import TOLERANCE, Failure, from_nearest, iterate
from rhombos.core.graph.marked import Marked
from rhombos.core.graph.picked import PickState
from rhombos.core.graph.picking import Judge, decide, place_of
from rhombos.core.graph.plan import Item
from rhombos.core.graph.solvable import Solvable
from rhombos.core.graph.unknown import Unknowns


class Inner:
    """One solve's numbers and all that is done to them within a pass: figures computed, decisions weighed, picks judged, loops settled."""

    def __init__(self, model: Solvable, inputs: Inputs, corners: CornerSet, build: Build | None) -> None:
        self.model = model
        self.wiring = model.wiring
        self.inputs = inputs
        self.corners = corners
        self.held = build
        leaves = model.leaves(inputs, corners)
        self.pinned = leaves.pinned
        self.plan = model.plan(self.pinned)
        self.layout = model.layout(self.pinned, leaves.wide, len(corners.ids), leaves.variants is None)
        laid = None if build is None else build.laid.get(self.layout)
        self.values = SheetNumbers(self.layout, corners, leaves.variants, laid)
        if build is not None and laid is None:
            self._hold(build)
        self.values.fill_plain(leaves.nodes, leaves.numbers)
        self.values.fill(leaves.arrays)
        self.marked = Marked(self.layout, self.values) if self.layout.markable else None
        """What is unknown, as the machine says it; where it cannot, `unknown` does."""
        self.unknown = Unknowns(self.wiring, self.plan)
        self.picks: dict[int, PickState] = dict(build.picks) if build else {}
        self.pick_of = {p.index: p for p in self.wiring.picks}
        parts = {model.wiring.index[k]: p.value for k, p in inputs.pins.items() if isinstance(p.value, PartChoice)}
        self.pinned_part = {i: place_of(model.candidates[i], part) for i, part in parts.items()}
        self.asked: dict[int, Values] = {}
        self.grown: Values | None = None
        """Of a single sheet that is decided all starting values as they begin in this brief."""
        self.settling = False
        self.judging = build is not None
        """Whether what is unknown is marked, with its causes: while decisions are made it is just no number."""
        self.weigh = NOT
        self.outer = 0
        self.age = 0
        """Passes since the last runaway at a corner that lasts: what is kept and remembered goes by it."""
        self.free = False
        self.inner = 0
        self.alternating: tuple[str, ...] = ()

    @property
    def kept(self) -> bool:
        """Whether decisions keep to their safe side by now."""
        return self.age >= SAFE_SIDE_FROM and not self.free

    @property
    def remember(self) -> int:
        """What this pass remembers of rejections."""
        return AND_STAY if self.age >= STAYING_FROM else (NOTHING, NOTHING, CLEAR_MISSES, ALL_MISSES)[min(self.age, 3)]

    def _hold(self, build: Build) -> None:
        """Put in what the build decided, the loops where its sheet came to rest; leaves and pins come after."""
        count = len(self.corners.ids)
        rest = {i: v for i, v in build.rest.items() if np.size(v) in (1, count) or np.shape(v)[:1] == (self.values.variants,)}
        self.values.fill({**build.values, **rest})
        if self.values.variants is None:
            build.laid[self.layout] = self.values.buffer[0].copy()

    def _work(self, steps: tuple[Step, ...]) -> None:
        """Compute and decide steps in their order: by the machine as far as it can, else one by one."""
        at = 0
        while at < len(steps):
            if self.layout.whole:
                at = self.values.pass_on(steps, at, self.pinned_part, (context.iterating, self.weigh, self.remember, self.kept))
                if at == len(steps):
                    return
            self._step(steps[at])
            at += 1

    def _step(self, step: Step) -> None:
        """One step: a program, a pick, or a node that is left to NumPy."""
        if isinstance(step, Program):
            self._run(step)
        elif step in self.pick_of:
            self._pick(step)
        else:
            before = np.copy(self.values[step]) if self.weigh else None
            self._evaluate(step)
            if before is not None:
                self._weigh(step, before)

    def _compute(self, steps: tuple[Step, ...]) -> None:
        """Compute nodes in their order, one step at a time."""
        for step in steps:
            self._step(step)

    def _run(self, program: Program) -> None:
        """Run a program; what it could not know, and what hangs on an unknown corner, is computed again with the masks."""
        self.values.run(program, context.iterating, self.weigh)
        if self.judging and self.marked is None and not (self.unknown.untouched(program.nodes) and not self.values.flags.any()):
            self._reconsider(program)

    def _reconsider(self, program: Program) -> None:
        """What a program could not know, and what hangs on it, by NumPy with the masks."""
        unknown, place = self.unknown, program.place
        waiting = [place[i] for i in {*np.flatnonzero(self.values.flags).tolist(), *(place.keys() & (unknown.reach | unknown.masks.keys()))}]
        flagged: set[int] = set(waiting)
        # What has other values now than the machine had when it went on.
        otherwise: set[int] = set()
        heapify(waiting)
        while waiting:
            index = program.nodes[heappop(waiting)]
            if self.values.flags[index] or not otherwise.isdisjoint(self.plan.args[index]):
                before = np.copy(self.values[index])
                self._evaluate(index)
                if not np.array_equal(before, self.values[index], equal_nan=True):
                    otherwise.add(index)
            elif index in unknown.reach and unknown.concerns(index):
                # What the machine made of numbers that are not known stands, but where a condition chose a number all the same.
                out = np.atleast_1d(self.values[index])
                left = unknown.mark(index, out)
                if left is not None and not np.array_equal(out, left, equal_nan=True):
                    self.values[index] = float(left[0]) if left.shape == (1,) and self.plan.kinds[index] == "build" else left
                    otherwise.add(index)
            else:
                unknown.clear(index)
            if index in unknown.masks:
                for reader in self.wiring.children[index]:
                    if reader in place and place[reader] not in flagged:
                        flagged.add(place[reader])
                        heappush(waiting, place[reader])
        self.values.flags.fill(0)

    def _weigh(self, index: int, before: Any) -> None:
        """Hold a decision that NumPy computed to its safe side, and say whether it changed: what the machine does for the others."""
        figure, after = self.wiring.nodes[index].figure, np.asarray(self.values[index])
        if not figure.decided:
            return
        if figure.safe is not None and self.weigh == SAFE_SIDE:
            held = (np.fmax if figure.safe == "up" else np.fmin)(before, after)
            after = np.where(self.values.goes(index, before, after), held, after)
        gap = np.abs(after - before)
        same = (gap <= SAME * np.abs(after)) | (np.isnan(before) & np.isnan(after)) | (before == after)
        self.values[index] = np.where(same, before, after)
        self.values.changed[index] = not same.all()

    def _converge(self, parts: tuple[LoopSteps | tuple[Step, ...], ...]) -> None:
        """The inner solve: loops to rest with the build held, then everything behind them once."""
        self.values.flags.fill(0)
        for part in parts:
            if not isinstance(part, LoopSteps):
                self._compute(part)
                if self.marked is not None and (self.marked.spreading or self.values.flags.any()):
                    self.marked.part(part)
                continue
            failed = self._iterate(part, TOLERANCE)
            if not (failed or context.doubtful or self.spreading):
                continue
            if self.marked is not None:
                self.marked.loop(part, failed)
            else:
                self._judge_loop(part.item, failed)

    @property
    def spreading(self) -> bool:
        """Whether something is unknown that other figures read."""
        return self.unknown.spreading if self.marked is None else self.marked.spreading

    def _judge_loop(self, item: Item, failed: dict[int, Failure]) -> None:
        """Compute a loop's nodes once more with unknown corners marked, from tears at rest."""
        tears = {t: self.values[t] for t in item.tears}
        self.unknown.judging(item)
        self._fail_loops(failed)
        for index in item.nodes:
            if index in failed:
                continue
            self._evaluate(index)
            if index in tears:
                mask = self.unknown.masks.get(index)
                self.values[index] = tears[index] if mask is None else np.where(mask > 0, np.nan, tears[index])
        self.unknown.judging(None)

    def _start_unknown(self, loop: LoopSteps) -> None:
        """Where a loop's starting value is not a number, that of the nearest corner that has one, else where it begins."""
        values = self.values.starts(loop)
        begins = self._begins(loop)
        self.values.put_starts(
            loop, from_nearest(values, self.corners.nearest, begins.reshape(len(begins), *[1] * (values.ndim - begins.ndim), *begins.shape[1:]))
        )

    def _begins(self, loop: LoopSteps) -> Values:
        """Where a loop's starting values begin in this brief: (tears, corners or 1) or (tears, variants, corners or 1)."""
        starts = self.layout.starts
        grown = starts.grown(self.values.__getitem__) if self.grown is None else self.grown
        return grown[starts.places(loop.item.tears)]

    def _iterate(self, loop: LoopSteps, tolerance: float) -> dict[int, Failure]:
        """Iterate one loop from where it stands, unknown elements from their starting values; returns what did not settle."""
        failed, residual, passes = self._settle(loop, tolerance)
        if failed is None:
            return {}
        where = self.values.shown(failed)
        return {tear: (where, self.values.shown(residual[:, k]), passes) for k, tear in enumerate(loop.item.tears)}

    def _unsettled(self, loop: LoopSteps, tolerance: float, *, begun: bool = False) -> NDArray[np.bool_] | None:
        """The same, and only where it did not settle; `begun`, the machine has tried already."""
        failed = self.values.left_open(loop) if begun else None
        if failed is None:
            failed, *_ = self._settle(loop, tolerance)
        return None if failed is None else self.values.shown(failed)

    def _settle(self, loop: LoopSteps, tolerance: float) -> tuple[NDArray[np.bool_] | None, Values, int]:
        """Elements that did not settle, as the buffer has them, their residuals, and the passes."""
        if self.unknown.masks:
            for index in loop.item.nodes:
                self.unknown.clear(index)
        context.iterating = True
        match loop.passes:
            case (Program() as program,):
                failed, residual, passes, context.doubtful = self.values.iterate(loop, program, tolerance, partial(self._start_unknown, loop))
            case _:
                self._start_unknown(loop)
                failed, residual, passes = iterate(partial(self._evaluate_loop, loop), self.values.tears(loop), tolerance)
                context.doubtful = context.doubtful or bool(self.values.flags.any())
        context.iterating = self.settling
        self.values.flags.fill(0)
        self.inner = max(self.inner, passes)
        return failed, residual, passes

    def _evaluate_loop(self, loop: LoopSteps) -> None:
        """One pass over a loop that NumPy has a part in."""
        context.doubtful = False
        self.values.flags.fill(0)
        self._compute(loop.steps)

    def _fail_loops(self, failed: dict[int, Failure]) -> None:
        """What a figure itself says of the state it ran into comes first, then that it ran."""
        for index, failure in failed.items():
            self._evaluate(index)
            self.values[index] = self.unknown.fail(index, failure, np.atleast_1d(self.values[index]))

    def _evaluate(self, index: int) -> None:
        plan, values, unknown = self.plan, self.values, self.unknown
        fn = plan.functions[index]
        if fn is None:
            return
        out = applied(fn, (values[a] for a in plan.args[index]))
        if plan.kinds[index] == "build":
            out = self._one_value(index, out)
        elif type(out) is not np.ndarray or out.ndim == 0:
            out = np.atleast_1d(np.asarray(out, dtype=float))
        values[index] = out
        if not self.judging:
            context.causes.clear()
        elif context.causes or (unknown.spreading and (index in unknown.masks or unknown.concerns(index))):
            left = unknown.mark(index, np.atleast_1d(out))
            if left is not None:
                values[index] = float(left[0]) if plan.kinds[index] == "build" and left.size == 1 and left.ndim == 1 else left
        elif index in unknown.masks:
            unknown.clear(index)

    def _pick(self, index: int) -> None:
        """Judge candidates and publish the one chosen: by machine code where that can be had."""
        wired, candidates, values = self.pick_of[index], self.model.candidates[index], self.values
        contest, before, pinned = self.layout.contests.get(index), self.picks.get(index), self.pinned_part.get(index)
        if contest is None:
            cone = self.plan.cones[index]
            args = [self._as_it_stands(a) for a in cone.inputs]
            held = [np.where(self.kept & self.values.turned(a), self._as_it_stands(a), np.nan) for a in cone.held]
            judge = Judge(wired, self.plan, candidates, self.corners, args, held)
            self.picks[index] = decide(candidates, judge, before, pinned, self.remember)
            former, chosen = None if before is None else before.chosen, self.picks[index].chosen
        else:
            inputs, judged = values.gather(contest, kept=self.kept), values.judged(contest)
            former = judged.chosen.copy()
            asked = self.asked.pop(index, None)
            last = np.empty_like(inputs) if asked is None else asked
            values.judge(contest, inputs, last, (asked is not None, self.remember, pinned))
            if self.remember != NOTHING:
                self.asked[index] = last
            chosen = judged.chosen[0] if values.variants is None else judged.chosen
        if former is None or not np.array_equal(np.reshape(former, -1), np.reshape(chosen, -1)):
            values.changed[index] = True
        values.publish(index, chosen)

    def _as_it_stands(self, index: int) -> Any:
        """A value now, since the buffer goes on; not a number where none has been computed yet."""
        return np.array(self.values[index])

    def _one_value(self, index: int, out: Any) -> Any:
        """A build figure's value: a plain number, or (variants, 1); refuses one that differs per corner."""
        if type(out) is float:
            return out
        if np.ndim(out) == 0:
            return float(out)
        if out.shape[-1] != 1:
            key = self.wiring.nodes[index].key
            raise SolveError(f"{key} is a build figure, yet it differs from corner to corner: reduce it with highest(), lowest() or highest_lasting()", key=key)
        return float(out[0]) if out.ndim == 1 else out
