"""Edge and delay times of a gate driven through a resistance (3.3) [Bal]."""

from typing import Any

import numpy as np

from rhombos.core.formulas.numeric import like, nearest_in

MINIMUM_EXTERNAL = 1.0
LEAST_ROOM = 0.02
"""Room above the plateau that a time is still given for, as a share of the level; whether the gate is fully on is judged apart."""


def plateau_voltage(threshold: Any, current: Any, transconductance: Any) -> Any:
    """Gate plateau V_pl = V_th + I/g_fs at the current of one device, in V."""
    return threshold + current / transconductance


def capacitance_above(gate_charge: Any, gate_drain_charge: Any, input_capacitance: Any, charge_voltage: Any, plateau: Any) -> Any:
    """Capacitance of the gate above the plateau in F, from the part's own charge curve.

    The curve rises with C_iss to the plateau, stays there for Q_gd, and reaches Q_g at the voltage that it is stated at:
    drain and source are together then, so more than C_iss acts.
    """
    rest = gate_charge - gate_drain_charge - input_capacitance * plateau
    room = np.maximum(charge_voltage - plateau, LEAST_ROOM * charge_voltage)
    return np.maximum(rest, 0 * rest) / room


def on_time(resistance: Any, input_capacitance: Any, gate_drain_charge: Any, on: Any, threshold: Any, plateau: Any) -> Any:
    """Current rise plus voltage fall at turn-on, in s."""
    room = np.maximum(on - plateau, LEAST_ROOM * on)
    return resistance * input_capacitance * np.log((on - threshold) / room) + gate_drain_charge * resistance / room


def off_time(resistance: Any, input_capacitance: Any, gate_drain_charge: Any, off: Any, threshold: Any, plateau: Any) -> Any:
    """Voltage rise plus current fall at turn-off, in s."""
    return gate_drain_charge * resistance / (plateau - off) + resistance * input_capacitance * np.log((plateau - off) / (threshold - off))


def fed(wanted: Any, least: Any) -> Any:
    """The preferred value nearest to a wanted external resistance in Ω, or the next one above what the driver needs, whichever is more."""
    return np.maximum(nearest_in("E24", "up")(np.maximum(least, like(MINIMUM_EXTERNAL, least))), nearest_in("E24")(wanted))


def external(wanted: Any, volts: Any, gate_drain_charge: Any, quantity: Any, driver: Any, internal: Any) -> Any:
    """External gate resistance in Ω for a wanted plateau time, R = t·V/Q_gd less driver and internal, never below 1 Ω."""
    return np.maximum(wanted * volts / gate_drain_charge - quantity * driver - internal, like(MINIMUM_EXTERNAL, internal))
