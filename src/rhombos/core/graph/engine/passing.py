"""One outer pass in machine code: programs run, picks judged and what they chose published, step after step.

Of a single sheet the corners lie across the lanes; of many variants a variant in every lane, and each block makes the whole pass by
itself, so that its numbers stay in the processor's nearest cache. The pass ends early at a step that is left to NumPy.
"""

from collections.abc import Callable
from typing import Any

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import BYTE, DOUBLE, INT, LANES, TRUTH, VECTOR, Words, repeat, splat, spread
from rhombos.core.graph.engine.judging import (
    CALL_ASKED,
    CALL_CHOSEN,
    CALL_CONTEXT,
    CALL_COURSE,
    CALL_FITS,
    CALL_FORMER,
    CALL_GIVEN,
    CALL_REJECTED,
    CALL_REMEMBER,
)
from rhombos.core.graph.engine.told import CONTEXT_BENCH, CONTEXT_CHANGED, TURNED

RUN, PICK, LEFT = range(3)
"""Kinds of steps: a program, a pick, and what is left to NumPy."""
STEP_KIND, STEP_ADDRESS, STEP_LENGTH = range(3)
STEP_NUMBERS, STEP_HELD, STEP_GIVEN, STEP_FORMER, STEP_ASKED, STEP_BENCH, STEP_ROWS, STEP_TABLE, STEP_SHOWN, STEP_NODE, STEP_PINNED, STEP_COURSES = range(3, 15)
STEP_REJECTED, STEP_CHOSEN, STEP_FITS, STEP_COURSE, STEP_ROOM = range(15, 20)
STEP_WORDS = 20
"""Words of a step. Of a program: where it lies and its length. Of a pick: its call, how many inputs it has, from which numbers
of the buffer they are gathered, from which on they are decisions that are kept, room for them and for those of the last time,
whether there was one, the seat's bench, rows and table of what is published, how many vectors that is, its node, the candidate pinned (or −1), and where in the buffer the courses of those decisions lie. Of many variants numbers are vectors, and
the first variant's rejections, choice, whether it fits and course follow, with the number of candidates that there is room for."""
_CHOICES = ir.VectorType(INT, LANES)
HOW_REMEMBER, HOW_KEPT = range(2)
"""How a pass is made: what is remembered of rejections, and whether decisions are kept to their safe side."""


def lower_passing(module: ir.Module) -> None:
    """pass_on(buffer, steps, first, count, context, vectors, how): from step `first` on; returns the step before which it stopped.

    pass_blocks(…, variants) does the same for blocks of variants.
    """
    Passing(module).lower()
    PassingBlocks(module).lower()


