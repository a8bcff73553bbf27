"""Copper, once for all stages: resistivity by temperature, density, and the field constant."""

import numpy as np

MU0 = 4e-7 * np.pi
"""Field constant, H/m."""
RHO_20 = 1.724e-8
"""Resistivity of annealed copper at 20 °C, Ω·m (IEC 60028)."""
TEMPERATURE_COEFFICIENT = 0.00393
"""Rise of the resistivity per kelvin, referred to 20 °C (IEC 60028)."""
DENSITY = 8960.0
"""kg/m³."""


def resistivity(celsius: float) -> float:
    """Resistivity of copper in Ω·m at a temperature in °C."""
    return RHO_20 * (1 + TEMPERATURE_COEFFICIENT * (celsius - 20))


RHO_70 = resistivity(70)
RHO_100 = resistivity(100)
