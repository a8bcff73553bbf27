"""How often a leg of a sine-PWM bridge commutates hard: where the choke's ripple does not reverse the current (4.2)."""

from collections.abc import Iterator
from itertools import pairwise
from typing import Any

import numpy as np

INTERVALS = 24
"""Pieces into which half an output period is cut; between their ends the current and the ripple are taken as straight."""


def hard_share(crest: Any, ripple: Any, cosine: Any, sine: Any, index: Any, unipolar: Any) -> Any:
    """Share (0 to 1) of carrier cycles in which a leg recovers a diode and charges the output capacitance, once each.

    `crest` Î of the sine current and `ripple` ΔI_pp at the worst duty in A, `cosine` and `sine` of the current's lag,
    `index` M, `unipolar` 1 or 0. In the carrier cycle at the angle θ the current is Î·sin(θ − φ) and its ripple is
    ΔI·4m(1 − m) (unipolar) or ΔI·(1 − m²) (bipolar) with m = M·|sin θ|; both edges of a leg are soft where half the
    ripple exceeds the current. The share of half a period is found piece by piece with straight crossings, so it is a
    continuous function of all its arguments.
    """
    tiny = 1e-12 * (crest + ripple)
    total: Any = 0.0
    for a, b in pairwise(_rooms(crest, ripple, cosine, sine, index, unipolar)):
        # Of a straight piece from a to b the part above nothing is (1 + (a + b)/(|a| + |b|))/2 where it crosses.
        total = total + (a + b) / (np.abs(a) + np.abs(b) + tiny)
    return 0.5 + total / (2 * INTERVALS)


def recovered_share(crest: Any, ripple: Any, cosine: Any, sine: Any, index: Any, unipolar: Any) -> Any:
    """Mean over all carrier cycles (0 to 1) of the root of the current that a leg recovers, over the root of `crest`.

    Arguments as above. In a hard cycle a diode recovers what the current is at its edge, the ripple's valley: |i| − ΔI/2; in a soft one none.
    Without ripple 0.763, the mean of the root of a sine. The root of each straight piece's mean stands for it: 0.002 off, 0.013 at most.
    """
    tiny = 1e-12 * (crest + ripple)
    total: Any = 0.0
    for a, b in pairwise(_rooms(crest, ripple, cosine, sine, index, unipolar)):
        total = total + np.sqrt(np.maximum(a + b, 0 * crest))
    return total / (INTERVALS * np.sqrt(2 * (crest + tiny)))


def _rooms(crest: Any, ripple: Any, cosine: Any, sine: Any, index: Any, unipolar: Any) -> Iterator[Any]:
    """By how much the sine's current exceeds half the ripple of its carrier cycle, at the ends of the pieces."""
    # The ripple at an angle is a parabola in |sin θ|: its three numbers are worked out once.
    level, rise, fall = (1 - unipolar) * ripple / 2, 2 * unipolar * index * ripple, (1 + 3 * unipolar) * index * index * ripple / 2
    along, across = cosine * crest, sine * crest
    for k in range(INTERVALS + 1):
        angle = np.pi * min(k, INTERVALS - k) / INTERVALS  # the same sine on both sides of the crest, to the last digit
        s, c = float(np.sin(angle)), float(np.cos(angle)) * (1 if 2 * k <= INTERVALS else -1)
        yield np.abs(s * along - c * across) - (level + s * rise - s * s * fall)
