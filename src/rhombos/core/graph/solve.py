"""Solving a line-up: inner, the physical loops with the build held; outer, the build decided anew until it rests.

Every solve starts from declared starting values, never from an earlier sheet, so that the same inputs give the
same sheet whatever was typed before.
"""

from functools import partial

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import context, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.steps import LoopSteps
from rhombos.core.graph.engine.told import COMPARE, NOT, SAFE_SIDE, TURNED
from rhombos.core.graph.finishing import finished
from rhombos.core.graph.inner import Inner
from rhombos.core.graph.inputs import Build, Inputs
from rhombos.core.graph.resting import Rest
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.solvable import Solvable
from rhombos.core.graph.verdicts import TIGHT, judged

MOST_PASSES = 30
"""So many passes, and what still changes alternates."""
LOST_PASSES = 15
"""As many where a corner has no operation."""
LOST_NEAR = 6
"""And where it was begun at another sheet's rest: what can stand there does so soon."""
JUDGED_FROM = 3
RELEASES = 1
"""How often decisions at rest are let go, so that none keeps to its side for the sake of what is no more."""
YOUNG_TO = 9
"""Up to this pass a runaway at a corner that lasts begins the age of a single sheet's decisions anew; later it is the verdict.
Of many sheets together none may wait for another."""
ROUGH = (1e-3, 1e-4, 1e-7)


