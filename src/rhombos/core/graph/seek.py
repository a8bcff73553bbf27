"""What follows from solving many variants at once: sensitivity, goal seek, remedies, held curves."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.declare import Move
from rhombos.core.graph.errors import InputError, SolveError, WiringError
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import FAILS, HOLDS, TIGHT
from rhombos.core.graph.why import upstream
from rhombos.core.units import show

SCAN = 33
NOTHING = 1e-6
"""Relative changes below this are none."""
ROUNDS = 4


@dataclass(frozen=True)
class Swing:
    """How a figure moves when a given moves by ±10 %: relative changes, held and re-sized, with what jumped."""

    key: str
    title: str
    held_down: float | None
    held_up: float | None
    sized_down: float | None
    sized_up: float | None
    jumped: str


def sensitivity(model: Model, sheet: Sheet, key: str, corner: str, most: int = 8) -> list[Swing]:
    """Every given upstream moved by 10 % down and up, all as one array: held as bars, re-sized as marks."""
    at = sheet.corners.ids.index(corner)
    base = _at(sheet.value(key), at)
    givens = [n for n in upstream(sheet, key) if float(np.atleast_1d(sheet.values[n.index])[0]) != 0]
    if not givens or base is None or base == 0:
        return []
    held = model.solve(_moved(sheet, [n.key for n in givens]), sheet.corners, model.build_of(sheet))
    changes = _changes(held, key, at, base, len(givens))
    size = np.nan_to_num(np.abs(changes)).max(axis=1)
    order = sorted(range(len(givens)), key=lambda k: -round(float(size[k]), 5))
    # Re-sizing costs a hundred times what holding costs: only what may be shown is sized anew, and that is what moves most
    # with the build held; only if fewer than `most` move at all do the others count, by what they do to the build.
    moving = sum(1 for k in order if size[k] >= NOTHING)
    chosen = order[:most] if moving >= most else order
    moved = [givens[k] for k in chosen]
    sized = model.solve(_moved(sheet, [n.key for n in moved]), sheet.corners)
    resized = _changes(sized, key, at, base, len(moved))
    found = []
    for j, node in enumerate(moved):
        (down, up), (sized_down, sized_up) = changes[chosen[j]], resized[j]
        weight = max((abs(x) for x in (down, up, sized_down, sized_up) if x == x), default=0.0)
        if weight >= NOTHING:
            rank = (-round(float(size[chosen[j]]), 5), -float(np.nan_to_num(np.abs(resized[j])).max()))
            words = _jumps(model, sheet, sized, (2 * j, 2 * j + 1))
            found.append((rank, Swing(node.key, node.figure.title, _number(down), _number(up), _number(sized_down), _number(sized_up), words)))
    return [swing for _, swing in sorted(found, key=lambda f: f[0])][:most]


def _changes(moved: Sheet, key: str, at: int, base: float, count: int) -> Values:
    """Relative changes of a figure, (givens, down and up)."""
    return ((_column(moved, key, at, 2 * count) - base) / base).reshape(count, 2)


def _moved(sheet: Sheet, keys: Sequence[str]) -> Inputs:
    """Two variants for each key: the given at 0.9 and at 1.1 of its value, within its range; absolute temperatures by ±10 K."""
    givens = dict(sheet.inputs.givens)
    for k, key in enumerate(keys):
        figure = sheet.node(key).figure
        value = float(sheet.value(key)[0])
        column = np.full((2 * len(keys), 1), value)
        column[2 * k], column[2 * k + 1] = (value - 10, value + 10) if figure.unit == "K_abs" else (value * 0.9, value * 1.1)
        givens[key] = np.clip(column, figure.low, figure.high)
    return Inputs(givens, sheet.inputs.choices, sheet.inputs.pins)


def _jumps(model: Model, sheet: Sheet, sized: Sheet, rows: Sequence[int]) -> str:
    """The parts and whole numbers that a re-sized variant decided otherwise, in words."""
    found = []
    for wired in model.wiring.picks:
        own, other = sheet.picks[wired.index], sized.picks[wired.index]
        chosen = np.broadcast_to(other.chosen, (max(rows) + 1,)) if other.chosen.ndim == 0 else other.chosen
        for row in rows:
            if int(chosen[row]) != int(own.chosen):
                candidates = model.candidates[wired.index]
                found.append(f"{wired.pick.title.lower()} {candidates.table.codes[int(candidates.rows[int(chosen[row])])]}")
                break
    for node in model.wiring.nodes:
        if node.figure.kind == "build" and node.figure.whole:
            other_value = np.broadcast_to(sized.value(node.key), (max(rows) + 1, 1)) if sized.value(node.key).ndim == 1 else sized.value(node.key)
            for row in rows:
                if float(other_value[row, 0]) != float(sheet.value(node.key)[0]):
                    found.append(f"{node.figure.title.lower()} {float(other_value[row, 0]):g}")
                    break
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

    The range is scanned as one array, the crossing nearest the present value is narrowed by further scans; at a jump
    (an integer, a part) both sides are given.
    """
    sheet = model.solve(inputs)
    node = sheet.node(move)
    if node.figure.kind != "given":
        raise InputError(f"{move!r} is not a given: only givens are moved", field=move, given=move, allowed="a given")
    at, node_of_goal = sheet.corners.ids.index(corner), sheet.node(goal).index
    present = float(sheet.value(move)[0])
    low = node.figure.low if node.figure.low is not None else present / 10
    high = node.figure.high if node.figure.high is not None else present * 10
    grid = np.unique(np.concatenate([_spread(low, high, present), [present]]))
    for _ in range(ROUNDS):
        values = scan(model, inputs, move, grid, goal, at)
        side = np.sign(values - wanted)
        crossings = [k for k in range(len(grid) - 1) if np.isfinite(values[k]) and np.isfinite(values[k + 1]) and side[k] != side[k + 1]]
        if not np.isfinite(values).any():
            raise SolveError(f"{goal} has no value wherever {move} is moved: {sheet.why_missing(node_of_goal, at)}", key=goal)
        if not crossings:
            nearest = int(np.nanargmin(np.abs(values - wanted)))
            return Sought(move, float(grid[nearest]), float(values[nearest]), False)
        k = min(crossings, key=lambda i: abs((grid[i] + grid[i + 1]) / 2 - present))
        left, right = (float(grid[k]), float(values[k])), (float(grid[k + 1]), float(values[k + 1]))
        grid = np.linspace(grid[k], grid[k + 1], SCAN)
    gap = abs(right[1] - left[1]) / max(abs(wanted), 1e-300)
    best = min(left, right, key=lambda p: abs(p[1] - wanted))
    if gap > 1e-3:
        return Sought(move, best[0], best[1], False, Side(*left), Side(*right))
    share = 0.0 if right[1] == left[1] else (wanted - left[1]) / (right[1] - left[1])
    return Sought(move, left[0] + share * (right[0] - left[0]), wanted, True)


