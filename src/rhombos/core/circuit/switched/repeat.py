"""The state that repeats itself over a period, by Newton on the map of one period with its exact sensitivity: no transient is waited for."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.switched.elements import Event, Switched
from rhombos.core.circuit.switched.march import March, Run
from rhombos.core.circuit.switched.modes import States

Array = NDArray[np.float64]
MOST_STEPS = 40
SETTLED = 1e-9
THROWN, SHORTEST = 10.0, 0.1
"""A step of Newton's that makes the error so many times what the least was is shortened, at the most to so much of it."""


class NotSettled(CircuitError):
    """No repeating state was found; `run` is the last period that was tried."""

    def __init__(self, message: str, run: Run) -> None:
        super().__init__(message)
        self.run = run


def repeat(circuit: Switched, events: Sequence[Event], period: float, start: Array | None = None, warm: int = 2) -> Run:
    """One period in steady state. `start` is a guess, improved by `warm` periods as they come. Raises NotSettled.

    The first events are taken as they stand at the end of a period too: what is on at its end is on at its beginning.
    """
    states = States(circuit)
    x = np.zeros(len(states.storing)) if start is None else np.asarray(start, dtype=float)
    conducting: frozenset[str] = frozenset()

    def once(x: Array) -> Run:
        marching = March(states, events, period)
        marching.conducting = conducting
        return marching.run(x)

    n = len(x)
    if not n:
        return once(x)  # nothing is stored: every period is like the one before
    for _ in range(warm if states.turning else 0):
        x = once(x).end[:n]
    best, least, share = x, np.inf, 1.0
    full: Array = np.zeros(n)
    for _ in range(MOST_STEPS):
        run = once(x)
        gap = run.end[:n] - x
        # A state is as large as it becomes on the way.
        size = np.maximum(np.max([np.abs(s.state[:n]) for s in run.stretches], axis=0), np.abs(x))
        error = float(np.max(np.abs(gap) / np.maximum(size, 1e-6 * size.max() + 1e-30)))
        if error <= SETTLED:
            return run
        if error < THROWN * least:
            if error < least:
                least = error
            best, share = x, 1.0
            full = np.asarray(np.linalg.lstsq(np.eye(n) - run.sensitivity, gap, rcond=None)[0], dtype=float)
        elif share > SHORTEST:
            # Others conduct there: half of the way.
            share /= 2
        else:
            # Thrown off: go on from the best so far, as the circuit itself would.
            best, least, share, full = once(once(best).end[:n]).end[:n], np.inf, 1.0, np.zeros(n)
        x = best + share * full if np.isfinite(full).all() else once(best).end[:n]
    worst = states.storing[int(np.argmax(np.abs(gap)))].name
    raise NotSettled(f"no state repeats itself: {worst} still moves by {np.abs(gap).max():.3g} in a period of {period:.4g} s", run)
