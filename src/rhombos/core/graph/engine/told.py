"""What a run of the kernels is told beside its program: of the corners, how decisions are weighed, and in what a formula stands."""

import numpy as np
from numpy.typing import NDArray

SAME = 1e-7
"""A decision that moves by less, relative, has not changed."""

SAFE_SIDE_FROM, STAYING_FROM, JUDGED_FROM = 4, 8, 3
"""From which age of a sheet's passes on decisions keep to their safe side, a pick where nothing fits stays, and what is unknown is left out."""
YOUNG_TO = 9
"""Up to this pass a runaway at a corner that lasts begins the age of a sheet's decisions anew; later it is the verdict."""
ROUGH = (1e-3, 1e-4, 1e-7)
"""To what, relative, loops are settled behind the first passes, and behind all that follow."""

CONTEXT_ITERATING, CONTEXT_LASTING, CONTEXT_BEFORE_SURGE, CONTEXT_FLAGS, CONTEXT_WEIGH, CONTEXT_CHANGED, CONTEXT_BENCH, CONTEXT_ACROSS = range(8)
"""What a run is told: whether a loop is iterated, which corners last and what went before them, how decisions are weighed,
and where the bench lies: constants and what is worked out on the way, the same room for every block, so that it stays in the cache; and of how many vectors every number is, where corners lie across the lanes (else 0)."""
CORNERS = 11
"""The usual corners: the kernels for sheets that have so many are written for that number of vectors."""
SETTLED, ITERATING, TRIAL = range(3)
"""In what a formula stands: a state that is judged, a loop that is iterated, a candidate that is tried."""
NOT, COMPARE, SAFE_SIDE = range(3)
"""How decisions are taken: written as they come, compared with the former one, or held to their safe side as well."""
FREE, UP, DOWN = range(3)
"""The side that a decision is held to."""
TURNED = 1
"""How often a decision may turn before it is held. Its course is which way it went last (±1), times one more than the times it has turned."""


def context_of(lasting: int, before: int, flags: int, bench: int, *, changed: int = 0, across: int = 0) -> NDArray[np.int64]:
    """What a run is told: addresses of its arrays, and of how many vectors every number is where corners lie `across` the lanes."""
    return np.array([SETTLED, lasting, before, flags, NOT, changed, bench, across], dtype=np.int64)