class Run(Inner):
    """One solve in progress; decisions begin at their formulas' first results, or `near` another sheet of the same line-up.

    `passing`, it is only there for another to begin at: where it comes to rest first, there it stays.
    """

    def __init__(self, model: Solvable, inputs: Inputs, corners: CornerSet, build: Build | None, near: Sheet | None = None, *, passing: bool = False) -> None:
        super().__init__(model, inputs, corners, build)
        self.near, self.passing = near, passing
        self.bare = False
        """Whether nothing stands in for a start without an operation."""
        self.lent = np.zeros(1, dtype=bool)
        """The corners, starts without an operation, at which the state that they begin from stands in."""

    def sheet(self) -> Sheet:
        with seen(self.corners):
            if self.held is not None:
                self._converge(self.layout.held)
            else:
                self._decide()
            self.values.release()
            return finished(self)

    def _decide(self) -> None:
        """The outer passes. The first runs on starting values; each later one from a converged operation.

        The first guesses may stand where nothing exists, so values that are unknown count as they are until the
        build has been decided once from them; from then on unknown corners are left out. What is at rest is decided
        anew freely; of several rests the best one stands.
        """
        self.outer = self.age = 1
        self.values.begin(self.pinned_part)
        # What hangs on no starting value is computed, and is known or not, once and for all.
        self._work(self.layout.still)
        self.settling = True
        context.iterating = True
        if self.near is None:
            self._work(self.layout.first)
        else:
            published = [i for p in self.wiring.picks for _, i in p.published]
            self.values.fill({i: value for i in (*self.plan.moving, *published) if i not in self.pinned and (value := self.near.values[i]) is not None})
        self._settle_loops(ROUGH[0])
        rests = self._rests()
        if len(rests) > 1:
            self._stand_on(rests)
        else:
            self.alternating = self._names(rests[0])
        self._agree()
        self.settling = context.iterating = False
        self.judging = True
        self._judged()
        converge = partial(self._converge, self.layout.held)
        if self.marked is not None:
            while self.marked.spreading and self.marked.decisions():
                self.marked.holding_causes(converge)
        while self.unknown.spreading and self._judge_decisions():
            self.unknown.holding_causes(converge)
        for i, contest in self.layout.contests.items():
            self.picks[i] = self.values.judged(contest).state(single=self.values.variants is None)

    def _agree(self) -> None:
        """Decide once more where starts have no operation, now from the corners that have one alone: so the sheet's numbers are those it was decided from.

        Variants in which no state stood in for a start stay as they are. So does a single sheet whose pins leave it without
        an operation at a corner that lasts: it is tried from elsewhere.
        """
        stood_in = np.broadcast_to(self.lent.any(axis=-1), self.values.lanes)
        alone, pinned = self.values.variants is None, bool(self.inputs.pins)
        if not stood_in.any() or (alone and pinned and not self.values.operates(self.corners.lasts)):
            return
        before = Rest(self.values.kept(), dict(self.picks), (), held=stood_in.astype(np.int64))
        self.bare = True
        self._settle_loops(ROUGH[-1])
        alone_decided = self._calm()
        if alone and not self._moved_from(before).any():
            # It is decided as it was: there is nothing to choose between.
            self.alternating = self._names(alone_decided)
            return
        self._stand_on([before, alone_decided])
        self._stand(before, ~stood_in)

    def _rests(self) -> list[Rest]:
        """Come to rest, and where it would not be the same freely, again from there, with nothing remembered of the way.

        Picks remember what they rejected on the way, so that each time less can alternate. What is held at the second rest
        is let go; where something is held even so, the first one is let go as well.
        """
        first = self._calm()
        lent = self.lent.any(axis=-1)
        if lent.any():
            # What was decided by what stood in may have an operation of its own.
            self._settle_loops(ROUGH[-1])
            if (lent & ~self.lent.any(axis=-1)).any():
                first = self._calm()
        if self.passing or self._rests_freely(first) or not self._stands():
            return [first]
        self._settle_loops(ROUGH[-1])
        again = self._calm()
        if self._rests_freely(again):
            return [first, again]
        again = self._let_go(again, [first, again])
        if not again.held.any():
            return [first, again]
        return [self._let_go(first, [first, again]), again]

    def _let_go(self, rest: Rest, been: list[Rest]) -> Rest:
        """Go back to a rest, let its decisions go and come to rest again, until none is held for the sake of what has changed since.

        At last a free pass tells what would change with nothing remembered. `been` are all rests on the way.
        """
        self._stand(rest, self._all)
        for left in reversed(range(RELEASES + 1)):
            self.free = True
            self.values.let_go()
            self._pass()
            rest.held = self._moved_from(rest)
            if not rest.held.any() or not left:
                break
            self._settle_loops(ROUGH[-1])
            held, rest = rest.held, self._calm()
            if any(not self._moved_from(former).any() for former in been):
                # Let go, it has come back to where it stood before: so it would again.
                rest.held = held
                break
            been.append(rest)
            if rest.alternating:
                break
        self._forget()
        self._pass()
        rest.wants = self._moved_from(rest)
        return rest

    def _rests_freely(self, rest: Rest) -> bool:
        """Whether it would be the same if nothing had been remembered at all, as most sheets are; if not, it goes on from there."""
        if not rest.alternating and (not self._remembers() or self._chooses_alike()):
            # Its last pass was free, or what it remembered makes no difference.
            rest.wants = rest.held = np.zeros(self.values.lanes, dtype=np.int64)
            return True
        self._forget()
        self._pass()
        rest.wants = rest.held = self._moved_from(rest)
        return not (rest.alternating or rest.wants.any())

    def _remembers(self) -> bool:
        """Whether anything is remembered of the way here: a decision or a pick that has turned back more than once."""
        return self.values.remembers or any(bool((np.abs(state.course) > 1 + TURNED).any()) for state in self.picks.values())

    def _chooses_alike(self) -> bool:
        """Whether the picks that remember choose the same with nothing remembered, where no decision keeps to its side: then a free pass changes nothing."""
        values, layout = self.values, self.layout
        if values.variants is not None or not layout.whole or values.keeps_sides:
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

    @property
    def _all(self) -> NDArray[np.bool_]:
        return np.ones(self.values.lanes, dtype=bool)

    def _stands(self) -> bool:
        """Whether some variant has an operation at every corner. Where there is none, what is held is of little use to anybody."""
        stands = ~np.atleast_1d(self.lent.any(axis=-1))
        for loop in self.layout.loops:
            stands = stands & self.values.begun(loop)
        return bool(stands.any())

    def _calm(self) -> Rest:
        """Passes until no decision changes; fewer where there is no operation to be decided from."""
        self.free = False
        changed, first = [-1], self.outer
        lost = LOST_PASSES if self.near is None else LOST_NEAR
        while self.outer - first < lost or (self.outer - first < MOST_PASSES and self._stands()):
            changed, judged = self._pass()
            if judged and not changed:
                break
            self._settle_loops(ROUGH[min(self.outer, len(ROUGH)) - 1])
        return Rest(self.values.kept(), dict(self.picks), tuple(changed))

    def _pass(self) -> tuple[list[int], bool]:
        """One outer pass: what changed, and whether it was judged, so that nothing unknown was counted."""
        self.outer += 1
        self.age += 1
        changed, judged = self._redecide(), not self.settling
        self.settling = self.age < JUDGED_FROM
        context.iterating = self.settling
        return changed, judged

    def _stand_on(self, rests: list[Rest]) -> None:
        """Go back to the best of several rests: the fewest checks that fail, then that are tight, then the fewest decisions that are held.

        Of equals the last, which remembers least of the way.
        """
        scores = np.array([self._score(rest) for rest in rests])
        best = len(rests) - 1 - np.lexsort(scores[::-1].transpose(2, 0, 1)[::-1], axis=0)[0]
        for k, rest in enumerate(rests):
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

    def _score(self, rest: Rest) -> NDArray[np.int64]:
        """(variants, 4): checks that fail or are unknown, that are tight; decisions that are held, and what a free pass changes."""
        self._stand(rest, self._all)
        if self.marked is not None:
            self.marked.telling = False
        self._judged()
        if self.marked is not None:
            self.marked.telling = True
        code = judged(self.wiring.checks, self.values, {}).code
        worst = code.min(axis=-1).reshape(code.shape[0], -1)
        return np.stack(np.broadcast_arrays((worst < TIGHT).sum(axis=0), (worst == TIGHT).sum(axis=0), rest.held, rest.wants), axis=-1)

    def _moved_from(self, rest: Rest) -> NDArray[np.int64]:
        """How many decisions and picks stand elsewhere than at a rest, of every variant."""
        others = [np.broadcast_to(self.picks[i].chosen != then.chosen, self.values.lanes) for i, then in rest.picks.items()]
        return self.values.moved_from(rest.numbers) + sum(others, np.zeros(self.values.lanes, dtype=np.int64))

    def _stand(self, rest: Rest, where: NDArray[np.bool_]) -> None:
        """Put the variants `where` (of a single sheet: itself or not) back to what they were at a rest."""
        self.values.put_back(rest.numbers, where)
        self.picks = {i: rest.picks[i].where(where, now) if i in rest.picks else now for i, now in self.picks.items()}

    def _forget(self) -> None:
        """Begin a free pass: no rejection is remembered, no decision keeps to its side, and every pick is asked anew."""
        self.free = True
        self.asked.clear()
        self.values.forget()
        self.picks = {i: p.forgotten() for i, p in self.picks.items()}

    def _judge_decisions(self) -> bool:
        """Say of decisions which corners they were made without; whether one more has nothing left to be made from.

        What is computed between two decisions is looked at on the way; where a loop lies between, the next turn sees it.
        """
        lost = False
        looped = {i for item in self.plan.items if item.tears for i in item.nodes}
        for index in self.plan.order:
            if index in self.pinned or index in looped or not self.unknown.concerns(index):
                continue
            if index not in self.plan.decided:
                if lost:
                    self._evaluate(index)
                continue
            known = index not in self.unknown.masks
            left = self.unknown.mark(index, np.atleast_1d(self.values[index]))
            if left is not None:
                self.values[index], lost = left, lost or known
        return lost

    def _redecide(self) -> list[int]:
        """Decide anew, in line-up order; what follows from decisions is computed on the way. Returns what changed."""
        self.values.changed.fill(0)
        before = self.values.leading() if self.values.variants is not None else None
        self.weigh = SAFE_SIDE if self.kept else COMPARE
        self._work(self.layout.moving)
        self.weigh = NOT
        changed: list[int] = self.values.changed.nonzero()[0].tolist()
        # A secondary beside five turns of the primary is no measure for one beside four: what follows begins afresh.
        if before is None:
            self.values.let_go_behind(changed)
        else:
            self.values.let_go_since(before)
        return changed

    def _settle_loops(self, tolerance: float) -> None:
        """Bring the loops to rest; what hangs on them is computed by the pass that follows, in line-up order."""
        self.lent = np.zeros(1, dtype=bool)
        for loop in self.layout.to_rest:
            if not isinstance(loop, LoopSteps):
                if not self.settling:
                    self._compute(loop)
                continue
            where = self._unsettled(loop, tolerance)
            if where is None:
                continue
            if self.values.variants is None and self.outer < YOUNG_TO and np.atleast_1d(where)[..., self.corners.lasting].any():
                # What was decided so far came out of a runaway: nothing of it is kept or remembered.
                self.age = 1
                self.settling = True
            nowhere = where & where.all(axis=-1, keepdims=True) & self.settling
            if nowhere.any():
                self._begin_again(loop, nowhere)
            self._go_without(loop, where & ~nowhere)

    def _go_without(self, loop: LoopSteps, gone: NDArray[np.bool_]) -> None:
        """A loop's starting values where it runs away: none at a corner that lasts, what follows is decided without it.

        At a start the state that it begins from stands in, its voltages sagging as they do under a start (`sags`), and the
        whole loop is worked out from there: so the start's watts are felt by all that they go through, and what is decided
        next can be strong enough for an operation.
        """
        starts = self.values.starts(loop)
        left = np.where(gone, np.nan, starts)
        lent = gone & ~self.corners.lasts & np.isfinite(left[..., self.corners.before]).all(axis=0)
        if self.bare or self.settling or not lent.any():
            self.values.put_starts(loop, left)
            return
        sags = np.array([self.wiring.nodes[t].figure.sags for t in loop.item.tears]).reshape(-1, *[1] * gone.ndim)
        left = np.where(lent, sags * left[..., self.corners.before], left)
        self.lent = self.lent | lent
        self.values.put_starts(loop, left)
        with self.values.spared(loop.item.nodes, ~np.asarray(lent.any(axis=-1))):
            self._compute(loop.steps)
            self.values.put_starts(loop, left)

    def _begin_again(self, loop: LoopSteps, failed: NDArray[np.bool_]) -> None:
        """A first guess of the build may have no operation at any corner: the next one is decided from the starting values, where it `failed`."""
        starts = {t: np.where(failed, float(self.wiring.nodes[t].figure.start or 0.0), np.atleast_1d(self.values[t])) for t in loop.item.tears}
        with self.values.spared(loop.item.nodes, ~np.asarray(failed.any(axis=-1))):
            # Where a guess ran to must leave no trace.
            self.values.fill(starts)
            self._compute(loop.steps)
            self.values.fill(starts)
