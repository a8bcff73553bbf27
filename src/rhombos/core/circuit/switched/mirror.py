"""The second half of a period that is the first's mirror image: not marched, but turned over."""

from collections.abc import Mapping

import numpy as np

from rhombos.core.circuit.compiled import Array
from rhombos.core.circuit.switched.compiled_mirror import Image, alike, turned_over
from rhombos.core.circuit.switched.march import March, Run
from rhombos.core.circuit.switched.modes import States

Mirror = Mapping[str, tuple[str, float]]
"""By part: what half a period later is as it is now, and with which sign; what is not named is as it was itself. Pairs of switches and of diodes change places."""


def image(states: States, mirror: Mirror) -> Image:
    """A circuit's mirror in numbers; what drives has no partner."""
    stored, switches = [e.name for e in states.storing], [s.name for s in states.circuit.switches]
    pairs = [mirror.get(name, (name, 1.0)) for name in stored]
    driving = range(len(stored), states.size)
    return Image(
        np.array([*(stored.index(other) for other, _ in pairs), *driving], dtype=np.int64),
        np.array([*(sign for _, sign in pairs), *(1.0 for _ in driving)]),
        *(np.array([names.index(mirror.get(name, (name, 1.0))[0]) for name in names], dtype=np.int64) for names in (switches, list(states.turning))),
    )


def turning(over: Image, count: int) -> Array:
    """The matrix that gives of so many states their image."""
    turned = np.zeros((count, count))
    turned[np.arange(count), over.partners[:count]] = over.signs[:count]
    return turned


def unfolded(half: Run, whole: March, over: Image) -> Run | None:
    """The whole period of which `half`, at whose end everything stands turned over as at its beginning, is the first half; None where circuit or events are not alike both ways."""
    states, n = half.states, len(half.sensitivity)
    # A sine goes its own way.
    if states.waves or not alike(whole.way, over.switches):
        return None
    found, trace = turned_over(states.plan, states.table, whole.way, half.trace, over)
    if not found:
        return None
    there = turning(over, n)
    end = np.append(there.T @ half.end[:n], half.end[n:])
    return Run(states, trace, half.start, end, there.T @ half.sensitivity @ there @ half.sensitivity)
