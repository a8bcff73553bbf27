"""Where one solve works: room that the next one uses again, and the steps of a whole pass as the machine takes them."""

from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.contest import Contest, Judgements, Seat
from rhombos.core.graph.engine.iteration import CALL_NOWHERE, CALL_PASSES, scratch_vectors
from rhombos.core.graph.engine.passing import (
    LEFT,
    PICK,
    RUN,
    STEP_ADDRESS,
    STEP_ASKED,
    STEP_BENCH,
    STEP_COURSES,
    STEP_FORMER,
    STEP_GIVEN,
    STEP_HELD,
    STEP_KIND,
    STEP_LENGTH,
    STEP_NODE,
    STEP_NUMBERS,
    STEP_PINNED,
    STEP_ROWS,
    STEP_SHOWN,
    STEP_TABLE,
    STEP_WORDS,
)
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.told import CONTEXT_ITERATING, NOT, TRIAL

if TYPE_CHECKING:
    from rhombos.core.graph.engine.layout import Layout


class Desk:
    """Where one solve works: the bench with its constants in place, and a seat for every pick that has been judged."""

    def __init__(self, layout: "Layout") -> None:
        self.layout = layout
        self.bench = layout.writer.bench(LANES)
        self.flags, self.changed = (np.zeros(len(layout.row), dtype=np.uint8) for _ in range(2))
        """By node: what a condition says of it, and whether it is a decision that moved."""
        self.how = np.zeros(2, dtype=np.int64)
        self.how_address = int(self.how.ctypes.data)
        """How a pass is made (see `passing`)."""
        self.judgements = Judgements(1, layout.contests)
        """What is decided of the picks of a single sheet."""
        self._seats: dict[int, Seat] = {}
        self._rounds: dict[int, Round] = {}
        self._settling: dict[int, Settling] = {}
        self._contexts: Contexts | None = None

    def contexts(self, told: tuple[NDArray[np.generic], ...]) -> "Contexts":
        """What the machine is told, of corners that `Layout.told_of` has told of."""
        self.flags.fill(0)
        self.changed.fill(0)
        if self._contexts is None or self._contexts.told is not told:
            self._contexts = Contexts(told, self)
        return self._contexts

    def settling(self, loop: LoopSteps, blocks: int) -> "Settling":
        """Room for bringing a loop to rest."""
        if blocks > 1:
            return Settling(loop, blocks, len(self.flags))
        key = id(loop)  # the layout keeps them for as long as it has desks
        if key not in self._settling:
            self._settling[key] = Settling(loop, 1, len(self.flags))
        return self._settling[key]

    def seat(self, contest: Contest) -> Seat:
        if contest.pick not in self._seats:
            self._seats[contest.pick] = Seat(contest, self.judgements.of[contest.pick])
        return self._seats[contest.pick]

    def begin(self, context: int, pinned: dict[int, int]) -> None:
        """Nothing is decided; `context` is where the contests' context lies, `pinned` which candidate a pick is held to."""
        self.judgements.clear()
        for contest in self.layout.contests.values():
            self.seat(contest).begin(context, pinned.get(contest.pick))
        for made in self._rounds.values():
            made.begin(pinned)

    def forget(self) -> None:
        """No pick remembers a rejection, nor what it was asked last."""
        self.judgements.forget()
        for made in self._rounds.values():
            made.forget()

    def round(self, steps: tuple[Step, ...], pinned: dict[int, int]) -> "Round":
        """The steps of a pass of a single sheet as the machine takes them."""
        key = id(steps)  # the layout keeps them for as long as it has desks
        if key not in self._rounds:
            self._rounds[key] = Round(steps, self)
            self._rounds[key].begin(pinned)
        return self._rounds[key]


class Contexts:
    """What the machine is told of a sheet, and of the trials of its picks."""

    def __init__(self, told: tuple[NDArray[np.generic], ...], desk: Desk) -> None:
        self.told = told
        lasting, before, *in_rows = (a.ctypes.data for a in told)
        own, rows = [lasting, before, desk.flags.ctypes.data], [*in_rows, desk.flags.ctypes.data]
        self.sheet, self.trial = (np.array([0, *a, NOT, desk.changed.ctypes.data, desk.bench.ctypes.data], dtype=np.int64) for a in (own, rows))
        self.trial[CONTEXT_ITERATING] = TRIAL
        self.addresses = int(self.sheet.ctypes.data), int(self.trial.ctypes.data)


