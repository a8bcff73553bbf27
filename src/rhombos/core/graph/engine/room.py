"""Where on the bench lies what is worked out on the way: room is used again as soon as nothing more reads it.

So that few vectors are touched, and those stay in the processor's nearest cache.
"""

import math
from collections import Counter, defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

ON_THE_WAY = 1 << 40
"""From here on a place in a record is the number of something worked out on the way, until it is known where that lies."""
LINE = 64
"""Bytes of a line of the cache."""
PLACES = (1, 3, 5, 7)
"""Where in a record places stand: the result, then the operands."""


def assign(programs: Sequence[NDArray[np.int64]], sizes: Sequence[int], taken: int, words: int) -> tuple[int, int]:
    """Give everything on the way its room behind `taken` vectors of the bench; returns how many are taken in all, and how many before what is used again.

    `sizes` says how many vectors each needs. What one program leaves to another (the preparation of a loop to its passes)
    has room of its own; all else is used up within its program.
    """
    tables = [p.reshape(-1, words)[:, PLACES] for p in programs]
    used_in = Counter(n for table in tables for n in np.unique(table[table >= ON_THE_WAY]).tolist())
    shared: dict[int, int] = {}
    for number, count in used_in.items():
        if count > 1:
            shared[number] = taken
            taken += sizes[number - ON_THE_WAY]
    most = taken
    for program, table in zip(programs, tables, strict=True):
        most = max(most, _within(program.reshape(-1, words), table, sizes, shared, taken))
    return most, taken


def _within(records: NDArray[np.int64], table: NDArray[np.int64], sizes: Sequence[int], shared: dict[int, int], start: int) -> int:
    """The same for one program: the end of the room it needs."""
    rows, places = np.nonzero(table >= ON_THE_WAY)
    numbers, which = np.unique(table[rows, places], return_inverse=True)
    last = np.zeros(len(numbers), dtype=np.int64)
    last[which] = rows  # of several the one that stands last
    lies = [shared.get(n, -1) for n in numbers.tolist()]
    until = [-1 if place >= 0 else end for place, end in zip(lies, last.tolist(), strict=True)]
    needed = [sizes[n - ON_THE_WAY] for n in numbers.tolist()]
    free: defaultdict[int, list[int]] = defaultdict(list)
    end = start
    for row, n in zip(rows.tolist(), which.tolist(), strict=True):
        size = needed[n]
        if lies[n] < 0:
            if not free[size]:
                free[size].append(end)
                end += size
            lies[n] = free[size].pop()
        # A result comes before its operands, so that it never lies where one of them is still read.
        if until[n] == row:
            until[n] = -1
            free[size].append(lies[n])
    records[rows, np.array(PLACES)[places]] = -1 - np.array(lies, dtype=np.int64)[which]
    return end


def aligned(*shape: int) -> NDArray[np.float64]:
    """Room for numbers that begins where a line of the cache does: a vector across two lines costs twice."""
    spare = LINE // 8
    made = np.empty(math.prod(shape) + spare)
    first = -(made.ctypes.data // 8) % spare
    return made[first : first + math.prod(shape)].reshape(shape)
