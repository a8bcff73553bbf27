"""Bringing a loop to rest in machine code: the iteration of `loops.iterate`, block by block, each as long as it needs.

The same passes and the same mixing; a block's history lies in a scratch area of vectors: the guess, the image, three
images and three changes of former passes (tears by corners each), and the size of three changes (by corner).
"""

from collections.abc import Callable
from typing import Any

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import BOOL, BYTE, DOUBLE, INT, LANES, TRUTH, VECTOR, Words, repeat, splat, spread
from rhombos.core.graph.engine.told import CONTEXT_FLAGS
from rhombos.core.graph.loops import MOST_PASSES

(
    CALL_ROWS,
    CALL_TEARS,
    CALL_CORNERS,
    CALL_SCRATCH,
    CALL_RESIDUAL,
    CALL_OPEN,
    CALL_FLAGS,
    CALL_BEFORE,
    CALL_BEFORE_LENGTH,
    CALL_PASSES,
    CALL_FAILED,
    CALL_DOUBT,
    CALL_NOWHERE,
) = range(13)
"""What a call says: rows of the tears, how many tears and corners, scratch, where residual and open elements go, how many
flags there are, and the program that prepares a block; and what it gets back: the most passes, whether a block did not settle,
whether one was doubtful, and whether one had a starting value that is no finite number: then nothing was done to that block."""
SCRATCH = 8
HISTORY = 3


def scratch_vectors(tears: int, corners: int) -> int:
    """How many vectors of scratch an iteration needs."""
    return SCRATCH * tears * corners + HISTORY * corners


def lower_iteration(module: ir.Module) -> None:
    """iterate(buffer, program, length, context, blocks, rows, tolerance, call)."""
    Iteration(module).lower()


