"""That a program stays within its block and its bench: looked at once, when it is written, since nothing is checked while it runs."""

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.engine.arithmetic import operands_of
from rhombos.core.graph.engine.template import CODE, OPERATIONS, WORDS


class BoundsError(Exception):
    """A record that would read or write where it must not: a fault of ours."""


_OPERANDS = np.array([1 if name in ("doubt", "decide") else 0 if name == "fused" else operands_of(name) for name in OPERATIONS])
"""By operation how many operands step through their vectors."""
FLAGGED = {"doubt": 1, "decide": 5}
"""Operations that raise a flag, and the word that says which."""


def check(program: NDArray[np.int64], rows: int, bench: int, flags: int, across: int = 0) -> None:
    """Refuse a program with a record outside `rows` vectors of a block, `bench` vectors of the bench or `flags` flags.

    Where corners lie `across` the lanes in so many vectors, every record has to be of as many, and its operands to step.
    """
    records = program.reshape(-1, WORDS)
    known = (records[:, 0] >= 0) & (records[:, 0] < len(OPERATIONS))
    _all(records, known, "is no operation")
    count = records[:, 2]
    _all(records, count > 0, "works on nothing")
    _all(records, (count == across) | (across == 0), "is of another number of vectors")
    gathers = np.isin(records[:, 0], [CODE[name] for name in ("highest", "lowest", "highest_lasting")])
    for name, word in FLAGGED.items():
        mine = records[:, 0] == CODE[name]
        _all(records, ~mine | ((records[:, word] >= 0) & (records[:, word] < flags)), "raises a flag that is not there")
    result = np.where(records[:, 0] == CODE["doubt"], 0, records[:, 1])
    _inside(records, result, np.where(gathers, 1, count), rows, bench)
    for at in (3, 5, 7):
        place = np.where((records[:, 0] == CODE["decide"]) & (at == 5), 0, records[:, at])
        steps = (records[:, at + 1] == 1) & (place == records[:, at])
        _inside(records, place, np.where(steps, count, 1), rows, bench)
        read = _OPERANDS[np.where(known, records[:, 0], 0)] > (at - 3) // 2
        _all(records, ~read | (records[:, at + 1] == 1) | (across == 0), "does not step")


def _inside(records: NDArray[np.int64], place: NDArray[np.int64], count: NDArray[np.int64], rows: int, bench: int) -> None:
    on_bench = place < 0
    first, most = np.where(on_bench, -1 - place, place), np.where(on_bench, bench, rows)
    _all(records, first + count <= most, "lies outside")


def _all(records: NDArray[np.int64], sound: NDArray[np.bool_], what: str) -> None:
    if not sound.all():
        k = int(np.argmin(sound))
        code = int(records[k, 0])
        name = OPERATIONS[code] if 0 <= code < len(OPERATIONS) else code
        raise BoundsError(f"record {k} ({name}, {records[k].tolist()}) {what}")
