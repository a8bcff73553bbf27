"""Picks: every candidate is judged in its own state, the cheapest that meets every need is taken."""

import math
from collections.abc import Callable
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.numeric import Values
from rhombos.core.graph.picked import PickState, Reason
from rhombos.core.graph.wiring import WiredPick
from rhombos.core.parts.table import Candidates

REJECTED_FROM = 2


def judged(wired: WiredPick, candidates: Candidates, args: list[Any]) -> tuple[list[Any], list[Values]]:
    """The needs of all candidates for the given inputs, and every candidate's margin for each need."""
    trailing = max(1, *(np.ndim(a) for a in args)) if args else 1
    needs = wired.pick.fn(candidates.view(trailing), *args)
    return needs, [_margin(need, len(candidates.rows)) for need in needs]


def least(margins: list[Values]) -> Values:
    """Every candidate's smallest margin over its needs; unknown ones are skipped."""
    worst = margins[0]
    for margin in margins[1:]:
        worst = np.fmin(worst, margin)
    return worst


def decide(
    candidates: Candidates, worst: Values, judge: Callable[[], tuple[list[Any], list[Values]]], before: PickState | None, pin: Any, outer: int
) -> PickState:
    """Choose a candidate per variant by the smallest margins `worst`, (candidates, …); `judge` is kept for whoever asks why.

    A candidate rejected from the second pass on (the first that sees a converged operation) stays rejected. When
    none meets every need, the one that comes nearest is taken and the pick does not fit: the rest is still solved.
    """
    shape = worst.shape
    passing = worst >= 1 - 1e-9
    allowed = passing
    if before is not None and before.rejected.shape == shape:
        allowed = passing & ~before.rejected
    if pin is not None:
        row = candidates.table.row_of[pin.part]
        match = np.flatnonzero((candidates.rows == row) & (candidates.quantity == pin.quantity))
        at = int(match[0]) if match.size else int(np.flatnonzero(candidates.rows == row)[0])
        chosen = np.full(shape[1:], at, dtype=np.intp)
    else:
        chosen = allowed.argmax(axis=0)
        taken = _at(allowed, chosen)
        if not taken.all():
            nearest = np.argmax(np.where(np.isnan(worst), -np.inf, worst), axis=0)
            chosen = np.where(taken, chosen, nearest)
    fits = _at(passing, chosen)
    rejected = (
        ~allowed if outer >= REJECTED_FROM else (before.rejected if before is not None and before.rejected.shape == shape else np.zeros(shape, dtype=bool))
    )
    return PickState(np.asarray(chosen), np.asarray(fits), rejected, judge)


def _at(table: NDArray[np.bool_], chosen: Any) -> Any:
    """The entry of the chosen candidate, per variant."""
    return table[chosen] if table.ndim == 1 else np.take_along_axis(table, chosen[None], axis=0)[0]


def _margin(need: Any, count: int) -> Any:
    """Capability over demand, the lowest over the corners, shaped (candidates, ...)."""
    demand = np.asarray(need.demand)
    with np.errstate(all="ignore"):
        ratio = need.capability / demand
        if not (demand > 0).all():
            ratio = np.where(demand > 0, ratio, np.where(np.isnan(demand), np.nan, np.inf))
    margin = ratio[..., 0] if ratio.shape[-1] == 1 else np.fmin.reduce(ratio, axis=-1)
    return margin if margin.shape[0] == count else np.broadcast_to(margin, (count, *margin.shape[1:]))


def tightest(state: PickState) -> tuple[Any, Any]:
    """For every candidate of a single sheet the need with the smallest margin, and that margin."""
    count = state.rejected.shape[0]
    table = np.stack(
        [m.reshape(count, -1)[:, 0] if m.shape[0] == count else np.broadcast_to(m, (count, *m.shape[1:])).reshape(count, -1)[:, 0] for m in state.margins]
    )
    table[np.isnan(table)] = np.inf
    which = np.argmin(table, axis=0)
    return which, table[which, np.arange(count)]


def runners_up(state: PickState, candidates: Candidates, ranking: tuple[Any, Any], most: int = 8) -> list[dict[str, Any]]:
    """Cheaper candidates with the number that rejected each, then the next dearer that would fit (single sheet)."""
    chosen = int(state.chosen.reshape(-1)[0])
    margin = ranking[1]
    order = [i for i in range(len(candidates.rows)) if i != chosen and (i < chosen or margin[i] >= 1)][:most]
    rows: list[dict[str, Any]] = []
    for index in order:
        reason = reason_for(state, index, ranking)
        rows.append(
            {
                "part": candidates.table.codes[int(candidates.rows[index])],
                "quantity": int(candidates.quantity[index]),
                "fits": reason.margin >= 1,
                "need": reason.name,
                "capability": reason.capability,
                "demand": reason.demand,
                "unit": reason.unit,
            }
        )
    return rows


def reason_for(state: PickState, index: int, ranking: tuple[Any, Any]) -> Reason:
    """A candidate's tightest need (of `tightest`), with its numbers at the corner where it binds (single sheet)."""
    need = state.needs[int(ranking[0][index])]
    capability, demand = (_row_of(side, index, state.rejected.shape[0]) for side in (need.capability, need.demand))
    corners = range(max(len(capability), len(demand)))
    pairs = [(capability[k % len(capability)], demand[k % len(demand)]) for k in corners]
    here = min(pairs, key=_ratio)
    return Reason(need.name, *here, need.unit, float(ranking[1][index]))


def _ratio(pair: tuple[float, float]) -> float:
    """Capability over demand, for ordering: unknown and what asks for nothing come last."""
    capability, demand = pair
    ratio = capability / demand if demand else math.inf
    return math.inf if math.isnan(ratio) else ratio


def _row_of(side: Any, index: int, count: int) -> list[float]:
    """One candidate's numbers out of a need's side: over the corners, or one."""
    array = np.asarray(side, dtype=float)
    if array.ndim >= 2 and array.shape[0] == count:
        array = array[index]
    row: list[float] = array.reshape(-1).tolist()
    return row
