"""Solving a line-up: inner, the physical loops with the build held; outer, the build decided anew until it rests.

Every solve starts from declared starting values, never from an earlier sheet, so that the same inputs give the
same sheet whatever was typed before.
"""

from collections.abc import Mapping
from dataclasses import dataclass, field
from functools import lru_cache
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.corners import STANDARD, CornerSet
from rhombos.core.graph.errors import InputError, SolveError
from rhombos.core.graph.loops import TOLERANCE, iterate
from rhombos.core.graph.numeric import Cause, Values, context
from rhombos.core.graph.picking import decide
from rhombos.core.graph.plan import Plan
from rhombos.core.graph.sheet import PickState, Sheet
from rhombos.core.graph.wiring import LineUp, Wiring
from rhombos.core.parts.table import Candidates, Catalogue

MOST_OUTER_PASSES = 20
SAFE_SIDE_FROM = 4
SAME = 1e-7
ROUGH = 1e-6


@dataclass(frozen=True)
class PartChoice:
    """A pinned pick: this part, this many in parallel."""

    part: str
    quantity: int = 1


@dataclass(frozen=True)
class Pin:
    """A figure held at a value (one, or one per corner), or a pick held at a part, with the reason."""

    value: Any
    reason: str = ""


@dataclass(frozen=True)
class Inputs:
    """What a person decides: givens, choices and pins by `place.name`. An array (variants, 1) makes a sweep."""

    givens: Mapping[str, Any] = field(default_factory=dict)
    choices: Mapping[str, str] = field(default_factory=dict)
    pins: Mapping[str, Pin] = field(default_factory=dict)

    def with_given(self, key: str, value: Any) -> "Inputs":
        return Inputs({**self.givens, key: value}, self.choices, self.pins)

    def with_pin(self, key: str, value: Any, reason: str = "") -> "Inputs":
        return Inputs(self.givens, self.choices, {**self.pins, key: Pin(value, reason)})


@dataclass(frozen=True)
class Build:
    """Everything a sheet decided: values of build figures and published columns by node."""

    values: Mapping[int, Any]
    picks: Mapping[int, PickState]


