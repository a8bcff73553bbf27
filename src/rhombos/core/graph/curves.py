"""Held curves: the same build at other corners; and sweeps of a given in blocks that stay in the cache."""

import os
from collections.abc import Callable, Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, replace

import numpy as np
from scipy.interpolate import CubicSpline

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.corners import HIGHEST, LOWEST, NOMINAL, Corner, CornerSet, corner
from rhombos.core.graph.inputs import Build
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet

CHUNK = 128
"""Values that are solved together: more, and their numbers leave the cache; fewer, and Python between them takes the time."""
KNOTS, WORTH_WHILE = 33, 512
"""Values that are solved first, to begin the others near where they rest; and how many others that takes to pay."""
LEVELS = {"lowest source": LOWEST, "nominal source": NOMINAL, "highest source": HIGHEST}


@dataclass(frozen=True)
class Curve:
    """Figures over another quantity, the build held: x (SI), and one series a name; null where unknown."""

    x: tuple[float, ...]
    series: dict[str, tuple[float | None, ...]]


def over_load(model: Model, sheet: Sheet, key: str, count: int = 22) -> Curve:
    """A figure from 5 to 110 % load at the lowest, nominal and highest source, the build held."""
    loads = np.linspace(0.05, 1.10, count)
    points = tuple(corner(f"at_{k}_{i}", name, level, float(load)) for k, (name, level) in enumerate(LEVELS.items()) for i, load in enumerate(loads))
    values = _held(model, sheet, points).value(key)
    return Curve(tuple(loads.tolist()), {name: _plain(values[k * count : (k + 1) * count]) for k, name in enumerate(LEVELS)})


def over_source(model: Model, sheet: Sheet, x: str, keys: Sequence[str], count: int = 41, load: float = 1.0) -> Curve:
    """Figures over the source window at one load, the build held; `x` is the figure that is the source's voltage."""
    points = tuple(corner(f"level_{i}", "", float(level), load) for i, level in enumerate(np.linspace(LOWEST, HIGHEST, count)))
    held = _held(model, sheet, points)
    return Curve(tuple(held.value(x).tolist()), {key: _plain(np.broadcast_to(held.value(key), (count,))) for key in keys})


def _held(model: Model, sheet: Sheet, points: tuple[Corner, ...]) -> Sheet:
    corners = CornerSet(points, sheet.corners.axes)
    return model.solve(sheet.inputs, corners, model.build_of(sheet))


def _plain(values: Values) -> tuple[float | None, ...]:
    return tuple(float(v) if np.isfinite(v) else None for v in values)


def pinned(model: Model, sheet: Sheet, key: str, values: Values, goals: Sequence[str], corner: str, *, held: bool) -> dict[str, Values]:
    """Figures at a corner with a build figure pinned to each of many values, the rest of the build held or sized anew."""
    inputs = sheet.inputs.with_pin(key, np.asarray(values)[:, None], "looked at")
    solved = model.solve(inputs, sheet.corners, model.build_of(sheet) if held else None)
    at = sheet.corners.ids.index(corner)
    return {goal: np.broadcast_to(solved.value(goal), (len(values), len(sheet.corners.ids)))[:, at] for goal in goals}


def sweep(model: Model, sheet: Sheet, key: str, values: Values, goal: str, corners: CornerSet | None = None) -> Values:
    """`goal` at every corner for each value of a given, the build held, in chunks that stay in the cache."""
    at = corners or sheet.corners
    near = _near(model, sheet, key, values, at)

    def part(start: int) -> Values:
        block = values[start : start + CHUNK]
        solved = model.solve(sheet.inputs.with_given(key, block[:, None]), at, near(block))
        return np.broadcast_to(solved.value(goal), (len(block), len(at.ids)))

    # Machine code runs without the interpreter, so chunks run beside one another.
    with ThreadPoolExecutor(os.cpu_count()) as pool:
        return np.concatenate(list(pool.map(part, range(0, len(values), CHUNK))))


def _near(model: Model, sheet: Sheet, key: str, values: Values, at: CornerSet) -> Callable[[Values], Build]:
    """The build for a block of values, its loops begun near where they will come to rest: on a curve through some that have been solved.

    Where they rest hangs on where they begin no more than by the tolerance that all sheets have.
    """
    build = model.build_of(sheet)
    if len(values) < WORTH_WHILE or not np.all(np.diff(values) > 0):
        return lambda _: build
    knots = np.linspace(values[0], values[-1], KNOTS)
    solved = model.solve(sheet.inputs.with_given(key, knots[:, None]), at, build)
    tears = {t: solved.values[t] for item in model.plan(sheet.pinned).items for t in item.tears}
    if not all(np.isfinite(v).all() for v in tears.values()):
        return lambda _: build
    curves = {t: CubicSpline(knots, np.broadcast_to(v, (KNOTS, v.shape[-1]))) for t, v in tears.items()}
    return lambda block: replace(build, rest={t: curve(block) for t, curve in curves.items()})
