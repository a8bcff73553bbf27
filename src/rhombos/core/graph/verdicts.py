"""What the checks of a line-up say of its figures: margins, and verdicts by them."""

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from rhombos.core.formulas.numeric import DOES_NOT_APPLY, Values
from rhombos.core.graph.engine.sheet_numbers import SheetNumbers
from rhombos.core.graph.nodes import WiredCheck

FAILS, UNKNOWN_VERDICT, TIGHT, HOLDS = 0, 1, 2, 3
VERDICTS = ("fails", "unknown", "tight", "holds")


@dataclass(frozen=True)
class Verdicts:
    """Margins (checks, ..., corners) with verdict codes; NaN margin where unknown, infinity without demand."""

    margin: Values
    code: NDArray[np.int8]
    demand: Values
    capability: Values
    fail: Values
    hold: Values

    def worst(self, row: int) -> int:
        """The corner with the worst verdict of a check, the smallest margin among equals."""
        return self.worst_corners()[row]

    def worst_corners(self) -> list[int]:
        """For every check of a single sheet the corner with the worst verdict, the smallest margin among equals."""
        margin = np.where(np.isnan(self.margin), np.inf, self.margin)
        least: list[int] = np.lexsort((margin, self.code), axis=-1)[:, 0].tolist()
        return least


def judged(checks: Sequence[WiredCheck], values: SheetNumbers, masks: Mapping[int, NDArray[np.int8]]) -> Verdicts:
    """Margins and verdicts of all checks. What is unknown never holds; what does not apply does."""
    table = values.of_checks()
    shape = table.shape[2:]
    demand, capability, fail, hold = table
    with np.errstate(all="ignore"):
        margin = np.where(demand > 0, capability / demand, np.where(np.isnan(demand) | np.isnan(capability), np.nan, np.inf))
        code = np.where(margin >= hold * (1 - 1e-9), HOLDS, np.where(margin >= fail * (1 - 1e-9), TIGHT, FAILS)).astype(np.int8)
    missing = np.isnan(margin) | np.isnan(fail) | np.isnan(hold)
    code[missing] = UNKNOWN_VERDICT
    for row, check in enumerate(checks if masks else ()):
        for index in (check.demand, check.capability):
            mask = masks.get(index)
            if mask is not None:
                gone = np.broadcast_to(mask == DOES_NOT_APPLY, shape)
                code[row][gone] = HOLDS
                margin[row][gone] = np.inf
    return Verdicts(margin, code, demand, capability, fail, hold)
