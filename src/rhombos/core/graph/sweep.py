"""Figures over many values of a given, the build held.

Of many values a few are solved as sheets; where the loops rest is a smooth curve through those, on which all others begin.
"""

import os
from collections import deque
from collections.abc import Callable, Iterator, Mapping, Sequence
from concurrent.futures import Future, ThreadPoolExecutor
from dataclasses import dataclass, field, replace
from itertools import pairwise
from threading import local

import numpy as np
from scipy.interpolate import CubicSpline

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.sweeping import POWERS, Sweeping, Worker
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet

KNOTS = 200
"""Into about so many chunks many values are cut, each begun from a sheet at either end."""
LEAST, MOST = 32, 128
"""Values of a chunk: more, and their numbers leave the cache; fewer, and Python between them takes the time."""
THREADS = os.cpu_count() or 1
WORTH_WHILE = 1000
"""How many values it takes for that to pay."""
AHEAD = 4
"""So many chunks for each thread are worked out before they are asked for."""


@dataclass(frozen=True)
class Swept:
    """The goals for a chunk of values: what moves as one table with the columns of each, and what stands. `swept[goal]` has (values, corners)."""

    count: int
    corners: int
    standing: Mapping[str, Values]
    table: Values = field(default_factory=lambda: np.empty(0))
    columns: Mapping[str, slice] = field(default_factory=dict)

    def __len__(self) -> int:
        return self.count

    def __getitem__(self, goal: str) -> Values:
        found = self.table[:, self.columns[goal]] if goal in self.columns else self.standing[goal]
        return np.broadcast_to(found, (self.count, self.corners))


@dataclass(frozen=True)
class Asked:
    """What is asked: the goals of a sheet at some corners for other values of one given."""

    model: Model
    sheet: Sheet
    key: str
    goals: tuple[str, ...]
    corners: CornerSet

    def solved(self, values: Values, rest: dict[int, Values] | None = None) -> Sheet:
        """The values as sheets, loops begun at `rest`."""
        build = self.model.build_of(self.sheet)
        return self.model.solve(self.sheet.inputs.with_given(self.key, values[:, None]), self.corners, replace(build, rest=rest or build.rest))

    def sheets(self, values: Values, rest: dict[int, Values] | None = None) -> Swept:
        """The goals of these sheets."""
        sheet = self.solved(values, rest)
        return Swept(len(values), len(self.corners.ids), {goal: sheet.value(goal) for goal in self.goals})


Work = Callable[[int, Values], Swept]
"""From a chunk's number and values to the goals'."""


def sweep(model: Model, sheet: Sheet, key: str, values: Values, goal: str, corners: CornerSet | None = None) -> Values:
    """`goal` at every corner for each value of a given, the build held: (values, corners)."""
    return np.concatenate([chunk[goal] for chunk in sweeps(model, sheet, key, values, (goal,), corners)])


def sweeps(model: Model, sheet: Sheet, key: str, values: Values, goals: Sequence[str], corners: CornerSet | None = None) -> Iterator[Swept]:
    """The goals at every corner, chunk by chunk in the order of the values.

    Of many values only what lies between the given and the goals is computed, as long as all of it is known; where it
    is not, those values are solved as sheets.
    """
    asked = Asked(model, sheet, key, tuple(goals), corners or sheet.corners)
    size = min(max(-(-len(values) // KNOTS), LEAST), MOST)
    # The last chunk is not of one value: it would have no curve.
    cuts = list(range(0, max(len(values) - 1, 1), size))
    begun, own = _begun(asked, values, cuts), local()

    def work(k: int, chunk: Values) -> Swept:
        if not hasattr(own, "work"):
            own.work = begun() if begun is not None else lambda _, some: asked.sheets(some)
        done: Swept = own.work(k, chunk)
        return done

    # Machine code runs without the interpreter, so chunks are worked out beside one another.
    with ThreadPoolExecutor(THREADS) as pool:
        waiting: deque[Future[Swept]] = deque()
        for k, (first, last) in enumerate(pairwise([*cuts, len(values)])):
            waiting.append(pool.submit(work, k, values[first:last]))
            if len(waiting) > AHEAD * THREADS:
                yield waiting.popleft().result()
        while waiting:
            yield waiting.popleft().result()


def curves(asked: Asked, knots: Values) -> dict[int, CubicSpline] | None:
    """Where the loops rest, by starting value, as curves through sheets solved at the knots; None where one of them has no operation."""
    with ThreadPoolExecutor(THREADS) as pool:
        known = list(pool.map(asked.solved, np.array_split(knots, THREADS)))
    tears = {t: np.concatenate([k.values[t] for k in known]) for item in asked.model.plan(asked.sheet.pinned).items for t in item.tears}
    if not all(np.isfinite(v).all() for v in tears.values()):
        return None
    return {t: CubicSpline(knots, v) for t, v in tears.items()}


def _begun(asked: Asked, values: Values, cuts: Sequence[int]) -> Callable[[], Work] | None:
    """What a thread begins with to answer chunk by chunk, each begun on the curve of where the loops rest; None where that does not pay."""
    if len(values) < WORTH_WHILE or not np.all(np.diff(values) > 0):
        return None
    knots = values[[*cuts, len(values) - 1]]
    rests = curves(asked, knots)
    if rests is None:
        return None

    def by_sheets(_: int, chunk: Values) -> Swept:
        return asked.sheets(chunk, {t: curve(chunk) for t, curve in rests.items()})

    found = _sweeping(asked)
    if found is None:
        return lambda: by_sheets
    sweeping, read, standing = found
    corners = len(asked.corners.ids)
    if not sweeping.question.items:
        return lambda: lambda _, chunk: Swept(len(chunk), corners, standing)
    sweeping.worked(len(values))
    columns = {goal: sweeping.columns[i] for goal in asked.goals if (i := asked.sheet.node(goal).index) in sweeping.columns}
    powers = np.concatenate([np.zeros((POWERS, len(cuts), 0)), *(rests[t].c for t in sweeping.tears)], axis=-1)

    def at_work() -> Work:
        worker = Worker(sweeping, read, asked.corners)

        def work(k: int, chunk: Values) -> Swept:
            solved = worker.solve(chunk[:, None], float(knots[k]), powers[:, k])
            return by_sheets(k, chunk) if solved is None else Swept(len(chunk), corners, standing, solved, columns)

        return work

    return at_work


def _sweeping(asked: Asked) -> tuple[Sweeping, dict[int, Values], dict[str, Values]] | None:
    """The question for the kernels, what stands beside it and what the goals are as they stand; None where that is not all known, or it is none for them."""
    model, at = asked.model, asked.corners
    moved, goals = asked.sheet.node(asked.key).index, tuple(asked.sheet.node(goal).index for goal in asked.goals)
    sweeping = model.sweeping(asked.sheet.pinned, len(at.ids), (moved,), goals)
    if sweeping is None:
        return None
    standing = model.solve(asked.sheet.inputs, at, model.build_of(asked.sheet))
    if any(standing.status(i) is not None for i in (*sweeping.read, *sweeping.question.nodes) if i not in goals):
        return None
    return sweeping, {i: standing.values[i] for i in sweeping.read}, {goal: standing.value(goal) for goal in asked.goals}
