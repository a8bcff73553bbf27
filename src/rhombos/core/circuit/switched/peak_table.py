"""How the tables of `core/modulation/peak_factors.py` are made: `make table` prints them.

A source behind a resistance and an inductance charges a capacitor through a diode, on for one second at a time; between its
pulses it stands the other way round, as a winding does that feeds its current back. The capacitor feeds a constant current. The
source's volts are so high that all else is none of them: what is left to choose is R·t/L, t/√(L·C) and the share of time in which
the source is on.
"""

import numpy as np

from rhombos.core.circuit.network import Element
from rhombos.core.circuit.switched.elements import Diode, Event, Switched
from rhombos.core.circuit.switched.modes import Modes
from rhombos.core.circuit.switched.repeat import repeat
from rhombos.core.modulation.peak_factors import DECAYS, DUTIES, RINGS

VOLTS = 1e4
NONE = 0.08
"""Of t/√(L·C): a capacitor so great that its volts stand still."""


def factors(decay: float, ring: float, duty: float) -> tuple[float, float, float]:
    """Peak and rms of the current while the source is on, over its mean there, and the volts lost over mean · (R + 2·L/t)."""
    inductance = 1 / decay
    capacitance = 1 / (max(ring, NONE) ** 2 * inductance)
    circuit = Switched(
        (
            Element("V", "source", "source", "0", VOLTS),
            Element("R", "resistance", "source", "coil", 1.0),
            Element("L", "leakage", "coil", "diode", inductance),
            Element("C", "link", "link", "0", capacitance),
            Element("I", "load", "link", "0", duty),
        ),
        (),
        (Diode("diode", "diode", "link", 0.0, 1e-4, 1e9),),
    )
    events = (Event(0.0, levels={"source": VOLTS}), Event(1.0, levels={"source": -VOLTS}))
    run = repeat(circuit, events, 1 / duty, np.array([0.0, VOLTS - 1]))

    def current(modes: Modes) -> np.ndarray:
        return np.array([modes.branches["leakage"]])

    mean_volts = float(run.means(lambda modes: np.array([modes.nodes["link"]]))[0])
    peak = float(run.current("leakage", run.times(4000)).max())
    return peak, float(run.effective(current)[0]) / np.sqrt(duty), (VOLTS - mean_volts) / (1 + 2 / decay)


def main() -> None:
    """Print the tables as they stand in the module."""
    made = np.array([[[factors(x, y, d) for x in DECAYS] for y in RINGS] for d in DUTIES])
    for k, name in enumerate(("PEAKS", "EFFECTIVE", "DROPS")):
        print(f"{name} = np.array(\n    [")
        for duty in made[..., k]:
            print("        [\n" + "".join(f"            [{', '.join(f'{v:.4g}' for v in row)}],\n" for row in duty) + "        ],")
        print("    ]\n)")


if __name__ == "__main__":
    main()
