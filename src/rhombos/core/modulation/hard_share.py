"""How often a leg of a sine-PWM bridge commutates hard: where the choke's ripple does not reverse the current (4.2)."""

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
    # The ripple at an angle is a parabola in |sin θ|: its three numbers are worked out once.
    level, rise, fall = (1 - unipolar) * ripple / 2, 2 * unipolar * index * ripple, (1 + 3 * unipolar) * index * index * ripple / 2
    along, across = cosine * crest, sine * crest
    tiny = 1e-12 * (crest + ripple)
    total: Any = 0.0
    before: tuple[Any, Any] | None = None
    for k in range(INTERVALS + 1):
        angle = np.pi * min(k, INTERVALS - k) / INTERVALS  # the same sine on both sides of the crest, to the last digit
        s, c = float(np.sin(angle)), float(np.cos(angle)) * (1 if 2 * k <= INTERVALS else -1)
        room = np.abs(s * along - c * across) - (level + s * rise - s * s * fall)
        now = room, np.abs(room)
        if before is not None:
            # Of a straight piece from a to b the part above nothing is (1 + (a + b)/(|a| + |b|))/2 where it crosses.
            total = total + (before[0] + now[0]) / (before[1] + now[1] + tiny)
        before = now
    return 0.5 + total / (2 * INTERVALS)