class Model:
    """A line-up with its catalogue, put together once and solved many times."""

    def __init__(self, lineup: LineUp, catalogue: Catalogue) -> None:
        self.wiring = Wiring(lineup)
        self.catalogue = catalogue
        self.candidates = {p.index: Candidates(catalogue[p.pick.part_type], p.pick.quantities, p.pick.pieces) for p in self.wiring.picks}
        self.plan = lru_cache(maxsize=64)(self._plan)
        self.plan(frozenset())
        self._defaults = {n.index: float(n.figure.default) for n in self.wiring.nodes if n.figure.kind == "given" and isinstance(n.figure.default, float)}
        self.choices = {f"{place.name}.{name}": (place, choice) for place in lineup.places for name, choice in place.stage.choices.items()}
        self._options = {(key, option): [(self.wiring.index[f"{place.name}.{column}"], float(number)) for column, number in row.numbers.items()]
                         for key, (place, choice) in self.choices.items() for option, row in choice.options.items()}

    def _plan(self, pinned: frozenset[int]) -> Plan:
        return Plan(self.wiring, pinned)

    def solve(self, inputs: Inputs, corners: CornerSet = STANDARD, build: Build | None = None) -> Sheet:
        """Solve at all corners. With `build` the design is held, without it every build figure is decided."""
        with np.errstate(all="ignore"):
            return Run(self, inputs, corners, build).sheet()

    def build_of(self, sheet: Sheet) -> Build:
        """The build of a sheet, to be held for a curve, a tolerance study or a bench prediction."""
        kinds = ("build", "published", "pick")
        return Build({n.index: sheet.values[n.index] for n in self.wiring.nodes if n.figure.kind in kinds}, dict(sheet.picks))

    def leaf_values(self, inputs: Inputs, corners: CornerSet) -> tuple[list[Any], frozenset[int]]:
        """Starting contents: corners, givens, choices and pins; refuses what is not allowed, naming the field."""
        wiring = self.wiring
        values: list[Any] = [None] * len(wiring.nodes)
        for index, default in self._defaults.items():
            values[index] = default
        for name, array in (("source_level", corners.level), ("load_fraction", corners.load), ("surge", corners.surge)):
            values[wiring.index[f"corner.{name}"]] = array
        for key, (_, choice) in self.choices.items():
            option = inputs.choices.get(key, choice.default)
            if option not in choice.options:
                raise InputError(f"{key}: {option!r} is not one of {', '.join(choice.options)}", field=key, given=option, allowed=list(choice.options))
            for index, number in self._options[key, option]:
                values[index] = number
        for key in inputs.choices:
            if key not in self.choices:
                raise InputError(f"the line-up has no choice {key!r}", field=key, given=inputs.choices[key], allowed=sorted(self.choices))
        for key, value in inputs.givens.items():
            index = self._checked(key, value, "given")
            values[index] = _leaf(value)
        pinned = []
        for key, pin in inputs.pins.items():
            index = self._pin_index(key, pin)
            pinned.append(index)
            if not isinstance(pin.value, PartChoice):
                values[index] = _leaf(pin.value)
        return values, frozenset(pinned)

    def _checked(self, key: str, value: Any, kind: str) -> int:
        index = self.wiring.index.get(key)
        if index is None or self.wiring.nodes[index].figure.kind != kind:
            raise InputError(f"the line-up has no {kind} {key!r}", field=key, given=_plain(value), allowed=f"a {kind} of the line-up")
        figure = self.wiring.nodes[index].figure
        low, high = figure.low, figure.high
        array = np.asarray(value, dtype=float)
        if not np.isfinite(array).all() or (low is not None and (array < low).any()) or (high is not None and (array > high).any()):
            raise InputError(f"{key}: {_plain(value)} {figure.unit} is outside {low} to {high} {figure.unit}".replace("  ", " "),
                             field=key, given=_plain(value), allowed={"low": low, "high": high, "unit": figure.unit})
        return index

    def _pin_index(self, key: str, pin: Pin) -> int:
        index = self.wiring.index.get(key)
        kinds = ("pick",) if isinstance(pin.value, PartChoice) else ("build", "operation", "published")
        if index is None or self.wiring.nodes[index].figure.kind not in kinds:
            raise InputError(f"{key!r} cannot be pinned: it is not a figure of this line-up that is computed", field=key, given=_plain(pin.value), allowed="a computed figure")
        if isinstance(pin.value, PartChoice):
            table = self.catalogue[next(p for p in self.wiring.picks if p.index == index).pick.part_type]
            if pin.value.part not in table.row_of:
                raise InputError(f"{key}: the catalogue has no {table.type} {pin.value.part!r}", field=key, given=pin.value.part, allowed=list(table.codes))
        else:
            array = np.asarray(pin.value, dtype=float)
            if not np.isfinite(array).all():
                raise InputError(f"{key}: a pin must be a finite number, given {_plain(pin.value)}", field=key, given=_plain(pin.value), allowed="a finite number")
        return index


def _leaf(value: Any) -> Any:
    """A plain number for one value, an array with its corner axis for more."""
    array = np.asarray(value, dtype=float)
    return float(array.reshape(-1)[0]) if array.size == 1 and array.ndim < 2 else np.atleast_1d(array)


def _plain(value: Any) -> Any:
    return value.tolist() if isinstance(value, np.ndarray) else value


