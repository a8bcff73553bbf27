"""The kernels: one native function that works a tape through, block after block; every operation is written here once.

A block is so many vectors of LANES numbers. A record is WORDS words (see `tape`); nothing is checked while running, so
`Writer` is the only one that makes records, and `bounds.check` sees that what it made stays within its block.
"""

from typing import Any

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import BYTE, DOUBLE, INT, LANES, ONE, TRUTH, VECTOR, ZERO, Arithmetic, operands_of, repeat, splat, spread
from rhombos.core.graph.engine.template import CODE, WORDS
from rhombos.core.graph.engine.told import (
    CONTEXT_ACROSS,
    CONTEXT_BEFORE_SURGE,
    CONTEXT_BENCH,
    CONTEXT_CHANGED,
    CONTEXT_FLAGS,
    CONTEXT_LASTING,
    CONTEXT_WEIGH,
    CORNERS,
    DOWN,
    NOT,
    SAFE_SIDE,
    SAME,
    TURNED,
    UP,
)


def lower_run(module: ir.Module, *, vectored: bool) -> None:
    """run(buffer, program, length, context, blocks, vectors): every record of the program, in every block."""
    _Kernels(module, "run_across", vectored=vectored, across=ACROSS).lower()
    _Kernels(module, "run", vectored=vectored).lower()


