"""The link capacitor beside the front end: who carries the double-frequency power of the bridge (6.5)."""

from typing import Any

import numpy as np


def carried_by_front(apparent: Any, volts: Any, resistance: Any, inductance: Any, frequency: Any, capacitance: Any) -> Any:
    """Amplitude in A of the current at twice the output `frequency` that a front end of `resistance` and `inductance` carries.

    The bridge takes `apparent`/`volts`; the rest flows in `capacitance`.
    """
    capacitor = 1 / (4 * np.pi * frequency * capacitance)
    reactance = 4 * np.pi * frequency * inductance - capacitor
    return apparent / volts * capacitor / np.sqrt(resistance**2 + reactance**2)
