"""What moves a figure most: each given upstream moved by a step, with the build held and sized anew."""

import math
from collections.abc import Mapping, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.declare import Figure
from rhombos.core.graph.model import Model
from rhombos.core.graph.nodes import Node
from rhombos.core.graph.one_at_a_time import SIDE_BY_SIDE, one_at_a_time
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.why import upstream

MOST = 6
"""So many are told, those first that move a figure most."""
DIGITS = 5
"""Changes that differ by less than so many digits behind the point are alike."""
NOTHING = 1e-6
"""Relative changes below this are none."""


@dataclass(frozen=True)
class Swing:
    """How a figure moves when a given is moved by a step, the build held and re-sized, and what jumped as it was re-sized.

    The step is up, or down where the given's range ends before: `step` says it with its sign. Changes are relative; those
    of temperatures are in kelvin, since a share of an absolute temperature says nothing (`kelvin`).
    """

    key: str
    title: str
    step: str
    held: float | None
    sized: float | None
    jumped: str
    kelvin: bool


def sensitivity(model: Model, sheet: Sheet, key: str, corner: str, most: int = MOST) -> list[Swing]:
    """Every given upstream moved by 10 % (whole numbers by one, temperatures by 10 K), held and re-sized."""
    at = sheet.corners.ids.index(corner)
    base = _number(sheet.number(key, at))
    givens = [n for n in upstream(sheet, key) if float(sheet.value(n.key)[0]) != 0]
    kelvin = sheet.node(key).figure.unit == "K_abs"
    if not givens or base is None or base == 0:
        return []
    scale = 1.0 if kelvin else base
    steps = {n.key: _stepped(n.figure, float(sheet.value(n.key)[0])) for n in givens}
    held: Values = (one_at_a_time(model, sheet, {k: (value,) for k, (value, _) in steps.items()}, key)[:, 0, at] - base) / scale
    chosen = _worth_sizing(held, most)
    sized = _sized(model, sheet, {givens[k].key: steps[givens[k].key][0] for k in chosen})
    wholes = [n for n in model.wiring.nodes if n.figure.decided and n.figure.whole]
    found = []
    for k, again in zip(chosen, sized, strict=True):
        node, reached = givens[k], _number(again.number(key, at))
        anew = None if reached is None else (reached - base) / scale
        change = float(held[k])
        if max(abs(x) for x in (_number(change) or 0.0, anew or 0.0)) >= NOTHING:
            rank = (_rank(change), -abs(anew or 0.0))
            swing = Swing(node.key, node.figure.title, steps[node.key][1], _number(change), anew, _jumps(model, sheet, again, wholes), kelvin)
            found.append((rank, swing))
    return [swing for _, swing in sorted(found, key=lambda f: f[0])][:most]


def _worth_sizing(held: Values, most: int) -> list[int]:
    """Which of the givens are sized anew, by their place.

    That costs a hundred times what holding costs: only what may be shown is sized anew, and that is what moves most with the
    build held; only if fewer than `most` move at all do the others count, by what they do to the build.
    """
    size = np.abs(np.nan_to_num(held))
    order: list[int] = np.argsort(-np.round(size, DIGITS), kind="stable").tolist()
    return order[:most] if (size >= NOTHING).sum() >= most else order


def _rank(change: float) -> float:
    return -round(abs(change), DIGITS) if math.isfinite(change) else 0.0


def _stepped(figure: Figure, value: float) -> tuple[float, str]:
    """A given a step up, or down where its range does not reach so far up, and the step in words."""
    by, words = (1.0, "1") if figure.whole else (10.0, "10 K") if figure.unit == "K_abs" else (0.1 * value, "10 %")
    low, high = -math.inf if figure.low is None else figure.low, math.inf if figure.high is None else figure.high
    if low <= value + by <= high:
        return value + by, f"+{words}"
    return min(max(value - by, low), high), f"−{words}"


def _sized(model: Model, sheet: Sheet, moved: Mapping[str, float]) -> Sequence[Sheet]:
    """Each given moved by itself, all decided anew: by itself, so that it is what comes of it if it is typed."""
    with ThreadPoolExecutor(SIDE_BY_SIDE) as pool:
        return list(pool.map(lambda step: model.solve(sheet.inputs.with_given(*step), sheet.corners), moved.items()))


def _jumps(model: Model, sheet: Sheet, sized: Sheet, wholes: Sequence[Node]) -> str:
    """The parts and whole numbers that a re-sized sheet decided otherwise, in words."""
    found = []
    for wired in model.wiring.picks:
        own, other, candidates = int(sheet.picks[wired.index].chosen), int(sized.picks[wired.index].chosen), model.candidates[wired.index]
        if other != own:
            found.append(f"{wired.pick.title.lower()} {candidates.table.codes[int(candidates.rows[other])]}")
    for node in wholes:
        if (number := float(sized.value(node.key)[0])) != float(sheet.value(node.key)[0]):
            found.append(f"{node.figure.title.lower()} {number:g}")
    return ", ".join(found[:3])


def _number(x: float) -> float | None:
    return float(x) if np.isfinite(x) else None
