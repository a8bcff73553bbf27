"""The numbers of one sheet: a buffer that the kernels and NumPy both read and write."""

import math
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.contest import Contest, Judged, Judgements
from rhombos.core.graph.engine.desk import Desk
from rhombos.core.graph.engine.layout import Layout
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.marking import Marks
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.told import CONTEXT_BENCH, CONTEXT_ITERATING, CONTEXT_WEIGH, NOT, SAME, TURNED
from rhombos.core.graph.loops import Tears
from rhombos.core.graph.resting import Kept


class SheetNumbers:
    """Values by node. The buffer is (blocks, vectors, LANES).

    Of many variants a block holds all numbers of a few, a variant in every lane; spare lanes of the last block repeat
    the last variant. A single sheet has its corners in the lanes; spare lanes repeat the last corner. Reading gives a
    plain number or (corners,) for a single sheet, (variants, 1) or (variants, corners) for many.
    """

    def __init__(self, layout: Layout, corners: CornerSet, variants: int | None) -> None:
        self.layout = layout
        self.variants = variants
        self.lanes = variants or 1
        self.blocks = -(-self.lanes // LANES)
        self.buffer = aligned(self.blocks, layout.rows, LANES)
        # A pick may look at what is not computed yet, and a loop may begin at what has no number.
        self.buffer.fill(np.nan)
        rows, values = layout.beginning
        self.buffer[:, rows, :] = values[:, None]
        self.filled = list(layout.filled)
        self._context_of(corners)
        self._judgements: Judgements | None = None

    def _context_of(self, corners: CornerSet) -> None:
        """What the kernels are told of the corners, and where they work."""
        self._desk: Desk | None = self.layout.desk()
        self.flags, self.changed = self._desk.flags, self._desk.changed
        contexts = self._desk.contexts(self.layout.told_of(corners))
        self._context, self._contest_context = contexts.sheet, contexts.trial
        self._addresses = (int(self.buffer.ctypes.data), *contexts.addresses)

    def fill(self, given: Mapping[int, Any]) -> None:
        """Put in what is given: plain numbers together, arrays one by one."""
        layout = self.layout
        plain = {i: value for i, value in given.items() if type(value) is float and (layout.across or not layout.wide[i])}
        self.fill_plain(np.array(list(plain), dtype=np.intp), np.array(list(plain.values())))
        for i, value in given.items():
            if i not in plain:
                self[i] = value

    def fill_plain(self, nodes: NDArray[np.intp], numbers: NDArray[np.float64]) -> None:
        """Put in plain numbers, one for each node."""
        for i in nodes.tolist():
            self.filled[i] = True
        self.buffer[:, self.layout.rows_of[nodes][:, None] + self.layout.vectors, :] = numbers[:, None, None]

    def run(self, program: Program, iterating: bool, weigh: int = NOT) -> None:
        """Compute a program's nodes: `flags` are raised for those not known everywhere, `changed` for decisions that moved."""
        self._context[CONTEXT_ITERATING] = iterating
        self._context[CONTEXT_WEIGH] = weigh
        buffer, context, _ = self._addresses
        MACHINE.run(buffer, program.address, program.length, context, self.blocks, self.layout.rows)

    def mark(self, program: Program, marks: Marks, failed: NDArray[np.bool_] | None = None) -> None:
        """Carry what is unknown through a part of the sheet; `flags` are raised where a figure has a cause of its own.

        `failed` says where the loop of that part did not settle, as a value that has its corners.
        """
        self._context[CONTEXT_ITERATING], self._context[CONTEXT_WEIGH] = False, NOT
        bench, self._context[CONTEXT_BENCH] = self._context[CONTEXT_BENCH], marks.bench.ctypes.data
        buffer, context, _ = self._addresses
        where = None if failed is None else self._raw(failed.astype(float))
        for k in range(self.blocks):
            marks.block(k)
            if where is not None:
                marks.fail(where[k])
            MACHINE.run(buffer + k * self.buffer.strides[0], program.address, program.length, context, 1, self.layout.rows)
            marks.done(k)
        self._context[CONTEXT_BENCH] = bench

    def _raw(self, values: Values) -> Values:
        """(corners,) or (variants, corners) as the buffer has them: (blocks, vectors, LANES)."""
        if self.variants is not None:
            return self._laid(values)
        return self._across(values).reshape(1, -1, LANES)

    def _across(self, values: Values) -> Values:
        """(…, corners) across the lanes; spare ones repeat the last corner."""
        spread: Values = values[..., np.minimum(np.arange(self.layout.across * LANES), values.shape[-1] - 1)]
        return spread

    def gather(self, contest: Contest, *, kept: bool) -> Values:
        """A pick's inputs as they stand, a corner in every row: (inputs,) or (variants, inputs).

        Behind them what stands of decisions with a safe side, if that is `kept`.
        """
        if self.variants is None:
            gathered: Values = self.buffer.reshape(-1)[contest.numbers]
        else:
            gathered = np.ascontiguousarray(self.buffer[:, contest.numbers, :].swapaxes(1, 2).reshape(-1, contest.inputs)[: self.lanes])
        gathered[..., contest.held :] = np.where(kept & self._turned(contest), gathered[..., contest.held :], np.nan)
        return gathered

    def begin(self, pinned: dict[int, int]) -> None:
        """Nothing is decided; `pinned` says which candidate a pick is held to."""
        if self._desk is not None and self.variants is None:
            self._desk.begin(self._addresses[2], pinned)

    def pass_on(self, steps: tuple[Step, ...], first: int, pinned: dict[int, int], how: tuple[bool, int, int, bool]) -> int:
        """Work steps of a single sheet through from `first` on, as far as the machine can; returns the step before which it stopped.

        `how` is: whether loops are still iterated, how decisions are weighed, what is remembered of rejections, whether decisions are kept.
        """
        desk = self._desk
        assert desk is not None, "a sheet that is finished decides nothing"
        self._context[CONTEXT_ITERATING], self._context[CONTEXT_WEIGH], desk.how[0], desk.how[1] = how
        buffer, context, _ = self._addresses
        return MACHINE.pass_on(buffer, desk.round(steps, pinned).address, first, len(steps), context, self.layout.rows, desk.how_address)

    def judge(self, contest: Contest, gathered: Values, former: Values, how: tuple[bool, int, int | None]) -> None:
        """Decide a pick with the inputs of `gather`, where they are not as in `former`; for `how` see `Seat.judge`.

        Candidates are looked at in order of price up to the first that fits; of a pinned one only whether it fits is asked.
        """
        assert self._desk is not None, "a sheet that is finished judges nothing"
        seat = self._desk.seat(contest)
        self._contest_context[CONTEXT_BENCH] = seat.bench
        seat.judge(gathered, former, self.judged(contest), how, self._addresses[2])

    @property
    def judgements(self) -> Judgements:
        """What has been decided of the picks so far."""
        if self.variants is None and self._desk is not None:
            return self._desk.judgements
        if self._judgements is None:
            self._judgements = Judgements(self.lanes, self.layout.contests)
        return self._judgements

    def judged(self, contest: Contest) -> Judged:
        """What has been decided of one pick so far."""
        return self.judgements.of[contest.pick]

    def iterate(self, loop: LoopSteps, program: Program, tolerance: float, begin: Callable[[], None]) -> tuple[NDArray[np.bool_] | None, Values, int, bool]:
        """`loops.iterate` as native code, for a loop that is one program; and whether a condition was doubtful at rest.

        Where a starting value is no finite number, `begin` is asked for others.
        """
        assert self._desk is not None, "a sheet that is finished settles nothing"
        room = self._desk.settling(loop, self.blocks)
        self._context[CONTEXT_ITERATING] = True
        self._context[CONTEXT_WEIGH] = NOT
        buffer, context, _ = self._addresses
        MACHINE.iterate(buffer, program.address, program.length, context, self.blocks, self.layout.rows, tolerance, room.address)
        if room.nowhere:
            room.outcome()
            begin()
            MACHINE.iterate(buffer, program.address, program.length, context, self.blocks, self.layout.rows, tolerance, room.address)
        return room.outcome()

    @property
    def shape(self) -> tuple[int, ...]:
        """Of a value that has its corners: (corners,) or (variants, corners)."""
        return (self.layout.corners,) if self.variants is None else (self.lanes, self.layout.corners)

    def begun(self, loop: LoopSteps) -> NDArray[np.bool_]:
        """Whether every starting value of a loop is a finite number, of every variant."""
        if self.variants is None:
            # A sum is finite where all of it is.
            return np.array([math.isfinite(self.buffer[0, loop.flat_rows].sum())])
        finite: NDArray[np.bool_] = np.logical_and.reduce(np.isfinite(self.buffer[:, loop.flat_rows, :]), axis=1)
        return finite.reshape(-1)[: self.lanes]

    def operates(self, corners: NDArray[np.bool_]) -> bool:
        """Whether every loop has an operation at these corners."""
        return all(bool(np.isfinite(self.starts(loop))[..., corners].all()) for loop in self.layout.loops)

    def tears(self, loop: LoopSteps) -> Tears:
        """A loop's starting values, to be iterated."""
        return Tears(self.buffer, loop.tear_rows)

    def starts(self, loop: LoopSteps) -> Values:
        """A loop's starting values, (tears, corners) or (tears, variants, corners)."""
        numbers = self.tears(loop).read()
        if self.variants is None:
            found: Values = numbers[0].reshape(numbers.shape[1], -1)[:, : self.layout.corners]
        else:
            found = numbers.transpose(1, 0, 3, 2).reshape(numbers.shape[1], -1, numbers.shape[2])[:, : self.lanes]
        return found

    def put_starts(self, loop: LoopSteps, values: Values) -> None:
        """Put back what `starts` gave, moved."""
        if self.variants is None:
            self.buffer[0, loop.flat_rows] = self._across(values).reshape(-1, LANES)
            return
        for tear, value in zip(loop.item.tears, values, strict=True):
            self[tear] = value

    @contextmanager
    def spared(self, nodes: Sequence[int], variants: NDArray[np.bool_]) -> Iterator[None]:
        """Whatever happens to these nodes meanwhile, these variants have them afterwards as before."""
        rows = np.concatenate([np.arange(self.layout.row[i], self.layout.row[i] + self.layout.size[i]) for i in nodes])
        before = self.buffer[:, rows, :]
        yield
        if self.variants is not None and variants.any():
            lanes = np.pad(variants, (0, self.blocks * LANES - self.lanes), mode="edge").reshape(self.blocks, 1, LANES)
            self.buffer[:, rows, :] = np.where(lanes, before, self.buffer[:, rows, :])

    def forget(self) -> None:
        """Picks are judged anew, whatever was rejected and whatever they were asked last."""
        if self.variants is not None:
            self.judgements.forget()
        elif self._desk is not None:
            self._desk.forget()
        self.let_go()

    @property
    def keeps_sides(self) -> bool:
        """Whether any decision has turned so often that it keeps to its side."""
        return bool((np.abs(self.buffer[:, self.layout.sided_rows, :]) > 1 + TURNED).any())

    @property
    def remembers(self) -> bool:
        """Whether any decision keeps to its side, or a pick hangs on what it rejected."""
        return self.keeps_sides or bool(self.judgements.doubtful)

    def let_go(self) -> None:
        """No decision keeps to its side any more."""
        self.buffer[:, self.layout.course_rows, :] = 0.0

    def let_go_behind(self, changed: Sequence[int]) -> None:
        """What follows decisions and picks that have moved keeps to no side, wherever it came from."""
        rows = [row for i in changed if i in self.layout.following for row in self.layout.following[i]]
        if rows:
            self.buffer[:, rows, :] = 0.0

    def leading(self) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
        """What stands of the decisions and picks that others follow, of many variants."""
        return self.buffer[:, self.layout.leading_rows, :], self.judgements.chosen.copy()

    def let_go_since(self, before: tuple[NDArray[np.float64], NDArray[np.int64]]) -> None:
        """What follows a decision or pick that has moved since keeps to no side, variant by variant."""
        rows, chosen = before
        now = self.buffer[:, self.layout.leading_rows, :]
        moved = ~((np.abs(now - rows) <= SAME * np.abs(now)) | (np.isnan(now) & np.isnan(rows)))
        otherwise = self._laid((self.judgements.chosen != chosen).T.astype(float)) > 0
        followers = self.layout.plan.followers
        for leaders, lanes in ((self.layout.leading, moved), (self.layout.contests, otherwise)):
            for k, leader in enumerate(leaders):
                if leader in followers and lanes[:, k].any():
                    for f in followers[leader]:
                        course = self.buffer[:, self.layout.courses[f], :]
                        course[lanes[:, k]] = 0.0

    def kept(self) -> Kept:
        """What stands now, to come back to."""
        return Kept(self.buffer.copy(), tuple(a.copy() for a in self.judgements.remembered))

    def moved_from(self, then: Kept) -> NDArray[np.int64]:
        """How many decisions, and choices of picks judged in machine code, are others than they were then, of every variant."""
        rows = self.layout.decided_rows
        # The lanes of a single sheet all say the same of a decision.
        lanes = 1 if self.variants is None else LANES
        now, before = self.buffer[:, rows, :lanes], then.buffer[:, rows, :lanes]
        same = (np.abs(now - before) <= SAME * np.abs(now)) | (np.isnan(now) & np.isnan(before))
        count: NDArray[np.int64] = np.count_nonzero(~same, axis=1).reshape(-1)[: self.lanes]
        picks: NDArray[np.int64] = np.count_nonzero(self.judgements.chosen != then.picked[0], axis=0)
        return count + picks

    def put_back(self, then: Kept, where: NDArray[np.bool_]) -> None:
        """Let the variants `where` (of a single sheet: itself or not) stand as they stood then."""
        if not where.any():
            return
        if where.all():
            self.buffer[...] = then.buffer
        else:
            lanes = np.pad(where, (0, self.blocks * LANES - self.lanes), mode="edge").reshape(self.blocks, 1, LANES)
            np.copyto(self.buffer, then.buffer, where=lanes)
        self.judgements.put_back(then.picked, where)

    def _turned(self, contest: Contest) -> NDArray[np.bool_]:
        """Of which decisions of a contest the side is kept, (decisions,) or (variants, decisions)."""
        if self.variants is None:
            course = self.buffer.reshape(-1)[contest.courses]
        else:
            course = self.buffer[:, contest.courses, :].swapaxes(1, 2).reshape(self.blocks * LANES, -1)[: self.lanes]
        return np.abs(course) > 1 + TURNED

    def turned(self, index: int) -> Any:
        """Whether a decision has turned so often that it keeps to its safe side, of every variant."""
        return np.abs(self._course(index)) > 1 + TURNED

    def goes(self, index: int, before: Any, after: Any) -> Any:
        """Note which way a decision that NumPy computed goes, as the kernel does; whether it keeps to its safe side from now on."""
        course = self._course(index)
        same = (np.abs(after - before) <= SAME * np.abs(after)) | (np.isnan(before) & np.isnan(after))
        way = np.where(same, 0.0, np.sign(np.nan_to_num(after - before)))
        times = np.maximum(np.abs(course) + (way * course < 0), 1.0)
        now = np.where(way == 0, course, way * times)
        row = self.layout.courses[index]
        self.buffer[:, row : row + self.layout.writer.one, :] = now if self.variants is None else self._laid(now)
        return self.turned(index)

    def _course(self, index: int) -> Any:
        row = self.layout.courses[index]
        if self.variants is None:
            return self.buffer[0, row, :1].copy()
        return self.shown(self.buffer[:, row : row + 1, :])

    def release(self) -> None:
        """Let go of what only the solve needed."""
        self._judgements = None
        if self._desk is not None:
            self.layout.give_back(self._desk)
            self._desk = None

    def __getitem__(self, index: int) -> Any:
        if not self.filled[index]:
            return None
        row, layout = self.layout.row[index], self.layout
        if self.variants is None and not layout.wide[index] and self._plain(index):
            return self.buffer.item(0, row, 0)
        return self.shown(self.buffer[:, row : row + layout.size[index], :], layout.count[index])

    def lists(self) -> list[list[float] | None]:
        """Every node's values of a single sheet as plain numbers, None for those without."""
        flat = self.buffer[0].reshape(-1).tolist()
        layout = self.layout
        return [flat[row * LANES : row * LANES + count] if filled else None for row, count, filled in zip(layout.row, layout.count, self.filled, strict=True)]

    def of_checks(self) -> NDArray[np.float64]:
        """(4, checks, ..., corners): demand, capability, and the margins from which each check is tight and holds."""
        places, levels = self.layout.checks
        if self.variants is None:
            table: NDArray[np.float64] = self.buffer[0].reshape(-1)[places]
        else:
            table = self.buffer[:, places // LANES, :].transpose(1, 2, 0, 4, 3).reshape(*places.shape[:2], -1, places.shape[2])[:, :, : self.lanes]
        given = ~np.isnan(levels)
        table[given] = levels[given].reshape(-1, *[1] * (table.ndim - 2))
        return table

    def not_finite(self) -> frozenset[int]:
        """The nodes of a single sheet with a value that is not a finite number."""
        rows = np.flatnonzero(~np.isfinite(self.buffer[0]).all(axis=1))
        return frozenset((np.searchsorted(self.layout.row, rows, side="right") - 1).tolist())

    def _plain(self, index: int) -> bool:
        return self.layout.plan.kinds[index] not in ("operation", "collected")

    def publish(self, pick: int, chosen: NDArray[Any]) -> None:
        """Put in the columns of the part chosen, one for all variants or one each."""
        rows, table = self.layout.published[pick]
        if chosen.ndim == 0:
            self.buffer[:, rows, :] = table[chosen][:, None]
        else:
            self.buffer[:, rows, :] = self._laid(table[chosen])

    def _laid(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """(variants, rows) as the buffer has them, (blocks, rows, LANES); spare lanes repeat the last variant."""
        spare = self.blocks * LANES - self.lanes
        if spare:
            values = np.concatenate([values, np.repeat(values[-1:], spare, axis=0)])
        return values.reshape(self.blocks, LANES, -1).transpose(0, 2, 1)

    def __setitem__(self, index: int, value: Any) -> None:
        row, size = self.layout.row[index], self.layout.size[index]
        self.filled[index] = True
        if type(value) is float:
            self.buffer[:, row : row + size, :] = value
            return
        array = np.asarray(value, dtype=float)
        if self.layout.across:
            flat = array.reshape(-1)
            numbers = self.buffer[0, row : row + size].reshape(-1)
            numbers[: flat.size] = flat
            numbers[flat.size :] = flat[-1]
        elif array.ndim < 2:
            self.buffer[:, row : row + size, :] = array.reshape(-1, 1)
        else:
            self.buffer[:, row : row + size, :] = self._laid(np.broadcast_to(array, (self.lanes, size)))

    def shown(self, raw: NDArray[Any], count: int | None = None) -> NDArray[Any]:
        """From the buffer's order to (corners,) or (variants, corners); of a single sheet `count` corners."""
        if self.variants is None:
            return raw.reshape(-1)[: count or self.layout.corners].copy()
        return raw.transpose(0, 2, 1).reshape(-1, raw.shape[1])[: self.lanes]