class Run:
    """One solve in progress."""

    def __init__(self, model: Model, inputs: Inputs, corners: CornerSet, build: Build | None) -> None:
        self.model = model
        self.wiring = model.wiring
        self.inputs = inputs
        self.corners = corners
        self.held = build
        self.values, self.pinned = model.leaf_values(inputs, corners)
        self.plan: Plan = model.plan(self.pinned)
        self.masks: dict[int, NDArray[np.int8]] = {}
        self.causes: dict[int, list[Cause]] = {}
        self.picks: dict[int, PickState] = dict(build.picks) if build else {}
        self.part_pins = {model.wiring.index[k]: p.value for k, p in inputs.pins.items() if isinstance(p.value, PartChoice)}
        self.pick_of = {p.index: p for p in self.wiring.picks}
        self.reduced_without: dict[int, list[int]] = {}
        self.outer = 0
        self.inner = 0
        self.alternating: tuple[str, ...] = ()
        for index in self.plan.starts:
            self.values[index] = float(self.wiring.nodes[index].figure.start or 0.0)

    def sheet(self) -> Sheet:
        context.lasting, context.before_surge = self.corners.lasting, self.corners.before_surge
        context.causes.clear()
        try:
            if self.held is not None:
                self._hold(self.held)
                self._converge(self.plan.items, TOLERANCE)
            else:
                self._decide()
            return self._finish()
        finally:
            context.iterating = False
            context.lasting = context.before_surge = None
            context.causes.clear()

    def _hold(self, build: Build) -> None:
        for index, value in build.values.items():
            if index not in self.pinned:
                self.values[index] = value

    def _decide(self) -> None:
        """The outer passes. The first runs on starting values; each later one from a converged operation.

        The build rests when no build figure that operation reads has changed: what else was decided in that pass
        was decided from the converged operation already.
        """
        self.outer = 1
        context.iterating = True
        for index in self.plan.order:
            if index not in self.pinned or index in self.part_pins:
                self._evaluate(index)
        context.iterating = False
        self._converge(self.plan.after_loops, ROUGH)
        last: list[int] = []
        while self.outer < MOST_OUTER_PASSES:
            self.outer += 1
            last = self._redecide()
            if not last:
                self._converge(self.plan.after_loops, TOLERANCE)
                return
            self._converge(self.plan.items_after_build, ROUGH)
        self._converge(self.plan.after_loops, TOLERANCE)
        self.alternating = tuple(self.wiring.nodes[i].key for i in last)

    def _redecide(self) -> list[int]:
        """Decide every build figure anew, in line-up order; operation behind a changed one follows at once.

        Returns the changed figures that operation reads.
        """
        changed: list[int] = []
        moved = False
        kinds, read = self.plan.kinds, self.plan.read_by_operation
        values, picks = self.values, self.picks
        for index in self.plan.moving:
            kind = kinds[index]
            if kind == "build":
                before = values[index]
                self._evaluate(index)
                if self.outer >= SAFE_SIDE_FROM:
                    self._towards_safe_side(index, before)
                after = values[index]
                if _same(before, after):
                    values[index] = before
                else:
                    moved = True
                    if index in read:
                        changed.append(index)
            elif kind == "pick":
                chosen = picks[index].chosen
                self._evaluate(index)
                if not np.array_equal(chosen, picks[index].chosen):
                    moved = True
                    changed.append(index)
            elif moved:
                self._evaluate(index)
        return changed

    def _towards_safe_side(self, index: int, before: Any) -> None:
        """From the fourth pass on integers and preferred values move only to their declared safe side."""
        safe = self.wiring.nodes[index].figure.safe
        if safe is not None:
            side = np.fmax if safe == "up" else np.fmin
            moved = side(before, self.values[index])
            self.values[index] = float(moved) if np.ndim(moved) == 0 else moved

    def _converge(self, items: list[Any], tolerance: float) -> None:
        """The inner solve: loops to rest with the build held, then everything behind them once."""
        for item in items:
            if not item.tears:
                for index in item.nodes:
                    self._evaluate(index)
                continue
            for tear in item.tears:
                start = float(self.wiring.nodes[tear].figure.start or 0.0)
                if np.isnan(self.values[tear]).any():
                    self.values[tear] = np.where(np.isnan(self.values[tear]), start, self.values[tear])
            for index in item.nodes:
                self.masks.pop(index, None)
                self.causes.pop(index, None)
            context.iterating = True
            failed, passes = iterate(self.values, [self._step(i) for i in item.nodes], item.tears, tolerance)
            context.iterating = False
            self.inner = max(self.inner, passes)
            tears = {t: self.values[t] for t in item.tears}
            for index in item.nodes:
                self._evaluate(index)
                if index in failed:
                    self._fail_loop(index, *failed[index])
                elif index in tears and index not in self.masks:
                    self.values[index] = tears[index]

    def _step(self, index: int) -> tuple[Any, tuple[int, ...], int]:
        node = self.wiring.nodes[index]
        return (node.fn, self.plan.args[index], index)

    def _fail_loop(self, index: int, where: NDArray[np.bool_], residual: Values, passes: int) -> None:
        key = self.wiring.nodes[index].key
        cause = Cause(2, where, f"the loop through {key} does not settle: it runs away, residual {{residual}} after {passes} passes", {"residual": residual})
        value = np.atleast_1d(self.values[index])
        shape = np.broadcast_shapes(value.shape, where.shape)
        mask = np.zeros(shape, dtype=np.int8)
        mask[np.broadcast_to(where, shape)] = 2
        self.masks[index] = np.maximum(mask, self.masks[index]) if index in self.masks else mask
        self.causes.setdefault(index, []).append(cause)
        self.values[index] = np.where(np.broadcast_to(where, shape), np.nan, value)

    def _evaluate(self, index: int) -> None:
        plan, values = self.plan, self.values
        kind = plan.kinds[index]
        if kind == "pick":
            args = [values[a] for a in plan.args[index]] if index not in self.pinned else [values[a] for a in self.wiring.nodes[index].args]
            self.picks[index] = decide(self.pick_of[index], self.model.candidates[index], args, self.picks.get(index), self.part_pins.get(index), self.outer)
            self._publish(index)
            return
        fn = plan.functions[index]
        if fn is None:
            return
        args_of = plan.args[index]
        out = fn(*[values[a] for a in args_of])
        if kind == "build":
            out = self._one_value(index, out)
        elif type(out) is not np.ndarray or out.ndim == 0:
            out = np.atleast_1d(np.asarray(out, dtype=float))
        values[index] = out
        masks = self.masks
        if context.causes or (masks and (index in masks or any(a in masks for a in args_of))):
            self._mask(index, np.atleast_1d(out))

    def _one_value(self, index: int, out: Any) -> Any:
        """A build figure's value: a plain number, or (variants, 1); refuses one that differs per corner."""
        if type(out) is float:
            return out
        if np.ndim(out) == 0:
            return float(out)
        if out.shape[-1] != 1:
            key = self.wiring.nodes[index].key
            raise SolveError(f"{key} is a build figure, yet it differs from corner to corner: reduce it with highest(), lowest() or highest_lasting()", key=key)
        return float(out[0]) if out.ndim == 1 else out

    def _publish(self, index: int) -> None:
        state, candidates = self.picks[index], self.model.candidates[index]
        for column, target in self.pick_of[index].published:
            if target in self.pinned:
                continue
            numbers = candidates.quantity if column == "quantity" else candidates.columns[column]
            self.values[target] = float(numbers[state.chosen]) if state.chosen.ndim == 0 else numbers[state.chosen][:, None]

    def _mask(self, index: int, out: Values) -> None:
        """Carry the unknown mask: own causes and the parents' masks, unless a reduction left the corner out."""
        mask: NDArray[np.int8] | None = None
        self.masks.pop(index, None)
        self.causes.pop(index, None)
        self.reduced_without.pop(index, None)
        sources = [self.masks[a] for a in self.plan.args[index] if a in self.masks]
        if context.causes:
            self.causes[index] = list(context.causes)
            sources += [np.where(np.atleast_1d(cause.where), cause.kind, 0).astype(np.int8) for cause in context.causes]
            context.causes.clear()
        for source in sources:
            if out.shape[-1] == 1 and source.shape[-1] > 1:
                gone = np.flatnonzero(source.reshape(-1, source.shape[-1]).any(axis=0))
                self.reduced_without.setdefault(index, []).extend(int(g) for g in gone)
                source = source.min(axis=-1, keepdims=True)
            mask = source if mask is None else np.maximum(mask, source)
        if mask is not None and mask.any():
            shape = np.broadcast_shapes(mask.shape, out.shape)
            self.masks[index] = np.broadcast_to(mask, shape)
            gone_values = np.where(mask > 0, np.nan, out)
            self.values[index] = float(gone_values[0]) if self.plan.kinds[index] == "build" and gone_values.size == 1 and gone_values.ndim == 1 else gone_values

    def _finish(self) -> Sheet:
        computed: dict[int, Values] = {}
        for index in self.pinned:
            node = self.wiring.nodes[index]
            if node.fn is not None and node.args:
                context.causes.clear()
                computed[index] = np.atleast_1d(np.asarray(node.fn(*[self.values[a] for a in node.args]), dtype=float))
            elif node.figure.kind == "published" and node.args:
                pick = self.pick_of.get(node.args[0])
                state = self.picks.get(node.args[0])
                if pick is not None and state is not None:
                    column = node.figure.column
                    candidates = self.model.candidates[pick.index]
                    numbers = candidates.quantity if column == "quantity" else candidates.columns[column]
                    computed[index] = np.atleast_1d(numbers[state.chosen])
        return Sheet(self.wiring, self.corners, self.inputs, self.values, self.masks, self.causes, self.picks, self.pinned, computed,
                     self.outer, self.inner, self.alternating, self.held is not None, self.reduced_without)


def _same(before: Any, after: Any) -> bool:
    if type(before) is float and type(after) is float:
        return abs(after - before) <= SAME * abs(after) or before == after or (before != before and after != after)
    before, after = np.asarray(before), np.asarray(after)
    gap = np.abs(after - before)
    return bool(np.all((gap <= SAME * np.abs(after)) | (np.isnan(before) & np.isnan(after)) | (before == after)))
