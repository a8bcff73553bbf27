"""Junction temperature of a switch whose on-resistance rises with it: the closed form of 4.2 and 4.3, and 4.4 for a surge.

Loss is linear in temperature, so the loop T → R(T) → P → T has a closed solution; where the denominator is not
positive there is none: thermal runaway.
"""

from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import bounded, known

T25 = 298.15
HOTTEST = 2.5
"""Times the absolute base temperature: no guess is followed beyond (some 800 K)."""


def loss_at(temperature: Any, fixed_loss: Any, conduction_25: Any, coefficient: Any) -> Any:
    """Loss of one device in W: `fixed_loss` plus conduction loss at 25 °C scaled to `temperature` (K)."""
    return fixed_loss + conduction_25 * (1 + coefficient * (temperature - T25_like(temperature)))


def T25_like(temperature: Any) -> Any:
    """25 °C in kelvin, carrying the unit of `temperature` when units are proved."""
    return type(temperature)(T25, temperature.units) if hasattr(temperature, "magnitude") else T25


def settle(base: Any, resistance: Any, fixed_loss: Any, conduction_25: Any, coefficient: Any) -> Any:
    """T = base + R·P(T) solved for T in K; unbounded (infinite) where conduction outruns cooling."""
    gain = resistance * conduction_25 * coefficient
    top = base + resistance * (fixed_loss + conduction_25 * (1 - coefficient * T25_like(base)))
    return bounded(_closed(top, gain), HOTTEST * base)


def _closed(open_: Any, gain: Any) -> Any:
    """The loop's end, unbounded where each kelvin adds more than one; unknown where the gain is."""
    return np.where(gain >= 1, np.inf * _one(open_), open_ / np.where(gain < 1, 1 - gain, np.nan))


def _one(like: Any) -> Any:
    """One of the unit of `like`, where units are proved."""
    return type(like)(1.0, like.units) if hasattr(like, "magnitude") else 1.0


def surge_resistance(seconds: Any, junction: Any, junction_time: Any, pad: Any, pad_time: Any, per_second: Any) -> Any:
    """Rise per watt in K/W that `seconds` of more loss add to one device: junction, pad and sink, by superposition (4.4).

    Heat spreads into a chip and its case as into a solid, by the root of time until the whole resistance is reached; the
    pad settles exponentially; the sink warms by `per_second` (K/J, all devices together) and gives nothing off meanwhile.
    """
    chip = junction * np.sqrt(np.minimum(seconds / junction_time, 1.0))
    return chip + pad * (1 - np.exp(-seconds / pad_time)) + per_second * seconds


def state_of(
    ambient: Any, surge: Any, loss_before: Any, lasting: Any, transient: Any, fixed_loss: Any, conduction_25: Any, coefficient: Any
) -> tuple[Any, Any]:
    """Junction temperature in K, lasting (4.3) or at a start's end (4.4), and the loop's gain.

    `lasting` and `transient` are the thermal resistances (K/W) of a loss that lasts and of one added for the start's
    seconds: T = T_before + Z·(P(T) − P_before), with T_before = ambient + R·P_before. Never colder than before.
    """
    resistance = lasting + surge * (transient - lasting)
    base = ambient + surge * loss_before * (lasting - transient)
    gain = resistance * (conduction_25 * coefficient)
    value = _closed(base + resistance * (fixed_loss + conduction_25 - conduction_25 * coefficient * T25_like(ambient)), gain)
    return bounded(value, HOTTEST * ambient), gain


def junction(*state: Any) -> Any:
    """Junction temperature in K (arguments of `state_of`), unknown where it runs away."""
    value, gain = state_of(*state)
    return known(gain < 1, value, "thermal runaway: each kelvin adds {gain} K by the rising on-resistance", gain=gain)
