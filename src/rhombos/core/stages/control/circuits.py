"""The circuits of a bootstrap and of a gate."""

from rhombos.core.circuit.schematic import Course, Part, Schematic, Worked
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.control.bootstrap import bootstrap
from rhombos.core.stages.control.gate_drive import gate_drive

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


gate_drive.draw(
    Schematic(
        (
            Part("source", "driver", (0, 0), (0, 6), ("gate_on_voltage",), order="Gate driver", checks=("gate_window", "fully_on", "driver_current")),
            Part("resistor", "driver_resistance", (0, 0), (3, 0), ("driver_resistance",), "Driver's own"),
            Part("resistor", "on", (3, 0), (7, 0), ("gate_resistor_on",), "On", order="Gate resistor, on", checks=("miller", "resistor_heat")),
            Part("resistor", "off", (7, -2.5), (5, -2.5), ("gate_resistor_off",), "Off", order="Gate resistor, off", checks=("dead_time",)),
            Part("diode", "off_diode", (5, -2.5), (3, -2.5), (SLOPE,), "Off diode", forward=0.4),
            Part("resistor", "pull_down", (7, 0), (7, 6), ("pull_down",), order="Gate pull-down", checks=("pull_down",)),
            Part("resistor", "gate_resistance", (7, 0), (11, 0), ("switch_internal_gate_resistance",), "In the gate", neighbour=True),
            Part(
                "capacitor",
                "gate",
                (11, 0),
                (11, 6),
                (Worked(("switch_gate_charge", "switch_charge_voltage"), lambda q, v: q / v),),
                "Gate, mean",
                neighbour=True,
            ),
        ),
        (((3, 0), (3, -2.5)), ((7, -2.5), (7, 0)), ((0, 6), (11, 6))),
        ((0, 6),),
        {"driver": (3, 0), "leg": (7, 0), "gate": (11, 0)},
    )
)


@gate_drive.look("On and off", "v gate", "v leg", "i gate_resistance")
def edges(seen: Seen) -> Course:
    """The driver up and down again; the gate is its charge over its volts, without the plateau while the drain moves."""
    charge = seen.at("switch_gate_charge") / seen.at("switch_charge_voltage")
    path = seen.at("driver_resistance") + seen.at("gate_resistor_on") + seen.at("switch_internal_gate_resistance")
    seconds = 12 * charge * path
    return Course(2 * seconds, (Event(0.0, {}, {"driver": seen.at("gate_on_voltage")}), Event(seconds, {}, {"driver": 0.0})))
