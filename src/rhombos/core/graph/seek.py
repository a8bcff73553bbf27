"""What follows from solving many variants at once: sensitivity, goal seek, held curves."""

from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.declare import Figure
from rhombos.core.graph.errors import InputError, SolveError
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.one_at_a_time import one_at_a_time
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.why import upstream

SCAN = 17
SIDE_BY_SIDE = 2
"""So many threads: the kernels let go of Python's lock."""
NOTHING = 1e-6
"""Relative changes below this are none."""
MOST_CHORDS, MOST_NARROWINGS = 9, 40
NEAR = 9
FINEST = 1e-5
SMOOTH = 1e-3
"""Between values that differ by less, relative, there is a jump if what is reached differs by more than SMOOTH."""
EXACT = 1e-7
"""A goal is reached that is missed by less than this share."""


@dataclass(frozen=True)
class Swing:
    """How a figure moves when a given moves by a step down and up, held and re-sized, with what jumped.

    Changes are relative; those of temperatures are in kelvin, since a share of an absolute temperature says nothing (`kelvin`).
    """

    key: str
    title: str
    held_down: float | None
    held_up: float | None
    sized_down: float | None
    sized_up: float | None
    jumped: str
    step: str
    kelvin: bool


def sensitivity(model: Model, sheet: Sheet, key: str, corner: str, most: int = 8) -> list[Swing]:
    """Every given upstream moved down and up by 10 % (whole numbers by one, temperatures by 10 K), held as bars, re-sized as marks."""
    at = sheet.corners.ids.index(corner)
    base = _at(sheet.value(key), at)
    givens = [n for n in upstream(sheet, key) if float(np.atleast_1d(sheet.values[n.index])[0]) != 0]
    kelvin = sheet.node(key).figure.unit == "K_abs"
    if not givens or base is None or base == 0:
        return []
    scale = 1.0 if kelvin else base
    changes = _changes(one_at_a_time(model, sheet, {n.key: _ends(sheet, n.key) for n in givens}, key)[..., at], base, scale)
    size = np.nan_to_num(np.abs(changes)).max(axis=1)
    order = sorted(range(len(givens)), key=lambda k: -round(float(size[k]), 5))
    # Re-sizing costs a hundred times what holding costs: only what may be shown is sized anew, and that is what moves most
    # with the build held; only if fewer than `most` move at all do the others count, by what they do to the build. Each is
    # solved by itself: so it is what comes of it if it is typed.
    moving = sum(1 for k in order if size[k] >= NOTHING)
    chosen = order[:most] if moving >= most else order
    moved = [givens[k] for k in chosen]
    with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
        sized = list(pool.map(lambda inputs: model.solve(inputs, sheet.corners), [one for n in moved for one in _apart(sheet, n.key)]))
    reached = np.array([np.nan if (value := _at(s.value(key), at)) is None else value for s in sized])
    resized = _changes(reached, base, scale)
    found = []
    for j, node in enumerate(moved):
        (down, up), (sized_down, sized_up) = changes[chosen[j]], resized[j]
        weight = max((abs(x) for x in (down, up, sized_down, sized_up) if x == x), default=0.0)
        if weight >= NOTHING:
            rank = (-round(float(size[chosen[j]]), 5), -float(np.nan_to_num(np.abs(resized[j])).max()))
            words = _jumps(model, sheet, sized[2 * j : 2 * j + 2])
            found.append(
                (
                    rank,
                    Swing(node.key, node.figure.title, _number(down), _number(up), _number(sized_down), _number(sized_up), words, _step(node.figure), kelvin),
                )
            )
    return [swing for _, swing in sorted(found, key=lambda f: f[0])][:most]


def _changes(reached: Values, base: float, scale: float) -> Values:
    """Changes of a figure over `scale`, (givens, down and up)."""
    changes: Values = ((reached - base) / scale).reshape(-1, 2)
    return changes


def _step(figure: Figure) -> str:
    """By how much a given is moved, in words."""
    return "1" if figure.whole else "10 K" if figure.unit == "K_abs" else "10 %"


def _both(figure: Figure, value: float) -> tuple[float, float]:
    """The value a step down and a step up."""
    by = 1.0 if figure.whole else 10.0 if figure.unit == "K_abs" else 0.1 * value
    return value - by, value + by


def _ends(sheet: Sheet, key: str) -> tuple[float, float]:
    """A given a step down and a step up, within its range."""
    figure = sheet.node(key).figure
    low, high = (float(np.clip(x, figure.low, figure.high)) for x in _both(figure, float(sheet.value(key)[0])))
    return low, high


def _apart(sheet: Sheet, key: str) -> list[Inputs]:
    """The same as inputs, one by one."""
    return [sheet.inputs.with_given(key, value) for value in _ends(sheet, key)]


def _jumps(model: Model, sheet: Sheet, sized: Sequence[Sheet]) -> str:
    """The parts and whole numbers that re-sized sheets decided otherwise, in words."""
    found = []
    for wired in model.wiring.picks:
        own, candidates = int(sheet.picks[wired.index].chosen), model.candidates[wired.index]
        other = next((chosen for s in sized if (chosen := int(s.picks[wired.index].chosen)) != own), None)
        if other is not None:
            found.append(f"{wired.pick.title.lower()} {candidates.table.codes[int(candidates.rows[other])]}")
    for node in model.wiring.nodes:
        if node.figure.kind == "build" and node.figure.whole:
            stands = float(sheet.value(node.key)[0])
            number = next((value for s in sized if (value := float(s.value(node.key)[0])) != stands), None)
            if number is not None:
                found.append(f"{node.figure.title.lower()} {number:g}")
    return ", ".join(found[:3])


def _at(value: Values, at: int) -> float | None:
    flat = value.reshape(-1)
    number = float(flat[0 if flat.size == 1 else at])
    return number if np.isfinite(number) else None


def _column(sheet: Sheet, key: str, at: int, count: int) -> Values:
    value = sheet.value(key)
    column = value[..., 0 if value.shape[-1] == 1 else at]
    return np.broadcast_to(np.atleast_1d(column), (count,))


def _number(x: float) -> float | None:
    return float(x) if np.isfinite(x) else None


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
        reached = _at(sheet.value(self.goal), self.at)
        return np.nan if reached is None else reached - self.wanted, tuple(int(state.chosen) for state in sheet.picks.values())

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
