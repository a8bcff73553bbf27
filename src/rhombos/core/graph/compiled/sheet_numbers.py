"""The numbers of one sheet: a buffer that machine code and NumPy both read and write."""

from collections.abc import Mapping
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.compiled.contest import Contest
from rhombos.core.graph.compiled.driver import Weigh
from rhombos.core.graph.compiled.iteration import CALL_PASSES, scratch_vectors
from rhombos.core.graph.compiled.layout import Layout, LoopSteps, Program
from rhombos.core.graph.compiled.lower import CONTEXT_ITERATING, CONTEXT_WEIGH, LANES
from rhombos.core.graph.compiled.machine import MACHINE
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.loops import Tears
from rhombos.core.graph.numeric import Values


class SheetNumbers:
    """Values by node. The buffer is (blocks, rows, LANES): a block holds all numbers of a few variants.

    Reading gives a plain number or (corners,) for a single sheet, (variants, 1) or (variants, corners) for many.
    Spare lanes of the last block repeat the last variant.
    """

    def __init__(self, layout: Layout, corners: CornerSet, variants: int | None) -> None:
        self.layout = layout
        self.variants = variants
        self.lanes = variants or 1
        self.blocks = -(-self.lanes // LANES)
        self.buffer = np.empty((self.blocks, layout.rows, LANES))
        rows, values = layout.beginning
        self.buffer[:, rows, :] = values[:, None]
        self.filled = list(layout.filled)
        self.flags = np.zeros(len(layout.row), dtype=np.uint8)
        self._benches: dict[int, tuple[NDArray[np.float64], int]] = {}
        self._lasting = corners.lasting.astype(np.int64)
        self._before_surge = corners.before.astype(np.int64)
        self.changed = np.zeros(len(layout.row), dtype=np.uint8)
        addresses = (a.ctypes.data for a in (self._lasting, self._before_surge, self.flags))
        self._context = np.array([layout.corners, 0, *addresses, Weigh.NOT, self.changed.ctypes.data], dtype=np.int64)
        self._addresses = (int(self.buffer.ctypes.data), int(self._context.ctypes.data))

    def fill(self, given: Mapping[int, Any]) -> None:
        """Put in what is given: plain numbers together, arrays one by one."""
        row, wide, filled = self.layout.row, self.layout.wide, self.filled
        rows, plain = [], []
        for i, value in given.items():
            if type(value) is float and not wide[i]:
                rows.append(row[i])
                plain.append(value)
                filled[i] = True
            else:
                self[i] = value
        self.buffer[:, rows, :] = np.array(plain)[:, None]

    def run(self, program: Program, iterating: bool, weigh: Weigh = Weigh.NOT) -> None:
        """Compute a program's nodes: `flags` are raised for those not known everywhere, `changed` for decisions that moved."""
        self._context[CONTEXT_ITERATING] = iterating
        self._context[CONTEXT_WEIGH] = weigh
        buffer, context = self._addresses
        MACHINE.run(buffer, program.address, program.length, context, self.blocks, self.layout.rows)

    def gather(self, contest: Contest) -> Values:
        """A pick's inputs as they stand: (blocks, inputs, LANES)."""
        return self.buffer[:, contest.rows, :]

    def inputs(self, contest: Contest, gathered: Values) -> list[Any]:
        """What `gather` gave, as NumPy formulas take it."""
        ends = zip(contest.nodes, contest.starts[:-1], contest.starts[1:], strict=True)
        return [self.read(node, gathered[:, first:last, :]) for node, first, last in ends]

    def margins(self, contest: Contest, gathered: Values) -> Values:
        """Every candidate's smallest margin with the inputs of `gather`: (candidates,) or (candidates, variants)."""
        self._bench(contest, gathered)
        return self._judged(contest, contest.margin)

    def missed(self, contest: Contest) -> Values:
        """How many needs every candidate misses, with the inputs of the last `margins`, shaped alike."""
        return self._judged(contest, contest.missed)

    def _bench(self, contest: Contest, gathered: Values) -> None:
        if contest.pick not in self._benches:
            made = contest.buffer(self.lanes)
            self._benches[contest.pick] = (made, int(made.ctypes.data))
        buffer, _ = self._benches[contest.pick]
        if self.variants is None:
            buffer[0, :, : contest.inputs, :] = gathered[0, :, :1]
        else:
            buffer[:, :, : contest.inputs, :] = gathered.swapaxes(1, 2).reshape(-1, contest.inputs)[: self.lanes, None, :, None]

    def _judged(self, contest: Contest, record: int) -> Values:
        buffer, address = self._benches[contest.pick]
        self._context[CONTEXT_ITERATING] = False
        MACHINE.run(address, record, contest.length, self._addresses[1], self.lanes * contest.blocks, buffer.shape[2])
        out = buffer[:, :, contest.output, :].reshape(self.lanes, -1)[:, : contest.candidates]
        return out[0].copy() if self.variants is None else out.T.copy()

    def iterate(self, loop: LoopSteps, program: Program, tolerance: float) -> tuple[NDArray[np.bool_] | None, Values, int, bool]:
        """`loops.iterate` in machine code, for a loop that is one program; and whether a condition was doubtful at rest."""
        tears, corners = loop.tear_rows.shape
        scratch = np.empty((scratch_vectors(tears, corners), LANES))
        residual, opened = np.zeros((self.blocks, tears, corners, LANES)), np.zeros((self.blocks, corners, LANES))
        rows = np.ascontiguousarray(loop.tear_rows, dtype=np.int64)
        addresses = [a.ctypes.data for a in (scratch, residual, opened)]
        call = np.array([rows.ctypes.data, tears, corners, *addresses, len(self.flags), 0, 0, 0], dtype=np.int64)
        self._context[CONTEXT_ITERATING] = True
        self._context[CONTEXT_WEIGH] = Weigh.NOT
        buffer, context = self._addresses
        MACHINE.iterate(buffer, program.address, program.length, context, self.blocks, self.layout.rows, tolerance, call.ctypes.data)
        passes, failed, doubt = call[CALL_PASSES:].tolist()
        return opened > 0 if failed else None, residual, passes, bool(doubt)

    def tears(self, loop: LoopSteps) -> Tears:
        """A loop's starting values, to be iterated."""
        return Tears(self.buffer, loop.tear_rows, single=self.variants is None)

    def release(self) -> None:
        """Let go of what only the solve needed."""
        self._benches.clear()

    def __getitem__(self, index: int) -> Any:
        if not self.filled[index]:
            return None
        row, count = self.layout.row[index], self.layout.count[index]
        if self.variants is None and count == 1 and self._plain(index):
            return self.buffer.item(0, row, 0)
        return self.shown(self.buffer[:, row : row + count, :])

    def lists(self) -> list[list[float] | None]:
        """Every node's values of a single sheet as plain numbers, None for those without."""
        column = self.buffer[0, :, 0].tolist()
        layout = self.layout
        return [column[row : row + count] if filled else None for row, count, filled in zip(layout.row, layout.count, self.filled, strict=True)]

    def not_finite(self) -> frozenset[int]:
        """The nodes of a single sheet with a value that is not a finite number."""
        rows = np.flatnonzero(~np.isfinite(self.buffer[0, :, 0]))
        return frozenset((np.searchsorted(self.layout.row, rows, side="right") - 1).tolist())

    def _plain(self, index: int) -> bool:
        return self.layout.plan.kinds[index] not in ("operation", "collected")

    def read(self, index: int, raw: NDArray[np.float64]) -> Any:
        """A node's value out of `raw`, its rows of the buffer (blocks, corners or 1, LANES) at some moment."""
        return float(raw[0, 0, 0]) if self.variants is None and raw.shape[1] == 1 and self._plain(index) else self.shown(raw)

    def publish(self, pick: int, chosen: NDArray[np.intp]) -> None:
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
        row, count = self.layout.row[index], self.layout.count[index]
        self.filled[index] = True
        if type(value) is float:
            self.buffer[:, row : row + count, :] = value
            return
        array = np.asarray(value, dtype=float)
        if array.ndim < 2:
            self.buffer[:, row : row + count, :] = array.reshape(-1, 1)
            return
        self.buffer[:, row : row + count, :] = self._laid(np.broadcast_to(array, (self.lanes, count)))

    def shown(self, raw: NDArray[Any]) -> NDArray[Any]:
        """From the buffer's order, (blocks, corners, LANES), to (corners,) or (variants, corners)."""
        if self.variants is None:
            return raw[0, :, 0].copy()
        return raw.transpose(0, 2, 1).reshape(-1, raw.shape[1])[: self.lanes]
