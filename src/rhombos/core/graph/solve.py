"""Solving a line-up: inner, the physical loops with the build held; outer, the build decided anew until it rests.

Where it comes to rest it is tried freely, and of several rests the best one stands.
"""

from collections.abc import Callable
from functools import partial

import numpy as np

from rhombos.core.formulas.numeric import context, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.told import ROUGH
from rhombos.core.graph.finishing import finished
from rhombos.core.graph.inputs import Build, Inputs
from rhombos.core.graph.passes import Passes
from rhombos.core.graph.resting import Rest
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.solvable import Solvable

RELEASES = 2
"""How often decisions at rest are let go, so that none keeps to its side for the sake of what is no more."""


class Run(Passes):
    """One solve in progress; decisions begin at their formulas' first results, or `near` another sheet of the same line-up.

    `passing`, it is only there for another to begin at: where it comes to rest first, there it stays. Of many variants some may turn
    off wherever there are two ways to go (`apart`): so every step says what comes next.
    """

    def __init__(self, model: Solvable, inputs: Inputs, corners: CornerSet, build: Build | None, near: Sheet | None = None, *, passing: bool = False) -> None:
        super().__init__(model, inputs, corners, build)
        self.near, self.passing = near, passing

    def sheet(self) -> Sheet:
        with seen(self.corners):
            if self.held is not None:
                self._converge(self.layout.held)
            else:
                self._decide()
            self.values.release()
            return finished(self)

    def _decide(self) -> None:
        """The outer passes, then what is known of the numbers that they came to."""
        self.outer = self.age = 1
        self.values.begin(self.pinned_part)
        self.settling = True
        self.each(lambda group: group._decide_together())
        self.settling = context.iterating = False
        self.judging = True
        if not self.is_judged:
            self._judged()
        converge = partial(self._converge, self.layout.held)
        if self.marked is not None:
            while self.marked.spreading and self.marked.decisions():
                self.marked.holding_causes(converge)
        while self.unknown.spreading and self._judge_decisions():
            self.unknown.holding_causes(converge)
        self.picks.update(self.values.judgements.states(single=self.alone))

    def _decide_together(self) -> None:
        """The outer passes. The first runs on starting values; each later one from a converged operation.

        The first guesses may stand where nothing exists, so values that are unknown count as they are until the
        build has been decided once from them; from then on unknown corners are left out. What is at rest is decided
        anew freely; of several rests the best one stands.
        """
        # What hangs on no starting value is computed, and is known or not, once and for all.
        self._work(self.layout.still)
        context.iterating = True
        starts = self.layout.starts.grown(self.values.__getitem__)
        if self.alone:
            self.grown = starts
        if self.near is None:
            self.values.begin_at(self.layout.starts.nodes, starts)
            self._work(self.layout.first)
        else:
            published = [i for p in self.wiring.picks for _, i in p.published]
            self.values.fill({i: value for i in (*self.plan.moving, *published) if i not in self.pinned and (value := self.near.values[i]) is not None})
        self._settled(ROUGH[0], partial(self._calm, self._felt))

    def _felt(self, first: Rest) -> None:
        """The first rest. What was decided by what stood in for a start may have an operation of its own: then there is one more before it is tried freely."""
        if not self.apart(~self._lends, lambda: self._tried(self.of(first))):
            self._settled(ROUGH[-1], partial(self._regained, self._kept(first)))

    def _regained(self, first: Rest) -> None:
        if not self.apart(~self._lends, partial(self._calm, self._tried)):
            self._tried(self.of(first))

    def _tried(self, first: Rest) -> None:
        """Where it would not be the same freely, to rest again from there, with nothing remembered of the way.

        Picks remember what they rejected on the way, so that each time less can alternate. What is held at the second rest
        is let go; where something is held even so, the first one is let go as well.
        """
        if self.passing:
            self._over(first)
        else:
            self._freely(first, self._over, self._bound)

    def _bound(self, first: Rest) -> None:
        """Decided freely, to rest once more."""
        self._settled(ROUGH[-1], partial(self._calm, partial(self._tried_again, first)))

    def _tried_again(self, first: Rest, again: Rest) -> None:
        """The second rest. A pass moves what stands in for a start: before it is tried freely that stands in anew."""
        if not self.apart(~self._lends, lambda: self._free_again(first, self.of(again))):
            self._settled(ROUGH[-1], partial(self._free_again, first, self._kept(again)))

    def _free_again(self, first: Rest, again: Rest) -> None:
        self._freely(again, lambda rest: self._over(first, rest), lambda rest: self._let_go(rest, [first, rest], partial(self._freed, first)))

    def _freely(self, rest: Rest, free: Callable[[Rest], None], bound: Callable[[Rest], None]) -> None:
        """Whether it would be the same if nothing had been remembered at all, as most sheets are."""
        rest.wants = rest.held = np.zeros(self.values.lanes, dtype=np.int64)
        if not rest.alternating:
            # Their last pass was free, or what it remembered makes no difference.
            remembers = self._remembers()
            if self.alone and remembers.any() and not self._lends.any():
                remembers[:] = not self._chooses_alike()
            if self.apart(~remembers, lambda: free(self.of(rest))):
                return
        here = self._kept(rest)
        self._forget()
        self._pass()
        here.wants = here.held = self._moved_from(here)
        if rest.alternating or not self.apart(here.wants == 0, lambda: free(self.of(here))):
            bound(self.of(here))

    def _freed(self, first: Rest, again: Rest) -> None:
        if not self.apart(again.held == 0, partial(self._over, first, again)):
            self._let_go(first, [first, again], lambda rest: self._over(rest, again))

    def _over(self, *rests: Rest) -> None:
        """Stand on the best of the rests."""
        if len(rests) > 1:
            self._stand_on([self._kept(rest) for rest in rests], for_good=not self._lends.any())
        else:
            self.alternating = self._names(rests[0])
        self._agree()

    def _agree(self) -> None:
        """Decide once more where starts have no operation, now from the corners that have one alone: so the sheet's numbers are those it was decided from.

        Where no state stood in for a start all stays as it is; so it does where pins leave no operation at a corner that lasts: that is
        tried from elsewhere.
        """
        stays = ~self._lends
        if self.inputs.pins and not stays.all():
            stays = stays | ~self.values.operates(self.corners.lasts)
        if self.apart(stays, self.end):
            return
        before = self._kept(self._rest(()))
        before.held = np.ones(self.values.lanes, dtype=np.int64)
        self.bare = True
        self._settled(ROUGH[-1], partial(self._calm, partial(self._agreed, before)))

    def _agreed(self, before: Rest, bare: Rest) -> None:
        """Where it is decided as it was there is nothing to choose between."""

        def alike() -> None:
            self.alternating = self._names(bare)
            self.end()

        if not self.apart(self._moved_from(self.of(before)) == 0, alike):
            self._stand_on([self.of(before), self._kept(bare)], for_good=True)
            self.end()

    def _let_go(self, rest: Rest, been: list[Rest], then: Callable[[Rest], None], left: int = RELEASES) -> None:
        """Go back to a rest, let its decisions go and come to rest again, until none is held for the sake of what has changed since.

        At last a free pass tells what would change with nothing remembered. `been` are all rests on the way.
        """
        rest = self.of(rest)
        if left == RELEASES:
            self._stand(rest, self._all)
        self.free = True
        self.values.let_go()
        self._pass()
        rest.held = self._moved_from(rest)
        if left and not self.apart(rest.held == 0, partial(self._want, rest, then)):
            self._settled(ROUGH[-1], partial(self._calm, partial(self._released, rest, been, then, left)))
        elif not left:
            self._want(rest, then)

    def _released(self, former: Rest, been: list[Rest], then: Callable[[Rest], None], left: int, rest: Rest) -> None:
        self._kept(rest)

        def held() -> None:
            # Let go, it has come back to where it stood before: so it would again.
            here = self.of(rest)
            here.held = self.of(former).held
            self._want(here, then)

        back = np.logical_or.reduce([self._moved_from(self.of(other)) == 0 for other in been])
        if self.apart(back, held):
            return
        if rest.alternating:
            self._want(rest, then)
        else:
            self._let_go(rest, [*been, rest], then, left - 1)

    def _want(self, rest: Rest, then: Callable[[Rest], None]) -> None:
        """A free pass: what would change with nothing remembered."""
        rest = self.of(rest)
        self._forget()
        self._pass()
        rest.wants = self._moved_from(rest)
        then(rest)

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
