"""The tape: formulas written down as a row of plain operations on rows of numbers, for the kernels to work through.

A formula is traced once for the whole process (`template`). Where it is used, every one of its operations becomes a
record: what is done, where the result goes, over how many vectors, and where the operands lie. Nothing is compiled.
"""

from collections.abc import Sequence
from dataclasses import dataclass, field

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.engine.room import ON_THE_WAY, aligned, assign
from rhombos.core.graph.engine.template import CODE, WORDS, Template

Records = NDArray[np.int64]
"""(records, WORDS)."""
Place = tuple[int, bool]
"""Where a number lies, and whether it has its corners."""


@dataclass(frozen=True)
class Loop:
    """How a formula stands in what is gone through again and again: the parameters that change from pass to pass, and the records that go before the passes.

    What hangs on whether a loop is iterated is the same in a loop's preparation and in its passes; not so `apart` from them.
    """

    moving: frozenset[int]
    before: list[Records]
    apart: bool = False


@dataclass
class Writer:
    """Writes records: where constants and intermediate results lie, and how many vectors a corner's worth takes.

    Both lie on the bench, the same for every block; a place there is written as −1 less its vector, to tell it from one
    in the block. Corners lie either in rows, one vector each (`across` is 0), or across the lanes of `across` vectors: then every
    number takes that many, and what is the same at all corners stands in all of them.
    """

    corners: int
    across: int
    constants: dict[float, int] = field(default_factory=dict)
    _places: dict[float | str, int] = field(default_factory=dict)
    taken: int = 0
    """Vectors of the bench that are taken for good: the constants, and what is asked for by `keep`."""
    vectors: int = 0
    """Vectors of the bench in all, known once all is written."""
    _sizes: list[int] = field(default_factory=list)
    """How many vectors each thing worked out on the way needs."""

    @property
    def one(self) -> int:
        """Vectors that a number without corners takes."""
        return self.across or 1

    def size(self, *, wide: bool) -> int:
        """Vectors that a number takes."""
        return self.across or (self.corners if wide else 1)

    def constant(self, number: float) -> int:
        """Where a constant lies (NaN stands for itself)."""
        key = "nan" if number != number else number
        if key not in self._places:
            self.constants[number] = self._places[key] = self.keep(self.one)
        return self._places[key]

    def write(
        self, of: Template, places: Sequence[Place], result: int, *, wide: bool, flag: int = -1, loops: Sequence[Loop] = (), judged: bool = True
    ) -> list[Records]:
        """The records of a template: `places` of its parameters, where its result goes, and the flag its conditions raise.

        Not `judged`, it raises none: what it is worked out for is a trial. Within `loops`, the outermost first, what hangs
        on none of the parameters that move is written before the passes.
        """
        words, conditions = self.worked(of, places, result, wide=wide, loops=loops)
        return [*words, *(self.record("doubt", flag, self.size(wide=source[1]), [source]) for source in conditions if judged)]

    def worked(self, of: Template, places: Sequence[Place], result: int, *, wide: bool, loops: Sequence[Loop] = ()) -> tuple[list[Records], list[Place]]:
        """As `write`, raising no flag: the records, and where the truth of each condition lies."""
        shaped = of.shaped(tuple(w for _, w in places), self.corners, self.across)
        count, steps = len(places), len(shaped.words)
        table = np.zeros(len(shaped.wide) + 1, dtype=np.int64)
        table[:count] = [row for row, _ in places]
        table[count : count + steps] = self._rooms(shaped.sizes)
        table[count + steps : -1] = [self.constant(number) for number in shaped.constants]
        still: NDArray[np.bool_] = np.zeros(steps, dtype=np.bool_)
        goes_before = []
        for loop in loops:
            here = np.logical_not(np.any(shaped.moved_by[:, sorted(loop.moving)], axis=1)) & ~still
            if loop.apart:
                here &= ~shaped.asks
            goes_before.append((loop, here))
            still |= here
        last = shaped.result - count
        # The result lies where it belongs at once, unless something else is still to be read there.
        own = 0 <= last < steps and not still[last] and shaped.sizes[last] == self.size(wide=wide) and result not in table[:count]
        if own:
            table[shaped.result] = result
        words = shaped.words.copy()
        words[:, 1], words[:, 3::2] = table[count : count + steps], table[shaped.refs]
        for loop, here in goes_before:
            loop.before.append(words[here])
        out = [words[~still] if loops else words]
        if not own:
            out.append(self.record("copy", result, self.size(wide=wide), [(int(table[shaped.result]), shaped.wide[shaped.result])]))
        return out, [(int(table[c]), shaped.wide[c]) for c in shaped.conditions]

    def _rooms(self, sizes: Sequence[int]) -> NDArray[np.int64]:
        first = ON_THE_WAY + len(self._sizes)
        self._sizes.extend(sizes)
        return np.arange(first, first + len(sizes))

    def room(self, size: int) -> int:
        """Room on the bench for what is worked out on the way."""
        self._sizes.append(size)
        return ON_THE_WAY + len(self._sizes) - 1

    def keep(self, size: int) -> int:
        """Room on the bench that no later formula writes over."""
        self.taken += size
        return -1 - (self.taken - size)

    def settle(self, programs: Sequence[NDArray[np.int64]]) -> int:
        """Say in all programs where on the bench the room lies that is used over and over, now that it is known what else lies there.

        Returns how many vectors lie before it: what is there for good, and what one program leaves to another.
        """
        self.vectors, shared = assign(programs, self._sizes, self.taken, WORDS)
        return shared

    def bench(self, lanes: int) -> NDArray[np.float64]:
        """Room for what is worked out on the way, the constants in place."""
        made = aligned(self.vectors, lanes)
        places = -1 - np.fromiter(self.constants.values(), dtype=np.intp)
        for k in range(self.one):
            made[places + k] = np.fromiter(self.constants, dtype=float)[:, None]
        return made

    def record(self, op: str, target: int, count: int, operands: Sequence[Place]) -> Records:
        """One record; an operand without corners does not step, unless every number takes several vectors."""
        words = np.zeros((1, WORDS), dtype=np.int64)
        words[0, :3] = CODE[op], target, count
        words[0, 3 : 3 + 2 * len(operands)] = [word for row, wide in operands for word in (row, wide or self.across > 0)]
        return words

    def decide(self, row: int, computed: int, flag: int, side: int, course: int) -> Records:
        """The record that weighs a decision: its row, where its formula's result lies, the flag it raises, its safe side, the row of its course."""
        return np.array([[CODE["decide"], row, self.one, computed, 1, flag, side, course, 1]], dtype=np.int64)


def program_of(records: Sequence[Records]) -> NDArray[np.int64]:
    """Records one behind the other, as the kernels read them."""
    return np.concatenate([np.zeros((0, WORDS), dtype=np.int64), *records]).reshape(-1)
