"""A figure with one given moved at a time, the build held.

Of many givens and many corners only what lies between is computed, as in a sweep: in a block every lane moves another given.
"""

from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.engine.arithmetic import LANES
from rhombos.core.graph.engine.sweeping import POWERS, Sweeping, Worker
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet

SIDE_BY_SIDE = 2
"""So many threads: the kernels let go of Python's lock."""


def one_at_a_time(model: Model, sheet: Sheet, moved: Mapping[str, Sequence[float]], goal: str) -> Values:
    """`goal` for every given at each of its values, all others as they stand, (givens, values, corners); every given has as many values.

    What no given moves stands. Where something on the way is not known, or a loop does not settle, whole sheets are solved.
    """
    index, each = model.wiring.index, len(next(iter(moved.values())))
    found = np.broadcast_to(sheet.value(goal), (len(moved), each, len(sheet.corners.ids))).copy()
    asked = model.sweeping(sheet.pinned, len(sheet.corners.ids), tuple(index[key] for key in moved), (index[goal],))
    if asked is not None and not asked.question.items:
        return found
    unknown = (sheet.values.not_finite() | sheet.masks.keys()) - {index[goal]}
    if asked is None or not unknown.isdisjoint((*asked.read, *asked.question.nodes)):
        leading, keys = list(range(len(moved))), tuple(moved)
        solved = _Question(model, sheet, keys, goal).by_sheets(_variants(sheet, moved))
    else:
        leading = [k for k, key in enumerate(moved) if index[key] in asked.question.moved]
        some = {key: values for key, values in moved.items() if index[key] in asked.question.moved}
        question = _Question(model, sheet, tuple(some), goal)
        parts, rests = np.array_split(_variants(sheet, some), SIDE_BY_SIDE), _rests(asked, sheet)
        with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
            solved = np.concatenate(list(pool.map(lambda part: question.by_parts(_worker(asked, sheet), part, *rests), parts)))
    found[leading] = solved.reshape(len(leading), each, -1)
    return found


def _variants(sheet: Sheet, moved: Mapping[str, Sequence[float]]) -> Values:
    """Of every variant all givens, each by itself at each of its values and the others as they stand, (givens · values, givens)."""
    each = len(next(iter(moved.values())))
    variants = np.tile([float(sheet.value(key)[0]) for key in moved], (len(moved) * each, 1))
    for k, values in enumerate(moved.values()):
        variants[k * each : (k + 1) * each, k] = values
    return variants


def _worker(asked: Sweeping, sheet: Sheet) -> Worker:
    return Worker(asked, {i: sheet.values[i] for i in asked.read}, sheet.corners)


def _rests(asked: Sweeping, sheet: Sheet) -> tuple[float, Values]:
    """Where the loops begin: where the sheet came to rest, as curves that do not rise."""
    rests = [np.broadcast_to(sheet.values[t], (asked.layout.size[t],)) for t in asked.tears]
    powers = np.zeros((POWERS, sum(map(len, rests))))
    powers[-1] = np.concatenate([*rests, ()])
    return float(sheet.values[asked.question.moved[0]]), powers


@dataclass(frozen=True)
class _Question:
    model: Model
    sheet: Sheet
    keys: tuple[str, ...]
    goal: str

    def by_parts(self, worker: Worker, variants: Values, origin: float, powers: Values) -> Values:
        """The goal of every variant, (variants, corners), by the kernels but for those blocks in which something is not known."""
        if not len(variants):
            return np.zeros((0, len(self.sheet.corners.ids)))
        solved = worker.solve(variants, origin, powers)
        if solved is not None:
            return np.broadcast_to(solved, (len(variants), len(self.sheet.corners.ids)))
        if len(variants) <= LANES:
            return self.by_sheets(variants)
        middle = len(variants) // 2
        return np.concatenate([self.by_parts(worker, part, origin, powers) for part in (variants[:middle], variants[middle:])])

    def by_sheets(self, variants: Values) -> Values:
        """The same by whole sheets."""
        givens = {**self.sheet.inputs.givens, **dict(zip(self.keys, variants.T[:, :, None], strict=True))}
        inputs = Inputs(givens, self.sheet.inputs.choices, self.sheet.inputs.pins)
        solved = self.model.solve(inputs, self.sheet.corners, self.model.build_of(self.sheet))
        return np.broadcast_to(solved.value(self.goal), (len(variants), len(self.sheet.corners.ids)))
