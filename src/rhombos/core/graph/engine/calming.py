"""Outer passes and the loops between them in machine code, for as long as no loop runs away early on, or while the build is a first guess, at a corner that lasts.

What `Passes` does pass by pass for a single sheet, in the same order; it goes on where a loop has to be begun anew.
"""

from collections.abc import Callable
from typing import Any

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import BYTE, DOUBLE, INT, LANES, VECTOR, ZERO, Words, repeat, splat, spread
from rhombos.core.graph.engine.iteration import CALL_FAILED, CALL_NOWHERE, CALL_OPEN, CALL_PASSES, CALL_ROWS, CALL_SCRATCH, CALL_TEARS
from rhombos.core.graph.engine.judging import ALL_MISSES, AND_STAY, CLEAR_MISSES, NOTHING
from rhombos.core.graph.engine.passing import HOW_KEPT, HOW_REMEMBER
from rhombos.core.graph.engine.told import (
    COMPARE,
    CONTEXT_ACROSS,
    CONTEXT_BEFORE_SURGE,
    CONTEXT_CHANGED,
    CONTEXT_FLAGS,
    CONTEXT_ITERATING,
    CONTEXT_LASTING,
    CONTEXT_WEIGH,
    ITERATING,
    JUDGED_FROM,
    NOT,
    ROUGH,
    SAFE_SIDE,
    SAFE_SIDE_FROM,
    STAYING_FROM,
    YOUNG_TO,
)

RESTS, FAILED, SPENT = range(3)
"""How passes end: nothing changed any more; a loop did not settle; as many were made as were asked for."""
(
    CALM_BUFFER,
    CALM_STEPS,
    CALM_COUNT,
    CALM_CONTEXT,
    CALM_ROWS,
    CALM_HOW,
    CALM_PARTS,
    CALM_PART_COUNT,
    CALM_NODES,
    CALM_FOLLOWED,
    CALM_FOLLOWING,
    CALM_OUTER,
    CALM_AGE,
    CALM_SETTLING,
    CALM_ITERATING,
    CALM_PASSES,
    CALM_AT,
    CALM_INNER,
    CALM_GOING,
    CALM_LENT,
    CALM_NEAREST,
    CALM_CORNERS,
) = range(22)
CALM_WORDS = 22
"""What a call says: the sheet's buffer, the steps of a pass and how many they are, what the kernels are told, vectors of the buffer,
how a pass is made; the parts that settle loops and how many they are; how many nodes there are, by node from where on the vectors stand
that are let go where it has moved, and those; and, changed on the way: the pass, its age, whether the build is still a first
guess, whether unknown values count as they are, how many passes are left, at which part a loop did not settle, the most passes of a loop; and
how a sheet goes on without a corner at which a loop runs away, with room (by corner, across the lanes) for where something stands in;
and for every lane the corners, the nearest first, and how many they are."""
HANDS_ON, LENDS, GOES_WITHOUT = range(3)
"""Where a loop runs away: `Passes` goes on; the state before a start stands in for it; nothing does."""
PART_LOOP, PART_ADDRESS, PART_LENGTH, PART_STEPS, PART_STEPS_LENGTH, PART_SAGS, PART_BEGINS = range(7)
PART_WORDS = 7
"""Words of a part: the call that settles a loop (0: a program that stands before one), where the program lies, its length; of a loop the program
of all its nodes, its length, and by starting value what is left of it under a start, and where it begins at every corner (across the lanes)."""


def lower_calming(module: ir.Module) -> None:
    """calm(call): passes until one of the three ends; returns which."""
    _Calming(module).lower()


