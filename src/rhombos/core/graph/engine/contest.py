"""Picks on the tape: the cone of every candidate, all candidates beside one another across the lanes."""

from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache, reduce
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values, lowest
from rhombos.core.graph.cones import Cone
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.judged import Judged
from rhombos.core.graph.engine.judging import (
    CALL_ASKED,
    CALL_BEFORE,
    CALL_BLOCKS,
    CALL_COLUMNS,
    CALL_CONTEXT,
    CALL_COURSE,
    CALL_FIRST,
    CALL_FORMER,
    CALL_GIVEN,
    CALL_INPUTS,
    CALL_MARGIN,
    CALL_MARGINS,
    CALL_MISSED,
    CALL_PINNED,
    CALL_REJECTED,
    CALL_REMEMBER,
    CALL_ROOM,
    CALL_SCORES,
    CALL_TABLE,
    CALL_VECTORS,
    CALL_WORDS,
)
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.tape import Loop, Place, Records, Writer, program_of
from rhombos.core.graph.engine.template import Template, template
from rhombos.core.graph.nodes import WiredNeed, WiredPick
from rhombos.core.graph.picked import FITS, ratio
from rhombos.core.graph.plan import Plan
from rhombos.core.parts.table import Candidates


@lru_cache(maxsize=64)
def _verdict(levels: tuple[float | None, ...]) -> tuple[Template, Template]:
    """The smallest margin over needs and corners, and how many needs are missed.

    As templates of every need's capability and demand, and its level where that is a figure and not a number here.
    """

    def margins(args: tuple[Any, ...]) -> list[Any]:
        left = iter(args)
        out = []
        for level in levels:
            capability, demand = next(left), next(left)
            out.append(ratio(capability, demand) / (next(left) if level is None else level))
        return out

    def margin(*args: Any) -> Any:
        return lowest(reduce(np.fmin, margins(args)))

    def missed(*args: Any) -> Any:
        return sum((np.where(lowest(m) >= FITS, 0.0, 1.0) for m in margins(args)), 0.0)

    count = sum(2 if level is not None else 3 for level in levels)
    made = template(margin, count), template(missed, count)
    assert made[0] is not None, "only plain operations stand there"
    assert made[1] is not None, "nor here"
    return made[0], made[1]


def _kept(better: Callable[[Any, Any], Any]) -> Template:
    made = template(better, 2)
    assert made is not None, "a plain operation"
    return made


_UP, _DOWN = _kept(lambda own, stands: np.fmax(own, stands)), _kept(lambda own, stands: np.fmin(own, stands))
"""A decision that keeps to its safe side, whatever the candidate would let it be."""


@dataclass(frozen=True)
class Ground:
    """What a layout knows that its contests stand on: by node the formula, the first vector in the sheet's buffer and that of its course, and whether it has a value for every corner."""

    plan: Plan
    templates: Sequence[Template | None]
    rows: Sequence[int]
    courses: Mapping[int, int]
    wide: Sequence[bool]
    corners: int
    across: bool


def standing(pick: int, on: Ground) -> Hashable:
    """All that a pick's programs hang on beside its candidates: its cone, what is read there, and where that lies."""
    cone = on.plan.cones[pick]
    read = [on.plan.args[i] for i in cone.nodes]
    given = {*cone.inputs, *cone.held, *cone.nodes}.union(*read)
    return cone, tuple(read), tuple((i, on.rows[i], on.wide[i], on.courses.get(i)) for i in sorted(given)), on.corners, on.across


