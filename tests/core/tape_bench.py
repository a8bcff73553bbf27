"""One formula on the tape, by itself: a block for its arguments and its result."""

from typing import Any

import numpy as np

from rhombos.core.graph.corners import STANDARD
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.bounds import check
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.tape import Writer, program_of
from rhombos.core.graph.engine.template import template
from rhombos.core.graph.engine.told import CONTEXT_ITERATING, CONTEXT_WEIGH, FREE, NOT, context_of

CORNERS = len(STANDARD.ids)
ACROSS = -(-CORNERS // LANES)


class Bench:
    """A block with room for every argument and the result behind them: corners in rows, or across the lanes."""

    def __init__(self, fn: Any, count: int, across: bool = False) -> None:
        of = template(fn, count)
        assert of is not None, "this formula should have been traced"
        self.of, self.across, self.each = of, ACROSS if across else 0, ACROSS if across else CORNERS
        self.flags, self.changed = np.zeros(1, np.uint8), np.zeros(1, np.uint8)
        self.out = count * self.each
        self.course = self.out + self.each
        self.block = np.zeros((self.course + self.each, LANES))

    def __call__(self, *values: Any, wide: bool | None = None, iterating: bool = False, side: int = FREE, weigh: int = NOT) -> Any:
        """The result: a number, or one for every corner where an argument has one and it is not reduced."""
        self.flags[:] = self.changed[:] = 0
        many = [np.size(v) > 1 for v in values]
        wide = any(many[p] for p in self.of.reads) if wide is None else wide
        for k, value in enumerate(values):
            self._lay(k * self.each, value)
        program, bench = self._written(many, wide, side, weigh)
        self._run(program, bench, iterating, weigh)
        if self.across:
            flat = self.block[self.out : self.out + self.across].reshape(-1)[:CORNERS]
            assert wide or np.all((flat == flat[0]) | np.isnan(flat)), "what is the same at all corners stands in all of them"
            return flat.copy() if wide else float(flat[0])
        lanes = self.block[self.out : self.out + (CORNERS if wide else 1)]
        np.testing.assert_array_equal(lanes, np.repeat(lanes[:, :1], LANES, axis=1), "every lane has the same variant here")
        return lanes[:, 0].copy() if wide else float(lanes[0, 0])

    def _lay(self, row: int, value: Any) -> None:
        number = np.asarray(value, dtype=float).reshape(-1)
        if self.across:
            self.block[row : row + self.across] = np.pad(np.broadcast_to(number, CORNERS), (0, ACROSS * LANES - CORNERS), mode="edge").reshape(-1, LANES)
        else:
            self.block[row : row + self.each] = number[:, None]

    def _written(self, many: list[bool], wide: bool, side: int, weigh: int) -> tuple[Any, Any]:
        writer = Writer(CORNERS, self.across)
        places, beside = [(k * self.each, m) for k, m in enumerate(many)], writer.keep(writer.one)
        decided = weigh != NOT or side != FREE
        words = writer.write(self.of, places, beside if decided else self.out, wide=wide, flag=0)
        program = program_of([*words, *([writer.decide(self.out, beside, 0, side, self.course)] if decided else [])])
        writer.settle([program])
        check(program, len(self.block), writer.vectors, 1, self.across)
        return program, writer.bench(LANES)

    def _run(self, program: Any, bench: Any, iterating: bool, weigh: int) -> None:
        lasting, before = STANDARD.lasting.astype(np.int64), STANDARD.before.astype(np.int64)
        if self.across:
            spare = (0, ACROSS * LANES - CORNERS)
            lasting, before = np.pad(STANDARD.lasting.astype(float), spare, mode="edge"), np.pad(before, spare, mode="edge")
        addresses = [a.ctypes.data for a in (lasting, before, self.flags, bench)]
        words = context_of(*addresses, changed=self.changed.ctypes.data, across=self.across)
        words[CONTEXT_ITERATING], words[CONTEXT_WEIGH] = iterating, weigh
        MACHINE.run(self.block.ctypes.data, program.ctypes.data, len(program), words.ctypes.data, 1, len(self.block))
