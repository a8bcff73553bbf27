"""The numbers of one sheet: a buffer that the kernels and NumPy both read and write."""

import math
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.layout import Layout
from rhombos.core.graph.engine.room import aligned
from rhombos.core.graph.engine.steps import LoopSteps
from rhombos.core.graph.loops import Tears


def with_nulls(numbers: NDArray[np.float64]) -> list[Any]:
    """As lists, None in the place of what is no finite number."""
    told: NDArray[Any] = numbers.astype(object)
    told[~np.isfinite(numbers)] = None
    out: list[Any] = told.tolist()
    return out


class Numbers:
    """Values by node. The buffer is (blocks, vectors, LANES).

    Of many variants a block holds all numbers of a few, a variant in every lane; spare lanes of the last block repeat
    the last variant. A single sheet has its corners in the lanes; spare lanes repeat the last corner. Reading gives a
    plain number or (corners,) for a single sheet, (variants, 1) or (variants, corners) for many.
    """

    def __init__(self, layout: Layout, variants: int | None, laid: NDArray[np.float64] | None = None) -> None:
        """`laid` is what it begins with, (vectors, LANES), if not with nothing but what every solve has."""
        self.layout = layout
        self.variants = variants
        self.lanes = variants or 1
        self.blocks = -(-self.lanes // LANES)
        self.buffer = aligned(self.blocks, layout.rows, LANES)
        self.buffer[...] = layout.blank if laid is None else laid

    def fill(self, given: Mapping[int, Any]) -> None:
        """Put in what is given, node by node."""
        for i, value in given.items():
            self[i] = value

    def fill_plain(self, nodes: NDArray[np.intp], numbers: NDArray[np.float64]) -> None:
        """Put in plain numbers, one for each node; of many variants of nodes without corners."""
        self.buffer[:, self.layout.rows_of[nodes][:, None] + self.layout.vectors, :] = numbers[:, None, None]

    def begin_at(self, nodes: NDArray[np.intp], starts: Values) -> None:
        """Put in starting values, (nodes, corners or 1) or (nodes, variants, corners or 1)."""
        if self.variants is None:
            self.buffer[0, self.layout.rows_of[nodes][:, None] + self.layout.vectors] = self._by_vectors(starts)
            return
        for i, value in zip(nodes.tolist(), starts, strict=True):
            self[i] = value[..., : self.layout.size[i]]

    def even_out(self) -> None:
        """Spare lanes stand as the last variant does."""
        last = (self.lanes - 1) % LANES
        self.buffer[-1, :, last + 1 :] = self.buffer[-1, :, last : last + 1]

    def _raw(self, values: Values) -> Values:
        """(corners,) or (variants, corners) as the buffer has them: (blocks, vectors, LANES)."""
        if self.variants is not None:
            return self._laid(values)
        return self._across(values).reshape(1, -1, LANES)

    def _across(self, values: Values) -> Values:
        """(…, corners or 1) across the lanes; spare ones repeat the last corner."""
        spread: Values = values[..., np.minimum(np.arange(self.layout.across * LANES), values.shape[-1] - 1)]
        return spread

    def _by_vectors(self, values: Values) -> Values:
        """(nodes, corners or 1) as a single sheet has them: (nodes, vectors, LANES)."""
        return self._across(values).reshape(len(values), self.layout.across, LANES)

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

    def operates(self, corners: NDArray[np.bool_]) -> NDArray[np.bool_]:
        """Whether every loop has an operation at these corners, of every variant."""
        found = np.ones(self.lanes, dtype=bool)
        if self.variants is None and all(self.begun(loop)[0] for loop in self.layout.loops):
            return found
        for loop in self.layout.loops:
            found &= np.isfinite(self.starts(loop))[..., corners].all(axis=(0, -1))
        return found

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
        """Whatever happens to these nodes meanwhile, these of many variants have them afterwards as before."""
        if self.variants is None or not variants.any():
            yield
            return
        rows = np.concatenate([np.arange(self.layout.row[i], self.layout.row[i] + self.layout.size[i]) for i in nodes])
        before = self.buffer[:, rows, :]
        yield
        lanes = np.pad(variants, (0, self.blocks * LANES - self.lanes), mode="edge").reshape(self.blocks, 1, LANES)
        self.buffer[:, rows, :] = np.where(lanes, before, self.buffer[:, rows, :])

    def __getitem__(self, index: int) -> Any:
        row, layout = self.layout.row[index], self.layout
        if layout.plan.kinds[index] == "pick":
            return None
        if self.variants is None and not layout.wide[index] and self._plain(index):
            return self.buffer.item(0, row, 0)
        return self.shown(self.buffer[:, row : row + layout.size[index], :], layout.count[index])

    def number(self, index: int, corner: int) -> float:
        """A node's value of a single sheet at one corner."""
        layout = self.layout
        return float(self.buffer.item(layout.row[index] * LANES + min(corner, layout.count[index] - 1)))

    def told(self) -> list[list[float | None] | float | None]:
        """Every node's value of a single sheet, or its values by corner; None in the place of what is no finite number."""
        out: list[list[float | None] | float | None] = [None] * len(self.layout.row)
        flat = self.buffer[0].reshape(-1)
        for nodes, places in self.layout.by_corners:
            for i, value in zip(nodes, with_nulls(flat[places]), strict=True):
                out[i] = value
        return out

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

    def _laid(self, values: NDArray[np.float64]) -> NDArray[np.float64]:
        """(variants, rows) as the buffer has them, (blocks, rows, LANES); spare lanes repeat the last variant."""
        spare = self.blocks * LANES - self.lanes
        if spare:
            values = np.concatenate([values, np.repeat(values[-1:], spare, axis=0)])
        return values.reshape(self.blocks, LANES, -1).transpose(0, 2, 1)

    def __setitem__(self, index: int, value: Any) -> None:
        row, size = self.layout.row[index], self.layout.size[index]
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