class Passing(Words):
    """The function being written."""

    def __init__(self, module: ir.Module) -> None:
        self.module = module
        pointer = INT.as_pointer()
        kind = ir.FunctionType(INT, [DOUBLE.as_pointer(), pointer, INT, INT, pointer, INT, pointer])
        self.function = ir.Function(module, kind, "pass_on")
        self.buffer, self.steps, self.first, self.count, self.context, self.vectors, self.how = self.function.args
        self.b = ir.IRBuilder(self.function.append_basic_block("entry"))
        self.at = self.b.alloca(INT)
        self.words: Any = None

    def lower(self) -> None:
        b, function = self.b, self.function
        ask, work, running, picking, following, end = (function.append_basic_block(n) for n in ("ask", "work", "running", "picking", "following", "end"))
        b.store(self.first, self.at)
        b.branch(ask)
        b.position_at_end(ask)
        b.cbranch(b.icmp_signed("<", b.load(self.at), self.count), work, end)
        b.position_at_end(work)
        self.words = b.gep(self.steps, [b.mul(b.load(self.at), INT(STEP_WORDS))])
        which = b.switch(self._word(STEP_KIND), end)
        which.add_case(INT(RUN), running)
        which.add_case(INT(PICK), picking)
        b.position_at_end(running)
        self._run()
        b.branch(following)
        b.position_at_end(picking)
        self._pick()
        b.branch(following)
        b.position_at_end(following)
        b.store(b.add(b.load(self.at), INT(1)), self.at)
        b.branch(ask)
        b.position_at_end(end)
        b.ret(b.load(self.at))

    def _field(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.context, [INT(at)]))

    def _how(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.how, [INT(at)]))

    def _run(self) -> None:
        program = self._pointer(STEP_ADDRESS, INT)
        self.b.call(self.module.globals["run"], [self.buffer, program, self._word(STEP_LENGTH), self.context, INT(1), self.vectors])

    def _pick(self) -> None:
        b = self.b
        self._gather()
        call = self._pointer(STEP_ADDRESS, INT)
        said = ((CALL_GIVEN, STEP_GIVEN), (CALL_FORMER, STEP_FORMER), (CALL_ASKED, STEP_ASKED))
        for at, value in (*((at, self._word(word)) for at, word in said), (CALL_REMEMBER, self._how(HOW_REMEMBER))):
            b.store(value, b.gep(call, [INT(at)]))
        context = b.inttoptr(b.load(b.gep(call, [INT(CALL_CONTEXT)])), INT.as_pointer())
        b.store(self._word(STEP_BENCH), b.gep(context, [INT(CONTEXT_BENCH)]))
        place = b.inttoptr(b.load(b.gep(call, [INT(CALL_CHOSEN)])), INT.as_pointer())
        before = b.load(place)
        b.call(self.module.globals["judge"], [call, INT(1)])
        pinned = self._word(STEP_PINNED)
        chosen = b.select(b.icmp_signed("<", pinned, INT(0)), b.load(place), pinned)
        b.store(chosen, place)
        with b.if_then(b.icmp_signed("!=", before, chosen)):
            b.store(BYTE(1), b.gep(b.inttoptr(self._field(CONTEXT_CHANGED), BYTE.as_pointer()), [self._word(STEP_NODE)]))
        self._publish(chosen)
        # The first passes see no converged operation, and their inputs no former ones.
        self._put(STEP_ASKED, b.zext(b.icmp_signed("!=", self._how(HOW_REMEMBER), INT(0)), INT))

    def _gather(self) -> None:
        b = self.b
        numbers, given, count = self._pointer(STEP_NUMBERS, INT), self._pointer(STEP_GIVEN, DOUBLE), self._word(STEP_LENGTH)
        with b.if_then(b.icmp_signed(">", count, INT(0))):
            repeat(b, count, lambda k: b.store(b.load(b.gep(self.buffer, [b.load(b.gep(numbers, [k]))])), b.gep(given, [k])))
        held, courses = self._word(STEP_HELD), self._pointer(STEP_COURSES, INT)
        kept = b.icmp_signed("!=", self._how(HOW_KEPT), INT(0))

        def let_go(k: Any) -> None:
            course = b.load(b.gep(self.buffer, [b.load(b.gep(courses, [k]))]))
            turned = b.or_(b.fcmp_ordered(">", course, DOUBLE(1.0 + TURNED)), b.fcmp_ordered("<", course, DOUBLE(-1.0 - TURNED)))
            place = b.gep(given, [b.add(held, k)])
            b.store(b.select(b.and_(kept, turned), b.load(place), DOUBLE(float("nan"))), place)

        with b.if_then(b.icmp_signed("<", held, count)):
            repeat(b, b.sub(count, held), let_go)

    def _publish(self, chosen: Any) -> None:
        """What the catalogue says of what was chosen, into its rows."""
        b = self.b
        shown = self._word(STEP_SHOWN)
        rows, number = self._pointer(STEP_ROWS, INT), self._said_of(chosen, shown, self._pointer(STEP_TABLE, DOUBLE))
        with b.if_then(b.icmp_signed(">", shown, INT(0))):
            repeat(b, shown, lambda k: b.store(number(k), self._vector(b.load(b.gep(rows, [k]))), align=8))

    def _said_of(self, chosen: Any, shown: Any, table: Any) -> Callable[[Any], Any]:
        """Of each of so many numbers that are shown what `table` says of the part chosen, in every lane."""
        b, first = self.b, self.b.mul(chosen, shown)
        return lambda k: spread(b, b.load(b.gep(table, [b.add(first, k)])), VECTOR)

    def _vector(self, row: Any) -> Any:
        return self.b.gep(self.b.bitcast(self.buffer, VECTOR.as_pointer()), [row])


