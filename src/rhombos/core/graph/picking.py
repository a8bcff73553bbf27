"""Picks: every candidate is judged in its own state, the cheapest that meets every need is taken."""

from typing import Any

import numpy as np

from rhombos.core.graph.sheet import PickState, Reason
from rhombos.core.graph.wiring import WiredPick
from rhombos.core.parts.table import Candidates

REJECTED_FROM = 2


def decide(wired: WiredPick, candidates: Candidates, args: list[Any], before: PickState | None, pin: Any, outer: int) -> PickState:
    """Choose a candidate per variant.

    A candidate rejected from the second pass on (the first that sees a converged operation) stays rejected. When
    none meets every need, the one that comes nearest is taken and the pick does not fit: the rest is still solved.
    """
    trailing = max(1, *(np.ndim(a) for a in args)) if args else 1
    view = candidates.view(trailing)
    needs = wired.pick.fn(view, *args)
    margins = [_margin(need, len(candidates.rows)) for need in needs]
    worst = margins[0]
    for margin in margins[1:]:
        worst = np.fmin(worst, margin)
    shape = worst.shape
    passing = worst >= 1 - 1e-9
    rejected = np.zeros(shape, dtype=bool)
    if before is not None and before.rejected.shape == shape:
        rejected = before.rejected
    allowed = passing & ~rejected
    if pin is not None:
        row = candidates.table.row_of[pin.part]
        match = np.flatnonzero((candidates.rows == row) & (candidates.quantity == pin.quantity))
        at = int(match[0]) if match.size else int(np.flatnonzero(candidates.rows == row)[0])
        chosen = np.full(shape[1:], at, dtype=np.intp)
    else:
        any_allowed = allowed.any(axis=0)
        nearest = np.argmax(np.where(np.isnan(worst), -np.inf, worst), axis=0)
        chosen = np.where(any_allowed, np.argmax(allowed, axis=0), nearest)
    fits = np.take_along_axis(passing, np.expand_dims(chosen, 0), axis=0)[0]
    if outer >= REJECTED_FROM:
        rejected = rejected | ~passing
    return PickState(np.asarray(chosen), np.asarray(fits), rejected, needs, margins)


def _margin(need: Any, count: int) -> Any:
    """Capability over demand, the lowest over the corners, shaped (candidates, ...)."""
    demand = np.asarray(need.demand)
    with np.errstate(all="ignore"):
        ratio = need.capability / demand
        if not (demand > 0).all():
            ratio = np.where(demand > 0, ratio, np.where(np.isnan(demand), np.nan, np.inf))
    margin = ratio[..., 0] if ratio.shape[-1] == 1 else np.fmin.reduce(ratio, axis=-1)
    return margin if margin.shape[0] == count else np.broadcast_to(margin, (count, *margin.shape[1:]))


def runners_up(state: PickState, candidates: Candidates, most: int = 8) -> list[dict[str, Any]]:
    """Cheaper candidates with the number that rejected each, then the next dearer that would fit (single sheet)."""
    chosen = int(state.chosen.reshape(-1)[0])
    rows: list[dict[str, Any]] = []
    for index in range(len(candidates.rows)):
        if index == chosen or len(rows) >= most:
            continue
        reason = reason_for(state, index)
        if index > chosen and reason.margin < 1:
            continue
        code = candidates.table.codes[int(candidates.rows[index])]
        rows.append(
            {
                "part": code,
                "quantity": int(candidates.quantity[index]),
                "fits": reason.margin >= 1,
                "need": reason.name,
                "capability": reason.capability,
                "demand": reason.demand,
                "unit": reason.unit,
            }
        )
    return rows


def reason_for(state: PickState, index: int) -> Reason:
    """The need with the smallest margin for a candidate, at the corner where it binds (single sheet)."""
    ratios = [float(np.broadcast_to(m, (state.rejected.shape[0], *m.shape[1:]))[index].reshape(-1)[0]) for m in state.margins]
    k = int(np.nanargmin([r if np.isfinite(r) else 1e300 for r in ratios]))
    need = state.needs[k]
    shape = np.broadcast_shapes(np.shape(need.capability), np.shape(need.demand))
    capability = np.broadcast_to(need.capability, shape)
    demand = np.broadcast_to(need.demand, shape)
    row = index if shape[0] > 1 else 0
    with np.errstate(all="ignore"):
        ratio = (capability[row] / demand[row]).reshape(-1)
    at = int(np.nanargmin(np.where(np.isnan(ratio), np.inf, ratio)))
    return Reason(need.name, float(capability[row].reshape(-1)[at]), float(demand[row].reshape(-1)[at]), need.unit, ratios[k])
