"""What the processor computes: every operation of the tape that works on numbers one by one is written here once, in LLVM's language."""

from collections.abc import Callable
from typing import Any

from llvmlite import binding, ir

from rhombos.core.formulas.expression import Expr, trace
from rhombos.core.formulas.functions import FUNCTIONS
from rhombos.core.graph.engine.pairs import PAIRS
from rhombos.core.graph.engine.told import CONTEXT_ITERATING, ITERATING, SETTLED

WIDE = bool(binding.get_host_cpu_features().get("avx512f", False))
LANES = 8 if WIDE else 4
"""Numbers that one instruction works on: as many as this processor's registers hold."""
DOUBLE, INT, BYTE, BOOL = ir.DoubleType(), ir.IntType(64), ir.IntType(8), ir.IntType(1)
VECTOR = ir.VectorType(DOUBLE, LANES)
TRUTH = ir.VectorType(BOOL, LANES)
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


class Words:
    """A function being written that is told what to do, and tells what it did, by a row of `words`."""

    b: ir.IRBuilder
    words: Any

    def _word(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.words, [INT(at)]))

    def _put(self, at: int, value: Any) -> None:
        self.b.store(value, self.b.gep(self.words, [INT(at)]))

    def _pointer(self, at: int, kind: Any) -> Any:
        """Where an array lies, by the word that says so."""
        return self.b.inttoptr(self._word(at), kind.as_pointer())


BINARY = ("add", "sub", "mul", "div", "pow", "atan2", "max", "min", "fmax", "fmin", "lt", "le", "gt", "ge", "eq", "ne", "and", "or")


def operands_of(name: str) -> int:
    """How many operands an operation has that works on numbers one by one."""
    if name in FUNCTIONS:
        return FUNCTIONS[name][1]
    if name in PAIRS:
        return 3
    return {"select": 3, "iterating": 0, "trying": 0, **dict.fromkeys(BINARY, 2)}.get(name, 1)


class Arithmetic:
    """Writes operations on vectors where a builder stands; `context` is what a run is told."""

    def __init__(self, module: ir.Module, builder: ir.IRBuilder, context: Any, *, vectored: bool) -> None:
        self.module, self.b, self.context, self.vectored = module, builder, context, vectored

    def value(self, name: str, args: list[Any]) -> Any:
        """The result of an operation in one vector."""
        b = self.b
        if name in ("add", "sub", "mul", "div"):
            return {"add": b.fadd, "sub": b.fsub, "mul": b.fmul, "div": b.fdiv}[name](*args)
        if name in COMPARED:
            return self._truth(b.fcmp_ordered(COMPARED[name], *args))
        if name in INTRINSICS or name == "pow":
            return self.intrinsic(INTRINSICS.get(name, name), args)
        if name in PAIRS:
            inner, outer, first = PAIRS[name]
            return self.value(outer, [self.value(inner, args[:2]), args[2]] if first else [args[0], self.value(inner, args[1:])])
        if name in FUNCTIONS:
            return self._function(name, args)
        if name in LIBRARY:
            return self._lanewise(name, args)
        if name in ("fmax", "fmin"):
            return self.intrinsic("maxnum" if name == "fmax" else "minnum", args)
        if name in ("max", "min"):
            # NumPy's maximum and minimum hand on what is not a number.
            chosen = b.select(b.fcmp_ordered(">" if name == "max" else "<", *args), *args)
            return b.select(b.fcmp_unordered("uno", args[0], args[0]), args[0], chosen)
        return self._other(name, args)

    def _function(self, name: str, args: list[Any]) -> Any:
        """A function of physics, as its formula says: the same operations in the same order."""
        formula, count = FUNCTIONS[name]
        found: dict[int, Any] = {}

        def worked_out(e: Expr) -> Any:
            if e.op == "parameter":
                return args[int(e.number)]
            if e.op == "constant":
                return splat(e.number)
            if id(e) not in found:
                found[id(e)] = self.value(e.op, [worked_out(a) for a in e.args])
            return found[id(e)]

        return worked_out(trace(formula, count).result)

    def _other(self, name: str, args: list[Any]) -> Any:
        b = self.b
        match name:
            case "copy":
                return args[0]
            case "neg":
                return b.fneg(args[0])
            case "abs":
                return self.intrinsic("fabs", args)
            case "select":
                return b.select(self.holds(args[0]), args[1], args[2])
            case "and":
                return b.fmul(*args)
            case "or":
                return self._truth(b.or_(self.holds(args[0]), self.holds(args[1])))
            case "not":
                return b.fsub(ONE, args[0])
            case "ne":
                return self._truth(b.fcmp_unordered("!=", *args))
            case "isnan":
                return self._truth(b.fcmp_unordered("uno", args[0], args[0]))
            case "isfinite":
                return self._truth(b.fcmp_ordered("<", self.intrinsic("fabs", args), splat(float("inf"))))
            case "iterating":
                return b.select(b.icmp_signed("==", self.field(CONTEXT_ITERATING), INT(ITERATING)), ONE, ZERO)
            case "trying":
                return b.select(b.icmp_signed("!=", self.field(CONTEXT_ITERATING), INT(SETTLED)), ONE, ZERO)
        raise NotImplementedError(f"the operation {name!r} has no kernel")

    def _truth(self, bits: Any) -> Any:
        return self.b.select(bits, ONE, ZERO)

    def holds(self, number: Any) -> Any:
        return self.b.fcmp_unordered("!=", number, ZERO)

    def intrinsic(self, name: str, args: list[Any]) -> Any:
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

    def field(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.context, [INT(at)]))

    def _array(self, at: int, kind: Any) -> Any:
        return self.b.inttoptr(self.field(at), kind.as_pointer())

    def any_of(self, bits: Any) -> Any:
        return self.b.icmp_unsigned("!=", self.b.bitcast(bits, ir.IntType(LANES)), ir.IntType(LANES)(0))
