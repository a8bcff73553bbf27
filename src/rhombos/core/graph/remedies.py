"""Remedies: for a check that does not hold the moves that make it hold, each tried by solving anew."""

import re
from dataclasses import dataclass, replace

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import SERIES, Values
from rhombos.core.graph.declare import Figure, Move
from rhombos.core.graph.errors import WiringError
from rhombos.core.graph.inputs import Inputs, PartChoice
from rhombos.core.graph.model import Model
from rhombos.core.graph.nodes import Node, WiredCheck, WiredPick
from rhombos.core.graph.seek import moved_to
from rhombos.core.graph.sheet import Sheet
from rhombos.core.graph.verdicts import FAILS, HOLDS, TIGHT, UNKNOWN_VERDICT
from rhombos.core.units import show

MOST_PARTS = 4
"""How many parts of the catalogue are tried, the next one first: each is a solve of its own."""
MOST_STEPS = 24


@dataclass(frozen=True)
class Remedy:
    """A move that makes a check hold: which input, from what to what, what else it would break; whether it is the designer's to make.

    Of a part of the catalogue `key` is the pick, `part` and `quantity` what is fitted; `before` and `after` are the numbers
    that count. What it breaks may be mended only by going back: then it `returns`. Of kind "wish" it is what the catalogue lacks,
    of kind "line-up" the other line-up whose id is `part`.
    """

    check: str
    key: str
    title: str
    kind: str
    before: float
    after: float
    sentence: str
    breaks: tuple[str, ...]
    offered: bool
    returns: bool = False
    part: str | None = None
    quantity: int = 1


def remedies(model: Model, sheet: Sheet, place: str | None = None, most: int = 3) -> list[Remedy]:
    """For each tight or failing check (of a place, or of all) the moves that make it hold, each tried re-solved; what else then fails is named.

    What breaks nothing comes first, what leads back and forth last. Where no move helps and a part is missing, that is said.
    """
    verdicts = sheet.judge()
    now = verdicts.code.min(axis=-1)
    # Where there is no operation, nearly all is unknown: the check nearest to the source says what would give one.
    unknown = np.flatnonzero(now == UNKNOWN_VERDICT)
    lost = int(unknown[0]) if unknown.size else -1
    found: list[Remedy] = []
    for row, wired in enumerate(model.wiring.checks):
        if place in (None, wired.place) and (int(now[row]) in (FAILS, TIGHT) or row == lost):
            mine = [r for move in wired.check.remedies if (r := _Trial(model, sheet, row, now).of(move)) is not None]
            lacking = [] if any(r.offered for r in mine) else _lacking(sheet, wired, _most(verdicts.demand[row] * verdicts.hold[row]))
            found.extend(sorted([*mine, *lacking], key=lambda r: (not r.offered, r.returns, len(r.breaks)))[:most])
    return found


def _most(values: Values) -> float:
    return float(np.max(values[np.isfinite(values)], initial=0.0))


def _lacking(sheet: Sheet, wired: WiredCheck, needed: float) -> list[Remedy]:
    """What the catalogue would have to hold, where a check stands on a part of which none fits."""
    if isinstance(wired.capability, float):
        return []
    node = sheet.wiring.nodes[wired.capability]
    for index in (node.index, *node.args):
        published = sheet.wiring.nodes[index]
        pick = next((p for p in sheet.wiring.picks if published.figure.kind == "published" and p.index in published.args), None)
        state = None if pick is None else sheet.picked(pick)
        if pick is not None and state is not None and not bool(np.all(state.fits)):
            has, title = float(np.nanmin(sheet.value(node.key))), node.figure.title
            sentence = f"No {pick.pick.title.lower()} of the catalogue brings {title[0].lower() + title[1:]} to {show(needed, node.figure.unit, 3)}: add one"
            return [Remedy(wired.key, sheet.wiring.nodes[pick.index].key, pick.pick.title, "wish", has, needed, sentence, (), False)]
    return []


