"""What the solve asks of a line-up, so that neither knows more of the other."""

from collections.abc import Callable
from typing import Protocol

from rhombos.core.graph.corners import CornerSet
from rhombos.core.graph.engine.layout import Layout
from rhombos.core.graph.inputs import Inputs, Leaves
from rhombos.core.graph.plan import Plan
from rhombos.core.graph.wiring import Wiring
from rhombos.core.parts.table import Candidates


class Solvable(Protocol):
    """What a solve asks of a line-up that was put together: its wiring, its parts, and what follows from pins and shapes."""

    wiring: Wiring
    candidates: dict[int, Candidates]
    plan: Callable[[frozenset[int]], Plan]
    layout: Callable[[frozenset[int], frozenset[int], int, bool], Layout]

    def leaves(self, inputs: Inputs, corners: CornerSet) -> Leaves: ...
