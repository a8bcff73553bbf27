"""Alternating-current resistance of layered windings (Dowell) for the pulse currents of a driven transformer."""

from typing import Any

import numpy as np

HARMONICS = np.arange(1, 41, dtype=float)


def _bare(x: Any) -> Any:
    return np.asarray(getattr(x, "magnitude", x), dtype=float)


def dowell(xi: Any, layers: Any) -> Any:
    """Resistance factor F of `layers` layers whose equivalent thickness is `xi` skin depths [Dow].

    F = ξ·[(sinh 2ξ + sin 2ξ)/(cosh 2ξ − cos 2ξ) + (2(m² − 1)/3)·(sinh ξ − sin ξ)/(cosh ξ + cos ξ)], 1 for ξ → 0.
    """
    x = np.minimum(_bare(xi), 300.0)
    m = _bare(layers)
    skin = (np.sinh(2 * x) + np.sin(2 * x)) / (np.cosh(2 * x) - np.cos(2 * x))
    proximity = (np.sinh(x) - np.sin(x)) / (np.cosh(x) + np.cos(x))
    return x * (skin + 2 * (m**2 - 1) / 3 * proximity)


def pulse_factor(xi: Any, layers: Any, duty: Any, edge: Any, *, alternating: bool) -> Any:
    """Effective resistance over DC resistance for a pulse train, summed over 40 harmonics with F(ξ·√n).

    `duty` is the fraction of the period that one pulse takes, `edge` the edge time over the period. A one-sided
    train has a direct part (F = 1); an alternating one has a positive and a negative pulse and odd harmonics only.
    """
    d = np.clip(_bare(duty), 1e-6, 0.999999 if not alternating else 0.5)
    e = _bare(edge)
    axes = max(d.ndim, _bare(xi).ndim, _bare(layers).ndim, e.ndim)
    n = HARMONICS.reshape(-1, *([1] * axes))
    factors = dowell(_bare(xi) * np.sqrt(n), layers)
    amplitude = np.sin(np.pi * n * d) / (np.pi * n) * np.sinc(n * e)
    if alternating:
        weight = np.where(n % 2 == 1, 8 * amplitude**2, 0.0)
        mean = 0.0
    else:
        weight = 2 * amplitude**2
        mean = d**2
    rms = (2 * d if alternating else d)
    return (mean + np.sum(weight * factors, axis=0) + np.maximum(rms - mean - np.sum(weight, axis=0), 0) * factors[-1]) / rms


def core_loss_shape(alpha: Any, duty: Any) -> Any:
    """2·D·(1/D)^α of the improved Steinmetz integral for a flux that ramps during the duty `D` twice a period and rests between."""
    return 2 * duty * (1 / duty) ** alpha
