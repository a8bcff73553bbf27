"""Picks: every candidate is judged in its own state, the cheapest that meets every need is taken."""

from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import Values, applied, context, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.judging import AND_STAY, CLEAR_MISSES, NOTHING
from rhombos.core.graph.engine.told import TURNED
from rhombos.core.graph.nodes import WiredPick
from rhombos.core.graph.picked import CLEARLY, FITS, PickState, Reason, ratio
from rhombos.core.graph.plan import Plan
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.solvable import Solvable
from rhombos.core.parts.table import Candidates


@dataclass(frozen=True)
class Asked:
    """A need with its numbers, shaped (candidates, ..., corners): `capability` over `demand` must reach `level`."""

    title: str
    capability: Any
    demand: Any
    level: Any
    unit: str


class Judge:
    """The needs of any candidates of a pick, their cone worked out by NumPy.

    `args` are the values of the cone's inputs, `held` what stands of its decisions with a safe side, not a number where none is kept.
    """

    def __init__(self, wired: WiredPick, plan: Plan, candidates: Candidates, corners: CornerSet, args: Sequence[Any], held: Sequence[Any]) -> None:
        self.held = held
        self.wired = wired
        self.plan = plan
        self.cone = plan.cones[wired.index]
        self.candidates = candidates
        self.corners = corners
        self.args = args

    def __call__(self, rows: NDArray[np.intp]) -> list[Asked]:
        doubtful = context.doubtful
        with np.errstate(all="ignore"), seen(self.corners):
            # What a candidate runs into is a number to judge it by, not yet a verdict.
            context.iterating, context.trying = False, True
            try:
                told = self._asked(self._worked_out(rows))
            finally:
                context.trying = False
        context.doubtful = doubtful
        return told

    def _worked_out(self, rows: NDArray[np.intp]) -> dict[int, Any]:
        plan, given = self.plan, dict(zip(self.cone.inputs, self.args, strict=True))
        trailing = max(1, *(np.ndim(a) for a in given.values())) if given else 1
        part = self.candidates.view(trailing, rows)
        given |= {i: getattr(part, column) for column, i in self.wired.published if self.candidates.has(column)}
        made: dict[int, Any] = {}
        held = dict(zip(self.cone.held, self.held, strict=True))
        for i in self.cone.nodes:
            fn, figure = plan.functions[i], plan.wiring.nodes[i].figure
            assert fn is not None
            # What a loop starts from is read as it stood.
            made[i] = applied(fn, (given[a] if a in given else made[a] for a in plan.args[i]))
            if i in held:
                made[i] = (np.fmax if figure.safe == "up" else np.fmin)(made[i], held[i])
        return given | made

    def _asked(self, values: dict[int, Any]) -> list[Asked]:
        nodes = self.plan.wiring.nodes
        return [
            Asked(n.title, values[n.capability], values[n.demand], n.level if isinstance(n.level, float) else values[n.level], nodes[n.demand].figure.unit)
            for n in self.wired.needs
        ]


def judge_of(model: Solvable, sheet: Sheet, index: int) -> Judge:
    """The judge of a pick, for whoever asks why: candidates in their own state, all else as the sheet stands."""
    plan = model.plan(sheet.pinned)
    wired = next(p for p in model.wiring.picks if p.index == index)
    inputs, held = ([sheet.values[a] for a in nodes] for nodes in (plan.cones[index].inputs, plan.cones[index].held))
    return Judge(wired, plan, model.candidates[index], sheet.corners, inputs, held)


def least(needs: list[Asked], count: int) -> Values:
    """Every candidate's smallest margin over its needs; unknown ones are skipped."""
    worst = _margin(needs[0], count)
    for need in needs[1:]:
        worst = np.fmin(worst, _margin(need, count))
    return worst


def missed(needs: list[Asked], count: int) -> Values:
    """How many needs every candidate misses; an unknown margin counts as missed."""
    counted: Values = np.sum(np.broadcast_arrays(*(~(_margin(need, count) >= FITS) for need in needs)), axis=0, dtype=float)
    return counted


def decide(candidates: Candidates, judge: Judge, before: PickState | None, pinned: int | None, remember: int) -> PickState:
    """Choose a candidate per variant, all being judged by NumPy; `engine.judging` does the same in machine code.

    Once a choice has turned back, candidates that miss are remembered as rejected, as far as the pass asks for. When none meets every
    need, the one that misses fewest is taken and the pick does not fit: the rest is still solved. From where it is to stay, that is the one it was.
    """
    needs, count = judge(candidates.all), len(candidates.rows)
    full = worst = least(needs, count)
    if judge.cone.first:
        first = least([needs[k] for k in judge.cone.first], count)
        worst = np.where(first < FITS, first, full)
    passing = worst >= FITS
    known = before is not None and before.rejected.shape == worst.shape
    former, course = (before.rejected, before.course) if known and before is not None else (np.zeros_like(passing), np.zeros(worst.shape[1:], dtype=np.int64))
    turned = np.abs(course) > 1 + TURNED
    allowed = passing & ~former
    if pinned is not None:
        chosen = np.full(worst.shape[1:], pinned, dtype=np.intp)
    else:
        chosen = np.asarray(allowed.argmax(axis=0))
        taken = _at(allowed, chosen)
        if not taken.all():
            closest = nearest(missed(needs, count), full)
            otherwise = np.where(turned & (remember == AND_STAY), before.chosen, closest) if before is not None else closest
            chosen = np.where(taken, chosen, otherwise)
    # An unknown margin may not be taken, and is no reason to reject for good.
    limit = {NOTHING: -np.inf, CLEAR_MISSES: CLEARLY}.get(remember, FITS)
    rejected = former | ((worst < limit) & turned)
    if before is not None and remember != NOTHING:
        way = np.sign(chosen - before.chosen)
        back = (way * course < 0) | (course == 0)
        course = np.where(way == 0, course, way * (np.abs(course) + back))
    return PickState(chosen, np.asarray(_at(passing, chosen)), rejected, course)