@dataclass(frozen=True)
class _Trial:
    """The moves of one check, tried from a sheet whose verdicts are known."""

    model: Model
    sheet: Sheet
    row: int
    now: NDArray[np.int8]

    def of(self, move: Move) -> Remedy | None:
        """The least step that makes the check hold, if one does."""
        wiring = self.sheet.wiring
        try:
            node = wiring.nodes[wiring.resolve(wiring.lineup.place(wiring.checks[self.row].place), move.figure)]
        except WiringError:  # a remedy of a shared template may name what this line-up has not
            return None
        pick = next((p for p in wiring.picks if node.figure.kind == "published" and node.figure.column != "quantity" and p.index in node.args), None)
        found = self._by_steps(move, node) if pick is None else self._by_parts(move, node, pick)
        return None if found is None else replace(found, offered=move.kind == "setting", returns=self._leads_back(move, node, found.breaks))

    def _free(self, key: str) -> Inputs:
        inputs = self.sheet.inputs
        return Inputs(inputs.givens, inputs.choices, {k: p for k, p in inputs.pins.items() if k != key})

    def _by_steps(self, move: Move, node: Node) -> Remedy | None:
        inputs = self.sheet.inputs if node.figure.kind == "given" else self._free(node.key)
        present = float(self.sheet.value(node.key)[0])
        grid = _steps(node.figure, present, move)
        if grid.size == 0:
            return None
        tried = self.model.solve(moved_to(self.model, inputs, node.key, grid[:, None]), self.sheet.corners)
        code = tried.judge().code
        worst = (code if code.ndim == 3 else np.broadcast_to(code[:, None, :], (code.shape[0], len(grid), code.shape[-1]))).min(axis=-1)
        if not (worst[self.row] >= HOLDS).any():
            return None
        k = int(np.argmax(worst[self.row] >= HOLDS))
        title, unit, after = node.figure.title, node.figure.unit, float(grid[k])
        verb = "Raise" if move.to == "up" else "Lower"
        sentence = f"{verb} {title[0].lower() + title[1:]} from {show(present, unit, 3)} to {show(after, unit, 3)}"
        return Remedy(self._check, node.key, title, node.figure.kind, present, after, sentence, self._broken(worst[:, k]), True)

    def _by_parts(self, move: Move, node: Node, pick: WiredPick) -> Remedy | None:
        """The next parts of the catalogue with more (or less) of what the move names, in as many pieces as are fitted."""
        state, candidates = self.sheet.picked(pick), self.model.candidates[pick.index]
        if state is None or state.chosen.ndim:
            return None
        column, present = candidates.column(str(node.figure.column)), float(self.sheet.value(node.key)[0])
        key, pieces = self.sheet.wiring.nodes[pick.index].key, candidates.quantity[int(state.chosen)]
        ahead = column > present if move.to == "up" else column < present
        order = sorted(np.flatnonzero(ahead & (candidates.quantity == pieces)).tolist(), key=lambda i: abs(column[i] - present))
        for i in order[:MOST_PARTS]:
            part = PartChoice(candidates.table.codes[int(candidates.rows[i])], int(pieces))
            tried = self.model.solve(self._free(key).with_pin(key, part, "remedy"), self.sheet.corners)
            worst = tried.judge().code.min(axis=-1)
            if worst[self.row] >= HOLDS:
                sentence = f"Fit {pick.pick.title.lower()} {candidates.label(i)} in place of {candidates.label(int(state.chosen))}"
                numbers = present, float(column[i])
                return Remedy(self._check, key, pick.pick.title, "part", *numbers, sentence, self._broken(worst), True, part=part.part, quantity=part.quantity)
        return None

    @property
    def _check(self) -> str:
        return self.sheet.wiring.checks[self.row].key

    def _broken(self, worst: NDArray[np.int8]) -> tuple[str, ...]:
        checks = self.sheet.wiring.checks
        return tuple(c.check.title for i, c in enumerate(checks) if worst[i] == FAILS and self.now[i] != FAILS)

    def _leads_back(self, move: Move, node: Node, breaks: tuple[str, ...]) -> bool:
        """Whether what the move breaks is mended by moving the same figure the other way."""
        wiring = self.sheet.wiring
        for broken in (c for c in wiring.checks if c.check.title in breaks):
            for other in broken.check.remedies:
                try:
                    same = wiring.resolve(wiring.lineup.place(broken.place), other.figure) == node.index
                except WiringError:
                    continue
                if same and other.to != move.to:
                    return True
        return False


def _steps(figure: Figure, present: float, move: Move) -> Values:
    """The values to be tried, nearest first: whole numbers by ones, preferred values along their series, others by ratio."""
    sign = 1 if move.to == "up" else -1
    if figure.whole:
        top = int(np.ceil(abs(present) * (move.reach - 1))) or 1
        grid = present + np.arange(1, min(top, MOST_STEPS) + 1) * sign
        grid = grid[grid > 0]
    elif present == 0:
        return np.array([])
    else:
        reach = present * move.reach**sign
        grid = present * np.geomspace(1.0, move.reach**sign, MOST_STEPS + 1)[1:]
        series = re.search(r"\\mathrm\{(E\d+)\}", figure.tex) if figure.kind == "build" else None
        if series:
            decades = np.arange(np.floor(np.log10(min(present, reach))), np.ceil(np.log10(max(present, reach))) + 1)
            values = np.unique(np.outer(10.0**decades, SERIES[series[1]]))
            between = (values > present * (1 + 1e-9)) & (values <= reach) if sign > 0 else (values < present * (1 - 1e-9)) & (values >= reach)
            grid = values[between][::sign][:MOST_STEPS]
        grid = np.array([float(f"{g:.3g}") for g in grid])
    low, high = (figure.low if figure.low is not None else -np.inf), (figure.high if figure.high is not None else np.inf)
    return np.array(sorted(set(grid[(grid >= low) & (grid <= high)].tolist()), reverse=sign < 0))
