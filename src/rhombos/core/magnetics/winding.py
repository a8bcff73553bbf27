"""Alternating-current resistance of layered windings (Dowell) for the pulse currents of a driven transformer."""

from typing import Any

import numpy as np

from rhombos.core.formulas.functions import dowell

HARMONICS = 32


def _bare(x: Any) -> Any:
    return getattr(x, "magnitude", x)


def pulse_factor(xi: Any, layers: Any, duty: Any, edge: Any, alternating: Any) -> Any:
    """Effective resistance over DC resistance for a pulse train, summed over 32 harmonics with F(ξ·√n).

    `duty` is the fraction of the period that one pulse takes, `edge` the edge time over the period. A one-sided
    train (`alternating` 0) has a direct part (F = 1); an alternating one (1) has a pulse of either sign and odd
    harmonics only. Harmonic n has the power 2·(sin(π·n·d)/(π·n))²·sinc²(n·e), written with cos(2π·n·d); an odd one
    of an alternating train four times that. What lies above the 32nd is counted with the last factor: a trapezoid
    whose flanks take `edge`, half height `duty` apart, has the mean square duty − edge/3.
    """
    xi, layers, alt = _bare(xi), _bare(layers), _bare(alternating)
    d = np.minimum(_bare(duty), 0.4999)
    edge = np.minimum(np.maximum(_bare(edge), 1e-9), d)
    angle, width = 2 * np.pi * d, np.pi * edge
    cosines = _multiples(0 * d + 1, np.cos(angle), np.cos(angle))
    sines = _multiples(0 * edge, np.sin(width), np.cos(width))
    mean, rms = (1 - alt) * d * d, (1 + alt) * (d - edge / 3)
    final = dowell(xi * HARMONICS**0.5, layers)
    # All power with the last factor, then each harmonic's difference.
    rest = 0 * d
    for n in range(1, HARMONICS + 1):
        weight = (1 + 3 * alt if n % 2 else 1 - alt) / (np.pi * n) ** 4
        extra = weight * (dowell(xi * n**0.5, layers) - final)
        rest = rest + extra * (sines[n] * sines[n] * (1 - cosines[n]))
    return (mean + (rms - mean) * final + rest / (edge * edge)) / rms


def _multiples(zeroth: Any, first: Any, cosine: Any) -> list[Any]:
    """Cos or sin of n·a for n from 0 to the last harmonic, from the first two, by x_{n+1} = 2·cos a·x_n − x_{n−1} (Chebyshev)."""
    values = [zeroth, first]
    for _ in range(HARMONICS - 1):
        values.append(2 * cosine * values[-1] - values[-2])
    return values


def core_loss_shape(alpha: Any, duty: Any) -> Any:
    """2·D·(1/D)^α of the improved Steinmetz integral for a flux that ramps during the duty `D` twice a period and rests between."""
    return 2 * duty * (1 / duty) ** alpha
