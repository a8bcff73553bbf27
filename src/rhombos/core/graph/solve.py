"""Solving a line-up: inner, the physical loops with the build held; outer, the build decided anew until it rests.

Every solve starts from declared starting values, never from an earlier sheet, so that the same inputs give the
same sheet whatever was typed before.
"""

from functools import partial
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Cause, Values, applied, context, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.judging import ALL_MISSES, AND_STAY, CLEAR_MISSES, NOTHING
from rhombos.core.graph.engine.kernels import COMPARE, NOT, SAFE_SIDE, SAME
from rhombos.core.graph.engine.layout import LoopSteps, Program, Step
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.errors import SolveError
from rhombos.core.graph.inputs import Build, Inputs, PartChoice
from rhombos.core.graph.loops import TOLERANCE, Failure, iterate
from rhombos.core.graph.picked import PickState
from rhombos.core.graph.picking import REJECTED_FROM, Judge, decide, place_of
from rhombos.core.graph.plan import Item
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.solvable import Solvable

MOST_OUTER_PASSES = 20
SAFE_SIDE_FROM, STAYING_FROM = 4, 8
JUDGED_FROM = 3
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
        self.masks: dict[int, NDArray[np.int8]] = {}
        self.causes: dict[int, list[Cause]] = {}
        self.picks: dict[int, PickState] = dict(build.picks) if build else {}
        self.pick_of = {p.index: p for p in self.wiring.picks}
        parts = {model.wiring.index[k]: p.value for k, p in inputs.pins.items() if isinstance(p.value, PartChoice)}
        self.pinned_part = {i: place_of(model.candidates[i], part) for i, part in parts.items()}
        self.asked: dict[int, Values] = {}
        self.reduced_without: dict[int, list[int]] = {}
        self.spreading = False
        self.reach: set[int] = set()  # what reads a figure that has been unknown somewhere
        # While a loop is judged: the masks of what it reads from outside.
        self.upstream: list[NDArray[np.int8]] | None = None
        self.settling = False
        self.weigh = NOT
        self.outer = 0
        self.inner = 0
        self.alternating: tuple[str, ...] = ()

    def sheet(self) -> Sheet:
        with seen(self.corners):
            if self.held is not None:
                self._converge(self.layout.held)
            else:
                self._decide()
            self.values.release()
            return self._finish()

    def _hold(self, build: Build) -> None:
        """Put in what the build decided, and let the loops start where its sheet came to rest, where that fits; leaves and pins come after."""
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
        self.outer = 1
        # What hangs on no starting value is computed, and is known or not, once and for all.
        self._compute(self.layout.still)
        self.settling = True
        context.iterating = True
        self._compute(self.layout.moving)
        self._settle_loops(ROUGH[0])
        last: list[int] = []
        while self.outer < MOST_OUTER_PASSES:
            self.outer += 1
            last = self._redecide()
            judged = not self.settling
            self.settling = self.outer < JUDGED_FROM
            context.iterating = self.settling
            if not last and judged:
                break
            self._settle_loops(ROUGH[min(self.outer, len(ROUGH)) - 1])
        self.settling = context.iterating = False
        self._converge(self.layout.after_loops)
        self.alternating = tuple(self.wiring.nodes[i].key for i in last)

    def _redecide(self) -> list[int]:
        """Decide anew, in line-up order; what follows from decisions is computed on the way. Returns what changed."""
        picked: list[int] = []
        self.values.changed.fill(0)
        self.weigh = SAFE_SIDE if self.outer >= SAFE_SIDE_FROM else COMPARE
        for step in self.layout.moving:
            if isinstance(step, Program):
                self._run(step)
            elif step in self.pick_of:
                chosen = self.picks[step].chosen
                self._evaluate(step)
                if not np.array_equal(chosen, self.picks[step].chosen):
                    picked.append(step)
            else:
                before = np.copy(self.values[step])
                self._evaluate(step)
                self._weigh(step, before)
        self.weigh = NOT
        return [*picked, *np.flatnonzero(self.values.changed).tolist()]

    def _compute(self, steps: tuple[Step, ...]) -> None:
        """Compute nodes in their order: compiled ones by their program, the others one by one."""
        for step in steps:
            if isinstance(step, Program):
                self._run(step)
            else:
                self._evaluate(step)

    def _run(self, program: Program) -> None:
        """Run a program; what it could not know, and what hangs on an unknown corner, is computed again with the masks."""
        values, masks, args = self.values, self.masks, self.plan.args
        before = {i: np.copy(values[i]) for i in program.decided} if self.weigh and not context.iterating else {}
        values.run(program, context.iterating, self.weigh)
        if context.iterating or (self.reach.isdisjoint(program.nodes) and masks.keys().isdisjoint(program.nodes) and not values.flags.any()):
            return
        flagged = set(np.flatnonzero(values.flags).tolist())
        for index in program.nodes:
            if index in flagged or (index in self.reach and any(a in masks for a in args[index])):
                self._evaluate(index)
                if index in before:
                    self._weigh(index, before[index])
            elif index in masks:
                self._unmask(index)
        values.flags.fill(0)

    def _weigh(self, index: int, before: Any) -> None:
        """Hold a decision that NumPy computed to its safe side, and say whether it changed: what the driver does for the others."""
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
            if failed and self.settling:
                self._begin_again(loop, np.any([where for where, *_ in failed.values()], axis=(0, -1)))
            elif failed:
                self.upstream = self._upstream_of(loop.item)
                self._fail_loops(failed)
                self.upstream = None

    def _begin_again(self, loop: LoopSteps, failed: NDArray[np.bool_]) -> None:
        """A first guess of the build may have no operation at all: the next one is decided from the starting values, where it `failed`."""
        starts = {t: float(self.wiring.nodes[t].figure.start or 0.0) for t in loop.item.tears}
        with self.values.spared(loop.item.nodes, ~failed):
            # Where a guess ran to must leave no trace.
            self.values.fill(starts)
            self._compute(loop.steps)
            self.values.fill(starts)

    def _start_unknown(self, item: Item) -> None:
        """Where a loop's starting value is not a number, the declared one."""
        for tear in item.tears:
            value = np.asarray(self.values[tear], dtype=float)
            if not np.isfinite(value).all():
                self.values[tear] = np.where(np.isfinite(value), value, float(self.wiring.nodes[tear].figure.start or 0.0))

    def _converge(self, parts: tuple[LoopSteps | tuple[Step, ...], ...]) -> None:
        """The inner solve: loops to rest with the build held, then everything behind them once."""
        self.values.flags.fill(0)
        for part in parts:
            if not isinstance(part, LoopSteps):
                self._compute(part)
                continue
            failed = self._iterate(part, TOLERANCE)
            if failed or context.doubtful or self.spreading:
                self._judge_loop(part.item, failed)

    def _judge_loop(self, item: Item, failed: dict[int, Failure]) -> None:
        """Compute a loop's nodes once more with unknown corners marked, from tears at rest."""
        tears = {t: self.values[t] for t in item.tears}
        self.upstream = self._upstream_of(item)
        self._fail_loops(failed)
        for index in item.nodes:
            if index in failed:
                continue
            self._evaluate(index)
            if index in tears and index not in self.masks:
                self.values[index] = tears[index]
        self.upstream = None

    def _upstream_of(self, item: Item) -> list[NDArray[np.int8]]:
        """The masks of what a loop reads from outside."""
        inside = set(item.nodes)
        return [self.masks[a] for i in item.nodes for a in self.plan.args[i] if a not in inside and a in self.masks]

    def _iterate(self, loop: LoopSteps, tolerance: float) -> dict[int, Failure]:
        """Iterate one loop from where it stands, unknown elements from their starting values; returns what did not settle."""
        self._start_unknown(loop.item)
        if self.masks:
            for index in loop.item.nodes:
                self.masks.pop(index, None)
                self.causes.pop(index, None)
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
            self._fail_loop(index, *failure)

    def _fail_loop(self, index: int, where: NDArray[np.bool_], residual: Values, passes: int) -> None:
        key = self.wiring.nodes[index].key
        cause = Cause(2, where, f"the loop through {key} does not settle: it runs away, residual {{residual}} after {passes} passes", {"residual": residual})
        value = np.atleast_1d(self.values[index])
        shape = np.broadcast_shapes(value.shape, where.shape)
        mask = np.zeros(shape, dtype=np.int8)
        mask[np.broadcast_to(where, shape)] = 2
        self.masks[index] = np.maximum(mask, self.masks[index]) if index in self.masks else mask
        self.spreading = True
        self.reach.update(self.wiring.children[index])
        own = cause.beyond(self.upstream or ())
        if own.where.any():
            self.causes.setdefault(index, []).append(own)
        self.values[index] = np.where(np.broadcast_to(where, shape), np.nan, value)

    def _evaluate(self, index: int) -> None:
        plan, values = self.plan, self.values
        kind = plan.kinds[index]
        if kind == "pick":
            self._pick(index)
            return
        fn = plan.functions[index]
        if fn is None:
            return
        args_of = plan.args[index]
        out = applied(fn, (values[a] for a in args_of))
        if kind == "build":
            out = self._one_value(index, out)
        elif type(out) is not np.ndarray or out.ndim == 0:
            out = np.atleast_1d(np.asarray(out, dtype=float))
        values[index] = out
        if context.causes or (self.spreading and (index in self.masks or any(a in self.masks for a in args_of))):
            self._mask(index, np.atleast_1d(out))
        elif index in self.masks:
            self._unmask(index)

    def _pick(self, index: int) -> None:
        """Judge candidates and publish the one chosen: by machine code where that can be had."""
        wired, candidates, values = self.pick_of[index], self.model.candidates[index], self.values
        contest, before, pinned = self.layout.contests.get(index), self.picks.get(index), self.pinned_part.get(index)
        kept = self.outer >= SAFE_SIDE_FROM
        if contest is None:
            cone = self.plan.cones[index]
            args = [self._as_it_stands(a) for a in cone.inputs]
            held = [self._as_it_stands(a) if kept else np.nan for a in cone.held]
            self.picks[index] = decide(candidates, Judge(wired, self.plan, candidates, self.corners, args, held), before, pinned, self.outer, stay=self.outer >= STAYING_FROM)
        else:
            inputs = values.gather(contest, kept=kept)
            former = self.asked.get(index)
            if self.outer >= REJECTED_FROM:
                self.asked[index] = inputs
            remember = (NOTHING, NOTHING, CLEAR_MISSES, ALL_MISSES)[min(self.outer, 3)] if self.outer < STAYING_FROM else AND_STAY
            judged = values.judge(contest, inputs, former, remember, pinned)
            single = values.variants is None
            chosen, fits = (judged.chosen[0], judged.fits[0]) if single else (judged.chosen.copy(), judged.fits.copy())
            self.picks[index] = PickState(chosen, fits, judged.rejected)
        values.publish(index, self.picks[index].chosen)

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

    def _own(self, sources: list[NDArray[np.int8]]) -> list[Cause]:
        """A formula's own causes: what it says of numbers that were unknown before it (within a loop: before the loop) is none."""
        causes = [cause.beyond(sources if self.upstream is None else self.upstream) for cause in context.causes]
        context.causes.clear()
        return [cause for cause in causes if cause.where.any()]

    def _mask(self, index: int, out: Values) -> None:
        """Carry the unknown mask: own causes and the parents' masks, unless a reduction left the corner out."""
        mask: NDArray[np.int8] | None = None
        self._unmask(index)
        sources = [self.masks[a] for a in self.plan.args[index] if a in self.masks]
        own = self._own(sources)
        if own:
            self.causes[index] = own
            sources += [np.where(np.atleast_1d(cause.where), cause.kind, 0).astype(np.int8) for cause in own]
        for source in sources:
            if out.shape[-1] == 1 and source.shape[-1] > 1:
                gone = np.flatnonzero(source.reshape(-1, source.shape[-1]).any(axis=0))
                self.reduced_without.setdefault(index, []).extend(int(g) for g in gone)
                source = source.min(axis=-1, keepdims=True)
            mask = source if mask is None else np.maximum(mask, source)
        if mask is not None and mask.any():
            shape = np.broadcast_shapes(mask.shape, out.shape)
            self.masks[index] = np.broadcast_to(mask, shape)
            # A mask on a figure that nothing reads (an efficiency without load) need not be looked for elsewhere.
            self.spreading = self.spreading or bool(self.wiring.children[index])
            self.reach.update(self.wiring.children[index])
            gone_values = np.where(mask > 0, np.nan, out)
            self.values[index] = float(gone_values[0]) if self.plan.kinds[index] == "build" and gone_values.size == 1 and gone_values.ndim == 1 else gone_values

    def _unmask(self, index: int) -> None:
        self.masks.pop(index, None)
        self.causes.pop(index, None)
        self.reduced_without.pop(index, None)

    def _finish(self) -> Sheet:
        computed: dict[int, Values] = {}
        for index in self.pinned:
            node = self.wiring.nodes[index]
            if node.fn is not None and node.args:
                context.causes.clear()
                computed[index] = np.atleast_1d(np.asarray(applied(node.fn, (self.values[a] for a in node.args)), dtype=float))
            elif node.figure.kind == "published" and node.args:
                pick = self.pick_of.get(node.args[0])
                state = self.picks.get(node.args[0])
                if pick is not None and state is not None:
                    column = node.figure.column
                    candidates = self.model.candidates[pick.index]
                    numbers = candidates.quantity if column == "quantity" else candidates.columns[column]
                    computed[index] = np.atleast_1d(numbers[state.chosen])
        return Sheet(
            self.wiring,
            self.corners,
            self.inputs,
            self.values,
            self.masks,
            self.causes,
            self.picks,
            self.pinned,
            computed,
            self.outer,
            self.inner,
            self.alternating,
            self.held is not None,
            self.reduced_without,
        )
