"""Goal seek: one given moved until a figure is what is wanted."""

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.errors import InputError, SolveError
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet

SCAN = 17
MOST_CHORDS, MOST_NARROWINGS = 9, 40
NEAR = 9
FINEST = 1e-5
SMOOTH = 1e-3
"""Between values that differ by less, relative, there is a jump if what is reached differs by more than SMOOTH."""
EXACT = 1e-7
"""A goal is reached that is missed by less than this share."""


def _column(sheet: Sheet, key: str, at: int, count: int) -> Values:
    value = sheet.value(key)
    column = value[..., 0 if value.shape[-1] == 1 else at]
    return np.broadcast_to(np.atleast_1d(column), (count,))


@dataclass(frozen=True)
class Side:
    """One side of a jump: a value of the moved input, and what it reaches."""

    value: float
    reaches: float


@dataclass(frozen=True)
class Sought:
    """What goal seek found: the value of the moved input and what it reaches, or both sides of a jump."""

    key: str
    value: float
    reaches: float
    exact: bool
    below: Side | None = None
    above: Side | None = None


def goal_seek(model: Model, inputs: Inputs, goal: str, corner: str, wanted: float, move: str) -> Sought:
    """Move one given so that `goal` equals `wanted` at a corner (re-sized).

    The crossing is looked for where the held build crosses, then near what stands, then over the whole range; of several the
    nearest, rather one without a change of parts. It is narrowed by regula falsi; at a jump (an integer, a part) both sides
    are given. Whole numbers are moved by ones.
    """
    sheet = model.solve(inputs)
    node = sheet.node(move)
    if node.figure.kind != "given":
        raise InputError(f"{move!r} is not a given: only givens are moved", field=move, given=move, allowed="a given")
    present = float(sheet.value(move)[0])
    low = node.figure.low if node.figure.low is not None else present / 10
    high = node.figure.high if node.figure.high is not None else present * 10
    hunt = _Hunt(model, sheet, goal, sheet.corners.ids.index(corner), wanted, move)
    near = np.clip(present * np.geomspace(0.5, 2.0, NEAR), low, high)
    whole_range = np.concatenate([_spread(low, high, present), [present]])
    for grid in (hunt.hint(whole_range), near, whole_range):
        bracket = hunt.crossing(grid)
        if bracket is not None:
            return hunt.narrowed(*bracket)
    return hunt.nearest()


class _Hunt:
    """Sheets solved for values of the moved given, one after the other, each once: what is missing to the goal, and the parts."""

    def __init__(self, model: Model, sheet: Sheet, goal: str, at: int, wanted: float, move: str) -> None:
        self.model, self.sheet, self.goal, self.at, self.wanted, self.move = model, sheet, goal, at, wanted, move
        self.present = float(sheet.value(move)[0])
        self.whole = sheet.node(move).figure.whole
        self._seen = {self.present: self._read(sheet)}

    def _read(self, sheet: Sheet) -> tuple[float, tuple[int, ...]]:
        reached = sheet.number(self.goal, self.at)
        return reached - self.wanted if np.isfinite(reached) else np.nan, tuple(int(state.chosen) for state in sheet.picks.values())

    def _look(self, value: float) -> tuple[float, tuple[int, ...]]:
        if value not in self._seen:
            self._seen[value] = self._read(self.model.solve(moved_to(self.model, self.sheet.inputs, self.move, value), self.sheet.corners))
        return self._seen[value]

    def missing(self, value: float) -> float:
        """How far the goal lies above what is wanted, re-sized."""
        return self._look(value)[0]

    def hint(self, grid: Values) -> Values:
        """Present value and the far end of the step in which the held build crosses."""
        grid = np.unique(grid)
        held = self.model.solve(moved_to(self.model, self.sheet.inputs, self.move, grid[:, None]), self.sheet.corners, self.model.build_of(self.sheet))
        side = np.sign(_column(held, self.goal, self.at, len(grid)) - self.wanted)
        ends = [max(grid[k], grid[k + 1], key=lambda x: abs(x - self.present)) for k in range(len(grid) - 1) if side[k] * side[k + 1] <= 0]
        return np.array([self.present, min(ends, key=lambda x: abs(x - self.present))]) if ends else np.array([])

    def crossing(self, grid: Values) -> tuple[float, float] | None:
        """Two neighbours on either side of what is wanted."""
        values: list[float] = np.unique(np.round(grid) if self.whole else grid).tolist()
        found = [(a, b) for a, b in pairwise(values) if self.missing(a) * self.missing(b) <= 0]

        def rank(ends: tuple[float, float]) -> tuple[bool, float]:
            return self._look(ends[0])[1] != self._look(ends[1])[1], abs((ends[0] + ends[1]) / 2 - self.present)

        return min(found, key=rank, default=None)

    def narrowed(self, a: float, b: float) -> Sought:
        """The crossing between `a` and `b`, by chords as long as they help, then by halves."""
        enough = EXACT * max(abs(self.wanted), 1e-300)
        fa, fb = self.missing(a), self.missing(b)
        for k in range(MOST_NARROWINGS):
            done = next((x for x in (a, b) if abs(self.missing(x)) <= enough), None)
            if done is not None:
                return Sought(self.move, done, self.wanted, True)
            if abs(b - a) <= (1.0 if self.whole else FINEST * abs(a)):
                break
            x = (a + b) / 2 if k >= MOST_CHORDS or fa == fb else a - fa * (b - a) / (fb - fa)
            x = float(np.clip(round(x), min(a, b) + 1, max(a, b) - 1)) if self.whole else x
            f = self.missing(x)
            if not np.isfinite(f):
                break
            # Illinois: an end that stays a second time counts half, so that both ends come nearer.
            a, fa = (b, fb) if f * fb < 0 else (a, fa / 2)
            b, fb = x, f
        left, right = (Side(x, self.missing(x) + self.wanted) for x in sorted((a, b)))
        if not self.whole and abs(right.reaches - left.reaches) <= SMOOTH * max(abs(self.wanted), 1e-300):
            share = (self.wanted - left.reaches) / (right.reaches - left.reaches)
            return Sought(self.move, left.value + share * (right.value - left.value), self.wanted, True)
        best = min(left, right, key=lambda side: abs(side.reaches - self.wanted))
        return Sought(self.move, best.value, best.reaches, False, left, right)

    def nearest(self) -> Sought:
        """Where nothing crosses, the value that comes nearest."""
        known = {value: missing for value, (missing, _) in self._seen.items() if np.isfinite(missing)}
        if not known:
            cause = self.sheet.why_missing(self.sheet.node(self.goal).index, self.at)
            raise SolveError(f"{self.goal} has no value wherever {self.move} is moved: {cause}", key=self.goal)
        value = min(known, key=lambda x: abs(known[x]))
        return Sought(self.move, value, known[value] + self.wanted, False)


def _spread(low: float, high: float, present: float) -> Values:
    """Points over the allowed range, dense around the present value."""
    if present > 0:
        low = max(low, present / 30)
        return np.clip(present * np.geomspace(low / present, max(high / present, 1.0001) if high < 30 * present else 30, SCAN), low, high)
    return np.linspace(low, high, SCAN)


def moved_to(model: Model, inputs: Inputs, key: str, value: Any) -> Inputs:
    """The inputs with a given at a value, or with what is computed pinned there."""
    kind = model.wiring.nodes[model.wiring.index[key]].figure.kind
    return inputs.with_given(key, value) if kind == "given" else inputs.with_pin(key, value, "remedy")