ACROSS = -(-CORNERS // LANES)
"""Of so many vectors is every number of a single sheet at the usual corners."""


class _Kernels(Arithmetic):
    """The function being written; where `across` says of how many vectors everything is, nothing has to be counted."""

    def __init__(self, module: ir.Module, name: str, *, vectored: bool, across: int = 0) -> None:
        pointer = INT.as_pointer()
        kind = ir.FunctionType(ir.VoidType(), [DOUBLE.as_pointer(), pointer, INT, pointer, INT, INT])
        self.across = across
        self.function = ir.Function(module, kind, name)
        self.buffer, self.program, self.length, context, self.blocks, self.vectors = self.function.args
        super().__init__(module, ir.IRBuilder(self.function.append_basic_block("entry")), context, vectored=vectored)
        self.total = self.b.alloca(VECTOR)
        self._at = self.b.alloca(pointer)
        self.base: Any = None
        self.bench: Any = None
        self.record: Any = None

    def lower(self) -> None:
        b = self.b
        if not self.across:
            with b.if_then(b.icmp_signed("==", self.field(CONTEXT_ACROSS), INT(ACROSS)), likely=True):
                b.call(self.module.globals["run_across"], self.function.args)
                b.ret_void()
        work, end = self.function.append_basic_block("work"), self.function.append_basic_block("end")
        b.cbranch(b.and_(b.icmp_signed(">", self.length, INT(0)), b.icmp_signed(">", self.blocks, INT(0))), work, end)
        b.position_at_end(work)
        self.bench = self._array(CONTEXT_BENCH, VECTOR)
        repeat(b, self.blocks, self._block)
        b.branch(end)
        b.position_at_end(end)
        b.ret_void()

    def _block(self, block: Any) -> None:
        """The records one after the other. Every operation goes on to the next by itself: the processor learns which follows which."""
        b = self.b
        vectors = b.bitcast(self.buffer, VECTOR.as_pointer())
        self.base = b.gep(vectors, [b.mul(block, self.vectors)])
        end = b.gep(self.program, [self.length])
        at = self._at
        done = self.function.append_basic_block("done")
        kernels = [self.function.append_basic_block(name) for name in CODE]
        address = ir.IntType(8).as_pointer()
        table = ir.GlobalVariable(self.module, ir.ArrayType(address, len(kernels)), f"kernels_of_{self.function.name}")
        table.initializer = ir.Constant(table.type.pointee, [ir.BlockAddress(self.function, k) for k in kernels])  # type: ignore[attr-defined]
        table.linkage, table.global_constant = "internal", True

        def go(record: Any) -> None:
            code = b.load(record)
            goal = b.branch_indirect(b.load(b.gep(table, [INT(0), code])))
            for kernel in kernels:
                goal.add_destination(kernel)

        b.store(self.program, at)
        go(self.program)
        for name, kernel in zip(CODE, kernels, strict=True):
            b.position_at_end(kernel)
            self.record = b.load(at)
            self._kernel(name)
            following = b.gep(self.record, [INT(WORDS)])
            b.store(following, at)
            on = self.function.append_basic_block(f"after_{name}")
            b.cbranch(b.icmp_unsigned("==", following, end), done, on)
            b.position_at_end(on)
            go(following)
        b.position_at_end(done)

    def _word(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.record, [INT(at)]))

    def _place(self, row: Any) -> Any:
        """Where a number begins: rows below zero are on the bench, counted from its start."""
        b = self.b
        on_bench = b.icmp_signed("<", row, INT(0))
        start = b.select(on_bench, self.bench, self.base)
        return b.gep(start, [b.select(on_bench, b.not_(row), row)])

    def _operands(self, count: int) -> list[tuple[Any, Any]]:
        """Where the operands lie and how they step: read once, before the loop over the vectors."""
        return [(self._place(self._word(3 + 2 * n)), INT(1) if self.across else self._word(4 + 2 * n)) for n in range(count)]

    def _count(self) -> Any:
        """How many vectors a record works on."""
        return INT(self.across) if self.across else self._word(2)

    def _load(self, operand: tuple[Any, Any], k: Any) -> Any:
        start, step = operand
        return self.b.load(self.b.gep(start, [self.b.mul(k, step)]), align=8)

    def _kernel(self, name: str) -> None:
        b = self.b
        special = {"doubt": self._doubt, "decide": self._decide, "before_surge": self._before, "before_surge_across": self._before_across, "fused": self._fused}
        if name in special:
            special[name]()
        elif name.startswith(("highest", "lowest")):
            self._reduce(name.removesuffix("_across"), across=name.endswith("_across"))
        else:
            operands, out, count = self._operands(operands_of(name)), self._place(self._word(1)), self._count()

            def work(k: Any) -> None:
                b.store(self.value(name, [self._load(o, k) for o in operands]), b.gep(out, [k]), align=8)

            if self.across:
                repeat(b, count, work)
                return
            # What has no corners is one vector: most of a trial.
            with b.if_else(b.icmp_signed("==", count, INT(1))) as (single, many):
                with single:
                    work(INT(0))
                with many:
                    repeat(b, count, work)

    def _reduce(self, name: str, *, across: bool) -> None:
        """The highest or lowest over the corners; what is not a number is skipped."""
        b = self.b
        (operand,), out, count = self._operands(1), self._place(self._word(1)), self._count()
        better = "minnum" if name == "lowest" else "maxnum"
        lasting = self._array(CONTEXT_LASTING, VECTOR if across else INT) if name == "highest_lasting" else None
        b.store(splat(float("nan")), self.total)

        def gather(k: Any) -> None:
            value = self._load(operand, k)
            if lasting is not None:
                mark = b.load(b.gep(lasting, [k]), align=8)
                lasts = self.holds(mark) if across else b.or_(b.icmp_signed("!=", mark, INT(0)), b.icmp_signed("==", count, INT(1)))
                value = b.select(lasts, value, splat(float("nan")))
            b.store(self.intrinsic(better, [b.load(self.total), value]), self.total)

        repeat(b, count, gather)
        total = b.load(self.total)
        if not across:
            b.store(total, out, align=8)
            return
        best = self._over_lanes(total, better)
        repeat(b, count, lambda k: b.store(best, b.gep(out, [k]), align=8))

    def _over_lanes(self, vector: Any, better: str) -> Any:
        """The best of all lanes, in every lane: halves against halves."""
        shift = LANES // 2
        while shift:
            turned = [(lane + shift) % LANES for lane in range(LANES)]
            other = self.b.shuffle_vector(vector, vector, ir.Constant(ir.VectorType(ir.IntType(32), LANES), turned))
            vector = self.intrinsic(better, [vector, other])
            shift //= 2
        return vector

    def _before(self) -> None:
        """Every corner's value from the corner that it begins at; corners lie in rows."""
        b = self.b
        (operand,), out, index = self._operands(1), self._place(self._word(1)), self._array(CONTEXT_BEFORE_SURGE, INT)
        repeat(b, self._count(), lambda k: b.store(self._load(operand, b.load(b.gep(index, [k]))), b.gep(out, [k]), align=8))

    def _before_across(self) -> None:
        """The same for corners that lie across the lanes: number by number."""
        b = self.b
        (start, _), index = self._operands(1)[0], self._array(CONTEXT_BEFORE_SURGE, INT)
        numbers, out = b.bitcast(start, DOUBLE.as_pointer()), b.bitcast(self._place(self._word(1)), DOUBLE.as_pointer())
        repeat(b, b.mul(self._count(), INT(LANES)), lambda k: b.store(b.load(b.gep(numbers, [b.load(b.gep(index, [k]))])), b.gep(out, [k])))

    def _fused(self) -> None:
        """A stretch that is a function by itself (see `fused`)."""
        kind = ir.FunctionType(ir.VoidType(), [VECTOR.as_pointer(), VECTOR.as_pointer(), INT.as_pointer()])
        self.b.call(self.b.inttoptr(self._word(1), kind.as_pointer()), [self.base, self.bench, self.context])

    def _doubt(self) -> None:
        """Raise a flag where a condition does not hold (what is not a number is no truth)."""
        b = self.b
        (operand,), flag = self._operands(1), b.gep(self._array(CONTEXT_FLAGS, BYTE), [self._word(1)])

        def judge(k: Any) -> None:
            bad = b.not_(b.fcmp_ordered("==", self._load(operand, k), ONE))
            with b.if_then(self.any_of(bad)):
                b.store(BYTE(1), flag)

        repeat(b, self._count(), judge)

    def _decide(self) -> None:
        """Take a decision as it is weighed: what has not changed stays as it was, and what has raises its flag."""
        b = self.b
        place, (computed, _), weigh, side = self._place(self._word(1)), self._operands(1)[0], self.field(CONTEXT_WEIGH), self._word(6)
        courses = self._place(self._word(7))

        def take(k: Any) -> None:
            here, before = b.gep(place, [k]), b.load(b.gep(place, [k]), align=8)
            after = b.load(b.gep(computed, [k]), align=8)
            kept = b.icmp_signed("==", weigh, INT(SAFE_SIDE))
            course = b.gep(courses, [k])
            went = self._went(b.load(course, align=8), before, after)
            with b.if_then(kept):
                b.store(went, course, align=8)
            turned = self.intrinsic("fabs", [went])
            turned = b.fcmp_ordered(">", turned, splat(1.0 + TURNED))
            for better, which in (("maxnum", UP), ("minnum", DOWN)):
                asks = b.and_(kept, b.icmp_signed("==", side, INT(which)))
                held = b.and_(spread(b, asks, TRUTH), turned)
                after = b.select(held, self.intrinsic(better, [before, after]), after)
            same = b.and_(self._same(before, after), spread(b, b.icmp_signed("!=", weigh, INT(NOT)), TRUTH))
            b.store(b.select(same, before, after), here, align=8)
            with b.if_then(b.and_(self.any_of(b.not_(same)), b.icmp_signed("!=", weigh, INT(NOT)))):
                b.store(BYTE(1), b.gep(self._array(CONTEXT_CHANGED, BYTE), [self._word(5)]))

        repeat(b, self._count(), take)

    def _went(self, course: Any, before: Any, after: Any) -> Any:
        """The course of a decision after it has gone from `before` to `after`."""
        b = self.b
        gap = b.fsub(after, before)
        way = self.b.select(b.fcmp_ordered(">", gap, ZERO), ONE, b.select(b.fcmp_ordered("<", gap, ZERO), splat(-1.0), ZERO))
        way = b.select(self._same(before, after), ZERO, way)
        times = self.intrinsic("fabs", [course])
        back = b.fcmp_ordered("<", b.fmul(way, course), ZERO)
        times = self.intrinsic("maxnum", [b.fadd(times, b.select(back, ONE, ZERO)), ONE])
        return b.select(b.fcmp_ordered("==", way, ZERO), course, b.fmul(way, times))

    def _same(self, before: Any, after: Any) -> Any:
        """Equal to within SAME, or both not a number."""
        b = self.b
        gap, size = self.intrinsic("fabs", [b.fsub(after, before)]), self.intrinsic("fabs", [after])
        close = b.fcmp_ordered("<=", gap, b.fmul(splat(SAME), size))
        both = b.and_(b.fcmp_unordered("uno", before, before), b.fcmp_unordered("uno", after, after))
        return b.or_(b.or_(close, b.fcmp_ordered("==", before, after)), both)
