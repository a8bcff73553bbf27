"""Outer passes of a solve: decisions made anew until none changes, the loops settled between.

Every solve starts from declared starting values, never from an earlier sheet, so that the same inputs give the
same sheet whatever was typed before.
"""

from collections.abc import Callable, Mapping
from functools import partial

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import context
from rhombos.core.graph.engine.calming import FAILED, RESTS
from rhombos.core.graph.engine.steps import LoopSteps, Program, Step
from rhombos.core.graph.engine.told import COMPARE, JUDGED_FROM, NOT, ROUGH, SAFE_SIDE, TURNED, YOUNG_TO
from rhombos.core.graph.picked import PickState
from rhombos.core.graph.resting import Rest
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.side_by_side import SideBySide, Then
from rhombos.core.graph.verdicts import TIGHT, judged

MOST_PASSES = 30
"""So many passes, and what still changes alternates."""
LOST_PASSES = 15
"""As many where a corner has no operation."""
LOST_NEAR = 6
"""And where it was begun at another sheet's rest: what can stand there does so soon."""


_NOWHERE = np.zeros(1, dtype=bool)


class Passes(SideBySide):
    """Outer passes of a solve, as many as it takes. It may begin `near` another sheet of the same line-up."""

    near: Sheet | None = None
    is_judged = False
    """Whether what a single sheet came to has been judged on the way."""

    def _calm(self, then: Callable[[Rest], None]) -> None:
        """Passes until no decision changes; fewer where there is no operation to be decided from."""
        self.free = False
        self._go_on(self.outer, then)

    def _go_on(self, first: int, then: Callable[[Rest], None]) -> None:
        """What is left of the passes that began behind pass `first`."""
        lost = LOST_PASSES if self.near is None else LOST_NEAR
        while True:
            gone = self.outer - first
            if gone >= lost and self.apart(gone >= MOST_PASSES or ~self._stands(), partial(self._spent, then)):
                return
            if self.alone and self.layout.calms and not self.unknown.masks:
                strayed = self._by_machine(max(lost - gone, 1))
                if strayed is None:
                    then(self._rest(()))
                    return
            else:
                if self._pass() and self.apart(~self.moved, lambda: then(self._rest(()))):
                    return
                strayed = self._settle_loops(ROUGH[min(self.outer, len(ROUGH)) - 1])
            if self.apart(strayed, partial(self._young, partial(self._go_on, first, then))):
                return

    def _by_machine(self, passes: int) -> NDArray[np.bool_] | None:
        """So many passes of a single sheet in machine code, up to one after which a loop does not settle; whether it strayed there. None: it has come to rest."""
        begun = self.outer
        assert self.grown is not None, "a single sheet that is decided has begun"
        begins = self.grown[self.layout.tears]
        how, state, at, lent = self.values.calm(self.pinned_part, begins, (self.outer, self.age, self.settling, context.iterating), passes, bare=self.bare)
        self.outer, self.age, self.inner = *state[:2], max(self.inner, state[4])
        self.settling, context.iterating = bool(state[2]), bool(state[3])
        self.turning = self.values.changed.nonzero()[0].tolist()
        self.moved = np.array([bool(self.turning)])
        if how == FAILED or self.outer - begun > (how == RESTS):
            # Loops have settled since, or some of them have.
            self.lent = lent
        if how == FAILED:
            return self._settle_loops(ROUGH[min(self.outer, len(ROUGH)) - 1], at)
        return None if how == RESTS else _NOWHERE

    def _spent(self, then: Callable[[Rest], None]) -> None:
        """There is no time for more passes, whatever still changes."""
        if not self.apart(~self.moved, lambda: then(self._rest(()))):
            then(self._rest(tuple(self.turning)))

    def _settled(self, tolerance: float, then: Then) -> None:
        """Settle the loops, and go on with `then`."""
        if not self.apart(self._settle_loops(tolerance), partial(self._young, then)):
            then()

    def _young(self, then: Then) -> None:
        """What was decided so far came out of a runaway: nothing of it is kept or remembered."""
        self.age = 1
        self.settling = True
        then()

    def _pass(self) -> bool:
        """One outer pass; whether it was judged, so that nothing unknown was counted."""
        self.outer += 1
        self.age += 1
        self._redecide()
        judged = not self.settling
        self.settling = self.age < JUDGED_FROM
        context.iterating = self.settling
        return judged

    def _redecide(self) -> None:
        """Decide anew, in line-up order; what follows from decisions is computed on the way. `turning` are the nodes that changed, `moved` the variants."""
        values, picks = self.values, dict(self.picks)
        values.changed.fill(0)
        before = None if self.alone else values.decisions()
        self.weigh = SAFE_SIDE if self.kept else COMPARE
        self._work(self.layout.moving)
        self.weigh = NOT
        self.turning = values.changed.nonzero()[0].tolist()
        # A secondary beside five turns of the primary is no measure for one beside four: what follows begins afresh.
        if before is None:
            values.let_go_behind(self.turning)
            self.moved = np.array([bool(self.turning)])
        else:
            self.moved = values.let_go_since(before) | self._picked_otherwise(picks)

    def _rest(self, alternating: tuple[int, ...]) -> Rest:
        """What stands now. Before anything moves on it has to be `kept`."""
        return Rest(self.members, None, dict(self.picks), alternating)

    def _kept(self, rest: Rest) -> Rest:
        """A rest of those that are here, to be come back to. The first time all must still stand as it came to rest."""
        rest = self.of(rest)
        if rest.numbers is None:
            rest.numbers = self.values.kept()
        return rest

    @property
    def _all(self) -> NDArray[np.bool_]:
        return np.ones(self.values.lanes, dtype=bool)

    @property
    def _lends(self) -> NDArray[np.bool_]:
        """Whether a start without an operation has the state it begins from standing in, of every variant."""
        if self.lent.ndim == 1:
            return np.full(self.values.lanes, self.lent.any())
        lends: NDArray[np.bool_] = np.any(self.lent, axis=-1)
        return lends

    def _stands(self) -> NDArray[np.bool_]:
        """Whether there is an operation at every corner, of every variant."""
        stands = ~self._lends
        for loop in self.layout.loops:
            stands = stands & self.values.begun(loop)
        return stands

    def _picked_otherwise(self, picks: Mapping[int, PickState]) -> NDArray[np.bool_]:
        """Whether a pick that NumPy judges has another candidate than it had, of every variant."""
        found = ~self._all
        for i, state in self.picks.items():
            if i not in picks or picks[i] is not state:
                found = found | (i not in picks or picks[i].chosen != state.chosen)
        return found

    def _remembers(self) -> NDArray[np.bool_]:
        """Whether anything is remembered of the way here, of every variant: a decision or a pick that has turned back more than once."""
        found = self.values.remembers
        for state in self.picks.values():
            found = found | (np.abs(state.course) > 1 + TURNED)
        return found

    def _chooses_alike(self) -> bool:
        """Whether the picks that remember choose the same with nothing remembered, where no decision keeps to its side: then a free pass changes nothing."""
        values, layout = self.values, self.layout
        if not layout.whole or values.keeps_sides.any():
            return False
        judgements = values.judgements
        before, doubtful = tuple(a.copy() for a in judgements.remembered), judgements.doubtful
        judgements.forget()
        for pick in doubtful:
            inputs = values.gather(layout.contests[pick], kept=False)
            values.judge(layout.contests[pick], inputs, np.empty_like(inputs), (False, self.remember, self.pinned_part.get(pick)))
        alike = bool((judgements.chosen == before[0]).all())
        if not alike:
            judgements.put_back(before, self._all)
        return alike

    def _stand_on(self, rests: list[Rest], *, for_good: bool = False) -> None:
        """Go back to the best of several rests: the fewest checks that fail, then that are tight, then the fewest decisions that are held.

        Of equals the last, which remembers least of the way. Where a single sheet stands on that one `for_good`, it is judged by then.
        """
        for_good = for_good and self.alone and self.marked is not None
        scores = np.array([self._score(rest, telling=for_good and rest is rests[-1]) for rest in rests])
        best = len(rests) - 1 - np.lexsort(scores[::-1].transpose(2, 0, 1)[::-1], axis=0)[0]
        self.is_judged = for_good and bool(best[0] == len(rests) - 1)
        for k, rest in enumerate(rests if not self.is_judged else ()):
            self._stand(rest, best == k)
        self.alternating = self._names(rests[int(best[0])])

    def _names(self, rest: Rest) -> tuple[str, ...]:
        return tuple(self.wiring.nodes[i].key for i in rest.alternating)

    def _judged(self) -> None:
        """What is decided behind all that repeats, then the inner solve from the decisions as they stand, with nothing known of what was unknown before."""
        self.judging, judging = False, self.judging
        self._work(self.layout.behind)
        self.judging = judging
        if self.marked is not None:
            self.marked.clear()
        self._converge(self.layout.held)

    def _score(self, rest: Rest, *, telling: bool) -> NDArray[np.int64]:
        """(variants, 4): checks that fail or are unknown, that are tight; decisions that are held, and what a free pass changes.

        What is unknown has its causes told only if that is asked for.
        """
        self._stand(rest, self._all)
        if self.marked is not None:
            self.marked.telling = telling
        self._judged()
        if self.marked is not None:
            self.marked.telling = True
        code = judged(self.wiring.checks, self.values, {}).code
        worst = code.min(axis=-1).reshape(code.shape[0], -1)
        return np.stack(np.broadcast_arrays((worst < TIGHT).sum(axis=0), (worst == TIGHT).sum(axis=0), rest.held, rest.wants), axis=-1)

    def _moved_from(self, rest: Rest) -> NDArray[np.int64]:
        """How many decisions and picks stand elsewhere than at a rest, of every variant."""
        others = [np.broadcast_to(self.picks[i].chosen != then.chosen, self.values.lanes) for i, then in rest.picks.items()]
        assert rest.numbers is not None, "it was kept before anything moved on"
        return self.values.moved_from(rest.numbers) + sum(others, np.zeros(self.values.lanes, dtype=np.int64))

    def _stand(self, rest: Rest, where: NDArray[np.bool_]) -> None:
        """Put the variants `where` (of a single sheet: itself or not) back to what they were at a rest."""
        assert rest.numbers is not None, "it was kept before anything moved on"
        self.values.put_back(rest.numbers, where)
        self.picks = {i: rest.picks[i].where(where, now) if i in rest.picks else now for i, now in self.picks.items()}

    def _forget(self) -> None:
        """Begin a free pass: no rejection is remembered, no decision keeps to its side, and every pick is asked anew."""
        self.free = True
        self.asked.clear()
        self.values.forget()
        self.picks = {i: p.forgotten() for i, p in self.picks.items()}

    def _settle_loops(self, tolerance: float, first: int | None = None) -> NDArray[np.bool_]:
        """Bring the loops to rest; what hangs on them is computed by the pass that follows, in line-up order.

        Says which variants ran away early on at a corner that lasts: theirs is to begin anew. The machine may have gone up to the
        loop at the `first` place, which did not settle.
        """
        if first is None:
            self.lent = np.zeros(1, dtype=bool)
        strayed = _NOWHERE
        for k, loop in enumerate(self.layout.to_rest[first or 0 :], first or 0):
            if not isinstance(loop, LoopSteps):
                self._between(loop, strayed)
                continue
            where = self._unsettled(loop, tolerance, begun=k == first)
            if where is None:
                continue
            if self.outer < YOUNG_TO:
                strayed = strayed | np.atleast_1d(where)[..., self.corners.lasting].any(axis=-1)
            settling = (strayed | self.settling).reshape(-1, *[1] * (where.ndim - 1))
            nowhere = where & where.all(axis=-1, keepdims=True) & settling
            if nowhere.any():
                self._begin_again(loop, nowhere)
            self._go_without(loop, where & ~nowhere, settling)
        return strayed

    def _between(self, steps: tuple[Step, ...], strayed: NDArray[np.bool_]) -> None:
        """What stands before a loop, once the first guesses are behind it."""
        if strayed is _NOWHERE:
            if not self.settling:
                self._compute(steps)
            return
        if self.settling or strayed.all():
            return
        nodes = [i for step in steps for i in (step.nodes if isinstance(step, Program) else (step,))]
        with self.values.spared(nodes, strayed):
            self._compute(steps)

    def _go_without(self, loop: LoopSteps, gone: NDArray[np.bool_], settling: NDArray[np.bool_]) -> None:
        """A loop's starting values where it runs away: none at a corner that lasts, what follows is decided without it.

        At a start the state that it begins from stands in, its voltages sagging as they do under a start (`sags`): so the start's
        watts are felt by all that they go through, and what is decided next can be strong enough for an operation. The whole loop
        is worked out from there, so that nothing reads where it ran to.
        """
        if not gone.any():
            return
        left = np.where(gone, np.nan, self.values.starts(loop))
        lent = gone & ~self.corners.lasts & np.isfinite(left[..., self.corners.before]).all(axis=0) & ~settling
        sags = np.array([self.wiring.nodes[t].figure.sags for t in loop.item.tears]).reshape(-1, *[1] * gone.ndim)
        if not self.bare and lent.any():
            left = np.where(lent, sags * left[..., self.corners.before], left)
            self.lent = self.lent | lent
        with self.values.spared(loop.item.nodes, ~np.asarray(gone.any(axis=-1))):
            self.values.put_starts(loop, left)
            self._compute(loop.steps)
            self.values.put_starts(loop, left)

    def _begin_again(self, loop: LoopSteps, failed: NDArray[np.bool_]) -> None:
        """A first guess of the build may have no operation at any corner: the next one is decided from the starting values, where it `failed`."""
        starts = {t: np.where(failed, start, np.atleast_1d(self.values[t])) for t, start in zip(loop.item.tears, self._begins(loop), strict=True)}
        with self.values.spared(loop.item.nodes, ~np.asarray(failed.any(axis=-1))):
            # Where a guess ran to must leave no trace.
            self.values.fill(starts)
            self._compute(loop.steps)
            self.values.fill(starts)
