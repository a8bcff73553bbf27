"""Lowering a traced formula to LLVM: one function a formula, as many variants wide as the processor works on at once, a loop over the corners inside.

A sheet's numbers lie in one buffer of rows; a figure has one row, or one for every corner. A compiled formula reads
its rows and writes its own; which rows, and whether they step with the corner, is told by a record at run time, so
that one piece of code serves every place, line-up and set of pins.
"""

from collections.abc import Callable
from typing import Any

from llvmlite import binding, ir

from rhombos.core.graph.compiled.trace import Expr, Traced, levels, unreduced

WIDE = bool(binding.get_host_cpu_features().get("avx512f", False))
LANES = 8 if WIDE else 4
"""Variants that one instruction works on: as many as this processor's registers hold."""
DOUBLE, INT, BYTE, BOOL = ir.DoubleType(), ir.IntType(64), ir.IntType(8), ir.IntType(1)
VECTOR = ir.VectorType(DOUBLE, LANES)
TRUTH = ir.VectorType(BOOL, LANES)

RECORD_LENGTH, RECORD_CODE, RECORD_ROW, RECORD_COUNT, RECORD_FLAG, RECORD_SIDE, RECORD_ARGUMENTS = range(7)
"""What a record says: its length, where its code lies, the row it writes and for how many corners, which flags it may
raise, the side a decision keeps to (see `Side`), and then a row and a step for each argument."""
CONTEXT_CORNERS, CONTEXT_ITERATING, CONTEXT_LASTING, CONTEXT_BEFORE_SURGE, CONTEXT_FLAGS, CONTEXT_WEIGH, CONTEXT_CHANGED = range(7)

FUNCTION = ir.FunctionType(ir.VoidType(), [DOUBLE.as_pointer(), INT.as_pointer(), INT.as_pointer()])

INTRINSICS = ("sqrt", "exp", "log", "log10", "sin", "cos", "pow", "ceil", "floor", "rint")
LIBRARY = ("tan", "atan", "atan2", "sinh", "cosh", "tanh", "atanh", "tgamma")
VECTORED = {name: f"_ZGV{'e' if WIDE else 'd'}N{LANES}{'vv' if name == 'pow' else 'v'}_{name}" for name in ("exp", "log", "sin", "cos", "pow")}
"""The names that glibc's vector library (libmvec, AVX2 or AVX-512) gives to what it computes in all lanes at once, to within 4 units in the last place."""
COMPARED = {"lt": "<", "le": "<=", "gt": ">", "ge": ">=", "eq": "=="}


def splat(number: float) -> ir.Constant:
    """The same number in every lane."""
    return ir.Constant(VECTOR, [number] * LANES)


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


