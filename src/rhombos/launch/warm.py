"""Make the kernels and every line-up's tape, and read what is compiled for circuits, before anybody asks, while the server comes up."""

from rhombos.core.circuit.switched import ready
from rhombos.core.lineups import TITLES
from rhombos.demo import tern_islet


def warm() -> None:
    """Solve the demo in every line-up, and march through a circuit."""
    for lineup in TITLES:
        design = tern_islet.first().model_copy(update={"lineup": lineup})
        design.model().solve(design.inputs())
    ready.load()
