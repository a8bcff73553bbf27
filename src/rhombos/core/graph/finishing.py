"""The sheet that a solve leaves behind."""

from typing import TYPE_CHECKING

from rhombos.core.graph.sheet import Sheet

if TYPE_CHECKING:
    from rhombos.core.graph.solve import Run


def finished(run: "Run") -> Sheet:
    """All that a run found."""
    return Sheet(
        run.wiring,
        run.corners,
        run.inputs,
        run.values,
        run.unknown.masks if run.marked is None else run.marked.masks(),
        run.unknown.causes if run.marked is None else run.marked.causes,
        run.picks,
        run.model.candidates,
        run.pinned,
        run.outer,
        run.inner,
        run.alternating,
        run.held is not None,
    )
