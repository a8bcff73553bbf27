"""A line-up with its catalogue, put together once and solved many times."""

import math
from collections.abc import Callable
from functools import cached_property, lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.declare import Figure
from rhombos.core.graph.engine.layout import Layout
from rhombos.core.graph.engine.sweeping import Sweeping, between, moved_with
from rhombos.core.graph.errors import InputError
from rhombos.core.graph.inputs import Build, Inputs, Leaves, PartChoice
from rhombos.core.graph.places import LineUp
from rhombos.core.graph.plan import Plan
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.solve import Run
from rhombos.core.graph.wiring import Wiring
from rhombos.core.parts.table import Candidates, Catalogue
from rhombos.core.units import show, si_unit


class Model:
    """A line-up with its catalogue, put together once and solved many times."""

    def __init__(self, lineup: LineUp, catalogue: Catalogue) -> None:
        self.wiring = Wiring(lineup)
        self.catalogue = catalogue
        self.candidates = {p.index: Candidates(catalogue[p.pick.part_type], p.pick.quantities, p.pick.pieces) for p in self.wiring.picks}
        self.plan: Callable[[frozenset[int]], Plan] = lru_cache(maxsize=64)(self._plan)
        self._free: Plan | None = None
        self._free = self.plan(frozenset())
        self.layout: Callable[[frozenset[int], frozenset[int], int, bool], Layout] = lru_cache(maxsize=48)(self._layout)
        self.sweeping: Callable[[frozenset[int], int, tuple[int, ...], tuple[int, ...]], Sweeping | None] = lru_cache(maxsize=8)(self._sweeping)
        self._defaults = {n.index: float(n.figure.default) for n in self.wiring.nodes if n.figure.kind == "given" and isinstance(n.figure.default, float)}
        self.choices = {f"{place.name}.{name}": (place, choice) for place in lineup.places for name, choice in place.stage.choices.items()}
        self._options = {
            (key, option): [(self.wiring.index[f"{place.name}.{column}"], float(number)) for column, number in row.numbers.items()]
            for key, (place, choice) in self.choices.items()
            for option, row in choice.options.items()
        }

        self._chosen: Callable[[tuple[tuple[str, str], ...]], tuple[NDArray[np.intp], NDArray[np.float64]]] = lru_cache(maxsize=64)(self._choose)

    def _plan(self, pinned: frozenset[int]) -> Plan:
        return Plan(self.wiring, pinned, self._free)

    def _layout(self, pinned: frozenset[int], wide_leaves: frozenset[int], corners: int, across: bool) -> Layout:
        picks = {p.index: (p, self.candidates[p.index]) for p in self.wiring.picks}
        free = self.layout(frozenset(), wide_leaves - pinned, corners, across) if pinned and across else None
        return Layout(self.plan(pinned), wide_leaves, corners, picks, self._defaults, across=across, free=free)

    def _sweeping(self, pinned: frozenset[int], corners: int, moved: tuple[int, ...], goals: tuple[int, ...]) -> Sweeping | None:
        """Figures over one given, or with several that move, the build held, as a question for the kernels; None where it is none."""
        axes = frozenset(self.wiring.index[f"corner.{axis.name}"] for axis in self.wiring.lineup.corners.axes)
        layout = self.layout(pinned, axes if corners > 1 else frozenset(), corners, False)
        question = between(layout, moved, goals, self._built | pinned)
        return None if question is None else Sweeping(layout, question)

    @cached_property
    def _built(self) -> frozenset[int]:
        """What a build holds: decisions, picks, and what these tell of their parts."""
        published = {i for p in self.wiring.picks for _, i in p.published}
        return frozenset(n.index for n in self.wiring.nodes if n.figure.decided or n.index in published or n.figure.kind == "pick")

    def moved_with(self, key: str, pinned: frozenset[int]) -> list[str]:
        """The figures that hang on a given while the build is held, in the line-up's order."""
        moved = self.wiring.index[key]
        reached = moved_with(self.plan(pinned), (moved,), self._built | pinned) - {moved}
        return [n.key for n in self.wiring.nodes if n.index in reached and n.figure.kind in ("build", "operation")]

    def solve(self, inputs: Inputs, corners: CornerSet | None = None, build: Build | None = None) -> Sheet:
        """Solve at all corners of the line-up, or at those given. With `build` the design is held, without it every build figure is decided."""
        at = corners or self.wiring.lineup.corners
        with np.errstate(all="ignore"):
            sheet = Run(self, inputs, at, build).sheet()
            if build is None and inputs.pins and not self._operates(sheet):
                return self._by_way_of_the_free(sheet)
            return sheet

    def _by_way_of_the_free(self, lost: Sheet) -> Sheet:
        """A sheet whose pins have no operation with the first guesses at the rest, begun anew where it would rest without them.

        The first guesses know nothing of a pin: 220 turns of a secondary beside one of a primary that is still to be decided.
        """
        free = Run(self, Inputs(lost.inputs.givens, lost.inputs.choices), lost.corners, None, passing=True).sheet()
        if not self._operates(free):
            return lost
        begun = Run(self, lost.inputs, lost.corners, None, near=free).sheet()
        return begun if self._operates(begun) else lost

    def _operates(self, sheet: Sheet) -> bool:
        """Whether every loop has an operation at all corners that last (or the sheet is of many variants, which are left as they are)."""
        return sheet.values.variants is not None or bool(sheet.values.operates(sheet.corners.lasts).all())

    def build_of(self, sheet: Sheet) -> Build:
        """The build of a sheet, to be held for a curve, a tolerance study or a bench prediction."""
        picked = {i for p in self.wiring.picks for _, i in p.published}
        tears = [t for item in self.plan(sheet.pinned).items for t in item.tears]
        rest = {t: sheet.values[t] for t in tears if np.isfinite(sheet.values[t]).all()}
        return Build({n.index: sheet.values[n.index] for n in self.wiring.nodes if n.figure.decided or n.index in picked}, dict(sheet.picks), rest)

    def leaves(self, inputs: Inputs, corners: CornerSet) -> Leaves:
        """What is given beside the defaults: corners, givens, choices and pins; refuses what is not allowed, naming the field."""
        index = self.wiring.index
        values = {self._checked(key, value, "given"): value for key, value in inputs.givens.items()}
        for key, pin in inputs.pins.items():
            self._check_pin(key, pin.value)
            if not isinstance(pin.value, PartChoice):
                values[index[key]] = pin.value
        arrays = {index[f"corner.{axis.name}"]: corners.along(axis.name) for axis in self.wiring.lineup.corners.axes}
        for i in [i for i, value in values.items() if type(value) is not float]:
            array = np.asarray(values.pop(i), dtype=float)
            if array.size == 1 and array.ndim < 2:
                values[i] = float(array.reshape(-1)[0])
            else:
                arrays[i] = np.atleast_1d(array)
        nodes, numbers = self._chosen(tuple(inputs.choices.items()))
        plain = np.concatenate([nodes, np.array(list(values), dtype=np.intp)]), np.concatenate([numbers, list(values.values())])
        return Leaves(*plain, arrays, frozenset(index[key] for key in inputs.pins))

    def _choose(self, taken: tuple[tuple[str, str], ...]) -> tuple[NDArray[np.intp], NDArray[np.float64]]:
        """The numbers of every choice, by node: of the option taken, or the usual one; refuses what is not on offer."""
        choices, values = dict(taken), dict[int, float]()
        for key, (_, choice) in self.choices.items():
            option = choices.get(key, choice.default)
            if option not in choice.options:
                raise InputError(f"{key}: {option!r} is not one of {', '.join(choice.options)}", field=key, given=option, allowed=list(choice.options))
            values.update(self._options[key, option])
        for key in choices:
            if key not in self.choices:
                raise InputError(f"the line-up has no choice {key!r}", field=key, given=choices[key], allowed=sorted(self.choices))
        return np.array(list(values), dtype=np.intp), np.array(list(values.values()))

    def _checked(self, key: str, value: Any, kind: str) -> int:
        index = self.wiring.index.get(key)
        # Where the corners stand is no given: a design that set it would not be judged at its worst.
        if index is None or self.wiring.nodes[index].figure.kind != kind or self.wiring.nodes[index].place == "corner":
            raise InputError(f"the line-up has no {kind} {key!r}", field=key, given=_plain(value), allowed=f"a {kind} of the line-up")
        figure = self.wiring.nodes[index].figure
        low, high = figure.low, figure.high
        if _plainly_within(value, low, high):
            return index
        array = np.asarray(value, dtype=float)
        if not np.isfinite(array).all() or (low is not None and (array < low).any()) or (high is not None and (array > high).any()):
            raise InputError(
                f"{figure.title} ({key}): {_shown(value, figure.unit)} is outside {_range(low, high, figure.unit)}",
                field=key,
                given=_plain(value),
                allowed={"low": low, "high": high, "unit": si_unit(figure.unit)},
            )
        return index

    def _check_pin(self, key: str, value: Any) -> None:
        index = self.wiring.index.get(key)
        kinds = ("pick",) if isinstance(value, PartChoice) else ("build", "operation", "published")
        if index is None or self.wiring.nodes[index].figure.kind not in kinds:
            raise InputError(
                f"{key!r} cannot be pinned: it is not a figure of this line-up that is computed", field=key, given=_plain(value), allowed="a computed figure"
            )
        if isinstance(value, PartChoice):
            table = self.candidates[index].table
            if value.part not in table.row_of:
                raise InputError(f"{key}: the catalogue has no {table.type} {value.part!r}", field=key, given=value.part, allowed=list(table.codes))
        else:
            self._pin_allowed(key, self.wiring.nodes[index].figure, value)

    def _pin_allowed(self, key: str, figure: Figure, pinned: Any) -> None:
        """Refuse a pin that is no number, that no such thing can have, or that is no whole number of things."""
        low, high = figure.low, figure.high
        if low is None and (figure.whole or figure.unit in NEVER_NEGATIVE):
            low = 1.0 if figure.whole else 0.0
        if not figure.whole and _plainly_within(pinned, low, high):
            return
        value = np.asarray(pinned, dtype=float)
        wrong = not np.isfinite(value).all() or (low is not None and (value < low).any()) or (high is not None and (value > high).any())
        if wrong:
            allowed = {"low": low, "high": high, "unit": si_unit(figure.unit)}
            said = _shown(value, figure.unit)
            raise InputError(
                f"{figure.title} ({key}): a pin at {said} is outside {_range(low, high, figure.unit)}", field=key, given=value.tolist(), allowed=allowed
            )
        if figure.whole and (value != np.round(value)).any():
            raise InputError(
                f"{figure.title} ({key}): {_shown(value, figure.unit)} is no whole number", field=key, given=value.tolist(), allowed="a whole number"
            )


NEVER_NEGATIVE = frozenset(("m", "m^2", "m^3", "m^4", "kg", "Hz", "F", "H", "Ω", "s", "K_abs", "K/W", "J/K", "credit"))
"""Units of what has a size and no sense."""


def _plainly_within(value: Any, low: float | None, high: float | None) -> bool:
    """Whether it is one plain number, as nearly all are, within limits of which either may be missing."""
    return type(value) is float and (low is None or value >= low) and (high is None or value <= high) and math.isfinite(value)


def _plain(value: Any) -> Any:
    return value.tolist() if isinstance(value, np.ndarray) else value


def _shown(value: Any, unit: str) -> str:
    return ", ".join(show(float(v), unit) for v in np.asarray(value, dtype=float).reshape(-1)[:9])


def _range(low: float | None, high: float | None, unit: str) -> str:
    """The limits as people write them; either may be missing."""
    if low is not None and high is not None:
        return f"{show(low, unit)} to {show(high, unit)}"
    if low is not None:
        return f"what is allowed: at least {show(low, unit)}"
    return "the finite numbers" if high is None else f"what is allowed: at most {show(high, unit)}"
