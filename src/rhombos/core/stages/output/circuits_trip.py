"""The circuit of the output trip: a dead short behind the choke, seen by the sensor, until the bridge is off."""

from rhombos.core.circuit.schematic import Course, Part, Schematic
from rhombos.core.circuit.switched.elements import Event
from rhombos.core.graph.pictures import Seen
from rhombos.core.stages.output.output_protection import output_protection

CONTACT, SENSOR, FORWARD = 2e-3, 1e-3, 0.9
"""Ω of closed contacts and of the sensor's path, V of the bridge's diodes."""

output_protection.draw(
    Schematic(
        (
            Part("source", "link", (0, 0), (0, 6), ("highest_link",), "Link, highest", neighbour=True),
            Part("switch", "bridge", (0, 0), (3, 0), (CONTACT,), "Bridge", neighbour=True, checks=("below_weakest",)),
            Part("diode", "freewheel", (3, 6), (3, 0), (CONTACT,), "Its diodes", forward=FORWARD, neighbour=True),
            Part("resistor", "sensor", (3, 0), (6, 0), (SENSOR,), "Current sensor", order="Current sensor", checks=("above_working",)),
            Part("inductor", "choke", (6, 0), (10, 0), ("lowest_inductance",), "Choke, lowest", neighbour=True, checks=("choke_slows",)),
            Part("switch", "relay", (10, 0), (13, 0), (CONTACT,), "Output relay", order="Output relay"),
            Part("resistor", "short", (13, 0), (13, 6), (CONTACT,), "Dead short", neighbour=True),
        ),
        (((0, 6), (13, 6)),),
        ((0, 6),),
        {"bridge": (3, 0), "out": (13, 0)},
    )
)


@output_protection.look("A dead short", "i choke", "v bridge")
def dead_short(seen: Seen) -> Course:
    """From no current, at the highest link and the lowest choke, to the trip level; sensing and drive take their time, then the current runs on in the diodes."""
    rises = seen.at("output_trip_level") * seen.at("lowest_inductance") / seen.at("highest_link")
    off = rises + seen.at("time_to_act")
    return Course(2 * off, (Event(0.0, {"bridge": True, "relay": True}), Event(off, {"bridge": False})), repeats=False)