class Lowering:
    """One formula being lowered into a module."""

    def __init__(self, module: ir.Module, name: str, traced: Traced, *, vectored: bool) -> None:
        self.module = module
        self.traced = traced
        self.vectored = vectored
        self.function = ir.Function(module, FUNCTION, name)
        self.buffer, self.record, self.context = self.function.args
        self.builder = ir.IRBuilder(self.function.append_basic_block("entry"))
        self.corners = self._field(self.context, CONTEXT_CORNERS)
        self.iterating = self.builder.icmp_signed("!=", self._field(self.context, CONTEXT_ITERATING), INT(0))
        self.places = [
            (self._field(self.record, RECORD_ARGUMENTS + 2 * k), self._field(self.record, RECORD_ARGUMENTS + 2 * k + 1))
            for k in range(traced.count + len(traced.steady))
        ]
        self.reduced: dict[int, Any] = {}

    def _field(self, base: Any, at: int) -> Any:
        return self.builder.load(self.builder.gep(base, [INT(at)]))

    def lower(self) -> None:
        """Write the whole function: reductions first, then the result for every corner, then the conditions."""
        for group in levels((*self.traced.results, *self.traced.conditions)):
            # What reads other parameters has a loop of its own: what does not step with the corner is then gone through once.
            reads: dict[frozenset[int], list[Expr]] = {}
            for expr in group:
                reads.setdefault(unreduced(expr.args[0]), []).append(expr)
            for alike in reads.values():
                self._reduce(alike)
        row, count = self._field(self.record, RECORD_ROW), self._field(self.record, RECORD_COUNT)

        def write(k: Any, memo: dict[int, Any]) -> None:
            # Several results (of a preparation, the same for all corners) lie in rows one after the other.
            for j, result in enumerate(self.traced.results):
                place = self._row(self.builder.add(row, self.builder.add(k, INT(j))))
                self.builder.store(self._emit(result, k, memo), place, align=8)

        self._loop(count, write)
        if self.traced.conditions:
            self._conditions()
        self.builder.ret_void()

    def _conditions(self) -> None:
        reads: frozenset[int] = frozenset().union(*(unreduced(c) for c in self.traced.conditions))
        doubt = self._variable(TRUTH)
        self.builder.store(ir.Constant(TRUTH, [False] * LANES), doubt)

        def judge(k: Any, memo: dict[int, Any]) -> None:
            bad = self.builder.load(doubt)
            for ok in self.traced.conditions:
                bad = self.builder.or_(bad, self.builder.not_(self._emit(ok, k, memo)))
            self.builder.store(bad, doubt)

        self._loop(self._width(reads), judge)
        bits = self.builder.bitcast(self.builder.load(doubt), ir.IntType(LANES))
        with self.builder.if_then(self.builder.icmp_unsigned("!=", bits, ir.IntType(LANES)(0))):
            flags = self.builder.inttoptr(self._field(self.context, CONTEXT_FLAGS), BYTE.as_pointer())
            self.builder.store(BYTE(1), self.builder.gep(flags, [self._field(self.record, RECORD_FLAG)]))

    def _variable(self, kind: Any) -> Any:
        # In the entry block, where the optimiser turns it into a register.
        with self.builder.goto_entry_block():
            return self.builder.alloca(kind)

    def _row(self, index: Any) -> Any:
        at = self.builder.mul(index, INT(LANES))
        return self.builder.bitcast(self.builder.gep(self.buffer, [at]), VECTOR.as_pointer())

    def _width(self, params: frozenset[int]) -> Any:
        """How many corners an expression of these parameters has: one where none of them steps."""
        steps = INT(0)
        for k in sorted(params):
            steps = self.builder.or_(steps, self.places[k][1])
        return self.builder.select(self.builder.icmp_signed("!=", steps, INT(0)), self.corners, INT(1))

    def _loop(self, count: Any, body: Callable[[Any, dict[int, Any]], None]) -> None:
        repeat(self.builder, count, lambda k: body(k, {}))

    def _reduce(self, group: list[Expr]) -> None:
        """Reductions that do not hang on each other, in one loop over the corners; what is not a number is skipped."""
        widths = [self._width(unreduced(e.args[0])) for e in group]
        totals = [self._variable(VECTOR) for _ in group]
        for total in totals:
            self.builder.store(splat(float("nan")), total)
        lasting = self.builder.inttoptr(self._field(self.context, CONTEXT_LASTING), INT.as_pointer())

        def gather(k: Any, memo: dict[int, Any]) -> None:
            for expr, width, total in zip(group, widths, totals, strict=True):
                value = self._emit(expr.args[0], k, memo)
                if expr.op == "highest_lasting":
                    lasts = self.builder.icmp_signed("!=", self.builder.load(self.builder.gep(lasting, [k])), INT(0))
                    counts = self.builder.or_(lasts, self.builder.icmp_signed("==", width, INT(1)))
                    value = self.builder.select(counts, value, splat(float("nan")))
                side = "minnum" if expr.op == "lowest" else "maxnum"
                self.builder.store(self._intrinsic(side, [self.builder.load(total), value]), total)

        self._loop(self._width(frozenset().union(*(unreduced(e.args[0]) for e in group))), gather)
        for expr, total in zip(group, totals, strict=True):
            self.reduced[id(expr)] = self.builder.load(total)

    def _intrinsic(self, name: str, args: list[Any]) -> Any:
        if self.vectored and name in VECTORED:
            kind = ir.FunctionType(VECTOR, [VECTOR] * len(args))
            known = self.module.globals.get(VECTORED[name])
            return self.builder.call(known or ir.Function(self.module, kind, VECTORED[name]), args)
        return self.builder.call(self.module.declare_intrinsic(f"llvm.{name}.v{LANES}f64", (), ir.FunctionType(VECTOR, [VECTOR] * len(args))), args)

    def _emit(self, expr: Expr, k: Any, memo: dict[int, Any]) -> Any:
        if id(expr) in self.reduced:
            return self.reduced[id(expr)]
        if id(expr) not in memo:
            memo[id(expr)] = self._operation(expr, k, memo)
        return memo[id(expr)]

    def _operation(self, expr: Expr, k: Any, memo: dict[int, Any]) -> Any:
        b, op = self.builder, expr.op
        if op == "constant":
            return splat(expr.number)
        if op == "parameter":
            row, step = self.places[int(expr.number)]
            return b.load(self._row(b.add(row, b.mul(k, step))), align=8)
        if op == "iterating":
            return b.select(self.iterating, ir.Constant(TRUTH, [True] * LANES), ir.Constant(TRUTH, [False] * LANES))
        if op == "before_surge":
            index = b.inttoptr(self._field(self.context, CONTEXT_BEFORE_SURGE), INT.as_pointer())
            return self._emit(expr.args[0], b.load(b.gep(index, [k])), {})
        args = [self._emit(a, k, memo) for a in expr.args]
        return self._arithmetic(expr, args)

    def _arithmetic(self, expr: Expr, args: list[Any]) -> Any:
        b, op = self.builder, expr.op
        if op in ("add", "sub", "mul", "div"):
            return {"add": b.fadd, "sub": b.fsub, "mul": b.fmul, "div": b.fdiv}[op](*args)
        if op in COMPARED:
            return b.fcmp_ordered(COMPARED[op], *args)
        if op == "pow":
            return self._power(expr.args[1], args)
        if op in INTRINSICS:
            return self._intrinsic(op, args)
        if op in LIBRARY:
            return self._lanewise(op, args)
        if op in ("fmax", "fmin"):
            return self._intrinsic("maxnum" if op == "fmax" else "minnum", args)
        if op in ("max", "min"):
            # NumPy's maximum and minimum hand on what is not a number.
            chosen = b.select(b.fcmp_ordered(">" if op == "max" else "<", *args), *args)
            return b.select(b.fcmp_unordered("uno", args[0], args[0]), args[0], chosen)
        return self._other(op, args)

    def _other(self, op: str, args: list[Any]) -> Any:
        b = self.builder
        if op == "select":
            return b.select(*args)
        if op == "and":
            return b.and_(*args)
        if op == "or":
            return b.or_(*args)
        if op == "not":
            return b.not_(args[0])
        if op == "ne":
            return b.fcmp_unordered("!=", *args)
        if op == "neg":
            return b.fneg(args[0])
        if op == "abs":
            return self._intrinsic("fabs", args)
        if op == "isnan":
            return b.fcmp_unordered("uno", args[0], args[0])
        if op == "isfinite":
            return b.fcmp_ordered("<", self._intrinsic("fabs", args), splat(float("inf")))
        raise NotImplementedError(f"the operation {op!r} has no lowering")

    def _power(self, exponent: Expr, args: list[Any]) -> Any:
        """As NumPy: squares, roots and reciprocals of constant exponents by their own operation."""
        base = args[0]
        if exponent.op == "constant":
            if exponent.number == 2.0:
                return self.builder.fmul(base, base)
            if exponent.number == 0.5:
                return self._intrinsic("sqrt", [base])
            if exponent.number == -1.0:
                return self.builder.fdiv(splat(1.0), base)
        return self._intrinsic("pow", args)

    def _lanewise(self, name: str, args: list[Any]) -> Any:
        fn = self.module.globals.get(name) or ir.Function(self.module, ir.FunctionType(DOUBLE, [DOUBLE] * len(args)), name)
        fn.attributes.add("nounwind")
        out = ir.Constant(VECTOR, ir.Undefined)
        for lane in range(LANES):
            at = ir.IntType(32)(lane)
            out = self.builder.insert_element(out, self.builder.call(fn, [self.builder.extract_element(a, at) for a in args]), at)
        return out
