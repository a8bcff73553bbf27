"""Where one solve works: room that the next one uses again, and the steps of a whole pass as the machine takes them."""

from collections.abc import Mapping
from typing import TYPE_CHECKING

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.calming import (
    CALM_CORNERS,
    CALM_COUNT,
    CALM_FOLLOWED,
    CALM_FOLLOWING,
    CALM_HOW,
    CALM_LENT,
    CALM_NODES,
    CALM_PART_COUNT,
    CALM_PARTS,
    CALM_ROWS,
    CALM_STEPS,
    CALM_WORDS,
    PART_WORDS,
)
from rhombos.core.graph.engine.contest import Contest, Seat
from rhombos.core.graph.engine.iteration import CALL_NOWHERE, CALL_PASSES, scratch_vectors
from rhombos.core.graph.engine.judged import Judged, Judgements
from rhombos.core.graph.engine.passing import (
    LEFT,
    PICK,
    RUN,
    STEP_ADDRESS,
    STEP_ASKED,
    STEP_BENCH,
    STEP_CHOSEN,
    STEP_COURSE,
    STEP_COURSES,
    STEP_FITS,
    STEP_FORMER,
    STEP_GIVEN,
    STEP_HELD,
    STEP_KIND,
    STEP_LENGTH,
    STEP_NODE,
    STEP_NUMBERS,
    STEP_PINNED,
    STEP_REJECTED,
    STEP_ROOM,
    STEP_ROWS,
    STEP_SHOWN,
    STEP_TABLE,
    STEP_WORDS,
)
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.told import CONTEXT_ITERATING, TRIAL, context_of

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
        self.judgements = Judgements(None, layout.rooms)
        """What is decided of the picks of a single sheet."""
        self._seats: dict[int, Seat] = {}
        self._written: dict[int, Written] = {}
        self._rounds: dict[int, Round] = {}
        self._settling: dict[int, Settling] = {}
        self._contexts: Contexts | None = None
        self._calm: Calm | None = None
        self._told: tuple[int, dict[int, int]] | None = None
        """What the seats were told last: where their context lies, and which candidate a pick is held to."""

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
        if self._told != (context, pinned):
            self._told = context, pinned
            for contest in self.layout.contests.values():
                self.seat(contest).begin(context, pinned.get(contest.pick))
            for made in self._rounds.values():
                made.hold(pinned)
        for made in self._rounds.values():
            made.forget()

    def forget(self) -> None:
        """No pick remembers a rejection, nor what it was asked last."""
        self.judgements.forget()
        for made in self._rounds.values():
            made.forget()

    def round_of_many(self, steps: tuple[Step, ...], judgements: Judgements, context: int, pinned: dict[int, int]) -> "Round":
        """The steps of a pass of many variants as the machine takes them; for as long as nobody else works at this desk."""
        self._told = None
        for contest in self.layout.contests.values():
            self.seat(contest).begin(context, pinned.get(contest.pick))
        made = Round(self._write(steps, LANES), judgements)
        made.hold(pinned)
        return made

    def calm(self, pinned: dict[int, int]) -> "Calm":
        """The passes of a single sheet with what settles its loops."""
        if self._calm is None:
            self._calm = Calm(self, self.round(self.layout.moving, pinned))
        return self._calm

    def _write(self, steps: tuple[Step, ...], at_once: int) -> "Written":
        key = id(steps)  # the layout keeps them for as long as it has desks
        if key not in self._written:
            self._written[key] = Written(steps, self, at_once)
        return self._written[key]

    def round(self, steps: tuple[Step, ...], pinned: dict[int, int]) -> "Round":
        """The steps of a pass of a single sheet as the machine takes them."""
        key = id(steps)  # the layout keeps them for as long as it has desks
        if key not in self._rounds:
            self._rounds[key] = Round(self._write(steps, 1))
            self._rounds[key].hold(pinned)
        return self._rounds[key]


class Calm:
    """The passes of a single sheet and what settles its loops between them, as the machine takes them."""

    def __init__(self, desk: Desk, made: "Round") -> None:
        layout = desk.layout
        parts, self.places = [], [0]
        """Of every part which one of the layout's `to_rest` it belongs to."""
        nodes, sags = layout.plan.wiring.nodes, []
        self._begins: list[Values] = []
        for k, part in enumerate(layout.to_rest):
            if isinstance(part, LoopSteps):
                sags.append(np.array([nodes[t].figure.sags for t in part.item.tears]))
                self._begins.append(aligned(len(part.item.tears), layout.across, LANES))
                (whole,), loop, of_starts = part.steps, desk.settling(part, 1).address, [int(a[-1].ctypes.data) for a in (sags, self._begins)]
            else:
                whole, loop, of_starts = None, 0, [0, 0]
            for step in part.passes if isinstance(part, LoopSteps) else part:
                assert isinstance(step, Program), "nothing of it is left to NumPy"
                parts.append((loop, step.address, step.length, *((whole.address, whole.length) if isinstance(whole, Program) else (0, 0)), *of_starts))
                self.places[len(parts) - 1 :] = [k]
        self.lent = aligned(layout.across, LANES)
        """Where, at the last settling, something stood in for a start; by corner, across the lanes."""
        rows = [layout.following.get(i, np.zeros(0, dtype=np.intp)) for i in range(len(layout.row))]
        followed = np.concatenate([[0], np.cumsum([len(r) for r in rows])]).astype(np.int64)
        following, table = np.concatenate(rows).astype(np.int64), np.array(parts, dtype=np.int64).reshape(-1, PART_WORDS)
        self._kept = followed, following, table, made, sags
        self.call = np.zeros(CALM_WORDS, dtype=np.int64)
        self.call[[CALM_STEPS, CALM_COUNT, CALM_ROWS, CALM_HOW]] = made.address, len(made.words), layout.rows, desk.how_address
        self.call[[CALM_PARTS, CALM_PART_COUNT, CALM_NODES]] = table.ctypes.data, len(parts), len(rows)
        self.call[[CALM_FOLLOWED, CALM_FOLLOWING, CALM_LENT]] = followed.ctypes.data, following.ctypes.data, self.lent.ctypes.data
        self.call[CALM_CORNERS] = layout.corners
        self.address = int(self.call.ctypes.data)

    def begin(self, starts: Values) -> None:
        """Where loops begin that have no number to begin from, one loop's starting values behind the other's: (tears, vectors, LANES)."""
        at = 0
        for begins in self._begins:
            begins[:] = starts[at : at + len(begins)]
            at += len(begins)


