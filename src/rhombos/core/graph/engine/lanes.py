"""Variants moved from one buffer to another, lane by lane, in machine code."""

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import DOUBLE, INT, LANES, repeat


def lower_lanes(module: ir.Module) -> None:
    """take_lanes(from, to, rows, count, places, goals): variant `goals[k]` of a buffer becomes as variant `places[k]` of another is."""
    pointer = INT.as_pointer()
    kind = ir.FunctionType(ir.VoidType(), [DOUBLE.as_pointer(), DOUBLE.as_pointer(), INT, INT, pointer, pointer])
    function = ir.Function(module, kind, "take_lanes")
    given, taken, rows, count, places, goals = function.args
    b = ir.IRBuilder(function.append_basic_block("entry"))
    work, end = function.append_basic_block("work"), function.append_basic_block("end")
    b.cbranch(b.icmp_signed(">", count, INT(0)), work, end)
    b.position_at_end(work)

    def first(buffer: ir.Value, variant: ir.Value) -> ir.Value:
        block = b.mul(b.sdiv(variant, INT(LANES)), b.mul(rows, INT(LANES)))
        return b.gep(buffer, [b.add(block, b.srem(variant, INT(LANES)))])

    def move(k: ir.Value) -> None:
        source, goal = first(given, b.load(b.gep(places, [k]))), first(taken, b.load(b.gep(goals, [k])))

        def row(r: ir.Value) -> None:
            at = b.mul(r, INT(LANES))
            b.store(b.load(b.gep(source, [at])), b.gep(goal, [at]))

        repeat(b, rows, row)

    repeat(b, count, move)
    b.branch(end)
    b.position_at_end(end)
    b.ret_void()
