"""The state that repeats itself over a period, by Newton on the map of one period with its exact sensitivity: no transient is waited for."""

from collections.abc import Sequence

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.switched.compiled_repeat import missed, sizes_of
from rhombos.core.circuit.switched.elements import Event, Switched
from rhombos.core.circuit.switched.march import March, Run
from rhombos.core.circuit.switched.mirror import Mirror, image, turning, unfolded
from rhombos.core.circuit.switched.modes import States

Array = NDArray[np.float64]
WAITED = 8
"""Periods that are waited for where Newton's steps lead nowhere."""
SETTLED, CLOSE = 1e-9, 1e-5
"""What a state may miss by in a period at its end, and before the last step of Newton's, which doubles its digits."""
MIRRORED = 5e-7
"""What a whole period may miss by that was found from its half: what conducts at an edge may be taken up the other way round."""


class NotSettled(CircuitError):
    """No repeating state was found; `run` is the last period that was tried."""

    def __init__(self, message: str, run: Run) -> None:
        super().__init__(message)
        self.run = run


def repeat(circuit: Switched | States, events: Sequence[Event], period: float, start: Array | None = None, warm: int = 2, mirror: Mirror | None = None) -> Run:
    """One period in steady state, of a circuit or the states that are known of it. `start` is a guess, improved by `warm` periods as they come. Raises NotSettled.

    The first events are taken as they stand at the end of a period too: what is on at its end is on at its beginning.
    With a `mirror` the state is sought over half a period; what is found has to repeat itself over the whole one all the same.
    """
    states = circuit if isinstance(circuit, States) else States(circuit)
    x = np.zeros(len(states.storing)) if start is None else np.asarray(start, dtype=float)

    whole = March(states, events, period)
    if not len(x):
        return whole.run(x)  # nothing is stored: every period is like the one before
    if mirror is not None:
        half, over = March(states, [e for e in events if e.time < period / 2], period / 2), image(states, mirror)
        try:
            begin, first = _sought(half, turning(over, len(x)), x, 2 * warm, CLOSE, again=True)
            found = unfolded(first, whole, over) or whole.run(begin)
            if missed(found.end[: len(x)] - found.start[: len(x)], sizes_of(found.trace, len(x))) <= MIRRORED:
                return found
            x, warm = found.end[: len(x)], 0
        except NotSettled as error:
            x, warm = error.run.start[: len(x)], 1
    try:
        return _sought(whole, np.eye(len(x)), x, warm, SETTLED)[1]
    except NotSettled:
        # From where it comes to by itself Newton may find what it did not from the guess.
        return _sought(whole, np.eye(len(x)), x, warm + WAITED, SETTLED)[1]


def _sought(march: March, turned: Array, x: Array, warm: int, enough: float, *, again: bool = False) -> tuple[Array, Run]:
    """A state that, `turned`, stands at its end again but for `enough`, with Newton's last step, and the run that it was found by, or `again` the one from there."""
    found, state, run = march.repeated(x, turned, warm, enough, again=again)
    if found:
        return state, run
    n = len(x)
    gap = turned @ run.end[:n] - run.start[:n]
    worst = march.states.storing[int(np.argmax(np.abs(gap)))].name
    raise NotSettled(f"no state repeats itself: {worst} still moves by {np.abs(gap).max():.3g} in {run.seconds:.4g} s", run)
