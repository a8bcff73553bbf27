"""The solved sheet: values by node, picks with their runners-up, checks with their verdicts."""

from collections.abc import Mapping
from dataclasses import dataclass
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import UNKNOWN, Cause, Values, applied, said, seen
from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.errors import Unknown
from rhombos.core.graph.inputs import Inputs
from rhombos.core.graph.nodes import Node, WiredCheck, WiredPick
from rhombos.core.graph.picked import PickState
from rhombos.core.graph.verdicts import Verdicts, judged
from rhombos.core.graph.wiring import Wiring
from rhombos.core.parts.table import Candidates
from rhombos.core.units import show

HELD = 1e-3
"""A decision that differs by more than this share from what its formula gives is held."""


@dataclass
class Sheet:
    """The figures of a line-up at all its corners. Values are indexed by node."""

    wiring: Wiring
    corners: CornerSet
    inputs: Inputs
    values: SheetNumbers
    masks: dict[int, NDArray[np.int8]]
    causes: dict[int, list[Cause]]
    picks: dict[int, PickState]
    candidates: Mapping[int, Candidates]
    pinned: frozenset[int]
    passes: int
    inner_passes: int
    alternating: tuple[str, ...]
    held: bool

    def node(self, key: str) -> Node:
        if key not in self.wiring.index:
            raise Unknown(f"there is no figure {key!r}")
        return self.wiring.nodes[self.wiring.index[key]]

    def value(self, key: str) -> Values:
        """The values of a figure by `place.name`: shape (1,) or (corners,), in SI."""
        return np.atleast_1d(self.values[self.wiring.index[key]])

    def at(self, key: str, corner: str) -> float:
        """The value of a figure at one corner."""
        return self.number(key, self.corners.ids.index(corner))

    def number(self, key: str, corner: int) -> float:
        """The same, at the corner of that number."""
        return self.values.number(self.wiring.index[key], corner)

    @cached_property
    def computed(self) -> dict[int, Values]:
        """What the pinned figures' own formulas give with the numbers of this sheet, by node."""
        computed: dict[int, Values] = {}
        for node in (self.wiring.nodes[i] for i in self.pinned):
            if node.fn is not None and node.args:
                with seen(self.corners), np.errstate(all="ignore"):
                    computed[node.index] = np.atleast_1d(np.asarray(applied(node.fn, (self.values[a] for a in node.args)), dtype=float))
            elif node.figure.kind == "published" and node.args[0] in self.picks:
                column, candidates = node.figure.column, self.candidates[node.args[0]]
                numbers = candidates.quantity if column == "quantity" else candidates.columns[column]
                computed[node.index] = np.atleast_1d(numbers[self.picks[node.args[0]].chosen])
        return computed

    def status(self, index: int) -> NDArray[np.int8] | None:
        """0 known, 1 does not apply, 2 unknown, per element; None when all is known."""
        mask = self.masks.get(index)
        bad = np.isnan(np.atleast_1d(self.values[index]))
        if mask is None:
            return np.where(bad, UNKNOWN, 0).astype(np.int8) if bad.any() else None
        return np.where(mask > 0, mask, np.where(bad, UNKNOWN, 0)).astype(np.int8)

    def reduced_without(self, index: int) -> list[int]:
        """The corners that a figure without corners was worked out without, since what it reads is unknown there."""
        if not self.masks or index in self.pinned or np.atleast_1d(self.values[index]).shape[-1] > 1:
            return []
        masks = [m.reshape(-1, m.shape[-1]).any(axis=0) for a in self.wiring.nodes[index].args if (m := self.masks.get(a)) is not None and m.shape[-1] > 1]
        return np.flatnonzero(np.any(masks, axis=0)).tolist() if masks else []

    def why_missing(self, index: int, corner: int) -> str:
        """The sentence of the cause nearest upstream that took the value away at a corner, or at the lasting one before its start."""
        for at in (corner, int(self.corners.before[corner])):
            sentence = self._cause_at(index, at)
            if sentence is not None:
                return sentence
        return f"{self.wiring.nodes[index].key} has no value here: its formula is not a number for these inputs"

    def _cause_at(self, index: int, corner: int) -> str | None:
        seen: set[int] = set()
        queue = [index]
        while queue:
            node = queue.pop(0)
            if node in seen:
                continue
            seen.add(node)
            for cause in self._causes_of(node):
                if _at(cause.where, corner):
                    return cause.sentence.format(**{k: _word(float(_at(np.asarray(v, dtype=float), corner))) for k, v in cause.numbers.items()})
            queue.extend(a for a in self.wiring.nodes[node].args if a in self.masks)
        return None

    def _causes_of(self, index: int) -> list[Cause]:
        """Why a figure is unknown by itself; of one that nothing reads it is asked now."""
        node = self.wiring.nodes[index]
        if (
            index in self.masks
            and index not in self.causes
            and not self.wiring.children[index]
            and node.fn is not None
            and not self.masks.keys() & {*node.args}
        ):
            with seen(self.corners), np.errstate(all="ignore"):
                self.causes[index] = said(node.fn, (self.values[a] for a in node.args))
        return self.causes.get(index, [])

    def would_be(self, index: int) -> float | None:
        """What a decision's own formula gives with the numbers of this sheet, where the decision is another: it is held.

        That is where decisions alternate by way of one another; each is then kept on its safe side.
        """
        node = self.wiring.nodes[index]
        if self.held or node.fn is None or not node.args or node.figure.kind != "build" or not node.figure.decided or index in self.pinned:
            return None
        with seen(self.corners), np.errstate(all="ignore"):
            own = np.atleast_1d(applied(node.fn, (self.values[a] for a in node.args))).reshape(-1)
        stands = np.atleast_1d(self.values[index]).reshape(-1)
        if own.size != 1 or stands.size != 1 or not (np.isfinite(own[0]) and np.isfinite(stands[0])):
            return None
        return None if abs(own[0] - stands[0]) <= HELD * abs(stands[0]) else float(own[0])

    def held_decisions(self) -> dict[str, float]:
        """The decisions that are held, by key, with what each would be."""
        found = {n.key: self.would_be(n.index) for n in self.wiring.nodes if n.figure.decided}
        return {key: value for key, value in found.items() if value is not None}

    def warnings(self, index: int) -> list[str]:
        """What travels with a value: corners that a reduction left out, inputs outside the formula's validity, and whether it is held."""
        found = []
        would_be = self.would_be(index)
        if would_be is not None:
            unit = self.wiring.nodes[index].figure.unit
            stands = show(float(np.atleast_1d(self.values[index])[0]), unit)
            found.append(
                f"held at {stands}: with the numbers of this sheet its formula gives {show(would_be, unit)}, and what hangs on it leads back and forth"
            )
        gone = self.reduced_without(index)
        if gone:
            found.append("without corner " + ", ".join(self.corners.ids[i] for i in gone))
        node = self.wiring.nodes[index]
        for param, (low, high) in node.figure.valid.items():
            value = np.atleast_1d(self.values[node.args[node.params.index(param)]])
            if ((value < low) | (value > high)).any():
                found.append(f"{param.replace('_', ' ')} is outside {low:g} to {high:g}, for which the formula is stated")
        return found

    def judge(self) -> Verdicts:
        """Margins and verdicts of all checks. Unknown is never shown as holding."""
        return judged(self.wiring.checks, self.values, self.masks)

    def picked(self, pick: WiredPick) -> PickState | None:
        return self.picks.get(pick.index)

    def check(self, key: str) -> tuple[int, WiredCheck]:
        for row, check in enumerate(self.wiring.checks):
            if check.key == key:
                return row, check
        raise Unknown(f"there is no check {key!r}")


def _word(number: float) -> str:
    return f"{number:.4g}" if np.isfinite(number) else "∞"


def _at(values: NDArray[Any], corner: int) -> Any:
    flat = values.reshape(-1, values.shape[-1])[0] if values.ndim else values.reshape(1)
    return flat[0 if flat.size == 1 else corner]
