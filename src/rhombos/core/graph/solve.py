"""Solving a line-up: inner, the physical loops with the build held; outer, the build decided anew until it rests.

Every solve starts from declared starting values, never from an earlier sheet, so that the same inputs give the
same sheet whatever was typed before.
"""

from functools import partial
from heapq import heapify, heappop, heappush
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values, applied, context, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.judging import ALL_MISSES, AND_STAY, CLEAR_MISSES, NOTHING
from rhombos.core.graph.engine.kernels import COMPARE, NOT, SAFE_SIDE, SAME
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.errors import SolveError
from rhombos.core.graph.finishing import finished
from rhombos.core.graph.inputs import Build, Inputs, PartChoice
from rhombos.core.graph.loops import TOLERANCE, Failure, from_nearest, iterate
from rhombos.core.graph.picked import PickState
from rhombos.core.graph.picking import Judge, decide, place_of
from rhombos.core.graph.plan import Item
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.solvable import Solvable
from rhombos.core.graph.unknown import Unknowns

MOST_OUTER_PASSES = 30
SAFE_SIDE_FROM, STAYING_FROM = 4, 8
JUDGED_FROM = 3
FREE_PASSES = 2
"""How often decisions at rest are made anew without what was remembered and kept on the way."""
YOUNG_TO = 9
"""Up to this pass a runaway at a corner that lasts begins the age of a single sheet's decisions anew; later it is the verdict.
Of many sheets together none may wait for another."""
ROUGH = (1e-4, 1e-5, 1e-6)


