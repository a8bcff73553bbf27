"""The kernels: one native function that works a tape through, block after block; every operation is written here once.

A block is so many vectors of LANES numbers. A record is WORDS words (see `tape`); nothing is checked while running, so
`Writer` is the only one that makes records, and `bounds.check` sees that what it made stays within its block.
"""

from collections.abc import Callable
from typing import Any

from llvmlite import binding, ir

from rhombos.core.graph.engine.template import CODE, WORDS

WIDE = bool(binding.get_host_cpu_features().get("avx512f", False))
LANES = 8 if WIDE else 4
"""Numbers that one instruction works on: as many as this processor's registers hold."""
DOUBLE, INT, BYTE, BOOL = ir.DoubleType(), ir.IntType(64), ir.IntType(8), ir.IntType(1)
VECTOR = ir.VectorType(DOUBLE, LANES)
TRUTH = ir.VectorType(BOOL, LANES)
SAME = 1e-7
"""A decision that moves by less, relative, has not changed."""

CONTEXT_ITERATING, CONTEXT_LASTING, CONTEXT_BEFORE_SURGE, CONTEXT_FLAGS, CONTEXT_WEIGH, CONTEXT_CHANGED, CONTEXT_BENCH = range(7)
"""What a run is told: whether a loop is iterated, which corners last and what went before them, how decisions are weighed,
and where the bench lies: constants and what is worked out on the way, the same room for every block, so that it stays in the cache."""
SETTLED, ITERATING, TRIAL = range(3)
"""In what a formula stands: a state that is judged, a loop that is iterated, a candidate that is tried."""
NOT, COMPARE, SAFE_SIDE = range(3)
"""How decisions are taken: written as they come, compared with the former one, or held to their safe side as well."""
FREE, UP, DOWN = range(3)
"""The side that a decision is held to."""
TURNED = 1
"""How often a decision may turn before it is held. Its course is which way it went last (±1), times one more than the times it has turned."""

INTRINSICS = {"sqrt": "sqrt", "exp": "exp", "log": "log", "log10": "log10", "sin": "sin", "cos": "cos", "ceil": "ceil", "floor": "floor", "rint": "rint"}
LIBRARY = ("tan", "atan", "atan2", "sinh", "cosh", "tanh", "atanh", "tgamma")
VECTORED = {name: f"_ZGV{'e' if WIDE else 'd'}N{LANES}{'vv' if name == 'pow' else 'v'}_{name}" for name in ("exp", "log", "sin", "cos", "pow")}
"""The names that glibc's vector library (libmvec, AVX2 or AVX-512) gives to what it computes in all lanes at once, to within 4 units in the last place."""
COMPARED = {"lt": "<", "le": "<=", "gt": ">", "ge": ">=", "eq": "=="}


def splat(number: float) -> ir.Constant:
    """The same number in every lane."""
    return ir.Constant(VECTOR, [number] * LANES)


def spread(builder: ir.IRBuilder, one: Any, kind: Any) -> Any:
    """What is known only while running, in every lane of a vector of `kind`."""
    first = builder.insert_element(ir.Constant(kind, ir.Undefined), one, ir.IntType(32)(0))
    return builder.shuffle_vector(first, first, ir.Constant(ir.VectorType(ir.IntType(32), LANES), [0] * LANES))


ONE, ZERO = splat(1.0), splat(0.0)


def repeat(builder: ir.IRBuilder, count: Any, body: Callable[[Any], None]) -> None:
    """For k in 0 … count − 1: body(k). `count` is at least one."""
    before, inside = builder.block, builder.function.append_basic_block("inside")
    after = builder.function.append_basic_block("after")
    builder.branch(inside)
    builder.position_at_end(inside)
    k = builder.phi(INT)
    k.add_incoming(INT(0), before)
    body(k)
    following = builder.add(k, INT(1))
    k.add_incoming(following, builder.block)
    builder.cbranch(builder.icmp_signed("<", following, count), inside, after)
    builder.position_at_end(after)