class Contexts:
    """What the machine is told of a sheet, and of the trials of its picks."""

    def __init__(self, told: tuple[NDArray[np.generic], ...], desk: Desk) -> None:
        self.told = told
        lasting, before, lasting_row, before_row = (int(a.ctypes.data) for a in told)
        flags, changed, bench = (int(a.ctypes.data) for a in (desk.flags, desk.changed, desk.bench))
        self.sheet = context_of(lasting, before, flags, bench, changed=changed, across=desk.layout.across)
        self.trial = context_of(lasting_row, before_row, flags, bench, changed=changed)
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


class Written:
    """Steps written down for the machine, but for what is each round's own; at a desk, where so many variants of a block are looked at."""

    def __init__(self, steps: tuple[Step, ...], desk: Desk, at_once: int) -> None:
        self.words = np.zeros((len(steps), STEP_WORDS), dtype=np.int64)
        self.picks: dict[int, int] = {}
        """By pick which step it is."""
        self.inputs: dict[int, int] = {}
        self._kept: list[NDArray[np.generic]] = []
        for k, step in enumerate(steps):
            if isinstance(step, Program):
                self.words[k, [STEP_KIND, STEP_ADDRESS, STEP_LENGTH]] = RUN, step.address, step.length
            elif step in desk.layout.contests:
                self._pick(k, step, desk, at_once)
            else:
                self.words[k, STEP_KIND] = LEFT

    def _pick(self, k: int, node: int, desk: Desk, at_once: int) -> None:
        contest = desk.layout.contests[node]
        seat = desk.seat(contest)
        rows, table = desk.layout.published[node]
        numbers, given = contest.numbers.astype(np.int64), np.zeros((at_once, contest.inputs))
        rows, courses = rows.astype(np.int64), contest.courses.astype(np.int64)
        self._kept += [numbers, given, rows, table, courses]
        self.picks[node], self.inputs[node] = k, contest.inputs
        words = self.words[k]
        words[STEP_KIND], words[STEP_ADDRESS], words[STEP_LENGTH] = PICK, seat.address, contest.inputs
        words[STEP_HELD], words[STEP_BENCH], words[STEP_SHOWN], words[STEP_NODE] = contest.held, seat.bench, len(rows), node
        for at, array in ((STEP_NUMBERS, numbers), (STEP_GIVEN, given), (STEP_ROWS, rows), (STEP_TABLE, table), (STEP_COURSES, courses)):
            words[at] = array.ctypes.data


class Round:
    """The steps of a pass as one solve takes them: of a single sheet, or of many variants, whose `judgements` they are then."""

    def __init__(self, written: Written, judgements: Judgements | None = None) -> None:
        self.words = written.words.copy()
        self.address = int(self.words.ctypes.data)
        self._written = written
        self._picks = written.picks
        lanes = 1 if judgements is None else judgements.lanes
        self.former = {node: np.zeros((lanes, inputs)) for node, inputs in written.inputs.items()}
        """By pick its inputs of the last time, (variants, inputs)."""
        for node, k in self._picks.items():
            self.words[k, STEP_FORMER] = self.former[node].ctypes.data
            if judgements is not None:
                self._of_many(self.words[k], judgements.of[node])

    def hold(self, pinned: dict[int, int]) -> None:
        """Picks are held to these candidates."""
        for node, k in self._picks.items():
            self.words[k, STEP_PINNED] = pinned.get(node, -1)

    def forget(self) -> None:
        """Every pick is asked anew."""
        self.words[:, STEP_ASKED] = 0

    @property
    def asked(self) -> dict[int, NDArray[np.float64]]:
        """By pick, where it was asked, its inputs of the last time."""
        return {node: self.former[node] for node, k in self._picks.items() if self.words[k, STEP_ASKED]}

    def ask(self, former: Mapping[int, NDArray[np.float64]]) -> dict[int, NDArray[np.float64]]:
        """These picks have been asked with these inputs, (variants and spare ones, inputs); gives back those of which none is among the steps."""
        for node in former.keys() & self._picks.keys():
            self.former[node][:] = former[node]
            self.words[self._picks[node], STEP_ASKED] = 1
        return {node: inputs for node, inputs in former.items() if node not in self._picks}

    @staticmethod
    def _of_many(words: NDArray[np.int64], judged: Judged) -> None:
        """Where what is decided of a pick lies, of many variants."""
        words[STEP_REJECTED], words[STEP_CHOSEN], words[STEP_FITS] = judged.addresses
        words[STEP_COURSE], words[STEP_ROOM] = judged.course_address, judged.room
