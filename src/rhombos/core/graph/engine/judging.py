"""Judging a pick in machine code: its candidates in the order of their price, a block at a time, up to the first that fits.

What is remembered as rejected is what has been looked at. Where no candidate fits, the one that misses fewest needs is
taken, then the one with the best worst margin, then the cheapest: `picking.nearest` in machine code.
"""

from typing import Any

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import BYTE, DOUBLE, INT, LANES, VECTOR, repeat, splat, spread
from rhombos.core.graph.engine.told import TURNED
from rhombos.core.graph.picked import CLEARLY, FITS

CALL_TABLE, CALL_BLOCKS, CALL_COLUMNS, CALL_INPUTS, CALL_MARGIN, CALL_MARGIN_LENGTH, CALL_MISSED, CALL_MISSED_LENGTH = range(8)
CALL_GIVEN, CALL_ROOM, CALL_VECTORS, CALL_MARGINS, CALL_REJECTED, CALL_CHOSEN, CALL_FITS, CALL_REMEMBER, CALL_PINNED, CALL_CONTEXT, CALL_FORMER = range(8, 19)
CALL_FIRST, CALL_FIRST_LENGTH, CALL_COURSE, CALL_ASKED, CALL_BEFORE, CALL_BEFORE_LENGTH, CALL_SCORES = range(19, 26)
CALL_WORDS = 26
"""What a call says: the candidates' columns (blocks, columns, LANES), the two programs, the inputs (variants, inputs), room
for one block and its vectors, room for the margins (blocks, LANES), what was rejected (variants, blocks × LANES), where the
chosen (variants) and whether it fits go, what is to be remembered, the candidate that is pinned (or −1), the programs' context,
and room for the inputs of the last time: where there was one (the word `asked`), a variant whose inputs are the same is left as
it was; and the program of the margins that hang on no operation (or 0): who misses one of those is not looked at further; and
the courses (variants) of the choices: only where one has turned more than TURNED times is anything remembered; and what is worked
out once for all candidates, since it hangs on none of their numbers. The program of how many needs are missed follows that of the margins;
room for what comes of both (blocks, LANES): where nothing fitted the last time, each block is scored as it is looked at."""
ALIKE = 1e-6
"""Inputs that differ by no more than loops at rest do, relative, ask nothing new."""
NOTHING, CLEAR_MISSES, ALL_MISSES, AND_STAY = range(4)
"""What is remembered as rejected: nothing yet, what misses by more than `CLEARLY` leaves open, all that misses; at last
also, where nothing fits, what was chosen stays: which of many misfits comes nearest may alternate for ever."""
BYTES = ir.VectorType(BYTE, LANES)


def lower_judging(module: ir.Module) -> None:
    """judge(call, variants)."""
    Judging(module).lower()


