"""The driver: the one loop that runs a program's records over the blocks of a buffer, and weighs decisions."""

from enum import IntEnum
from typing import Any

from llvmlite import ir

from rhombos.core.graph.compiled import lower
from rhombos.core.graph.compiled.lower import BYTE, DOUBLE, FUNCTION, INT, LANES, VECTOR, splat

SAME = 1e-7
"""A decision that moves by less, relative, has not changed."""


class Side(IntEnum):
    """What a record computes: something that follows, or a decision with the side it may move to once it is held to it."""

    FOLLOWS = 0
    FREE = 1
    UP = 2
    DOWN = 3


class Weigh(IntEnum):
    """How decisions are taken: written as they come, compared with the former one, or held to their safe side as well."""

    NOT = 0
    COMPARE = 1
    SAFE_SIDE = 2


def lower_driver(module: ir.Module) -> None:
    """run(buffer, program, length, context, blocks, rows): every record of the program, block after block.

    The buffer's blocks are `rows` rows of LANES numbers; a program is records one after the other, `length` words.
    """
    function = ir.Function(module, ir.FunctionType(ir.VoidType(), [DOUBLE.as_pointer(), INT.as_pointer(), INT, INT.as_pointer(), INT, INT]), "run")
    buffer, program, length, context, blocks, rows = function.args
    entry, outer, inner, close, end = (function.append_basic_block(n) for n in ("entry", "block", "record", "close", "end"))
    b = ir.IRBuilder(entry)
    b.cbranch(b.and_(b.icmp_signed(">", length, INT(0)), b.icmp_signed(">", blocks, INT(0))), outer, end)
    b.position_at_end(outer)
    block = b.phi(INT)
    base = b.gep(buffer, [b.mul(b.mul(block, rows), INT(LANES))])
    b.branch(inner)
    b.position_at_end(inner)
    at = b.phi(INT)
    record = b.gep(program, [at])
    _run_record(b, base, record, context)
    following = b.add(at, _word(b, record, lower.RECORD_LENGTH))
    at.add_incoming(INT(0), outer)
    at.add_incoming(following, b.block)
    b.cbranch(b.icmp_signed("<", following, length), inner, close)
    b.position_at_end(close)
    next_block = b.add(block, INT(1))
    block.add_incoming(INT(0), entry)
    block.add_incoming(next_block, close)
    b.cbranch(b.icmp_signed("<", next_block, blocks), outer, end)
    b.position_at_end(end)
    b.ret_void()


def _word(b: ir.IRBuilder, base: Any, at: int) -> Any:
    return b.load(b.gep(base, [INT(at)]))


def _run_record(b: ir.IRBuilder, base: Any, record: Any, context: Any) -> None:
    code = b.inttoptr(_word(b, record, lower.RECORD_CODE), FUNCTION.as_pointer())
    side, weigh = _word(b, record, lower.RECORD_SIDE), _word(b, context, lower.CONTEXT_WEIGH)
    weighed = b.and_(b.icmp_signed("!=", side, INT(Side.FOLLOWS)), b.icmp_signed("!=", weigh, INT(Weigh.NOT)))
    with b.if_else(weighed) as (then, otherwise):
        with then:
            row = b.mul(_word(b, record, lower.RECORD_ROW), INT(LANES))
            place = b.bitcast(b.gep(base, [row]), VECTOR.as_pointer())
            before = b.load(place, align=8)
            b.call(code, [base, record, context])
            after = _held_to_side(b, side, weigh, before, b.load(place, align=8))
            same = _same(b, before, after)
            b.store(b.select(same, before, after), place, align=8)
            bits = b.bitcast(b.not_(same), ir.IntType(LANES))
            with b.if_then(b.icmp_unsigned("!=", bits, ir.IntType(LANES)(0))):
                changed = b.inttoptr(_word(b, context, lower.CONTEXT_CHANGED), BYTE.as_pointer())
                b.store(BYTE(1), b.gep(changed, [_word(b, record, lower.RECORD_FLAG)]))
        with otherwise:
            b.call(code, [base, record, context])


def _held_to_side(b: ir.IRBuilder, side: Any, weigh: Any, before: Any, after: Any) -> Any:
    """Late in a solve a decision moves to its safe side only; what is not a number gives way."""
    held = b.icmp_signed("==", weigh, INT(Weigh.SAFE_SIDE))
    for name, which in (("maxnum", Side.UP), ("minnum", Side.DOWN)):
        moved = b.call(b.module.declare_intrinsic(f"llvm.{name}.v{LANES}f64", (), ir.FunctionType(VECTOR, [VECTOR, VECTOR])), [before, after])
        after = b.select(b.and_(held, b.icmp_signed("==", side, INT(which))), moved, after)
    return after


def _same(b: ir.IRBuilder, before: Any, after: Any) -> Any:
    """Equal to within SAME, or both not a number."""
    size = b.module.declare_intrinsic(f"llvm.fabs.v{LANES}f64", (), ir.FunctionType(VECTOR, [VECTOR]))
    close = b.fcmp_ordered("<=", b.call(size, [b.fsub(after, before)]), b.fmul(splat(SAME), b.call(size, [after])))
    both = b.and_(b.fcmp_unordered("uno", before, before), b.fcmp_unordered("uno", after, after))
    return b.or_(b.or_(close, b.fcmp_ordered("==", before, after)), both)
