"""Held curves: the same build at other corners, or with one figure pinned to many values."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.corners import HIGHEST, LOWEST, NOMINAL, Corner, CornerSet, corner
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet

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