class Run:
    """One solve in progress."""

    def __init__(self, model: Solvable, inputs: Inputs, corners: CornerSet, build: Build | None) -> None:
        self.model = model
        self.wiring = model.wiring
        self.inputs = inputs
        self.corners = corners
        self.held = build
        leaves, self.pinned = model.leaf_values(inputs, corners)
        self.plan = model.plan(self.pinned)
        wide = frozenset(i for i, v in leaves.items() if type(v) is not float and v.shape[-1] > 1)
        variants = max((v.shape[0] for v in leaves.values() if type(v) is not float and v.ndim > 1), default=None)
        self.layout = model.layout(self.pinned, wide, len(corners.ids), variants is None)
        self.values = SheetNumbers(self.layout, corners, variants)
        if build is not None:
            self._hold(build)
        self.values.fill(leaves)
        self.unknown = Unknowns(self.wiring, self.plan)
        self.picks: dict[int, PickState] = dict(build.picks) if build else {}
        self.pick_of = {p.index: p for p in self.wiring.picks}
        parts = {model.wiring.index[k]: p.value for k, p in inputs.pins.items() if isinstance(p.value, PartChoice)}
        self.pinned_part = {i: place_of(model.candidates[i], part) for i, part in parts.items()}
        self.asked: dict[int, Values] = {}
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

    def sheet(self) -> Sheet:
        with seen(self.corners):
            if self.held is not None:
                self._converge(self.layout.held)
            else:
                self._decide()
            self.values.release()
            return finished(self)

    def _hold(self, build: Build) -> None:
        """Put in what the build decided, the loops where its sheet came to rest; leaves and pins come after."""
        count = len(self.corners.ids)
        if self.values.variants is None:
            self.values.fill_plain(*build.plain)
            self.values.fill(build.others)
        else:
            self.values.fill(build.values)
        self.values.fill({i: v for i, v in build.rest.items() if np.size(v) in (1, count)})

    def _decide(self) -> None:
        """The outer passes. The first runs on starting values; each later one from a converged operation.

        The first guesses may stand where nothing exists, so values that are unknown count as they are until the
        build has been decided once from them; from then on unknown corners are left out. The build rests when no
        decision has changed.
        """
        self.outer = self.age = 1
        self.values.begin(self.pinned_part)
        # What hangs on no starting value is computed, and is known or not, once and for all.
        self._work(self.layout.still)
        self.settling = True
        context.iterating = True
        self._work(self.layout.moving)
        self._settle_loops(ROUGH[0])
        last: list[int] = []
        freed = 0
        while self.outer < MOST_OUTER_PASSES:
            self.outer += 1
            self.age += 1
            last = self._redecide()
            judged = not self.settling
            self.settling = self.age < JUDGED_FROM
            context.iterating = self.settling
            if not last and judged:
                if freed == FREE_PASSES:
                    break
                # At rest: decided once more freely, with nothing remembered of the way here.
                freed += 1
                self._forget()
                continue
            self.free = False
            self._settle_loops(ROUGH[min(self.outer, len(ROUGH)) - 1])
        self.settling = context.iterating = False
        self.judging = True
        self._converge(self.layout.held)
        while self.unknown.masks and self._judge_decisions():
            self.unknown.holding_causes(partial(self._converge, self.layout.held))
        self.alternating = tuple(self.wiring.nodes[i].key for i in last)
        for i, contest in self.layout.contests.items():
            self.picks[i] = self.values.judged(contest).state(single=self.values.variants is None)

    def _forget(self) -> None:
        """Begin a free pass: no rejection is remembered, no decision keeps to its side, and every pick is asked anew."""
        self.free = True
        self.asked.clear()
        self.values.forget()
        self.picks = {i: PickState(p.chosen, p.fits, np.zeros_like(p.rejected)) for i, p in self.picks.items()}

    def _judge_decisions(self) -> bool:
        """Say of decisions which corners they were made without; whether one more has nothing left to be made from.

        What is computed between two decisions is looked at on the way; where a loop lies between, the next turn sees it.
        """
        lost = False
        looped = {i for item in self.plan.items if item.tears for i in item.nodes}
        for index in self.plan.order:
            if index in self.pinned or index in looped or not self.unknown.concerns(index):
                continue
            if index not in self.plan.decided:
                if lost:
                    self._evaluate(index)
                continue
            known = index not in self.unknown.masks
            left = self.unknown.mark(index, np.atleast_1d(self.values[index]))
            if left is not None:
                self.values[index], lost = left, lost or known
        return lost

    def _redecide(self) -> list[int]:
        """Decide anew, in line-up order; what follows from decisions is computed on the way. Returns what changed."""
        self.values.changed.fill(0)
        self.weigh = SAFE_SIDE if self.kept else COMPARE
        self._work(self.layout.moving)
        self.weigh = NOT
        changed: list[int] = np.flatnonzero(self.values.changed).tolist()
        return changed

    @property
    def kept(self) -> bool:
        """Whether decisions keep to their safe side by now."""
        return self.age >= SAFE_SIDE_FROM and not self.free

    @property
    def remember(self) -> int:
        """What this pass remembers of rejections."""
        return AND_STAY if self.age >= STAYING_FROM else (NOTHING, NOTHING, CLEAR_MISSES, ALL_MISSES)[min(self.age, 3)]

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
        if self.judging and not (self.unknown.untouched(program.nodes) and not self.values.flags.any()):
            self._reconsider(program)

    def _reconsider(self, program: Program) -> None:
        """What a program could not know, and what hangs on it, by NumPy with the masks."""
        unknown, place = self.unknown, program.place
        waiting = [place[i] for i in {*np.flatnonzero(self.values.flags).tolist(), *(place.keys() & (unknown.reach | unknown.masks.keys()))}]
        flagged = set(waiting)
        heapify(waiting)
        while waiting:
            index = program.nodes[heappop(waiting)]
            if self.values.flags[index] or (index in unknown.reach and unknown.concerns(index)):
                self._evaluate(index)
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
            after = (np.fmax if figure.safe == "up" else np.fmin)(before, after)
        gap = np.abs(after - before)
        same = (gap <= SAME * np.abs(after)) | (np.isnan(before) & np.isnan(after)) | (before == after)
        self.values[index] = np.where(same, before, after)
        self.values.changed[index] = not same.all()

    def _settle_loops(self, tolerance: float) -> None:
        """Bring the loops to rest; what hangs on them is computed by the pass that follows, in line-up order."""
        for loop in self.layout.held:
            if not isinstance(loop, LoopSteps):
                continue
            failed = self._iterate(loop, tolerance)
            if not failed:
                continue
            where = np.any([where for where, *_ in failed.values()], axis=0)
            if self.values.variants is None and self.outer < YOUNG_TO and np.atleast_1d(where)[..., self.corners.lasting].any():
                # What was decided so far came out of a runaway: nothing of it is kept or remembered.
                self.age = 1
            nowhere = where & where.all(axis=-1, keepdims=True) & self.settling
            if nowhere.any():
                self._begin_again(loop, nowhere)
            for index in failed:
                self.values[index] = self._without(where & ~nowhere, np.atleast_1d(self.values[index]))

    def _without(self, gone: NDArray[np.bool_], value: Values) -> Values:
        """A loop's starting value where it runs away: none at a corner that lasts, what follows is decided without it.

        At a start the state that it begins from stands in, so that the start's watts are at least felt at that voltage.
        """
        if not (gone & ~self.corners.lasts).any() or value.shape[-1] != len(self.corners.ids):
            return np.where(gone, np.nan, value)
        before = np.where(gone, np.nan, value)[..., self.corners.before]
        return np.where(gone, np.where(self.corners.lasts, np.nan, before), value)

    def _begin_again(self, loop: LoopSteps, failed: NDArray[np.bool_]) -> None:
        """A first guess of the build may have no operation at any corner: the next one is decided from the starting values, where it `failed`."""
        starts = {t: np.where(failed, float(self.wiring.nodes[t].figure.start or 0.0), np.atleast_1d(self.values[t])) for t in loop.item.tears}
        with self.values.spared(loop.item.nodes, ~np.asarray(failed.any(axis=-1))):
            # Where a guess ran to must leave no trace.
            self.values.fill(starts)
            self._compute(loop.steps)
            self.values.fill(starts)

    def _start_unknown(self, loop: LoopSteps) -> None:
        """Where a loop's starting value is not a number, that of the nearest corner that has one, else the declared one."""
        if self.values.begun(loop):
            return
        for tear in loop.item.tears:
            self.values[tear] = from_nearest(np.atleast_1d(self.values[tear]), self.corners.nearest, float(self.wiring.nodes[tear].figure.start or 0.0))

    def _converge(self, parts: tuple[LoopSteps | tuple[Step, ...], ...]) -> None:
        """The inner solve: loops to rest with the build held, then everything behind them once."""
        self.values.flags.fill(0)
        for part in parts:
            if not isinstance(part, LoopSteps):
                self._compute(part)
                continue
            failed = self._iterate(part, TOLERANCE)
            if failed or context.doubtful or self.unknown.spreading:
                self._judge_loop(part.item, failed)

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

    def _iterate(self, loop: LoopSteps, tolerance: float) -> dict[int, Failure]:
        """Iterate one loop from where it stands, unknown elements from their starting values; returns what did not settle."""
        self._start_unknown(loop)
        if self.unknown.masks:
            for index in loop.item.nodes:
                self.unknown.clear(index)
        context.iterating = True
        match loop.passes:
            case (Program() as program,):
                failed, residual, passes, context.doubtful = self.values.iterate(loop, program, tolerance)
            case _:
                failed, residual, passes = iterate(partial(self._evaluate_loop, loop), self.values.tears(loop), tolerance)
                context.doubtful = context.doubtful or bool(self.values.flags.any())
        context.iterating = self.settling
        self.values.flags.fill(0)
        self.inner = max(self.inner, passes)
        if failed is None:
            return {}
        where = self.values.shown(failed)
        return {tear: (where, self.values.shown(residual[:, k]), passes) for k, tear in enumerate(loop.item.tears)}

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
            held = [self._as_it_stands(a) if self.kept else np.nan for a in cone.held]
            judge = Judge(wired, self.plan, candidates, self.corners, args, held)
            self.picks[index] = decide(candidates, judge, before, pinned, self.age, stay=self.remember == AND_STAY)
            former, chosen = None if before is None else before.chosen, self.picks[index].chosen
        else:
            inputs, judged = values.gather(contest, kept=self.kept), values.judged(contest)
            former = judged.chosen.copy()
            values.judge(contest, inputs, self.asked.get(index), self.remember, pinned)
            if self.remember != NOTHING:
                self.asked[index] = inputs
            chosen = judged.chosen[0] if values.variants is None else judged.chosen
        if former is None or not np.array_equal(np.reshape(former, -1), np.reshape(chosen, -1)):
            values.changed[index] = True
        values.publish(index, chosen)

    def _as_it_stands(self, index: int) -> Any:
        """A value now, since the buffer goes on; not a number where none has been computed yet."""
        value = self.values[index]
        return np.nan if value is None else np.array(value)

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