class Judging:
    """The function being written."""

    def __init__(self, module: ir.Module) -> None:
        self.module = module
        self.function = ir.Function(module, ir.FunctionType(ir.VoidType(), [INT.as_pointer(), INT]), "judge")
        self.call, self.variants = self.function.args
        self.b = ir.IRBuilder(self.function.append_basic_block("entry"))
        self.block = self.b.alloca(INT)
        self.differs = self.b.alloca(INT)
        self.margin = self.b.alloca(VECTOR)
        self.remember, self.misfit = self.b.alloca(INT), self.b.alloca(BYTE)
        self.best, self.score = self.b.alloca(INT), self.b.alloca(DOUBLE)
        self.words = [self.b.load(self.b.gep(self.call, [INT(k)])) for k in range(CALL_WORDS)]
        self.room = self._pointer(CALL_ROOM, VECTOR)
        self.output = self.b.add(self.words[CALL_INPUTS], self.words[CALL_COLUMNS])
        self.total = self.b.mul(self.words[CALL_BLOCKS], INT(LANES))

    def _pointer(self, at: int, kind: Any) -> Any:
        return self.b.inttoptr(self.words[at], kind.as_pointer())

    def lower(self) -> None:
        repeat(self.b, self.variants, self._variant)
        self.b.ret_void()

    def _variant(self, variant: Any) -> None:
        b = self.b
        skip, work = self.function.append_basic_block("skip"), self.function.append_basic_block("work")
        b.cbranch(self._same(variant), skip, work)
        b.position_at_end(work)
        self._recall(variant)
        self._prepare(variant)
        b.store(b.load(b.gep(self._pointer(CALL_FITS, BYTE), [variant])), self.misfit)
        repeat(b, self.words[CALL_BLOCKS], lambda k: b.store(splat(float("nan")), b.gep(self._pointer(CALL_SCORES, VECTOR), [k]), align=8))
        found, last, done = (self.function.append_basic_block(n) for n in ("found", "last", "done"))
        first = b.gep(self._pointer(CALL_REJECTED, BYTE), [b.mul(variant, self.total)])
        b.store(INT(0), self.block)
        again, following = self.function.append_basic_block("again"), self.function.append_basic_block("following")
        b.branch(again)
        b.position_at_end(again)
        rejected = b.bitcast(first, BYTES.as_pointer())
        looking = self.function.append_basic_block("looking")
        # A block of which every candidate is out need not be looked at.
        b.cbranch(self._open(rejected), looking, following)
        b.position_at_end(looking)
        bits = self._look(rejected)
        b.cbranch(b.icmp_unsigned("!=", bits, ir.IntType(LANES)(0)), found, following)
        b.position_at_end(following)
        b.store(b.add(b.load(self.block), INT(1)), self.block)
        b.cbranch(b.icmp_signed("<", b.load(self.block), self.words[CALL_BLOCKS]), again, last)
        b.position_at_end(found)
        lane = b.zext(b.cttz(bits, ir.Constant(ir.IntType(1), 1)), INT)
        b.store(b.add(b.mul(b.load(self.block), INT(LANES)), lane), self.best)
        b.branch(done)
        b.position_at_end(last)
        free = b.icmp_signed("<", self.words[CALL_PINNED], INT(0))
        stays = b.and_(b.icmp_signed("==", b.load(self.remember), INT(AND_STAY)), free)
        with b.if_else(stays) as (staying, choosing):
            with staying:
                former = b.load(b.gep(self._pointer(CALL_CHOSEN, INT), [variant]))
                b.store(former, self.best)
                b.store(b.sdiv(former, INT(LANES)), self.block)
                self._margins()
            with choosing:
                self._nearest()
        b.branch(done)
        b.position_at_end(done)
        pinned = self.words[CALL_PINNED]
        chosen = b.select(b.icmp_signed("<", pinned, INT(0)), b.load(self.best), pinned)
        self._note(variant, chosen)
        b.store(chosen, b.gep(self._pointer(CALL_CHOSEN, INT), [variant]))
        margin = b.load(b.gep(self._pointer(CALL_MARGINS, DOUBLE), [chosen]))
        b.store(b.zext(b.fcmp_ordered(">=", margin, DOUBLE(FITS)), BYTE), b.gep(self._pointer(CALL_FITS, BYTE), [variant]))
        b.branch(skip)
        b.position_at_end(skip)

    def _recall(self, variant: Any) -> None:
        """What of rejections is remembered: nothing as long as the choice has not turned back."""
        b = self.b
        course = b.load(b.gep(self._pointer(CALL_COURSE, INT), [variant]))
        turned = b.or_(b.icmp_signed(">", course, INT(1 + TURNED)), b.icmp_signed("<", course, INT(-1 - TURNED)))
        b.store(b.select(turned, self.words[CALL_REMEMBER], INT(NOTHING)), self.remember)

    def _note(self, variant: Any, chosen: Any) -> None:
        """Which way the choice went, once choices are weighed."""
        b = self.b
        place = b.gep(self._pointer(CALL_COURSE, INT), [variant])
        former, course = b.load(b.gep(self._pointer(CALL_CHOSEN, INT), [variant])), b.load(place)
        way = b.select(b.icmp_signed(">", chosen, former), INT(1), b.select(b.icmp_signed("<", chosen, former), INT(-1), INT(0)))
        times = b.select(b.icmp_signed("<", course, INT(0)), b.neg(course), course)
        back = b.icmp_signed("<", b.mul(way, course), INT(0))
        times = b.add(times, b.zext(b.or_(back, b.icmp_signed("==", course, INT(0))), INT))
        moved = b.and_(b.icmp_signed("!=", way, INT(0)), b.icmp_signed("!=", self.words[CALL_REMEMBER], INT(NOTHING)))
        b.store(b.select(moved, b.mul(way, times), course), place)

    def _same(self, variant: Any) -> Any:
        """Whether a variant's inputs are alike those of the last time."""
        b = self.b
        differs = self.differs
        b.store(INT(1), differs)
        known = b.icmp_signed("!=", self.words[CALL_ASKED], INT(0))
        first = b.mul(variant, self.words[CALL_INPUTS])
        absolute = self.module.declare_intrinsic("llvm.fabs", [DOUBLE])
        with b.if_then(known):
            b.store(INT(0), differs)

            def compare(k: Any) -> None:
                bits = [b.load(b.gep(self._pointer(at, INT), [b.add(first, k)])) for at in (CALL_GIVEN, CALL_FORMER)]
                now, then = (b.bitcast(x, DOUBLE) for x in bits)
                near = b.fcmp_ordered("<=", b.call(absolute, [b.fsub(now, then)]), b.fmul(DOUBLE(ALIKE), b.call(absolute, [now])))
                both = b.and_(b.fcmp_unordered("uno", now, now), b.fcmp_unordered("uno", then, then))
                alike = b.or_(b.icmp_unsigned("==", *bits), b.or_(near, both))
                b.store(b.or_(b.load(differs), b.zext(b.not_(alike), INT)), differs)

            repeat(b, self.words[CALL_INPUTS], compare)
        return b.icmp_unsigned("==", b.load(differs), INT(0))

    def _prepare(self, variant: Any) -> None:
        """The inputs into the block, and kept for the next time; what hangs on them alone."""
        b = self.b
        first = b.mul(variant, self.words[CALL_INPUTS])
        given, former = (b.gep(self._pointer(at, DOUBLE), [first]) for at in (CALL_GIVEN, CALL_FORMER))

        def put(k: Any) -> None:
            number = b.load(b.gep(given, [k]))
            b.store(number, b.gep(former, [k]))
            b.store(spread(b, number, VECTOR), b.gep(self.room, [k]), align=8)

        repeat(b, self.words[CALL_INPUTS], put)
        self._run(CALL_BEFORE, CALL_BEFORE_LENGTH)

    def _work(self, program: int, length: int) -> Any:
        """One block's candidates through a program: its result."""
        b = self.b
        columns = b.gep(self._pointer(CALL_TABLE, VECTOR), [b.mul(b.load(self.block), self.words[CALL_COLUMNS])])
        with b.if_then(b.icmp_signed(">", self.words[CALL_COLUMNS], INT(0))):
            repeat(
                b,
                self.words[CALL_COLUMNS],
                lambda k: b.store(b.load(b.gep(columns, [k]), align=8), b.gep(self.room, [b.add(self.words[CALL_INPUTS], k)]), align=8),
            )
        return self._run(program, length)

    def _run(self, program: int, length: int) -> Any:
        """A program with the block as it stands: its result."""
        b = self.b
        run, buffer = self.module.globals["run"], b.bitcast(self.room, DOUBLE.as_pointer())
        context = self._pointer(CALL_CONTEXT, INT)
        b.call(run, [buffer, self._pointer(program, INT), self.words[length], context, INT(1), self.words[CALL_VECTORS]])
        return b.load(b.gep(self.room, [self.output]), align=8)

    def _looked_at(self, place: Any) -> Any:
        """One block's margins: of who misses a first need that one, of the others the smallest of all."""
        b = self.b
        result = self.margin
        asks = b.icmp_signed("!=", self.words[CALL_FIRST], INT(0))
        b.store(splat(float("nan")), result)
        with b.if_then(asks):
            b.store(self._work(CALL_FIRST, CALL_FIRST_LENGTH), result)
        first = b.load(result, align=8)
        short = b.fcmp_ordered("<", first, splat(FITS))
        out = b.icmp_unsigned("!=", b.load(place, align=1), ir.Constant(BYTES, [0] * LANES))
        left = b.bitcast(b.not_(b.or_(short, out)), ir.IntType(LANES))
        asked = b.icmp_signed(">=", self.words[CALL_PINNED], INT(0))
        with b.if_then(b.or_(asked, b.icmp_unsigned("!=", left, ir.IntType(LANES)(0)))):
            of_all = self._margins()
            with b.if_then(b.icmp_unsigned("==", b.load(self.misfit), BYTE(0))):
                self._score(of_all)
            margin = b.select(short, first, of_all)
            b.store(margin, result, align=8)
            b.store(margin, b.gep(self._pointer(CALL_MARGINS, VECTOR), [b.load(self.block)]), align=8)
        return b.load(result, align=8)

    def _margins(self) -> Any:
        """One block's smallest margins, also written down."""
        margin = self._work(CALL_MARGIN, CALL_MARGIN_LENGTH)
        self.b.store(margin, self.b.gep(self._pointer(CALL_MARGINS, VECTOR), [self.b.load(self.block)]), align=8)
        return margin

    def _open(self, rejected: Any) -> Any:
        """Whether some candidate of the block has not been rejected, or a pinned one is asked about."""
        b = self.b
        out = b.icmp_unsigned("!=", b.load(b.gep(rejected, [b.load(self.block)]), align=1), ir.Constant(BYTES, [0] * LANES))
        left = b.icmp_unsigned("!=", b.bitcast(b.not_(out), ir.IntType(LANES)), ir.IntType(LANES)(0))
        return b.or_(left, b.icmp_signed(">=", self.words[CALL_PINNED], INT(0)))

    def _look(self, rejected: Any) -> Any:
        """Judge one block and remember its rejections: the bits of the candidates that may be taken."""
        b = self.b
        place = b.gep(rejected, [b.load(self.block)])
        margin = self._looked_at(place)
        out = b.icmp_unsigned("!=", b.load(place, align=1), ir.Constant(BYTES, [0] * LANES))
        misses = b.not_(b.fcmp_ordered(">=", margin, splat(FITS)))
        # An unknown margin may not be taken, and is no reason to reject for good.
        short, clearly = (b.fcmp_ordered("<", margin, splat(limit)) for limit in (FITS, CLEARLY))
        allowed = b.not_(b.or_(misses, out))
        remember = b.load(self.remember)
        later = b.select(b.icmp_signed(">=", remember, INT(ALL_MISSES)), b.or_(out, short), b.or_(out, clearly))
        kept = b.select(b.icmp_signed("==", remember, INT(NOTHING)), out, later)
        b.store(b.zext(kept, BYTES), place, align=1)
        return b.bitcast(allowed, ir.IntType(LANES))

    def _nearest(self) -> None:
        """Over all candidates the fewest needs missed and half of what the worst margin lacks, the first of equals."""
        b = self.b
        b.store(INT(0), self.best)
        b.store(DOUBLE(float("inf")), self.score)

        def look(block: Any) -> None:
            b.store(block, self.block)
            place = b.gep(self._pointer(CALL_SCORES, VECTOR), [block])
            left = b.extract_element(b.load(place, align=8), ir.IntType(32)(0))
            with b.if_then(b.fcmp_unordered("uno", left, left)):
                self._score(self._margins())
            scores = b.load(place, align=8)
            for lane in range(LANES):
                score = b.extract_element(scores, ir.IntType(32)(lane))
                better = b.fcmp_ordered("<", score, b.load(self.score))
                index = b.add(b.mul(block, INT(LANES)), INT(lane))
                b.store(b.select(better, index, b.load(self.best)), self.best)
                b.store(b.select(better, score, b.load(self.score)), self.score)

        repeat(b, self.words[CALL_BLOCKS], look)

    def _score(self, margin: Any) -> None:
        """One block's scores, once its margins are worked out: the needs missed, and half of what the worst margin lacks."""
        b = self.b
        missed = self._run(CALL_MISSED, CALL_MISSED_LENGTH)
        known = b.select(b.fcmp_ordered(">", margin, splat(0.0)), margin, splat(0.0))
        left = b.fsub(splat(1.0), b.select(b.fcmp_ordered("<", known, splat(1.0)), known, splat(1.0)))
        b.store(b.fadd(missed, b.fmul(left, splat(0.5))), b.gep(self._pointer(CALL_SCORES, VECTOR), [b.load(self.block)]), align=8)
