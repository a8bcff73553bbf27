"""Solving a line-up: inner, the physical loops with the build held; outer, the build decided anew until it rests.

Every solve starts from declared starting values, never from an earlier sheet, so that the same inputs give the
same sheet whatever was typed before.
"""

from typing import TYPE_CHECKING, Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.errors import SolveError
from rhombos.core.graph.inputs import Build, Inputs, PartChoice
from rhombos.core.graph.loops import TOLERANCE, Failure, iterate
from rhombos.core.graph.numeric import Cause, Values, context
from rhombos.core.graph.picked import PickState
from rhombos.core.graph.picking import decide
from rhombos.core.graph.plan import Item, Plan
from rhombos.core.graph.sheet import Sheet

if TYPE_CHECKING:
    from rhombos.core.graph.model import Model

MOST_OUTER_PASSES = 20
SAFE_SIDE_FROM = 4
JUDGED_FROM = 3
SAME = 1e-7
ROUGH = (1e-4, 1e-5, 1e-6)


class Run:
    """One solve in progress."""

    def __init__(self, model: "Model", inputs: Inputs, corners: CornerSet, build: Build | None) -> None:
        self.model = model
        self.wiring = model.wiring
        self.inputs = inputs
        self.corners = corners
        self.held = build
        self.values, self.pinned = model.leaf_values(inputs, corners)
        self.plan: Plan = model.plan(self.pinned)
        self.masks: dict[int, NDArray[np.int8]] = {}
        self.causes: dict[int, list[Cause]] = {}
        self.picks: dict[int, PickState] = dict(build.picks) if build else {}
        self.part_pins = {model.wiring.index[k]: p.value for k, p in inputs.pins.items() if isinstance(p.value, PartChoice)}
        self.pick_of = {p.index: p for p in self.wiring.picks}
        self.reduced_without: dict[int, list[int]] = {}
        self.spreading = False
        self.settling = False
        self.outer = 0
        self.inner = 0
        self.alternating: tuple[str, ...] = ()
        for index in self.plan.starts:
            self.values[index] = float(self.wiring.nodes[index].figure.start or 0.0)

    def sheet(self) -> Sheet:
        context.lasting, context.before_surge = self.corners.lasting, self.corners.before_surge
        context.causes.clear()
        try:
            if self.held is not None:
                self._hold(self.held)
                self._converge(self.plan.items, TOLERANCE)
            else:
                self._decide()
            return self._finish()
        finally:
            context.iterating = False
            context.lasting = context.before_surge = None
            context.causes.clear()

    def _hold(self, build: Build) -> None:
        for index, value in build.values.items():
            if index not in self.pinned:
                self.values[index] = value
        for index, value in build.rest.items():
            fits = np.size(value) in (1, len(self.corners.ids)) and np.isfinite(value).all()
            if index not in self.pinned and index not in build.values and fits:
                self.values[index] = value

    def _decide(self) -> None:
        """The outer passes. The first runs on starting values; each later one from a converged operation.

        The first guesses may stand where nothing exists, so values that are unknown count as they are until the
        build has been decided once from them; from then on unknown corners are left out. The build rests when no
        decision has changed.
        """
        self.outer = 1
        self.settling = True
        context.iterating = True
        for index in self.plan.order:
            if index not in self.pinned or index in self.part_pins:
                self._evaluate(index)
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
        self._converge(self.plan.after_loops, TOLERANCE)
        self.alternating = tuple(self.wiring.nodes[i].key for i in last)

    def _redecide(self) -> list[int]:
        """Decide anew, in line-up order; what follows from decisions is computed on the way. Returns what changed."""
        changed: list[int] = []
        kinds, decided = self.plan.kinds, self.plan.decided
        values, picks = self.values, self.picks
        for index in self.plan.moving:
            if index in decided:
                before = values[index]
                self._evaluate(index)
                if self.outer >= SAFE_SIDE_FROM:
                    self._towards_safe_side(index, before)
                if _same(before, values[index]):
                    values[index] = before
                else:
                    changed.append(index)
            elif kinds[index] == "pick":
                chosen = picks[index].chosen
                self._evaluate(index)
                if not np.array_equal(chosen, picks[index].chosen):
                    changed.append(index)
            else:
                self._evaluate(index)
        return changed

    def _settle_loops(self, tolerance: float) -> None:
        """Bring the loops to rest; what hangs on them is computed by the pass that follows, in line-up order."""
        for item in self.plan.items:
            failed = self._iterate(item, tolerance) if item.tears else {}
            if failed and self.settling:
                self._begin_again(item)
            else:
                for index, failure in failed.items():
                    self._evaluate(index)
                    self._fail_loop(index, *failure)

    def _begin_again(self, item: Item) -> None:
        """A first guess of the build may have no operation at all: the next one is decided from the starting values."""
        for tear in item.tears:
            start = float(self.wiring.nodes[tear].figure.start or 0.0)
            value = np.asarray(self.values[tear], dtype=float)
            self.values[tear] = np.where(np.isfinite(value), value, start)
        for index in item.nodes:
            if index not in item.tears:
                self._evaluate(index)

    def _towards_safe_side(self, index: int, before: Any) -> None:
        """From the fourth pass on integers and preferred values move only to their declared safe side."""
        safe = self.wiring.nodes[index].figure.safe
        if safe is not None:
            side = np.fmax if safe == "up" else np.fmin
            moved = side(before, self.values[index])
            self.values[index] = float(moved) if np.ndim(moved) == 0 else moved

    def _converge(self, items: list[Any], tolerance: float) -> None:
        """The inner solve: loops to rest with the build held, then everything behind them once."""
        for item in items:
            if not item.tears:
                for index in item.nodes:
                    self._evaluate(index)
                continue
            failed = self._iterate(item, tolerance)
            if failed or context.doubtful or self.spreading:
                self._judge_loop(item, failed)

    def _judge_loop(self, item: Item, failed: dict[int, Failure]) -> None:
        """Compute a loop's nodes once more with unknown corners marked, from tears at rest."""
        tears = {t: self.values[t] for t in item.tears}
        for index, failure in failed.items():
            # What the figure itself says of the state it ran into comes first, then that it ran.
            self._evaluate(index)
            self._fail_loop(index, *failure)
        for index in item.nodes:
            if index in failed:
                continue
            self._evaluate(index)
            if index in tears and index not in self.masks:
                self.values[index] = tears[index]

    def _iterate(self, item: Item, tolerance: float) -> dict[int, Failure]:
        """Iterate one loop from where it stands, unknown elements from their starting values; returns what did not settle."""
        for tear in item.tears:
            start = float(self.wiring.nodes[tear].figure.start or 0.0)
            if np.isnan(self.values[tear]).any():
                self.values[tear] = np.where(np.isnan(self.values[tear]), start, self.values[tear])
        for index in item.nodes:
            self.masks.pop(index, None)
            self.causes.pop(index, None)
        context.iterating = True
        failed, passes = iterate(self.values, [self._step(i) for i in item.nodes], item.tears, tolerance)
        context.iterating = self.settling
        self.inner = max(self.inner, passes)
        return failed

    def _step(self, index: int) -> tuple[Any, tuple[int, ...], int]:
        node = self.wiring.nodes[index]
        return (node.fn, self.plan.args[index], index)

    def _fail_loop(self, index: int, where: NDArray[np.bool_], residual: Values, passes: int) -> None:
        key = self.wiring.nodes[index].key
        cause = Cause(2, where, f"the loop through {key} does not settle: it runs away, residual {{residual}} after {passes} passes", {"residual": residual})
        value = np.atleast_1d(self.values[index])
        shape = np.broadcast_shapes(value.shape, where.shape)
        mask = np.zeros(shape, dtype=np.int8)
        mask[np.broadcast_to(where, shape)] = 2
        self.masks[index] = np.maximum(mask, self.masks[index]) if index in self.masks else mask
        self.spreading = True
        self.causes.setdefault(index, []).append(cause)
        self.values[index] = np.where(np.broadcast_to(where, shape), np.nan, value)

    def _evaluate(self, index: int) -> None:
        plan, values = self.plan, self.values
        kind = plan.kinds[index]
        if kind == "pick":
            args = [values[a] for a in plan.args[index]]
            self.picks[index] = decide(self.pick_of[index], self.model.candidates[index], args, self.picks.get(index), self.part_pins.get(index), self.outer)
            self._publish(index)
            return
        fn = plan.functions[index]
        if fn is None:
            return
        args_of = plan.args[index]
        out = fn(*[values[a] for a in args_of])
        if kind == "build":
            out = self._one_value(index, out)
        elif type(out) is not np.ndarray or out.ndim == 0:
            out = np.atleast_1d(np.asarray(out, dtype=float))
        values[index] = out
        if context.causes or (self.spreading and (index in self.masks or any(a in self.masks for a in args_of))):
            self._mask(index, np.atleast_1d(out))
        elif index in self.masks:
            self._unmask(index)

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

    def _publish(self, index: int) -> None:
        state, candidates = self.picks[index], self.model.candidates[index]
        for column, target in self.pick_of[index].published:
            if target in self.pinned:
                continue
            numbers = candidates.quantity if column == "quantity" else candidates.columns[column]
            self.values[target] = float(numbers[state.chosen]) if state.chosen.ndim == 0 else numbers[state.chosen][:, None]

    def _mask(self, index: int, out: Values) -> None:
        """Carry the unknown mask: own causes and the parents' masks, unless a reduction left the corner out."""
        mask: NDArray[np.int8] | None = None
        self.masks.pop(index, None)
        self.causes.pop(index, None)
        self.reduced_without.pop(index, None)
        sources = [self.masks[a] for a in self.plan.args[index] if a in self.masks]
        if context.causes:
            self.causes[index] = list(context.causes)
            sources += [np.where(np.atleast_1d(cause.where), cause.kind, 0).astype(np.int8) for cause in context.causes]
            context.causes.clear()
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
                computed[index] = np.atleast_1d(np.asarray(node.fn(*[self.values[a] for a in node.args]), dtype=float))
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


def _same(before: Any, after: Any) -> bool:
    if type(before) is float and type(after) is float:
        return abs(after - before) <= SAME * abs(after) or before == after or (before != before and after != after)
    before, after = np.asarray(before), np.asarray(after)
    gap = np.abs(after - before)
    return bool(np.all((gap <= SAME * np.abs(after)) | (np.isnan(before) & np.isnan(after)) | (before == after)))
