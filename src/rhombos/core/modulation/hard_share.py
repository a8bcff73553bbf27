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
    tiny = 1e-12 * (crest + ripple)
    total: Any = 0.0
    before = None
    for k in range(INTERVALS + 1):
        angle = np.pi * k / INTERVALS
        s, c = float(np.sin(angle)), float(np.cos(angle))
        m = index * abs(s)
        shape = unipolar * (4 * m * (1 - m)) + (1 - unipolar) * (1 - m * m)
        room = np.abs(s * cosine - c * sine) * crest - shape * ripple / 2
        if before is not None:
            above = np.maximum(before, 0 * before) + np.maximum(room, 0 * room)
            total = total + above / (np.abs(before) + np.abs(room) + tiny)
        before = room
    return total / INTERVALS
