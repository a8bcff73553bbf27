"""Like terms of different formulas, worked out once: what two figures of a loop have in common (the harmonics of one pulse, say)."""

from collections import defaultdict
from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.engine.room import ON_THE_WAY
from rhombos.core.graph.engine.template import CODE, WORDS

_APART = (CODE["doubt"], CODE["decide"], CODE["fused"])
"""What does more than to put down a number."""


def like_terms(programs: Sequence[NDArray[np.int64]]) -> list[NDArray[np.int64]]:
    """The programs, to be run one behind the other, without the records whose result stands somewhere already.

    A record says all that its result hangs on: the operation, and where its operands lie. So two that say the same have the
    same result as long as nothing was written there in between: `written` counts how often each place has been. What is worked
    out on the way is taken from where it was worked out first; what has a row of its own is put there all the same.
    """
    written: defaultdict[int, int] = defaultdict(int)
    stands: dict[tuple[int, ...], tuple[int, int]] = {}
    instead: dict[int, int] = {}
    out = []
    for program in programs:
        left: list[list[int]] = []
        for record in program.reshape(-1, WORDS).tolist():
            for at in (3, 5, 7):
                record[at] = instead.get(record[at], record[at])
            left.append(record)
            code, result, vectors, a, a_steps, b, b_steps, c, c_steps = record
            if code in _APART:
                written[result] += code == CODE["decide"]
                continue
            said = (code, vectors, a, written[a], a_steps, b, written[b], b_steps, c, written[c], c_steps)
            place, then = stands.get(said, (0, -1))
            if result >= ON_THE_WAY and written[place] == then:
                instead[result] = place
                left.pop()
                continue
            written[result] += 1
            stands[said] = result, written[result]
        out.append(np.array(left, dtype=np.int64).reshape(-1))
    return out