class Iteration(Words):
    """The function being written; vectors of one block are addressed by tear and corner."""

    def __init__(self, module: ir.Module) -> None:
        self.module = module
        pointer = INT.as_pointer()
        kind = ir.FunctionType(ir.VoidType(), [DOUBLE.as_pointer(), pointer, INT, pointer, INT, INT, DOUBLE, pointer])
        self.function = ir.Function(module, kind, "iterate")
        self.buffer, self.program, self.length, self.context, self.blocks, self.rows, tolerance, self.words = self.function.args
        self.b = ir.IRBuilder(self.function.append_basic_block("entry"))
        b = self.b
        self.tolerance = spread(b, tolerance, VECTOR)
        self.tears, self.corners = self._word(CALL_TEARS), self._word(CALL_CORNERS)
        self.count = b.mul(self.tears, self.corners)
        self.tear_rows = self._pointer(CALL_ROWS, INT)
        self.scratch = self._pointer(CALL_SCRATCH, VECTOR)
        self.passes = b.alloca(INT)
        self.open_any, self.moves_any = b.alloca(BOOL), b.alloca(BOOL)
        self.base = b.alloca(DOUBLE.as_pointer())

    def _intrinsic(self, name: str, value: Any) -> Any:
        return self.b.call(self.module.declare_intrinsic(f"llvm.{name}.v{LANES}f64", (), ir.FunctionType(VECTOR, [VECTOR])), [value])

    def _at(self, part: Any, index: Any) -> Any:
        """The place of a vector in part `part` of the scratch: 0 guess, 1 image, 2 to 4 images, 5 to 7 changes."""
        place = self.b.add(self.b.mul(part if isinstance(part, ir.Value) else INT(part), self.count), index)
        return self.b.gep(self.scratch, [place])

    def _load(self, part: Any, index: Any) -> Any:
        return self.b.load(self._at(part, index), align=8)

    def _norm(self, slot: Any, corner: Any) -> Any:
        return self.b.gep(self.scratch, [self.b.add(self.b.mul(INT(SCRATCH), self.count), self.b.add(self.b.mul(slot, self.corners), corner))])

    def _row(self, index: Any) -> Any:
        row = self.b.load(self.b.gep(self.tear_rows, [index]))
        return self.b.bitcast(self.b.gep(self.b.load(self.base), [self.b.mul(row, INT(LANES))]), VECTOR.as_pointer())

    def _each_corner(self, body: Callable[[Any], None]) -> None:
        repeat(self.b, self.corners, body)

    def _each_tear(self, corner: Any, body: Callable[[Any], None]) -> None:
        repeat(self.b, self.tears, lambda t: body(self.b.add(self.b.mul(t, self.corners), corner)))

    def lower(self) -> None:
        for at in (CALL_PASSES, CALL_FAILED, CALL_DOUBT, CALL_NOWHERE):
            self._put(at, INT(0))
        repeat(self.b, self.blocks, self._block)
        self.b.ret_void()

    def _block(self, block: Any) -> None:
        b = self.b
        b.store(b.gep(self.buffer, [b.mul(b.mul(block, self.rows), INT(LANES))]), self.base)
        begin, settled = self.function.append_basic_block("begin"), self.function.append_basic_block("settled")
        nowhere = self._nowhere()
        self._put(CALL_NOWHERE, b.or_(self._word(CALL_NOWHERE), b.zext(nowhere, INT)))
        b.store(INT(0), self.passes)
        b.cbranch(nowhere, settled, begin)
        b.position_at_end(begin)
        before = self._pointer(CALL_BEFORE, INT)
        b.call(self.module.globals["run"], [b.load(self.base), before, self._word(CALL_BEFORE_LENGTH), self.context, INT(1), self.rows])
        repeat(b, self.count, lambda i: b.store(b.load(self._row(i), align=8), self._at(0, i), align=8))
        b.store(INT(1), self.passes)
        again = self.function.append_basic_block("pass")
        b.branch(again)
        b.position_at_end(again)
        self._evaluate()
        self._compare()
        more, spent, move = (self.function.append_basic_block(n) for n in ("open", "spent", "move"))
        b.cbranch(b.load(self.open_any), more, settled)
        b.position_at_end(more)
        over = b.or_(b.icmp_signed(">=", b.load(self.passes), INT(MOST_PASSES)), b.not_(b.load(self.moves_any)))
        b.cbranch(over, spent, move)
        b.position_at_end(spent)
        self._give_up(block)
        b.branch(settled)
        b.position_at_end(move)
        self._remember()
        self._each_corner(self._mix)
        b.store(b.add(b.load(self.passes), INT(1)), self.passes)
        b.branch(again)
        b.position_at_end(settled)
        most = b.load(self.passes)
        self._put(CALL_PASSES, b.select(b.icmp_signed(">", most, self._word(CALL_PASSES)), most, self._word(CALL_PASSES)))
        repeat(b, self._word(CALL_FLAGS), self._note_doubt)

    def _nowhere(self) -> Any:
        """Whether a starting value of the block is no finite number."""
        b, total = self.b, self._variable(VECTOR)
        b.store(splat(0.0), total)
        # What is without end, or no number, taken from itself is no number, and stays so in a sum.
        repeat(b, self.count, lambda i: b.store(b.fadd(b.load(total), b.fsub(b.load(self._row(i), align=8), b.load(self._row(i), align=8))), total))
        return b.icmp_unsigned("!=", self._bits(b.fcmp_unordered("uno", b.load(total), b.load(total))), ir.IntType(LANES)(0))

    def _flag(self, index: Any) -> Any:
        flags = self.b.inttoptr(self.b.load(self.b.gep(self.context, [INT(CONTEXT_FLAGS)])), BYTE.as_pointer())
        return self.b.gep(flags, [index])

    def _note_doubt(self, index: Any) -> None:
        raised = self.b.zext(self.b.load(self._flag(index)), INT)
        self._put(CALL_DOUBT, self.b.or_(self._word(CALL_DOUBT), raised))

    def _evaluate(self) -> None:
        """One pass over the loop's nodes; only the last pass's doubts count."""
        repeat(self.b, self._word(CALL_FLAGS), lambda i: self.b.store(BYTE(0), self._flag(i)))
        self.b.call(self.module.globals["run"], [self.b.load(self.base), self.program, self.length, self.context, INT(1), self.rows])

    def _compare(self) -> None:
        """Read the image and see which elements are still open, and whether any of them still moves."""
        b = self.b
        b.store(BOOL(0), self.open_any)
        b.store(BOOL(0), self.moves_any)

        def corner(c: Any) -> None:
            def tear(i: Any) -> None:
                image = b.load(self._row(i), align=8)
                b.store(image, self._at(1, i), align=8)
                is_open = self._is_open(i)
                for truth, place in ((is_open, self.open_any), (b.and_(is_open, b.not_(self._stands(i))), self.moves_any)):
                    b.store(b.or_(b.load(place), b.icmp_unsigned("!=", self._bits(truth), ir.IntType(LANES)(0))), place)

            self._each_tear(c, tear)

        self._each_corner(corner)

    def _bits(self, truth: Any) -> Any:
        return self.b.bitcast(truth, ir.IntType(LANES))

    def _is_open(self, i: Any) -> Any:
        """Whether a tear moved by more than the tolerance, or is not a finite number."""
        b = self.b
        image = self._load(1, i)
        size, gap = self._intrinsic("fabs", image), self._intrinsic("fabs", b.fsub(image, self._load(0, i)))
        rests = b.and_(b.fcmp_ordered("<=", gap, b.fmul(self.tolerance, size)), b.fcmp_ordered("<", size, splat(float("inf"))))
        return b.not_(rests)

    def _stands(self, i: Any) -> Any:
        """Whether a tear came back as it went in, without end or no number: it will again."""
        b = self.b
        image, guess = self._load(1, i), self._load(0, i)
        lost = b.and_(b.fcmp_unordered("uno", image, image), b.fcmp_unordered("uno", guess, guess))
        return b.or_(lost, b.fcmp_ordered("==", image, guess))

    def _corner_open(self, c: Any) -> Any:
        """Whether any tear of a corner is open, per lane."""
        total = self._variable(TRUTH)
        self.b.store(ir.Constant(TRUTH, [False] * LANES), total)

        def tear(i: Any) -> None:
            self.b.store(self.b.or_(self.b.load(total), self._is_open(i)), total)

        self._each_tear(c, tear)
        return self.b.load(total)

    def _variable(self, kind: Any) -> Any:
        with self.b.goto_entry_block():
            return self.b.alloca(kind)

    def _slot(self, back: int) -> Any:
        """Where the history of `back` passes ago lies."""
        return self.b.srem(self.b.add(self.b.load(self.passes), INT(HISTORY - back)), INT(HISTORY))

    def _remember(self) -> None:
        b, slot = self.b, self._slot(0)

        def corner(c: Any) -> None:
            total = self._variable(VECTOR)
            b.store(splat(0.0), total)

            def tear(i: Any) -> None:
                image = self._load(1, i)
                change = b.fdiv(b.fsub(image, self._load(0, i)), b.fadd(self._intrinsic("fabs", image), splat(1e-300)))
                b.store(image, self._at(b.add(INT(2), slot), i), align=8)
                b.store(change, self._at(b.add(INT(5), slot), i), align=8)
                b.store(b.fadd(b.load(total), b.fmul(change, change)), total)

            self._each_tear(c, tear)
            b.store(self._intrinsic("sqrt", b.load(total)), self._norm(slot, c), align=8)

        self._each_corner(corner)

    def _mix(self, c: Any) -> None:
        """The next guess at a corner: the mix of the last images whose changes cancel best, plain where that does not help."""
        b = self.b
        first, three = b.icmp_signed("==", b.load(self.passes), INT(1)), b.icmp_signed(">=", b.load(self.passes), INT(3))
        now, before, former = self._slot(0), self._slot(1), self._slot(2)
        zero = splat(0.0)
        names = ("a11", "b1", "a12", "a22", "b2")
        sums = {n: self._variable(VECTOR) for n in names}
        for place in sums.values():
            b.store(zero, place)

        def steps(part: int, i: Any) -> tuple[Any, Any]:
            latest, last, oldest = (self._load(b.add(INT(part), slot), i) for slot in (now, before, former))
            return b.fsub(latest, last), b.select(three, b.fsub(last, oldest), zero)

        def add_up(i: Any) -> None:
            d1, d2 = steps(5, i)
            change = self._load(b.add(INT(5), now), i)
            for name, (x, y) in zip(names, ((d1, d1), (d1, change), (d1, d2), (d2, d2), (d2, change)), strict=True):
                b.store(b.fadd(b.load(sums[name]), b.fmul(x, y)), sums[name])

        self._each_tear(c, add_up)
        a11, b1, a12, a22, b2 = (b.load(sums[n]) for n in names)
        determinant = b.fsub(b.fmul(a11, a22), b.fmul(a12, a12))
        well = b.fcmp_ordered(">", determinant, b.fmul(splat(1e-10), b.fmul(a11, a22)))
        g1 = b.select(well, b.fdiv(b.fsub(b.fmul(b1, a22), b.fmul(b2, a12)), determinant), b.fdiv(b1, a11))
        g2 = b.select(well, b.fdiv(b.fsub(b.fmul(a11, b2), b.fmul(a12, b1)), determinant), zero)
        helps = b.fcmp_ordered("<", b.load(self._norm(now, c), align=8), b.load(self._norm(before, c), align=8))
        open_ = self._corner_open(c)

        def move(i: Any) -> None:
            image, guess = self._load(1, i), self._load(0, i)
            m1, m2 = steps(2, i)
            mixed = b.fsub(b.fsub(image, b.fmul(g1, m1)), b.fmul(g2, m2))
            sound = b.and_(b.fcmp_ordered("<", self._intrinsic("fabs", mixed), splat(float("inf"))), b.fcmp_ordered(">", b.fmul(mixed, image), zero))
            value = b.select(open_, b.select(b.and_(helps, sound), mixed, image), guess)
            value = b.select(first, image, value)
            b.store(value, self._at(0, i), align=8)
            b.store(value, self._row(i), align=8)

        self._each_tear(c, move)

    def _give_up(self, block: Any) -> None:
        """Write down which elements are open after the last pass, and every tear's residual."""
        b = self.b
        self._put(CALL_FAILED, INT(1))
        residual = self._pointer(CALL_RESIDUAL, VECTOR)
        opened = self._pointer(CALL_OPEN, VECTOR)

        def corner(c: Any) -> None:
            mark = b.select(self._corner_open(c), splat(1.0), splat(0.0))
            b.store(mark, b.gep(opened, [b.add(b.mul(block, self.corners), c)]), align=8)

            def tear(i: Any) -> None:
                image = self._load(1, i)
                gap = self._intrinsic("fabs", b.fsub(image, self._load(0, i)))
                value = b.fdiv(gap, b.fadd(self._intrinsic("fabs", image), splat(1e-300)))
                b.store(value, b.gep(residual, [b.add(b.mul(block, self.count), i)]), align=8)

            self._each_tear(c, tear)

        self._each_corner(corner)
