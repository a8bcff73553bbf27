"""Picks on the tape: the smallest margin of every candidate, all candidates beside one another across the lanes."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache, reduce
from typing import Any

import numpy as np

from rhombos.core.formulas.expression import Expr, TraceError, trace
from rhombos.core.formulas.numeric import Values, lowest
from rhombos.core.graph.declare import Pick
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.judging import CALL_BLOCKS, CALL_CONTEXT, CALL_FORMER, CALL_GIVEN, CALL_REJECTED, CALL_REMEMBER, CALL_TABLE
from rhombos.core.graph.engine.kernels import LANES
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.tape import Template, Writer, template
from rhombos.core.graph.nodes import WiredPick
from rhombos.core.graph.picked import FITS, ratio
from rhombos.core.parts.table import Candidates


@dataclass(frozen=True)
class Formula:
    """The smallest margin over needs and corners, and how many needs are missed, as templates of the pick's inputs and of `columns` of the part."""

    margin: Template
    missed: Template
    columns: tuple[str, ...]


class _Part:
    """Stands for the part while a pick is traced: every column that is read becomes a parameter."""

    def __init__(self, columns: dict[str, Expr], first: int) -> None:
        self._columns = columns
        self._first = first

    def __getattr__(self, name: str) -> Expr:
        if name.startswith("_"):
            raise AttributeError(name)
        if name not in self._columns:
            self._columns[name] = Expr("parameter", (), float(self._first + len(self._columns)))
        return self._columns[name]


@lru_cache(maxsize=256)
def formula(pick: Pick) -> Formula | None:
    """The margin of a pick as templates; None where it cannot be traced."""
    inputs = len(pick.params)

    def margins(*args: Any) -> list[Any]:
        known = dict(zip(columns, args[inputs:], strict=False))
        needs = pick.fn(_Part(known, inputs), *args[:inputs])
        columns.extend(list(known)[len(columns) :])
        return [ratio(need.capability, need.demand) for need in needs]

    def margin(*args: Any) -> Any:
        return lowest(reduce(np.fmin, margins(*args)))

    def missed(*args: Any) -> Any:
        return sum((np.where(lowest(m) >= FITS, 0.0, 1.0) for m in margins(*args)), 0.0)

    columns: list[str] = []
    try:
        # The first trace finds out which columns are read; from then on they are parameters.
        traced = trace(margin, inputs)
    except TraceError:
        return None
    if traced.conditions:
        return None
    made: list[Template | None] = [template(fn, inputs + len(columns)) for fn in (margin, missed)]
    return Formula(made[0], made[1], tuple(columns)) if made[0] and made[1] else None


@dataclass(frozen=True)
class Input:
    """One input of a pick: its node, its first vector in the sheet's buffer, and whether it has a value for every corner."""

    node: int
    row: int
    wide: bool


class Contest:
    """One pick, ready to be judged: candidates lie across the lanes, corners in rows, variants across the blocks."""

    def __init__(self, pick: int, inputs: Sequence[Input], corners: int, candidates: Candidates, of: Formula, *, across: bool) -> None:
        self.pick = pick
        self.given = inputs
        counts = [corners if i.wide else 1 for i in inputs]
        # Where they are gathered from: number by number where corners lie across the lanes, else vector by vector.
        self.numbers = np.concatenate([i.row * (LANES if across else 1) + np.arange(n) for i, n in zip(inputs, counts, strict=True)])
        self.starts: list[int] = np.concatenate([[0], np.cumsum(counts)]).tolist()
        self.inputs = self.starts[-1]
        columns = [candidates.quantity if c == "quantity" else candidates.columns[c] for c in of.columns]
        self.output = self.inputs + len(columns)
        count = len(candidates.rows)
        self.blocks = -(-count // LANES)
        spare = self.blocks * LANES - count
        table = np.array([np.concatenate([c, np.repeat(c[-1:], spare)]) for c in columns]).reshape(len(columns), self.blocks, LANES)
        self.table = np.ascontiguousarray(table.swapaxes(0, 1))
        self._write(of, corners, len(columns))

    def _write(self, of: Formula, corners: int, columns: int) -> None:
        places = [(start, i.wide) for start, i in zip(self.starts[:-1], self.given, strict=True)] + [(self.inputs + k, False) for k in range(columns)]
        self.writer = Writer(corners, 0)
        programs = []
        for t in (of.margin, of.missed):
            self.writer.begin()
            programs.append(np.array(self.writer.write(t, places, self.output, wide=False), dtype=np.int64))
        self.writer.settle(programs)
        self.vectors = self.output + 1
        for program in programs:
            check(program, self.vectors, self.writer.vectors, 0)
        self._programs = programs
        (self.margin, self.margin_length), (self.missed, self.missed_length) = ((int(p.ctypes.data), len(p)) for p in programs)


class Seat:
    """Room for judging a pick, for one solve at a time: a block of candidates, their margins, and the call with what never changes in it."""

    def __init__(self, contest: Contest) -> None:
        self.contest = contest
        self._kept = (aligned(contest.vectors, LANES), aligned(contest.blocks, LANES), contest.writer.bench(LANES))
        room, margins, self.bench = (int(a.ctypes.data) for a in self._kept)
        table = contest.table
        self._table = int(table.ctypes.data)
        self._block = table.shape[1] * LANES * table.itemsize
        programs = (contest.margin, contest.margin_length, contest.missed, contest.missed_length)
        words = [0, contest.blocks, table.shape[1], contest.inputs, *programs, 0, room, contest.vectors, margins, 0, 0, 0, 0, 0, 0, 0]
        self.call = np.array(words, dtype=np.int64)
        self._address = int(self.call.ctypes.data)

    def judge(self, inputs: Values, former: Values | None, state: "Judged", remember: int, pinned: int | None, context: int) -> None:
        """Decide for every row of `inputs`, (variants, inputs), where it is not as in `former`; changes `state`."""
        # A pinned candidate is alone with those of its block.
        block, lane = divmod(pinned, LANES) if pinned is not None else (0, -1)
        call = self.call
        call[CALL_TABLE] = self._table + block * self._block
        call[CALL_BLOCKS] = self.contest.blocks if pinned is None else 1
        call[CALL_GIVEN] = inputs.ctypes.data
        call[CALL_FORMER] = 0 if former is None else former.ctypes.data
        call[CALL_REJECTED:CALL_REMEMBER] = state.addresses
        call[CALL_REMEMBER : CALL_CONTEXT + 1] = remember, lane, context
        MACHINE.judge(self._address, len(state.chosen))
        if pinned is not None:
            state.chosen[:] = pinned


class Judged:
    """What has been decided of one pick: the candidate of every variant, whether it fits, and which are rejected."""

    def __init__(self, variants: int, contest: Contest) -> None:
        self.rejected = np.zeros((variants, contest.blocks * LANES), dtype=np.bool_)
        self.chosen = np.zeros(variants, dtype=np.int64)
        self.fits = np.zeros(variants, dtype=np.bool_)
        self.addresses = [a.ctypes.data for a in (self.rejected, self.chosen, self.fits)]


def contests(picks: Mapping[int, tuple[WiredPick, Candidates]], inputs: Callable[[int], Sequence[Input]], corners: int, *, across: bool) -> dict[int, Contest]:
    """The picks that the tape can judge."""
    found: dict[int, Contest] = {}
    for i, (wired, candidates) in picks.items():
        of = formula(wired.pick)
        if of is not None and inputs(i) and all(c == "quantity" or c in candidates.columns for c in of.columns):
            found[i] = Contest(i, inputs(i), corners, candidates, of, across=across)
    return found