class PassingBlocks(Passing):
    """The same for blocks of many variants, each as a whole."""

    def __init__(self, module: ir.Module) -> None:
        self.module = module
        pointer = INT.as_pointer()
        kind = ir.FunctionType(INT, [DOUBLE.as_pointer(), pointer, INT, INT, pointer, INT, pointer, INT])
        self.function = ir.Function(module, kind, "pass_blocks")
        self.all, self.steps, self.first, self.count, self.context, self.vectors, self.how, self.count_of_all = self.function.args
        self.b = ir.IRBuilder(self.function.append_basic_block("entry"))
        self.at = self.b.alloca(INT)
        self.buffer: Any = None
        self.variant: Any = None
        self.last: Any = None

    def lower(self) -> None:
        b = self.b
        end = self._end()
        some = b.and_(b.icmp_signed(">", b.load(end), self.first), b.icmp_signed(">", self.count_of_all, INT(0)))
        with b.if_then(some):
            blocks = b.sdiv(b.add(self.count_of_all, INT(LANES - 1)), INT(LANES))
            repeat(b, blocks, lambda block: self._block(block, b.load(end)))
            repeat(b, b.sub(b.load(end), self.first), self._ask)
        b.ret(b.load(end))

    def _end(self) -> Any:
        """The first step that is left to NumPy, or behind the last."""
        b = self.b
        look, ask, on, end = (self.function.append_basic_block(n) for n in ("look", "kind", "on", "end"))
        b.store(self.first, self.at)
        b.branch(look)
        b.position_at_end(look)
        b.cbranch(b.icmp_signed("<", b.load(self.at), self.count), ask, end)
        b.position_at_end(ask)
        self._stand_at(b.load(self.at))
        b.cbranch(b.icmp_signed("==", self._word(STEP_KIND), INT(LEFT)), end, on)
        b.position_at_end(on)
        b.store(b.add(b.load(self.at), INT(1)), self.at)
        b.branch(look)
        b.position_at_end(end)
        return self.at

    def _stand_at(self, step: Any) -> None:
        self.words = self.b.gep(self.steps, [self.b.mul(step, INT(STEP_WORDS))])

    def _block(self, block: Any, end: Any) -> None:
        b = self.b
        self.buffer = b.gep(self.all, [b.mul(b.mul(block, self.vectors), INT(LANES))])
        self.variant = b.mul(block, INT(LANES))
        left = b.sub(self.count_of_all, self.variant)
        self.last = b.sub(b.select(b.icmp_signed("<", left, INT(LANES)), left, INT(LANES)), INT(1))

        def work(k: Any) -> None:
            self._stand_at(b.add(self.first, k))
            with b.if_else(b.icmp_signed("==", self._word(STEP_KIND), INT(RUN))) as (running, picking):
                with running:
                    self._run()
                with picking:
                    self._pick()

        repeat(b, b.sub(end, self.first), work)

    def _ask(self, k: Any) -> None:
        """The first passes see no converged operation, and their inputs no former ones."""
        self._stand_at(self.b.add(self.first, k))
        self._put(STEP_ASKED, self.b.zext(self.b.icmp_signed("!=", self._how(HOW_REMEMBER), INT(0)), INT))

    def _of_block(self, word: int, each: Any) -> Any:
        """Where a pick's array lies for this block's first variant, with so many bytes for each."""
        return self.b.add(self._word(word), self.b.mul(self.variant, each))

    def _pick(self) -> None:
        b = self.b
        self._gather()
        call = self._pointer(STEP_ADDRESS, INT)
        inputs = b.mul(self._word(STEP_LENGTH), INT(8))
        said = (
            (CALL_GIVEN, self._word(STEP_GIVEN)),
            (CALL_FORMER, self._of_block(STEP_FORMER, inputs)),
            (CALL_ASKED, self._word(STEP_ASKED)),
            (CALL_REMEMBER, self._how(HOW_REMEMBER)),
            (CALL_REJECTED, self._of_block(STEP_REJECTED, self._word(STEP_ROOM))),
            (CALL_CHOSEN, self._of_block(STEP_CHOSEN, INT(8))),
            (CALL_FITS, self._of_block(STEP_FITS, INT(1))),
            (CALL_COURSE, self._of_block(STEP_COURSE, INT(8))),
        )
        for at, value in said:
            b.store(value, b.gep(call, [INT(at)]))
        context = b.inttoptr(b.load(b.gep(call, [INT(CALL_CONTEXT)])), INT.as_pointer())
        b.store(self._word(STEP_BENCH), b.gep(context, [INT(CONTEXT_BENCH)]))
        place = b.inttoptr(b.load(b.gep(call, [INT(CALL_CHOSEN)])), INT.as_pointer())
        former = self._choices(place)
        b.call(self.module.globals["judge"], [call, b.add(self.last, INT(1))])
        pinned = spread(b, self._word(STEP_PINNED), _CHOICES)
        chosen = b.select(b.icmp_signed("<", pinned, ir.Constant(_CHOICES, [0] * LANES)), self._choices(place), pinned)
        b.store(chosen, b.bitcast(place, _CHOICES.as_pointer()), align=8)
        others = b.bitcast(b.icmp_signed("!=", former, chosen), ir.IntType(LANES))
        with b.if_then(b.icmp_unsigned("!=", others, ir.IntType(LANES)(0))):
            b.store(BYTE(1), b.gep(b.inttoptr(self._field(CONTEXT_CHANGED), BYTE.as_pointer()), [self._word(STEP_NODE)]))
        self._publish(chosen)

    def _choices(self, place: Any) -> Any:
        """The candidates of the block; spare lanes have that of the last variant."""
        b = self.b
        found = ir.Constant(_CHOICES, ir.Undefined)
        for lane in range(LANES):
            at = b.select(b.icmp_signed("<", INT(lane), self.last), INT(lane), self.last)
            found = b.insert_element(found, b.load(b.gep(place, [at])), ir.IntType(32)(lane))
        return found

    def _lanes(self, vector: Any) -> list[Any]:
        return [self.b.extract_element(vector, ir.IntType(32)(lane)) for lane in range(LANES)]

    def _gather(self) -> None:
        b = self.b
        numbers, given, count = self._pointer(STEP_NUMBERS, INT), self._pointer(STEP_GIVEN, DOUBLE), self._word(STEP_LENGTH)
        held, courses = self._word(STEP_HELD), self._pointer(STEP_COURSES, INT)
        kept = b.icmp_signed("!=", self._how(HOW_KEPT), INT(0))

        def put(k: Any, vector: Any) -> None:
            for lane, number in enumerate(self._lanes(vector)):
                b.store(number, b.gep(given, [b.add(b.mul(INT(lane), count), k)]))

        def let_go(k: Any) -> None:
            course = b.load(self._vector(b.load(b.gep(courses, [k]))), align=8)
            turned = b.or_(b.fcmp_ordered(">", course, splat(1.0 + TURNED)), b.fcmp_ordered("<", course, splat(-1.0 - TURNED)))
            at = b.add(held, k)
            stands = b.load(self._vector(b.load(b.gep(numbers, [at]))), align=8)
            put(at, b.select(b.and_(spread(b, kept, TRUTH), turned), stands, splat(float("nan"))))

        with b.if_then(b.icmp_signed(">", held, INT(0))):
            repeat(b, held, lambda k: put(k, b.load(self._vector(b.load(b.gep(numbers, [k]))), align=8)))
        with b.if_then(b.icmp_signed("<", held, count)):
            repeat(b, b.sub(count, held), let_go)

    def _said_of(self, chosen: Any, shown: Any, table: Any) -> Callable[[Any], Any]:
        b, firsts = self.b, [self.b.mul(one, shown) for one in self._lanes(chosen)]

        def number(k: Any) -> Any:
            vector = ir.Constant(VECTOR, ir.Undefined)
            for lane, first in enumerate(firsts):
                vector = b.insert_element(vector, b.load(b.gep(table, [b.add(first, k)])), ir.IntType(32)(lane))
            return vector

        return number
