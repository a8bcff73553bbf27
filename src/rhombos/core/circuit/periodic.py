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

    In modal coordinates z' = λ·z + β·u, and from an edge on z(t) = z_∞ + e^(λ·h)·(z_e − z_∞) with z_∞ = −β·u/λ, h since
    the edge. The states at the edges come first; the asked times then hang on the edge before each.
    """
    eigenvalues, vectors = np.linalg.eig(system.a)
    drive = np.linalg.solve(vectors, system.b[:, 0].astype(complex))
    begins, levels = np.concatenate([[0.0], edges.times]), np.concatenate([[edges.start], edges.levels])
    at = np.searchsorted(edges.times, times, side="right")
    since = times - begins[at]
    rows, share = np.empty((len(eigenvalues), len(times))), np.empty((len(eigenvalues), len(eigenvalues)))
    for k, value in enumerate(eigenvalues):
        if value.imag < 0:
            continue  # the other of a conjugate pair: it adds the complex conjugate, so the real part counts twice
        lasting = -(drive[k] / value) * levels
        fade = np.exp(value.real * since)
        if value.imag == 0:
            decaying = _at_edges(value.real, lasting.real, begins, edges.period) - lasting.real
            rows[k] = lasting.real[at] + decaying[at] * fade
            share[:, k] = vectors[:, k].real
            continue
        # Real arithmetic throughout: NumPy's complex exponential costs several times its real ones.
        turn, slide = fade * np.cos(value.imag * since), fade * np.sin(value.imag * since)
        decaying = _at_edges(value, lasting, begins, edges.period) - lasting
        real, imaginary = decaying.real[at], decaying.imag[at]
        twin = int(np.argmin(np.abs(eigenvalues - value.conjugate())))
        rows[k] = lasting.real[at] + real * turn - imaginary * slide
        rows[twin] = lasting.imag[at] + real * slide + imaginary * turn
        share[:, k], share[:, twin] = 2 * vectors[:, k].real, -2 * vectors[:, k].imag
    return Steady(times, share @ rows, levels[at])


def _at_edges(value: complex, lasting: NDArray[Any], begins: Array, period: float) -> NDArray[Any]:
    """One modal state at the begin of every interval, repeating over the period; `lasting` is where each interval leads.

    All steps of a block are taken at once: z_k = e^(λ·t_k)·(z_0 + Σ e^(−λ·t_j)·c_j), blocks short enough that nothing
    overflows.
    """
    bounds = np.append(begins, period)
    blocks = max(1, int(np.ceil(abs(value.real) * period / GROWTH)))
    cuts = np.searchsorted(bounds, np.linspace(0, period, blocks + 1)[1:-1]).tolist() if blocks > 1 else []
    z = np.zeros(len(bounds), dtype=lasting.dtype)
    decay = np.ones(len(bounds), dtype=lasting.dtype)
    for first, last in pairwise([0, *cuts, len(bounds) - 1]):
        if last <= first:
            continue
        growth = np.exp(value * (bounds[first : last + 1] - bounds[first]))
        # Over one interval: z → e^(λ·h)·z + (1 − e^(λ·h))·z_∞, divided by the growth since the block began.
        inverse = 1 / growth
        inflow = (inverse[1:] - inverse[:-1]) * lasting[first:last]
        z[first + 1 : last + 1] = growth[1:] * (z[first] + np.cumsum(inflow))
        decay[first + 1 : last + 1] = growth[1:] * decay[first]
    # z now holds the response from rest; the repeating solution adds z_0·e^(λ·t) with z_0 = z(T)/(1 − e^(λ·T)).
    repeating: NDArray[Any] = z + z[-1] / -np.expm1(value * period) * decay
    return repeating[:-1]