class Settling:
    """A loop being brought to rest: the call, room for its history, and where what did not settle is written."""

    def __init__(self, loop: LoopSteps, blocks: int, flags: int) -> None:
        self.loop = loop
        tears, vectors = loop.tear_rows.shape
        scratch, rows = aligned(scratch_vectors(tears, vectors), LANES), np.ascontiguousarray(loop.tear_rows, dtype=np.int64)
        self.residual, self.opened = np.zeros((blocks, tears, vectors, LANES)), np.zeros((blocks, vectors, LANES))
        self._kept = scratch, rows
        addresses = [a.ctypes.data for a in (scratch, self.residual, self.opened)]
        before = loop.preparation
        self.call = np.array([rows.ctypes.data, tears, vectors, *addresses, flags, before.address, before.length, 0, 0, 0, 0], dtype=np.int64)
        self.address = int(self.call.ctypes.data)

    @property
    def nowhere(self) -> bool:
        """Whether the loop had nowhere to begin in some block: a starting value is no finite number."""
        return bool(self.call[CALL_NOWHERE])

    def outcome(self) -> tuple[NDArray[np.bool_] | None, NDArray[np.float64], int, bool]:
        """Which elements did not settle, or None, with their residuals; the passes; whether a condition was doubtful at rest."""
        passes, failed, doubt, _ = self.call[CALL_PASSES:].tolist()
        if not failed:
            return None, self.residual, passes, bool(doubt)
        found = self.opened > 0, self.residual.copy(), passes, bool(doubt)
        self.opened.fill(0)
        self.residual.fill(0)
        return found


class Round:
    """Steps written down for the machine."""

    def __init__(self, steps: tuple[Step, ...], desk: Desk) -> None:
        self.words = np.zeros((len(steps), STEP_WORDS), dtype=np.int64)
        self.address = int(self.words.ctypes.data)
        self._picks: dict[int, int] = {}
        self._kept: list[NDArray[np.generic]] = []
        for k, step in enumerate(steps):
            if isinstance(step, Program):
                self.words[k, [STEP_KIND, STEP_ADDRESS, STEP_LENGTH]] = RUN, step.address, step.length
            elif step in desk.layout.contests:
                self._pick(k, step, desk)
            else:
                self.words[k, STEP_KIND] = LEFT

    def begin(self, pinned: dict[int, int]) -> None:
        """No pick has been asked yet."""
        self.words[:, STEP_ASKED] = 0
        for node, k in self._picks.items():
            self.words[k, STEP_PINNED] = pinned.get(node, -1)

    def forget(self) -> None:
        """Every pick is asked anew."""
        self.words[:, STEP_ASKED] = 0

    def _pick(self, k: int, node: int, desk: Desk) -> None:
        contest = desk.layout.contests[node]
        seat = desk.seat(contest)
        rows, table = desk.layout.published[node]
        numbers, given, former = contest.numbers.astype(np.int64), np.zeros(contest.inputs), np.zeros(contest.inputs)
        rows, courses = rows.astype(np.int64), contest.courses.astype(np.int64)
        self._kept += [numbers, given, former, rows, table, courses]
        self._picks[node] = k
        words = self.words[k]
        words[STEP_KIND], words[STEP_ADDRESS], words[STEP_LENGTH] = PICK, seat.address, contest.inputs
        words[STEP_HELD], words[STEP_BENCH], words[STEP_SHOWN], words[STEP_NODE] = contest.held, seat.bench, len(rows), node
        for at, array in ((STEP_NUMBERS, numbers), (STEP_GIVEN, given), (STEP_FORMER, former), (STEP_ROWS, rows), (STEP_TABLE, table), (STEP_COURSES, courses)):
            words[at] = array.ctypes.data
