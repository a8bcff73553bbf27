"""The state that repeats itself over a period, by Newton on the map of one period with its exact sensitivity: no transient is waited for."""

from collections.abc import Callable, Mapping, Sequence

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.nearest import nearest
from rhombos.core.circuit.network import CircuitError
from rhombos.core.circuit.switched.elements import Event, Switched
from rhombos.core.circuit.switched.march import March, Run
from rhombos.core.circuit.switched.modes import States

Array = NDArray[np.float64]
Mirror = Mapping[str, tuple[str, float]]
"""By inductor or capacitor: what half a period later is as it is now, and with which sign; what is not named is as it was itself."""
MOST_STEPS, WAITED = 40, 8
"""Steps of Newton's, and periods that are waited for where they lead nowhere."""
FURTHEST = 0.5
"""Of the greatest volts that stand on any capacitor in a period, how far a step may take one."""
SETTLED, CLOSE = 1e-9, 1e-5
"""What a state may miss by in a period at its end, and before the last step of Newton's, which doubles its digits."""
NEAR, REFINED = 1e-7, 2
"""So far Newton would still go at most, of each state, or so often more: a great capacitor hardly moves in a period although what flows into it is not what flows out."""
MIRRORED = 5e-7
"""What a whole period may miss by that was found from its half: what conducts at an edge may be taken up the other way round."""
THROWN, SHORTEST = 10.0, 0.1
"""A step of Newton's that makes the error so many times what the least was is shortened, at the most to so much of it."""


class NotSettled(CircuitError):
    """No repeating state was found; `run` is the last period that was tried."""

    def __init__(self, message: str, run: Run) -> None:
        super().__init__(message)
        self.run = run


def repeat(circuit: Switched | States, events: Sequence[Event], period: float, start: Array | None = None, warm: int = 2, mirror: Mirror | None = None) -> Run:
    """One period in steady state, of a circuit or the states that are known of it. `start` is a guess, improved by `warm` periods as they come. Raises NotSettled.

    The first events are taken as they stand at the end of a period too: what is on at its end is on at its beginning.
    With a `mirror` the state is sought over half a period first; what is found has to repeat itself over the whole one all the same.
    """
    states = circuit if isinstance(circuit, States) else States(circuit)
    x = np.zeros(len(states.storing)) if start is None else np.asarray(start, dtype=float)

    def once(seconds: float, some: Sequence[Event]) -> Callable[[Array], Run]:
        return March(states, some, seconds).run

    whole = once(period, events)
    if not len(x):
        return whole(x)  # nothing is stored: every period is like the one before
    if mirror is not None:
        half = once(period / 2, [e for e in events if e.time < period / 2])
        try:
            turned = _turned(states, mirror)
            found = whole(_sought(states, half, turned, x, 2 * warm, CLOSE)[0])
            if _error(found, np.eye(len(x))) <= MIRRORED:
                return found
            x, warm = found.end[: len(x)], 0
        except NotSettled as error:
            x, warm = error.run.start[: len(x)], 1
    try:
        return _sought(states, whole, np.eye(len(x)), x, warm, SETTLED)[1]
    except NotSettled:
        # From where it comes to by itself Newton may find what it did not from the guess.
        return _sought(states, whole, np.eye(len(x)), x, warm + WAITED, SETTLED)[1]


def _turned(states: States, mirror: Mirror) -> Array:
    """The matrix that gives of a state its mirror image."""
    at = {e.name: k for k, e in enumerate(states.storing)}
    turned = np.zeros((len(at), len(at)))
    for name, k in at.items():
        other, sign = mirror.get(name, (name, 1.0))
        turned[k, at[other]] = sign
    return turned


def _error(run: Run, turned: Array) -> float:
    """By how much a run's end, `turned`, misses its beginning, of what each state becomes on the way."""
    n = len(turned)
    return _of(turned @ run.end[:n] - run.start[:n], _sizes(run, n))


def _sizes(run: Run, n: int) -> Array:
    """What each state becomes on the way."""
    sizes: Array = np.abs(run.trace.states[:, :n]).max(axis=0)
    return sizes


def _of(gap: Array, sizes: Array) -> float:
    """The greatest part of its size that a state misses by."""
    return float(np.max(np.abs(gap) / np.maximum(sizes, 1e-6 * sizes.max() + 1e-30)))


def _step(states: States, run: Run, turned: Array, gap: Array) -> Array:
    """Newton's step from a run that misses its beginning by `gap`; shortened where it would take a capacitor further than it can be believed.

    One that nothing feeds at this state hardly hangs on where it stood: the step would be without bounds.
    """
    step = nearest(np.eye(len(gap)) - turned @ run.sensitivity, gap)
    if not states.turning:
        return step
    volts = np.array([e.kind == "C" for e in states.storing], dtype=np.bool_)
    furthest, stands = (float(some[volts].max(initial=0.0)) for some in (np.abs(step), _sizes(run, len(gap))))
    return step * (FURTHEST * stands / furthest) if furthest > FURTHEST * stands > 0 else step


def _sought(states: States, once: Callable[[Array], Run], turned: Array, x: Array, warm: int, enough: float) -> tuple[Array, Run]:
    """A state that, `turned`, stands at its end again but for `enough`, with Newton's last step, and the run that it was found by."""
    n = len(x)
    for _ in range(warm if states.turning else 0):
        x = turned @ once(x).end[:n]
    best, least, share = x, np.inf, 1.0
    full: Array = np.zeros(n)
    near = 0
    for _ in range(MOST_STEPS):
        run = once(x)
        gap, error = turned @ run.end[:n] - x, _error(run, turned)
        if error < THROWN * least:
            if error < least:
                least = error
            best, share = x, 1.0
            full = _step(states, run, turned, gap)
            if error <= enough and (near == REFINED or _of(full, _sizes(run, n)) <= max(enough, NEAR)):
                return x + full, run
            near += error <= enough
        elif share > SHORTEST:
            # Others conduct there: half of the way.
            share /= 2
        else:
            # Thrown off: go on from the best so far, as the circuit itself would.
            best = turned @ once(turned @ once(best).end[:n]).end[:n]
            least, share, full = np.inf, 1.0, np.zeros(n)
        x = best + share * full if np.isfinite(full).all() else turned @ once(best).end[:n]
    worst = states.storing[int(np.argmax(np.abs(gap)))].name
    raise NotSettled(f"no state repeats itself: {worst} still moves by {np.abs(gap).max():.3g} in {run.seconds:.4g} s", run)
