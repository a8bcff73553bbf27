"""The state that repeats itself, by Newton on the map of a period with its exact sensitivity, compiled by Numba."""

import numpy as np

from rhombos.core.circuit.compiled import Array, applied, compiled, nearest, product
from rhombos.core.circuit.switched.compiled_march import DONE, Trace, Way, marched
from rhombos.core.circuit.switched.state_table import Plan, Table

NOWHERE = 3
"""How a search ends beside those of a march: no state was found that repeats itself."""
MOST_STEPS = 40
FURTHEST = 0.5
"""Of the greatest volts that stand on any capacitor in a period, how far a step may take one."""
NEAR, REFINED = 1e-7, 2
"""So far Newton would still go at most, of each state, or so often more: a great capacitor hardly moves in a period although what flows into it is not what flows out."""
THROWN, SHORTEST = 10.0, 0.1
"""A step of Newton's that makes the error so many times what the least was is shortened, at the most to so much of it."""


@compiled
def sizes_of(trace: Trace, n: int) -> Array:
    """What each state becomes on the way."""
    sizes = np.zeros(n)
    for k in range(trace.length[0]):
        for i in range(n):
            sizes[i] = max(sizes[i], abs(trace.states[k, i]))
    return sizes


@compiled
def missed(gap: Array, sizes: Array) -> float:
    """The greatest part of its size that a state misses by; one that becomes nothing counts a little."""
    least, most = 1e-6 * sizes.max() + 1e-30, 0.0
    for i in range(len(gap)):
        part = abs(gap[i]) / max(sizes[i], least)
        if not part <= most:
            most = part
    return most


@compiled
def _stepped(plan: Plan, turned: Array, hangs: Array, gap: Array, sizes: Array, turning: bool) -> Array:
    """Newton's step from a run that misses its beginning by `gap`; shortened where it would take a capacitor further than it can be believed, if anything turns of itself.

    One that nothing feeds at this state hardly hangs on where it stood: the step would be without bounds.
    """
    n = len(gap)
    step = nearest(np.eye(n) - product(turned, hangs[:n]), gap)
    if not turning:
        return step
    furthest = stands = 0.0
    for i in range(n):
        if plan.net.holding[i]:
            furthest, stands = max(furthest, abs(step[i])), max(stands, sizes[i])
    if furthest > FURTHEST * stands > 0.0:
        return step * (FURTHEST * stands / furthest)
    return step


@compiled
def sought(
    plan: Plan, table: Table, way: Way, trace: Trace, start: Array, drive: Array, turned: Array, warm: int, enough: float, again: bool
) -> tuple[int, Array, Array, Array, Array, float]:
    """A state that, `turned`, stands at its end again but for `enough`: how it ended, the state with Newton's last step, the begin and end of the run that it was found by, what that hangs on, and when it stopped.

    The run itself is in `trace`; `again` has it made once more from the state with Newton's last step. Before Newton begins it is marched `warm` times as it comes, where anything turns of itself.
    """
    n, size = len(start), len(start) + len(drive)
    x, best, full, begin = start.copy(), start.copy(), np.zeros(n), np.empty(size)
    end, hangs, from_start = np.empty(size), np.empty((size, n)), np.eye(size)[:, :n].copy()
    least, share, near, steps, turning = np.inf, 1.0, 0, 0, table.against.shape[1] > 0
    waits = warm if turning else 0
    while steps < MOST_STEPS:
        begin[:n], begin[n:] = x, drive
        how, end, hangs, _, now = marched(plan, table, way, trace, begin.copy(), from_start.copy(), 0)
        if how != DONE:
            return how, x, begin, end, hangs, now
        back = applied(turned, end[:n])
        if waits > 0:
            waits -= 1
            x = back
            if waits == 0:
                best = back
            continue
        steps += 1
        gap, sizes = back - x, sizes_of(trace, n)
        error = missed(gap, sizes)
        if error < THROWN * least:
            least = min(error, least)
            best, share = x, 1.0
            full = _stepped(plan, turned, hangs, gap, sizes, turning)
            if error <= enough and (near == REFINED or missed(full, sizes) <= max(enough, NEAR)):
                if again:
                    begin[:n] = x + full
                    how, end, hangs, _, now = marched(plan, table, way, trace, begin.copy(), from_start.copy(), 0)
                    return how, begin[:n].copy(), begin, end, hangs, now
                return DONE, x + full, begin, end, hangs, now
            near += int(error <= enough)
        elif share > SHORTEST:
            # Others conduct there: half of the way.
            share /= 2
        else:
            # Thrown off: go on from the best so far, as the circuit itself would.
            least, share, full = np.inf, 1.0, np.zeros(n)
            x, waits = best, 2
            continue
        if np.isfinite(full).all():
            x = best + share * full
        else:
            x, waits = best, 1
    return NOWHERE, x, begin, end, hangs, now
