"""Stretches of a tape as one native function each, for what is run thousands of times over: what is worked out on the way stays in registers.

A stretch is a run of records that work on as many vectors number by number; a vector at a time all of it is done. What nothing reads
afterwards is never written down. The record that stands for it calls the function; all others stay as they are, so that
whoever works a program through need not know. The numbers are the same to the last bit: the same operations in the same order.
"""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from llvmlite import ir
from numpy.typing import NDArray

from rhombos.core.graph.engine.arithmetic import BYTE, INT, ONE, VECTOR, Arithmetic, operands_of, repeat
from rhombos.core.graph.engine.machine import MACHINE
from rhombos.core.graph.engine.template import CODE, OPERATIONS, WORDS
from rhombos.core.graph.engine.told import CONTEXT_FLAGS

LEAST = 8
"""Records that a stretch must have at least to be worth a function."""
APART = frozenset(CODE[name] for name in OPERATIONS if name.startswith(("highest", "lowest", "before_surge")) or name in ("decide", "fused"))
"""Operations that are more than number by number."""
REDUCING = frozenset(CODE[name] for name in ("highest", "lowest", "highest_lasting"))


@dataclass(frozen=True)
class Stretch:
    """Records `first` to before `last` of a program; `written` are those whose result somebody reads afterwards."""

    first: int
    last: int
    written: frozenset[int]


def fused(programs: Sequence[NDArray[np.int64]], shared: int, read: frozenset[int]) -> tuple[list[NDArray[np.int64]], object]:
    """The programs with their stretches made into functions, and what has to be kept for as long as they may be run.

    `shared` are the vectors of the bench that more than one program uses, `read` the rows of the block that somebody
    else reads, or a program itself when it is worked through again. Takes a second or so for a thousand records; the interpreter is free for most of it.
    """
    tables = [p.reshape(-1, WORDS) for p in programs]
    read_by = [_rows_of(table) for table in tables]
    found = [stretches(table, shared, read.union(*read_by[:k], *read_by[k + 1 :])) for k, table in enumerate(tables)]
    module, vectored = ir.Module("fused"), MACHINE.vectored()
    names = [[f"stretch_{k}_{s.first}" for s in mine] for k, mine in enumerate(found)]
    for table, mine, called in zip(tables, found, names, strict=True):
        for stretch, name in zip(mine, called, strict=True):
            _Function(module, name, vectored=vectored).lower(table, stretch)
    addresses, native = MACHINE.link(module, [name for called in names for name in called])
    return [_with(table, mine, [addresses[n] for n in called]).reshape(-1) for table, mine, called in zip(tables, found, names, strict=True)], native


def _rows_of(table: NDArray[np.int64]) -> frozenset[int]:
    """All that a program reads, vector by vector."""
    return frozenset(vector for record in table.tolist() for vector in _reads(record))


def operands(record: Sequence[int]) -> list[tuple[int, int]]:
    """Where a record's operands lie, and how they step (a held build decides nothing)."""
    return [(record[3 + 2 * n], record[4 + 2 * n]) for n in range(operands_of(OPERATIONS[record[0]]))]


def _vectors(place: int, count: int) -> list[int]:
    """A place and those behind it; on the bench they are counted downwards."""
    return [place + k if place >= 0 else place - k for k in range(count)]


def _reads(record: Sequence[int]) -> list[int]:
    """The vectors that a record reads."""
    return [vector for place, step in operands(record) for vector in _vectors(place, record[2] if step else 1)]


def _writes(record: Sequence[int]) -> list[int]:
    """The vectors that a record writes."""
    if record[0] == CODE["doubt"]:
        return []
    return _vectors(record[1], 1 if record[0] in REDUCING else record[2])


def stretches(table: NDArray[np.int64], shared: int, read: frozenset[int]) -> list[Stretch]:
    """The stretches of a program, and which of their results are read behind them."""
    records: list[list[int]] = table.tolist()
    out, first = [], 0
    for k in range(len(records) + 1):
        ends = k == len(records) or records[k][0] in APART or (k > first and records[k][2] != records[first][2])
        if not ends:
            continue
        if k - first >= LEAST:
            out.append(Stretch(first, k, _read_behind(records, first, k, shared, read)))
        first = k + 1 if k < len(records) and records[k][0] in APART else k
    return out


def _read_behind(records: list[list[int]], first: int, last: int, shared: int, read: frozenset[int]) -> frozenset[int]:
    """Which records of a stretch leave something that is read afterwards, in this program or another."""
    final = {vector: k for k, record in enumerate(records[first:last], first) for vector in _writes(record)}
    asked = {vector for vector in final if vector in read or -1 - shared < vector < 0}
    open_ = set(final) - asked
    for record in records[last:]:
        asked.update(open_.intersection(_reads(record)))
        open_.difference_update(asked, _writes(record))
    return frozenset(final[vector] for vector in asked)


def _with(table: NDArray[np.int64], mine: Sequence[Stretch], addresses: Sequence[int]) -> NDArray[np.int64]:
    parts, at = [], 0
    for stretch, address in zip(mine, addresses, strict=True):
        parts += [table[at : stretch.first], np.array([[CODE["fused"], address, 1, *[0] * (WORDS - 3)]], dtype=np.int64)]
        at = stretch.last
    return np.concatenate([*parts, table[at:]])


class _Function(Arithmetic):
    """stretch(block, bench, context): one stretch, a vector of every row at a time."""

    def __init__(self, module: ir.Module, name: str, *, vectored: bool) -> None:
        kind = ir.FunctionType(ir.VoidType(), [VECTOR.as_pointer(), VECTOR.as_pointer(), INT.as_pointer()])
        self.function = ir.Function(module, kind, name)
        self.block, self.bench, context = self.function.args
        super().__init__(module, ir.IRBuilder(self.function.append_basic_block("entry")), context, vectored=vectored)

    def lower(self, table: NDArray[np.int64], stretch: Stretch) -> None:
        records: list[list[int]] = table[stretch.first : stretch.last].tolist()
        repeat(self.b, INT(records[0][2]), lambda k: self._vector(records, stretch, k))
        self.b.ret_void()

    def _vector(self, records: list[list[int]], stretch: Stretch, k: Any) -> None:
        """All of it for vector `k`; `here` is what has been worked out, by where it would lie."""
        here: dict[int, Any] = {}
        for at, record in enumerate(records, stretch.first):
            name = OPERATIONS[record[0]]
            args = [here[place] if place in here else self._load(place, step, k) for place, step in operands(record)]
            if name == "doubt":
                self._doubt(record[1], args[0])
                continue
            value = here[record[1]] = self.value(name, args)
            if at in stretch.written:
                self.b.store(value, self._place(record[1], 1, k), align=8)

    def _place(self, place: int, step: int, k: Any) -> Any:
        base, first = (self.block, place) if place >= 0 else (self.bench, -1 - place)
        return self.b.gep(base, [self.b.add(INT(first), k) if step else INT(first)])

    def _load(self, place: int, step: int, k: Any) -> Any:
        return self.b.load(self._place(place, step, k), align=8)

    def _doubt(self, flag: int, value: Any) -> None:
        b = self.b
        flags = b.inttoptr(self.field(CONTEXT_FLAGS), BYTE.as_pointer())
        place = b.gep(flags, [INT(flag)])
        bad = b.zext(self.any_of(b.not_(b.fcmp_ordered("==", value, ONE))), BYTE)
        b.store(b.or_(b.load(place), bad), place)
