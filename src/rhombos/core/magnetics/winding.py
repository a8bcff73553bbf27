"""Alternating-current resistance of layered windings (Dowell) for the pulse currents of a driven transformer."""

from functools import lru_cache
from typing import Any

import numpy as np

HARMONICS = np.arange(1, 33, dtype=float)
ROOTS = np.sqrt(HARMONICS)
TURNS = 2 * np.pi * HARMONICS
ODD = HARMONICS % 2 == 1


def _bare(x: Any) -> Any:
    return np.asarray(getattr(x, "magnitude", x), dtype=float)


def dowell(xi: Any, layers: Any) -> Any:
    """Resistance factor F of `layers` layers whose equivalent thickness is `xi` skin depths [Dow].

    F = ξ·[(sinh 2ξ + sin 2ξ)/(cosh 2ξ − cos 2ξ) + (2(m² − 1)/3)·(sinh ξ − sin ξ)/(cosh ξ + cos ξ)], 1 for ξ → 0.
    """
    x = np.minimum(_bare(xi), 300.0)
    m = _bare(layers)
    sh, ch, s, c = np.sinh(x), np.cosh(x), np.sin(x), np.cos(x)
    # With double angles: sinh 2ξ = 2·sh·ch, cosh 2ξ − cos 2ξ = 2·(sh² + s²).
    return x * ((sh * ch + s * c) / (sh * sh + s * s) + 2 * (m * m - 1) / 3 * (sh - s) / (ch + c))


def pulse_factor(xi: Any, layers: Any, duty: Any, edge: Any, alternating: Any) -> Any:
    """Effective resistance over DC resistance for a pulse train, summed over 32 harmonics with F(ξ·√n).

    `duty` is the fraction of the period that one pulse takes, `edge` the edge time over the period. A one-sided
    train (`alternating` 0) has a direct part (F = 1); an alternating one (1) has a pulse of either sign and odd
    harmonics only. Harmonic n has the power 2·(sin(π·n·d)/(π·n))²·sinc²(n·e), written with cos(2π·n·d); an odd one
    of an alternating train four times that. What lies above the 32nd is counted with the last factor.
    """
    d, alt = np.minimum(_bare(duty), 0.4999), _bare(alternating)
    angle = np.pi * HARMONICS * np.maximum(_bare(edge), 1e-9)[..., None]
    sinc = np.sin(angle) / angle
    share = _weights(alternating) * sinc * sinc * (1 - np.cos(TURNS * d[..., None]))
    factors = _factors(xi, layers)
    last = factors[..., -1]
    mean, rms = (1 - alt) * d * d, (1 + alt) * d
    return (mean + (share * (factors - last[..., None])).sum(axis=-1) + (rms - mean) * last) / rms


def _weights(alternating: Any) -> Any:
    """Power of each harmonic before duty and edge come in; a winding's is always the same, so it is remembered."""
    if type(alternating) is float:
        return _weights_of_one(alternating)
    return _weights_now(alternating)


@lru_cache(maxsize=4)
def _weights_of_one(alternating: float) -> Any:
    return _weights_now(alternating)


def _weights_now(alternating: Any) -> Any:
    alt = _bare(alternating)[..., None]
    return np.where(ODD, 1 + 3 * alt, 1 - alt) / (np.pi * HARMONICS) ** 2


def _factors(xi: Any, layers: Any) -> Any:
    """F(ξ·√n) of the 32 harmonics. A wound coil asks for the same ones in every pass, so single coils are remembered."""
    if type(xi) is float and type(layers) is float:
        return _factors_of_one(xi, layers)
    return dowell(_bare(xi)[..., None] * ROOTS, _bare(layers)[..., None])


@lru_cache(maxsize=512)
def _factors_of_one(xi: float, layers: float) -> Any:
    return dowell(xi * ROOTS, layers)


def core_loss_shape(alpha: Any, duty: Any) -> Any:
    """2·D·(1/D)^α of the improved Steinmetz integral for a flux that ramps during the duty `D` twice a period and rests between."""
    return 2 * duty * (1 / duty) ** alpha