def _spread(low: float, high: float, present: float) -> Values:
    """Points over the allowed range, dense around the present value."""
    if present > 0:
        low = max(low, present / 30)
        return np.clip(present * np.geomspace(low / present, max(high / present, 1.0001) if high < 30 * present else 30, SCAN), low, high)
    return np.linspace(low, high, SCAN)


def scan(model: Model, inputs: Inputs, move: str, grid: Values, goal: str, at: int) -> Values:
    """`goal` at a corner for every value of `move`, re-sized, as one array (or a pin, where `move` is computed)."""
    sheet = model.solve(_with(model, inputs, move, grid[:, None]))
    return _column(sheet, goal, at, len(grid)).copy()


def _with(model: Model, inputs: Inputs, key: str, value: Any) -> Inputs:
    kind = model.wiring.nodes[model.wiring.index[key]].figure.kind
    return inputs.with_given(key, value) if kind == "given" else inputs.with_pin(key, value, "remedy")


@dataclass(frozen=True)
class Remedy:
    """A move that makes a check hold: which input, from what to what, and what else it would break; whether it is the designer's to make."""

    check: str
    key: str
    title: str
    kind: str
    before: float
    after: float
    sentence: str
    breaks: tuple[str, ...]
    offered: bool


def remedies(model: Model, sheet: Sheet, place: str | None = None, most: int = 3) -> list[Remedy]:
    """For each tight or failing check (of a place, or of all) the moves that make it hold, each tried re-solved; what else then fails is named."""
    verdicts = sheet.judge()
    found: list[Remedy] = []
    for row, wired in enumerate(model.wiring.checks):
        if place in (None, wired.place) and int(verdicts.code[row].min()) in (FAILS, TIGHT):
            mine = [r for move in wired.check.remedies if (r := _try(model, sheet, row, move)) is not None]
            found.extend(sorted(mine, key=lambda r: (not r.offered, len(r.breaks)))[:most])
    return found


