"""The sheet that a solve leaves behind."""

from typing import TYPE_CHECKING

import numpy as np

from rhombos.core.formulas.numeric import Values, applied, context
from rhombos.core.graph.sheet import Sheet

if TYPE_CHECKING:
    from rhombos.core.graph.solve import Run


def finished(run: "Run") -> Sheet:
    """All that a run found, with what the pinned figures' own formulas give."""
    return Sheet(
        run.wiring,
        run.corners,
        run.inputs,
        run.values,
        run.unknown.masks if run.marked is None else run.marked.masks(),
        run.unknown.causes if run.marked is None else run.marked.causes,
        run.picks,
        run.pinned,
        _computed(run),
        run.outer,
        run.inner,
        run.alternating,
        run.held is not None,
    )


def _computed(run: "Run") -> dict[int, Values]:
    computed: dict[int, Values] = {}
    for index in run.pinned:
        node = run.wiring.nodes[index]
        if node.fn is not None and node.args:
            context.causes.clear()
            computed[index] = np.atleast_1d(np.asarray(applied(node.fn, (run.values[a] for a in node.args)), dtype=float))
        elif node.figure.kind == "published" and node.args:
            pick = run.pick_of.get(node.args[0])
            state = run.picks.get(node.args[0])
            if pick is not None and state is not None:
                column = node.figure.column
                candidates = run.model.candidates[pick.index]
                numbers = candidates.quantity if column == "quantity" else candidates.columns[column]
                computed[index] = np.atleast_1d(numbers[state.chosen])
    return computed
