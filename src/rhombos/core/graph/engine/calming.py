"""Outer passes and the loops between them in machine code, for as long as all goes as it mostly does: no loop runs away.

What `Passes` does pass by pass for a single sheet, in the same order; it goes on where a loop did not settle.
"""

from typing import Any

from llvmlite import ir

from rhombos.core.graph.engine.arithmetic import BYTE, DOUBLE, INT, VECTOR, ZERO, Words, repeat
from rhombos.core.graph.engine.iteration import CALL_FAILED, CALL_NOWHERE, CALL_PASSES
from rhombos.core.graph.engine.judging import ALL_MISSES, AND_STAY, CLEAR_MISSES, NOTHING
from rhombos.core.graph.engine.passing import HOW_KEPT, HOW_REMEMBER
from rhombos.core.graph.engine.told import (
    COMPARE,
    CONTEXT_CHANGED,
    CONTEXT_FLAGS,
    CONTEXT_ITERATING,
    CONTEXT_WEIGH,
    ITERATING,
    JUDGED_FROM,
    NOT,
    ROUGH,
    SAFE_SIDE,
    SAFE_SIDE_FROM,
    STAYING_FROM,
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
) = range(18)
CALM_WORDS = 18
"""What a call says: the sheet's buffer, the steps of a pass and how many they are, what the kernels are told, vectors of the buffer,
how a pass is made; the parts that settle loops and how many they are; how many nodes there are, by node from where on the vectors stand
that are let go where it has moved, and those; and, changed on the way: the pass, its age, whether the build is still a first
guess, whether unknown values count as they are, how many passes are left, at which part a loop did not settle, the most passes of a loop."""
PART_LOOP, PART_ADDRESS, PART_LENGTH = range(3)
PART_WORDS = 3
"""Words of a part: the call that settles a loop (0: a program that stands before one), where the program lies, its length."""


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
        self.any = self.b.alloca(INT)
        self.buffer, self.context = self._pointer(CALM_BUFFER, DOUBLE), self._pointer(CALM_CONTEXT, INT)
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
        """The loops one after the other, each behind what leads to it; where one does not settle, on to `failed`."""
        b = self.b
        tolerance = DOUBLE(ROUGH[-1])
        for k in reversed(range(len(ROUGH) - 1)):
            tolerance = b.select(b.icmp_signed("==", self._word(CALM_OUTER), INT(k + 1)), DOUBLE(ROUGH[k]), tolerance)

        def part(k: Any) -> None:
            place = b.gep(self._pointer(CALM_PARTS, INT), [b.mul(k, INT(PART_WORDS))])
            loop, address, length = (b.load(b.gep(place, [INT(at)])) for at in range(PART_WORDS))
            program = b.inttoptr(address, INT.as_pointer())
            with b.if_else(b.icmp_signed("==", loop, INT(0))) as (before, looped):
                with before, b.if_then(b.icmp_signed("==", self._word(CALM_SETTLING), INT(0))):
                    self._tell(self._word(CALM_ITERATING), INT(NOT))
                    b.call(self.module.globals["run"], [self.buffer, program, length, self.context, INT(1), self._word(CALM_ROWS)])
                with looped:
                    self._tell(INT(ITERATING), INT(NOT))
                    call = b.inttoptr(loop, INT.as_pointer())
                    rows = self._word(CALM_ROWS)
                    b.call(self.module.globals["iterate"], [self.buffer, program, length, self.context, INT(1), rows, tolerance, call])
                    self._clear(self.flags)
                    passes, lost, nowhere = (b.load(b.gep(call, [INT(at)])) for at in (CALL_PASSES, CALL_FAILED, CALL_NOWHERE))
                    most = self._word(CALM_INNER)
                    self._put(CALM_INNER, b.select(b.icmp_signed(">", passes, most), passes, most))
                    self._put(CALM_AT, k)
                    on = self.function.append_basic_block("settled")
                    b.cbranch(b.icmp_signed("!=", b.or_(lost, nowhere), INT(0)), failed, on)
                    b.position_at_end(on)

        with b.if_then(b.icmp_signed(">", self._word(CALM_PART_COUNT), INT(0))):
            repeat(b, self._word(CALM_PART_COUNT), part)
