"""The circuit of a bootstrap."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.control.bootstrap import bootstrap

SLOPE = 0.5
"""Ω of the diode beyond its forward voltage."""
RAIL = 0.05
"""Ω between the switches and their rail."""

bootstrap.draw(
    Schematic(
        (
            Part("source", "supply", (0, 0), (0, 6), ("gate_on_voltage",), "Gate supply", neighbour=True),
            Part("resistor", "resistor", (0, 0), (3, 0), ("bootstrap_resistor",), order="Bootstrap resistor", checks=("refresh",)),
            Part("diode", "diode", (3, 0), (6, 0), (SLOPE,), forward="bootstrap_diode_voltage", order="Bootstrap diode"),
            Part(
                "capacitor",
                "capacitor",
                (6, 0),
                (6, 3),
                (Worked(("bootstrap_capacitor", "capacitance_derating"), lambda c, k: c / k),),
                "Capacitor, effective",
                order="Bootstrap capacitor",
                checks=("droop", "refresh"),
            ),
            Part("current", "gate", (10.5, 0), (10.5, 3), ("high_side_current",), "Gate and driver", neighbour=True),
            Part("switch", "low_side", (6, 3), (6, 6), (RAIL,), "Low side", neighbour=True),
            Part("switch", "high_side", (14, 3), (10.5, 3), (RAIL,), "High side", neighbour=True),
            Part("source", "rail", (14, 3), (14, 6), ("input_voltage",), neighbour=True),
        ),
        (((6, 0), (10.5, 0)), ((6, 3), (10.5, 3)), ((0, 6), (14, 6))),
        ((0, 6),),
        {"boost": (10.5, 0), "node": (6, 3)},
    )
)


@bootstrap.look("The longest cycle", "v capacitor", "i diode")
def longest(seen: Seen) -> Course:
    """The high side on for its longest, then the least low time; what gate, driver and pull-down take stands as its mean while it is on."""
    on, low = seen.at("longest_on_time"), seen.at("minimum_low_time")
    mean = seen.at("on_time_charge") / on
    turns = (Event(0.0, {"high_side": True, "low_side": False}, {"gate": mean}), Event(on, {"high_side": False, "low_side": True}, {"gate": 0.0}))
    return Course(on + low, turns)
