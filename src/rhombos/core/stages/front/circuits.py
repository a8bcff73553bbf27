"""The circuit of a drain's clamp."""

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.front.clamp import clamp

CONTACT, DROP, SLOPE = 1e-3, 0.8, 0.002
"""Ω of the switch, V and Ω of the clamp's diode: none of them is a figure."""

clamp.draw(
    Schematic(
        (
            Part("source", "winding", (0, 0), (0, 5), ("input_voltage",), "Winding", neighbour=True),
            Part("inductor", "leakage", (0, 0), (4, 0), ("leakage_inductance",), checks=("leakage_share",), neighbour=True),
            Part("switch", "switch", (4, 0), (4, 5), (CONTACT,), neighbour=True),
            Part("diode", "diode", (4, 0), (8, 0), (SLOPE,), "Clamp diode", forward=DROP, order="Clamp diode"),
            Part("capacitor", "capacitor", (8, 0), (8, 5), ("clamp_capacitor",), "Clamp capacitor", order="Clamp capacitor", checks=("clamp_room",)),
            Part("resistor", "resistor", (12, 0), (12, 5), ("clamp_resistor",), "Clamp resistor", order="Clamp resistor", checks=("clamp_resistor_power",)),
        ),
        (((8, 0), (12, 0)), ((0, 5), (12, 5))),
        ((0, 5),),
        {"drain": (4, 0), "clamp": (12, 0)},
    )
)


@clamp.look("Over a switching period", "v drain", "v clamp", "i diode", "i leakage")
def period(seen: Seen) -> Course:
    """One drain, volts from the rail: the leakage is charged to the current at the end of the pulse, then the winding holds the rail and the clamp takes it."""
    rail, peak, leakage = (seen.at(n) for n in ("input_voltage", "peak_current", "leakage_inductance"))
    seconds = 1 / seen.at("switching_frequency")
    return Course(seconds, (Event(0.0, {"switch": True}), Event(min(leakage * peak / rail, 0.9 * seconds), {"switch": False})))
