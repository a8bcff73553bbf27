"""Two plain operations as one record: (a + b)·c costs the interpreter once what it would cost twice.

The same operations in the same order, rounded between as before, so that the numbers are the same to the last bit.
"""

from collections import Counter
from collections.abc import Sequence

PLAIN = ("add", "sub", "mul", "div")
PAIRS = {f"{inner}_{outer}": (inner, outer, True) for outer in PLAIN for inner in PLAIN} | {
    f"{outer}_of_{inner}": (inner, outer, False) for outer in ("sub", "div") for inner in PLAIN
}
"""By name: the operation of the first two operands, that of its result and the third, and whether the result stands first there.

Of `…_of_…` it stands last, and the operands are the outer one's first, then the inner one's two.
"""

Operand = tuple[str, float]
Operation = tuple[str, tuple[Operand, ...]]


def paired(steps: Sequence[Operation], read: Sequence[Operand]) -> list[Operation | None]:
    """Each step, or None where it is done by the one that alone reads its result.

    Operands ("t", k) are results of step k as before; `read` are those that are read from outside.
    """
    uses = Counter(o for _, operands in steps for o in operands) + Counter(read)
    out: list[Operation | None] = []
    for op, operands in steps:
        found = _with_inner(op, operands, uses, out) if op in PLAIN else None
        if found is not None:
            out[found[1]] = None
        out.append((op, operands) if found is None else found[0])
    return out


def _with_inner(op: str, operands: tuple[Operand, ...], uses: Counter[Operand], done: Sequence[Operation | None]) -> tuple[Operation, int] | None:
    """The operation together with one of its operands, where nobody else reads that; and which step that was."""
    for at in (0, 1):
        kind, value = operands[at]
        step = done[int(value)] if kind == "t" and uses[operands[at]] == 1 else None
        if step is None or step[0] not in PLAIN:
            continue
        (inner, of), other = step, operands[1 - at]
        if at == 0 or op in ("add", "mul"):
            return (f"{inner}_{op}", (*of, other)), int(value)
        return (f"{op}_of_{inner}", (other, *of)), int(value)
    return None
