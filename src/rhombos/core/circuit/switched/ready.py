"""Compiles what marches through circuits, once on a machine: `python -m rhombos.core.circuit.switched.ready`, as the set-up does."""

from rhombos.core.circuit.network import Element
from rhombos.core.circuit.switched.elements import Diode, Sine, Switched
from rhombos.core.circuit.switched.march import march


def main() -> None:
    """March through a half-wave rectifier: whatever is compiled is asked for on the way."""
    parts = (Element("V", "mains", "a", "0"), Element("C", "c", "b", "0", 1e-3), Element("R", "load", "b", "0", 10.0))
    march(Switched(parts, diodes=(Diode("d", "a", "b", 0.7, 0.01),), sines={"mains": Sine(10.0, 50.0)}), [], 0.02)


if __name__ == "__main__":
    main()
