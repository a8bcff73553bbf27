"""Junction temperature of a switch whose on-resistance rises with it: the closed form of 4.2 and 4.3, and 4.4 for a surge.

Loss is linear in temperature, so the loop T → R(T) → P → T has a closed solution; where the denominator is not
positive there is none: thermal runaway.
"""

from typing import Any

import numpy as np

from rhombos.core.graph.numeric import before_surge, bounded, known

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
    return bounded(top / np.where(gain < 1, 1 - gain, np.nan), HOTTEST * base)


def surge_share(surge_time: Any, settling_time: Any) -> Any:
    """Transient over full thermal resistance of a short pulse: √(t/τ), heat spreading into a solid; 1 from τ on."""
    return np.sqrt(np.minimum(surge_time / settling_time, 1.0))


def temperature_and_gain(
    ambient: Any,
    surge: Any,
    steady_loss_before: Any,
    surge_time: Any,
    settling_time: Any,
    own_resistance: Any,
    sink_resistance: Any,
    sink_capacity: Any,
    devices: Any,
    fixed_loss: Any,
    conduction_25: Any,
    coefficient: Any,
) -> tuple[Any, Any]:
    """Junction temperature in K, lasting (4.3) or at the end of a surge from the lasting state (4.4), and the loop's gain."""
    # A surge of t seconds warms the sink by (P − P_0)·t/C from where P_0 left it; a lasting state sees the sink's resistance.
    warming = surge_time / sink_capacity
    base = ambient + surge * (devices * steady_loss_before * (sink_resistance - warming))
    own = own_resistance * (1 + surge * (surge_share(surge_time, settling_time) - 1))
    resistance = own + devices * (sink_resistance + surge * (warming - sink_resistance))
    gain = resistance * (conduction_25 * coefficient)
    value = (base + resistance * (fixed_loss + conduction_25 - conduction_25 * coefficient * T25_like(ambient))) / np.where(gain < 1, 1 - gain, np.nan)
    return bounded(value, HOTTEST * ambient), gain


def junction(*state: Any) -> Any:
    """Junction temperature in K (arguments of `temperature_and_gain`), unknown where it runs away."""
    value, gain = temperature_and_gain(*state)
    return known(gain < 1, value, "thermal runaway: each kelvin adds {gain} K by the rising on-resistance", gain=gain)


def own_rise(
    ambient: Any,
    surge: Any,
    surge_time: Any,
    settling_time: Any,
    own: Any,
    sink: Any,
    capacity: Any,
    devices: Any,
    fixed: Any,
    conduction_25: Any,
    coefficient: Any,
) -> Any:
    """Rise above ambient in K that a candidate's own loss gives, infinite where it runs away; surges start from its own lasting loss."""
    lasting = loss_at(settle(ambient, own + devices * sink, fixed, conduction_25, coefficient), fixed, conduction_25, coefficient)
    value, _ = temperature_and_gain(
        ambient, surge, before_surge(lasting), surge_time, settling_time, own, sink, capacity, devices, fixed, conduction_25, coefficient
    )
    return np.where(np.isnan(value) | (value < ambient), np.inf, value - ambient)
