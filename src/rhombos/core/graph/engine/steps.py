"""What a solve is made of: programs, nodes that are computed by themselves, loops."""

from dataclasses import dataclass
from functools import cached_property

import numpy as np
from numpy.typing import NDArray

from rhombos.core.graph.plan import Item


@dataclass(frozen=True)
class Program:
    """Nodes that the kernels compute one after the other: the records, and where they lie."""

    nodes: tuple[int, ...]
    records: NDArray[np.int64]
    address: int
    length: int
    decided: tuple[int, ...]

    @cached_property
    def place(self) -> dict[int, int]:
        """Where each node stands in the order."""
        return {n: k for k, n in enumerate(self.nodes)}


Step = Program | int
"""A run of nodes on the tape, or one node that is computed by itself (a pick, or what is left to NumPy)."""


@dataclass(frozen=True)
class LoopSteps:
    """A loop: what is prepared once, the steps of a pass behind that, the same steps by themselves, and where its starting values lie.

    What is prepared lies on the bench, so that preparation and passes belong together, block by block.
    """

    item: Item
    preparation: Program
    passes: tuple[Step, ...]
    steps: tuple[Step, ...]
    tear_rows: NDArray[np.intp]

    @cached_property
    def flat_rows(self) -> NDArray[np.intp]:
        """The starting values' vectors, one behind the other."""
        return self.tear_rows.reshape(-1)
