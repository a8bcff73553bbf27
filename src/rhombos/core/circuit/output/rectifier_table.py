"""How the table of `core/modulation/rectifier_factors.py` is made: `make table` prints it.

A rectifier's load of one watt at one volt behind a choke alone: its capacitor and the resistance in its way are those that the
scope gives it, so all that is left to choose is the choke's reactance over the load's own resistance, ω·L·P/V².
"""

from dataclasses import replace

import numpy as np

from rhombos.core.circuit.output.circuit import Filter
from rhombos.core.circuit.output.rectified import begun

VOLTAGE, FREQUENCY, POWER = 230.0, 50.0, 1000.0
"""Any would do but for the diodes' own volts."""
REACTANCES = (0.0, 0.001, 0.002, 0.004, 0.007, 0.012, 0.02, 0.03, 0.045, 0.07, 0.1, 0.15, 0.22, 0.32)
OPEN = 1e-12
"""F of a filter without capacitors: their reactance lies far above what matters here."""
ROUNDS = 12


def factors(reactance: float) -> tuple[float, float]:
    """Crest factor and power factor of the current at one reactance, watts and volts at the load as they are to be."""
    inductance = max(reactance, 1e-5) * VOLTAGE**2 / POWER / (2 * np.pi * FREQUENCY)
    of = begun(Filter(inductance, 1e-3, OPEN, OPEN, 1e9), POWER, VOLTAGE, FREQUENCY, harmonics=(np.sqrt(2) * VOLTAGE, 0j, 0j))
    for _ in range(ROUNDS):
        of = replace(of.at_watts(), harmonics=(of.harmonics[0] * VOLTAGE / of.drawn().volts, 0j, 0j))
    return of.drawn().crest_factor, of.drawn().power_factor


def main() -> None:
    """Print the table as it stands in the module."""
    rows = [(x, *factors(x)) for x in REACTANCES]
    for name, k in (("REACTANCES", 0), ("CREST_FACTORS", 1), ("POWER_FACTORS", 2)):
        print(f"{name} = np.array([{', '.join(f'{r[k]:.4g}' for r in rows)}])")


if __name__ == "__main__":
    main()
