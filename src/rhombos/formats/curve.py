"""Figures over one given as lines of comma-separated values: a table for whatever draws or compares curves."""

import csv
from collections.abc import Iterator, Sequence
from io import StringIO
from itertools import chain

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.declare import Figure
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.model import Model
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.sweep import Swept, sweeps
from rhombos.core.units import si_unit

TOGETHER = 128
"""Designs that are sized side by side."""


def curve(model: Model, sheet: Sheet, key: str, values: Values, goals: Sequence[str], corners: Sequence[str], *, resized: bool = False) -> Iterator[str]:
    """The head and a line for every value (SI): the given, then each goal at each of the corners, a build figure once; empty where it is not known.

    The build is held, or with `resized` every value is a design of its own. Raises InputError.
    """
    figures = {key: movable(sheet, key), **{goal: _known(sheet, goal) for goal in goals}}
    if not goals:
        raise InputError(f"nothing hangs on {figures[key].title} ({key}) while the build is held", field=key)
    for corner in corners:
        if corner not in sheet.corners.ids:
            raise InputError(f"there is no corner {corner!r}; there are {', '.join(sheet.corners.ids)}", field=corner)
    at = [sheet.corners.ids.index(corner) for corner in corners]
    wide = {goal: np.atleast_1d(sheet.value(goal)).shape[-1] > 1 for goal in goals}
    columns = [(goal, k) for goal in goals for k in (at if wide[goal] else at[:1])]
    unit = {k: si_unit(figure.unit) for k, figure in figures.items()}
    chunks = _resized(model, sheet, key, values, goals) if resized else sweeps(model, sheet, key, values, goals)
    # What is out of range is refused before anything is told.
    begun = next(chunks)
    yield _line([f"{key} [{unit[key]}]", *(f"{goal} [{unit[goal]}]" + (f" {sheet.corners.ids[k]}" if wide[goal] else "") for goal, k in columns)])
    first = 0
    for chunk in chain((begun,), chunks):
        found = {goal: chunk[goal] for goal in goals}
        for row in range(len(chunk)):
            told = [float(found[goal][row, k]) for goal, k in columns]
            yield _line([_written(float(values[first + row])), *(_written(v) if np.isfinite(v) else "" for v in told)])
        first += len(chunk)


def _resized(model: Model, sheet: Sheet, key: str, values: Values, goals: Sequence[str]) -> Iterator[Swept]:
    for k in range(0, len(values), TOGETHER):
        some = values[k : k + TOGETHER]
        sized = model.solve(sheet.inputs.with_given(key, some[:, None]), sheet.corners)
        yield Swept(len(some), len(sheet.corners.ids), {goal: sized.value(goal) for goal in goals})


def movable(sheet: Sheet, key: str) -> Figure:
    """A given by its key. Raises InputError where it is none."""
    figure = _known(sheet, key)
    if figure.kind != "given":
        raise InputError(f"{figure.title} ({key}) is no given: only what is given can be moved", field=key)
    return figure


def _known(sheet: Sheet, key: str) -> Figure:
    if key not in sheet.wiring.index or sheet.node(key).figure.kind == "pick":
        raise InputError(f"{key!r} is no figure of this line-up: PLACE.FIGURE is expected", field=key)
    return sheet.node(key).figure


def _written(value: float) -> str:
    return f"{value:.9g}"


def _line(cells: Sequence[str]) -> str:
    out = StringIO()
    csv.writer(out, lineterminator="").writerow(cells)
    return out.getvalue()
