"""A figure over many values of a given, the build held.

Of many values a few are solved as sheets; where the loops rest is a smooth curve through those, on which all others begin.
"""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

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


@dataclass(frozen=True)
class Asked:
    """What is asked: the goal of a sheet at some corners for other values of one given."""

    model: Model
    sheet: Sheet
    key: str
    goal: str
    corners: CornerSet

    def solved(self, values: Values, rest: dict[int, Values] | None = None) -> Sheet:
        """The values as sheets, loops begun at `rest`."""
        build = self.model.build_of(self.sheet)
        return self.model.solve(self.sheet.inputs.with_given(self.key, values[:, None]), self.corners, replace(build, rest=rest or build.rest))

    def wide(self, values: Values, count: int) -> Values:
        """The goal's values with their corners."""
        return np.broadcast_to(values, (count, len(self.corners.ids)))

    def sheets(self, values: Values, rest: dict[int, Values] | None = None) -> Values:
        return self.wide(self.solved(values, rest).value(self.goal), len(values))


def sweep(model: Model, sheet: Sheet, key: str, values: Values, goal: str, corners: CornerSet | None = None) -> Values:
    """`goal` at every corner for each value of a given, the build held: (values, corners).

    Of many values only what lies between the given and the goal is computed, as long as all of it is known; where it
    is not, those values are solved as sheets.
    """
    asked = Asked(model, sheet, key, goal, corners or sheet.corners)
    size = min(max(-(-len(values) // KNOTS), LEAST), MOST)
    # The last chunk is not of one value: it would have no curve.
    cuts = list(range(0, max(len(values) - 1, 1), size))
    chunks = np.split(values, cuts[1:])
    begun = _begun(asked, values, cuts)

    def part(mine: Sequence[int]) -> Values:
        at_work = begun() if begun is not None else lambda _, chunk: asked.sheets(chunk)
        return np.concatenate([at_work(k, chunks[k]) for k in mine])

    # Machine code runs without the interpreter, so stretches run beside one another.
    each = -(-len(cuts) // THREADS)
    with ThreadPoolExecutor(THREADS) as pool:
        return np.concatenate(list(pool.map(part, [range(len(cuts))[k : k + each] for k in range(0, len(cuts), each)])))


Work = Callable[[int, Values], Values]
"""From a chunk's number and values to the goal's."""


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

    def by_sheets(_: int, chunk: Values) -> Values:
        return asked.sheets(chunk, {t: curve(chunk) for t, curve in rests.items()})

    found = _sweeping(asked)
    if found is None:
        return lambda: by_sheets
    sweeping, read, standing = found
    if not sweeping.question.items:
        return lambda: lambda _, chunk: asked.wide(standing, len(chunk))
    sweeping.worked(len(values))
    powers = np.concatenate([np.zeros((POWERS, len(cuts), 0)), *(rests[t].c for t in sweeping.tears)], axis=-1)

    def at_work() -> Work:
        worker = Worker(sweeping, read, asked.corners)

        def work(k: int, chunk: Values) -> Values:
            solved = worker.solve(chunk, float(knots[k]), powers[:, k])
            return by_sheets(k, chunk) if solved is None else asked.wide(solved, len(chunk))

        return work

    return at_work


def _sweeping(asked: Asked) -> tuple[Sweeping, dict[int, Values], Values] | None:
    """The question for the kernels, what stands beside it and what the goal is as it stands; None where that is not all known, or it is none for them."""
    model, at = asked.model, asked.corners
    moved, goal = asked.sheet.node(asked.key).index, asked.sheet.node(asked.goal).index
    sweeping = model.sweeping(asked.sheet.pinned, len(at.ids), moved, goal)
    if sweeping is None:
        return None
    standing = model.solve(asked.sheet.inputs, at, model.build_of(asked.sheet))
    if any(standing.status(i) is not None for i in (*sweeping.read, *sweeping.question.nodes) if i != goal):
        return None
    return sweeping, {i: standing.values[i] for i in sweeping.read}, standing.value(asked.goal)