def lower_run(module: ir.Module, *, vectored: bool) -> None:
    """run(buffer, program, length, context, blocks, vectors): every record of the program, in every block."""
    _Kernels(module, vectored=vectored).lower()


class _Kernels:
    """The function being written."""

    def __init__(self, module: ir.Module, *, vectored: bool) -> None:
        self.module = module
        self.vectored = vectored
        pointer = INT.as_pointer()
        kind = ir.FunctionType(ir.VoidType(), [DOUBLE.as_pointer(), pointer, INT, pointer, INT, INT])
        self.function = ir.Function(module, kind, "run")
        self.buffer, self.program, self.length, self.context, self.blocks, self.vectors = self.function.args
        self.b = ir.IRBuilder(self.function.append_basic_block("entry"))
        self.total = self.b.alloca(VECTOR)
        self._at = self.b.alloca(pointer)
        self.base: Any = None
        self.bench: Any = None
        self.record: Any = None

    def lower(self) -> None:
        b = self.b
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
        table = ir.GlobalVariable(self.module, ir.ArrayType(address, len(kernels)), "kernels")
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

    def _field(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.context, [INT(at)]))

    def _array(self, at: int, kind: Any) -> Any:
        return self.b.inttoptr(self._field(at), kind.as_pointer())

    def _place(self, row: Any) -> Any:
        """Where a number begins: rows below zero are on the bench, counted from its start."""
        b = self.b
        on_bench = b.icmp_signed("<", row, INT(0))
        start = b.select(on_bench, self.bench, self.base)
        return b.gep(start, [b.select(on_bench, b.not_(row), row)])

    def _operands(self, count: int) -> list[tuple[Any, Any]]:
        """Where the operands lie and how they step: read once, before the loop over the vectors."""
        return [(self._place(self._word(3 + 2 * n)), self._word(4 + 2 * n)) for n in range(count)]

    def _load(self, operand: tuple[Any, Any], k: Any) -> Any:
        start, step = operand
        return self.b.load(self.b.gep(start, [self.b.mul(k, step)]), align=8)

    def _kernel(self, name: str) -> None:
        b = self.b
        special = {"doubt": self._doubt, "decide": self._decide, "before_surge": self._before, "before_surge_across": self._before_across}
        if name in special:
            special[name]()
        elif name.startswith(("highest", "lowest")):
            self._reduce(name.removesuffix("_across"), across=name.endswith("_across"))
        else:
            count = {"select": 3, "iterating": 0, "trying": 0, **dict.fromkeys(_BINARY, 2)}.get(name, 1)
            operands, out = self._operands(count), self._place(self._word(1))
            repeat(b, self._word(2), lambda k: b.store(self._value(name, [self._load(o, k) for o in operands]), b.gep(out, [k]), align=8))

    def _value(self, name: str, args: list[Any]) -> Any:
        """The result of an operation in one vector."""
        b = self.b
        if name in ("add", "sub", "mul", "div"):
            return {"add": b.fadd, "sub": b.fsub, "mul": b.fmul, "div": b.fdiv}[name](*args)
        if name in COMPARED:
            return self._truth(b.fcmp_ordered(COMPARED[name], *args))
        if name in INTRINSICS or name == "pow":
            return self._intrinsic(INTRINSICS.get(name, name), args)
        if name in LIBRARY:
            return self._lanewise(name, args)
        if name in ("fmax", "fmin"):
            return self._intrinsic("maxnum" if name == "fmax" else "minnum", args)
        if name in ("max", "min"):
            # NumPy's maximum and minimum hand on what is not a number.
            chosen = b.select(b.fcmp_ordered(">" if name == "max" else "<", *args), *args)
            return b.select(b.fcmp_unordered("uno", args[0], args[0]), args[0], chosen)
        return self._other(name, args)

    def _other(self, name: str, args: list[Any]) -> Any:
        b = self.b
        match name:
            case "copy":
                return args[0]
            case "neg":
                return b.fneg(args[0])
            case "abs":
                return self._intrinsic("fabs", args)
            case "select":
                return b.select(self._is(args[0]), args[1], args[2])
            case "and":
                return b.fmul(*args)
            case "or":
                return self._truth(b.or_(self._is(args[0]), self._is(args[1])))
            case "not":
                return b.fsub(ONE, args[0])
            case "ne":
                return self._truth(b.fcmp_unordered("!=", *args))
            case "isnan":
                return self._truth(b.fcmp_unordered("uno", args[0], args[0]))
            case "isfinite":
                return self._truth(b.fcmp_ordered("<", self._intrinsic("fabs", args), splat(float("inf"))))
            case "iterating":
                return b.select(b.icmp_signed("==", self._field(CONTEXT_ITERATING), INT(ITERATING)), ONE, ZERO)
            case "trying":
                return b.select(b.icmp_signed("!=", self._field(CONTEXT_ITERATING), INT(SETTLED)), ONE, ZERO)
        raise NotImplementedError(f"the operation {name!r} has no kernel")

    def _truth(self, bits: Any) -> Any:
        return self.b.select(bits, ONE, ZERO)

    def _is(self, number: Any) -> Any:
        return self.b.fcmp_unordered("!=", number, ZERO)

    def _intrinsic(self, name: str, args: list[Any]) -> Any:
        if self.vectored and name in VECTORED:
            kind = ir.FunctionType(VECTOR, [VECTOR] * len(args))
            known = self.module.globals.get(VECTORED[name])
            return self.b.call(known or ir.Function(self.module, kind, VECTORED[name]), args)
        return self.b.call(self.module.declare_intrinsic(f"llvm.{name}.v{LANES}f64", (), ir.FunctionType(VECTOR, [VECTOR] * len(args))), args)

    def _lanewise(self, name: str, args: list[Any]) -> Any:
        fn = self.module.globals.get(name) or ir.Function(self.module, ir.FunctionType(DOUBLE, [DOUBLE] * len(args)), name)
        fn.attributes.add("nounwind")
        out = ir.Constant(VECTOR, ir.Undefined)
        for lane in range(LANES):
            at = ir.IntType(32)(lane)
            out = self.b.insert_element(out, self.b.call(fn, [self.b.extract_element(a, at) for a in args]), at)
        return out

    def _reduce(self, name: str, *, across: bool) -> None:
        """The highest or lowest over the corners; what is not a number is skipped."""
        b = self.b
        (operand,), out, count = self._operands(1), self._place(self._word(1)), self._word(2)
        better = "minnum" if name == "lowest" else "maxnum"
        lasting = self._array(CONTEXT_LASTING, VECTOR if across else INT) if name == "highest_lasting" else None
        b.store(splat(float("nan")), self.total)

        def gather(k: Any) -> None:
            value = self._load(operand, k)
            if lasting is not None:
                mark = b.load(b.gep(lasting, [k]), align=8)
                lasts = self._is(mark) if across else b.or_(b.icmp_signed("!=", mark, INT(0)), b.icmp_signed("==", count, INT(1)))
                value = b.select(lasts, value, splat(float("nan")))
            b.store(self._intrinsic(better, [b.load(self.total), value]), self.total)

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
            vector = self._intrinsic(better, [vector, other])
            shift //= 2
        return vector

    def _before(self) -> None:
        """Every corner's value from the corner that it begins at; corners lie in rows."""
        b = self.b
        (operand,), out, index = self._operands(1), self._place(self._word(1)), self._array(CONTEXT_BEFORE_SURGE, INT)
        repeat(b, self._word(2), lambda k: b.store(self._load(operand, b.load(b.gep(index, [k]))), b.gep(out, [k]), align=8))

    def _before_across(self) -> None:
        """The same for corners that lie across the lanes: number by number."""
        b = self.b
        (start, _), index = self._operands(1)[0], self._array(CONTEXT_BEFORE_SURGE, INT)
        numbers, out = b.bitcast(start, DOUBLE.as_pointer()), b.bitcast(self._place(self._word(1)), DOUBLE.as_pointer())
        repeat(b, b.mul(self._word(2), INT(LANES)), lambda k: b.store(b.load(b.gep(numbers, [b.load(b.gep(index, [k]))])), b.gep(out, [k])))

    def _any(self, bits: Any) -> Any:
        return self.b.icmp_unsigned("!=", self.b.bitcast(bits, ir.IntType(LANES)), ir.IntType(LANES)(0))

    def _doubt(self) -> None:
        """Raise a flag where a condition does not hold (what is not a number is no truth)."""
        b = self.b
        (operand,), flag = self._operands(1), b.gep(self._array(CONTEXT_FLAGS, BYTE), [self._word(1)])

        def judge(k: Any) -> None:
            bad = b.not_(b.fcmp_ordered("==", self._load(operand, k), ONE))
            with b.if_then(self._any(bad)):
                b.store(BYTE(1), flag)

        repeat(b, self._word(2), judge)

    def _decide(self) -> None:
        """Take a decision as it is weighed: what has not changed stays as it was, and what has raises its flag."""
        b = self.b
        place, (computed, _), weigh, side = self._place(self._word(1)), self._operands(1)[0], self._field(CONTEXT_WEIGH), self._word(6)
        courses = self._place(self._word(7))

        def take(k: Any) -> None:
            here, before = b.gep(place, [k]), b.load(b.gep(place, [k]), align=8)
            after = b.load(b.gep(computed, [k]), align=8)
            kept = b.icmp_signed("==", weigh, INT(SAFE_SIDE))
            course = b.gep(courses, [k])
            went = self._went(b.load(course, align=8), before, after)
            with b.if_then(kept):
                b.store(went, course, align=8)
            turned = self._intrinsic("fabs", [went])
            turned = b.fcmp_ordered(">", turned, splat(1.0 + TURNED))
            for better, which in (("maxnum", UP), ("minnum", DOWN)):
                asks = b.and_(kept, b.icmp_signed("==", side, INT(which)))
                held = b.and_(spread(b, asks, TRUTH), turned)
                after = b.select(held, self._intrinsic(better, [before, after]), after)
            same = b.and_(self._same(before, after), spread(b, b.icmp_signed("!=", weigh, INT(NOT)), TRUTH))
            b.store(b.select(same, before, after), here, align=8)
            with b.if_then(b.and_(self._any(b.not_(same)), b.icmp_signed("!=", weigh, INT(NOT)))):
                b.store(BYTE(1), b.gep(self._array(CONTEXT_CHANGED, BYTE), [self._word(5)]))

        repeat(b, self._word(2), take)

    def _went(self, course: Any, before: Any, after: Any) -> Any:
        """The course of a decision after it has gone from `before` to `after`."""
        b = self.b
        gap = b.fsub(after, before)
        way = self.b.select(b.fcmp_ordered(">", gap, ZERO), ONE, b.select(b.fcmp_ordered("<", gap, ZERO), splat(-1.0), ZERO))
        way = b.select(self._same(before, after), ZERO, way)
        times = self._intrinsic("fabs", [course])
        back = b.fcmp_ordered("<", b.fmul(way, course), ZERO)
        times = self._intrinsic("maxnum", [b.fadd(times, b.select(back, ONE, ZERO)), ONE])
        return b.select(b.fcmp_ordered("==", way, ZERO), course, b.fmul(way, times))

    def _same(self, before: Any, after: Any) -> Any:
        """Equal to within SAME, or both not a number."""
        b = self.b
        gap, size = self._intrinsic("fabs", [b.fsub(after, before)]), self._intrinsic("fabs", [after])
        close = b.fcmp_ordered("<=", gap, b.fmul(splat(SAME), size))
        both = b.and_(b.fcmp_unordered("uno", before, before), b.fcmp_unordered("uno", after, after))
        return b.or_(b.or_(close, b.fcmp_ordered("==", before, after)), both)


_BINARY = ("add", "sub", "mul", "div", "pow", "atan2", "max", "min", "fmax", "fmin", "lt", "le", "gt", "ge", "eq", "ne", "and", "or")
