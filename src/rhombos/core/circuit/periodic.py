"""Exact periodic steady state of a linear circuit driven by a stepped voltage.

Between edges the solution is known in closed form in the circuit's own modes; over one period the states must repeat,
which gives the starting state directly: no transient is waited for.
"""

from dataclasses import dataclass
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

from rhombos.core.circuit.network import StateSpace
from rhombos.core.modulation.sine_pwm import Edges

Array = NDArray[np.float64]
GROWTH = 300.0
"""Exponent up to which one block may grow: far below overflow."""


@dataclass(frozen=True)
class Steady:
    """States at the asked times, shaped (states, times)."""

    times: Array
    states: Array
    level: Array


def steady_state(system: StateSpace, edges: Edges, times: Array) -> Steady:
    """States at `times` (ascending, within one period) in periodic steady state.

    In modal coordinates z' = λ·z + β·u the step over an interval is z → e^(λ·h)·z + (e^(λ·h) − 1)/λ·β·u. All steps of
    a block are taken at once: z_k = e^(λ·t_k)·(z_0 + Σ e^(−λ·t_j)·c_j), blocks short enough that nothing overflows.
    """
    eigenvalues, vectors = np.linalg.eig(system.a)
    drive = np.linalg.solve(vectors, system.b[:, 0].astype(complex))
    merged, levels, where = _merge(edges, times)
    states = np.zeros((len(eigenvalues), len(times)))
    for k, value in enumerate(eigenvalues):
        if value.imag < 0:
            continue  # the other of a conjugate pair: it adds the complex conjugate, so the real part counts twice
        if value.imag > 0:
            z = _mode(value, drive[k], merged, levels, edges.period)[where]
            states += 2 * (np.outer(vectors[:, k].real, z.real) - np.outer(vectors[:, k].imag, z.imag))
        else:
            states += np.outer(vectors[:, k].real, _mode(value.real, drive[k].real, merged, levels, edges.period)[where])
    at = np.searchsorted(edges.times, times, side="right")
    level = np.concatenate([[edges.start], edges.levels])[at]
    return Steady(times, states, level)


def _merge(edges: Edges, times: Array) -> tuple[Array, Array, NDArray[np.intp]]:
    """Edges and asked times in one ascending list from 0 to the period; the level that holds after each; where the asked are."""
    every = np.concatenate([[0.0], edges.times, times, [edges.period]])
    order = np.argsort(every, kind="stable")
    merged = every[order]
    place = np.empty(len(order), dtype=np.intp)
    place[order] = np.arange(len(order))
    is_edge = (order >= 1) & (order <= len(edges.times))
    levels = np.concatenate([[edges.start], edges.levels])[np.cumsum(is_edge)]
    return merged, levels, place[1 + len(edges.times) : -1]


def _mode(value: complex | float, drive: complex | float, merged: Array, levels: Array, period: float) -> NDArray[Any]:
    """One modal state at every merged time, repeating over the period."""
    blocks = max(1, int(np.ceil(abs(np.real(value)) * period / GROWTH)))
    bounds = np.searchsorted(merged, np.linspace(0, period, blocks + 1)[1:-1])
    starts = [0, *[int(b) for b in bounds], len(merged) - 1]
    z = np.zeros(len(merged), dtype=np.result_type(type(value), float))
    decay = np.ones_like(z)
    for first, last in pairwise(starts):
        if last <= first:
            continue
        growth = np.exp(value * (merged[first : last + 1] - merged[first]))
        # Over one interval: z → e^(λ·h)·z + (e^(λ·h) − 1)/λ·β·u, divided by the growth since the block began.
        inverse = 1 / growth
        inflow = (inverse[:-1] - inverse[1:]) * levels[first:last]
        z[first + 1 : last + 1] = growth[1:] * (z[first] + (drive / value) * np.cumsum(inflow))
        decay[first + 1 : last + 1] = growth[1:] * decay[first]
    # z now holds the response from rest; the repeating solution adds z_0·e^(λ·t) with z_0 = z(T)/(1 − e^(λ·T)).
    start = z[-1] / -np.expm1(value * period)
    repeating: NDArray[Any] = z + start * decay
    return repeating
