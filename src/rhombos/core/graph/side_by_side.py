"""Variants solved side by side for as long as they go the same way.

Each goes the way that it would go alone: where some turn off, they go on by themselves. So what is solved together is what each
would be by itself, and whoever has come to rest costs nothing more.
"""

import copy
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from typing import Self

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import context, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.parted import kept_of, moved_up, part_of, put_back
from rhombos.core.graph.inner import Inner
from rhombos.core.graph.inputs import Build, Inputs
from rhombos.core.graph.marked import Marked
from rhombos.core.graph.resting import Rest
from rhombos.core.graph.solvable import Solvable

THREADS = 2
"""So many at once: the kernels let go of Python's lock."""
WORTH = 4
"""So many variants are worth a thread."""
OF_A_GROUP = ("values", "members", "picks", "asked", "marked", "lent", "moved", "turning", "bare", "free", "settling", "outer", "age")
"""What is a group's own; all else belongs to the whole solve."""

Then = Callable[[], None]


class SideBySide(Inner):
    """A solve of one sheet, or of many variants in groups: `members` are those that go on together at the moment."""

    def __init__(self, model: Solvable, inputs: Inputs, corners: CornerSet, build: Build | None) -> None:
        super().__init__(model, inputs, corners, build)
        self.members: NDArray[np.intp] = np.arange(self.values.lanes)
        self.alone = self.values.variants is None
        """Whether there is one sheet only."""
        self.bare = False
        """Whether nothing stands in for a start without an operation."""
        self.lent: NDArray[np.bool_] = np.zeros(1, dtype=bool)
        """The corners, starts without an operation, at which the state that they begin from stands in: (corners,) or (variants, corners)."""
        self.turning: list[int] = []
        """The nodes that the last pass changed."""
        self.moved = np.zeros(self.values.lanes, dtype=bool)
        """The variants in which it changed any."""
        self._whole: Self | None = None
        """The solve that a worker is a part of; a solve that held itself would be garbage for the collector to find."""
        self._ends: list[tuple[int, int]] = []

    def each(self, work: Callable[[Self], None]) -> None:
        """Do the work of a whole solve: of one sheet at once, of many variants in two halves at the same time."""
        if self.alone:
            work(self)
            return
        count = min(THREADS, max(self.values.lanes // WORTH, 1))
        halves = [self._worker(self.members[k::count]) for k in range(count)]

        def one(half: Self) -> None:
            with seen(self.corners), np.errstate(all="ignore"):
                work(half)
                half.values.release()

        with ThreadPoolExecutor(count) as pool:
            list(pool.map(one, halves))
        self.values.even_out()
        self.outer, self.inner = (max(counts) for counts in zip(*self._ends, strict=True))

    def _worker(self, members: NDArray[np.intp]) -> Self:
        worker = copy.copy(self)
        worker._whole = self
        worker._become(worker._part(members, own_desk=True))
        return worker

    def end(self) -> None:
        """A group has come to its end."""
        whole = self._whole
        if whole is None:
            return
        put_back(whole.values, self.values, self.members)
        for i, state in self.picks.items():
            whole.picks[i] = state.put_in(whole.picks.get(i), self.members, whole.values.lanes)
        if (self.members == 0).any():
            whole.alternating = self.alternating
        self._ends.append((self.outer, self.inner))

    def apart(self, where: NDArray[np.bool_] | np.bool_ | bool, then: Then) -> bool:
        """Let the variants `where` go on with `then`, to their end; whether none is left to go on here."""
        if self.alone:
            if where:
                then()
                return True
            return False
        turn = np.broadcast_to(where, self.values.lanes)
        if not turn.any():
            return False
        if turn.all():
            then()
            return True
        inside, outside, iterating = np.flatnonzero(turn), np.flatnonzero(~turn), context.iterating
        # Fewer are moved out, the others move up where they are.
        if inside.size < outside.size:
            leave, stay = self._part(inside), self._part(moved_up(outside), in_place=True)
        else:
            stay, leave = self._part(outside), self._part(moved_up(inside), in_place=True)
        self._become(leave)
        then()
        self._become(stay)
        context.iterating = iterating
        return False

    def of(self, rest: Rest) -> Rest:
        """A rest, of those alone that are here now."""
        if len(rest.members) == len(self.members):
            return rest
        order = np.argsort(rest.members)
        places = order[np.searchsorted(rest.members, self.members, sorter=order)]
        picks = {i: state.among(places) for i, state in rest.picks.items()}
        held, wants = (np.broadcast_to(a, len(rest.members))[places] for a in (rest.held, rest.wants))
        numbers = None if rest.numbers is None else kept_of(rest.numbers, self.values.judgements, places)
        return Rest(self.members, numbers, picks, rest.alternating, held, wants)

    def _part(self, places: NDArray[np.intp], *, own_desk: bool = False, in_place: bool = False) -> dict[str, object]:
        """All that is a group's own, of some of its variants; `in_place` nothing is left of the others."""
        part = {name: getattr(self, name) for name in OF_A_GROUP}
        values = part_of(self.values, places, own_desk=own_desk, in_place=in_place)
        part |= {"values": values, "members": self.members[places], "marked": Marked(self.layout, values) if self.layout.markable else None}
        part["picks"] = {i: state.among(places) for i, state in self.picks.items()}
        part["asked"] = {i: asked[places] for i, asked in self.asked.items()}
        part["lent"] = self.lent[places] if self.lent.ndim > 1 else self.lent
        part["moved"] = self.moved[places]
        return part

    def _become(self, group: dict[str, object]) -> None:
        for name, value in group.items():
            setattr(self, name, value)
