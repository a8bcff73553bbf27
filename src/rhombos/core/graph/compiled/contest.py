"""Picks as machine code: the smallest margin of every candidate, all candidates beside one another."""

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from functools import lru_cache, reduce
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.compiled.driver import Side
from rhombos.core.graph.compiled.lower import LANES
from rhombos.core.graph.compiled.machine import MACHINE
from rhombos.core.graph.compiled.trace import Expr, TraceError, trace
from rhombos.core.graph.declare import Pick
from rhombos.core.graph.nodes import WiredPick
from rhombos.core.graph.numeric import lowest
from rhombos.core.graph.picked import FITS, ratio
from rhombos.core.parts.table import Candidates


@dataclass(frozen=True)
class Formula:
    """The smallest margin over needs and corners, and how many needs are missed, as formulas of the pick's inputs and of `columns` of the part."""

    margin: Callable[..., Any]
    missed: Callable[..., Any]
    columns: tuple[str, ...]
    count: int


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
    """The margin of a pick as one formula; None where it cannot be traced."""
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
    if traced.conditions or traced.steady:
        return None
    return Formula(margin, missed, tuple(columns), inputs + len(columns))


@dataclass(frozen=True)
class Input:
    """Where one input of a pick lies in a sheet's buffer: its node, first row and how many corners it has."""

    node: int
    row: int
    count: int
    wide: bool


class Contest:
    """One pick, ready to be judged: candidates lie across the lanes, variants across the blocks."""

    def __init__(self, pick: int, inputs: Sequence[Input], candidates: Candidates, compiled: Formula, addresses: tuple[int, int]) -> None:
        self.pick = pick
        self.nodes = [i.node for i in inputs]
        self.rows = np.concatenate([np.arange(i.row, i.row + i.count) for i in inputs])
        self.starts: list[int] = np.concatenate([[0], np.cumsum([i.count for i in inputs])]).tolist()
        columns = [candidates.quantity if c == "quantity" else candidates.columns[c] for c in compiled.columns]
        self.inputs = len(self.rows)
        self.output = self.inputs + len(columns)
        self.candidates = len(candidates.rows)
        self.blocks = -(-self.candidates // LANES)
        spare = self.blocks * LANES - self.candidates
        table = np.array([np.concatenate([c, np.repeat(c[-1:], spare)]) for c in columns]).reshape(len(columns), self.blocks, LANES)
        self.table = np.ascontiguousarray(table.swapaxes(0, 1))
        self._records = [self._record(inputs, len(columns), address) for address in addresses]
        (self.margin, self.length), (self.missed, _) = ((int(r.ctypes.data), len(r)) for r in self._records)

    def _record(self, inputs: Sequence[Input], columns: int, address: int) -> NDArray[np.int64]:
        record = [0, address, self.output, 1, 0, int(Side.FOLLOWS)]
        for start, i in zip(self.starts[:-1], inputs, strict=True):
            record += [start, int(i.wide)]
        for k in range(columns):
            record += [self.inputs + k, 0]
        record[0] = len(record)
        return np.array(record, dtype=np.int64)

    def buffer(self, variants: int) -> NDArray[np.float64]:
        """Room to judge all candidates in: (variants, blocks, rows, LANES), their columns in place."""
        buffer = np.empty((variants, self.blocks, self.output + 1, LANES))
        buffer[:, :, self.inputs : self.output, :] = self.table
        return buffer


def contests(picks: Mapping[int, tuple[WiredPick, Candidates]], inputs: Mapping[int, Sequence[Input]]) -> dict[int, Contest]:
    """The picks that machine code can judge, with their `inputs` in the buffer."""
    found = {i: f for i, (wired, candidates) in picks.items() if inputs[i] and (f := formula(wired.pick)) is not None and _has(candidates, f)}
    codes = MACHINE.compile([(fn, f.count) for f in found.values() for fn in (f.margin, f.missed)])
    judged = {i: (codes[f.margin, f.count], codes[f.missed, f.count]) for i, f in found.items()}
    return {i: Contest(i, inputs[i], picks[i][1], found[i], (a.address, b.address)) for i, (a, b) in judged.items() if a is not None and b is not None}


def _has(candidates: Candidates, compiled: Formula) -> bool:
    return all(c == "quantity" or c in candidates.columns for c in compiled.columns)
