"""Crest factor and power factor of a load with rectifier and capacitor behind an inverter's choke (1.1, 9.1), from the periodic solution.

A table over x = ω·L·P/V², the choke's reactance over the resistance that would draw the load's watts; the load's capacitor
holds 1 µF/W at 230 V, and 2 % of that resistance lie in its way. `make table` makes it anew.
"""

from typing import Any

import numpy as np

REACTANCES = np.array([0.0, 0.001, 0.002, 0.004, 0.007, 0.012, 0.02, 0.03, 0.045, 0.07, 0.1, 0.15, 0.22, 0.32])
CREST_FACTORS = np.array([2.782, 2.843, 2.853, 2.782, 2.667, 2.529, 2.386, 2.271, 2.156, 2.033, 1.936, 1.832, 1.737, 1.653])
POWER_FACTORS = np.array([0.6245, 0.6204, 0.6244, 0.6419, 0.6664, 0.6952, 0.7243, 0.747, 0.7681, 0.7883, 0.8021, 0.8132, 0.8211, 0.8284])


def crest_factor(reactance: Any) -> Any:
    """Peak over rms of the current at x; at the ends of the table as there."""
    return np.interp(reactance, REACTANCES, CREST_FACTORS)


def power_factor(reactance: Any) -> Any:
    """Watts over volt-amperes at x."""
    return np.interp(reactance, REACTANCES, POWER_FACTORS)