class _Calming(Words):
    """The function being written."""

    def __init__(self, module: ir.Module) -> None:
        self.module = module
        self.function = ir.Function(module, ir.FunctionType(INT, [INT.as_pointer()]), "calm")
        (self.words,) = self.function.args
        self.b = ir.IRBuilder(self.function.append_basic_block("entry"))
        self.any, self.hurts, self.some = (self.b.alloca(INT) for _ in range(3))
        self.can = self.b.alloca(VECTOR)
        self.buffer, self.context = self._pointer(CALM_BUFFER, DOUBLE), self._pointer(CALM_CONTEXT, INT)
        self.vectors = self._told(CONTEXT_ACROSS)
        """Of every number, its corners across the lanes."""
        self.flags, self.changed = (self.b.inttoptr(self._told(at), BYTE.as_pointer()) for at in (CONTEXT_FLAGS, CONTEXT_CHANGED))

    def _told(self, at: int) -> Any:
        return self.b.load(self.b.gep(self.context, [INT(at)]))

    def _tell(self, iterating: Any, weigh: Any) -> None:
        for at, value in ((CONTEXT_ITERATING, iterating), (CONTEXT_WEIGH, weigh)):
            self.b.store(value, self.b.gep(self.context, [INT(at)]))

    def _clear(self, bytes_: Any) -> None:
        repeat(self.b, self._word(CALM_NODES), lambda k: self.b.store(BYTE(0), self.b.gep(bytes_, [k])))

    def lower(self) -> None:
        b = self.b
        again, settle = (self.function.append_basic_block(n) for n in ("again", "settle"))
        rests, failed, spent = (self.function.append_basic_block(n) for n in ("rests", "failed", "spent"))
        b.branch(again)
        b.position_at_end(again)
        judged = self._pass()
        b.cbranch(b.and_(judged, b.icmp_signed("==", b.load(self.any), INT(0))), rests, settle)
        b.position_at_end(settle)
        self._settle(failed)
        left = b.sub(self._word(CALM_PASSES), INT(1))
        self._put(CALM_PASSES, left)
        b.cbranch(b.icmp_signed(">", left, INT(0)), again, spent)
        for block, code in ((rests, RESTS), (failed, FAILED), (spent, SPENT)):
            b.position_at_end(block)
            b.ret(INT(code))

    def _pass(self) -> Any:
        """One outer pass; whether it was judged."""
        b = self.b
        for at in (CALM_OUTER, CALM_AGE):
            self._put(at, b.add(self._word(at), INT(1)))
        self._clear(self.changed)
        age = self._word(CALM_AGE)
        kept = b.icmp_signed(">=", age, INT(SAFE_SIDE_FROM))
        remember = INT(NOTHING)
        for since, what in ((2, CLEAR_MISSES), (3, ALL_MISSES), (STAYING_FROM, AND_STAY)):
            remember = b.select(b.icmp_signed(">=", age, INT(since)), INT(what), remember)
        how = self._pointer(CALM_HOW, INT)
        b.store(remember, b.gep(how, [INT(HOW_REMEMBER)]))
        b.store(b.zext(kept, INT), b.gep(how, [INT(HOW_KEPT)]))
        self._tell(self._word(CALM_ITERATING), b.select(kept, INT(SAFE_SIDE), INT(COMPARE)))
        steps = self._pointer(CALM_STEPS, INT)
        b.call(self.module.globals["pass_on"], [self.buffer, steps, INT(0), self._word(CALM_COUNT), self.context, self._word(CALM_ROWS), how])
        judged = b.icmp_signed("==", self._word(CALM_SETTLING), INT(0))
        guess = b.zext(b.icmp_signed("<", age, INT(JUDGED_FROM)), INT)
        self._put(CALM_SETTLING, guess)
        self._put(CALM_ITERATING, guess)
        b.store(INT(0), self.any)
        repeat(b, self._word(CALM_NODES), self._let_go)
        return judged

    def _let_go(self, node: Any) -> None:
        """What follows a decision or pick that has moved keeps to no side."""
        b = self.b
        with b.if_then(b.icmp_unsigned("!=", b.load(b.gep(self.changed, [node])), BYTE(0)), likely=False):
            b.store(INT(1), self.any)
            followed, following = self._pointer(CALM_FOLLOWED, INT), self._pointer(CALM_FOLLOWING, INT)
            first, last = (b.load(b.gep(followed, [at])) for at in (node, b.add(node, INT(1))))
            with b.if_then(b.icmp_signed("<", first, last)):

                def forget(k: Any) -> None:
                    row = b.load(b.gep(following, [b.add(first, k)]))
                    b.store(ZERO, b.gep(b.bitcast(self.buffer, VECTOR.as_pointer()), [row]), align=8)

                repeat(b, b.sub(last, first), forget)

    def _settle(self, failed: Any) -> None:
        """The loops one after the other, each behind what leads to it; where one has to be begun anew, on to `failed`."""
        b = self.b
        tolerance = DOUBLE(ROUGH[-1])
        for k in reversed(range(len(ROUGH) - 1)):
            tolerance = b.select(b.icmp_signed("==", self._word(CALM_OUTER), INT(k + 1)), DOUBLE(ROUGH[k]), tolerance)
        repeat(b, self.vectors, lambda v: b.store(ZERO, self._vector(self._word(CALM_LENT), v), align=8))

        def part(k: Any) -> None:
            place = b.gep(self._pointer(CALM_PARTS, INT), [b.mul(k, INT(PART_WORDS))])
            words = [b.load(b.gep(place, [INT(at)])) for at in range(PART_WORDS)]
            program = b.inttoptr(words[PART_ADDRESS], INT.as_pointer())
            with b.if_else(b.icmp_signed("==", words[PART_LOOP], INT(0))) as (before, looped):
                with before, b.if_then(b.icmp_signed("==", self._word(CALM_SETTLING), INT(0))):
                    self._tell(self._word(CALM_ITERATING), INT(NOT))
                    self._run(program, words[PART_LENGTH])
                with looped:
                    self._tell(INT(ITERATING), INT(NOT))
                    call = b.inttoptr(words[PART_LOOP], INT.as_pointer())
                    of_loop = [self.buffer, program, words[PART_LENGTH], self.context, INT(1), self._word(CALM_ROWS), tolerance, call]
                    b.call(self.module.globals["iterate"], of_loop)
                    nowhere = b.load(b.gep(call, [INT(CALL_NOWHERE)]))
                    with b.if_then(b.icmp_signed("!=", nowhere, INT(0)), likely=False):
                        self._begin_near(call, words)
                        b.call(self.module.globals["iterate"], of_loop)
                    self._clear(self.flags)
                    passes, lost = (b.load(b.gep(call, [INT(at)])) for at in (CALL_PASSES, CALL_FAILED))
                    most = self._word(CALM_INNER)
                    self._put(CALM_INNER, b.select(b.icmp_signed(">", passes, most), passes, most))
                    self._put(CALM_AT, k)
                    with b.if_then(b.icmp_signed("!=", lost, INT(0)), likely=False):
                        self._ran_away(call, words, failed)

        with b.if_then(b.icmp_signed(">", self._word(CALM_PART_COUNT), INT(0))):
            repeat(b, self._word(CALM_PART_COUNT), part)

    def _run(self, program: Any, length: Any) -> None:
        self.b.call(self.module.globals["run"], [self.buffer, program, length, self.context, INT(1), self._word(CALM_ROWS)])

    def _vector(self, address: Any, at: Any) -> Any:
        return self.b.gep(self.b.inttoptr(address, VECTOR.as_pointer()), [at])

    def _ran_away(self, call: Any, words: list[Any], failed: Any) -> None:
        """A loop that did not settle at some corners: on without those, unless one of them lasts while it is early, or while the build is a first guess."""
        b, hurts = self.b, self.hurts
        b.store(INT(0), hurts)

        def look(v: Any) -> None:
            bits = b.bitcast(b.and_(self._opened(call, v), self._lasts(v)), ir.IntType(LANES))
            b.store(b.or_(b.load(hurts), b.zext(bits, INT)), hurts)

        repeat(b, self.vectors, look)
        early = b.icmp_signed("<", self._word(CALM_OUTER), INT(YOUNG_TO))
        settling = b.icmp_signed("!=", self._word(CALM_SETTLING), INT(0))
        handed = b.and_(b.or_(early, settling), b.icmp_signed("!=", b.load(hurts), INT(0)))
        handed = b.or_(handed, b.icmp_signed("==", self._word(CALM_GOING), INT(HANDS_ON)))
        on = self.function.append_basic_block("without")
        b.cbranch(handed, failed, on)
        b.position_at_end(on)
        self._each_start(call, lambda t, v, place: b.store(b.select(self._opened(call, v), splat(float("nan")), b.load(place, align=8)), place, align=8))
        with b.if_then(b.and_(b.not_(settling), b.icmp_signed("==", self._word(CALM_GOING), INT(LENDS)))):
            self._lend(call, words)
        self._work_out(call, words)

    def _begin_near(self, call: Any, words: list[Any]) -> None:
        """Where a starting value is no finite number, that of the nearest corner that has one, else where it begins."""
        b = self.b
        scratch = b.inttoptr(b.load(b.gep(call, [INT(CALL_SCRATCH)])), DOUBLE.as_pointer())
        nearest, begins = self._pointer(CALM_NEAREST, INT), b.inttoptr(words[PART_BEGINS], DOUBLE.as_pointer())
        count, lanes = self._word(CALM_CORNERS), b.mul(self.vectors, INT(LANES))

        def begin(t: Any, v: Any, place: Any) -> None:
            with b.if_then(b.icmp_signed("==", v, INT(0))):
                first = b.bitcast(place, DOUBLE.as_pointer())

                def lane(k: Any) -> None:
                    at = b.gep(scratch, [b.add(b.mul(t, lanes), k)])
                    b.store(b.load(b.gep(first, [k])), at)
                    with b.if_then(b.not_(self._finite(b.load(at)))):
                        b.store(b.load(b.gep(begins, [b.add(b.mul(t, lanes), k)])), at)

                        def other(j: Any) -> None:
                            # From the furthest on: the nearest stands in the end.
                            which = b.load(b.gep(nearest, [b.add(b.mul(k, count), b.sub(b.sub(count, INT(1)), j))]))
                            number = b.load(b.gep(first, [which]))
                            b.store(b.select(self._finite(number), number, b.load(at)), at)

                        repeat(b, count, other)

                repeat(b, lanes, lane)

        self._each_start(call, begin)
        vectors = b.bitcast(scratch, VECTOR.as_pointer())
        self._each_start(call, lambda t, v, place: b.store(b.load(b.gep(vectors, [b.add(b.mul(t, self.vectors), v)]), align=8), place, align=8))

    def _finite(self, number: Any) -> Any:
        """What is without end, or no number, taken from itself is no number."""
        nothing = self.b.fsub(number, number)
        return self.b.fcmp_ordered("ord", nothing, nothing)

    def _opened(self, call: Any, v: Any) -> Any:
        """The corners of a vector at which a loop did not settle."""
        return self.b.fcmp_ordered(">", self.b.load(self._vector(self.b.load(self.b.gep(call, [INT(CALL_OPEN)])), v), align=8), ZERO)

    def _lasts(self, v: Any) -> Any:
        return self.b.fcmp_unordered("!=", self.b.load(self._vector(self._told(CONTEXT_LASTING), v), align=8), ZERO)

    def _each_start(self, call: Any, body: Callable[[Any, Any, Any], None]) -> None:
        """For every starting value and vector of it: `body` with both and where it lies."""
        b = self.b
        rows = b.inttoptr(b.load(b.gep(call, [INT(CALL_ROWS)])), INT.as_pointer())

        def one(t: Any) -> None:
            repeat(b, self.vectors, lambda v: body(t, v, b.gep(all_of_it, [b.load(b.gep(rows, [b.add(b.mul(t, self.vectors), v)]))])))

        all_of_it = b.bitcast(self.buffer, VECTOR.as_pointer())
        repeat(b, b.load(b.gep(call, [INT(CALL_TEARS)])), one)

    def _state_before(self, place: Any, v: Any) -> Any:
        """What a starting value is at the corners from which those of a vector begin; its vectors lie one behind the other."""
        b = self.b
        first = b.gep(b.bitcast(place, DOUBLE.as_pointer()), [b.mul(v, INT(-LANES))])
        before = b.gep(b.inttoptr(self._told(CONTEXT_BEFORE_SURGE), INT.as_pointer()), [b.mul(v, INT(LANES))])
        found = ir.Constant(VECTOR, ir.Undefined)
        for lane in range(LANES):
            number = b.load(b.gep(first, [b.load(b.gep(before, [INT(lane)]))]))
            found = b.insert_element(found, number, ir.IntType(32)(lane))
        return found

    def _lend(self, call: Any, words: list[Any]) -> None:
        """At starts the state before them stands in, its voltages sagging."""
        b, can, some = self.b, self.can, self.some
        lent = self._word(CALM_LENT)
        b.store(INT(0), some)

        def whether(v: Any) -> None:
            b.store(b.select(b.and_(self._opened(call, v), b.not_(self._lasts(v))), splat(1.0), ZERO), can)

            def finite(t: Any, at: Any, place: Any) -> None:
                with b.if_then(b.icmp_signed("==", at, v)):
                    b.store(b.select(self._finite(self._state_before(place, v)), b.load(can), ZERO), can)

            self._each_start(call, finite)
            stands = b.load(can)
            place = self._vector(lent, v)
            b.store(b.select(b.fcmp_ordered(">", stands, ZERO), splat(1.0), b.load(place, align=8)), place, align=8)
            # The mark of this loop alone: it is read once the loop has been looked at, where its open corners were.
            b.store(stands, self._vector(b.load(b.gep(call, [INT(CALL_OPEN)])), v), align=8)
            bits = b.bitcast(b.fcmp_ordered(">", stands, ZERO), ir.IntType(LANES))
            b.store(b.or_(b.load(some), b.zext(bits, INT)), some)

        repeat(b, self.vectors, whether)
        with b.if_then(b.icmp_signed("!=", b.load(some), INT(0))):
            at = self._aside(call)
            sags = b.inttoptr(words[PART_SAGS], DOUBLE.as_pointer())

            def sink(t: Any, v: Any, place: Any) -> None:
                sagging = b.fmul(spread(b, b.load(b.gep(sags, [t])), VECTOR), self._state_before(place, v))
                b.store(b.select(self._opened(call, v), sagging, b.load(place, align=8)), at(t, v), align=8)

            self._each_start(call, sink)
            self._each_start(call, lambda t, v, place: b.store(b.load(at(t, v), align=8), place, align=8))

    def _aside(self, call: Any) -> Callable[[Any, Any], Any]:
        """Room of a loop for each vector of its starting values."""
        scratch = self.b.load(self.b.gep(call, [INT(CALL_SCRATCH)]))
        return lambda t, v: self._vector(scratch, self.b.add(self.b.mul(t, self.vectors), v))

    def _work_out(self, call: Any, words: list[Any]) -> None:
        """The whole loop from starting values that stay as they are: what hangs on it must not read where it ran to."""
        b, at = self.b, self._aside(call)
        self._each_start(call, lambda t, v, place: b.store(b.load(place, align=8), at(t, v), align=8))
        self._tell(self._word(CALM_ITERATING), INT(NOT))
        self._run(b.inttoptr(words[PART_STEPS], INT.as_pointer()), words[PART_STEPS_LENGTH])
        self._each_start(call, lambda t, v, place: b.store(b.load(at(t, v), align=8), place, align=8))
