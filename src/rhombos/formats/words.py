"""Words that a stage declared, with the sheet's numbers in them."""

import math
import re

import numpy as np

from rhombos.core.formulas.numeric import Values
from rhombos.core.graph.nodes import Node
from rhombos.core.graph.places import Place
from rhombos.core.graph.sheet import Sheet
from rhombos.core.units import show

_BRACES = re.compile(r"\{(\w+(?::lasting|:percent)?)\}")


class Words:
    """The names that a stage uses, read off a sheet: each at its highest over the corners that are known."""

    def __init__(self, sheet: Sheet, place: Place) -> None:
        self.sheet, self.place = sheet, place

    def _node(self, name: str) -> Node:
        return self.sheet.wiring.nodes[self.sheet.wiring.resolve(self.place, name)]

    def value(self, name: str) -> float:
        """A figure; not a number where it is known nowhere."""
        return _highest(self.sheet.value(self._node(name).key))

    def text(self, name: str, *, lasting: bool = False, percent: bool = False) -> str:
        """A figure with its unit, of the corners that last where that is asked; a share in per cent."""
        node = self._node(name)
        values = self.sheet.value(node.key)
        if lasting:
            values = np.broadcast_to(values, self.sheet.corners.lasting.shape)[self.sheet.corners.lasting]
        highest = _highest(values)
        if percent and math.isfinite(highest):
            return f"{100 * highest:.3g} %"
        return show(highest, node.figure.unit, 3) if math.isfinite(highest) else f"(not known: {node.figure.title.lower()})"

    def fill(self, words: str) -> str:
        """Words with every name in braces replaced by its figure; `{name:lasting}` by that of the corners that last, `{name:percent}` in per cent."""

        def word(match: re.Match[str]) -> str:
            name, _, how = match[1].partition(":")
            return self.text(name, lasting=how == "lasting", percent=how == "percent")

        return _BRACES.sub(word, words)


def _highest(values: Values) -> float:
    known = values[np.isfinite(values)]
    return float(known.max()) if known.size else math.nan