def _try(model: Model, sheet: Sheet, row: int, move: Move) -> Remedy | None:
    figure, to, reach = move.figure, move.to, move.reach
    place = sheet.wiring.lineup.place(sheet.wiring.checks[row].place)
    try:
        index = sheet.wiring.resolve(place, figure)
    except WiringError:  # a remedy of a shared template may name what this line-up has not
        return None
    node = sheet.wiring.nodes[index]
    if index in sheet.pinned and node.figure.kind != "given":
        free = Inputs(sheet.inputs.givens, sheet.inputs.choices, {k: p for k, p in sheet.inputs.pins.items() if k != node.key})
    else:
        free = sheet.inputs
    present = float(sheet.value(node.key)[0])
    grid = _steps(present, to, reach, whole=node.figure.whole and node.figure.kind != "given", low=node.figure.low, high=node.figure.high)
    if grid.size == 0:
        return None
    tried = model.solve(_with(model, free, node.key, grid[:, None]), sheet.corners)
    judged = tried.judge()
    code = judged.code if judged.code.ndim == 3 else np.broadcast_to(judged.code[:, None, :], (judged.code.shape[0], len(grid), judged.code.shape[-1]))
    holds = code[row].min(axis=-1) >= HOLDS
    if not holds.any():
        return None
    k = int(np.argmax(holds))
    now = sheet.judge().code.min(axis=-1)
    worse = tuple(c.check.title for i, c in enumerate(sheet.wiring.checks) if code[i, k].min() == FAILS and now[i] != FAILS)
    unit, after = node.figure.unit, float(grid[k])
    verb = "Raise" if to == "up" else "Lower"
    return Remedy(
        sheet.wiring.checks[row].key,
        node.key,
        node.figure.title,
        node.figure.kind,
        present,
        after,
        f"{verb} {node.figure.title[0].lower() + node.figure.title[1:]} from {show(present, unit, 3)} to {show(after, unit, 3)}",
        worse,
        move.kind == "setting",
    )


def _steps(present: float, to: str, reach: float, *, whole: bool, low: float | None, high: float | None) -> Values:
    if whole:
        top = int(np.ceil(abs(present) * (reach - 1))) or 1
        grid = present + np.arange(1, min(top, 24) + 1) * (1 if to == "up" else -1)
    elif present == 0:
        return np.array([])
    else:
        factors = np.geomspace(1.0, reach, 25)[1:]
        grid = present * factors if to == "up" else present / factors
        grid = np.array([float(f"{g:.3g}") for g in grid])
    keep = (grid >= (low if low is not None else -np.inf)) & (grid <= (high if high is not None else np.inf)) & (grid > 0 if whole else True)
    grid = grid[keep]
    return np.array(sorted(set(grid.tolist()), reverse=to == "down"))
