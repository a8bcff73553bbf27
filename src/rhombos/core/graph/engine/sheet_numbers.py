"""The numbers of one sheet, and what the machine does with them."""

from collections.abc import Callable, Mapping, Sequence
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.calming import (
    CALM_AT,
    CALM_BUFFER,
    CALM_CONTEXT,
    CALM_GOING,
    CALM_INNER,
    CALM_NEAREST,
    CALM_OUTER,
    CALM_PASSES,
    GOES_WITHOUT,
    HANDS_ON,
    LENDS,
)
from rhombos.core.graph.engine.contest import Contest
from rhombos.core.graph.engine.desk import Desk, Round
from rhombos.core.graph.engine.judged import Judged, Judgements
from rhombos.core.graph.engine.layout import Layout
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.marking import Marks
from rhombos.core.graph.engine.numbers import Numbers
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.told import CONTEXT_BENCH, CONTEXT_ITERATING, CONTEXT_WEIGH, NOT, SAME, TURNED
from rhombos.core.graph.resting import Kept


class SheetNumbers(Numbers):
    """Values by node, computed, decided and put back by the machine."""

    def __init__(self, layout: Layout, corners: CornerSet, variants: int | None, laid: NDArray[np.float64] | None = None) -> None:
        super().__init__(layout, variants, laid)
        self._context_of(corners)
        self._judgements: Judgements | None = None
        self._rounds: dict[int, Round] = {}
        self._asked: Mapping[int, Values] = {}

    def _context_of(self, corners: CornerSet) -> None:
        """What the kernels are told of the corners, and where they work."""
        self._corners = corners
        self.work_at(self.layout.desk())

    def work_at(self, desk: Desk) -> None:
        """The kernels work at this desk from now on."""
        self._desk: Desk | None = desk
        self.flags, self.changed = desk.flags, desk.changed
        contexts = desk.contexts(self.layout.told_of(self._corners))
        self._context, self._contest_context = contexts.sheet, contexts.trial
        self._addresses = (int(self.buffer.ctypes.data), *contexts.addresses)

    def stand_by(self, judgements: Judgements, asked: Mapping[int, Values], desk: Desk | None) -> None:
        """These judgements are of these numbers, and what picks were asked with; the kernels work at this desk, or where they worked."""
        self._judgements, self._asked, self._rounds = judgements, asked, {}
        at = desk or self._desk
        assert at is not None, "a sheet that is finished is not worked on"
        self.work_at(at)

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
        """Work steps through from `first` on, as far as the machine can; returns the step before which it stopped.

        `how` is: whether loops are still iterated, how decisions are weighed, what is remembered of rejections, whether decisions are kept.
        """
        desk = self._desk
        assert desk is not None, "a sheet that is finished decides nothing"
        self._context[CONTEXT_ITERATING], self._context[CONTEXT_WEIGH], desk.how[0], desk.how[1] = how
        buffer, context, trial = self._addresses
        if self.variants is None:
            return MACHINE.pass_on(buffer, desk.round(steps, pinned).address, first, len(steps), context, self.layout.rows, desk.how_address)
        made = self._rounds.get(id(steps))  # the layout keeps them
        if made is None:
            made = self._rounds[id(steps)] = desk.round_of_many(steps, self.judgements, trial, pinned)
            self._asked = made.ask(self._asked)
        return MACHINE.pass_blocks(buffer, made.address, first, len(steps), context, self.layout.rows, desk.how_address, self.lanes)

    def calm(
        self, pinned: dict[int, int], starts: Values, state: tuple[int, int, bool, bool], passes: int, *, bare: bool
    ) -> tuple[int, list[int], int, NDArray[np.bool_]]:
        """Passes of a single sheet and the loops between them, up to so many: how they ended (`calming`), the state, which part of `to_rest` did not settle, and at which corners something stands in.

        The state is: the pass, its age, whether the build is a first guess, whether unknown values count, and (coming back) the most passes of a loop.
        A loop that runs away at a start goes on from the state before it, `bare` without.
        """
        assert self._desk is not None, "a sheet that is finished decides nothing"
        made = self._desk.calm(pinned)
        made.begin(self._by_vectors(starts))
        call = made.call
        call[CALM_BUFFER], call[CALM_CONTEXT] = self._addresses[:2]
        nearest = self.layout.nearest_of(self._corners)
        call[CALM_OUTER : CALM_PASSES + 1], call[CALM_NEAREST] = (*state, passes), nearest.ctypes.data
        call[CALM_INNER], call[CALM_GOING] = 0, GOES_WITHOUT if bare else LENDS if self._corners.lasts.any() else HANDS_ON
        how = MACHINE.calm(made.address)
        lent = made.lent.reshape(-1)[: self.layout.corners] > 0
        return how, [*call[CALM_OUTER:CALM_PASSES].tolist(), int(call[CALM_INNER])], made.places[call[CALM_AT]], lent

    def left_open(self, loop: LoopSteps) -> NDArray[np.bool_] | None:
        """Which elements did not settle when the machine last tried, as the buffer has them; None where there was nowhere to begin."""
        assert self._desk is not None, "a sheet that is finished settles nothing"
        room = self._desk.settling(loop, self.blocks)
        failed, *_ = room.outcome()
        return None if room.nowhere else failed

    @property
    def asked(self) -> Mapping[int, Values]:
        """By pick, of many variants, the inputs that it was asked with last."""
        return {**self._asked, **{pick: inputs for made in self._rounds.values() for pick, inputs in made.asked.items()}}

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
            self._judgements = Judgements(self.variants, self.layout.rooms)
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

    def forget(self) -> None:
        """Picks are judged anew, whatever was rejected and whatever they were asked last."""
        if self.variants is not None:
            self.judgements.forget()
            self._asked, self._rounds = {}, {}
        elif self._desk is not None:
            self._desk.forget()
        self.let_go()

    @property
    def keeps_sides(self) -> NDArray[np.bool_]:
        """Whether any decision has turned so often that it keeps to its side, of every variant."""
        # The lanes of a single sheet all say the same of a decision.
        courses = self.buffer[0, self.layout.sided_rows, :1] if self.variants is None else self.buffer[:, self.layout.sided_rows, :]
        found: NDArray[np.bool_] = (np.abs(courses) > 1 + TURNED).any(axis=-2).reshape(-1)[: self.lanes]
        return found

    @property
    def remembers(self) -> NDArray[np.bool_]:
        """Whether any decision keeps to its side, or a pick hangs on what it rejected, of every variant."""
        return self.keeps_sides | self.judgements.in_doubt

    def let_go(self) -> None:
        """No decision keeps to its side any more."""
        self.buffer[:, self.layout.course_rows, :] = 0.0

    def let_go_behind(self, changed: Sequence[int]) -> None:
        """What follows decisions and picks of a single sheet that have moved keeps to no side, wherever it came from."""
        following = self.layout.following
        for i in changed:
            if i in following:
                self.buffer[0, following[i]] = 0.0

    def decisions(self) -> tuple[NDArray[np.float64], NDArray[np.int64]]:
        """What is decided now, of many variants."""
        return self.buffer[:, self.layout.decided_rows, :], self.judgements.chosen.copy()

    def let_go_since(self, before: tuple[NDArray[np.float64], NDArray[np.int64]]) -> NDArray[np.bool_]:
        """What follows a decision or pick that has moved since keeps to no side, variant by variant; of which any has moved."""
        rows, chosen = before
        now = self.buffer[:, self.layout.decided_rows, :]
        moved = ~((np.abs(now - rows) <= SAME * np.abs(now)) | (np.isnan(now) & np.isnan(rows)))
        otherwise = (self.judgements.chosen != chosen).reshape(-1, self.blocks, LANES).swapaxes(0, 1)
        for leaders, lanes in ((self.layout.decided, moved), (tuple(self.layout.contests), otherwise)):
            for k in np.flatnonzero(lanes.any(axis=(0, 2))).tolist():
                for f in self.layout.plan.followers.get(leaders[k], ()):
                    course = self.buffer[:, self.layout.courses[f], :]
                    course[lanes[:, k]] = 0.0
        found: NDArray[np.bool_] = (moved.any(axis=1) | otherwise.any(axis=1)).reshape(-1)[: self.lanes]
        return found

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
        picks: NDArray[np.int64] = np.count_nonzero(self.judgements.chosen != then.picked[0], axis=0)[: self.lanes]
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
        self._judgements, self._rounds = None, {}
        if self._desk is not None:
            self.layout.give_back(self._desk)
            self._desk = None

    def publish(self, pick: int, chosen: NDArray[Any]) -> None:
        """Put in the columns of the part chosen, one for all variants or one each."""
        rows, table = self.layout.published[pick]
        if chosen.ndim == 0:
            self.buffer[:, rows, :] = table[chosen][:, None]
        else:
            self.buffer[:, rows, :] = self._laid(table[chosen])