class Contest:
    """One pick, ready to be judged: candidates lie across the lanes, corners in rows, variants across the blocks.

    A block of candidates has room for the inputs, the part's columns, the result, and the cone's figures.
    """

    def __init__(self, wired: WiredPick, candidates: Candidates, on: Ground) -> None:
        self.pick = wired.index
        self.ground = standing(wired.index, on)
        self.blocks = -(-len(candidates.rows) // LANES)
        self.writer = Writer(on.corners, 0)
        cone = on.plan.cones[wired.index]
        given = (*cone.inputs, *cone.held)
        counts = [on.corners if on.wide[i] else 1 for i in given]
        # Where they are gathered from: number by number where corners lie across the lanes, else vector by vector.
        lanes = LANES if on.across else 1
        self.numbers = np.concatenate([on.rows[i] * lanes + np.arange(n) for i, n in zip(given, counts, strict=True)] or [np.zeros(0, np.intp)])
        self.courses = np.array([on.courses[i] * lanes for i in cone.held], dtype=np.intp)
        starts: list[int] = np.concatenate([[0], np.cumsum(counts, dtype=int)]).tolist()
        self.inputs, self.held = starts[-1], starts[len(cone.inputs)]
        self._write(wired, candidates, on, {i: (start, on.wide[i]) for i, start in zip(given, starts[:-1], strict=True)})

    def _write(self, wired: WiredPick, candidates: Candidates, on: Ground, places: dict[int, tuple[int, bool]]) -> None:
        """The table of the part's columns, and the programs: the smallest margin, how many needs are missed, the smallest of the first needs."""
        needs, cone = wired.needs, on.plan.cones[wired.index]
        read = {a for i in cone.nodes for a in on.plan.args[i]} | {i for n in needs for i in (n.capability, n.demand, n.level)}
        shown = [(column, i) for column, i in wired.published if i in read]
        self.table = self._table_of([candidates.column(column) for column, _ in shown])
        places |= {i: (self.inputs + k, False) for k, (_, i) in enumerate(shown)}
        stands = {i: places.pop(i) for i in cone.held}
        self.output = self.inputs + len(shown)
        made: dict[int, tuple[int, bool]] = {}
        self.vectors = self.output + 1
        for i in cone.nodes:
            made[i] = (self.vectors, on.wide[i])
            self.vectors += self.writer.size(wide=on.wide[i])
        before: list[Records] = []
        trial = _Trial(self.writer, on, cone, places, made, stands, self.output, frozenset(i for _, i in shown), before)
        margin, missed = _verdict(_levels(needs))
        programs = [trial.program(margin, needs), program_of(trial.verdict(missed, needs))]
        programs.append(program_of(before))
        if cone.first:
            first = [needs[k] for k in cone.first]
            programs.append(trial.program(_verdict(_levels(first))[0], first, apart=True))
        self.writer.settle(programs)
        for program in programs:
            check(program, self.vectors, self.writer.vectors, 0)
        self.programs = programs

    def _table_of(self, columns: Sequence[Values]) -> Values:
        """The part's columns, (blocks, columns, LANES); spare lanes repeat the last candidate."""
        spare = [np.concatenate([c, np.repeat(c[-1:], self.blocks * LANES - len(c))]) for c in columns]
        return np.ascontiguousarray(np.array(spare).reshape(len(columns), self.blocks, LANES).swapaxes(0, 1))


def _levels(needs: Sequence[WiredNeed]) -> tuple[float | None, ...]:
    return tuple(n.level if isinstance(n.level, float) else None for n in needs)


@dataclass(frozen=True)
class _Trial:
    """A cone being written: where the inputs and columns lie (`places`), the figures made of them, and the decisions that stand.

    `before` gathers what hangs on none of the candidate's numbers, its `part`.
    """

    writer: Writer
    on: Ground
    cone: Cone
    places: Mapping[int, Place]
    made: Mapping[int, Place]
    stands: Mapping[int, Place]
    output: int
    part: frozenset[int]
    before: list[Records]

    def program(self, verdict: Template, needs: Sequence[WiredNeed], *, apart: bool = False) -> NDArray[np.int64]:
        """The figures that the needs hang on, and the verdict over them; `apart` by itself, with nothing worked out before."""
        hangs_on = self._hangs_on(_asked(needs))
        words = [some for i in self.cone.nodes if i in hangs_on for some in self._figure(i, apart=apart)]
        return program_of([*words, *self.verdict(verdict, needs)])

    def verdict(self, verdict: Template, needs: Sequence[WiredNeed]) -> list[Records]:
        """The verdict over figures that have been worked out."""
        return self.writer.write(verdict, [self.made[i] if i in self.made else self.places[i] for i in _asked(needs)], self.output, wide=False)

    def _hangs_on(self, asked: Sequence[int]) -> set[int]:
        found: set[int] = set()
        queue = [i for i in asked if i in self.made]
        while queue:
            i = queue.pop()
            if i not in found:
                found.add(i)
                queue.extend(a for a in self.on.plan.args[i] if a not in self.places)
        return found

    def _figure(self, i: int, *, apart: bool) -> list[Records]:
        of, (row, wide), args = self.on.templates[i], self.made[i], self.on.plan.args[i]
        assert of is not None
        # What a loop starts from is read as it stood.
        read = [self.places[a] if a in self.places else self.made[a] for a in args]
        moving = frozenset(k for k, a in enumerate(args) if a in self.part or a not in self.places)
        words = self.writer.write(of, read, row, wide=wide, judged=False, loops=() if apart else (Loop(moving, self.before),))
        if i in self.stands:
            side = _UP if self.on.plan.wiring.nodes[i].figure.safe == "up" else _DOWN
            words += self.writer.write(side, [self.made[i], self.stands[i]], row, wide=wide)
        return words


def _asked(needs: Sequence[WiredNeed]) -> list[int]:
    return [i for n in needs for i in (n.capability, n.demand, n.level) if not isinstance(i, float)]


class Seat:
    """Room for judging a pick, for one solve at a time: a block of candidates, their margins, and the call with what never changes in it; `judged` is what becomes of a single sheet."""

    def __init__(self, contest: Contest, judged: Judged) -> None:
        self.contest = contest
        self._kept = (aligned(contest.vectors, LANES), aligned(contest.blocks, LANES), aligned(contest.blocks, LANES), contest.writer.bench(LANES))
        room, margins, scores, self.bench = (int(a.ctypes.data) for a in self._kept)
        table = contest.table
        self._table = int(table.ctypes.data)
        self._block = table.shape[1] * LANES * table.itemsize
        self.call = np.zeros(CALL_WORDS, dtype=np.int64)
        self.call[[CALL_COLUMNS, CALL_INPUTS, CALL_ROOM, CALL_VECTORS]] = table.shape[1], contest.inputs, room, contest.vectors
        self.call[[CALL_MARGINS, CALL_SCORES]] = margins, scores
        for at, program in zip((CALL_MARGIN, CALL_MISSED, CALL_BEFORE, CALL_FIRST), contest.programs, strict=False):
            self.call[at : at + 2] = program.ctypes.data, len(program)
        self.address = int(self.call.ctypes.data)
        self.judged = judged

    def begin(self, context: int, pinned: int | None) -> None:
        """A single sheet is judged from now on."""
        self._to_judge(self.judged, context, pinned)

    def _to_judge(self, state: Judged, context: int, pinned: int | None) -> None:
        # A pinned candidate is alone with those of its block.
        block, lane = divmod(pinned, LANES) if pinned is not None else (0, -1)
        call = self.call
        call[CALL_TABLE] = self._table + block * self._block
        call[CALL_BLOCKS] = self.contest.blocks if pinned is None else 1
        call[CALL_REJECTED:CALL_REMEMBER] = state.addresses
        call[CALL_PINNED : CALL_CONTEXT + 1] = lane, context
        call[CALL_COURSE] = state.course_address

    def judge(self, inputs: Values, former: Values, state: Judged, how: tuple[bool, int, int | None], context: int) -> None:
        """Decide for every row of `inputs`, (variants, inputs), where it is not as in `former`; changes `state`, and `former` to what has been asked.

        `how` is: whether `former` has been asked, what is to be remembered, the candidate that is pinned.
        """
        asked, remember, pinned = how
        self._to_judge(state, context, pinned)
        self.call[[CALL_GIVEN, CALL_FORMER]] = inputs.ctypes.data, former.ctypes.data
        self.call[[CALL_ASKED, CALL_REMEMBER]] = asked, remember
        MACHINE.judge(self.address, len(state.chosen))
        if pinned is not None:
            state.chosen[:] = pinned


def contests(on: Ground, picks: Mapping[int, tuple[WiredPick, Candidates]], former: Mapping[int, Contest]) -> dict[int, Contest]:
    """The picks that the tape can judge: those of whose cone every figure is on it. `former` ones that stand on the same ground are taken again."""
    found = {}
    for i, pick in picks.items():
        if all(on.templates[k] is not None for k in on.plan.cones[i].nodes):
            found[i] = former[i] if i in former and former[i].ground == standing(i, on) else Contest(*pick, on)
    return found