def place_of(candidates: Candidates, pin: Any) -> int:
    """Which candidate a pin names: the part in its quantity, else the part."""
    row = candidates.table.row_of[pin.part]
    found = candidates.places.get((row, pin.quantity))
    return int(np.flatnonzero(candidates.rows == row)[0]) if found is None else found


def nearest(missed: Values, worst: Values) -> NDArray[np.intp]:
    """Where nothing fits: the fewest needs missed, then the best worst margin, then the price (candidates stand in its order)."""
    left = 1 - np.clip(np.where(np.isnan(worst), 0.0, worst), 0.0, 1.0)
    found: NDArray[np.intp] = np.argmin(missed + left / 2, axis=0)
    return found


def _at(table: NDArray[np.bool_], chosen: Any) -> Any:
    """The entry of the chosen candidate, per variant."""
    return table[chosen] if table.ndim == 1 else np.take_along_axis(table, chosen[None], axis=0)[0]


def _margin(need: Asked, count: int) -> Values:
    """Capability over demand, the lowest over the corners, shaped (candidates, ...)."""
    with np.errstate(all="ignore"):
        table = np.atleast_1d(ratio(need.capability, np.asarray(need.demand)) / need.level)
    # A need with both sides pinned is the same number for every candidate.
    margin = np.atleast_1d(table[..., 0] if table.shape[-1] == 1 else np.fmin.reduce(table, axis=-1))
    return margin if margin.shape[0] == count else np.broadcast_to(margin, (count, *margin.shape[1:]))


NEAR_MISSES, FITTING = 5, 3


def ranked(judge: Judge, chosen: int) -> list[int]:
    """Of a single sheet the chosen candidate, then those that came nearest to fitting, then the cheapest others that would fit.

    Candidates stand in order of price, so the first that fit are the cheapest.
    """
    everyone = judge.candidates.all
    margins = least(judge(everyone), len(everyone)).reshape(len(everyone), -1)[:, 0]
    others = [i for i in range(len(margins)) if i != chosen]
    missed = sorted((i for i in others if margins[i] < FITS), key=lambda i: -margins[i])
    fitting = [i for i in others if margins[i] >= FITS]
    return [chosen, *missed[:NEAR_MISSES], *fitting[:FITTING]]


def reasons(judge: Judge, rows: Sequence[int]) -> list[Reason]:
    """For candidates of a single sheet their tightest need, with its numbers at the corner where it binds."""
    needs = judge(np.array(rows, dtype=np.intp))
    sides = [[_table(side) for side in (need.capability, need.demand, need.level)] for need in needs]
    corners = max(table.shape[1] for three in sides for table in three)
    numbers = np.array([[np.broadcast_to(table, (len(rows), corners)) for table in three] for three in sides])
    capability, demand, level = numbers[:, 0], numbers[:, 1], numbers[:, 2]
    with np.errstate(all="ignore"):
        margins = ratio(capability, demand) / level
    margins[np.isnan(margins)] = np.inf
    found = []
    for k in range(len(rows)):
        which, at = divmod(int(np.argmin(margins[:, k])), corners)
        need = needs[which]
        has, asks, times = (float(side[which, k, at]) for side in (capability, demand, level))
        found.append(Reason(need.title, has, asks, times, need.unit, float(margins[which, k, at])))
    return found


def _table(side: Any) -> Values:
    """A side of a need as (candidates or 1, corners or 1)."""
    array = np.asarray(side, dtype=float)
    return array if array.ndim > 1 else array.reshape(1, -1)


def runners_up(judge: Judge, chosen: int) -> list[dict[str, Any]]:
    """The chosen part of a single sheet, then the nearest misses with the number that rejected each, then others that would fit."""
    order, candidates = ranked(judge, chosen), judge.candidates
    return [
        {
            "part": candidates.table.codes[int(candidates.rows[index])],
            "quantity": int(candidates.quantity[index]),
            "price": float(candidates.columns["price"][index] * candidates.quantity[index]) * judge.wired.pick.pieces,
            "fits": reason.margin >= 1,
            "need": reason.name,
            "capability": reason.capability,
            "demand": reason.demand,
            "level": reason.level,
            "unit": reason.unit,
            "margin": reason.margin,
        }
        for index, reason in zip(order, reasons(judge, order), strict=True)
    ]
